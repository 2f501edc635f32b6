"""From a length measured once on any print, screen or phone to lengths on the sheet."""

from __future__ import annotations

from dataclasses import replace
from math import sqrt
from typing import TYPE_CHECKING

from mild_compass.plan.errors import PlanError, require_within

if TYPE_CHECKING:
    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.pictures import Ground
    from mild_compass.plan.study import Frame, Measured

FACTORS = (0.01, 100.0)
ARM_MM, SHEET_AWAY_MM = (200.0, 1000.0), (200.0, 10_000.0)
HEADS_TALL = 8.0  # Vitruvius, De architectura III.1: the head is an eighth of the body's height


def scale_factor(measured: Measured, photo: Ground, frame: Frame, frame_map: FrameMap) -> float:
    """How many times as long a length is on the sheet as on the print or screen it was measured on."""
    pixels = {
        "photo width": float(photo.width_px),
        "photo height": float(photo.height_px),
        "frame width": frame.width_px,
        "frame height": frame.height_px,
    }[measured.span]
    return pixels * frame_map.mm_per_px / measured.length_mm


def paper_for_factor(paper: Paper, now: float, wanted: float) -> Paper:
    """The sheet with margins that make the picture area so large that lengths become ``wanted`` times as long.

    The picture area keeps its proportion and lies in the middle; ``now`` is how many times as long they are at present.

    Raises:
        PlanError: the factor makes no sense, or the picture would be larger than the sheet, or too small to draw.
    """
    require_within("How many times as long", wanted, *FACTORS, "times")
    width, height = (side * wanted / now for side in (paper.picture_width_mm, paper.picture_height_mm))
    across = (paper.width_mm - width) / 2 - paper.tape_mm
    down = (paper.height_mm - height) / 2 - paper.tape_mm
    if min(across, down) < 0:
        most = now * min(
            (paper.width_mm - 2 * paper.tape_mm) / paper.picture_width_mm,
            (paper.height_mm - 2 * paper.tape_mm) / paper.picture_height_mm,
        )
        raise PlanError(f"The picture would be larger than the sheet. On {paper.name} it is {most:.2f} times at most.")
    return replace(paper, sides_mm=(across, down, across, down), lay="by hand")


def sight_size_factor(arm_mm: float, sheet_mm: float) -> float:
    """How many times as long a length is on the sheet as on a stick held at arm's length, both seen from one place.

    The stick is ``arm_mm`` from the eye, the sheet ``sheet_mm``: lengths that cover one another are as their distances
    (similar triangles; Euclid, Elements VI.4).

    Raises:
        PlanError: a distance makes no sense.
    """
    require_within("The distance of the stick from the eye", arm_mm, *ARM_MM, "mm")
    require_within("The distance of the sheet from the eye", sheet_mm, *SHEET_AWAY_MM, "mm")
    return sheet_mm / arm_mm


def figure_mm(head_mm: float, heads: float = HEADS_TALL) -> float:
    """Height of a standing figure from the height of its head."""
    return head_mm * heads


def both_ways(ratio: float) -> tuple[float, float]:
    """A ratio given either way round, as upright (below one) and across (above one)."""
    low = min(ratio, 1 / ratio)
    return low, 1 / low


def diagonal_mm(width_mm: float, height_mm: float) -> float:
    """From corner to corner."""
    return sqrt(width_mm**2 + height_mm**2)
