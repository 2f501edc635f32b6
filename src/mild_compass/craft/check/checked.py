"""What a check of a drawing has found, in millimetres of the sheet."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from mild_compass.craft.check.flat import FlatSheet
    from mild_compass.craft.check.whole import Similarity

    Array = NDArray[np.float64]

Point = tuple[float, float]


@dataclass(frozen=True, slots=True)
class PlaceFound:
    """A place of the plan and where it was drawn, its standard error, and whether that is off beyond doubt.

    With a ``normal`` only the distance along it is known: a place on a line without corners. ``rest_mm`` is how far it
    is off besides the whole.
    """

    plan_mm: Point
    drawn_mm: Point
    normal: Point | None
    sigma_mm: float
    off: bool
    rest_mm: Point
    part: int = -1


@dataclass(frozen=True, slots=True)
class PartFound:
    """A part that was drawn elsewhere besides the whole: about its middle in the plan, by how much."""

    name: str
    centre_mm: Point
    shift_mm: Point
    scale_percent: float
    turn_deg: float
    sure: bool
    sigma_mm: float
    lines_mm: tuple[tuple[Point, ...], ...]  # its pieces in the plan

    @property
    def far_mm(self) -> float:
        """How far it is off."""
        return float((self.shift_mm[0] ** 2 + self.shift_mm[1] ** 2) ** 0.5)


@dataclass(frozen=True, slots=True)
class NotDrawn:
    """Something of the plan that is not on the paper yet."""

    name: str
    centre_mm: Point
    length_mm: float
    lines_mm: tuple[tuple[Point, ...], ...]


@dataclass(frozen=True, slots=True)
class WholeFound:
    """How the whole was drawn: about the middle of the sheet; and the errors of shift (mm), scale (%), turn (deg)."""

    shift_mm: Point
    scale_percent: float
    turn_deg: float
    shear_percent: float
    sigma: tuple[float, float, float]


@dataclass(frozen=True, eq=False, slots=True)
class Checked:
    """A drawing against its plan. ``problem`` is a sentence where it cannot be told, and then nothing else is there."""

    sure: bool
    corners_px: tuple[Point, ...] = ()
    problem: str = ""
    remark: str = ""
    flat: FlatSheet | None = None
    whole: WholeFound | None = None
    matrix: Array | None = None
    frame: WholeFound | None = None
    places: tuple[PlaceFound, ...] = ()
    parts: tuple[PartFound, ...] = ()
    missing: tuple[NotDrawn, ...] = ()
    drawn_share: float = 0.0
    not_drawn_kinds: tuple[str, ...] = ()

    def as_json(self) -> dict[str, Any]:
        """As plain data for scripts."""
        whole = self.whole
        return {
            "sure": self.sure,
            "problem": self.problem,
            "remark": self.remark,
            "corners_px": [_pair(corner) for corner in self.corners_px],
            "whole": None if whole is None else _whole(whole),
            "frame": None if self.frame is None else _whole(self.frame),
            "places": [
                {
                    "plan_mm": _pair(place.plan_mm),
                    "drawn_mm": _pair(place.drawn_mm),
                    "normal": None if place.normal is None else _pair(place.normal, 4),
                    "sigma_mm": round(place.sigma_mm, 3),
                    "off": place.off,
                }
                for place in self.places
            ],
            "parts": [
                {
                    "name": part.name,
                    "centre_mm": _pair(part.centre_mm),
                    "shift_mm": _pair(part.shift_mm),
                    "scale_percent": round(part.scale_percent, 2),
                    "turn_deg": round(part.turn_deg, 2),
                    "sure": part.sure,
                }
                for part in self.parts
            ],
            "missing": [
                {"name": each.name, "centre_mm": _pair(each.centre_mm), "length_mm": round(each.length_mm, 1)}
                for each in self.missing
            ],
        }


def _pair(point: Point, digits: int = 3) -> list[float]:
    return [round(float(point[0]), digits), round(float(point[1]), digits)]


def _whole(whole: WholeFound) -> dict[str, Any]:
    return {
        "shift_mm": _pair(whole.shift_mm),
        "scale_percent": round(whole.scale_percent, 3),
        "turn_deg": round(whole.turn_deg, 3),
        "shear_percent": round(whole.shear_percent, 3),
    }


def whole_of(move: Similarity, sigma: tuple[float, float, float]) -> WholeFound:
    """The whole in the words of the check."""
    return WholeFound(move.shift_mm, 100 * (move.scale - 1), move.turn_deg, 100 * move.shear, sigma)
