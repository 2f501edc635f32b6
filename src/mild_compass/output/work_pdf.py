"""The working order as pages of A4: for each sitting a strip of time, and its steps in a list."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.drawing import Label
from mild_compass.craft.logbook.used import materials, pencil_for
from mild_compass.craft.work.planned import hours
from mild_compass.craft.work.working_order import order_of
from mild_compass.output.sheet_pages import EDGE_MM, PAGE_MM, Page

if TYPE_CHECKING:
    from mild_compass.craft.work.planned import WorkingOrder
    from mild_compass.craft.work.sittings import Part, SittingPlan
    from mild_compass.craft.worked import Worked

STRIP_MM, BAR_MM, DRY_MM = 22.0, 6.0, 1.6
WIDE_MM = PAGE_MM[0] - 2 * EDGE_MM
TICK_MIN = (5, 10, 15, 30, 60, 120)
MOST_TICKS = 14
GIVEN = "Times and drying are common practice, no published source, until your own are known."


def work_pdf(worked: Worked) -> bytes:
    """The PDF's bytes."""
    order = worked.order or order_of(worked)
    plan = worked.plan
    page = Page(f"{plan.name} – study {worked.study.name}: working order")
    low, high = order.range_min
    spread = f", mostly {hours(low)} to {hours(high)}" if order.own else ""
    count = len(order.sittings)
    page.text(
        f"{hours(order.hands_min)} of work{spread}, in {count} sitting{'s' * (count != 1)}; at one go from "
        f"{order.clock(0)} to {order.clock(order.end_min)}."
    )
    page.text(f"Pencil: {pencil_for(plan, worked.study)}.")
    page.text(f"At hand: {'; '.join(materials(plan, order))}.")
    page.y += 2
    numbers = {step.key: number for number, step in enumerate(order.in_order, 1)}
    for sitting in order.sittings:
        _sitting(page, order, sitting, numbers)
    page.head("To heed")
    for each in order.cautions:
        page.text(each, 5, "–")
    page.text(GIVEN)
    return page.done()


def _sitting(page: Page, order: WorkingOrder, sitting: SittingPlan, numbers: dict[str, int]) -> None:
    page.room(STRIP_MM + 24)
    page.head(f"Sitting {sitting.number}, {order.clock(0)} to {order.clock(sitting.end)}")
    _strip(page, order, sitting, numbers)
    for part in sitting.parts:
        step = part.step
        dries = f", then dries {hours(step.drying_min)}" if step.drying_min and part.last else ""
        some = "" if part.first and part.last else " (a first part)" if part.first else " (goes on)"
        page.text(
            f"{order.clock(part.start)}  {step.title}{some}: {hours(part.end - part.start)}{dries}.", 10,
            str(numbers[step.key]),
        )  # fmt: skip
        page.text(f"{step.words} {step.look_for}", 10)
    page.text(sitting.stop)
    page.y += 2


def _strip(page: Page, order: WorkingOrder, sitting: SittingPlan, numbers: dict[str, int]) -> None:
    """Time from left to right: work as boxes with the step's number, waiting between them, drying as lines below."""
    span = max(sitting.end, *(part.dry_at for part in sitting.parts), 1.0)
    scale, top = WIDE_MM / span, page.y
    for part in sitting.parts:
        _box(page, part, numbers[part.step.key], scale, top)
    below = top + BAR_MM
    for row, part in enumerate(part for part in sitting.parts if part.dry_at > part.end):
        y = below + 1.2 + DRY_MM * (row % 2)
        ends = np.array([[part.end, 0.0], [part.dry_at, 0.0]]) * scale + (EDGE_MM, y)
        page.canvas.stroke(ends, 0.5, "perspective", "dotted")
    step = next((each for each in TICK_MIN if span / each <= MOST_TICKS), TICK_MIN[-1])
    for minute in range(0, int(span) + 1, step):
        x = EDGE_MM + minute * scale
        page.canvas.stroke(np.array([[x, below + 4.6], [x, below + 5.8]]), 0.15, "mass")
        page.canvas.words(Label(order.clock(minute), x, below + 9, "mass", 1.7, "left"))
    page.y += STRIP_MM


def _box(page: Page, part: Part, number: int, scale: float, top: float) -> None:
    left, right = EDGE_MM + part.start * scale, EDGE_MM + part.end * scale
    rim = np.array([[left, top], [right, top], [right, top + BAR_MM], [left, top + BAR_MM], [left, top]])
    page.canvas.stroke(rim, 0.3, "mass")
    if right - left > 4:
        page.canvas.words(Label(str(number), (left + right) / 2, top + BAR_MM - 2, "mass", 2.2))
