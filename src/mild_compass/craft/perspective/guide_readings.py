"""What the guides say: figures and their size, what is built on the horizon, rows that do not close up."""

from __future__ import annotations

from dataclasses import replace
from math import hypot
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.perspective.guide_lines import ground_points, lines_of_guides, third_post
from mild_compass.craft.reading import Place, Reading
from mild_compass.craft.sheet_sizes.lengths import format_length
from mild_compass.plan.edits.perspective import change_guide

if TYPE_CHECKING:
    from mild_compass.craft.perspective.camera import Camera
    from mild_compass.craft.perspective.guide_lines import GuideLines
    from mild_compass.craft.perspective.horizon import HorizonLine
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.guides import Guide

ON_HORIZON_MM = 1.0  # a foot so near below the horizon stands endlessly far away
NEARER_M = 10.0  # where a remedy brings it
SPARE_PX = 1.0  # a gap set by hand is no more exact than that


def guide_readings(worked: Worked) -> list[Reading]:
    """Guides that cannot stand where they are, and figures whose size can be told."""
    perspective = worked.study.perspective
    horizon, camera = worked.perspective.horizon, worked.perspective.camera
    if not perspective.guides:
        return []
    if camera is None or horizon is None:
        text = "Guides need a horizon. Trace edges, or set it by hand, and they appear."
        return [Reading("guides", "Guides", text, verdict="look", shown="no horizon")]
    found = []
    for each in lines_of_guides(perspective, horizon, camera):
        built_high = _on_horizon(worked, each.guide, horizon, camera)
        if built_high is not None:
            found.append(built_high)
        elif not each.lines:
            text = f"The {_name(each.guide)} lies {each.words}. Move it below the horizon."
            found.append(Reading(f"guide_{each.guide.id}", "Guide", text, verdict="look", shown="not drawn"))
        elif each.guide.kind == "figure":
            found.append(_figure(worked, each))
        elif each.guide.kind == "row" and len(each.guide.points) > 2:
            found += _gaps(worked, each.guide, horizon)
    return found


def _name(guide: Guide) -> str:
    return guide.name or guide.kind


def _figure(worked: Worked, each: GuideLines) -> Reading:
    points = worked.frame_map.to_sheet(each.lines[0])
    tall = float(np.ptp(points[:, 1]))
    shown = format_length(tall, worked.unit)
    text = f"The {_name(each.guide)} of {each.guide.height_m:.2f} m is {shown} tall where it stands."
    place = Place.box(*points.min(0).tolist(), *points.max(0).tolist())
    return Reading(f"guide_{each.guide.id}", "Figure", text, round(tall, 1), "mm", "fine", place, None, shown)


def _on_horizon(worked: Worked, guide: Guide, horizon: HorizonLine, camera: Camera) -> Reading | None:
    """Feet on the horizon, or over it: the ground ends there, so what stands on it is endlessly far away."""
    feet = ground_points(guide)
    if not feet:
        return None
    mm = worked.frame_map.mm_per_px
    below = [(y - horizon.y_at(x)) * mm for x, y in feet]
    if min(below) > ON_HORIZON_MM:
        return None
    x, y = feet[int(np.argmin(below))]
    wanted = float(camera.seen([[0.0, NEARER_M, 0.0]])[0, 1] - horizon.y_at(camera.centre_px[0]))
    moved = wanted - (y - horizon.y_at(x))
    remedy = change_guide(replace(guide, points=tuple((px, py + moved) for px, py in guide.points)))
    text = (
        f"The {_name(guide)} is built on the horizon instead of on the ground. The horizon is where your own eye is "
        f"high, and the ground only reaches it endlessly far away; {NEARER_M:.0f} m off, a foot lies "
        f"{format_length(wanted * mm, worked.unit)} below it."
    )
    spots = worked.frame_map.to_sheet(feet)
    place = Place((tuple((float(a), float(b)) for a, b in spots),)) if len(spots) > 1 else None
    return Reading(f"guide_{guide.id}", "Built on the horizon", text, None, "", "act", place, remedy, "no ground there")


def _gaps(worked: Worked, guide: Guide, horizon: HorizonLine) -> list[Reading]:
    """Equal gaps close up towards the horizon; by hand they often stay equal, and the row does not go back."""
    triple = guide.points[:3]
    first, second, third = sorted(triple, key=lambda foot: horizon.y_at(foot[0]) - foot[1])  # the nearest first
    near, far = _gap(first, second), _gap(second, third)
    closes = far < near - SPARE_PX
    goes_back = abs((first[1] - horizon.y_at(first[0])) - (third[1] - horizon.y_at(third[0]))) > near / 10
    wanted = third_post(replace(guide, points=(first, second)), horizon)
    if closes or not goes_back or wanted is None:
        return []
    mm = worked.frame_map.mm_per_px
    text = (
        f"The gaps of the {_name(guide)} do not close up: {format_length(near * mm, worked.unit)}, then "
        f"{format_length(far * mm, worked.unit)} further away. Equal gaps on the ground get smaller towards the "
        f"horizon; after the first the next would be {format_length(_gap(second, wanted) * mm, worked.unit)}."
    )
    spots = worked.frame_map.to_sheet([first, second, third])
    place = Place((tuple((float(a), float(b)) for a, b in spots),))
    remedy = change_guide(replace(guide, points=(first, second, wanted)))
    return [Reading(f"gaps_{guide.id}", "Gaps", text, round(far * mm, 1), "mm", "look", place, remedy)]


def _gap(a: tuple[float, float], b: tuple[float, float]) -> float:
    return hypot(b[0] - a[0], b[1] - a[1])
