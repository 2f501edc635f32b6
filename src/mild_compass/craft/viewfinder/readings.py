"""What the viewfinder says: share kept, scale, sharpness, placement of the subject."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.reading import Place, Reading, Verdict
from mild_compass.craft.sheet_sizes.lengths import MM_PER_INCH, format_length
from mild_compass.craft.viewfinder.gaps import gaps_px
from mild_compass.craft.viewfinder.moves import moved
from mild_compass.craft.viewfinder.rules import RULES
from mild_compass.plan.edits.viewfinder import move_frame

if TYPE_CHECKING:
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.model import Frame, Reference, Ring

FINE_DPI, SERVICEABLE_DPI = 300.0, 150.0  # common practice, no published source


def share_kept(frame: Frame, photo: Reference) -> float:
    """Area of the frame over area of the photo."""
    return frame.width_px * frame.height_px / (photo.width_px * photo.height_px)


def dots_per_inch(frame: Frame, picture_width_mm: float) -> float:
    """Photo pixels over inches printed."""
    return frame.width_px / (picture_width_mm / MM_PER_INCH)


def headline(worked: Worked) -> str:
    """For the route."""
    return f"{100 * share_kept(worked.study.frame, worked.photo):.0f} % kept"


def readings(worked: Worked) -> list[Reading]:
    """All readings of the viewfinder."""
    found = [_share(worked), _scale(worked), _sharpness(worked)]
    for ring in worked.study.rings[:1]:
        found += [_placement(worked, ring), *_lead_room(worked, ring), *_tangents(worked, ring)]
    if worked.picture is not None:
        # Loaded with the photo: it needs slow libraries, and a plan without a picture does without it.
        from mild_compass.craft.viewfinder.picture_readings import picture_readings

        found += picture_readings(worked)
    return [*found, *_horizon(worked)]


def _share(worked: Worked) -> Reading:
    share = 100 * share_kept(worked.study.frame, worked.photo)
    text = f"The viewfinder keeps {share:.0f} % of the photo."
    return Reading("share_kept", "Photo kept", text, round(share, 2), "%", shown=f"{share:.0f} %")


def _scale(worked: Worked) -> Reading:
    scale = 100 * worked.frame_map.mm_per_px
    length = format_length(scale, worked.unit, 2)
    text = f"100 pixels of the photo become {length} on the sheet."
    return Reading("scale", "Scale", text, round(scale, 4), "mm per 100 px", shown=length)


def _sharpness(worked: Worked) -> Reading:
    dpi = dots_per_inch(worked.study.frame, worked.plan.paper.picture_width_mm)
    verdict: Verdict
    if dpi >= FINE_DPI:
        verdict, words = "fine", "a fine print"
    elif dpi >= SERVICEABLE_DPI:
        verdict, words = "fine", "serviceable for tracing"
    elif dpi >= 72:
        verdict, words = "look", "soft, but good enough to transfer the large shapes"
    else:
        verdict, words = "act", "too coarse to trace from; take in more of the photo, or a smaller sheet"
    text = f"Printed at size the photo has {dpi:.0f} dots per inch: {words}."
    return Reading("sharpness", "Printed sharpness", text, round(dpi, 1), "dpi", verdict, shown=f"{dpi:.0f} dpi")


def _placement(worked: Worked, ring: Ring) -> Reading:
    frame, paper = worked.study.frame, worked.plan.paper
    across = (ring.x_px - frame.x_px) / frame.width_px
    down = (ring.y_px - frame.y_px) / frame.height_px
    number = round(100 * across, 1)
    where = f"{100 * across:.0f} % across and {100 * down:.0f} % down"
    if not (0 <= across <= 1 and 0 <= down <= 1):
        remedy = _try_at(worked, ring, 1 / 3 if ring.x_px < worked.photo.width_px / 2 else 2 / 3)
        text = f"The {ring.name} lies outside the viewfinder."
        return Reading("placement", "Subject", text, number, "% across", "act", None, remedy, "outside")
    box = _ring_place(worked, ring)
    off_middle = (across - 0.5) * paper.picture_width_mm
    if abs(across - 0.5) <= RULES.dead_centre:
        nearer = 1 / 3 if across < 0.5 else 2 / 3
        remedy = _try_at(worked, ring, nearer) or _try_at(worked, ring, 1 - nearer)
        apart = format_length(abs(off_middle), worked.unit)
        text = f"The {ring.name} stands dead centre, {apart} from the upright middle. Allowed, but still."
        return Reading("placement", "Subject", text, number, "% across", "look", box, remedy, f"{100 * across:.0f} %")
    third = 1 / 3 if across < 0.5 else 2 / 3
    gap_mm = abs(across - third) * paper.picture_width_mm
    gap = format_length(gap_mm, worked.unit)
    near = "on" if abs(across - third) <= RULES.on_a_third else f"{gap} from"
    side = "left" if across < 0.5 else "right"
    text = f"The {ring.name} is {where}, {near} the {side} third."
    return Reading("placement", "Subject", text, number, "% across", "fine", box, None, f"{100 * across:.0f} %")


def _lead_room(worked: Worked, ring: Ring) -> list[Reading]:
    """Free length ahead of the subject over free length behind it, from the ring's bounds."""
    frame = worked.study.frame
    gaps = gaps_px(ring, frame)
    left, right = gaps["left"], gaps["right"]
    if ring.facing == "nowhere" or min(left, right) <= 0:
        return []
    ahead, behind = (left, right) if ring.facing == "left" else (right, left)
    ratio = ahead / behind
    room = format_length(ahead * worked.frame_map.mm_per_px, worked.unit)
    verdict: Verdict = "fine" if ratio > RULES.lead_room else "look"
    text = f"The {ring.name} faces {ring.facing} with {room} ahead, {ratio:.1f} times the room behind."
    remedy = None
    if verdict == "look":
        text += " Give it room to look into."
        shift = (behind - ahead) / 2 + 0.06 * frame.width_px
        better = moved(frame, -shift if ring.facing == "left" else shift, 0, worked.photo)
        remedy = move_frame(better) if better != frame else None
        if remedy is None:
            text += " The photo ends here; the sheet would have to be drawn on from imagination."
    return [Reading("lead_room", "Lead room", text, round(ratio, 2), "ahead : behind", verdict, None, remedy, room)]


def _tangents(worked: Worked, ring: Ring) -> list[Reading]:
    """Sides of the frame that cut the subject, or that it all but touches."""
    frame = worked.study.frame
    near = RULES.tangent * min(frame.width_px, frame.height_px)
    found = []
    for side, gap in gaps_px(ring, frame).items():
        over = format_length(abs(gap) * worked.frame_map.mm_per_px, worked.unit)
        if gap < -near:
            text = f"The {side} edge cuts {over} off the {ring.name}."
        elif gap <= near:
            text = f"The {ring.name} all but touches the {side} edge. Give it air, or cut boldly."
        else:
            continue
        number = round(gap * worked.frame_map.mm_per_px, 1)
        found.append(Reading(f"tangent_{side}", "Touching the edge", text, number, "mm", "look",
                             _ring_place(worked, ring), None, over))  # fmt: skip
    return found


def _horizon(worked: Worked) -> list[Reading]:
    """A horizon at half height, where one is known."""
    share = worked.horizon_share
    if share is None or abs(share - 0.5) > RULES.horizon_half:
        return []
    text = f"The horizon lies {100 * share:.0f} % down, close to half height: stiff. Move the frame up or down."
    shown = f"{100 * share:.0f} %"
    return [Reading("horizon_half", "Horizon", text, round(100 * share, 1), "% down", "look", shown=shown)]


def _ring_place(worked: Worked, ring: Ring) -> Place:
    low = worked.frame_map.to_sheet((ring.x_px - ring.radius_x_px, ring.y_px - ring.radius_y_px))
    high = worked.frame_map.to_sheet((ring.x_px + ring.radius_x_px, ring.y_px + ring.radius_y_px))
    return Place.box(float(low[0]), float(low[1]), float(high[0]), float(high[1]))


def _try_at(worked: Worked, ring: Ring, share: float) -> Edit | None:
    """An edit that puts the subject at a share across, or None where the photo has no room for it."""
    frame = worked.study.frame
    wanted_x = ring.x_px - share * frame.width_px
    wanted_y = frame.y_px
    if not frame.y_px <= ring.y_px <= frame.y_px + frame.height_px:
        wanted_y = ring.y_px - frame.height_px / 2
    better = moved(frame, wanted_x - frame.x_px, wanted_y - frame.y_px, worked.photo)
    reached = (ring.x_px - better.x_px) / better.width_px
    if abs(reached - 0.5) <= RULES.dead_centre or not 0 <= reached <= 1:
        return None
    return move_frame(better)
