"""Requests of views, jobs, the journal: nothing asked for is lost, no answer lands in the wrong place."""

from __future__ import annotations

import json
import logging
from pathlib import Path
from threading import Event, Lock

import pytest
from pytestqt.qtbot import QtBot

from mild_compass.plan import archive, coding
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Plan
from mild_compass.plan.workspace import Claim, Workspace, leftovers
from mild_compass.studio.requests import heap
from mild_compass.studio.requests.jobs import CancelToken, Jobs
from mild_compass.studio.requests.journal import Journal
from mild_compass.studio.requests.owner import Owner
from mild_compass.studio.requests.superseding import LatestWins
from mild_compass.studio.requests.threads import Threads

HERE = Owner("workspace", "study-1", "photo-1")
SOON = 5000
EVERY_MARK = Path(__file__).parents[1] / "plan" / "saved" / "every-mark-2.mildplan"


class Gate:
    """Holds work up until it is opened, and counts who has come to it."""

    def __init__(self) -> None:
        self._open, self._lock, self.came = Event(), Lock(), 0

    def pass_through(self, *answer: object) -> object:
        with self._lock:
            self.came += 1
        assert self._open.wait(20)
        return answer[0] if answer else None

    def open(self) -> None:
        self._open.set()


@pytest.fixture
def gate():
    made = Gate()
    yield made
    made.open()


@pytest.fixture
def work():
    made = LatestWins(lambda: HERE)
    yield made
    made.close()


@pytest.fixture
def jobs():
    made = Jobs(lambda: HERE)
    yield made
    made.close(5.0)


# -- views ----------------------------------------------------------------------------------------------------


def test_only_the_newest_answer_of_a_kind_is_taken(qtbot: QtBot, work: LatestWins):
    taken: list[int] = []
    for number in range(20):
        work.latest("sum", HERE, sum, [number], then=taken.append, otherwise=taken.append)
    qtbot.waitUntil(lambda: work.idle, timeout=SOON)
    assert taken == [19]


def test_a_worker_that_fails_gives_a_sentence_and_its_traceback_goes_into_the_record(
    qtbot: QtBot, work: LatestWins, caplog
):
    said: list[PlanError] = []

    def broken() -> None:
        raise ZeroDivisionError("division by zero")

    with caplog.at_level(logging.ERROR, "mild_compass"):
        work.latest("x", HERE, broken, then=said.append, otherwise=said.append)
        qtbot.waitUntil(lambda: bool(said), timeout=SOON)
    assert isinstance(said[0], PlanError)
    assert "The plan is kept" in str(said[0])
    assert "ZeroDivisionError" in caplog.text
    assert "in broken" in caplog.text


def test_a_dropped_request_is_not_answered(qtbot: QtBot, work: LatestWins):
    taken: list[int] = []
    work.latest("sum", HERE, sum, [1], then=taken.append, otherwise=taken.append)
    work.drop("sum")
    work.latest("other", HERE, sum, [2], then=taken.append, otherwise=taken.append)
    qtbot.waitUntil(lambda: work.idle, timeout=SOON)
    assert taken == [2]


@pytest.mark.parametrize(
    ("owner", "taken"),
    [
        (HERE, True),
        (HERE.of_plan, True),
        (HERE.of_ground, True),
        (Owner("workspace", "study-2", "photo-1"), False),
        (Owner("workspace", "study-1", "photo-2"), False),
        (Owner("another", "study-1", "photo-1"), False),
    ],
)
def test_an_answer_is_taken_only_while_its_owner_is_in_hand(qtbot: QtBot, work: LatestWins, owner: Owner, taken: bool):
    answers: list[int] = []
    work.latest("sum", owner, sum, [1], then=answers.append, otherwise=answers.append)
    qtbot.waitUntil(lambda: work.idle, timeout=SOON)
    assert answers == [1] * taken


# -- jobs -----------------------------------------------------------------------------------------------------


def test_two_files_asked_for_while_everything_is_busy_are_both_written(qtbot: QtBot, jobs: Jobs, gate: Gate, tmp_path):
    told: list[str] = []
    for _ in range(2):
        jobs.do("Holding up", gate.pass_through, done=lambda _: told.append("held"))
    qtbot.waitUntil(lambda: gate.came == 2, timeout=SOON)
    for name in ("a.pdf", "b.svg"):
        path = tmp_path / name
        jobs.do(f"Writing {name}", path.write_text, name, touches=path, done=lambda _, name=name: told.append(name))
    assert not any(tmp_path.iterdir())
    gate.open()
    qtbot.waitUntil(lambda: jobs.idle, timeout=SOON)
    assert sorted(told) == ["a.pdf", "b.svg", "held", "held"]
    assert sorted(path.name for path in tmp_path.iterdir()) == ["a.pdf", "b.svg"]


def test_jobs_on_one_file_run_in_order_and_never_at_once(qtbot: QtBot, jobs: Jobs):
    running, most, order = [0], [0], []

    def write(number: int) -> None:
        running[0] += 1
        most[0] = max(most[0], running[0])
        order.append(number)
        running[0] -= 1

    for number in range(40):
        jobs.do("Writing", write, number, touches="one file", done=lambda _: None)
    qtbot.waitUntil(lambda: jobs.idle, timeout=SOON)
    assert order == list(range(40))
    assert most == [1]


def test_every_job_is_reported_once_whatever_becomes_of_it(qtbot: QtBot, jobs: Jobs, gate: Gate):
    told: list[tuple[str, str]] = []

    def ask(name: str, function, **more):
        return jobs.do(
            name, function, done=lambda _: told.append((name, "done")), failed=lambda _: told.append((name, "failed")),
            called_off=lambda: told.append((name, "called off")), **more,
        )  # fmt: skip

    def refuse() -> None:
        raise PlanError("The disk is full.")

    held = [ask("held 1", gate.pass_through), ask("held 2", gate.pass_through)]
    qtbot.waitUntil(lambda: gate.came == 2, timeout=SOON)
    waiting = ask("waiting", sum)
    for name, function in (("works", dict), ("refuses", refuse), ("breaks", lambda: 1 // 0)):
        ask(name, function)
    ask("for another study", dict, owner=Owner("workspace", "study-9"))
    assert jobs.call_off(waiting)
    assert told == [("waiting", "called off")]
    assert not jobs.call_off(held[0]), "it has begun and cannot end safely on the way"
    assert not jobs.call_off(waiting), "nothing is reported twice"
    gate.open()
    qtbot.waitUntil(lambda: jobs.idle, timeout=SOON)
    assert sorted(told) == sorted(
        [("held 1", "done"), ("held 2", "done"), ("waiting", "called off"), ("works", "done"), ("refuses", "failed"),
         ("breaks", "failed"), ("for another study", "called off")]
    )  # fmt: skip


def test_a_job_under_way_is_called_off_where_that_is_safe(qtbot: QtBot, jobs: Jobs):
    begun, told = Event(), []

    def long(stop: CancelToken) -> None:
        begun.set()
        while True:
            stop.check()

    job = jobs.do("Long", long, done=told.append, called_off=lambda: told.append("called off"), stoppable=True)
    qtbot.waitUntil(begun.is_set, timeout=SOON)
    assert jobs.call_off(job)
    qtbot.waitUntil(lambda: jobs.idle, timeout=SOON)
    assert told == ["called off"]


def test_what_lasts_is_shown_and_what_is_quick_is_not(qtbot: QtBot, jobs: Jobs, gate: Gate):
    jobs.do("Quick", dict, done=lambda _: None)
    qtbot.waitUntil(lambda: jobs.idle, timeout=SOON)
    jobs.do("Slow", gate.pass_through, done=lambda _: None)
    assert jobs.lasting is None
    with qtbot.waitSignal(jobs.changed, timeout=SOON):
        pass
    assert jobs.lasting is not None
    assert jobs.lasting.words == "Slow"
    gate.open()
    qtbot.waitUntil(lambda: jobs.idle, timeout=SOON)
    assert jobs.lasting is None


def test_views_never_keep_a_job_waiting(qtbot: QtBot, work: LatestWins, jobs: Jobs, gate: Gate):
    for number in range(4):
        work.latest(f"view {number}", HERE, gate.pass_through, then=lambda _: None, otherwise=lambda _: None)
    done: list[int] = []
    jobs.do("Sum", sum, [1, 2], done=done.append)
    qtbot.waitUntil(lambda: done == [3], timeout=SOON)
    assert not work.idle
    gate.open()


def test_closing_waits_for_what_is_being_written_but_not_for_ever(qtbot: QtBot, gate: Gate, caplog):
    jobs = Jobs(lambda: HERE)
    jobs.do("Writing a.pdf", gate.pass_through, done=lambda _: None)
    qtbot.waitUntil(lambda: gate.came == 1, timeout=SOON)
    with caplog.at_level(logging.WARNING, "mild_compass"):
        assert not jobs.close(0.05)
    assert "Writing a.pdf" in caplog.text
    gate.open()


# -- journal --------------------------------------------------------------------------------------------------


def plan_number(number: int) -> Plan:
    return Plan(name=f"edit {number}")


def kept(workspace: Workspace) -> dict:
    return json.loads((workspace.folder / "journal.json").read_text())


@pytest.fixture
def journal():
    made = Journal()
    yield made
    made.close(5.0)


def test_edits_are_on_disk_while_more_of_them_keep_coming(qtbot: QtBot, journal: Journal, tmp_path: Path):
    workspace = Workspace.fresh(tmp_path)
    number, seen = 0, set()

    def go_on() -> bool:
        nonlocal number
        number += 1
        journal.keep(workspace, plan_number(number), None)
        if (workspace.folder / "journal.json").exists():
            seen.add(kept(workspace)["number"])
        return len(seen) >= 3

    qtbot.waitUntil(go_on, timeout=SOON)  # an edit with every look: there is never a pause
    assert journal.wait(5.0)
    assert kept(workspace)["number"] == number
    assert f"edit {number}" in kept(workspace)["plan"]
    workspace.close()


def test_an_older_plan_never_comes_after_a_newer_one(journal: Journal, tmp_path: Path):
    workspace, written = Workspace.fresh(tmp_path), []
    write = workspace.keep
    workspace.keep = lambda plan, file, number: (written.append(number), write(plan, file, number))
    for number in range(300):
        journal.keep(workspace, plan_number(number), None)
    assert journal.wait(5.0)
    assert written == sorted(written)
    assert "edit 299" in kept(workspace)["plan"]
    workspace.close()


def test_a_late_write_never_brings_the_journal_back_after_a_save(journal: Journal, tmp_path: Path):
    for _ in range(60):
        workspace = Workspace.fresh(tmp_path)
        journal.keep(workspace, plan_number(1), None)
        journal.forget(workspace)
        assert journal.wait(5.0)
        assert not (workspace.folder / "journal.json").exists()
        workspace.close()


def test_a_folder_that_is_let_go_is_gone_whatever_was_still_to_be_written(journal: Journal, tmp_path: Path):
    said: list[str] = []
    journal.failed.connect(said.append)
    folders = []
    for _ in range(60):
        workspace = Workspace.fresh(tmp_path)
        folders.append(workspace.folder)
        journal.keep(workspace, plan_number(1), None)
        journal.let_go(workspace)
        journal.keep(workspace, plan_number(2), None)
    assert journal.wait(10.0)
    assert not any(folder.exists() for folder in folders)
    assert said == []


def test_a_journal_that_cannot_be_written_says_so_once_and_goes_on(qtbot: QtBot, journal: Journal, tmp_path: Path):
    workspace, said = Workspace.fresh(tmp_path), []
    journal.failed.connect(said.append)
    write, full = workspace.keep, [True]

    def keep(plan: Plan, file: Path | None, number: int) -> None:
        if full[0]:
            raise PlanError("No space left on the disk.")
        write(plan, file, number)

    workspace.keep = keep
    for number in range(3):
        journal.keep(workspace, plan_number(number), None)
        assert journal.wait(5.0)
    qtbot.waitUntil(lambda: len(said) == 1, timeout=SOON)
    full[0] = False
    journal.keep(workspace, plan_number(9), None)
    assert journal.wait(5.0)
    assert "edit 9" in kept(workspace)["plan"]
    assert len(said) == 1
    workspace.close()


def test_the_first_edits_are_on_disk_before_the_checker_is_loaded(journal: Journal, tmp_path: Path, gate, monkeypatch):
    """Loading it takes longer than an edit may wait; what is written without it is the same plan."""
    usual = coding._made
    usual.cache_clear()
    monkeypatch.setattr("mild_compass.studio.requests.journal.warm", gate.pass_through)
    journal.warm()
    workspace = Workspace.fresh(tmp_path)
    plan = archive.read(EVERY_MARK, workspace.photos)
    usual.cache_clear()
    journal.keep(workspace, plan, None)
    assert journal.wait(5.0)
    assert usual.cache_info().currsize == 0
    assert coding.decode(kept(workspace)["plan"]) == plan
    workspace.close()


def test_nothing_else_delays_the_journal(
    qtbot: QtBot, work: LatestWins, jobs: Jobs, journal: Journal, gate: Gate, tmp_path
):
    for number in range(3):
        work.latest(f"view {number}", HERE, gate.pass_through, then=lambda _: None, otherwise=lambda _: None)
        jobs.do(f"job {number}", gate.pass_through, done=lambda _: None)
    qtbot.waitUntil(lambda: gate.came == 4, timeout=SOON)
    workspace = Workspace.fresh(tmp_path)
    journal.keep(workspace, plan_number(1), None)
    assert journal.wait(5.0)
    assert kept(workspace)["number"] == 1
    workspace.close()


# -- what is left behind --------------------------------------------------------------------------------------


def test_the_mark_of_an_open_plan_goes_with_the_last_to_hold_it(tmp_path: Path):
    file = tmp_path / "quay.mildplan"
    first, second = Claim(tmp_path / "open", file), Claim(tmp_path / "open", file)
    assert first.alone
    assert not second.alone
    second.release()
    assert list((tmp_path / "open").iterdir())
    first.release()
    assert not list((tmp_path / "open").iterdir())


def test_marks_and_folders_that_a_kill_left_behind_are_cleared_away(tmp_path: Path):
    (tmp_path / "claim-0123").touch()
    folder = Workspace.fresh(tmp_path)
    folder.leave()
    held = Claim(tmp_path, tmp_path / "held.mildplan")
    assert leftovers(tmp_path) == []
    assert len(list(tmp_path.iterdir())) == 1, "only the mark that is held"
    held.release()


def test_memory_that_is_free_is_given_back_after_work(qtbot: QtBot, monkeypatch):
    given: list[int] = []
    monkeypatch.setattr(heap, "_TRIM", lambda _: given.append(1))
    monkeypatch.setattr(heap, "REST_S", 0.05)
    threads = Threads("test", 2)
    for _ in range(20):
        threads.start(lambda: None)
    qtbot.waitUntil(lambda: bool(given), timeout=10_000)
    assert len(given) < 5, "not for every task"
    threads.end(1.0, None)
