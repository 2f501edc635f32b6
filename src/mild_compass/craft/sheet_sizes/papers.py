"""Named sheets of paper.

ISO 216 for the A sizes; ANSI/ASME Y14.1 for Letter; imperial watercolour paper is 22 × 30 in, with its half and
quarter: common practice, no published source.
"""

from __future__ import annotations

from dataclasses import replace

from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Paper

MM_PER_INCH = 25.4

UPRIGHT_SIZES_MM: dict[str, tuple[float, float]] = {
    "A3": (297.0, 420.0),
    "A4": (210.0, 297.0),
    "A5": (148.0, 210.0),
    "A6": (105.0, 148.0),
    "Half imperial": (15 * MM_PER_INCH, 22 * MM_PER_INCH),
    "Quarter imperial": (11 * MM_PER_INCH, 15 * MM_PER_INCH),
    "Letter": (8.5 * MM_PER_INCH, 11 * MM_PER_INCH),
}
CUSTOM = "Custom"


def paper(name: str, across: bool = False, margin_mm: float = 15.0) -> Paper:
    """The named sheet, upright or across; an unknown name raises a PlanError that lists the known ones."""
    known = {key.lower(): key for key in UPRIGHT_SIZES_MM}
    key = known.get(name.strip().lower())
    if key is None:
        raise PlanError(f"There is no sheet called {name}. Known are {', '.join(UPRIGHT_SIZES_MM)}, or give a size.")
    short, long = UPRIGHT_SIZES_MM[key]
    return Paper(key, *((long, short) if across else (short, long)), margin_mm)


def turned(sheet: Paper, across: bool) -> Paper:
    """The same sheet laid upright or across."""
    if sheet.across == across:
        return sheet
    return replace(sheet, width_mm=sheet.height_mm, height_mm=sheet.width_mm)


def parse_paper(words: str, margin_mm: float = 15.0) -> Paper:
    """A sheet from words such as "A3 across", "half imperial" or "300 x 400 mm"."""
    from mild_compass.craft.sheet_sizes.lengths import parse_length_mm

    text = words.strip()
    across = text.lower().endswith((" across", " landscape"))
    if across or text.lower().endswith((" upright", " portrait")):
        text = text.rsplit(" ", 1)[0]
    sides = text.lower().replace("×", "x").split("x")
    if len(sides) == 2 and any(part.isdigit() for part in text):
        unit = "in" if sides[1].strip().endswith(("in", '"')) else "mm"
        width, height = (parse_length_mm(side, unit) for side in sides)
        return Paper(CUSTOM, width, height, margin_mm)
    return paper(text, across, margin_mm)


def largest_area_mm(width_mm: float, height_mm: float, ratio: float) -> tuple[float, float]:
    """Width and height of the largest area of a ratio (width over height) inside a rectangle, in mm."""
    width = min(width_mm, height_mm * ratio)
    return width, width / ratio
