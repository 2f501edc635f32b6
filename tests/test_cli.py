"""The same work without a window."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pypdfium2 as pdfium
import pytest
from PIL import Image
from tests.conftest import jpeg

from mild_compass.cli import main
from mild_compass.craft.stations import STATIONS
from mild_compass.demo import plan_of
from mild_compass.demo.glasshouse import PHOTOS
from mild_compass.plan import archive
from mild_compass.plan.edits.departures import add_departure
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.stations import STATION_NAMES
from mild_compass.plan.study import Departure


@pytest.fixture
def photo(tmp_path: Path) -> Path:
    path = tmp_path / "quay.jpg"
    path.write_bytes(jpeg())
    return path


@pytest.fixture
def plan_file(photo: Path, tmp_path: Path) -> Path:
    path = tmp_path / "quay.mildplan"
    words = ["new", str(photo), "-o", str(path), "--sheet", "A4 across", "--margin", "10mm", "--frame", "50,60,300,200"]
    assert main(words) == 0
    return path


def test_new_makes_a_plan_with_the_sheet_and_the_frame_fitted_to_it(plan_file, tmp_path):
    plan = archive.read(plan_file, PhotoFolder(tmp_path / "in"))
    assert plan.name == "quay"
    assert (plan.paper.width_mm, plan.paper.height_mm, plan.paper.margin_mm) == (297, 210, 10)
    assert plan.study is not None
    frame = plan.study.frame
    assert frame.width_px / frame.height_px == pytest.approx(277 / 190)
    assert frame.x_px + frame.width_px / 2 == pytest.approx(200)


def test_a_sheet_of_the_pages_size_is_printed_on_one_a_larger_one_on_the_usual_pages(plan_file, photo, tmp_path):
    large = tmp_path / "large.mildplan"
    assert main(["new", str(photo), "-o", str(large), "--sheet", "A3"]) == 0
    for plan, pages in ((plan_file, 1), (large, 4)):
        target = tmp_path / "pages.pdf"
        assert main(["sheet", str(plan), "-o", str(target)]) == 0
        document = pdfium.PdfDocument(target)
        assert len(document) == pages
        assert sorted(document[0].get_size()) == pytest.approx([210 / 25.4 * 72, 297 / 25.4 * 72], abs=0.3)
        document.close()


@pytest.mark.parametrize(("size", "lies"), [((600, 400), True), ((400, 600), False)])
def test_a_sheet_lies_as_the_photo_lies_until_it_is_told_otherwise(tmp_path, size, lies):
    photo, told = tmp_path / "photo.jpg", ("A3 upright", "A3 across")[not lies]
    photo.write_bytes(jpeg(*size))
    for words, across in (("A3", lies), (told, not lies)):
        target = tmp_path / "laid.mildplan"
        assert main(["new", str(photo), "-o", str(target), "--sheet", words]) == 0
        assert archive.read(target, PhotoFolder(tmp_path / "in")).paper.across is across


def test_several_photos_make_one_plan_with_several_references(photo, tmp_path):
    other = tmp_path / "yard.jpg"
    other.write_bytes(jpeg(300, 500, seed=2))
    target = tmp_path / "two.mildplan"
    assert main(["new", str(photo), str(other), "-o", str(target)]) == 0
    assert [r.name for r in archive.read(target, PhotoFolder(tmp_path / "in")).references] == ["quay.jpg", "yard.jpg"]


def test_readings_as_json_hold_every_station_with_numbers_and_units(plan_file, capsys):
    assert main(["readings", str(plan_file), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert list(found) == list(STATION_NAMES) == [each.name for each in STATIONS]
    sharpness = next(each for each in found["viewfinder"] if each["key"] == "sharpness")
    assert sharpness["unit"] == "dpi"
    assert sharpness["number"] == pytest.approx(_frame_width(plan_file) / (277 / 25.4), abs=0.1)


def _frame_width(plan_file: Path) -> float:
    study = archive.read(plan_file, PhotoFolder(plan_file.parent / "width")).study
    assert study is not None
    return study.frame.width_px


def test_readings_of_one_station_as_sentences(plan_file, capsys):
    assert main(["readings", str(plan_file), "--station", "values"]) == 0
    out = capsys.readouterr().out
    assert out.startswith("Values\n")
    assert "% of the picture" in out


def test_sheet_writes_a_pdf_with_the_asked_grid_tiles_and_layers(plan_file, tmp_path):
    target = tmp_path / "sheet.pdf"
    assert main(["sheet", str(plan_file), "-o", str(target), "--tiles", "A4", "--grid", "20mm", "--mirrored"]) == 0
    document = pdfium.PdfDocument(target)
    assert len(document) > 1
    document.close()
    assert main(["sheet", str(plan_file), "-o", str(target), "--layers", "frame"]) == 0
    document = pdfium.PdfDocument(target)
    assert len(document) == 1
    document.close()


def test_the_sheet_is_corrected_for_the_printer_and_the_photo_print_has_the_squares(plan_file, tmp_path):
    target, photo_print = tmp_path / "sheet.pdf", tmp_path / "photo.pdf"
    words = ["sheet", str(plan_file), "-o", str(target), "--tiles", "A5", "--overlap", "20mm", "--printer", "98.7x100"]
    assert main(words) == 0
    document = pdfium.PdfDocument(target)
    assert len(document) == 6
    document.close()
    assert main(["sheet", str(plan_file), "-o", str(photo_print), "--photo-print", "--squares", "8"]) == 0
    document = pdfium.PdfDocument(photo_print)
    assert document[0].get_width() * 25.4 / 72 == pytest.approx(297, abs=0.1)  # 208 mm wide, on an A4 page across
    assert "H" in document[0].get_textpage().get_text_bounded()
    document.close()


@pytest.mark.parametrize(
    ("name", "start"), [("q.csv", b"kind,name"), ("q.md", b"# quay"), ("q.svg", b"<?xml"), ("q.png", b"\x89PNG")]
)
def test_export_writes_what_the_suffix_names(plan_file, tmp_path, name, start):
    target = tmp_path / name
    assert main(["export", str(plan_file), "-o", str(target), "--dpi", "72"]) == 0
    assert target.read_bytes().startswith(start)
    if name.endswith(".png"):
        with Image.open(target) as picture:
            assert picture.size == (round(297 / 25.4 * 72), round(210 / 25.4 * 72))


def test_planned_departures_are_in_the_printed_picture(plan_file, tmp_path):
    """The middle of the sheet is covered with one plain dark: it prints as dark as planned, the corner as before."""
    folder = PhotoFolder(tmp_path / "in")
    plan = archive.read(plan_file, folder)
    x, y = plan.study.frame.middle
    area = ((x - 40, y - 40), (x + 40, y - 40), (x + 40, y + 40), (x - 40, y + 40))
    changed = add_departure(Departure("d1", "black out", area, value=10.0)).apply(plan, "2026-05-01T12:00:00+02:00")
    archive.write(plan_file, changed, folder, None)
    assert main(["sheet", str(plan_file), "-o", str(tmp_path / "sheet.pdf")]) == 0
    page = pdfium.PdfDocument(tmp_path / "sheet.pdf")[0].render(scale=1).to_pil().convert("L")
    assert page.getpixel((page.width // 2 + 5, page.height // 2 + 5)) < 45
    assert page.getpixel((page.width // 8, page.height // 2)) > 45


@pytest.mark.parametrize(
    ("words", "sentence"),
    [
        (["readings", "gone.mildplan"], "There is no file gone.mildplan"),
        (["new", "gone.jpg", "-o", "x.mildplan"], "gone.jpg is not there"),
        (["new", "PHOTO", "-o", "x.mildplan", "--sheet", "elephant"], "no sheet called elephant"),
        (["new", "PHOTO", "-o", "x.mildplan", "--margin", "lots"], "not a length"),
        (["new", "PHOTO", "-o", "x.mildplan", "--margin", "200mm"], "margin"),
        (["new", "PHOTO", "-o", "x.mildplan", "--frame", "1,2,3"], "not a frame"),
        (["sheet", "PLAN", "-o", "s.pdf", "--grid", "1mm"], "squares of the grid"),
        (["sheet", "PLAN", "-o", "s.pdf", "--grid", "0mm"], "squares of the grid"),
        (["sheet", "PLAN", "-o", "s.pdf", "--layers", "sky"], "no layer sky"),
        (["sheet", "PLAN", "-o", "s.pdf", "--printer", "short"], "98.7x100"),
        (["sheet", "PLAN", "-o", "s.pdf", "--printer", "50x100"], "between 90 and 110"),
        (["sheet", "PLAN", "-o", "s.pdf", "--tiles", "A4", "--overlap", "190mm"], "smaller overlap"),
        (["sheet", "PLAN", "-o", "s.pdf", "--grid", "5mm", "--squares", "200"], "larger ones"),
        (["export", "PLAN", "-o", "s.doc"], "cannot be written"),
        (["demo", "--screenshot", "x.png", "--size", "wide"], "not a size"),
    ],
)
def test_work_that_fails_says_why_in_one_line_and_ends_with_1(words, sentence, photo, plan_file, capsys, monkeypatch):
    monkeypatch.chdir(photo.parent)
    words = [{"PHOTO": str(photo), "PLAN": str(plan_file)}.get(word, word) for word in words]
    assert main(words) == 1
    error = capsys.readouterr().err
    assert sentence in error
    assert error.count("\n") == 1


@pytest.mark.parametrize("words", [["readings"], ["sheet", "x"], ["--nonsense"], ["new"]])
def test_bad_usage_ends_with_2(words):
    with pytest.raises(SystemExit) as stop:
        main(words)
    assert stop.value.code == 2


def test_without_a_screen_the_studio_says_how_to_see_it(monkeypatch, capsys):
    for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"):
        monkeypatch.delenv(name, raising=False)
    assert main(["demo"]) == 1
    assert "xvfb-run" in capsys.readouterr().err
    assert main([]) == 1


def test_nothing_without_a_window_imports_qt(plan_file, tmp_path):
    script = (
        "import sys; from mild_compass.cli import main\n"
        f"main(['readings', {str(plan_file)!r}, '--json'])\n"
        f"main(['sheet', {str(plan_file)!r}, '-o', {str(tmp_path / 'x.pdf')!r}])\n"
        f"main(['new', {str(plan_file.parent / 'quay.jpg')!r}, '-o', {str(tmp_path / 'y.mildplan')!r}])\n"
        "assert not [name for name in sys.modules if name.startswith(('PySide6', 'shiboken6'))]\n"
    )
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr


def test_the_first_window_stands_before_any_numbers_are_loaded(tmp_path):
    """NumPy and what is built on it take longer to load than the window to paint."""
    script = (
        "import sys; from pathlib import Path; from mild_compass.studio.application import application, make_window\n"
        f"app = application(); window = make_window(app, Path({str(tmp_path)!r})); window.show(); window.repaint()\n"
        "heavy = {'numpy', 'scipy', 'cv2', 'shapely', 'PIL', 'pydantic', 'skimage'} & set(sys.modules)\n"
        "window.close_down(); assert not heavy, heavy\n"
    )
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=False, env=environment)
    assert done.returncode == 0, done.stderr


def test_a_screenshot_of_the_demo_is_the_real_window_at_the_asked_size(tmp_path):
    from PIL import Image

    target = tmp_path / "values.png"
    words = ["demo", "--screenshot", str(target), "--station", "values", "--size", "1024x700"]
    done = subprocess.run([sys.executable, "-m", "mild_compass", *words], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert done.stderr == ""
    with Image.open(target) as picture:
        assert picture.size == (1024, 700)
        assert len(picture.convert("L").getcolors() or []) > 100


def test_a_photo_that_breaks_off_is_refused_also_as_the_second_one(photo, tmp_path, capsys):
    broken = tmp_path / "broken.jpg"
    broken.write_bytes(jpeg(seed=5)[:900])
    target = tmp_path / "two.mildplan"
    assert main(["new", str(photo), str(broken), "-o", str(target)]) == 1
    assert "broken.jpg" in capsys.readouterr().err
    assert not target.exists()


def test_without_a_temporary_folder_the_work_fails_with_a_sentence(plan_file, tmp_path, capsys, monkeypatch):
    import tempfile

    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path / "gone"))
    assert main(["readings", str(plan_file)]) == 1
    assert "The disk does not let it be done" in capsys.readouterr().err


def test_a_full_disk_leaves_a_sentence_and_the_old_file(plan_file, tmp_path, capsys):
    assert main(["sheet", str(plan_file), "-o", "/dev/full"]) == 1
    assert "not a plain file" in capsys.readouterr().err


def test_a_plan_on_bare_paper_is_made_read_and_printed(tmp_path, capsys):
    target, pdf = tmp_path / "bare.mildplan", tmp_path / "bare.pdf"
    assert main(["new", "--blank", "--sheet", "Half imperial, across", "-o", str(target)]) == 0
    plan = archive.read(target, PhotoFolder(tmp_path / "in"))
    assert not plan.ground(plan.study).is_photo
    assert main(["readings", str(target)]) == 0
    out = capsys.readouterr().out
    assert "stands on a blank sheet" in out
    assert "40 % down the picture" in out
    assert main(["sheet", str(target), "-o", str(pdf)]) == 0
    assert pdf.read_bytes().startswith(b"%PDF")
    assert main(["sheet", str(target), "-o", str(pdf), "--photo-print"]) == 1
    assert "no photo to print" in capsys.readouterr().err
    assert main(["new", "-o", str(target)]) == 1
    assert "--blank" in capsys.readouterr().err


# -- check -----------------------------------------------------------------------------------------------------

DEMO_DRAWING = PHOTOS / "pumping-drawing-lines.jpg"


@pytest.fixture(scope="module")
def pumping_file(tmp_path_factory) -> Path:
    """The pumping station's plan as a file."""
    folder = tmp_path_factory.mktemp("pumping")
    photos = PhotoFolder(folder / "photos")
    archive.write(folder / "pumping.mildplan", plan_of("pumping-station", photos), photos, None)
    return folder / "pumping.mildplan"


def test_check_tells_what_is_off_as_data_and_by_the_corners_it_found_the_same_in_words(pumping_file, capsys):
    assert main(["check", str(pumping_file), str(DEMO_DRAWING), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["sure"] is True
    assert set(found["whole"]) == {"shift_mm", "scale_percent", "turn_deg", "shear_percent"}
    assert {"name", "centre_mm", "shift_mm", "scale_percent", "turn_deg", "sure"} == set(found["parts"][0])
    assert {"plan_mm", "drawn_mm", "normal", "sigma_mm", "off"} == set(found["places"][0])
    corners = [f"{x},{y}" for x, y in found["corners_px"]]
    assert main(["check", str(pumping_file), str(DEMO_DRAWING), "--corners", *corners]) == 0
    words = capsys.readouterr().out
    assert "Woman: " in words
    whole = next(line for line in words.splitlines() if "The whole lies" in line)
    right, down = found["whole"]["shift_mm"]
    assert (
        f"{abs(right):.1f} mm too far {'right' if right > 0 else 'left'}" in whole or f"{abs(down):.1f} mm too" in whole
    )


def test_check_refuses_what_is_no_photo_and_corners_that_are_none(pumping_file, tmp_path, capsys):
    (tmp_path / "words.jpg").write_text("no picture")
    assert main(["check", str(pumping_file), str(tmp_path / "words.jpg")]) == 1
    assert "is not a photo" in capsys.readouterr().err
    assert main(["check", str(pumping_file), str(DEMO_DRAWING), "--corners", "1,1", "2,2", "3", "4,4"]) == 1
    assert "not corners" in capsys.readouterr().err
