"""The values station in the window: shapes by hand, the spot, reads, light, ladder, stepping back, way of working."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pypdfium2 as pdfium
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from shapely import contains_xy
from tests.studio.conftest import Hand, control, words_of
from tests.studio.test_pages import study, take

from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.craft.values.planes import area_of
from mild_compass.demo.glasshouse import PHOTOS
from mild_compass.plan.edits.sheet import change_sheet
from mild_compass.plan.edits.values import change_medium, change_values
from mild_compass.plan.edits.viewfinder import choose_paper, move_frame
from mild_compass.plan.framing import largest_frame
from mild_compass.plan.sheet import SheetPlan
from mild_compass.plan.tones import ValuePlan
from mild_compass.studio.derived.masses import DRAWN_PX
from mild_compass.studio.files.dialogs import Dialogs
from mild_compass.studio.files.page_makers import value_strip
from mild_compass.studio.taking_out import TIMES, picture_of


@pytest.fixture
def bench(empty: Hand) -> Hand:
    """The photo of the lantern bench, at the values, in three."""
    empty.add_photo(Path(PHOTOS / "lantern-bench.jpg"))
    empty.go(5)
    across = paper("A3", across=True)
    empty.window.session.apply(choose_paper(across))
    empty.window.session.apply(move_frame(largest_frame(empty.window.session.plan.references[0], across)))
    empty.window.session.apply(change_values(ValuePlan(3, "by hand", (35.0, 70.0))))
    empty.settle()
    return empty


def test_a_shape_is_pointed_at_joined_and_drawn_round_and_taken_back(bench: Hand):
    tool = take(bench, "shapes")
    assert bench.window.board.fill == "masses"
    control(tool, "It becomes").pick(2)
    bench.drag((1700, 150), (1700, 150))
    bench.settle()
    (first,) = study(bench).values.changes
    assert (first.kind, first.value, first.of) == ("shape", 2, 3)
    assert 0 < first.share < 1
    bench.drag((1700, 150), (1700, 150))
    assert "has that value already" in bench.window.notice.words.text()
    control(tool, "What is changed").pick("draw")
    bench.drag((400, 400), (400, 400))
    assert "Draw round" in bench.window.notice.words.text()
    bench.window.board.setFocus()
    before = bench.window.computed.masses.shares[0]
    control(tool, "It becomes").pick(0)
    _lasso(bench, [(300, 900), (700, 900), (700, 1100), (300, 1100)])
    bench.settle()
    assert study(bench).values.changes[1].kind == "area"
    assert bench.window.computed.masses.shares[0] > before
    control(tool, "What is changed").pick("join")
    bench.drag((500, 1000), (1000, 1120))
    bench.settle()
    assert study(bench).values.changes[2].value != 0
    bench.bot.keyClick(bench.window.board, Qt.Key.Key_Delete)
    bench.settle()
    assert len(study(bench).values.changes) == 2
    assert any(row.key == "by_hand" for row in bench.window.readings.readings)


def _lasso(hand: Hand, points: list[tuple[float, float]]) -> None:
    places = [hand.place(point) for point in points]
    board = hand.window.board
    hand.bot.mousePress(board, Qt.MouseButton.LeftButton, pos=places[0].toPoint())
    for place in places[1:]:
        hand.bot.mouseMove(board, place.toPoint())
    hand.bot.mouseRelease(board, Qt.MouseButton.LeftButton, pos=places[-1].toPoint())


def test_the_value_under_the_pointer_is_told_and_spots_are_compared(bench: Hand):
    tool = take(bench, "spot")
    bench.drag((1600, 900), (1600, 900))
    bench.drag((700, 730), (700, 730))
    text = tool._list.text()
    assert text.startswith("1  L* ")
    assert "Munsell" in text
    assert "darker than the one before" in text
    assert "value" in tool.tag()
    bench.bot.waitUntil(lambda: bench.window.computed.views.tone_view("traps") is not None, timeout=10_000)
    shown = bench.window.board.grab().toImage()
    tool._seen.pick("colour")
    assert bench.window.board.grab().toImage() != shown


def test_focus_and_marks_are_set_moved_and_taken_off_and_the_readings_follow(bench: Hand):
    tool = take(bench, "reads")
    bench.drag((330, 800), (330, 800))
    assert study(bench).reads.focus == pytest.approx((330, 800), abs=2)
    control(tool, "What a click marks").pick("face")
    bench.drag((900, 300), (900, 300))
    assert study(bench).reads.pulls[0].kind == "face"
    bench.drag((900, 300), (960, 340))
    assert study(bench).reads.pulls[0].x_px == pytest.approx(960, abs=2)
    bench.settle()
    keys = {row.key for row in bench.window.readings.readings}
    assert {"focus", "read_1", "hierarchy", "corner_pull"} <= keys
    control(tool, "Leave the focus open").click()
    assert study(bench).reads.focus is None
    bench.bot.keyClick(bench.window.board, Qt.Key.Key_Delete)
    assert study(bench).reads.pulls == ()


def test_light_changes_are_planned_changes_with_the_photo_as_it_was_beside(bench: Hand):
    tool = take(bench, "light")
    assert bench.window.companion.view.shown_looks is bench.window.computed.photo_looks
    control(tool, "Kind of change").pick("gradation")
    bench.drag((1700, 100), (1200, 400))
    bench.settle()
    assert study(bench).departures[0].kind == "gradation"
    assert bench.window.computed.looks is not bench.window.computed.photo_looks
    bench.click("Darken the corners")
    assert len(study(bench).departures) == 5
    bench.window.session.undo()
    assert len(study(bench).departures) == 1


def test_the_ladder_shows_four_rungs_and_one_of_them_is_taken(bench: Hand):
    tool = take(bench, "ladder")
    page = bench.window.middle.page("ladder")
    bench.bot.waitUntil(lambda: page.settled and page.tiles and page.tiles[3].image is not None, timeout=20_000)
    assert [tile.title for tile in page.tiles][1] == "Three values (now)"
    assert "shapes" in page.tiles[0].words[0]
    plain = page.grab().toImage()
    for key in (Qt.Key.Key_Q, Qt.Key.Key_W, Qt.Key.Key_E, Qt.Key.Key_R):
        bench.bot.keyPress(page, key)
        changed = page.grab().toImage() != plain
        bench.bot.keyRelease(page, key)
        assert changed == (key != Qt.Key.Key_W)  # masses are grey already
        assert page.grab().toImage() == plain
    page.choose("5")
    control(tool, "Take this number of values").click()
    assert (study(bench).values.count, study(bench).values.method) == (5, "found")


def test_stepping_back_takes_away_what_is_too_fine(bench: Hand):
    tool = take(bench, "afar")
    near = bench.window.board.grab().toImage()
    control(tool, "Stay there").click()
    bench.bot.waitUntil(lambda: bench.window.computed.views._afar is not None, timeout=10_000)
    bench.settle()
    assert bench.window.board.grab().toImage() != near
    bench.type_into(control(tool, "How far back").line, "30")
    assert "Between 1 and 10" in control(tool, "How far back").error
    bench.type_into(control(tool, "How far back").line, "9.1")
    assert "2.65 mm" in words_of(tool)
    take(bench, "masses")
    assert not bench.window.board.holds


def test_the_way_of_working_is_chosen_and_its_steps_are_printed(bench: Hand, tmp_path: Path, monkeypatch):
    tool = take(bench, "medium")
    page = bench.window.middle.page("medium")
    control(tool, "Way of working").pick("toned paper")
    bench.settle()
    assert study(bench).medium.medium == "toned paper"
    assert "charcoal" in words_of(tool).lower()
    assert page.tiles[0].title == "1  The paper"
    control(tool, "The paper that does most").click()
    bench.type_into(control(tool, "Value of the paper").line, "85")
    assert study(bench).medium.paper_value == 85
    bench.type_into(control(tool, "Value of the paper").line, "200")
    assert "between" in control(tool, "Value of the paper").error
    bench.type_into(control(tool, "Steps of the printed value scale").line, "99")
    bench.click("Save a value scale…")
    assert "between 2 and 20" in control(tool, "Steps of the printed value scale").error
    strip = tmp_path / "scale.pdf"
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: strip)
    bench.type_into(control(tool, "Steps of the printed value scale").line, "7")
    bench.click("Save a value scale…")
    bench.bot.waitUntil(strip.exists, timeout=10_000)
    target = tmp_path / "work.pdf"
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: target)
    bench.settle()
    bench.click("Save the steps as PDF…")
    bench.bot.waitUntil(target.exists, timeout=10_000)
    document = pdfium.PdfDocument(target)
    words = document[0].get_textpage().get_text_range()
    document.close()
    assert "The paper" in words
    assert "L*" in words
    assert "safety data sheet" in words


def test_a_value_scale_is_printed_with_as_many_patches_as_asked_for():
    document = pdfium.PdfDocument(value_strip(9))
    words = document[0].get_textpage().get_text_range()
    document.close()
    assert words.count("L*") == 9
    assert "L* 96" in words


def test_softer_edges_make_fewer_corners(bench: Hand):
    tool = take(bench, "masses")
    before = sum(len(border) for border in bench.window.computed.masses.borders_mm)
    bench.type_into(control(tool, "How round edges are drawn").line, "8 mm")
    bench.settle()
    assert sum(len(border) for border in bench.window.computed.masses.borders_mm) < 0.8 * before
    bench.type_into(control(tool, "How round edges are drawn").line, "-3")
    assert control(tool, "How round edges are drawn").error


def test_the_slider_makes_the_masses_simpler_at_once_and_as_one_step(bench: Hand):
    tool = take(bench, "masses")
    slide, before = control(tool, "How simple"), sum(bench.window.computed.masses.counts)
    slide.setSliderDown(True)
    for value in (60, 70, 82):
        slide.setValue(value)
        bench.rest()
    assert bench.window.session.in_gesture
    slide.setSliderDown(False)
    bench.settle()
    assert study(bench).values.simple == 82
    after = sum(bench.window.computed.masses.counts)
    assert 2 <= after < before
    assert f"{after} shapes" in tool._told.text()
    bench.window.session.undo()
    bench.settle()
    assert sum(bench.window.computed.masses.counts) == before
    slide.setValue(100)
    bench.settle()
    assert sum(bench.window.computed.masses.counts) == 2


def test_near_enough_the_outlines_themselves_are_painted(bench: Hand):
    board = bench.window.board
    bench.window.board.fill = "masses"
    drawn = bench.window.computed.drawn_masses
    assert drawn is not None
    assert drawn.image.width() == DRAWN_PX
    far = board.grab().toImage()
    for _ in range(24):
        board.zoom(1.25)
    bench.rest()
    near = board.grab().toImage()
    assert near != far
    greys = {near.pixelColor(x, 300).red() for x in range(200, 700)}
    assert len(greys) <= 4 * len(drawn.paths), "flat areas with an edge a pixel wide between them"


def test_detail_is_held_in_an_area_and_let_go_again(bench: Hand):
    tool = take(bench, "shapes")
    control(tool, "What is changed").pick("hold")
    bench.drag((400, 400), (400, 400))
    assert "Draw round" in bench.window.notice.words.text()
    before = sum(bench.window.computed.masses.counts)
    _lasso(bench, [(200, 200), (1000, 200), (1000, 1100), (200, 1100)])
    bench.settle()
    assert [each.kind for each in study(bench).values.areas] == ["hold"]
    assert sum(bench.window.computed.masses.counts) > before
    assert "detail held in an area" in [tool._list.item(row).text() for row in range(tool._list.count())]
    bench.window.board.setFocus()
    bench.bot.keyClick(bench.window.board, Qt.Key.Key_Delete)
    bench.settle()
    assert study(bench).values.areas == ()
    assert sum(bench.window.computed.masses.counts) == before
    detail = control(take(bench, "masses"), "Detail where it counts")
    detail.setValue(70)
    bench.settle()
    assert study(bench).values.detail == 70
    assert "Set a focus" in take(bench, "masses")._counts.text()


def test_an_edge_is_clicked_and_becomes_lost_and_is_left_as_the_photo_has_it(bench: Hand):
    tool = take(bench, "edges")
    assert "hard" in tool._told.text()
    assert bench.window.board.drawing().layer("edges") is not None
    masses = bench.window.computed.masses
    border = max(masses.borders_mm, key=len)
    x, y = bench.window.computed.worked().frame_map.to_photo(border[len(border) // 2]).tolist()
    bench.drag((x, y), (x, y))
    bench.settle()
    (change,) = study(bench).values.edges
    assert change.kind == "lost"
    control(tool, "A clicked edge becomes").pick("soft")
    bench.drag((x, y), (x, y))
    assert [each.kind for each in study(bench).values.edges] == ["soft"]
    bench.click("Leave it as the photo has it")
    bench.settle()
    assert study(bench).values.edges == ()


def test_a_plane_is_drawn_round_named_turned_and_removed(bench: Hand):
    tool = take(bench, "planes")
    bench.drag((-500, 500), (-500, 500))
    assert "outside the picture" in bench.window.notice.words.text()
    _lasso(bench, [(300, 700), (900, 700), (900, 1000), (300, 1000)])
    bench.settle()
    (plane,) = study(bench).values.planes
    assert (plane.name, plane.way) == ("top", "angle")
    strokes = len(bench.window.board.drawing().layer("planes").strokes)
    assert strokes > 3
    bench.type_into(control(tool, "Angle of the strokes, up from level").line, "10")
    bench.type_into(control(tool, "Name of the plane").line, "table")
    bench.type_into(control(tool, "Angle of the strokes, up from level").line, "999")
    assert "It stays as it was." in control(tool, "Angle of the strokes, up from level").error
    assert (study(bench).values.planes[0].angle_deg, study(bench).values.planes[0].name) == (10, "table")
    control(tool, "Strokes run").pick(("upright", ""))
    bench.click("Remove the plane")
    assert study(bench).values.planes == ()


def test_a_shape_pointed_at_becomes_a_plane_and_a_click_takes_it_up_again(bench: Hand):
    tool = take(bench, "planes")
    bench.drag((500, 500), (500, 500))
    (plane,) = study(bench).values.planes
    assert contains_xy(area_of(plane.points), 500, 500)
    assert bench.window.board.drawing().layer("planes").strokes
    bench.drag((500, 500), (500, 500))
    assert study(bench).values.planes == (plane,)
    assert tool._chosen == plane.id
    bench.window.session.undo()
    assert study(bench).values.planes == ()


def test_what_is_said_of_edges_and_planes_leaves_masses_and_edges_where_they_are(bench: Hand):
    """Nothing is measured anew for it, so nothing goes from the board meanwhile."""
    take(bench, "edges")
    masses = bench.window.computed.measured_masses
    assert masses is not None
    border = max(masses.borders_mm, key=len)
    x, y = bench.window.computed.worked().frame_map.to_photo(border[len(border) // 2]).tolist()
    bench.drag((x, y), (x, y))
    assert len(study(bench).values.edges) == 1
    assert bench.window.computed.measured_masses is masses
    bench.window.session.apply(change_values(replace(study(bench).values, simple=70.0)))
    assert bench.window.board.drawing().layer("edges").strokes, "the last ones until the new ones are there"
    bench.settle()
    assert bench.window.computed.measured_masses is not masses


def test_so_many_lines_are_chosen_on_the_sheet_with_the_time_they_take(bench: Hand):
    bench.go(6)
    tool = take(bench, "layers")
    bench.window.session.apply(change_sheet(SheetPlan(layers=("frame", "lines"))))
    bench.settle()
    assert control(tool, "How many of the photo's lines").value == -1
    assert "to trace." in tool._traced.text()
    control(tool, "How many of the photo's lines").pick(12)
    bench.settle()
    assert len(bench.window.board.drawing().layer("lines").strokes) == 12
    assert tool._traced.text().startswith("12 lines")
    assert control(tool, "How many of the photo's lines").value == 12


def _greys(image: QImage) -> np.ndarray:
    grey = image.convertToFormat(QImage.Format.Format_Grayscale8)
    return np.array(grey.constBits(), np.int64).reshape(grey.height(), -1)[:, : grey.width()]


def test_the_board_looks_the_same_painted_anew_and_from_what_is_kept(bench: Hand):
    take(bench, "masses")
    board = bench.window.board
    board.zoom(1.1)
    anew, again, kept = (_greys(board.grab().toImage()) for _ in range(3))
    assert len(np.unique(anew)) > 20
    assert np.abs(anew - again).max() <= 4
    assert (again == kept).all()


def test_a_picture_taken_along_is_finer_than_the_screen(bench: Hand):
    take(bench, "masses")
    view = bench.window.board
    for _ in range(2):  # also of what is kept for the screen
        view.grab()
        taken = _greys(picture_of(view))
        inner = taken[taken.shape[0] // 4 : taken.shape[0] * 3 // 4, taken.shape[1] // 4 : taken.shape[1] * 3 // 4]
        changes = (inner[1:] != inner[:-1]).any(axis=1)
        assert min(changes[k::TIMES].mean() for k in range(TIMES)) > 0.5, "not each pixel of the screen several times"


def test_the_scale_stays_where_it_is_while_the_masses_are_found(bench: Hand):
    tool = take(bench, "masses")
    there, words = tool._scale.pos(), tool._told.text()
    bench.window.session.preview(change_values(ValuePlan(3, "by hand", (33.0, 70.0))))
    bench.bot.wait(1)
    assert tool._told.text() != words
    assert tool._scale.pos() == there
    bench.window.session.cancel()
    bench.settle()
    assert tool._scale.pos() == there


def test_the_best_paper_is_told_on_the_bench_once_the_steps_are_there(bench: Hand):
    tool = take(bench, "medium")
    bench.settle()
    page = bench.window.middle.page("medium")
    bench.window.session.apply(change_medium(replace(study(bench).medium, medium="toned paper", paper_value=None)))
    bench.settle()
    best = round(page.work.paper_value, 1)
    assert best > 0
    assert control(tool, "Value of the paper").line.text().startswith(f"{best:g}")
    bench.window.session.apply(change_medium(replace(study(bench).medium, tolerance=6.0)))
    assert page.work is not None, "until the new steps are there the last ones stay"
    bench.settle()
    control(tool, "The paper that does most").click()
    bench.settle()
    assert study(bench).medium.paper_value == round(page.work.paper_value, 1)
