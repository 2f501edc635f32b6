"""The stage in the window: begun at References, worked on the board and on the ground plan, judged, saved, printed."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QApplication, QWidget
from tests.studio.conftest import Hand, control

from mild_compass.plan.edits.references import begin_blank
from mild_compass.plan.edits.stage import begin_scene, raise_eye, set_down
from mild_compass.plan.edits.studies import duplicate_study
from mild_compass.plan.stage import new_thing
from mild_compass.studio.files.dialogs import Dialogs
from mild_compass.studio.pages.ground_plan import GroundPlan
from mild_compass.studio.pages.rows import PictureRows
from mild_compass.studio.pages.scene_steps import SceneSteps
from mild_compass.studio.stations.perspective.stage import StageInstrument


@pytest.fixture
def lane(empty: Hand) -> Hand:
    """A lane to one point, at the stage."""
    assert empty.window.session.apply(begin_scene("a lane to one point"))
    empty.window.go_to("perspective", "stage")
    empty.settle()
    return empty


def stage(hand: Hand):
    study = hand.window.session.plan.study
    assert study is not None
    assert study.stage is not None
    return study.stage


def tool(hand: Hand) -> StageInstrument:
    found = next(each for each in hand.window.bench.instruments if each.name == "stage")
    assert isinstance(found, StageInstrument)
    return found


def on_picture(hand: Hand, x: float, y: float, z: float = 0.0) -> tuple[float, float]:
    """Where a place of the plan is in the picture, the artist standing at the origin."""
    worked = hand.window.computed.perspective()
    assert worked is not None
    assert worked.camera is not None
    px, py = worked.camera.seen([[x, y, z]])[0].tolist()
    return px, py


def mouse(widget: QWidget, kind: QEvent.Type, at: QPointF, shift: bool = False) -> None:
    held = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseButtonRelease else Qt.MouseButton.LeftButton
    button = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseMove else Qt.MouseButton.LeftButton
    keys = Qt.KeyboardModifier.ShiftModifier if shift else Qt.KeyboardModifier.NoModifier
    QApplication.sendEvent(widget, QMouseEvent(kind, at, widget.mapToGlobal(at), button, held, keys))


def drag(widget: QWidget, start: QPointF, end: QPointF) -> None:
    mouse(widget, QEvent.Type.MouseButtonPress, start)
    for share in (0.4, 0.8, 1.0):
        mouse(widget, QEvent.Type.MouseMove, start + (end - start) * share)
    mouse(widget, QEvent.Type.MouseButtonRelease, end)


def test_a_blank_sheet_is_begun_at_references_with_a_scene(empty: Hand):
    window = empty.window
    photos = next(each for each in window.bench.instruments if each.name == "photos")
    control(photos, "What the blank sheet begins with").pick("things on a table")
    empty.click("Begin with a blank sheet")
    empty.settle()
    assert window.station == "perspective"
    assert {thing.kind for thing in stage(empty).things} >= {"cup", "bottle", "bowl", "ball"}
    assert window.computed.looks is not None  # values to be judged
    empty.go(5)
    assert window.computed.masses is not None


def test_a_thing_is_set_down_where_the_ground_is_clicked(lane: Hand):
    control(tool(lane), "What is set down next").pick("cart")
    spot = lane.place(on_picture(lane, 0.4, 6.0))
    lane.mouse(QEvent.Type.MouseButtonPress, spot)
    lane.mouse(QEvent.Type.MouseButtonRelease, spot)
    assert stage(lane).things[-1].kind == "cart"  # the lane it stands on is taken by its edges only
    assert lane.window.session.apply(begin_blank())
    lane.settle()
    control(tool(lane), "What is set down next").pick("cup")
    spot = lane.place(on_picture(lane, 0.9, 4.6))
    lane.mouse(QEvent.Type.MouseButtonPress, spot)
    lane.mouse(QEvent.Type.MouseButtonRelease, spot)
    cup = stage(lane).things[-1]
    assert (cup.kind, cup.x_m, cup.y_m) == ("cup", pytest.approx(0.9, abs=0.02), pytest.approx(4.6, abs=0.02))


def test_a_thing_dragged_on_the_board_moves_along_the_ground_as_one_step(lane: Hand):
    near = next(thing for thing in stage(lane).things if thing.name == "near figure")
    start, end = on_picture(lane, near.x_m, near.y_m, 0.6), on_picture(lane, near.x_m + 1.0, near.y_m, 0.6)
    lane.drag(start, end)
    lane.settle()
    moved = stage(lane).thing(near.id)
    there = on_picture(lane, moved.x_m, moved.y_m)[0] - on_picture(lane, near.x_m, near.y_m)[0]
    assert moved.x_m > near.x_m + 0.4
    assert there > 0
    lane.window.session.undo()
    assert stage(lane).thing(near.id) == near


def test_the_upper_handle_makes_it_taller(lane: Hand):
    near = next(thing for thing in stage(lane).things if thing.name == "near figure")
    tool(lane).options_of_thing.choose(near.id)
    top = on_picture(lane, near.x_m, near.y_m, near.height_m)
    lane.drag(top, on_picture(lane, near.x_m, near.y_m, 2.4))
    assert stage(lane).thing(near.id).height_m == pytest.approx(2.4, abs=0.05)


def test_sizes_typed_are_taken_and_nonsense_is_refused_beside_the_field(lane: Hand):
    house = stage(lane).things[3]
    tool(lane).options_of_thing.choose(house.id)
    lane.rest()
    lane.type_into(control(tool(lane), "How wide").line, "7,5")
    assert stage(lane).thing(house.id).width_m == 7.5
    for words in ("-3", "wide", "1e9"):
        lane.type_into(control(tool(lane), "How wide").line, words)
        assert stage(lane).thing(house.id).width_m == 7.5
    control(tool(lane), "Kind of roof").pick("hip")
    assert stage(lane).thing(house.id).roof == "hip"
    lane.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert stage(lane).thing(house.id).roof == "gable"


@pytest.fixture
def plan_page(lane: Hand) -> tuple[Hand, GroundPlan]:
    lane.window.bench.take_up("ground plan")
    lane.settle()
    page = lane.window.middle.page("ground plan")
    assert isinstance(page, GroundPlan)
    return lane, page


def at_plan(page: GroundPlan, x: float, y: float) -> QPointF:
    page.plan.grab()
    assert page.plan.scale is not None
    return QPointF(*page.plan.scale.to_widget(np.array([[x, y]]))[0])


def test_on_the_ground_plan_things_move_turn_and_grow(plan_page):
    hand, page = plan_page
    barn = next(thing for thing in stage(hand).things if thing.name == "second house right")
    drag(page.plan, at_plan(page, barn.x_m, barn.y_m), at_plan(page, barn.x_m + 2, barn.y_m + 3))
    moved = stage(hand).thing(barn.id)
    assert (moved.x_m, moved.y_m) == pytest.approx((barn.x_m + 2, barn.y_m + 3), abs=0.1)
    knob = page.plan._turn_knob(page.plan._sight(), moved)
    drag(page.plan, knob, at_plan(page, moved.x_m + 9, moved.y_m))
    assert stage(hand).thing(barn.id).turn_deg == pytest.approx(90, abs=1)
    corner = page.plan._corner(page.plan._sight(), stage(hand).thing(barn.id))
    drag(page.plan, corner, corner + QPointF(-20, 20))
    assert stage(hand).thing(barn.id).width_m != moved.width_m
    for _ in range(3):
        hand.window.session.undo()
    assert stage(hand).thing(barn.id) == barn


def test_standing_elsewhere_and_turning_keeps_the_sun_where_it_is(plan_page):
    hand, page = plan_page
    before = hand.window.session.plan.study.perspective.light.azimuth_deg
    drag(page.plan, at_plan(page, 0, 0), at_plan(page, 1.5, -4))
    assert (stage(hand).eye_x_m, stage(hand).eye_y_m) == pytest.approx((1.5, -4), abs=0.1)
    knob = page.plan._heading_knob(page.plan._sight())
    drag(page.plan, knob, at_plan(page, 1.5 + 20, -4 + 20))
    assert stage(hand).heading_deg == pytest.approx(45, abs=1)
    assert hand.window.session.plan.study.perspective.light.azimuth_deg == pytest.approx(before + 45, abs=1)
    hand.settle()


def test_an_empty_place_of_the_plan_takes_what_is_set_down_and_delete_takes_it_away(plan_page):
    hand, page = plan_page
    count = len(stage(hand).things)
    spot = at_plan(page, 14, 3)
    mouse(page.plan, QEvent.Type.MouseButtonPress, spot)
    mouse(page.plan, QEvent.Type.MouseButtonRelease, spot)
    made = stage(hand).things[-1]
    assert len(stage(hand).things) == count + 1
    assert (made.x_m, made.y_m) == pytest.approx((14, 3), abs=0.1)
    hand.bot.keyClick(page.plan, Qt.Key.Key_Left)
    assert stage(hand).things[-1].x_m == pytest.approx(made.x_m - 0.1)
    hand.bot.keyClick(page.plan, Qt.Key.Key_Delete)
    assert len(stage(hand).things) == count


def test_the_plan_is_zoomed_and_panned_and_fits_again(plan_page):
    _, page = plan_page
    fitted = page.plan._sight()
    middle = QPointF(page.plan.rect().center())
    wheel = QWheelEvent(
        middle, page.plan.mapToGlobal(middle), QPoint(), QPoint(0, 240), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(page.plan, wheel)
    assert page.plan._sight().px > 1.3 * fitted.px
    page.fit()
    page.plan.grab()
    assert page.plan._sight().px == pytest.approx(fitted.px, rel=0.02)


def test_eye_view_and_heading_are_set_by_words_and_numbers(plan_page):
    hand, _ = plan_page
    plan_tool = next(each for each in hand.window.bench.instruments if each.name == "ground plan")
    hand.click("Sit 1.2 m")
    assert hand.window.session.plan.study.perspective.eye_m == 1.2
    hand.type_into(control(plan_tool, "How wide the view is across the picture").line, "40")
    assert hand.window.session.plan.study.perspective.focal_px == pytest.approx(
        hand.window.session.plan.study.frame.width_px / 2 / np.tan(np.radians(20))
    )
    before = hand.window.session.plan
    hand.type_into(control(plan_tool, "How wide the view is across the picture").line, "200")
    assert hand.window.session.plan == before
    hand.click("Keep this view as a study")
    assert len(hand.window.session.plan.studies) == 2


def test_a_scene_goes_through_all_stations_is_saved_opened_and_printed(lane: Hand, tmp_path: Path):
    for number in range(1, 8):
        lane.go(number)
    window = lane.window
    window.files.plans.write(tmp_path / "lane.mildplan")
    window.files.exports.write_sheet(tmp_path / "lane.pdf")
    lane.settle()
    before = window.session.plan
    window.session.new()
    window.files.plans.open(tmp_path / "lane.mildplan")
    lane.bot.waitUntil(lambda: window.session.plan == before, timeout=10_000)
    assert (tmp_path / "lane.pdf").read_bytes().startswith(b"%PDF")


def test_how_to_draw_it_stands_on_a_page_and_is_saved(lane: Hand, tmp_path: Path, monkeypatch):
    target = tmp_path / "steps.pdf"
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: target)
    lane.window.bench.take_up("scene steps")
    lane.settle()
    page = lane.window.middle.page("scene steps")
    assert isinstance(page, SceneSteps)
    by_points = page.steps
    assert by_points[1].title == "The points"
    steps_tool = next(each for each in lane.window.bench.instruments if each.name == "scene steps")
    control(steps_tool, "How lines are led to their points").pick("edge marks")
    assert page.steps[1].title != "The points"
    lane.click("Save the steps as PDF…")
    lane.bot.waitUntil(target.exists, timeout=10_000)
    lane.settle()


def test_an_element_of_a_photo_is_stood_up_on_the_stage(hand: Hand):
    window = hand.window
    assert window.session.apply(begin_scene("open ground with a path"))
    window.go_to("references", "cut out")
    hand.settle()
    cut = next(each for each in window.bench.instruments if each.name == "cut out")
    page = window.middle.page("cut out")
    hand.type_into(control(cut, "How tall it is in the scene").line, "2.2")
    photo = window.session.plan.references[0]
    page.outlined.emit(photo.id, ((20.0, 20.0), (80.0, 20.0), (80.0, 120.0), (20.0, 120.0)))
    hand.settle()
    made = stage(hand).things[-1]
    assert (made.kind, made.source, made.height_m) == ("cut-out", photo.id, 2.2)
    assert window.station == "perspective"
    assert not window.computed.problem


def test_the_same_scene_from_two_heights_hangs_as_two_pictures(lane: Hand):
    window = lane.window
    assert window.session.apply(duplicate_study("study-1"))
    assert window.session.apply(raise_eye(4.5))
    for station, instrument, name in (
        ("viewfinder", "wall", "studies wall"),
        ("armature", "one armature", "one armature"),
    ):
        window.go_to(station, instrument)
        lane.settle()
        page = window.middle.page(name)
        assert isinstance(page, PictureRows)
        first, second = (tile.image for tile in page.tiles[:2])
        assert first is not None
        assert second is not None
        assert first != second, name


def test_a_thing_is_set_down_beside_things_with_marks_of_any_kind(lane: Hand):
    assert lane.window.session.apply(set_down(new_thing("block", "barn", 30.0, 30.0)))
    tool(lane).options_of_thing.set_down(20.0, 20.0)
    assert stage(lane).things[-1].x_m == 20.0


def test_things_of_the_stage_go_behind_what_is_outlined_in_the_picture(empty: Hand):
    lane = empty  # one house is quicker than a lane of them
    assert lane.window.session.apply(begin_blank())
    assert lane.window.session.apply(set_down(new_thing("house", "house", -2.0, 16.0)))
    house = stage(lane).things[0]
    at = [each.id for each in stage(lane).things].index(house.id)
    lane.window.go_to("perspective", "before")
    lane.settle()
    before = sum(np.hypot(*np.diff(line, axis=0).T).sum() for line in lane.window.computed.scene.things[at].seen)
    foot = on_picture(lane, -1.0, 3.0)
    far = np.concatenate(lane.window.computed.scene.things[at].seen)
    corners = [foot, (far[:, 0].min() - 30, foot[1] - 40), (far[:, 0].min() - 30, far[:, 1].min() - 30),
               (far[:, 0].mean(), far[:, 1].min() - 30)]  # fmt: skip
    spots = [lane.place(each) for each in corners]
    lane.mouse(QEvent.Type.MouseButtonPress, spots[0])
    for a, b in zip(spots, [*spots[1:], spots[0]], strict=True):
        for share in (0.3, 0.6, 1.0):
            lane.mouse(QEvent.Type.MouseMove, a + (b - a) * share)
    lane.mouse(QEvent.Type.MouseButtonRelease, spots[0])
    lane.settle()
    (screen,) = stage(lane).screens
    assert screen.away_m == pytest.approx(3.0, abs=0.1)
    assert "goes behind it" in lane.window.notice.words.text()
    after = sum(np.hypot(*np.diff(line, axis=0).T).sum() for line in lane.window.computed.scene.things[at].seen)
    assert after < 0.8 * before
    tool = next(each for each in lane.window.bench.instruments if each.name == "before")
    lane.type_into(control(tool, "How far off it stands, straight ahead").line, "400")
    lane.settle()
    assert stage(lane).screens[0].away_m == 400.0
    again = sum(np.hypot(*np.diff(line, axis=0).T).sum() for line in lane.window.computed.scene.things[at].seen)
    assert again == pytest.approx(before)
    lane.window.board.setFocus()
    lane.key(Qt.Key.Key_Delete)
    lane.settle()
    assert stage(lane).screens == ()


def test_ground_and_sky_are_as_light_as_they_are_said_to_be(lane: Hand):
    lane.window.go_to("perspective", "light")
    tool = next(each for each in lane.window.bench.instruments if each.name == "light")
    lane.settle()
    lane.type_into(control(tool, "Value of the sky in the stage's own picture, L*").line, "60")
    lane.settle()
    assert stage(lane).sky_tone == 60.0
    looks = lane.window.computed.looks
    assert looks is not None
    assert looks.picture.lightness[2, looks.picture.lightness.shape[1] // 2] == pytest.approx(60, abs=1)
    field = control(tool, "Value of the ground in the stage's own picture, L*").line
    lane.type_into(field, "140")
    assert stage(lane).ground_tone == 82.0
