"""What is said of a ringed subject: where it stands, room ahead, edges it touches, whether a figure fits."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.reading import Place, Reading, Verdict
from mild_compass.craft.sheet_sizes.lengths import format_length
from mild_compass.craft.viewfinder.gaps import Side, gaps_mm, ring_bounds
from mild_compass.craft.viewfinder.moves import shifted
from mild_compass.craft.viewfinder.places import nearest_place
from mild_compass.craft.viewfinder.rules import rules_of
from mild_compass.plan.edits.viewfinder import move_frame
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import require_fitting

if TYPE_CHECKING:
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.study import Frame, Ring

AHEAD_AND_BEHIND: dict[str, tuple[Side, Side]] = {
    "left": ("left", "right"),
    "right": ("right", "left"),
    "up": ("top", "bottom"),
    "down": ("bottom", "top"),
}
OPPOSITE = {"left": "right", "right": "left"}


def ring_readings(worked: Worked, ring: Ring, number: int) -> list[Reading]:
    """All readings of one ring; the first is told as the subject."""
    tail = "" if number == 0 else f"_{number + 1}"
    return [
        _placement(worked, ring, number, tail),
        *_lead_room(worked, ring, tail),
        *_tangents(worked, ring, tail),
        *_heads(worked, ring, tail),
    ]


def _placement(worked: Worked, ring: Ring, number: int, tail: str) -> Reading:
    key, label = f"placement{tail}", "Subject" if number == 0 else f"Subject {number + 1}"
    box, rules = worked.frame_map.box, rules_of(worked.study)
    across, down = worked.frame_map.to_share((ring.x_px, ring.y_px)).tolist()
    percent, number_told = f"{100 * across:.0f} %", round(100 * across, 1)
    if not (0 <= across <= 1 and 0 <= down <= 1):
        remedy = _try_at(worked, ring, 1 / 3 if across < 0.5 else 2 / 3)
        text = f"The {ring.name} lies outside the viewfinder."
        return Reading(key, label, text, number_told, "% across", "act", None, remedy, "outside")
    place = _ring_place(worked, ring)
    if abs(across - 0.5) <= rules.dead_centre and number == 0:
        nearer = 1 / 3 if across < 0.5 else 2 / 3
        remedy = _try_at(worked, ring, nearer) or _try_at(worked, ring, 1 - nearer)
        apart = format_length(abs(across - 0.5) * box.width, worked.unit)
        text = f"The {ring.name} stands dead centre, {apart} from the upright middle. Allowed, but still."
        return Reading(key, label, text, number_told, "% across", "look", place, remedy, percent)
    text = f"The {ring.name} is {percent} across and {100 * down:.0f} % down"
    nearest = nearest_place(worked.study.school, across, down, box)
    if nearest is not None:
        on = nearest.off_mm <= rules.on_a_place * box.width
        text += f", {'on' if on else format_length(nearest.off_mm, worked.unit) + ' from'} {nearest.name}"
    return Reading(key, label, f"{text}.", number_told, "% across", "fine", place, None, percent)


def _lead_room(worked: Worked, ring: Ring, tail: str) -> list[Reading]:
    """Free length ahead of the subject over free length behind it, from the ring's bounds."""
    facing = ring.facing
    if worked.study.frame.flipped:
        facing = OPPOSITE.get(facing, facing)  # type: ignore[assignment]
    if facing == "nowhere":
        return []
    gaps = gaps_mm(ring, worked.frame_map)
    side, back = AHEAD_AND_BEHIND[facing]
    ahead, behind = gaps[side], gaps[back]
    if min(ahead, behind) <= 0:
        return []
    ratio, rules = ahead / behind, rules_of(worked.study)
    room = format_length(ahead, worked.unit)
    verdict: Verdict = "fine" if ratio > rules.lead_room else "look"
    where = facing if facing in ("up", "down") else f"to the {facing}"
    text = f"The {ring.name} faces {where} with {room} ahead, {ratio:.1f} times the room behind."
    remedy = None
    if verdict == "look":
        text += " Give it room to look into."
        frame = _with_room(worked, side, ahead, behind)
        remedy = move_frame(frame) if frame is not None else None
        if remedy is not None and frame is not None and _needs_paper(worked, frame):
            text += " The photo ends there: bare paper would have to be drawn on."
    key, unit = f"lead_room{tail}", "ahead : behind"
    return [Reading(key, "Lead room", text, round(ratio, 2), unit, verdict, None, remedy, room)]


def _with_room(worked: Worked, side: Side, ahead: float, behind: float) -> Frame | None:
    """The frame shifted so that there is more room ahead than behind: on the photo if it can be, else beyond it."""
    box, frame, photo = worked.frame_map.box, worked.study.frame, worked.ground
    level = side in ("left", "right")
    share = ((behind - ahead) / 2) / (box.width if level else box.height) + 0.06
    way = -share if side in ("left", "top") else share
    for beyond in (False, True):
        better = shifted(frame, way if level else 0.0, 0.0 if level else way, photo, beyond)
        whole = shifted(frame, way if level else 0.0, 0.0 if level else way, photo, True)
        if better == whole and better != frame:
            try:
                return require_fitting(better, photo, worked.plan.paper)
            except PlanError:
                return None
    return None


def _needs_paper(worked: Worked, frame: Frame) -> bool:
    from mild_compass.plan.framing import is_beyond

    return is_beyond(frame, worked.ground)


def _tangents(worked: Worked, ring: Ring, tail: str) -> list[Reading]:
    """Sides of the frame that cut the subject, or that it all but touches."""
    box = worked.frame_map.box
    near = rules_of(worked.study).tangent * min(box.width, box.height)
    found = []
    for side, gap in gaps_mm(ring, worked.frame_map).items():
        over = format_length(abs(gap), worked.unit)
        if gap < -near:
            text = f"The {side} edge cuts {over} off the {ring.name}."
        elif gap <= near:
            text = f"The {ring.name} all but touches the {side} edge. Give it air, or cut boldly."
        else:
            continue
        key, place = f"tangent_{side}{tail}", _ring_place(worked, ring)
        found.append(Reading(key, "Touching the edge", text, round(gap, 1), "mm", "look", place, None, over))
    return found


def _heads(worked: Worked, ring: Ring, tail: str) -> list[Reading]:
    """Whether a figure fits whose head is ringed (eight heads: Vitruvius, De architectura III.1)."""
    if ring.heads <= 0:
        return []
    bounds, box = ring_bounds(ring, worked.frame_map), worked.frame_map.box
    head, room = bounds.height, box.bottom - bounds.top
    needed = ring.heads * head
    shown, told = format_length(needed, worked.unit, 0), format_length(head, worked.unit)
    text = f"A head of {told} makes a figure of {ring.heads:g} heads {shown} tall. "
    verdict: Verdict = "fine"
    if needed <= room:
        text += f"It fits, with {format_length(room - needed, worked.unit, 0)} under the feet."
    else:
        verdict = "look"
        text += (
            f"From the top of the head there are {format_length(room, worked.unit, 0)}: cut after {room / head:.1f}."
        )
    return [Reading(f"heads{tail}", "Fit by heads", text, round(needed, 1), "mm", verdict, None, None, shown)]


def _ring_place(worked: Worked, ring: Ring) -> Place:
    return Place.box(*ring_bounds(ring, worked.frame_map))


def _try_at(worked: Worked, ring: Ring, share: float) -> Edit | None:
    """An edit that puts the subject at a share across, or None where the photo has no room for it."""
    frame, photo = worked.study.frame, worked.ground
    across, down = worked.frame_map.to_share((ring.x_px, ring.y_px)).tolist()
    better = shifted(frame, across - share, 0.0 if 0 <= down <= 1 else down - 0.5, photo)
    from mild_compass.craft.geometry.frame_map import FrameMap

    reached = float(FrameMap.of(better, worked.plan.paper).to_share((ring.x_px, ring.y_px))[0])
    if abs(reached - 0.5) <= rules_of(worked.study).dead_centre or not 0 <= reached <= 1:
        return None
    return move_frame(better)
