"""How many pixels of a screen make a millimetre: from the screen's own data, corrected by a bar measured once."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Sequence

    from PySide6.QtGui import QScreen

    from mild_compass.studio.settings.preferences import MeasuredScreen

MM_PER_INCH, BAR_MM = 25.4, 100.0
USUAL_PX_PER_MM = 96 / MM_PER_INCH
SENSIBLE = (1.0, 40.0)  # pixels to a millimetre: what lies outside is no screen's own data


def name_of(screen: QScreen) -> str:
    """What tells a screen from others, from one day to the next."""
    return " ".join(part for part in (screen.manufacturer(), screen.model(), screen.serialNumber()) if part) or (
        screen.name()
    )


def own_px_per_mm(screen: QScreen) -> float:
    """By the screen's own data, across; the usual where these make no sense."""
    found = screen.physicalDotsPerInchX() / MM_PER_INCH
    return found if SENSIBLE[0] <= found <= SENSIBLE[1] else USUAL_PX_PER_MM


def px_per_mm(screen: QScreen, measured: Sequence[MeasuredScreen]) -> float:
    """Corrected by what the bar measured there, if it was measured."""
    name = name_of(screen)
    bar = next((each.bar_mm for each in measured if each.screen == name), BAR_MM)
    return own_px_per_mm(screen) * BAR_MM / bar
