"""What is printed to take along: the page for the easel, and the viewfinder card at true size."""

from __future__ import annotations

from dataclasses import replace
from math import tan

import pypdfium2 as pdfium
import pytest
from tests.output.test_pdf import boxes, has

from mild_compass.craft.cautions import KNIFE, LABEL
from mild_compass.craft.sheet_sizes.card import RIM_MM, view_deg, viewfinder_card
from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.demo import plan_of
from mild_compass.output.brief_pdf import brief_pdf
from mild_compass.output.card_pdf import card_pdf
from mild_compass.output.logbook_document import worked_out
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Plan
from mild_compass.plan.paper import Paper
from mild_compass.plan.photos import PhotoFolder


def words(pdf: bytes) -> tuple[int, str]:
    """How many pages, and all that stands on them."""
    document = pdfium.PdfDocument(pdf)
    found = " ".join(" ".join(page.get_textpage().get_text_range() for page in document).split())
    count = len(document)
    document.close()
    return count, found


# -- the card -------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("sheet", [paper("A3", across=True), paper("A3"), paper("Half imperial"), Paper("x", 300, 300)])
def test_the_opening_is_cut_at_exactly_the_proportion_of_the_picture_area(sheet):
    card = viewfinder_card(sheet, 100.0)
    assert card.width_mm / card.height_mm == pytest.approx(sheet.ratio, rel=1e-12)
    assert max(card.width_mm, card.height_mm) == 100
    pdf = card_pdf(Plan(paper=sheet), 100.0)
    left, top = 15.0 + RIM_MM, 29.0 + RIM_MM
    assert has(boxes(pdf), left, top, left + card.width_mm, top + card.height_mm)


def test_what_the_card_sees_is_the_angle_its_side_spans():
    """Worked by hand: a side of 2 · 400 · tan 25° held at 400 mm spans 50°."""
    assert view_deg(2 * 400 * tan(0.4363323129985824), 400) == pytest.approx(50)
    card = viewfinder_card(paper("A4"), 90.0, 400.0)
    assert view_deg(90.0, card.distance_for(50)) == pytest.approx(50)
    assert card.view_deg == pytest.approx(12.84, abs=0.01)


def test_notches_lie_at_halves_and_thirds_and_in_the_corners():
    card = viewfinder_card(paper("A4"), 90.0)
    shares = {(round(x / card.width_mm, 6), round(y / card.height_mm, 6)) for x, y, _ in card.notches}
    assert {(0.5, 0.0), (round(1 / 3, 6), 1.0), (1.0, round(2 / 3, 6)), (0.0, 0.0)} <= shares
    assert len(card.notches) == 16


def test_a_long_card_is_laid_along_the_page_and_the_halves_carry_a_scale():
    sheet = paper("A3", across=True)
    pdf = card_pdf(Plan(paper=sheet), 140.0)
    height = 140.0 / sheet.ratio
    assert has(boxes(pdf), 15 + RIM_MM, 29 + RIM_MM, 15 + RIM_MM + height, 29 + RIM_MM + 140.0)
    count, text = words(pdf)
    assert count == 2
    assert KNIFE in text
    assert "120" in text


@pytest.mark.parametrize(("longest", "distance"), [(5.0, 400.0), (500.0, 400.0), (90.0, 5.0), (float("nan"), 400.0)])
def test_a_card_that_cannot_be_cut_or_held_is_refused(longest, distance):
    with pytest.raises(PlanError):
        viewfinder_card(paper("A4"), longest, distance)


def test_a_strip_needs_a_larger_opening():
    with pytest.raises(PlanError, match="narrow"):
        viewfinder_card(Paper("strip", 1000, 60, 5), 90.0)


# -- the page to take along -----------------------------------------------------------------------------------


@pytest.mark.parametrize("scene", ["glasshouse", "pumping-station", "observatory-court"])
def test_the_page_holds_what_is_needed_at_the_easel_on_both_sides_at_most(tmp_path, scene):
    photos = PhotoFolder(tmp_path)
    plan = plan_of(scene, photos)
    plan = replace(plan, drawings=(), current_drawing="")  # nothing to be checked: it is quicker
    worked = worked_out(plan, photos)
    count, text = words(brief_pdf(worked))
    assert count <= 2
    for part in ("The sheet", "Order of work", "Take the tape off", LABEL, "Pencil"):
        assert part in text
    assert ("Eye level and pins" in text) == (worked.perspective.horizon is not None)
    assert ("Otherwise than the photo" in text) == bool(worked.study.departures)
    if worked.study.measures.lengths:
        assert worked.study.measures.lengths[0].name in text


def test_the_command_line_prints_both(tmp_path, photos, plan):
    from mild_compass.cli import main
    from mild_compass.plan import archive

    archive.write(tmp_path / "quay.mildplan", plan, photos, None)
    for command in ("brief", "card"):
        target = tmp_path / f"{command}.pdf"
        assert main([command, str(tmp_path / "quay.mildplan"), "-o", str(target)]) == 0
        assert target.read_bytes().startswith(b"%PDF")
    empty = tmp_path / "empty.mildplan"
    archive.write(empty, Plan(), photos, None)
    assert main(["brief", str(empty), "-o", str(tmp_path / "no.pdf")]) == 1
    assert main(["card", str(empty), "-o", str(tmp_path / "x.pdf"), "--opening", "2000mm"]) == 1
