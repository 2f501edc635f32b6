"""Pages of a small printer: any sheet, any page, any overlap, any printer."""

from __future__ import annotations

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from mild_compass.craft.sheet.printer import Printer
from mild_compass.craft.sheet.tiles import FOOT_MM, MOST_TILES, PAGES_MM, PRINTER_EDGE_MM, Tiling, tiles_for
from mild_compass.plan.errors import PlanError
from mild_compass.plan.paper import Paper

sheets = st.builds(lambda w, h: Paper("x", w, h, 0), st.floats(60, 1300), st.floats(60, 1300))
pages = st.sampled_from(sorted(PAGES_MM))
overlaps = st.floats(0, 60)
printers = st.builds(Printer, st.floats(95, 105), st.floats(95, 105))


def tiling_of(sheet: Paper, page: str, overlap: float, printer: Printer) -> Tiling:
    try:
        return tiles_for(sheet, page, overlap, printer)
    except PlanError:
        assume(False)
        raise


@given(sheets, pages, overlaps, printers)
def test_pages_cover_the_sheet_overlap_as_asked_and_keep_the_printers_edge(sheet, page, overlap, printer):
    tiling = tiling_of(sheet, page, overlap, printer)
    assert len(tiling.tiles) == tiling.rows * tiling.columns <= MOST_TILES
    right = max(tile.left_mm + tile.width_mm for tile in tiling.tiles)
    bottom = max(tile.top_mm + tile.height_mm for tile in tiling.tiles)
    assert right == pytest.approx(sheet.width_mm)
    assert bottom == pytest.approx(sheet.height_mm)
    by_place = {(tile.row, tile.column): tile for tile in tiling.tiles}
    for tile in tiling.tiles:
        # True lengths on the page: what the printer makes of it fits between its edges.
        assert tile.page_x_mm + tile.width_mm <= tiling.page_width_mm - PRINTER_EDGE_MM + 1e-6
        assert tile.page_y_mm + tile.height_mm <= tiling.page_height_mm - PRINTER_EDGE_MM - FOOT_MM + 1e-6
        before = by_place.get((tile.row, tile.column - 1))
        if before is not None:
            assert before.left_mm + before.width_mm - tile.left_mm == pytest.approx(overlap)
        above = by_place.get((tile.row - 1, tile.column))
        if above is not None:
            assert above.top_mm + above.height_mm - tile.top_mm == pytest.approx(overlap)


@given(sheets, pages, st.floats(4, 60), printers)
def test_every_mark_lies_on_exactly_the_two_pages_it_joins(sheet, page, overlap, printer):
    tiling = tiling_of(sheet, page, overlap, printer)
    seen: dict[tuple[float, float], int] = {}
    for tile in tiling.tiles:
        for x, y in tiling.marks_of(tile):
            assert tile.left_mm - 1e-6 <= x <= tile.left_mm + tile.width_mm + 1e-6
            assert tile.top_mm - 1e-6 <= y <= tile.top_mm + tile.height_mm + 1e-6
            key = (round(x, 3), round(y, 3))
            seen[key] = seen.get(key, 0) + 1
    seams = (tiling.columns - 1) * tiling.rows + (tiling.rows - 1) * tiling.columns
    assert sum(seen.values()) == 4 * seams
    assert all(count % 2 == 0 for count in seen.values())


@given(sheets, pages, printers)
def test_a_page_as_the_printer_prints_it_has_the_pages_own_size(sheet, page, printer):
    tiling = tiling_of(sheet, page, 15.0, printer)
    real = sorted((tiling.page_width_mm * printer.across, tiling.page_height_mm * printer.down))
    assert real == pytest.approx(sorted(PAGES_MM[page]))


def test_the_way_round_that_needs_fewer_pages_is_taken():
    assert len(tiles_for(Paper("wide", 270, 170, 0), "A4").tiles) == 1
    assert len(tiles_for(Paper("tall", 180, 250, 0), "A4").tiles) == 1


def test_every_page_says_what_it_is_laid_over():
    tiling = tiles_for(Paper("A2", 420, 594, 10), "A4")
    words = {tile.name: tile.joining for tile in tiling.tiles}
    assert words["A1"] == "Begin here."
    assert "over A1" in words["A2"]
    assert "row A" in words["B1"]
    assert "over B1" in words["B2"]


def test_a_printer_that_is_hardly_off_still_needs_no_more_pages_than_it_must():
    sheet = Paper("just one", 190, 263, 0)
    assert len(tiles_for(sheet, "A4").tiles) == 1
    assert len(tiles_for(sheet, "A4", 15.0, Printer(97.0, 97.0)).tiles) == 2, "so much larger it does not fit any more"


@pytest.mark.parametrize("measured", [0, 50, 89.9, 110.1, float("nan"), float("inf")])
def test_a_bar_that_cannot_be_is_refused(measured):
    with pytest.raises(PlanError, match="bar"):
        Printer(measured, 100)
