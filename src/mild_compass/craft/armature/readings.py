"""What the armature says: which rectangle this is, what locks, what runs through, where the eye goes."""

from __future__ import annotations

from math import hypot
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.armature.constructions import CONSTRUCTION_WORDS
from mild_compass.craft.armature.engagement import Engaged, engagement
from mild_compass.craft.armature.eye_path import along_share, nearest_mm, outside_share, smoothed_path
from mild_compass.craft.armature.marks import drawn_lines, locked_now, marks_on_sheet, tolerance
from mild_compass.craft.armature.named_ratios import nearest_ratio
from mild_compass.craft.armature.report import verdict_words
from mild_compass.craft.geometry.lines import clipped, picture_box
from mild_compass.craft.reading import Place, Reading, Verdict
from mild_compass.craft.sheet_sizes.lengths import format_length
from mild_compass.craft.sheet_sizes.papers import trimmed
from mild_compass.plan.edits.departures import add_departure, next_id
from mild_compass.plan.edits.viewfinder import choose_paper, move_frame
from mild_compass.plan.errors import PlanError
from mild_compass.plan.study import Departure

if TYPE_CHECKING:
    from mild_compass.craft.armature.eye_path import EyePath
    from mild_compass.craft.geometry.lines import Box
    from mild_compass.craft.sheet_sizes.lengths import Unit
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.structure import Construction
    from mild_compass.plan.study import School

EXACT_MM = 0.05  # nobody trims a twentieth of a millimetre
FOLLOWS = 0.4  # of the path: common practice, no published source
NEAR_READ = 0.08  # of the diagonal: the path passes a place that near

# A school that looks first draws nothing, and judges with the 14 lines afterwards.
JUDGED: dict[School, tuple[Construction, ...]] = {"no grid": ("fourteen",)}


def headline(worked: Worked) -> str:
    """For the route."""
    structure = worked.study.structure
    if structure.lines or structure.points:
        held = locked_now(worked.study, worked.frame_map)
        return f"{held.locked} of {held.counted} lock"
    nearest = nearest_ratio(worked.frame_map.box.width, worked.frame_map.box.height)
    sign = "" if max(nearest.trim_width_mm, nearest.trim_height_mm) < EXACT_MM else "near "
    return f"{sign}{nearest.name}"


def readings(worked: Worked) -> list[Reading]:
    """All readings of the armature."""
    rows = [_ratio(worked.frame_map.box, worked.unit), _rectangle(worked)]
    return [*rows, *_lock_in(worked), *_nudge(worked), *_engagement(worked), *_path(worked)]


# -- the rectangle --------------------------------------------------------------------------------------------


def _ratio(box: Box, unit: Unit) -> Reading:
    ratio = max(box.width, box.height) / min(box.width, box.height)
    width, height = format_length(box.width, unit), format_length(box.height, unit)
    text = f"The picture area is {width} × {height}."
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
        return choose_paper(trimmed(paper, width_mm, height_mm))
    except PlanError:
        return None


# -- lock-in --------------------------------------------------------------------------------------------------


def _lock_in(worked: Worked) -> list[Reading]:
    """What locks onto the drawn armatures, with the sceptics' number once it is there."""
    study, structure = worked.study, worked.study.structure
    if not structure.lines and not structure.points:
        text = "No big lines yet. Find them or trace them, and what locks onto the armature is told here."
        return [Reading("lock_in", "Lock-in", text, shown="no lines")]
    marks = marks_on_sheet(structure, worked.frame_map)
    held = locked_now(study, worked.frame_map)
    if not held.counted:
        text = "All big lines lie outside the viewfinder, so nothing can lock."
        return [Reading("lock_in", "Lock-in", text, 0.0, "locked", "look", shown="none inside")]
    rows = []
    place = Place(tuple(_line(line) for line, locks in zip(marks.lines, held.locks, strict=True) if locks))
    drawn = len(drawn_lines(study, worked.frame_map.box))
    if drawn:
        text = f"{held.locked} of {held.counted} big lines and key points lie on the armature that is drawn."
        shown = f"{held.locked} of {held.counted}"
        found = place if place.lines_mm else None
        rows.append(
            Reading("lock_in", "Lock-in", text, round(100 * held.score, 1), "% locked", "fine", found, None, shown)
        )
    if worked.locks is not None and worked.locks.trials:
        rows += _against_chance(worked)
    return rows


def _line(ends: np.ndarray) -> tuple[tuple[float, float], ...]:
    return tuple((float(x), float(y)) for x, y in ends)


def _against_chance(worked: Worked) -> list[Reading]:
    assert worked.locks is not None
    report, rows = worked.locks, []
    judged = worked.study.armature or JUDGED.get(worked.study.school, ())
    for name in judged[:3]:
        trial = report.trial(name)
        if trial is not None:
            text = verdict_words(trial, len(report.trials))
            rows.append(Reading(f"chance_{name}", "By chance", text, round(trial.p, 4), "p", shown=f"p {trial.p:.2f}"))
    best = report.trials[0]
    if best.construction not in judged[:3]:
        text = f"Of {len(report.trials)} armatures the best fit. {verdict_words(best, len(report.trials))}"
        words = CONSTRUCTION_WORDS[best.construction]
        rows.append(Reading("best_armature", "Best fit", text, round(best.p_holm, 4), "p, corrected", shown=words))
    return rows


def _nudge(worked: Worked) -> list[Reading]:
    nudged = worked.locks.nudged if worked.locks is not None else None
    if nudged is None:
        return []
    before, after = f"{100 * nudged.before:.0f} %", f"{100 * nudged.after:.0f} %"
    text = f"A small shift of the viewfinder locks {after} of the big lines instead of {before}."
    shown = f"+{100 * (nudged.after - nudged.before):.0f} %"
    gain = round(100 * (nudged.after - nudged.before), 1)
    return [Reading("nudge", "Nudge", text, gain, "% more locked", "look", None, move_frame(nudged.frame), shown)]


# -- what runs through ----------------------------------------------------------------------------------------


def _engagement(worked: Worked) -> list[Reading]:
    """Whether a horizontal and a vertical run through the picture plane."""
    structure = worked.study.structure
    if not structure.lines:
        return []
    marks, box = marks_on_sheet(structure, worked.frame_map), worked.frame_map.box
    found = {each.way: each for each in engagement(marks, box)}
    rows = []
    for way, label, side in (("level", "Horizontals", "width"), ("upright", "Verticals", "height")):
        each = found.get(way)  # type: ignore[call-overload]
        key = f"engaged_{way}"
        if each is None:
            text = f"No big {way} line runs through the picture; nothing ties it to the sheet's {side}."
            rows.append(Reading(key, label, text, 0.0, f"% of the {side}", "look", shown="none"))
            continue
        name = next((structure.lines[k].name for k in each.members if structure.lines[k].name), "")
        what = f"the {name.removeprefix('the ')}" if name else f"the strongest {way} line"
        share = f"{100 * each.share:.0f} %"
        place, number = Place((_line(each.ends_mm),)), round(100 * each.share, 1)
        if each.whole:
            text = f"{_capital(what)} runs through {share} of the {side}."
            rows.append(Reading(key, label, text, number, f"% of the {side}", "fine", place, None, share))
            continue
        text = f"{_capital(what)} covers only {share} of the {side}: the weak one. Extend it, if it can be."
        remedy = _extension(worked, each, name)
        rows.append(Reading(key, label, text, number, f"% of the {side}", "look", place, remedy, share))
    return rows


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:]


def _extension(worked: Worked, engaged: Engaged, name: str) -> Edit | None:
    """A planned departure that carries the weak line on, from the end with more room to the edge of the picture."""
    start, end = engaged.ends_mm
    whole = clipped(start, end, worked.frame_map.box, endless=True)
    if whole is None:
        return None
    way = end - start
    if float((whole[1] - whole[0]) @ way) < 0:
        whole = whole[::-1]
    before, after = hypot(*(start - whole[0])), hypot(*(whole[1] - end))
    points = (end, whole[1]) if after >= before else (start, whole[0])
    on_photo = worked.frame_map.to_photo(np.array(points))
    try:
        departure = Departure(
            next_id(worked.plan), "extend a line", _line(on_photo), name, "to run through the picture plane"
        )
    except PlanError:
        return None
    return add_departure(departure)


# -- the eye's path -------------------------------------------------------------------------------------------


def _path(worked: Worked) -> list[Reading]:
    study, box = worked.study, worked.frame_map.box
    if not study.structure.eye_path:
        return []
    points = worked.frame_map.to_sheet(np.array(study.structure.eye_path))
    path = smoothed_path(points, hypot(box.width, box.height))
    if path is None:
        return []
    return [_leaves(path, box, worked), *_passes(path, worked), _along(path, worked)]


def _leaves(path: EyePath, box: Box, worked: Worked) -> Reading:
    outside, turns = outside_share(path, box), len(path.turns)
    told = f"{turns} turn{'s' * (turns != 1)}, {format_length(path.length_mm, worked.unit, 0)} long"
    place = Place((_line(path.points),))
    if outside > 0:
        text = f"The eye's path leaves the picture ({told}). Turn it back before the edge."
        return Reading(
            "path_leaves", "Eye path", text, round(100 * outside, 1), "% outside", "look", place, None, "leaves"
        )
    text = f"The eye's path stays in the picture: {told}."
    return Reading("path_leaves", "Eye path", text, 0.0, "% outside", "fine", place, None, "stays in")


def _passes(path: EyePath, worked: Worked) -> list[Reading]:
    """Whether it comes by the place with the strongest contrast."""
    if worked.picture is None:
        return []
    from mild_compass.craft.picture.framed import framed_lightness
    from mild_compass.craft.values.reads import LONGEST_PX, reads_of

    box = worked.frame_map.box
    framed = framed_lightness(worked.picture, worked.study.frame, worked.plan.paper, LONGEST_PX)
    reads = reads_of(framed.values, 1)
    if not reads:
        return []
    at = (box.left + reads[0].x * box.width, box.top + reads[0].y * box.height)
    off, reach = nearest_mm(path, at), NEAR_READ * hypot(box.width, box.height)
    told, place = format_length(off, worked.unit, 0), Place.box(at[0] - 5, at[1] - 5, at[0] + 5, at[1] + 5)
    if off <= reach:
        text = f"The path passes the first read, the strongest contrast ({told} from it)."
        return [Reading("path_read", "First read", text, round(off, 1), "mm off", "fine", place, None, told)]
    text = f"The path misses the first read by {told}: the eye will be drawn there all the same."
    return [Reading("path_read", "First read", text, round(off, 1), "mm off", "look", place, None, told)]


def _along(path: EyePath, worked: Worked) -> Reading:
    box = worked.frame_map.box
    lines = drawn_lines(worked.study, box)
    share = along_share(path, lines, tolerance(worked.study.structure, box))
    shown = f"{100 * share:.0f} %"
    how = "follows the armature" if share >= FOLLOWS else "goes its own way"
    text = f"The path {how}: {shown} of it runs along a line that is drawn."
    return Reading("path_along", "Along the lines", text, round(100 * share, 1), "% along", shown=shown)
