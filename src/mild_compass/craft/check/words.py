"""Shifts and turns in words: what is off, and which way to move it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.sheet_sizes.lengths import format_length

if TYPE_CHECKING:
    from mild_compass.craft.sheet_sizes.lengths import Unit

TELLS_MM = 0.3


def _sides(shift_mm: tuple[float, float], unit: Unit, across: tuple[str, str], down: tuple[str, str]) -> str:
    words = []
    for amount, (less, more) in zip(shift_mm, (across, down), strict=True):
        if abs(amount) >= TELLS_MM:
            words.append(f"{format_length(abs(amount), unit)} {more if amount > 0 else less}")
    return " and ".join(words) or f"{format_length(max(map(abs, shift_mm)), unit)} off"


def shift_words(shift_mm: tuple[float, float], unit: Unit, moves: bool = False) -> str:
    """For instance "2.3 mm too far right and 1.1 mm too low", or as a move "2.3 mm right and 1.1 mm down"."""
    if moves:
        return _sides(shift_mm, unit, ("left", "right"), ("up", "down"))
    return _sides(shift_mm, unit, ("too far left", "too far right"), ("too high", "too low"))


def apart_words(shift_mm: tuple[float, float], unit: Unit) -> str:
    """How a part is off, and what to do: the larger way first."""
    off = shift_words(shift_mm, unit)
    back = shift_words((-shift_mm[0], -shift_mm[1]), unit, moves=True)
    return f"{off}; move it {back}"


def turn_words(turn_deg: float) -> str:
    """For instance "0.4° clockwise"."""
    return f"{abs(turn_deg):.1f}° {'clockwise' if turn_deg > 0 else 'anticlockwise'}"
