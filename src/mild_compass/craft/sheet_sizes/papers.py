"""Named sheets of paper and canvas.

ISO 216 for the A and B sizes; ANSI/ASME Y14.1 for Letter, Tabloid and the ANSI sizes. Legal, the architectural
sizes, imperial watercolour paper (22 × 30 in, with its half, quarter and eighth) and the canvas sizes are common
practice, no published source.
"""

from __future__ import annotations

import re
from dataclasses import replace
from difflib import get_close_matches

from mild_compass.craft.sheet_sizes.lengths import MM_PER_INCH, parse_length_mm
from mild_compass.plan.errors import PlanError
from mild_compass.plan.paper import Paper


def _inches(**sizes: tuple[float, float]) -> dict[str, tuple[float, float]]:
    return {name.replace("_", " "): (short * MM_PER_INCH, long * MM_PER_INCH) for name, (short, long) in sizes.items()}


def _canvases(*sizes: tuple[int, int]) -> dict[str, tuple[float, float]]:
    return {f"Canvas {a} × {b} in": (a * MM_PER_INCH, b * MM_PER_INCH) for a, b in sizes}


UPRIGHT_SIZES_MM: dict[str, tuple[float, float]] = {
    "A3": (297.0, 420.0),
    "A4": (210.0, 297.0),
    "A5": (148.0, 210.0),
    "A6": (105.0, 148.0),
    **_inches(Half_imperial=(15, 22), Quarter_imperial=(11, 15), Letter=(8.5, 11)),
    "A0": (841.0, 1189.0),
    "A1": (594.0, 841.0),
    "A2": (420.0, 594.0),
    "B1": (707.0, 1000.0),
    "B2": (500.0, 707.0),
    "B3": (353.0, 500.0),
    "B4": (250.0, 353.0),
    "B5": (176.0, 250.0),
    **_inches(Imperial=(22, 30), Eighth_imperial=(7.5, 11), Legal=(8.5, 14), Tabloid=(11, 17)),
    **_inches(ANSI_C=(17, 22), ANSI_D=(22, 34), ANSI_E=(34, 44)),
    **_inches(Arch_A=(9, 12), Arch_B=(12, 18), Arch_C=(18, 24), Arch_D=(24, 36), Arch_E=(36, 48)),
    **_canvases((8, 10), (11, 14), (12, 16), (16, 20), (20, 24), (24, 30), (30, 40)),
}
CUSTOM = "Custom"
LIES = {"across": "across", "landscape": "across", "upright": "upright", "portrait": "upright"}


def paper(name: str, across: bool = False, margin_mm: float = 15.0) -> Paper:
    """The named sheet, upright or across.

    Raises:
        PlanError: there is no such sheet; the nearest names are told.
    """
    known = {key.lower(): key for key in UPRIGHT_SIZES_MM}
    key = known.get(name.strip().lower())
    if key is None:
        near = get_close_matches(name.strip().lower(), known, n=3, cutoff=0.5)
        meant = " or ".join(known[each] for each in near) or "for instance A3, Half imperial or Letter"
        raise PlanError(f"There is no sheet called {name.strip()}. Did you mean {meant}? Or give a size: 300 x 400 mm.")
    short, long = UPRIGHT_SIZES_MM[key]
    return Paper(key, *((long, short) if across else (short, long)), margin_mm)


def turned(sheet: Paper, across: bool) -> Paper:
    """The same sheet laid upright or across."""
    if sheet.across == across:
        return replace(sheet, lay="by hand")
    return replace(sheet, width_mm=sheet.height_mm, height_mm=sheet.width_mm, lay="by hand")


def parse_paper(words: str, margin_mm: float = 15.0) -> Paper:
    """A sheet from words such as "A3 across", "half imperial" or "300 x 400 mm", or as the window writes it.

    Where the words do not say how it lies, it is laid as the first photo lies.
    """
    said = [LIES[word] for word in re.findall("[a-z]+", words.lower()) if word in LIES]
    plain = re.sub(rf"\b({'|'.join(LIES)})\b", ",", words, flags=re.IGNORECASE)
    parts = [part.strip() for part in plain.split(",") if part.strip()] or [words]
    name, across = parts[0], said[-1:] == ["across"]
    size = next((part for part in parts if _is_size(part)), "")
    known = name.lower() in {each.lower() for each in UPRIGHT_SIZES_MM}
    if size and not known and (size is name or name.lower() == CUSTOM.lower()):
        unit = "in" if size.endswith(("in", '"')) else "mm"
        width, height = (parse_length_mm(side, unit) for side in size.lower().replace("×", "x").split("x"))
        return Paper(CUSTOM, width, height, margin_mm)
    found = paper(name, across, margin_mm)
    return found if said else replace(found, lay="as the photo")


def _is_size(words: str) -> bool:
    """Whether words give two sides, as 300 x 400 mm."""
    sides = words.lower().replace("×", "x").split("x")
    return len(sides) == 2 and all(any(sign.isdigit() for sign in side) for side in sides)


def largest_area_mm(width_mm: float, height_mm: float, ratio: float) -> tuple[float, float]:
    """Width and height of the largest area of a ratio (width over height) inside a rectangle, in mm."""
    width = min(width_mm, height_mm * ratio)
    return width, width / ratio


def with_picture_ratio(sheet: Paper, ratio: float) -> Paper:
    """The sheet with margins widened, alike on opposite sides, until its picture area has a ratio as large as goes."""
    plain = replace(sheet, sides_mm=None)
    width, height = largest_area_mm(plain.picture_width_mm, plain.picture_height_mm, ratio)
    across = sheet.margin_mm + (plain.picture_width_mm - width) / 2
    down = sheet.margin_mm + (plain.picture_height_mm - height) / 2
    return replace(sheet, sides_mm=(across, down, across, down))


def trimmed(sheet: Paper, width_mm: float, height_mm: float) -> Paper:
    """The sheet with so much cut off its width and height; its margins stay."""
    return replace(sheet, name=CUSTOM, width_mm=sheet.width_mm - width_mm, height_mm=sheet.height_mm - height_mm)
