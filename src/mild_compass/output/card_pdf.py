"""The viewfinder card as two pages: a card with a window, and two L-shaped halves."""

from __future__ import annotations

import io
from typing import TYPE_CHECKING

import numpy as np
from reportlab.lib.utils import simpleSplit

from mild_compass.craft.cautions import KNIFE, SUN
from mild_compass.craft.drawing import Label
from mild_compass.craft.sheet_sizes.card import (
    PAGE_ROOM_MM,
    RIM_MM,
    USUAL_DISTANCE_MM,
    USUAL_LONG_MM,
    ViewfinderCard,
    viewfinder_card,
)
from mild_compass.output.canvas import FONT, UNITS_PER_MM, MmCanvas

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan

PAGE_MM, EDGE_MM, LINE_MM, SIZE_MM = (210.0, 297.0), 15.0, 5.0, 2.6
NOTCH_MM = 4.0
L_ARM_MM, L_WIDE_MM = 150.0, 26.0
VIEWS_DEG = (20, 30, 40, 50, 60)


def card_pdf(plan: Plan, longest_mm: float = USUAL_LONG_MM, distance_mm: float = USUAL_DISTANCE_MM) -> bytes:
    """The PDF's bytes, on A4, at true size.

    Raises:
        PlanError: no such card can be cut for this sheet.
    """
    card = viewfinder_card(plan.paper, longest_mm, distance_mm)
    target = io.BytesIO()
    canvas = MmCanvas(target, f"{plan.name} – viewfinder card")
    _window_page(canvas, plan, card)
    _halves_page(canvas, card)
    canvas.save()
    return target.getvalue()


def _window_page(canvas: MmCanvas, plan: Plan, card: ViewfinderCard) -> None:
    canvas.begin(*PAGE_MM)
    ratio = max(card.width_mm, card.height_mm) / min(card.width_mm, card.height_mm)
    title = f"Viewfinder card for {plan.paper.name}, 1 to {ratio:.3f}"
    canvas.words(Label(title, EDGE_MM, EDGE_MM + 4, "mass", 4.2, "left"))
    # It is laid along the page where it is longer than the page is wide.
    wide, high = card.width_mm + 2 * RIM_MM, card.height_mm + 2 * RIM_MM
    turned = wide > PAGE_ROOM_MM[0]
    x, y = EDGE_MM, EDGE_MM + 14
    canvas.pushed(*((0.0, 1.0, -1.0, 0.0, x + high, y) if turned else (1.0, 0.0, 0.0, 1.0, x, y)))
    _box(canvas, 0, 0, wide, high, 0.35)
    _box(canvas, RIM_MM, RIM_MM, card.width_mm, card.height_mm, 0.35)
    for at_x, at_y, kind in card.notches:
        _notch(canvas, card, at_x + RIM_MM, at_y + RIM_MM, kind)
    canvas.popped()
    below = y + (wide if turned else high) + 8
    for line in _said(card):
        below = _words(canvas, line, EDGE_MM, below)
    canvas.end()


def _said(card: ViewfinderCard) -> list[str]:
    """How it is cut and held, and what to heed."""
    longest = max(card.width_mm, card.height_mm)
    views = ", ".join(f"{card.distance_for(angle) / 10:.0f} cm for {angle}°" for angle in VIEWS_DEG)
    opening = f"{card.width_mm:.1f} × {card.height_mm:.1f} mm"
    held = f"Held at {card.distance_mm / 10:.0f} cm from the eye it sees what a {card.view_deg:.0f}° view sees"
    threads = "At the notches (halves, thirds, corners for the diagonals) stretch threads over the opening"
    return [
        f"Print at 100 %. The opening is {opening}: measure it before you cut.",
        f"{held} along its longer side. Other views: {views}.",
        f"Cut along the thick lines, out of grey or black card. {threads}; {longest:.0f} mm span it once.",
        KNIFE,
        SUN,
    ]


def _notch(canvas: MmCanvas, card: ViewfinderCard, x: float, y: float, kind: str) -> None:
    """A short cut outward from the opening, where a thread is held."""
    middle = (RIM_MM + card.width_mm / 2, RIM_MM + card.height_mm / 2)
    out_x = np.sign(x - middle[0]) if x in (RIM_MM, RIM_MM + card.width_mm) else 0.0
    out_y = np.sign(y - middle[1]) if y in (RIM_MM, RIM_MM + card.height_mm) else 0.0
    length = NOTCH_MM / (2**0.5 if kind == "diagonal" else 1)
    canvas.stroke(np.array([[x, y], [x + out_x * length, y + out_y * length]]), 0.35, "mass")
    if kind != "diagonal":
        sign = {"half": "1/2", "third": "1/3"}[kind]
        canvas.words(Label(sign, x + out_x * 7, y + out_y * 7 + 1, "measure", 2.0))


def _halves_page(canvas: MmCanvas, card: ViewfinderCard) -> None:
    """Two L-shaped halves with a scale along their inner edges: laid on one another they make any opening."""
    canvas.begin(*PAGE_MM)
    canvas.words(Label("Two L-shaped halves", EDGE_MM, EDGE_MM + 4, "mass", 4.2, "left"))
    top = EDGE_MM + 14
    for number in range(2):
        y = top + number * (L_WIDE_MM + 4)
        x = EDGE_MM + number * (L_WIDE_MM + 4)
        _half(canvas, x, y)
    foot = top + L_WIDE_MM + 4 + L_ARM_MM + 10
    ratio = card.width_mm / card.height_mm
    pairs = ", ".join(f"{side:.0f} × {side / ratio:.0f}" for side in (40, 60, 80, 100))
    seen = f"{card.width_mm:.0f} mm wide at {card.distance_mm / 10:.0f} cm, {card.view_deg:.0f}°"
    for line in (
        f"Cut both along the thick lines and hold them together with clips. For this sheet set them to {pairs} mm.",
        f"Any opening of that proportion sees as the card does: {seen}.",
        KNIFE,
    ):
        foot = _words(canvas, line, EDGE_MM, foot)
    canvas.end()


def _half(canvas: MmCanvas, x: float, y: float) -> None:
    arm, wide, corner = L_ARM_MM, L_WIDE_MM, np.array([x, y])
    canvas.stroke(
        corner + np.array([[0, 0], [arm, 0], [arm, wide], [wide, wide], [wide, arm], [0, arm], [0, 0]]), 0.35, "mass"
    )
    for mm in range(0, int(arm - wide) + 1, 5):
        long = 4.0 if mm % 10 == 0 else 2.2
        along = np.array([[wide + mm, wide], [wide + mm, wide - long]])
        canvas.stroke(corner + along, 0.15, "measure")
        canvas.stroke(corner + along[:, ::-1], 0.15, "measure")
        if mm % 20 == 0:
            canvas.words(Label(str(mm), x + wide + mm, y + wide - 5.5, "measure", 1.8))
            canvas.words(Label(str(mm), x + wide - 5.5, y + wide + mm + 0.8, "measure", 1.8, "right"))


def _box(canvas: MmCanvas, x: float, y: float, width: float, height: float, weight: float) -> None:
    corners = np.array([[0, 0], [1, 0], [1, 1], [0, 1], [0, 0]]) * (width, height) + (x, y)
    canvas.stroke(corners, weight, "mass")


def _words(canvas: MmCanvas, text: str, x: float, y: float) -> float:
    wide = (PAGE_MM[0] - 2 * EDGE_MM) * UNITS_PER_MM
    for line in simpleSplit(text, FONT, SIZE_MM * 1.35 * UNITS_PER_MM, wide):
        canvas.words(Label(line, x, y, "mass", SIZE_MM, "left"))
        y += LINE_MM
    return y + 1
