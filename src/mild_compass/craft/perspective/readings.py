"""What the perspective says: the horizon, a pin per point, the string check of every traced edge."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.perspective.pins import on_sheet, pin_words
from mild_compass.craft.perspective.scene_readings import scene_readings
from mild_compass.craft.perspective.string_check import string_checks
from mild_compass.craft.perspective.vanishing import CHI2_95_TWO, VanishingPoint, ends
from mild_compass.craft.perspective.worked import homogeneous_on_sheet
from mild_compass.craft.reading import Place, Reading, Verdict
from mild_compass.craft.sheet_sizes.lengths import format_length, least_told
from mild_compass.craft.viewfinder.rules import rules_of
from mild_compass.plan.edits.perspective import remove_edge, set_horizon

if TYPE_CHECKING:
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.perspective import EdgeSet

STRING_FINE_MM, STRING_LOOK_MM = 1.0, 3.0


def headline(worked: Worked) -> str:
    """For the route."""
    points = len(worked.perspective.aims)
    share = worked.horizon_share
    if share is None:
        return "no horizon yet"
    where = (
        f"{100 * share:.0f} % down" if 0 <= share <= 1 else "above the picture" if share < 0 else "below the picture"
    )
    return f"horizon {where}" + (f", {points} point{'s' * (points > 1)}" if points else "")


def readings(worked: Worked) -> list[Reading]:
    """All readings of the perspective."""
    found = _horizon(worked)
    for each in worked.study.perspective.sets:
        point = worked.perspective.point(each.letter)
        if point is not None:
            found.append(_pin(worked, point))
            found += _odd_one(each, point)
            found += _strings(worked, each, point)
    found += scene_readings(worked)
    if worked.study.staged:
        # Loaded with the stage: a plan without one does without it.
        from mild_compass.craft.perspective.stage_readings import stage_readings

        found += stage_readings(worked)
    found += [
        Reading(f"set_{each.letter}", f"Set {each.letter}", each.reason, verdict="look")
        for each in worked.perspective.refusals
    ]
    return found


def _horizon(worked: Worked) -> list[Reading]:
    horizon, share = worked.perspective.horizon, worked.horizon_share
    if horizon is None or share is None:
        text = "No horizon yet. Trace two edges that run back, or set it by hand at your eye level."
        return [Reading("horizon", "Horizon", text, verdict="look", shown="–")]
    box = worked.frame_map.box
    down = box.top + share * box.height
    length = format_length(down, worked.unit)
    stiff = abs(share - 0.5) <= rules_of(worked.study).horizon_half
    source = {
        "hand": "set by hand",
        "one point": "level through the one point",
        "one point and uprights": "through the one point, square to the uprights",
        "points": "through the points",
    }
    text = (
        f"The horizon, {source[horizon.source]}, lies {length} below the top of the sheet, "
        f"{100 * share:.0f} % down the picture."
    )
    if stiff:
        text += " Close to half height, which is stiff."
    if abs(horizon.tilt_deg) > 0.3:
        turn = "clockwise" if horizon.tilt_deg > 0 else "anticlockwise"
        text += f" It tilts {abs(horizon.tilt_deg):.1f}° {turn} of level."
    if not 0 <= share <= 1:
        text += " It is outside the picture."
    line = horizon.through(worked.frame_map)
    place = Place((tuple((float(x), float(y)) for x, y in line),))
    found = [
        Reading("horizon", "Horizon", text, round(down, 2), "mm", "look" if stiff else "fine", place, shown=length)
    ]
    return found + _disagreement(worked)


def _disagreement(worked: Worked) -> list[Reading]:
    """A horizon by hand that misses a well-known point."""
    horizon = worked.perspective.horizon
    if horizon is None or horizon.source != "hand":
        return []
    found = []
    level = {each.letter for each in worked.study.perspective.sets if each.kind == "level"}
    for point in worked.perspective.points:
        at = point.point_px
        if at is None or point.letter not in level:
            continue
        off_px = float(at[1] - horizon.y_at(float(at[0])))
        spread = float(np.sqrt(point.covariance_px2[1, 1])) if point.covariance_px2 is not None else 0.0
        off_mm = off_px * worked.frame_map.mm_per_px
        if abs(off_px) > 2.5 * spread and abs(off_mm) > 1.0:
            way = "above" if off_px < 0 else "below"
            amount = format_length(abs(off_mm), worked.unit)
            text = f"The edges of set {point.letter} meet {amount} {way} the horizon set by hand."
            found.append(Reading(f"horizon_{point.letter}", "Horizon and point", text, round(off_mm, 2), "mm", "look",
                                 None, set_horizon(None), format_length(abs(off_mm), worked.unit)))  # fmt: skip
    return found


def _pin(worked: Worked, point: VanishingPoint) -> Reading:
    key, label = f"pin_{point.letter}", f"Point {point.letter}"
    if point.at_infinity:
        text = f"The edges of set {point.letter} are parallel as far as the tracing tells: they never meet."
        return Reading(key, label, text, shown="parallel")
    paper = worked.plan.paper
    x, y, w = homogeneous_on_sheet(point, worked.frame_map)
    x, y = float(x / w), float(y / w)
    covariance = point.covariance_px2
    assert covariance is not None
    radius = float(np.sqrt(np.linalg.eigvalsh(covariance)[-1] * CHI2_95_TWO)) * worked.frame_map.mm_per_px
    verdict: Verdict = "fine" if radius < 25 else "look"
    what = f"Point {point.letter}: " if on_sheet(x, y, paper) else f"Pin {point.letter}: "
    sure = f" Sure to ±{format_length(radius, worked.unit)} (95 %)."
    if verdict == "look":
        sure += " Trace longer edges, or more of them."
    text = what + pin_words(x, y, paper, worked.unit) + "." + sure
    arm = 6.0
    place = Place((((x - arm, y), (x + arm, y)), ((x, y - arm), (x, y + arm))))
    return Reading(key, label, text, round(x, 2), "mm from the left edge", verdict, place, None,
                   f"±{format_length(radius, worked.unit)}")  # fmt: skip


def _odd_one(each: EdgeSet, point: VanishingPoint) -> list[Reading]:
    if point.odd_one is None:
        return []
    number = point.odd_one + 1
    text = f"Edge {each.letter}{number} does not go with the others of its set; it was left out of the point."
    remedy = remove_edge(each.letter, point.odd_one)
    return [
        Reading(
            f"odd_{each.letter}",
            "One edge disagrees",
            text,
            float(number),
            "edge",
            "act",
            None,
            remedy,
            f"{each.letter}{number}",
        )
    ]


def _strings(worked: Worked, each: EdgeSet, point: VanishingPoint) -> list[Reading]:
    """The string check of every edge, the end that is further off."""
    target = homogeneous_on_sheet(point, worked.frame_map)
    found = []
    for number, segment in enumerate(ends(each.edges), 1):
        start, end = worked.frame_map.to_sheet(segment)
        worst = max(string_checks(start, end, target), key=lambda check: abs(check.off_mm))
        off = abs(worst.off_mm)
        verdict: Verdict = "fine" if off <= STRING_FINE_MM else "look" if off <= STRING_LOOK_MM else "act"
        name = f"{each.letter}{number}"
        amount = format_length(off, worked.unit)
        if off < least_told(worked.unit):
            text = f"Edge {name} runs true to its point."
        else:
            text = f"Edge {name}: {worst.action} its {worst.end} end {amount} to run true to its point."
        place = Place((((float(start[0]), float(start[1])), (float(end[0]), float(end[1]))),))
        found.append(
            Reading(f"string_{name}", f"String {name}", text, round(off, 3), "mm", verdict, place, None, amount)
        )
    return found
