"""Measures of the picture in millimetres on the sheet: from the datum lines, as lengths, ratios and angles.

Points and lines of the plan are in photo pixels; everything here is on the sheet.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import atan2, degrees, hypot, isfinite, nan
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.sheet.squared import column_name
from mild_compass.craft.sheet_sizes.scaling import scale_factor

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.plan.paper import Paper
    from mild_compass.plan.pictures import Ground
    from mild_compass.plan.sheet import Datum, MeasurePlan
    from mild_compass.plan.study import Study

    Array = NDArray[np.float64]

TRUE_DEG = 0.05  # less than that is told as upright or level


@dataclass(frozen=True, slots=True)
class DatumLine:
    """A datum on the sheet: its kind, where it stands (mm from the left, or from the top), and its name."""

    kind: str
    at_mm: float
    name: str


@dataclass(frozen=True, slots=True)
class PointRow:
    """A place: from the sheet's corner, and its signed distance from every datum (right and down positive)."""

    name: str
    x_mm: float
    y_mm: float
    from_datums_mm: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class LengthRow:
    """A length: in mm, in units of comparison, across and down, how it leans in words, and in mm on the measured print.

    Units and the length on the print are nan where there is no unit or no such print.
    """

    name: str
    length_mm: float
    units: float
    across_mm: float
    down_mm: float
    lean: str
    print_mm: float = nan


@dataclass(frozen=True, slots=True)
class NegativeRow:
    """An empty shape: its area, its share of the picture, its width and height."""

    name: str
    area_mm2: float
    share: float
    width_mm: float
    height_mm: float


@dataclass(frozen=True, slots=True)
class Measures:
    """All that is measured, in the order of the plan."""

    datums: tuple[DatumLine, ...]
    points: tuple[PointRow, ...]
    lengths: tuple[LengthRow, ...]
    negatives: tuple[NegativeRow, ...]
    unit_name: str = ""


def point_name(name: str, index: int) -> str:
    """Its own name, or a letter."""
    return name or column_name(index)


def length_name(name: str, index: int) -> str:
    """Its own name, or a number."""
    return name or f"length {index + 1}"


def lean_words(across: float, down: float) -> str:
    """How a line leans off the upright or the level, whichever is nearer, as "4.0° clockwise of upright"."""
    if abs(down) >= abs(across):
        if down > 0:
            across, down = -across, -down
        off, from_what = degrees(atan2(across, -down)), "upright"
    else:
        if across < 0:
            across, down = -across, -down
        off, from_what = degrees(atan2(down, across)), "level"
    if abs(off) < TRUE_DEG:
        return from_what
    return f"{abs(off):.1f}° {'clockwise' if off > 0 else 'anticlockwise'} of {from_what}"


def datum_lines(datums: tuple[Datum, ...], frame_map: FrameMap) -> tuple[DatumLine, ...]:
    """The datum lines on the sheet."""
    found = []
    for number, each in enumerate(datums, 1):
        x, y = frame_map.to_sheet((each.x_px, each.y_px)).tolist()
        name = each.name or f"{'upright' if each.kind == 'upright' else 'level'} {number}"
        found.append(DatumLine(each.kind, x if each.kind == "upright" else y, name))
    return tuple(found)


def points_mm(plan: MeasurePlan, frame_map: FrameMap) -> Array:
    """The measured places (n, 2)."""
    return frame_map.to_sheet(np.array([[p.x_px, p.y_px] for p in plan.points], np.float64).reshape(-1, 2))


def lengths_mm(plan: MeasurePlan, frame_map: FrameMap) -> Array:
    """The measured lengths (n, 2, 2), each from end to end."""
    ends = np.array([[[a.x0_px, a.y0_px], [a.x1_px, a.y1_px]] for a in plan.lengths], np.float64).reshape(-1, 2)
    return frame_map.to_sheet(ends).reshape(-1, 2, 2)


def study_measures(study: Study, photo: Ground, paper: Paper) -> Measures:
    """Everything measured in a study; lengths also as they are on the print the artist has measured once."""
    frame_map = FrameMap.of(study.frame, paper)
    times = scale_factor(study.measured, photo, study.frame, frame_map) if study.measured else nan
    return measures(study.measures, frame_map, times)


def measures(plan: MeasurePlan, frame_map: FrameMap, times: float = nan) -> Measures:
    """Everything measured; ``times`` is how many times as long a length is on the sheet as on a print."""
    datums = datum_lines(plan.datums, frame_map)
    lengths = lengths_mm(plan, frame_map)
    unit = float(hypot(*(lengths[plan.unit - 1, 1] - lengths[plan.unit - 1, 0]))) if plan.unit else float("nan")
    return Measures(
        datums,
        tuple(
            _point_row(point_name(point.name, k), x, y, datums)
            for k, (point, (x, y)) in enumerate(zip(plan.points, points_mm(plan, frame_map).tolist(), strict=True))
        ),
        tuple(
            _length_row(length_name(each.name, k), across, down, unit, times)
            for k, (each, (across, down)) in enumerate(
                zip(plan.lengths, (lengths[:, 1] - lengths[:, 0]).tolist(), strict=True)
            )
        ),
        tuple(
            _negative_row(each.name or f"shape {k + 1}", frame_map.to_sheet(each.points), frame_map)
            for k, each in enumerate(plan.negatives)
        ),
        length_name(plan.lengths[plan.unit - 1].name, plan.unit - 1) if plan.unit else "",
    )


def _point_row(name: str, x: float, y: float, datums: tuple[DatumLine, ...]) -> PointRow:
    return PointRow(name, x, y, tuple((x if each.kind == "upright" else y) - each.at_mm for each in datums))


def _length_row(name: str, across: float, down: float, unit_mm: float, times: float) -> LengthRow:
    length = hypot(across, down)
    units = length / unit_mm if isfinite(unit_mm) and unit_mm > 0 else float("nan")
    return LengthRow(name, length, units, abs(across), abs(down), lean_words(across, down), length / times)


def _negative_row(name: str, outline: Array, frame_map: FrameMap) -> NegativeRow:
    area = float(shapely.make_valid(shapely.Polygon(outline)).area)
    width, height = np.ptp(outline, axis=0).tolist()
    return NegativeRow(name, area, area / (frame_map.box.width * frame_map.box.height), width, height)


def side_words(kind: str, off_mm: float, told: str) -> str:
    """How a place lies to a datum, as "31.0 mm right of"; ``told`` is the length in the artist's unit."""
    side = ("right of", "left of") if kind == "upright" else ("below", "above")
    return f"{told} {side[0] if off_mm > 0 else side[1]}"
