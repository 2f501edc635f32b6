"""The take-along page: what one needs of the plan at the easel or outdoors, on one page, both sides at most."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.drawing import Label
from mild_compass.craft.logbook.used import cautions, pencil_for
from mild_compass.craft.perspective.pins import pin_words
from mild_compass.craft.perspective.sheet_marks import points_on_sheet
from mild_compass.craft.picture.framed import framed_colour
from mild_compass.craft.picture.tone import grey_of_lightness
from mild_compass.craft.sheet.measure import study_measures
from mild_compass.craft.sheet_sizes.lengths import format_length
from mild_compass.craft.values.names import names_of
from mild_compass.craft.work.planned import hours
from mild_compass.craft.work.working_order import order_of
from mild_compass.craft.worked import height_at_middle
from mild_compass.output.canvas import as_reader
from mild_compass.output.sheet_pages import EDGE_MM, LINE_MM, PAGE_MM, Page
from mild_compass.plan.departure_kinds import kind_of

if TYPE_CHECKING:
    from mild_compass.craft.worked import Worked

PICTURE_MM, GAP_MM, PATCH_MM = (88.0, 66.0), 6.0, 9.0
MOST_MEASURES, MOST_STEPS, MOST_DEPARTURES = 5, 20, 10
PICTURE_PX = 700


def brief_pdf(worked: Worked) -> bytes:
    """The PDF's bytes, on A4."""
    plan, study = worked.plan, worked.study
    page = Page(f"{plan.name} – study {study.name}, to take along")
    top = page.y - 4
    foot = _pictures(page, worked, top)
    page.y = max(foot, _beside(page, worked, top)) + 3
    _order(page, worked)
    _departures(page, worked)
    page.head("To heed")
    for each in cautions(plan, study):
        page.text(each, 5, "–")
    return page.done()


def _pictures(page: Page, worked: Worked, top: float) -> float:
    """The frame, the masses below it, and the values as a ladder at their side; where they end."""
    box = worked.frame_map.box
    width = min(PICTURE_MM[0], PICTURE_MM[1] * box.width / box.height)
    height = width * box.height / box.width
    y = top
    if worked.picture is not None:
        rgb = framed_colour(worked.picture, worked.study.frame, worked.frame_map, PICTURE_PX)
        page.canvas.picture(as_reader(rgb), EDGE_MM, y, width, height)
        y += height + 3
    masses = worked.masses
    if masses is None:
        return y
    small = 0.62
    grey = grey_of_lightness(masses.painted(PICTURE_PX))
    page.canvas.picture(as_reader(np.repeat(grey[..., None], 3, 2)), EDGE_MM, y, small * width, small * height)
    names = names_of(len(masses.shown))
    x, patch = EDGE_MM + small * width + 3, small * height / len(masses.shown)
    for place, value in enumerate(reversed(range(len(masses.shown)))):
        level = int(grey_of_lightness(np.array(masses.shown[value])))
        at = y + place * patch
        page.canvas.picture(as_reader(np.full((8, 8, 3), level, np.uint8)), x, at, PATCH_MM, patch)
        words = f"{names[value]} {100 * masses.shares[value]:.0f} %"
        page.canvas.words(Label(words, x + PATCH_MM + 1.5, at + patch / 2 + 0.8, "mass", 1.9, "left"))
    return y + small * height + 4


def _beside(page: Page, worked: Worked, top: float) -> float:
    """Sheet, measures, horizon and pins, in words beside the pictures; where they end."""
    plan, unit = worked.plan, worked.unit
    x, y = EDGE_MM + PICTURE_MM[0] + GAP_MM, top + 3

    def line(text: str, head: bool = False) -> None:
        nonlocal y
        y = page.narrow(text, x, y, PAGE_MM[0] - EDGE_MM - x, "armature" if head else "mass")

    box = worked.frame_map.box
    line("The sheet", True)
    line(f"{plan.paper.name}; the picture {format_length(box.width, unit)} × {format_length(box.height, unit)}, "
         f"{format_length(box.left, unit)} from the left, {format_length(box.top, unit)} from the top.")  # fmt: skip
    line(f"Pencil: {pencil_for(plan, worked.study)}.")
    measures = study_measures(worked.study, worked.ground, plan.paper)
    if measures.lengths:
        y += 2
        line(f"Measures, in {measures.unit_name}" if measures.unit_name else "Measures", True)
        for row in measures.lengths[:MOST_MEASURES]:
            units = f", {row.units:.2f} of it" if measures.unit_name and np.isfinite(row.units) else ""
            line(f"{row.name}: {format_length(row.length_mm, unit)}{units}")
    horizon = worked.perspective.horizon
    if horizon is not None:
        y += 2
        line("Eye level and pins", True)
        down = height_at_middle(horizon, worked.frame_map)
        line(f"The eye level crosses the middle {format_length(down - box.top, unit)} below the frame's top edge.")
        for letter, (px, py) in sorted(points_on_sheet(worked.perspective, worked.frame_map).items()):
            line(f"{letter}: {pin_words(px, py, plan.paper, unit)}.")
    return y


def _order(page: Page, worked: Worked) -> None:
    order = worked.order or order_of(worked)
    page.head("Order of work")
    number = 0
    for sitting in order.sittings:
        page.text(f"Sitting {sitting.number}, {order.clock(0)} to {order.clock(sitting.end)}. {sitting.stop}")
        for part in sitting.parts:
            number += 1
            if number > MOST_STEPS:
                page.text("The rest stands in the printed working order.")
                return
            dries = f", dries {hours(part.step.drying_min)}" if part.step.drying_min and part.last else ""
            page.text(f"{part.step.title}: {hours(part.end - part.start)}{dries}", 16, order.clock(part.start))
    if order.light_until:
        page.text(f"The light on the motif lasts until {order.light_until}.")


def _departures(page: Page, worked: Worked) -> None:
    planned = [each for each in worked.study.departures if each.outcome in ("open", "kept")]
    if not planned:
        return
    page.head("Otherwise than the photo")
    for each in planned[:MOST_DEPARTURES]:
        reason = f": {each.reason}" if each.reason else ""
        page.text(f"{kind_of(each.kind).verb} {each.name or 'this'}{reason}", 5, "–")
    if len(planned) > MOST_DEPARTURES:
        page.text(f"and {len(planned) - MOST_DEPARTURES} more in the plan.")
    page.y += LINE_MM / 4
