"""The pages with rows of pictures, and what the viewfinder's further instruments do, by mouse and keys."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QEvent, QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QGuiApplication, QImage, QWheelEvent
from PySide6.QtWidgets import QApplication
from tests.conftest import jpeg
from tests.studio.conftest import Hand, control, words_of

from mild_compass.plan.study import Study


def study(hand: Hand) -> Study:
    found = hand.window.session.plan.study
    assert found is not None
    return found


def take(hand: Hand, name: str):
    """Take up an instrument of the station by its name."""
    hand.window.bench.take_up(name)
    hand.settle()
    return next(each for each in hand.window.bench.instruments if each.name == name)


def click_tile(hand: Hand, page, key: str, modifier=Qt.KeyboardModifier.NoModifier, twice: bool = False) -> None:
    place = page.place(key).center()
    (hand.bot.mouseDClick if twice else hand.bot.mouseClick)(page, Qt.MouseButton.LeftButton, modifier, place)
    hand.settle()


@pytest.fixture
def three(hand: Hand, tmp_path: Path) -> Hand:
    """Three photos on the contact sheet, one of them upright."""
    for number, (width, height) in enumerate(((600, 400), (300, 450)), 2):
        path = tmp_path / f"photo-{number}.jpg"
        path.write_bytes(jpeg(width, height, seed=number))
        hand.add_photo(path)
    hand.go(1)
    return hand


def keys(hand: Hand) -> list[str]:
    return [photo.id for photo in hand.window.session.plan.references]


# -- the contact sheet ----------------------------------------------------------------------------------------


def test_photos_stand_at_equal_height_and_keep_their_shape(three: Hand):
    sheet = three.window.middle.contact_sheet
    places = [sheet.place(key) for key in keys(three)]
    assert len({place.height() for place in places}) == 1
    for place, photo in zip(places, three.window.session.plan.references, strict=True):
        assert place.width() / place.height() == pytest.approx(photo.width_px / photo.height_px, abs=0.02)
        assert sheet.rect().contains(place)


def test_a_photo_is_judged_with_a_reason_and_told_what_drew_one_to_it(three: Hand):
    sheet, photos = three.window.middle.contact_sheet, take(three, "photos")
    click_tile(three, sheet, keys(three)[1])
    control(photos, "Kept or set aside").pick("set aside")
    three.type_into(control(photos, "Reason").line, "a pose")
    three.type_into(control(photos, "What drew you to it").line, "the light")
    photo = three.window.session.plan.references[1]
    assert (photo.standing, photo.reason, photo.drew_me) == ("set aside", "a pose", "the light")
    assert sheet.tiles[1].aside
    assert "set aside: a pose" in sheet.tiles[1].words
    three.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)


def test_photos_are_put_in_an_order_of_preference(three: Hand):
    take(three, "photos")
    first, second, third = keys(three)
    click_tile(three, three.window.middle.contact_sheet, third)
    three.click("◂ Earlier")
    assert keys(three) == [first, third, second]
    three.click("◂ Earlier")
    three.click("Later ▸")
    assert keys(three) == [first, third, second]


def test_a_double_click_works_from_a_photo_and_arrow_keys_go_along_the_row(three: Hand):
    sheet = three.window.middle.contact_sheet
    sheet.setFocus()
    three.bot.keyClick(sheet, Qt.Key.Key_Right)
    assert sheet.chosen == keys(three)[1]
    click_tile(three, sheet, keys(three)[2], twice=True)
    assert study(three).ground == keys(three)[2]


def test_values_only_and_stepping_back(three: Hand):
    sheet, photos = three.window.middle.contact_sheet, take(three, "photos")
    colour, height = sheet.tiles[0].image, sheet.place(keys(three)[0]).height()
    control(photos, "Values only").click()
    assert sheet.tiles[0].image.isGrayscale()
    assert sheet.tiles[0].image != colour
    control(photos, "From three metres").click()
    assert sheet.place(keys(three)[0]).height() < height / 2
    three.window.margin_line.held.emit("mirror", True)
    assert sheet.mirrored
    three.window.margin_line.held.emit("mirror", False)


def test_a_hundred_photos_scroll(three: Hand, qapp):
    from mild_compass.studio.pages.rows import Tile

    sheet = three.window.middle.contact_sheet
    sheet.show_tiles([Tile(str(k), 1.5, None, f"photo {k}") for k in range(100)], lines=2)
    bar = sheet._scroll.verticalScrollBar()
    qapp.processEvents()
    assert bar.maximum() > 0
    sheet.choose("99")
    assert bar.value() > bar.maximum() / 2


# -- bringing photos in ---------------------------------------------------------------------------------------


def test_a_folder_gives_its_photos_and_nothing_else(empty: Hand, tmp_path: Path):
    folder = tmp_path / "motif"
    folder.mkdir()
    for number in range(3):
        (folder / f"{number}.jpg").write_bytes(jpeg(seed=number))
    (folder / "notes.txt").write_text("a note")
    empty.window.take_files([folder])
    empty.bot.waitUntil(lambda: len(empty.window.session.plan.references) == 3, timeout=10_000)
    assert [photo.name for photo in empty.window.session.plan.references] == ["0.jpg", "1.jpg", "2.jpg"]
    bare = tmp_path / "bare"
    bare.mkdir()
    empty.window.take_files([bare])
    assert "no photo in the folder bare" in empty.window.notice.words.text()


def test_a_picture_is_pasted_and_so_is_a_copied_file(hand: Hand, tmp_path: Path):
    pixels = np.random.default_rng(2).integers(0, 255, (40, 60, 3), np.uint8)
    QGuiApplication.clipboard().setImage(QImage(pixels.tobytes(), 60, 40, 180, QImage.Format.Format_RGB888))
    hand.window.files.photos.paste()
    hand.bot.waitUntil(lambda: len(hand.window.session.plan.references) == 2, timeout=10_000)
    assert hand.window.session.plan.references[1].name == "pasted-1.png"
    file = tmp_path / "copied.jpg"
    file.write_bytes(jpeg(seed=8))
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(file))])
    QGuiApplication.clipboard().setMimeData(mime)
    hand.window.files.photos.paste()
    hand.bot.waitUntil(lambda: len(hand.window.session.plan.references) == 3, timeout=10_000)
    QGuiApplication.clipboard().setText("words")
    hand.window.files.photos.paste()
    assert "no picture on the clipboard" in hand.window.notice.words.text()


def test_many_photos_show_progress_and_can_be_called_off(hand: Hand, tmp_path: Path):
    paths = []
    for number in range(12):
        path = tmp_path / f"many-{number}.jpg"
        path.write_bytes(jpeg(seed=20 + number))
        paths.append(path)
    hand.window.take_files(paths)
    assert hand.window.files.photos.progress == (0, 12)
    assert hand.window.notice.isVisible()
    hand.click("Call it off")
    assert hand.window.files.photos.progress is None
    assert "were not added" in hand.window.notice.words.text()
    hand.settle()
    assert len(hand.window.session.plan.references) < 13


def test_each_photo_that_cannot_be_read_is_named_when_all_is_done(hand: Hand, tmp_path: Path):
    names = ("one.jpg", "two.jpg", "good.jpg")
    for name in names:
        (tmp_path / name).write_bytes(jpeg(seed=5)[:700] if name != "good.jpg" else jpeg(seed=6))
    hand.window.take_files([tmp_path / name for name in names])
    hand.bot.waitUntil(lambda: len(hand.window.session.plan.references) == 2, timeout=10_000)
    words = hand.window.notice.words.text()
    assert "one.jpg" in words
    assert "two.jpg" in words


def test_the_same_photo_under_another_name_is_recognised(hand: Hand, tmp_path: Path):
    twin = tmp_path / "twin.jpg"
    twin.write_bytes(jpeg())
    hand.window.take_files([twin])
    hand.bot.waitUntil(lambda: "already in the plan, as quay.jpg" in hand.window.notice.words.text(), timeout=10_000)
    assert len(hand.window.session.plan.references) == 1


def test_a_photo_that_vanishes_while_the_plan_is_open_gives_a_sentence_and_the_plan_lives(three: Hand):
    folder = three.window.session.workspace.photos
    other = three.window.session.plan.references[1]
    folder.file(other.sha256).unlink()
    from mild_compass.plan.edits.references import use_reference

    three.window.session.apply(use_reference(other.id))
    three.bot.waitUntil(lambda: other.name in three.window.notice.words.text(), timeout=10_000)
    assert len(three.window.session.plan.references) == 3


# -- side by side, and lending --------------------------------------------------------------------------------


def test_picked_photos_stand_side_by_side_at_one_scale_and_move_together(three: Hand):
    sheet = three.window.middle.contact_sheet
    click_tile(three, sheet, keys(three)[0], Qt.KeyboardModifier.ControlModifier)
    click_tile(three, sheet, keys(three)[2], Qt.KeyboardModifier.ControlModifier)
    take(three, "compare")
    page = three.window.middle.page("compare")
    assert [photo.id for photo in page.photos] == [keys(three)[0], keys(three)[2]]
    before = page.grab().toImage()
    at = QPointF(page.rect().center())
    wheel = QWheelEvent(
        at, page.mapToGlobal(at), at.toPoint() * 0, at.toPoint() * 0 + QPointF(0, 480).toPoint(),
        Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(page, wheel)
    assert page.zoom > 1.5
    assert page.grab().toImage() != before
    page.fit()
    assert page.zoom == 1.0
    page.hold("values", True)
    assert page.grab().toImage() != before


def test_a_better_figure_is_cut_out_placed_moved_mirrored_and_sized(three: Hand):
    take(three, "cut out")
    page = three.window.middle.page("cut out")
    assert page.photo.id != study(three).ground
    area, corners = page.page(), ((0.3, 0.3), (0.6, 0.3), (0.6, 0.8), (0.3, 0.8))
    places = [QPointF(area.left() + x * area.width(), area.top() + y * area.height()) for x, y in corners]
    three.mouse(QEvent.Type.MouseButtonPress, places[0], page)
    for place in places[1:]:
        three.mouse(QEvent.Type.MouseMove, place, page)
    three.mouse(QEvent.Type.MouseButtonRelease, places[3], page)
    three.settle()
    (lent,) = study(three).departures
    assert (lent.kind, lent.source) == ("borrow", page.photo.id)
    assert three.window.station == "viewfinder"
    changes = next(each for each in three.window.bench.instruments if each.name == "changes")
    three.type_into(changes._tall.line, "90 mm")
    sized = study(three).departures[0]
    _, top, _, bottom = sized.bounds
    scale = three.window.computed.worked().frame_map.mm_per_px
    assert (bottom - top) * sized.size * scale == pytest.approx(90, abs=0.1)
    changes._mirrored.click()
    assert study(three).departures[0].mirrored
    here = (sized.x_px, sized.y_px)
    three.drag(here, (here[0] + 40, here[1] - 10))
    moved = study(three).departures[0]
    assert (moved.x_px, moved.y_px) == pytest.approx((here[0] + 40, here[1] - 10), abs=2)


# -- planned changes ------------------------------------------------------------------------------------------


def around(hand: Hand, *points: tuple[float, float]) -> None:
    """Draw a line through points of the photo with the button held."""
    places = [hand.place(point) for point in points]
    hand.mouse(QEvent.Type.MouseButtonPress, places[0])
    for place in places[1:]:
        hand.mouse(QEvent.Type.MouseMove, place)
    hand.mouse(QEvent.Type.MouseButtonRelease, places[-1])
    hand.settle()


def test_an_area_is_drawn_named_explained_and_ticked_off(hand: Hand):
    changes = take(hand, "changes")
    before = hand.window.computed.looks.picture.rgb.copy()
    control(changes, "Kind of change").pick("black out")
    around(hand, (200, 120), (320, 120), (320, 240), (200, 240))
    hand.type_into(control(changes, "What it is").line, "the nets")
    hand.type_into(control(changes, "Why").line, "too busy")
    (planned,) = study(hand).departures
    assert (planned.kind, planned.name, planned.reason) == ("black out", "the nets", "too busy")
    assert (hand.window.computed.looks.picture.rgb != before).any()
    control(changes, "What became of it").pick("kept")
    assert "the nets ✓" in control(changes, "Planned changes").item(0).text()
    hand.window.board.setFocus()
    hand.bot.keyClick(hand.window.board, Qt.Key.Key_Delete)
    hand.settle()
    assert study(hand).departures == ()
    assert (hand.window.computed.looks.picture.rgb == before).all()


def test_a_click_or_a_scratch_plans_nothing_and_says_how(hand: Hand):
    changes = take(hand, "changes")
    around(hand, (200, 120), (200, 120))
    assert study(hand).departures == ()
    assert "flattened" in hand.window.notice.words.text()
    control(changes, "Kind of change").pick("extend a line")
    around(hand, (300, 200), (300, 100))
    assert study(hand).departures[0].points[1] == pytest.approx((300, 100), abs=2)


# -- areas to keep, the turned viewfinder ---------------------------------------------------------------------


def test_an_area_to_keep_is_drawn_renamed_and_taken_off(hand: Hand):
    keep = take(hand, "keep")
    hand.drag((200, 100), (300, 260))
    hand.type_into(control(keep, "What is kept").line, "the mast")
    (area,) = study(hand).keep
    assert (area.left_px, area.bottom_px, area.name) == (
        pytest.approx(200, abs=2),
        pytest.approx(260, abs=2),
        "the mast",
    )
    hand.drag((200, 100), (200, 100))
    assert len(study(hand).keep) == 1
    hand.click("Take it off")
    assert study(hand).keep == ()


def test_the_viewfinder_is_turned_by_its_knob_flipped_and_led_beyond_the_photo(hand: Hand):
    frame = take(hand, "frame")
    frame._set_share(50)
    hand.settle()
    knob = QPointF(*frame._knob())
    hand.mouse(QEvent.Type.MouseButtonPress, knob)
    hand.mouse(QEvent.Type.MouseMove, knob + QPointF(40, 0))
    hand.mouse(QEvent.Type.MouseButtonRelease, knob + QPointF(40, 0))
    hand.settle()
    assert 1 < abs(study(hand).frame.turn_deg) < 45
    hand.type_into(control(frame, "Turn of the viewfinder in degrees, clockwise").line, "0")
    control(frame, "Left and right changed over").click()
    assert study(hand).frame.flipped
    control(frame, "Left and right changed over").click()
    control(frame, "May reach beyond the photo").click()
    middle = study(hand).frame.middle
    hand.drag(middle, (10, middle[1]))
    hand.settle()
    assert study(hand).frame.x_px < 0
    assert any(row.key == "bare_left" for row in hand.window.readings.readings)
    control(frame, "May reach beyond the photo").click()
    assert study(hand).frame.x_px >= -1e-9
    hand.type_into(control(frame, "Turn of the viewfinder in degrees, clockwise").line, "90")
    assert "Between" in control(frame, "Turn of the viewfinder in degrees, clockwise").error


# -- find frames ----------------------------------------------------------------------------------------------


def test_frames_are_found_as_soon_as_the_tool_is_in_hand_and_a_double_click_takes_one(hand: Hand):
    find = take(hand, "find")
    page = hand.window.middle.page("found frames")
    assert 0 < len(page.found) <= 10
    best = page.found[0]
    find._ticks["one side"].click()
    assert not find._ticks["level"].isChecked()
    hand.settle()
    assert page.found
    wanted = page.found[1].frame
    click_tile(hand, page, "1", twice=True)
    assert study(hand).frame == wanted
    assert hand.window.board.instrument.name == "frame"
    hand.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert study(hand).frame != wanted
    assert best.reasons


def test_a_wish_that_no_frame_meets_is_named_on_the_page(hand: Hand):
    take(hand, "keep")
    hand.drag((5, 5), (595, 395))
    take(hand, "find")
    page = hand.window.middle.page("found frames")
    assert page.found == []
    assert "larger than any frame" in page.words[1]


def test_with_nothing_ticked_there_is_nothing_to_find(hand: Hand):
    find = take(hand, "find")
    for tick in find._ticks.values():
        if tick.isChecked():
            tick.click()
    hand.settle()
    assert hand.window.middle.page("found frames").words[0] == "Nothing is ticked"


def test_a_found_frame_can_be_kept_as_a_study_of_its_own(hand: Hand):
    find = take(hand, "find")
    page = hand.window.middle.page("found frames")
    before, wanted = study(hand), page.found[0].frame
    control(find, "Keep it as a study").click()
    hand.settle()
    assert study(hand).id != before.id
    assert study(hand).frame == wanted
    assert hand.window.session.plan.studies[0] == before


# -- the studies wall -----------------------------------------------------------------------------------------


def test_studies_are_hung_looked_at_in_every_way_renamed_and_one_is_chosen_with_a_reason(hand: Hand):
    wall = take(hand, "wall")
    page = hand.window.middle.page("studies wall")
    hand.click("Duplicate")
    hand.settle()
    assert [tile.title for tile in page.tiles] == ["Study A", "Study B"]
    images = []
    for way in ("colour", "values", "masses"):
        control(wall, "What the wall shows").pick(way)
        images.append(page.tiles[0].image)
    assert images[1].isGrayscale()
    assert images[0] != images[1] != images[2]
    click_tile(hand, page, hand.window.session.plan.studies[1].id)
    hand.type_into(control(wall, "Name of the study").line, "low")
    assert hand.window.session.plan.studies[1].name == "low"
    hand.click("Choose it for the sheet")
    assert "Say in a few words" in control(wall, "Why this one").error
    hand.type_into(control(wall, "Why this one").line, "more sky")
    assert study(hand).name == "low"
    assert study(hand).chosen_because == "more sky"
    assert "more sky" in hand.window.session.plan.log[-1].text
    hand.click("Delete")
    assert len(hand.window.session.plan.studies) == 1
    hand.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert len(hand.window.session.plan.studies) == 2


def test_from_across_the_room_the_sheet_looks_as_small_as_it_would(hand: Hand):
    """At 3 m a sheet 297 mm high fills a fifth of what it would at the screen's 0.6 m: 59.4 mm."""
    wall = take(hand, "wall")
    page = hand.window.middle.page("studies wall")
    hand.type_into(control(wall, "Distance in metres").line, "3")
    height = page.place(study(hand).id).height()
    paper = hand.window.session.plan.paper.height_mm
    assert height == pytest.approx(paper / 5 * page.logicalDpiY() / 25.4, abs=6)
    hand.type_into(control(wall, "Distance in metres").line, "40")
    assert "Between 1 and 10" in control(wall, "Distance in metres").error
    control(wall, "Upside down").click()
    assert page.upside_down


# -- sums and rules -------------------------------------------------------------------------------------------


def test_one_length_measured_on_a_print_converts_every_other(hand: Hand):
    """A print on which the frame is half as wide as on the sheet: 165 mm there become 330 mm."""
    sums = take(hand, "measure")
    control(sums, "What was measured").pick("frame width")
    half_mm = hand.window.session.plan.paper.picture_width_mm / 2
    hand.type_into(control(sums, "Its length on the print or screen").line, f"{half_mm} mm")
    hand.type_into(sums._there.line, "165 mm")
    assert "becomes 330.0 mm" in words_of(sums)
    hand.type_into(control(sums, "Ratio").line, "3:4")
    hand.click("Draw in it upright")
    assert hand.window.session.plan.paper.ratio == pytest.approx(3 / 4)
    hand.click("Across")
    assert hand.window.session.plan.paper.ratio == pytest.approx(4 / 3)
    hand.type_into(control(sums, "Ratio").line, "0:4")
    assert control(sums, "Ratio").error
    hand.type_into(sums._head.line, "20 mm")
    assert "160.0 mm tall" in words_of(sums)  # Vitruvius: eight heads


def test_a_school_and_a_threshold_change_what_the_readings_say(hand: Hand):
    rules = take(hand, "rules")
    control(rules, "School").pick("thirds")
    assert study(hand).school == "thirds"
    hand.type_into(rules._entries["dead_centre"].line, "12")
    assert study(hand).rules[0].value == pytest.approx(0.12)
    hand.type_into(rules._entries["dead_centre"].line, "300")
    assert "out of range" in rules._entries["dead_centre"].error
    hand.click("Take the school's own")
    assert study(hand).rules == ()


def test_a_reading_is_silenced_with_a_reason_and_speaks_again(hand: Hand):
    hand.settle()
    panel = hand.window.readings
    row = next(row for row in panel.readings if row.verdict != "fine")
    card = next(card for card in panel._cards if card._reading is row)
    card._quiet.click()
    hand.type_into(card._why, "it is meant so")
    hand.settle()
    assert all(each.key != row.key for each in panel.readings)
    assert study(hand).silenced[0].reason == "it is meant so"
    assert "it is meant so" in hand.window.session.plan.log[-1].text
    panel._silent.click()
    hand.settle()
    assert any(each.key == row.key for each in panel.readings)


def test_pictures_of_every_odd_shape_can_be_worked_with(empty: Hand, tmp_path: Path):
    """One pixel, one pixel wide and very long, grey, with transparency: the window stays and says something."""
    for number, (mode, size) in enumerate((("RGB", (1, 1)), ("L", (3, 900)), ("RGBA", (64, 64)), ("P", (40, 30)))):
        packed = io.BytesIO()
        Image.new(mode, size, 7 * number).save(packed, "PNG")
        path = tmp_path / f"odd-{number}.png"
        path.write_bytes(packed.getvalue())
        empty.add_photo(path)
        empty.go(1)
        click_tile(empty, empty.window.middle.contact_sheet, keys(empty)[-1], twice=True)
        empty.go(2)
        take(empty, "find")
        take(empty, "wall")
        take(empty, "frame")
    assert len(keys(empty)) == 4
