"""A reading: one plain sentence with its number, and where there is one, the place and the remedy."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal, get_args

from mild_compass.plan.stations import STATION_NAMES

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
            "place_mm": self.place.lines_mm if self.place is not None else None,
            "try": self.remedy.label if self.remedy is not None else None,
        }


def json_schema() -> dict[str, Any]:
    """What a script may count on: the readings of each station, in the words of JSON Schema (draft 2020-12)."""
    point = {"type": "array", "prefixItems": [{"type": "number"}] * 2, "items": False, "minItems": 2}
    lines = {"type": "array", "items": {"type": "array", "items": point}}
    told = {
        "key": ("string", "What is told; it stays the same from version to version."),
        "label": ("string", "Its name on the card."),
        "number": (["number", "null"], "The number alone, in the unit beside it."),
        "unit": ("string", "The unit of the number, as mm, %, ° or dpi; empty for a plain count or share."),
        "text": ("string", "The sentence as it stands on the card."),
        "try": (["string", "null"], "What “Try it” would do; null where there is nothing to try."),
    }
    fields: dict[str, Any] = {name: {"type": kind, "description": words} for name, (kind, words) in told.items()}
    fields["verdict"] = {"enum": list(get_args(Verdict)), "description": "Fine, worth a look, or to be acted on."}
    fields["place_mm"] = {
        "anyOf": [{"type": "null"}, lines],
        "description": "Where it is: lines of points, x to the right and y down in mm from the sheet's top left.",
    }
    one = {"type": "object", "properties": fields, "required": sorted(fields), "additionalProperties": False}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Readings of a plan, by station",
        "description": "What `mild-compass readings PLAN --json` prints.",
        "type": "object",
        "propertyNames": {"enum": list(STATION_NAMES)},
        "additionalProperties": {"type": "array", "items": one},
    }


def worst_first(readings: list[Reading]) -> list[Reading]:
    """Readings in the order in which they deserve a look."""
    return sorted(readings, key=lambda reading: ORDER[reading.verdict])
