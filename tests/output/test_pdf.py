"""The PDF read back by another library: everything where it belongs to 0.1 mm."""

from __future__ import annotations

import ctypes
from collections.abc import Iterator
from dataclasses import replace
from functools import partial

import numpy as np
import pypdfium2 as pdfium
import pypdfium2.raw as raw
import pytest

from mild_compass.craft.geometry.lines import Box
from mild_compass.craft.sheet.squared import column_name, grid_marks, squared_grid
from mild_compass.craft.sheet.tiles import FOOT_MM, OVERLAP_MM, PRINTER_EDGE_MM, tiles_for
from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.output.logbook_document import logbook_markdown
from mild_compass.output.print_sheet import print_sheet
from mild_compass.plan.edits.base import with_study
from mild_compass.plan.edits.logbook import add_note
from mild_compass.plan.edits.perspective import set_horizon
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Plan
from mild_compass.plan.paper import Paper
from mild_compass.plan.perspective import Horizon
from mild_compass.plan.sheet import SheetPlan

one_page = partial(SheetPlan, pages="one page")


MM = 72 / 25.4  # ISO 32000-1, 8.3.2.3: 72 units to the inch
NOON = "2026-05-01T12:00:00+02:00"
Bounds = tuple[float, float, float, float]


def bounds_of(page: pdfium.PdfPage, kind: int) -> Iterator[Bounds]:
    """Bounds on the page of its objects of a kind, those inside forms with the form's own place."""
    for each in page.get_objects(filter=[kind], max_depth=1):
        yield each.get_bounds()
    for form in page.get_objects(filter=[raw.FPDF_PAGEOBJ_FORM], max_depth=1):
        placed = form.get_matrix()
        for k in range(raw.FPDFFormObj_CountObjects(form)):
            inner = raw.FPDFFormObj_GetObject(form, k)
            if raw.FPDFPageObj_GetType(inner) == kind:
                sides = [ctypes.c_float() for _ in range(4)]
                raw.FPDFPageObj_GetBounds(inner, *map(ctypes.byref, sides))
                a, b, c, d = (side.value for side in sides)
                (x0, y0), (x1, y1) = placed.on_point(a, b), placed.on_point(c, d)
                yield min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1)


def boxes(pdf: bytes, page: int = 0, kind: int = raw.FPDF_PAGEOBJ_PATH) -> list[Bounds]:
    """Bounds of a page's objects as left, top, right, bottom in mm from its top left corner."""
    document = pdfium.PdfDocument(pdf)
    try:
        height = document[page].get_height()
        found = list(bounds_of(document[page], kind))
    finally:
        document.close()
    return [(a / MM, (height - d) / MM, c / MM, (height - b) / MM) for a, b, c, d in found]


def middles(pdf: bytes, page: int = 0) -> np.ndarray:
    found = np.array(boxes(pdf, page))
    return (found[:, :2] + found[:, 2:]) / 2


def has(boxes_mm: list[Bounds], left: float, top: float, right: float, bottom: float, within: float = 0.1) -> bool:
    """Whether a stroke between these points is there; the bounds are those of the ink, so its width is allowed for."""
    wanted = np.array([left, top, right, bottom])
    for each in boxes_mm:
        off = np.abs(np.array(each) - wanted)
        thick = min(each[2] - each[0], each[3] - each[1]) / 2
        if (off <= within + min(thick, 0.5)).all():
            return True
    return False


def with_sheet(plan: Plan, **changes: object) -> Plan:
    assert plan.study is not None
    return with_study(plan, replace(plan.study, sheet=one_page(**changes)))  # type: ignore[arg-type]


def printed(plan: Plan, photos, **changes: object) -> bytes:
    plan = with_sheet(plan, **changes)
    return print_sheet(plan, photos)


def test_the_page_has_the_sheets_own_size(plan, photos):
    document = pdfium.PdfDocument(printed(plan, photos, layers=("frame",)))
    assert len(document) == 1
    assert np.array(document[0].get_size()) / MM == pytest.approx((420, 297), abs=0.01)
    document.close()


def test_frame_and_picture_lie_on_the_picture_area(plan, photos):
    pdf = printed(plan, photos, layers=("picture", "frame"))
    assert has(boxes(pdf), 15, 15, 405, 282)
    (picture,) = boxes(pdf, kind=raw.FPDF_PAGEOBJ_IMAGE)
    assert picture == pytest.approx((15, 15, 405, 282), abs=0.01)


def test_the_bar_is_100_mm_both_ways(plan, photos):
    pdf = printed(plan, photos, layers=())
    level = [box for box in boxes(pdf) if abs(box[2] - box[0] - 100) < 0.5 and box[3] - box[1] < 1]
    upright = [box for box in boxes(pdf) if abs(box[3] - box[1] - 100) < 0.5 and box[2] - box[0] < 1]
    assert level
    assert upright
    ticks = sorted({round(x, 2) for x, y in middles(pdf) if y > 290 and x < 103})
    assert max(ticks) - min(ticks) == pytest.approx(100, abs=0.02)


def test_grid_lines_are_where_the_spacing_says(plan, photos):
    pdf = printed(plan, photos, layers=("grid",), grid_mm=25.0)
    found = boxes(pdf)
    for k in range(1, 16):
        assert has(found, 15 + 25 * k, 15, 15 + 25 * k, 282), k
    for k in range(1, 11):
        assert has(found, 15, 15 + 25 * k, 405, 15 + 25 * k), k


def test_armature_and_horizon_are_where_the_arithmetic_says(plan, photos):
    assert plan.study is not None
    frame = plan.study.frame
    plan = set_horizon(Horizon(frame.y_px + 0.4 * frame.height_px)).apply(plan, NOON)
    found = boxes(printed(plan, photos, layers=("armature", "horizon")))
    assert has(found, 0, 15 + 0.4 * 267, 420, 15 + 0.4 * 267)
    assert has(found, 15, 15, 405, 282)  # a diagonal
    assert has(found, 15, 15, 210, 282)  # corner to the middle of the bottom side
    assert has(found, 15, 15, 210, 148.5)  # middles joined


def test_mass_outlines_are_printed_inside_the_picture(plan, photos):
    with_masses = boxes(printed(plan, photos, layers=("masses",)))
    without = boxes(printed(plan, photos, layers=()))
    inked = np.array([box for box in with_masses if box not in without])
    assert len(inked) > 5
    assert inked[:, :2].min() >= 15 - 0.3
    assert inked[:, 2].max() <= 405 + 0.3


def test_mirrored_is_exactly_mirrored(plan, photos):
    straight = printed(plan, photos, layers=("grid", "armature"), grid_mm=40.0)
    turned = printed(plan, photos, layers=("grid", "armature"), grid_mm=40.0, mirrored=True)
    flipped = sorted((round(420 - c, 2), round(b, 2), round(420 - a, 2), round(d, 2)) for a, b, c, d in boxes(straight))
    found = sorted(tuple(round(value, 2) for value in box) for box in boxes(turned))
    bar = {box for box in found if box[1] > 190 and box[0] < 103}
    assert {box for box in found if box not in bar} <= set(flipped) | bar
    assert has(boxes(turned), 405 - 40, 15, 405 - 40, 282)


@pytest.mark.parametrize("pages", ["A4", "Letter"])
def test_tiles_cover_the_sheet_and_neighbours_marks_coincide(plan, photos, pages):
    tiling = tiles_for(plan.paper, pages)
    pdf = printed(plan, photos, layers=("frame", "grid"), pages=pages)
    document = pdfium.PdfDocument(pdf)
    assert len(document) == len(tiling.tiles)
    assert np.array(document[0].get_size()) / MM == pytest.approx(
        (tiling.page_width_mm, tiling.page_height_mm), abs=0.01
    )
    document.close()
    seen: dict[tuple[float, float], int] = {}
    for number, tile in enumerate(tiling.tiles):
        centres = middles(pdf, number)
        for x, y in tiling.marks_of(tile):
            on_page = np.array([x - tile.left_mm + tile.page_x_mm, y - tile.top_mm + tile.page_y_mm])
            assert np.hypot(*(centres - on_page).T).min() < 0.1
            seen[round(x, 3), round(y, 3)] = seen.get((round(x, 3), round(y, 3)), 0) + 1
    assert set(seen.values()) == {2}, "every mark is on exactly two pages"


def test_a_grid_line_that_crosses_a_seam_is_on_both_pages_at_the_same_place_of_the_sheet(plan, photos):
    tiling = tiles_for(plan.paper, "A4")
    pdf = printed(plan, photos, layers=("grid",), grid_mm=20.0, pages="A4")
    y = 15 + 20 * 3
    for number, tile in enumerate(tiling.tiles):
        if tile.row == 0:
            assert any(abs((b + d) / 2 - (y - tile.top_mm + tile.page_y_mm)) < 0.1 for _, b, _, d in boxes(pdf, number))


def test_every_page_carries_the_100_mm_bar(plan, photos):
    pdf = printed(plan, photos, layers=(), pages="A4")
    for page in range(len(tiles_for(plan.paper, "A4").tiles)):
        assert any(abs(c - a - 100) < 0.6 and d - b < 1 for a, b, c, d in boxes(pdf, page))


@pytest.mark.parametrize("sheet", [paper("A3"), paper("Half imperial", across=True), Paper("x", 841, 594, 20)])
def test_tiles_overlap_and_together_hold_every_point_of_the_sheet(sheet):
    tiling = tiles_for(sheet, "A4")
    for x in np.linspace(0, sheet.width_mm, 41):
        for y in np.linspace(0, sheet.height_mm, 41):
            assert any(
                t.left_mm - 1e-9 <= x <= t.left_mm + t.width_mm + 1e-9
                and t.top_mm - 1e-9 <= y <= t.top_mm + t.height_mm + 1e-9
                for t in tiling.tiles
            )
    for tile in tiling.tiles:
        assert tile.width_mm <= tiling.page_width_mm - 2 * PRINTER_EDGE_MM + 1e-9
        assert tile.height_mm <= tiling.page_height_mm - 2 * PRINTER_EDGE_MM - FOOT_MM + 1e-9
        if tile.column:
            left = next(t for t in tiling.tiles if (t.row, t.column) == (tile.row, tile.column - 1))
            assert left.left_mm + left.width_mm - tile.left_mm == pytest.approx(OVERLAP_MM)


def test_a_sheet_of_too_many_pages_gives_a_sentence(monkeypatch):
    monkeypatch.setattr("mild_compass.craft.sheet.tiles.MOST_TILES", 3)
    with pytest.raises(PlanError, match="would need 4 pages"):
        tiles_for(paper("A3"), "A4")


def test_columns_are_lettered_on_past_z():
    names = [column_name(k) for k in (0, 25, 26, 27, 51, 52, 701, 702)]
    assert names == [
        "A",
        "Z",
        "AA",
        "AB",
        "AZ",
        "BA",
        "ZZ",
        "AAA",
    ]


def test_no_grid_line_falls_on_the_far_edge():
    assert grid_marks(100, 25) == pytest.approx([25, 50, 75])
    assert len(grid_marks(100, 100)) == 0
    assert grid_marks(101, 25)[-1] == 100


def test_a_grid_of_tens_of_thousands_of_cells_is_refused():
    with pytest.raises(PlanError, match="larger"):
        squared_grid(Box(0, 0, 3000, 3000), Paper("x", 3000, 3000, 0), 5)


def test_a_plan_without_a_photo_has_nothing_to_print(photos):
    with pytest.raises(PlanError, match="nothing in the plan to print"):
        print_sheet(Plan(), photos)


def test_the_logbook_in_markdown_has_days_stations_notes_and_no_accidental_markup(plan):
    plan = add_note("Keep *the* lamp\n# not a heading", "viewfinder", "2026-05-02T08:05:00+02:00").apply(plan, NOON)
    text = logbook_markdown(plan)
    assert "# Quay" in text
    assert "## 2026-05-01" in text
    assert "## 2026-05-02" in text
    assert "- 08:05 · Viewfinder, study A · “Keep \\*the\\* lamp \\# not a heading”" in text
    assert "- 12:00 · References, study A · Added the photo quay.jpg." in text
