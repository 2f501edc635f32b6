"""A reading: one plain sentence with its number, and where there is one, the place and the remedy."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal

if TYPE_CHECKING:
    from mild_compass.plan.edits.base import Edit

Verdict = Literal["fine", "look", "act"]
ORDER: dict[Verdict, int] = {"act": 0, "look": 1, "fine": 2}


@dataclass(frozen=True, slots=True)
class Place:
    """A place to show: polylines of (x, y) points in mm on the sheet."""

    lines_mm: tuple[tuple[tuple[float, float], ...], ...]

    @classmethod
    def box(cls, left: float, top: float, right: float, bottom: float) -> Place:
        """The outline of an upright rectangle."""
        return cls((((left, top), (right, top), (right, bottom), (left, bottom), (left, top)),))


@dataclass(frozen=True, slots=True)
class Reading:
    """What the computation says about one thing; text is the sentence, number and unit stand for themselves."""

    key: str
    label: str
    text: str
    number: float | None = None
    unit: str = ""
    verdict: Verdict = "fine"
    place: Place | None = None
    remedy: Edit | None = None
    shown: str = ""

    def as_json(self) -> dict[str, Any]:
        """The reading as plain data for scripts."""
        return {
            "key": self.key,
            "label": self.label,
            "number": self.number,
            "unit": self.unit,
            "verdict": self.verdict,
            "text": self.text,
        }


def worst_first(readings: list[Reading]) -> list[Reading]:
    """Readings in the order in which they deserve a look."""
    return sorted(readings, key=lambda reading: ORDER[reading.verdict])
