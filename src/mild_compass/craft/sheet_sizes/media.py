"""The names by which the printing system knows sizes of paper.

Without one it takes the printer's usual paper, and cuts off whatever of a larger page does not fit on that. Names as
in CUPS's lp (command-line printing and options); other sizes go by their measures.
"""

from __future__ import annotations

from mild_compass.craft.sheet_sizes.papers import UPRIGHT_SIZES_MM

KNOWN_MEDIA = ("A0", "A1", "A2", "A3", "A4", "A5", "A6", "Letter", "Legal", "Tabloid")
SAME_MM = 1.0


def media_of(width_mm: float, height_mm: float) -> str:
    """The name of a page's paper, whichever way it lies."""
    short, long = sorted((width_mm, height_mm))
    for name in KNOWN_MEDIA:
        a, b = UPRIGHT_SIZES_MM[name]
        if abs(short - a) <= SAME_MM and abs(long - b) <= SAME_MM:
            return name
    return f"Custom.{width_mm:.0f}x{height_mm:.0f}mm"
