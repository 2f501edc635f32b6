"""What a study stands on, what a plan holds, and plans written by the first version of the file format."""

from __future__ import annotations

import json
import zipfile
from dataclasses import asdict, fields, is_dataclass, replace
from pathlib import Path

import pytest
from tests.conftest import NOON, jpeg

from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.plan import archive
from mild_compass.plan.coding import decode, encode
from mild_compass.plan.departure_kinds import KINDS, ROWS, kind_of
from mild_compass.plan.edits.check import add_drawing
from mild_compass.plan.edits.references import add_reference, begin_blank, remove_reference, use_reference
from mild_compass.plan.edits.studies import duplicate_study
from mild_compass.plan.edits.viewfinder import choose_paper, move_frame
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import largest_frame
from mild_compass.plan.identity import LENGTH
from mild_compass.plan.migrations import VERSION
from mild_compass.plan.model import Plan
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.pictures import BLANK, Ground, OwnDrawing, Reference
from mild_compass.plan.study import Departure
from mild_compass.plan.work import WorkPlan

SAVED = sorted((Path(__file__).parent / "saved").glob("*-1.mildplan"))


NEW_IN_5 = {"simple": 50.0, "detail": 0.0, "areas": [], "edges": [], "planes": []}
NEW_IN_8 = {"copy_of": ""}
NEW_IN_7 = {"sittings": [], "came_out": [], "acted": [], "answers": [], "spent": []}
NEW_IN_6 = {"corners_px": [], "pairs": [], "refused": [], "mended": []}


def without_what_came_later(plan: dict, since: int = 4) -> dict:
    """A plan as it is written now, without what versions 5 to 8 have added, which must be as usual."""
    assert len(plan.pop("id")) == LENGTH
    assert {name: plan.pop(name) for name in NEW_IN_8} == NEW_IN_8
    assert plan.pop("work") == json.loads(json.dumps(asdict(WorkPlan())))
    assert {name: plan.pop(name) for name in NEW_IN_7} == NEW_IN_7
    if since < 6:
        assert plan.pop("current_drawing") == ""
    for drawing in plan["drawings"] if since < 6 else ():
        assert {name: drawing.pop(name) for name in NEW_IN_6} == NEW_IN_6
    for study in plan["studies"] if since < 5 else ():
        assert {name: study["values"].pop(name) for name in NEW_IN_5} == NEW_IN_5
    return plan


def raw(path: Path) -> dict:
    """The plan in a file as it stands there, unread."""
    with zipfile.ZipFile(path) as file:
        return json.loads(file.read("plan.json"))


@pytest.mark.parametrize("path", SAVED, ids=lambda path: path.stem)
def test_a_plan_of_version_1_opens_with_everything_in_it(path, tmp_path):
    photos = PhotoFolder(tmp_path / "photos")
    before, after = raw(path), json.loads(encode(archive.read(path, photos)))
    assert (before["version"], after["version"]) == (1, VERSION)
    without_what_came_later(after["plan"])
    for old, new in zip(before["plan"]["studies"], after["plan"]["studies"], strict=True):
        assert new.pop("ground") == old.pop("reference")
        assert new.pop("stage") is None
        assert new == old
    assert after["plan"].pop("drawings") == []
    assert after["plan"]["paper"].pop("lay") == "by hand"
    assert after["plan"] == before["plan"]
    assert {photo["sha256"] for photo in before["plan"]["references"]} == {each.name for each in photos.path.iterdir()}


@pytest.mark.parametrize("path", SAVED, ids=lambda path: path.stem)
def test_a_plan_of_version_1_is_saved_as_one_of_this_version(path, tmp_path):
    photos = PhotoFolder(tmp_path / "photos")
    plan = archive.read(path, photos)
    archive.write(tmp_path / "again.mildplan", plan, photos, None)
    assert archive.read(tmp_path / "again.mildplan", PhotoFolder(tmp_path / "in")) == plan


def test_a_plan_of_version_2_opens_as_it_was_and_has_no_stage(tmp_path):
    path = Path(__file__).parent / "saved" / "every-mark-2.mildplan"
    before = raw(path)
    after = json.loads(encode(archive.read(path, PhotoFolder(tmp_path))))
    assert (before["version"], after["version"]) == (2, VERSION)
    without_what_came_later(after["plan"])
    assert [study.pop("stage") for study in after["plan"]["studies"]] == [None] * len(after["plan"]["studies"])
    assert after["plan"] == before["plan"]


def test_a_plan_of_version_3_opens_with_its_stage_and_nothing_before_it(tmp_path):
    path = Path(__file__).parent / "saved" / "every-mark-3.mildplan"
    before = raw(path)
    after = json.loads(encode(archive.read(path, PhotoFolder(tmp_path))))
    assert (before["version"], after["version"]) == (3, VERSION)
    without_what_came_later(after["plan"])
    stages = [study["stage"] for study in after["plan"]["studies"] if study["stage"]]
    assert len(stages[0]["things"]) > 3
    assert [stage.pop("screens") for stage in stages] == [[]]
    assert {thing.pop("clear_paper") for stage in stages for thing in stage["things"]} == {False}
    assert after["plan"] == before["plan"]


def test_a_plan_of_version_4_opens_as_it_was_with_masses_of_the_usual_simplicity(tmp_path):
    path = Path(__file__).parent / "saved" / "every-mark-4.mildplan"
    before = raw(path)
    after = json.loads(encode(archive.read(path, PhotoFolder(tmp_path))))
    assert (before["version"], after["version"]) == (4, VERSION)
    assert any(study["stage"]["screens"] for study in before["plan"]["studies"] if study["stage"])
    assert without_what_came_later(after["plan"]) == before["plan"]


def test_a_plan_of_version_5_opens_as_it_was_with_its_drawing_unmarked(tmp_path):
    path = Path(__file__).parent / "saved" / "every-mark-5.mildplan"
    before = raw(path)
    after = json.loads(encode(archive.read(path, PhotoFolder(tmp_path))))
    assert (before["version"], after["version"]) == (5, VERSION)
    assert len(before["plan"]["drawings"]) == 1
    assert without_what_came_later(after["plan"], since=5) == before["plan"]


def test_a_plan_of_version_6_opens_as_it_was_with_no_work_done_yet(tmp_path):
    path = Path(__file__).parent / "saved" / "every-mark-6.mildplan"
    before = raw(path)
    after = json.loads(encode(archive.read(path, PhotoFolder(tmp_path))))
    assert (before["version"], after["version"]) == (6, VERSION)
    assert len(before["plan"]["drawings"][0]["pairs"]) == 1
    assert without_what_came_later(after["plan"], since=6) == before["plan"]


def test_the_saved_plan_with_every_mark_has_every_kind_of_departure():
    """The kinds the first version knew: a later one says since when it is there."""
    study = raw(next(path for path in SAVED if path.stem.startswith("every-mark")))["plan"]["studies"][0]
    assert [each["kind"] for each in study["departures"]] == [row.name for row in ROWS if row.since == 1]


@pytest.mark.parametrize("version", [0, VERSION + 1, "2", None, 1.5])
def test_another_version_is_refused_with_a_sentence(version):
    with pytest.raises(PlanError, match=r"version|newer"):
        decode(json.dumps({"format": "mildplan", "version": version, "plan": {}}))


@pytest.mark.parametrize("plan", [[], {"studies": 7}, {"studies": [7]}, {"studies": [{"name": "A"}]}])
def test_a_nonsensical_plan_of_version_1_is_refused_with_a_sentence(plan):
    with pytest.raises(PlanError, match="wrong entry"):
        decode(json.dumps({"format": "mildplan", "version": 1, "plan": plan}))


# -- a blank sheet --------------------------------------------------------------------------------------------


@pytest.fixture
def blank() -> Plan:
    return begin_blank().apply(choose_paper(paper("A3", across=True)).apply(Plan(), NOON), NOON)


def test_a_blank_sheet_is_as_large_as_the_picture_area_and_needs_no_bytes(blank):
    ground = blank.ground(blank.study)
    assert not ground.is_photo
    assert ground.width_px / ground.height_px == pytest.approx(blank.paper.ratio, abs=1e-3)
    assert blank.stored() == {}
    assert blank.study.frame == largest_frame(ground, blank.paper)
    assert decode(encode(blank)) == blank


def test_marks_on_a_blank_sheet_keep_their_place_when_a_larger_sheet_of_the_same_proportion_is_taken(blank):
    larger = choose_paper(replace(blank.paper, width_mm=840.0, height_mm=594.0, margin_mm=30.0)).apply(blank, NOON)
    assert larger.ground(larger.study) == blank.ground(blank.study)
    assert larger.study.perspective == blank.study.perspective
    upright = choose_paper(paper("A3")).apply(blank, NOON)
    assert upright.study.frame == largest_frame(upright.ground(upright.study), upright.paper)


def test_a_study_on_a_blank_sheet_can_be_copied_reframed_and_put_on_a_photo(blank, photos):
    twice = duplicate_study("study-1").apply(blank, NOON)
    assert [study.ground for study in twice.studies] == [BLANK, BLANK]
    digest = photos.add(jpeg())
    with_photo = add_reference(Reference("photo-1", "quay.jpg", digest, 600, 400)).apply(twice, NOON)
    assert with_photo.study.ground == BLANK, "a photo that is added does not take the blank sheet away"
    moved = use_reference("photo-1").apply(with_photo, NOON)
    assert moved.study.ground == "photo-1"
    assert moved.studies[1].ground == BLANK
    frame = largest_frame(moved.ground(moved.study), moved.paper)
    assert move_frame(frame).apply(moved, NOON).study.frame == frame


def test_the_first_photo_of_a_plan_lays_the_sheet_as_it_lies_itself(photos):
    for size, across in (((600, 400), True), ((400, 600), False), ((500, 500), False)):
        photo = Reference("photo-1", "quay.jpg", photos.add(jpeg(*size)), *size)
        assert add_reference(photo).apply(Plan(), NOON).paper.across is across
        told = choose_paper(paper("A3", across=not across)).apply(Plan(), NOON)
        assert add_reference(photo).apply(told, NOON).paper == told.paper


# -- drawings --------------------------------------------------------------------------------------------------


def test_photos_of_the_own_drawing_are_stored_with_the_plan_and_are_no_references(plan, photos, tmp_path):
    drawing = OwnDrawing("drawing-1", "sheet.jpg", photos.add(jpeg(seed=8)), 600, 400, taken=NOON, stage="block-in")
    plan = add_drawing(drawing).apply(plan, NOON)
    assert [each.name for each in plan.references] == ["quay.jpg"]
    archive.write(tmp_path / "with.mildplan", plan, photos, None)
    elsewhere = PhotoFolder(tmp_path / "elsewhere")
    assert archive.read(tmp_path / "with.mildplan", elsewhere) == plan
    assert elsewhere.read(drawing.sha256, "sheet.jpg") == photos.read(drawing.sha256, "sheet.jpg")
    with pytest.raises(PlanError, match="already in the plan"):
        add_drawing(replace(drawing, id="drawing-2")).apply(plan, NOON)


def test_every_picture_a_plan_can_hold_is_listed_as_stored(plan, photos):
    """Found by type: whatever field of a plan holds a ground with bytes must be listed, or it would not be saved."""
    drawing = OwnDrawing("drawing-1", "sheet.jpg", photos.add(jpeg(seed=8)), 600, 400)
    plan = add_drawing(drawing).apply(plan, NOON)

    def grounds(value: object) -> list[Ground]:
        if isinstance(value, Ground):
            return [value]
        if isinstance(value, tuple):
            return [found for each in value for found in grounds(each)]
        if is_dataclass(value):
            return [found for each in fields(value) for found in grounds(getattr(value, each.name))]
        return []

    assert {each.sha256 for each in grounds(plan)} == set(plan.stored())
    assert len(plan.stored()) == 2


def test_a_reference_and_a_drawing_must_have_bytes():
    for kind in (Reference, OwnDrawing):
        with pytest.raises(PlanError, match="checksum"):
            kind("x", "x.jpg", "", 10, 10)


def test_a_photo_in_use_is_not_removed_but_one_left_by_its_study_is(plan):
    with pytest.raises(PlanError, match="is used by study A"):
        remove_reference("photo-1").apply(plan, NOON)


# -- kinds of departure ----------------------------------------------------------------------------------------


def test_an_unknown_kind_of_departure_is_refused_by_name():
    with pytest.raises(PlanError, match=r"no planned change of the kind “sparkle”.*leave out"):
        Departure("d", "sparkle", ((0.0, 0.0), (1.0, 0.0), (0.0, 1.0)))


@pytest.mark.parametrize("row", ROWS, ids=lambda row: row.name)
def test_every_kind_needs_as_many_points_as_its_shape_and_a_value_within_its_range(row):
    points = ((0.0, 0.0), (10.0, 0.0), (0.0, 10.0))
    source = "photo-1" if row.name == "borrow" else ""
    need = 3 if row.shape == "area" else 2
    assert Departure("d", row.name, points[:need], source=source, value=row.value.usual if row.value else 0.0)
    with pytest.raises(PlanError, match="no size"):
        Departure("d", row.name, points[: need - 1], source=source)
    if row.value is not None:
        for wrong in (row.value.low - 1, row.value.high + 1):
            with pytest.raises(PlanError, match="between"):
                Departure("d", row.name, points, source=source, value=wrong)


def test_every_row_has_words_and_a_way_of_painting():
    from mild_compass.craft.picture.departed import PAINTERS

    assert list(KINDS) == [row.name for row in ROWS]
    for row in ROWS:
        assert row.painted in PAINTERS
        assert row.hint.endswith(".")
        assert kind_of(row.name) is row
