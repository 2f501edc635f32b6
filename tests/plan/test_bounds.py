"""Whatever comes into a plan can be kept, shown, printed and saved, or is refused with a sentence."""

from __future__ import annotations

import io
import json
import os
import stat
import subprocess
import sys
import zipfile
from dataclasses import fields, is_dataclass, replace
from pathlib import Path
from xml.etree import ElementTree as ET

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import NOON, jpeg

from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.output.logbook_document import logbook_markdown
from mild_compass.output.measures_csv import measures_csv
from mild_compass.output.svg import sheet_svg
from mild_compass.plan import archive
from mild_compass.plan.atomic import write_bytes_atomically
from mild_compass.plan.bounds import LEAST_REACH_PX, require_bounded
from mild_compass.plan.coding import decode, encode
from mild_compass.plan.edits.base import with_study
from mild_compass.plan.edits.logbook import add_note
from mild_compass.plan.errors import PlanError
from mild_compass.plan.history import History
from mild_compass.plan.migrations import VERSION
from mild_compass.plan.model import LogEntry, Plan
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.texts import LONGEST, clean_name, require_text
from mild_compass.plan.workspace import Workspace, leftovers, set_aside

SAVED = Path(__file__).parent / "saved" / "every-mark-1.mildplan"


@pytest.fixture(scope="module")
def every_mark(tmp_path_factory) -> Plan:
    return archive.read(SAVED, PhotoFolder(tmp_path_factory.mktemp("photos")))


# -- texts -----------------------------------------------------------------------------------------------------


@given(st.binary(max_size=60))
def test_any_name_of_a_file_becomes_text_that_can_be_kept(name):
    found = clean_name(name.decode("utf-8", "surrogateescape"))
    require_text(found)
    assert "\n" not in found
    assert found


def test_a_name_that_is_fine_stays_as_it_is():
    assert clean_name("Fähre, 3. Anlauf – “früh”.jpg") == "Fähre, 3. Anlauf – “früh”.jpg"
    assert clean_name(os.fsdecode(b"caf\xe9.jpg")) == "caf?.jpg"
    assert clean_name("a\rb\x07.jpg") == "a?b?.jpg"


@pytest.mark.parametrize("text", ["\ud800", "a\x00b", "bell\x07", "x" * (LONGEST + 1), "\ufffe"])
def test_text_that_cannot_be_written_is_refused_in_edits_and_files(plan, text):
    history = History(plan)
    with pytest.raises(PlanError):
        history.apply(add_note(f"note {text}", "viewfinder", NOON), NOON)
    assert history.plan is plan
    document = json.loads(encode(plan))
    document["plan"]["name"] = text
    with pytest.raises(PlanError):
        decode(json.dumps(document))


def test_names_that_look_like_formulas_markup_or_worse_are_harmless_in_every_kind_of_file(plan):
    from mild_compass.plan.sheet import MeasuredLength, MeasurePlan

    evil = ('=HYPERLINK("x")', "+1", "-1", "@sum", "<b>&amp;</b>")
    lengths = tuple(MeasuredLength(0, 0, 10 + k, 10, name) for k, name in enumerate(evil))
    study = replace(plan.study, measures=MeasurePlan(lengths=lengths))
    rows = measures_csv(with_study(plan, study)).splitlines()[1:]
    assert not any(row.split(",")[1].lstrip('"').startswith(("=", "+", "-", "@")) for row in rows)
    entry = LogEntry("<script>*now*</script>", "viewfinder", "A", "note", "[x](javascript:1)")
    text = logbook_markdown(replace(plan, log=(entry,)))
    assert "<script>" not in text
    assert "\\[x\\]" in text
    from mild_compass.craft.drawing import Drawing, Label, Layer

    label = Label("a\x0bb\x00c <&>", 5, 5, "measure")
    svg = sheet_svg(Drawing(10, 10, (Layer("guides", (), (label,), "x\x01y"),)), "t\x02")
    root = ET.fromstring(svg)
    assert root.find(".//{http://www.w3.org/2000/svg}text").text == "abc <&>"


# -- numbers ----------------------------------------------------------------------------------------------------


def coordinates(value: object, at: tuple = ()):
    """The way to every coordinate of a value, found by type as it is declared."""
    if is_dataclass(value):
        for each in fields(value):
            inner = getattr(value, each.name)
            if isinstance(inner, float) and each.name.endswith("_px") and each.name != "focal_px":
                yield (*at, each.name)
            else:
                yield from coordinates(inner, (*at, each.name))
    elif isinstance(value, tuple):
        pair = len(value) == 2 and all(isinstance(each, int | float) for each in value)
        for index, each in enumerate(value):
            if pair:
                yield (*at, index)
            else:
                yield from coordinates(each, (*at, index))


def changed(value: object, at: tuple, to: float):
    if not at:
        return to
    first, *rest = at
    if isinstance(first, int):
        return (*value[:first], changed(value[first], tuple(rest), to), *value[first + 1 :])
    return replace(value, **{first: changed(getattr(value, first), tuple(rest), to)})


def test_every_coordinate_of_every_mark_is_bounded(every_mark):
    """1e7 and 1e9 exhausted the memory once; a mark of a new kind is found by its type."""
    study = every_mark.studies[0]
    ways = [way for way in coordinates(study) if "motif" not in way]
    assert len(ways) > 100
    for way in ways:
        for far in (1e7, -1e9, float("nan"), float("inf")):
            with pytest.raises(PlanError):
                require_bounded(replace(every_mark, studies=(changed(study, way, far),)), every_mark)


def test_what_lies_within_reach_is_accepted_and_a_plan_in_use_is_untouched(every_mark):
    require_bounded(every_mark)
    study = every_mark.studies[0]
    near = replace(study.reads, focus=(LEAST_REACH_PX, -LEAST_REACH_PX))
    require_bounded(replace(every_mark, studies=(replace(study, reads=near), *every_mark.studies[1:])))


@pytest.mark.parametrize("number", [10**400, -(10**400), 1e300, float("nan")])
def test_numbers_that_are_none_or_endless_are_refused_in_a_file(plan, number):
    document = json.loads(encode(plan))
    document["plan"]["studies"][0]["frame"]["x_px"] = number
    with pytest.raises(PlanError):
        decode(json.dumps(document))


def test_lists_have_an_end(plan):
    entry = LogEntry(NOON, "viewfinder", "A", "note", "again")
    with pytest.raises(PlanError, match="too many"):
        require_bounded(replace(plan, log=(entry,) * 20_001))


@pytest.mark.parametrize(
    ("field", "value"), [("school", "cubism"), ("threads", ("fifths",)), ("armature", ("twelve",))]
)
def test_words_that_are_none_of_the_known_are_refused_wherever_they_come_from(plan, field, value):
    with pytest.raises(PlanError, match="not a known"):
        require_bounded(with_study(plan, replace(plan.study, **{field: value})), plan)


# -- files ------------------------------------------------------------------------------------------------------


def test_a_link_is_followed_and_a_device_is_refused(tmp_path):
    real, link = tmp_path / "real.txt", tmp_path / "link.txt"
    real.write_text("old")
    link.symlink_to(real)
    write_bytes_atomically(link, b"new")
    assert link.is_symlink()
    assert real.read_text() == "new"
    with pytest.raises(PlanError, match="not a plain file"):
        write_bytes_atomically(Path("/dev/full"), b"x")
    assert stat.S_ISCHR(Path("/dev/full").stat().st_mode)
    with pytest.raises(PlanError, match="not a plain file"):
        write_bytes_atomically(tmp_path, b"x")


@pytest.mark.parametrize("mask", [0o022, 0o077, 0o002])
def test_new_files_get_the_rights_the_system_gives_new_files(tmp_path, mask):
    """As they are for this program when it starts: to ask again would change them for all threads meanwhile."""
    program = (
        f"import os, pathlib; os.umask({mask}); from mild_compass.plan.atomic import write_bytes_atomically\n"
        f"write_bytes_atomically(pathlib.Path({str(tmp_path)!r}, 'new.txt'), b'x')"
    )
    subprocess.run([sys.executable, "-c", program], check=True)
    assert (tmp_path / "new.txt").stat().st_mode & 0o777 == 0o666 & ~mask


@pytest.mark.parametrize("kind", [zipfile.ZIP_DEFLATED, zipfile.ZIP_LZMA, zipfile.ZIP_BZIP2])
def test_damaged_streams_inside_an_archive_give_a_sentence(plan, tmp_path, kind):
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as file:
        file.writestr("mimetype", archive.MIMETYPE)
        file.writestr("plan.json", encode(plan), kind)
    whole = bytearray(packed.getvalue())
    start = whole.index(b"plan.json") + 30
    for at in range(start, len(whole) - 200, 37):
        broken = bytearray(whole)
        broken[at : at + 8] = b"\xff" * 8
        path = tmp_path / "broken.mildplan"
        path.write_bytes(broken)
        with pytest.raises(PlanError):
            archive.read(path, PhotoFolder(tmp_path / "in"))


def test_a_first_entry_that_inflates_without_end_is_not_inflated(tmp_path):
    import tracemalloc

    path = tmp_path / "bomb.mildplan"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as file, file.open("mimetype", "w", force_zip64=True) as part:
        for _ in range(64):
            part.write(b"\0" * (1 << 20))
    tracemalloc.start()
    with pytest.raises(PlanError, match="not a plan file"):
        archive.read(path, PhotoFolder(tmp_path / "in"))
    assert tracemalloc.get_traced_memory()[1] < 8 << 20
    tracemalloc.stop()


# -- work left over ---------------------------------------------------------------------------------------------


@pytest.mark.parametrize("journal", ["{", "[" * 100_000, '{"saved_as": null, "plan": "{}"}', "NEWER"])
def test_work_that_is_not_understood_is_set_aside_with_its_photos(plan, tmp_path, journal):
    left = Workspace.fresh(tmp_path)
    left.photos.add(jpeg())
    newer = encode(plan).replace(f'"version": {VERSION}', '"version": 99')
    text = json.dumps({"saved_as": None, "plan": newer}) if journal == "NEWER" else journal
    (left.folder / "journal.json").write_text(text)
    left.leave()
    assert leftovers(tmp_path) == []
    (kept,) = set_aside(tmp_path)
    assert len(list((kept / "photos").iterdir())) == 1
    assert (kept / "journal.json").read_text() == text
    assert leftovers(tmp_path) == []


def test_work_that_another_window_has_taken_up_is_not_taken_twice(tmp_path):
    left = Workspace.fresh(tmp_path)
    with pytest.raises(PlanError, match="another window"):
        Workspace(left.folder)
    left.close()


def test_a_sheet_named_in_the_demo_plans_can_be_saved(plan, photos, tmp_path):
    archive.write(tmp_path / "x.mildplan", replace(plan, paper=paper("A4")), photos, None)
    mark = archive.mark_of(tmp_path / "x.mildplan")
    assert mark is not None
    archive.write(tmp_path / "x.mildplan", replace(plan, name="other", paper=paper("A4")), photos, None)
    assert archive.mark_of(tmp_path / "x.mildplan") != mark
    assert archive.mark_of(tmp_path / "none.mildplan") is None
