"""What is kept from plan to plan: lines that a crash cannot spoil, practice, own times, the index over all plans."""

from __future__ import annotations

import json
import os
import shutil
import sqlite3
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from dataclasses import asdict, replace
from pathlib import Path

import pytest
from tests.conftest import NOON

from mild_compass.craft.practice.history import Answered
from mild_compass.craft.work.own_times import TimedStep
from mild_compass.memory.lines import LineFile
from mild_compass.memory.own_times import TimesFile
from mild_compass.memory.plan_index import PlanIndex, wrong_in
from mild_compass.memory.practice import PracticeFile, as_csv
from mild_compass.plan import archive
from mild_compass.plan.edits.departures import add_departure, settle_departure
from mild_compass.plan.edits.logbook import add_note, say_what_came
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Plan
from mild_compass.plan.record import CameOut
from mild_compass.plan.study import Departure

ANSWER = Answered("a1", NOON, "halve", -1.25, True, 8.0, 3.5)


# -- lines ----------------------------------------------------------------------------------------------------


def test_a_line_cut_off_by_a_crash_spoils_no_other(tmp_path):
    file = LineFile(tmp_path / "deep" / "lines.jsonl")
    assert file.records() == []
    file.add({"n": 1})
    whole = file.path.read_bytes()
    for cut in range(1, len(whole)):
        file.path.write_bytes(whole + whole[:cut])
        file.add({"n": 3})
        assert [each["n"] for each in file.records()] in ([1, 3], [1, 1, 3])


def test_what_is_no_record_is_passed_over_and_never_written_over(tmp_path):
    path = tmp_path / "lines.jsonl"
    rubbish = b'{"n": 1}\n\xff\xfe nonsense\n[1, 2]\n' + b"[" * 5000 + b'\n{"n": 2}\n'
    path.write_bytes(rubbish)
    file = LineFile(path)
    file.add({"n": 3})
    assert [each["n"] for each in file.records()] == [1, 2, 3]
    assert path.read_bytes().startswith(rubbish)


def test_killed_in_the_middle_of_writing_every_line_that_counted_is_there(tmp_path):
    """A process writes and is killed; what it had told as written is read back."""
    path = tmp_path / "lines.jsonl"
    code = (
        "import sys\nfrom pathlib import Path\nfrom mild_compass.memory.lines import LineFile\n"
        f"file = LineFile(Path({str(path)!r}))\n"
        "for n in range(100000):\n    file.add({'n': n, 'text': 'x' * 200})\n    print(n, flush=True)\n"
    )
    for _ in range(3):
        with subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True) as process:
            told = [int(process.stdout.readline()) for _ in range(20)]
            process.kill()
            rest = process.stdout.read().split()
        last = int(rest[-1]) if rest else told[-1]
        numbers = [each["n"] for each in LineFile(path).records()]
        assert set(range(last + 1)) <= set(numbers[-(last + 2) :])


def test_a_disk_that_refuses_is_told_in_a_sentence(tmp_path):
    (tmp_path / "file").write_text("")
    with pytest.raises(PlanError, match="still there"):
        LineFile(tmp_path / "file" / "lines.jsonl").add({"n": 1})


# -- practice and own times -----------------------------------------------------------------------------------


def test_answers_are_kept_and_struck_out_and_bad_ones_are_passed_over(tmp_path):
    file = PracticeFile(tmp_path / "practice.jsonl")
    file.add(ANSWER)
    file.add(replace(ANSWER, id="a2", drill="lighter", error=None))
    file.add(replace(ANSWER, id="a3", error=30.0))
    file.strike("a3")
    lines = LineFile(tmp_path / "practice.jsonl")
    whole = asdict(ANSWER)
    for bad in ({"id": "b"}, {"drill": 7}, {"strike": 5}, {**whole, "drill": "sorcery"}, {**whole, "right": "yes"}):
        lines.add(bad)
    assert [each.id for each in file.history().answers] == ["a1", "a2"]
    rows = as_csv(file.history()).splitlines()
    assert rows[0].startswith("time,drill,unit,error")
    assert rows[1] == f"{NOON},Halve a line,mm,-1.250,yes,8.000,3.5,no"
    assert rows[2].split(",")[3] == ""


def test_the_last_time_of_a_step_counts_and_one_not_done_after_all_does_not(tmp_path):
    file = TimesFile(tmp_path / "times.jsonl")
    for n, ratio in enumerate((1.0, 2.0, 3.0)):
        file.add(f"s{n}", TimedStep("washes", "wash", 30 * ratio, 30))
    file.add("s0", TimedStep("washes", "wash", 60, 30))
    assert file.own_times().pace("washes", "wash").middle == 2.0
    file.strike("s2")
    assert not file.own_times().pace("washes", "wash").own
    LineFile(tmp_path / "times.jsonl").add(
        {"mark": "x", "medium": "washes", "kind": "wash", "minutes": -1, "given_min": 3}
    )
    assert len(file.own_times().steps) == 2


# -- the index over all plans ---------------------------------------------------------------------------------


@pytest.fixture
def folder(tmp_path, plan, photos) -> Path:
    """Three plans, one of them below, one that is no plan."""
    home = tmp_path / "plans"
    (home / "below").mkdir(parents=True)
    for name, note in (("quay", "The café wall is too light."), ("below/mill", "The wheel was drawn too small.")):
        told = add_note(note, "values", NOON).apply(replace(plan, name=name), NOON)
        archive.write(home / f"{name}.mildplan", told, photos, None)
    (home / "broken.mildplan").write_bytes(b"nothing")
    return home


@pytest.fixture
def index(tmp_path) -> PlanIndex:
    return PlanIndex(tmp_path / "cache" / "plans.sqlite")


def found(index: PlanIndex, words: str) -> list[str]:
    return [hit.text for hit in index.search(words)]


def test_all_plans_of_a_folder_are_found_by_beginnings_of_words_whatever_the_accents(folder, index):
    renewed = index.renew([folder])
    assert (renewed.plans, renewed.read, len(renewed.problems)) == (3, 3, 1)
    assert "broken.mildplan" in renewed.problems[0]
    assert found(index, "cafe wal") == ["The café wall is too light."]
    assert found(index, "WHEEL small") == ["The wheel was drawn too small."]
    assert found(index, "wheel light") == []
    assert found(index, "   ") == found(index, "***") == []
    hit = index.search("wheel")[0]
    assert (hit.plan, hit.station, hit.kind, Path(hit.path).name) == ("below/mill", "values", "note", "mill.mildplan")


@pytest.mark.parametrize(
    "words", ['"', "a OR b", "NEAR(x)", "text:wall", "wall*", "wall AND NOT x", "'; DROP TABLE plans"]
)
def test_signs_of_the_index_itself_mean_nothing(folder, index, words):
    index.renew([folder])
    index.search(words)
    assert found(index, "wheel") == ["The wheel was drawn too small."]


def test_only_what_has_changed_is_read_again_and_what_is_gone_is_forgotten(folder, index, plan, photos):
    index.renew([folder])
    assert index.renew([folder]).read == 0
    changed = add_note("A gull now.", "values", NOON).apply(plan, NOON)
    archive.write(folder / "quay.mildplan", changed, photos, None)
    assert index.renew([folder]).read == 1
    assert found(index, "gull") == ["A gull now."]
    assert found(index, "café") == []
    (folder / "below" / "mill.mildplan").unlink()
    assert index.renew([folder]).plans == 2
    assert found(index, "wheel") == []


def test_another_folder_does_not_make_the_first_forgotten_and_search_can_be_kept_to_one(folder, index):
    index.renew([folder])
    index.renew([folder / "below"])
    assert found(index, "café")
    assert [hit.plan for hit in index.search("too", [folder / "below"])] == ["below/mill"]


def test_a_damaged_index_is_made_again(folder, index):
    index.renew([folder])
    index.path.write_bytes(b"SQLite format 3\x00" + b"rubbish" * 400)
    assert index.renew([folder]).read == 3
    assert found(index, "wheel")
    with sqlite3.connect(index.path) as base:
        base.execute("PRAGMA user_version = 99")
    base.close()
    assert index.renew([folder]).read == 3


def test_an_index_that_cannot_be_read_just_now_is_not_thrown_away(folder, index, monkeypatch):
    index.renew([folder])
    whole = index.path.read_bytes()
    make = PlanIndex._made

    def hindered(_: PlanIndex) -> sqlite3.Connection:
        error = sqlite3.OperationalError("disk I/O error")
        error.sqlite_errorcode = sqlite3.SQLITE_IOERR_READ
        raise error

    monkeypatch.setattr(PlanIndex, "_made", hindered)
    with pytest.raises(PlanError, match="disk I/O error"):
        index.renew([folder])
    monkeypatch.setattr(PlanIndex, "_made", make)
    assert index.path.read_bytes() == whole
    assert index.renew([folder]).read == 0


def test_a_plan_whose_name_is_no_text_is_found_as_any_other(folder, index):
    odd = Path(os.fsdecode(os.fsencode(folder) + b"/m\xffll.mildplan"))
    index.renew([folder])
    shutil.copy(index.search("wheel")[0].path, odd)
    assert index.renew([folder]).read == 1
    assert index.renew([folder]).read == 0
    assert str(odd) in {hit.path for hit in index.search("wheel")}
    odd.write_bytes(b"PK")
    assert any("\\udcff" in problem for problem in index.renew([folder]).problems), "told in words that can be shown"
    odd.unlink()
    index.renew([folder])
    assert str(odd) not in {hit.path for hit in index.search("wheel")}


def test_two_windows_may_renew_the_index_at_once(folder, tmp_path):
    for attempt in range(8):
        path = tmp_path / f"shared-{attempt}.sqlite"
        with ThreadPoolExecutor(4) as threads:
            done = list(threads.map(lambda _, path=path: PlanIndex(path).renew([folder]), range(4)))
        assert {each.plans for each in done} == {done[0].plans}
        with closing(sqlite3.connect(path)) as base:
            held = base.execute("SELECT path, count(*) FROM lines GROUP BY path ORDER BY path").fetchall()
            ranges = base.execute("SELECT path, last - first + 1 FROM plans WHERE last >= first ORDER BY path")
            assert held == ranges.fetchall(), "no line is left that belongs to no plan"


def test_reading_can_be_called_off_and_what_was_read_stays(folder, index):
    calls = iter([None] * 4)  # two folders, and two plans in them

    def check() -> None:
        if next(calls, "stop") == "stop":
            raise InterruptedError

    with pytest.raises(InterruptedError):
        index.renew([folder], check)
    assert index.renew([folder]).read == 1


def test_what_went_otherwise_in_other_plans_is_known(folder, index, plan, photos):
    came = CameOut("study-1", "darks", "darks", "18 %", "26 %", "changed", "more", "thinner washes")
    other = say_what_came(came).apply(replace(plan, name="Mill"), NOON)
    archive.write(folder / "below" / "mill.mildplan", other, photos, None)
    index.renew([folder])
    assert [(each.plan, each.topic, each.way, each.learned) for each in index.wrong([folder])] == [
        ("Mill", "darks", "more", "thinner washes")
    ]
    assert index.wrong([folder], but=folder / "below" / "mill.mildplan") == ()


def test_a_departure_that_did_not_hold_is_something_that_went_otherwise(plan):
    tree = Departure("departure-1", "leave out", ((10, 10), (90, 10), (50, 80)), "the tree", "it hides the wall")
    plan = add_departure(tree).apply(plan, NOON)
    assert wrong_in(plan) == ()
    plan = settle_departure("departure-1", "dropped", "It filled the space better.").apply(plan, NOON)
    assert [(each.topic, each.planned) for each in wrong_in(plan)] == [("leave out", "leave out the tree")]


def test_the_command_line_searches_and_says_what_cannot_be_read(folder, tmp_path, monkeypatch, capsys):
    from mild_compass.cli import main

    for name in ("CACHE", "CONFIG"):
        monkeypatch.setenv(f"XDG_{name}_HOME", str(tmp_path / name))
    assert main(["search", "wheel", "--in", str(folder), "--json"]) == 0
    out, err = capsys.readouterr()
    assert json.loads(out)[0]["plan"] == "below/mill"
    assert "broken.mildplan" in err
    assert main(["search", "wheel"]) == 1
    assert main(["search", "wheel", "--in", str(tmp_path / "nowhere")]) == 1
    assert main(["search", "drawn", "small", "--in", str(folder)]) == 0
    assert "below/mill, 2026-05-01, values: The wheel" in capsys.readouterr().out


def test_an_empty_plan_is_indexed_and_finds_nothing(index, photos, tmp_path):
    home = tmp_path / "home"
    home.mkdir()
    archive.write(home / "empty.mildplan", Plan(), photos, None)
    assert index.renew([home]).plans == 1
    assert found(index, "anything") == []
