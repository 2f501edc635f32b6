"""Printer correction, photo print, pins, ticks and motif read back from PDF and SVG; CSV and the pages beside it."""

from __future__ import annotations

import csv
import io
from functools import partial
from pathlib import Path
from xml.etree import ElementTree as ET

import numpy as np
import pypdfium2 as pdfium
import pypdfium2.raw as raw
import pytest
from tests.output.test_pdf import MM, NOON, boxes, has, middles, with_sheet

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.perspective.sheet_marks import points_on_sheet, ticks_on_sheet
from mild_compass.craft.perspective.worked import work_out
from mild_compass.craft.sheet.block_in import block_in
from mild_compass.craft.sheet.printer import OutputSettings, Printer
from mild_compass.craft.sheet.tiles import FOOT_MM, PRINTER_EDGE_MM, tiles_for
from mild_compass.craft.sheet.transfer import transfer_guide
from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.craft.worked import worked_study
from mild_compass.output.kinds import kind_of_file
from mild_compass.output.measures_csv import measures_csv
from mild_compass.output.print_sheet import photo_print, print_sheet, svg_sheet
from mild_compass.output.sheet_pages import block_in_pdf, guide_pdf, measures_pdf
from mild_compass.plan.edits.perspective import trace_edge
from mild_compass.plan.edits.sheet import change_measures, set_motif
from mild_compass.plan.edits.viewfinder import choose_paper, move_frame
from mild_compass.plan.framing import largest_frame
from mild_compass.plan.perspective import TracedEdge
from mild_compass.plan.sheet import Datum, MeasuredLength, MeasuredPoint, MeasurePlan, Motif, MotifPlace, SheetPlan

one_page = partial(SheetPlan, pages="one page")


SVG = "{http://www.w3.org/2000/svg}"
OFF = OutputSettings(Printer(98.7, 100.0))


def bars(pdf: bytes, page: int = 0) -> tuple[list[float], list[float]]:
    """Lengths in mm of level and upright strokes that could be the bars."""
    found = boxes(pdf, page)
    # The bounds are those of the ink: a stroke reaches half its width beyond either end.
    level = [(c - a) - (d - b) for a, b, c, d in found if 95 < c - a < 106 and d - b < 1]
    upright = [(d - b) - (c - a) for a, b, c, d in found if 95 < d - b < 106 and c - a < 1]
    return level, upright


def test_a_printer_that_prints_98_7_for_100_gets_so_much_more(plan, photos):
    """The page that it then makes too small by 98.7/100 has a bar of 100.0 mm across, and is untouched down."""
    plan = with_sheet(plan, layers=("grid",), grid_mm=30.0)
    pdf = print_sheet(plan, photos, None, OFF)
    level, upright = bars(pdf)
    assert [bar * 0.987 for bar in level] == pytest.approx([100.0] * len(level), abs=0.05)
    assert upright
    assert upright == pytest.approx([100.0] * len(upright), abs=0.05)
    true = [tuple(np.array(box) * (0.987, 1, 0.987, 1)) for box in boxes(pdf)]
    for k in range(1, 13):
        assert has(true, 15 + 30 * k, 15, 15 + 30 * k, 282)


@pytest.mark.parametrize("printer", [Printer(98.7, 100.0), Printer(101.2, 99.1)])
def test_corrected_pages_still_fit_and_their_marks_meet(plan, photos, printer):
    plan = with_sheet(plan, layers=("frame",), pages="A4")
    pdf = print_sheet(plan, photos, None, OutputSettings(printer))
    tiling = tiles_for(plan.paper, "A4", 15.0, printer)
    document = pdfium.PdfDocument(pdf)
    assert len(document) == len(tiling.tiles)
    size = np.array(document[0].get_size()) / MM
    document.close()
    assert sorted(size) == pytest.approx([210, 297], abs=0.01)
    shrink = np.array([printer.across_mm, printer.down_mm]) / 100  # what this printer makes of it
    for number, tile in enumerate(tiling.tiles):
        on_paper = middles(pdf, number) * shrink
        for x, y in tiling.marks_of(tile):
            wanted = np.array([x - tile.left_mm + tile.page_x_mm, y - tile.top_mm + tile.page_y_mm])
            assert np.hypot(*(on_paper - wanted).T).min() < 0.1
        assert tile.height_mm <= tiling.page_height_mm - 2 * PRINTER_EDGE_MM - FOOT_MM + 1e-9


def test_tiles_of_an_a1_sheet_meet_within_a_tenth_of_a_millimetre(plan, photos):
    sheet = paper("A1", across=True)
    plan = choose_paper(sheet).apply(plan, NOON)
    plan = move_frame(largest_frame(plan.reference("photo-1"), sheet)).apply(plan, NOON)
    plan = with_sheet(plan, layers=("grid", "masses"), pages="A4", grid_mm=50.0)
    pdf = print_sheet(plan, photos)
    tiling = tiles_for(plan.paper, "A4")
    seen: dict[tuple[float, float], list[np.ndarray]] = {}
    for number, tile in enumerate(tiling.tiles):
        centres = middles(pdf, number)
        for x, y in tiling.marks_of(tile):
            wanted = np.array([x - tile.left_mm + tile.page_x_mm, y - tile.top_mm + tile.page_y_mm])
            nearest = centres[np.hypot(*(centres - wanted).T).argmin()]
            on_sheet = nearest - (tile.page_x_mm, tile.page_y_mm) + (tile.left_mm, tile.top_mm)
            seen.setdefault((round(x, 3), round(y, 3)), []).append(on_sheet)
    assert len(seen) > 20
    for places in seen.values():
        assert len(places) == 2
        assert np.hypot(*(places[0] - places[1])) < 0.1
    assert len(pdf) < 5e6


def test_every_page_says_how_it_joins(plan, photos):
    pdf = print_sheet(with_sheet(plan, layers=("frame",), pages="A4"), photos)
    document = pdfium.PdfDocument(pdf)
    words = [page.get_textpage().get_text_bounded() for page in document]
    document.close()
    assert "Begin here" in words[0]
    assert "over A1" in words[1]
    assert "over row A" in words[2]


def test_the_photo_print_carries_the_same_squares_at_its_own_size(plan, photos):
    plan = with_sheet(plan, layers=("grid",), grid_count=13, photo_print_mm=130.0)
    pdf = photo_print(plan, photos)
    (picture,) = boxes(pdf, kind=raw.FPDF_PAGEOBJ_IMAGE)
    left, top, right, bottom = picture
    assert right - left == pytest.approx(130, abs=0.01)
    assert (bottom - top) / (right - left) == pytest.approx(267 / 390, abs=1e-4)
    found = boxes(pdf)
    for k in range(1, 13):
        assert has(found, left + 10 * k, top, left + 10 * k, bottom)


def with_points(plan):
    """Two sets of edges: one point on the sheet, one far off its right side."""
    for letter, edges in (
        ("A", ((100, 380, 290, 210), (500, 380, 310, 210))),
        ("B", ((100, 100, 500, 150), (100, 300, 500, 250))),
    ):
        for edge in edges:
            plan = trace_edge(letter, TracedEdge(*map(float, edge))).apply(plan, NOON)
    return plan


def test_pins_and_ticks_are_where_they_belong(plan, photos):
    plan = with_points(plan)
    worked = work_out(plan.study.perspective, plan.reference("photo-1"))
    frame_map = FrameMap.of(plan.study.frame, plan.paper)
    pins = points_on_sheet(worked, frame_map)
    assert pins["B"][0] > plan.paper.width_mm
    pdf = print_sheet(with_sheet(plan, layers=("pins", "ticks")), photos)
    centres = middles(pdf)
    assert np.hypot(*(centres - pins["A"]).T).min() < 0.1
    for pairs in ticks_on_sheet(worked, frame_map).values():
        for left, right in pairs:
            assert np.hypot(*(centres - (left - (1.5, 0))).T).min() < 0.1
            assert np.hypot(*(centres - (right + np.array([1.5, 0]))).T).min() < 0.1
    document = pdfium.PdfDocument(pdf)
    assert "right of the paper" in document[0].get_textpage().get_text_bounded()
    document.close()


def test_mirrored_turns_every_layer_over(plan, photos):
    motif = Motif(((0.0, 0.0), (30.0, 0.0), (0.0, 12.0)), (MotifPlace(100, 50), MotifPlace(200, 120, 30, True)))
    plan = set_motif(motif).apply(plan, NOON)
    plan = change_measures(MeasurePlan((Datum("upright", 100, 100),))).apply(plan, NOON)
    straight, turned = (
        boxes(print_sheet(with_sheet(plan, layers=("motif", "datum", "lines"), mirrored=mirrored), photos))
        for mirrored in (False, True)
    )
    for a, b, c, d in straight:
        if b < 280 and c > 8:  # the bars are for the printer and stay
            assert has(turned, 420 - c, b, 420 - a, d), (a, b, c, d)


def test_the_svg_has_a_named_group_for_every_layer_in_millimetres(plan, photos):
    plan = with_points(plan)
    plan = set_motif(Motif(((0.0, 0.0), (30.0, 0.0), (0.0, 12.0)), (MotifPlace(100, 50),))).apply(plan, NOON)
    plan = change_measures(MeasurePlan((Datum("level", 100, 100, "eye"),))).apply(plan, NOON)
    layers = ("frame", "margins", "grid", "lines", "pins", "motif", "datum")
    root = ET.fromstring(svg_sheet(with_sheet(plan, layers=layers), photos))
    names = {group.get("id") for group in root.iter(f"{SVG}g")}
    assert names >= set(layers)
    assert root.get("width") == "420mm"
    points = np.concatenate(polylines(ET.tostring(root), "motif"))
    assert points.min(0) == pytest.approx((100, 50))
    assert points.max(0) == pytest.approx((130, 62))


def polylines(svg: bytes, layer: str) -> list[np.ndarray]:
    """The strokes of a layer of an SVG as points (n, 2) in mm."""
    groups = [each for each in ET.fromstring(svg).iter(f"{SVG}g") if each.get("id") == layer]
    return [
        np.array([[float(number) for number in pair.split(",")] for pair in (line.get("points") or "").split()])
        for group in groups
        for line in group.iter(f"{SVG}polyline")
    ]


def test_grid_ticks_and_pins_are_at_the_same_places_in_the_svg(plan, photos):
    plan = with_points(plan)
    svg = svg_sheet(with_sheet(plan, layers=("grid", "ticks", "pins"), grid_mm=30.0), photos)
    worked = work_out(plan.study.perspective, plan.reference("photo-1"))
    frame_map = FrameMap.of(plan.study.frame, plan.paper)
    uprights = sorted(line[0, 0] for line in polylines(svg, "grid") if line[0, 0] == line[1, 0])
    assert uprights == pytest.approx([15 + 30 * k for k in range(1, 13)])
    ring = next(line for line in polylines(svg, "pins") if len(line) > 10)
    assert (ring.max(0) + ring.min(0)) / 2 == pytest.approx(points_on_sheet(worked, frame_map)["A"], abs=0.1)
    starts = np.array([line[0] for line in polylines(svg, "ticks")])
    for pairs in ticks_on_sheet(worked, frame_map).values():
        for place in (place for pair in pairs for place in pair):
            assert np.hypot(*(starts - place).T).min() < 0.1


def test_the_csv_has_every_measure_in_millimetres(plan):
    measured = MeasurePlan(
        (Datum("upright", 300, 200, "middle"),),
        (MeasuredPoint(100, 100, "lamp"), MeasuredPoint(400, 100, "eave")),
        (MeasuredLength(100, 100, 100, 200, "door"), MeasuredLength(300, 100, 300, 300, "house")),
        1,
    )
    plan = change_measures(measured).apply(plan, NOON)
    scale = FrameMap.of(plan.study.frame, plan.paper).mm_per_px
    rows = list(csv.DictReader(io.StringIO(measures_csv(plan))))
    by_name = {row["name"]: row for row in rows}
    assert float(by_name["house"]["length_mm"]) == pytest.approx(200 * scale, abs=0.006)
    assert float(by_name["house"]["units"]) == pytest.approx(2)
    assert by_name["lamp"]["from_datum"] == f"middle {-200 * scale:+.2f}"
    assert by_name["lamp – eave"]["kind"] == "level"
    kind = kind_of_file(Path("m.CSV"))
    assert kind.write(plan, None, None, OutputSettings()).decode() == measures_csv(plan)


@pytest.mark.parametrize("unit", ["mm", "in"])
def test_the_pages_beside_the_easel_carry_the_numbers_and_go_on_when_full(plan, unit):
    points = tuple(MeasuredPoint(100 + k, 50 + 2 * k, f"place {k}") for k in range(90))
    plan = change_measures(MeasurePlan((Datum("upright", 300, 200, "middle"),), points)).apply(plan, NOON)
    document = pdfium.PdfDocument(measures_pdf(plan, unit))
    text = " ".join(page.get_textpage().get_text_bounded() for page in document)
    assert len(document) > 1
    document.close()
    assert "place 89" in text
    assert f" {unit} left of middle" in text


def test_guide_and_steps_are_pages_with_their_words(plan, photos):
    guide = transfer_guide(worked_study(plan), "squared grid")
    document = pdfium.PdfDocument(guide_pdf("Quay", guide))
    text = document[0].get_textpage().get_text_bounded()
    document.close()
    assert "Squared grid" in text
    assert "25.0 mm" in text
    steps = block_in(plan.study, FrameMap.of(plan.study.frame, plan.paper), None, None)
    assert block_in_pdf(plan, steps).startswith(b"%PDF")
