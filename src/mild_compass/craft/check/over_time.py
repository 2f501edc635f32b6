"""Several checks of one sheet: mean and worst, what was mended, what is still off."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.check.readings import off_parts, part_name
from mild_compass.craft.sheet_sizes.lengths import format_length

if TYPE_CHECKING:
    from collections.abc import Sequence

    from mild_compass.craft.check.checked import Checked, PartFound
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.pictures import OwnDrawing

SAME_MM = 18.0  # parts whose middles are nearer than that are one and the same


@dataclass(frozen=True, slots=True)
class CheckRow:
    """One check: when, how far the work was, mean and worst distance (mm) from where things belong in the whole."""

    name: str
    taken: str
    stage: str
    mean_mm: float | None
    worst_mm: float | None
    off: int
    drawn_percent: float
    mended: tuple[str, ...] = ()
    still: tuple[str, ...] = ()
    problem: str = ""


def mean_and_worst(checked: Checked) -> tuple[float, float] | None:
    """Mean distance of all places from where they belong, and the 98 % point of them, in mm; None without places."""
    far = np.array([np.hypot(*place.rest_mm) for place in checked.places])
    return (float(far.mean()), float(np.quantile(far, 0.98))) if len(far) else None


def check_row(drawing: OwnDrawing, checked: Checked, worked: Worked, before: Checked | None = None) -> CheckRow:
    """A check as a row; what was off ``before`` is either mended or still off."""
    told = mean_and_worst(checked)
    off = off_parts(checked, drawing)
    earlier = [part for part in before.parts if part.sure] if before is not None else []
    mended = tuple(dict.fromkeys(part_name(part, worked) for part in earlier if not _again(part, off)))
    still = tuple(dict.fromkeys(part_name(part, worked) for part in earlier if _again(part, off)))
    mean, worst = told if told is not None else (None, None)
    return CheckRow(
        drawing.name, drawing.taken, drawing.stage, mean, worst, len(off), 100 * checked.drawn_share, mended, still,
        checked.problem,
    )  # fmt: skip


def _again(part: PartFound, off: Sequence[PartFound]) -> bool:
    return any(np.hypot(*np.subtract(part.centre_mm, other.centre_mm)) < SAME_MM for other in off)


def summary_words(worked: Worked) -> str:
    """What a check has told, in a line for the logbook."""
    checked, drawing = worked.check, worked.plan.drawing
    assert checked is not None
    assert drawing is not None
    off = off_parts(checked, drawing)
    told = mean_and_worst(checked)
    mean = f", {format_length(told[0], worked.unit)} in the mean" if told is not None else ""
    if not off:
        return f"Checked {drawing.name}: nothing off{mean}."
    first = ", ".join(f"{part_name(part, worked)} {format_length(part.far_mm, worked.unit)}" for part in off[:3])
    return f"Checked {drawing.name}: {len(off)} off ({first}){mean}."
