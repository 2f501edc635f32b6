"""The table of measures as CSV (RFC 4180), lengths in mm with a full stop."""

from __future__ import annotations

import csv
import io
from math import isfinite
from typing import TYPE_CHECKING

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.sheet.alignments import alignments
from mild_compass.craft.sheet.measure import study_measures
from mild_compass.craft.sheet.symmetry import compared_sides
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from collections.abc import Mapping

    from mild_compass.plan.model import Plan

FORMULA_SIGNS = ("=", "+", "-", "@", "\t", "\r")
HEADS = (
    "kind",
    "name",
    "x_mm",
    "y_mm",
    "length_mm",
    "on_print_mm",
    "units",
    "across_mm",
    "down_mm",
    "lean",
    "from_datum",
)


def measures_csv(plan: Plan) -> str:
    """One row a datum, place, length, shape between things, alignment and level of the two sides.

    Raises:
        PlanError: there is no study to measure in.
    """
    study = plan.study
    if study is None:
        raise PlanError("There is no photo in the plan yet, so nothing is measured. Add one first.")
    frame_map = FrameMap.of(study.frame, plan.paper)
    found = study_measures(study, plan.ground(study), plan.paper)
    target = io.StringIO()
    out = _PlainWriter(target)
    for datum in found.datums:
        place = "x_mm" if datum.kind == "upright" else "y_mm"
        out.writerow({"kind": "datum", "name": datum.name, place: _mm(datum.at_mm), "lean": datum.kind})
    for point in found.points:
        offs = "; ".join(f"{d.name} {off:+.2f}" for d, off in zip(found.datums, point.from_datums_mm, strict=True))
        row = {"kind": "place", "name": point.name, "x_mm": _mm(point.x_mm), "y_mm": _mm(point.y_mm)}
        out.writerow({**row, "from_datum": offs})
    for length in found.lengths:
        units = f"{length.units:.4f}" if isfinite(length.units) else ""
        row = {"kind": "length", "name": length.name, "length_mm": _mm(length.length_mm), "units": units}
        row["on_print_mm"] = _mm(length.print_mm) if isfinite(length.print_mm) else ""
        out.writerow({**row, "across_mm": _mm(length.across_mm), "down_mm": _mm(length.down_mm), "lean": length.lean})
    for shape in found.negatives:
        row = {"kind": "shape between", "name": shape.name}
        out.writerow({**row, "across_mm": _mm(shape.width_mm), "down_mm": _mm(shape.height_mm)})
    for each in alignments(study.measures, frame_map):
        out.writerow({"kind": each.relation, "name": f"{each.first} – {each.second}", "length_mm": _mm(each.off_mm)})
    if study.measures.symmetry is not None:
        sides = compared_sides(study.measures.symmetry, frame_map)
        out.writerow({"kind": "axis", "name": "axis", "lean": sides.lean})
        for number, side in enumerate(sides.rows, 1):
            row = {"kind": "sides", "name": f"level {number}", "y_mm": _mm(side.along_mm)}
            out.writerow({**row, "across_mm": _mm(side.left_mm), "down_mm": _mm(side.right_mm)})
    return target.getvalue()


class _PlainWriter:
    """Writes rows in which no spreadsheet takes a name for a formula."""

    def __init__(self, target: io.StringIO) -> None:
        self._rows = csv.DictWriter(target, HEADS, restval="")
        self._rows.writeheader()

    def writerow(self, row: Mapping[str, str]) -> None:
        self._rows.writerow({key: _no_formula(value) if key == "name" else value for key, value in row.items()})


def _no_formula(text: str) -> str:
    """A cell that begins as a formula does gets an apostrophe before it (OWASP, CSV Injection)."""
    return f"'{text}" if text[:1] in FORMULA_SIGNS and text else text


def _mm(value: float) -> str:
    return f"{value:.2f}"
