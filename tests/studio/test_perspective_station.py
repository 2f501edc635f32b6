"""The perspective station in the window: suggestions, horizon, eye, guides, light, straightening, strings."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import Qt
from tests.studio.conftest import Hand, control, words_of
from tests.studio.test_pages import study, take
from tools.accuracy.scenes import scene_with_lens

from mild_compass.demo.glasshouse import PHOTOS
from mild_compass.demo.glasshouse import camera as rendered_camera
from mild_compass.demo.pumping_station import NAMES as PUMPING
from mild_compass.demo.pumping_station import facts, house_edges
from mild_compass.plan.edits.perspective import set_horizon
from mild_compass.plan.perspective import Horizon


@pytest.fixture
def house(empty: Hand) -> Hand:
    """The level photo of the pumping station, at the perspective."""
    empty.add_photo(Path(PHOTOS / "pumping-station-level.jpg"))
    empty.go(4)
    return empty


@pytest.fixture
def level(house: Hand) -> Hand:
    """The same with the horizon set by hand where the camera has it."""
    house.window.session.apply(set_horizon(Horizon(600.0, 0.0, 900.0)))
    house.settle()
    return house


def test_the_focal_length_of_the_photo_is_kept_with_it(house: Hand):
    assert house.window.session.plan.references[0].focal_35mm == 28


def test_sets_are_suggested_looked_at_and_taken_or_refused(house: Hand):
    tool = take(house, "trace")
    house.click("Suggest sets of edges")
    house.bot.waitUntil(lambda: tool._suggested is not None, timeout=20_000)
    assert "running back" in words_of(tool)
    house.click("No")
    assert study(house).perspective.sets == ()
    house.click("Suggest sets of edges")
    house.bot.waitUntil(lambda: tool._suggested is not None, timeout=20_000)
    house.click("Take them")
    house.settle()
    assert study(house).perspective.sets
    assert house.window.computed.perspective().horizon.y_at(900) == pytest.approx(600, abs=12)


def test_a_traced_edge_snaps_to_the_edge_in_the_photo(house: Hand):
    tool = take(house, "trace")
    house.drag((320, 420), (1130, 344))  # along the gutter, some pixels off it
    (edge,) = study(house).perspective.sets[0].edges
    assert (edge.y0_px, edge.y1_px) != pytest.approx((420, 344), abs=0.2)
    control(tool, "Snap to the photo's edges").click()
    house.drag((420, 560), (1050, 548))
    assert study(house).perspective.sets[0].edges[1].y0_px == pytest.approx(560, abs=2)


def test_a_snapped_edge_shows_the_hands_line_too_and_h_takes_it_back(house: Hand):
    tool = take(house, "trace")
    house.drag((320, 420), (1130, 344))
    (laid,) = study(house).perspective.sets[0].edges
    assert control(tool, "As I drew it").isVisible()
    house.window.board.setFocus()
    house.key(Qt.Key.Key_H)
    house.settle()
    (edge,) = study(house).perspective.sets[0].edges
    assert edge != laid
    assert (edge.x0_px, edge.y0_px, edge.x1_px, edge.y1_px) == pytest.approx((320, 420, 1130, 344), abs=2)
    assert not control(tool, "As I drew it").isVisible()
    house.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    house.settle()
    assert study(house).perspective.sets[0].edges == (laid,)


def test_the_horizon_is_tilted_by_number_and_the_photo_levelled_by_it(level: Hand):
    tool = take(level, "horizon")
    level.type_into(control(tool, "Tilt of the horizon, clockwise").line, "3")
    assert study(level).perspective.horizon.tilt_deg == pytest.approx(3)
    level.click("Level the photo")
    assert study(level).frame.turn_deg == pytest.approx(3)
    level.type_into(control(tool, "Tilt of the horizon, clockwise").line, "80")
    assert "Between" in control(tool, "Tilt of the horizon, clockwise").error


def test_a_thing_of_known_height_tells_the_eye_height(level: Hand):
    tool = take(level, "eye")
    level.type_into(control(tool, "Eye height").line, "2.0")
    level.drag((1125, 842), (1165, 742))
    assert "m by an eye at 2.00 m" in words_of(tool)
    level.type_into(control(tool, "Its true height").line, "1.0")
    before = tool._tall()
    tool._use.click()
    assert study(level).perspective.eye_m == pytest.approx(2.0 / before, abs=0.002)
    level.type_into(control(tool, "Eye height").line, "900")
    assert "Between" in control(tool, "Eye height").error
    level.drag((900, 300), (900, 200))
    assert "does not stand" in words_of(tool)
    level.type_into(control(tool, "Focal length as on 36 mm film").line, "35")
    assert study(level).perspective.focal == "hand"
    assert study(level).perspective.focal_px == pytest.approx(35 / 36 * 1800)


def test_two_things_of_known_height_tell_horizon_and_eye(house: Hand):
    """Made up: an eye at 1.5 m, the horizon at 500 px."""
    tool = take(house, "eye")
    house.drag((600, 1100), (600, 700))  # 600 px below the horizon: 400 px are 1 m
    assert "no horizon yet" in words_of(tool)
    house.type_into(control(tool, "Its true height").line, "1.0")
    control(tool, "Keep it, to measure a second").click()
    assert not control(tool, "Horizon and eye by both").isEnabled()
    house.drag((1200, 800), (1200, 400))  # 300 px below: 400 px are 2 m
    house.type_into(control(tool, "Its true height").line, "2.0")
    control(tool, "Horizon and eye by both").click()
    perspective = study(house).perspective
    assert perspective.horizon.y_px == pytest.approx(500, abs=6)
    assert perspective.eye_m == pytest.approx(1.5, abs=0.03)


def test_figures_rows_and_boxes_are_placed_changed_moved_and_removed(level: Hand):
    tool = take(level, "guides")
    level.drag((700, 900), (700, 900))
    (figure,) = study(level).perspective.guides
    assert (figure.kind, figure.thing, figure.height_m) == ("figure", "man", 1.75)
    control(tool, "What it is").pick("child")
    assert study(level).perspective.guides[0].height_m == 1.28
    level.drag((700, 900), (760, 880))
    assert study(level).perspective.guides[0].points[0] == pytest.approx((760, 880), abs=2)
    level.type_into(tool._measures["height_m"].line, "-3")
    assert "between" in tool._measures["height_m"].error
    control(tool, "Kind of guide").pick("row")
    level.drag((300, 800), (380, 780))
    control(tool, "The third is given too").click()
    row = study(level).perspective.guides[1]
    assert len(row.points) == 3
    level.drag(row.points[2], (row.points[2][0] - 12, row.points[2][1] + 3))  # the third decides with the others
    assert study(level).perspective.guides[1].points[2][0] == pytest.approx(row.points[2][0] - 12, abs=2)
    control(tool, "The third is given too").click()
    level.type_into(tool._measures["spacing_m"].line, "2.5")
    assert study(level).perspective.guides[1].spacing_m == 2.5
    assert len(study(level).perspective.guides[1].points) == 2
    control(tool, "Kind of guide").pick("box")
    level.drag((1200, 950), (1200, 950))
    control(tool, "With a gable").click()
    assert [guide.kind for guide in study(level).perspective.guides] == ["figure", "row", "box"]
    assert study(level).perspective.guides[2].gable
    level.type_into(tool._measures["rise_m"].line, "2.2")
    assert study(level).perspective.guides[2].rise_m == 2.2
    control(tool, "Kind of guide").pick("level line")
    level.drag((500, 900), (500, 700))
    level.drag((560, 900), (620, 760))
    carried = study(level).perspective.guides[3]
    assert len(carried.points) == 3
    level.window.board.setFocus()
    level.bot.keyClick(level.window.board, Qt.Key.Key_Delete)
    assert len(study(level).perspective.guides) == 3
    control(tool, "Kind of guide").pick("row")
    level.drag((900, 1000), (900, 1000))
    assert "Drag from the foot" in level.window.notice.words.text()
    level.settle()
    assert any(row.key.startswith("guide_") for row in level.window.readings.readings)


def test_guides_without_a_horizon_say_what_is_missing(house: Hand):
    tool = take(house, "guides")
    assert "need a horizon" in words_of(tool)


def test_light_and_water_throw_shadows_and_mirror(level: Hand):
    guides = take(level, "guides")
    level.drag((700, 900), (700, 900))
    control(guides, "Shadow").click()
    light = take(level, "light")
    control(light, "Light").pick("sun")
    control(light, "The sun comes from").pick(90.0)
    level.type_into(control(light, "Height of the sun").line, "30")
    control(light, "Still water").click()
    level.type_into(control(light, "Height of the water against the ground").line, "-0.4")
    perspective = study(level).perspective
    assert (perspective.light.kind, perspective.light.altitude_deg, perspective.water_m) == ("sun", 30, -0.4)
    level.type_into(control(light, "Height of the sun").line, "95")
    assert "between" in control(light, "Height of the sun").error
    before = level.window.board.grab().toImage()
    control(light, "Light").pick("lamp")
    level.drag((500, 950), (520, 960))
    assert study(level).perspective.light.foot == pytest.approx((520, 960), abs=2)
    assert level.window.board.grab().toImage() != before


def test_the_bow_is_taken_out_of_the_picture_and_everything_follows_and_goes_back(large_photos, empty: Hand):
    empty.add_photo(Path(PHOTOS / "pumping-station.jpg"))
    empty.go(4)
    tool = take(empty, "straighten")
    taken = empty.window.computed.looks.picture.rgb.copy()
    empty.click("Take the bow out")
    empty.bot.waitUntil(lambda: not study(empty).perspective.lens.plain, timeout=20_000)
    empty.settle()
    assert study(empty).perspective.lens.k1 == pytest.approx(-0.18, rel=0.1)
    assert (empty.window.computed.looks.picture.rgb != taken).any()
    assert "Bow" in tool._told
    straight = empty.window.board.grab().toImage()
    empty.bot.mousePress(control(tool, "Hold: as it was taken"), Qt.MouseButton.LeftButton)
    assert empty.window.board.shown_looks.picture.rgb is empty.window.computed.photo_looks.picture.rgb
    assert empty.window.board.grab().toImage() != straight
    empty.bot.mouseRelease(control(tool, "Hold: as it was taken"), Qt.MouseButton.LeftButton)
    assert empty.window.board.grab().toImage() == straight
    empty.click("Set the uprights upright")
    assert "Trace two uprights" in empty.window.notice.words.text()
    empty.type_into(control(tool, "Bow of the lens").line, "90")
    assert "Between" in control(tool, "Bow of the lens").error
    empty.click("Back to the photo as taken")
    empty.settle()
    assert (empty.window.computed.looks.picture.rgb == taken).all()


def test_the_string_table_says_which_end_to_raise(house: Hand):
    tool = take(house, "trace")
    control(tool, "Snap to the photo's edges").click()
    for start, end in (((300, 430), (1130, 344)), ((380, 760), (1100, 806)), ((300, 600), (1100, 575))):
        house.drag(start, end)
    take(house, "strings")
    page = house.window.middle.page("strings")
    assert page.rowCount() == 3
    words = [page.item(row, column).text() for row in range(3) for column in (3, 4)]
    assert any(word.startswith(("raise", "lower")) for word in words)


def test_a_borrowed_figure_keeps_its_size_in_the_scene_when_it_is_moved(level: Hand):
    from mild_compass.plan.edits.departures import add_departure
    from mild_compass.plan.study import Departure

    outline = ((600.0, 700.0), (680.0, 700.0), (680.0, 900.0), (600.0, 900.0))
    level.window.session.apply(add_departure(Departure("d1", "move", outline, x_px=640.0, y_px=800.0)))
    level.go(2)
    changes = take(level, "changes")
    level.type_into(control(changes, "Height in the scene, 0 for none").line, "1.6")
    first = study(level).departures[0]
    assert first.height_m == 1.6
    level.drag((first.x_px, first.y_px), (first.x_px + 60, first.y_px - 60))
    second = study(level).departures[0]
    assert second.size < first.size
    foot = second.y_px + 200 * second.size / 2
    assert 200 * second.size == pytest.approx(foot - 600, rel=0.02)  # its head on the horizon: eye 1.6 m
    assert np.isfinite(second.size)


def test_what_is_suggested_along_traced_edges_goes_into_their_set(house: Hand):
    """Two edges of the long wall are traced; what runs the same way is added to set A, the rest to new sets."""
    tool = take(house, "trace")
    known, view = facts(PUMPING[1]), rendered_camera(PUMPING[1])
    for edge in house_edges(known)["along"][:2]:
        start, end = view.seen(np.array(edge)).tolist()
        house.drag(tuple(start), tuple(end))
    traced = study(house).perspective.sets[0].edges
    assert len(traced) == 2
    house.click("Suggest sets of edges")
    house.bot.waitUntil(lambda: tool._suggested is not None, timeout=20_000)
    house.click("Take them")
    house.settle()
    sets = study(house).perspective.sets
    assert sets[0].edges[:2] == traced
    assert len(sets[0].edges) > 4
    assert [each.letter for each in sets] == list("ABCDE")[: len(sets)]
    points = house.window.computed.perspective().points
    assert len({each.letter for each in points}) == len(sets)
    assert house.window.computed.perspective().horizon.y_at(900) == pytest.approx(600, abs=15)


def test_photos_of_one_lens_tell_the_bow_together(empty: Hand, tmp_path: Path):
    """Three pictures through one lens, and one of another lens, which is left out."""
    for number in range(4):
        made = scene_with_lens(20_000 + number, 30.0, -0.15)
        tells = Image.Exif()
        tells.get_ifd(0x8769)[0xA405] = 31 if number == 1 else 30
        photo = tmp_path / f"house-{number}.jpg"
        Image.fromarray(made.picture()).save(photo, quality=90, exif=tells)
        empty.add_photo(photo)
    empty.go(4)
    tool = take(empty, "straighten")
    empty.click("Take the bow out")
    empty.bot.waitUntil(lambda: not study(empty).perspective.lens.plain, timeout=20_000)
    assert study(empty).perspective.lens.k1 == pytest.approx(-0.15, rel=0.04)
    assert "Told by 3 photos of the same lens." in tool._told
