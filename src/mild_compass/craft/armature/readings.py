"""What the armature says: which rectangle this is, and what to trim to make it a named one."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.craft.armature.named_ratios import nearest_ratio
from mild_compass.craft.geometry.lines import picture_box
from mild_compass.craft.reading import Place, Reading, Verdict
from mild_compass.craft.sheet_sizes.lengths import format_length
from mild_compass.craft.sheet_sizes.papers import CUSTOM
from mild_compass.plan.edits.viewfinder import choose_paper
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from mild_compass.craft.geometry.lines import Box
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.model import Paper

EXACT_MM = 0.05  # nobody trims a twentieth of a millimetre


def headline(worked: Worked) -> str:
    """For the route."""
    nearest = nearest_ratio(worked.frame_map.box.width, worked.frame_map.box.height)
    sign = "" if max(nearest.trim_width_mm, nearest.trim_height_mm) < EXACT_MM else "near "
    return f"{sign}{nearest.name}"


def readings(worked: Worked) -> list[Reading]:
    """All readings of the armature."""
    return [_ratio(worked.frame_map.box), _rectangle(worked)]


def _ratio(box: Box) -> Reading:
    ratio = max(box.width, box.height) / min(box.width, box.height)
    text = f"The picture area is {box.width:.1f} × {box.height:.1f} mm."
    return Reading("ratio", "Long side to short", text, round(ratio, 4), "", shown=f"{ratio:.3f}")


def _rectangle(worked: Worked) -> Reading:
    paper, box = worked.plan.paper, worked.frame_map.box
    nearest = nearest_ratio(box.width, box.height)
    trim = max(nearest.trim_width_mm, nearest.trim_height_mm)
    if trim < EXACT_MM:
        text = f"The picture area is a {nearest.name} rectangle."
        return Reading("nearest_ratio", "Rectangle", text, 0.0, "mm to trim", shown=nearest.name)
    side = "width" if nearest.trim_width_mm else "height"
    verdict: Verdict = "fine" if abs(nearest.off_percent) < 8 else "look"
    text = (
        f"Nearest named rectangle: {nearest.name}, {abs(nearest.off_percent):.1f} % "
        f"{'longer' if nearest.off_percent > 0 else 'shorter'} than it. "
        f"Trim {format_length(trim, worked.unit)} off the {side} to reach it."
    )
    place = _strip(box, nearest.trim_width_mm, nearest.trim_height_mm)
    whole = box == picture_box(paper)
    remedy = _trimmed(paper, nearest.trim_width_mm, nearest.trim_height_mm) if whole else None
    shown = format_length(trim, worked.unit)
    return Reading("nearest_ratio", "Rectangle", text, round(trim, 2), "mm to trim", verdict, place, remedy, shown)


def _strip(box: Box, width_mm: float, height_mm: float) -> Place:
    if width_mm:
        return Place.box(box.right - width_mm, box.top, box.right, box.bottom)
    return Place.box(box.left, box.bottom - height_mm, box.right, box.bottom)


def _trimmed(paper: Paper, width_mm: float, height_mm: float) -> Edit | None:
    try:
        smaller = replace(paper, name=CUSTOM, width_mm=paper.width_mm - width_mm, height_mm=paper.height_mm - height_mm)
    except PlanError:
        return None
    return choose_paper(smaller)
