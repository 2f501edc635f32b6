"""The colours in use now: a view asks when it paints, so that light and dark change at once."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.theme.palette import LIGHT

if TYPE_CHECKING:
    from mild_compass.studio.theme.palette import Palette


class _Wall:
    painted: Palette = LIGHT


def use(palette: Palette) -> None:
    """These are the colours from now on."""
    _Wall.painted = palette


def colours() -> Palette:
    """The colours of the chrome, light or dark."""
    return _Wall.painted
