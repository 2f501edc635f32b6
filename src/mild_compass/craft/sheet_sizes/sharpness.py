"""How sharp a photo prints: 300 dots per inch fine, 150 serviceable (common practice, no published source)."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.sheet_sizes.lengths import MM_PER_INCH
from mild_compass.plan.framing import widest_px

if TYPE_CHECKING:
    from mild_compass.craft.reading import Verdict
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.pictures import Ground

FINE_DPI, SERVICEABLE_DPI, COARSE_DPI = 300.0, 150.0, 72.0  # common practice, no published source


def dots_per_inch(mm_per_px: float) -> float:
    """Photo pixels over inches printed."""
    return MM_PER_INCH / mm_per_px


def dpi_at_widest(photo: Ground, paper: Paper) -> float:
    """Dots per inch when as much of a photo as goes fills the picture area."""
    return widest_px(photo, paper.ratio) / paper.picture_width_mm * MM_PER_INCH


def said_of_dpi(dpi: float) -> tuple[Verdict, str]:
    """What so many dots per inch are good for."""
    if dpi >= FINE_DPI:
        return "fine", "a fine print"
    if dpi >= SERVICEABLE_DPI:
        return "fine", "serviceable for tracing"
    if dpi >= COARSE_DPI:
        return "look", "soft, but good enough to transfer the large shapes"
    return "act", "too coarse to trace from; take in more of the photo, or a smaller sheet"
