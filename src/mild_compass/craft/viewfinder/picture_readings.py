"""What the picture inside the frame says: edges, spare strips, balance, dark and light."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.memo import Memo
from mild_compass.craft.picture.framed import framed_lightness
from mild_compass.craft.reading import Place, Reading
from mild_compass.craft.sheet_sizes.lengths import format_length
from mild_compass.craft.viewfinder import judging
from mild_compass.craft.viewfinder.gaps import Side, gaps_mm
from mild_compass.craft.viewfinder.moves import shifted
from mild_compass.craft.viewfinder.rules import rules_of
from mild_compass.plan.edits.departures import add_departure, next_id
from mild_compass.plan.edits.viewfinder import move_frame
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import about
from mild_compass.plan.study import Departure

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.geometry.lines import Box
    from mild_compass.craft.reading import Verdict
    from mild_compass.craft.viewfinder.rules import Rules
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.study import Frame

JUDGED_PX = 160  # readings of the whole frame keep up with the hand; places are told to whole millimetres
MOST_PATCHES = 2
_READINGS: Memo[list[Reading]] = Memo(3)


def picture_readings(worked: Worked) -> list[Reading]:
    """Readings that need the photo; none while it has not been read."""
    if worked.picture is None:
        return []
    study = worked.study
    wishes = (study.rings, study.keep, study.departures, study.school, study.rules)
    key = (study.id, study.frame, worked.plan.paper, worked.ground, worked.unit, wishes)
    return _READINGS.of(worked.picture, key, lambda: _judged(worked))


def _judged(worked: Worked) -> list[Reading]:
    assert worked.picture is not None
    framed = framed_lightness(worked.picture, worked.study.frame, worked.plan.paper, JUDGED_PX)
    # Bare paper weighs nothing: what will be drawn there is not known.
    values = framed.filled(float(np.median(framed.covered)))
    if min(values.shape) < 8:
        return []
    rules = rules_of(worked.study)
    return [
        *_edges(worked, values, rules),
        *_spare(worked, values, rules),
        _balance(worked, values, rules),
        *_dark_and_light(framed.values if framed.bare is None else values, rules),
    ]


def _edges(worked: Worked, values: NDArray[np.floating], rules: Rules) -> list[Reading]:
    box, found = worked.frame_map.box, []
    for number, patch in enumerate(judging.edge_patches(values, rules)[:MOST_PATCHES], 1):
        part = box.part(patch.left, patch.top, patch.right, patch.bottom)
        level = patch.side in ("top", "bottom")
        at = (part.left + part.right) / 2 if level else (part.top + part.bottom) / 2
        tone, where = ("bright" if patch.bright else "dark"), format_length(at, worked.unit, 0)
        text = f"A {tone} patch at the {patch.side} edge, at {where} on the ruler, pulls the eye out."
        remedy = _flattened(worked, part, f"{tone} patch at the {patch.side} edge")
        found.append(Reading(f"edge_{number}", "Edge", text, round(at), "mm", "look", Place.box(*part), remedy, where))
    return found


def _flattened(worked: Worked, part: Box, name: str) -> Edit:
    """Leave a patch out of the drawing: a little more than the patch itself, so that its rim goes with it."""
    room = 0.02 * max(worked.frame_map.box.width, worked.frame_map.box.height)
    left, top, right, bottom = part.left - room, part.top - room, part.right + room, part.bottom + room
    corners = worked.frame_map.to_photo([[left, top], [right, top], [right, bottom], [left, bottom]])
    points = tuple((float(x), float(y)) for x, y in corners)
    return add_departure(
        Departure(next_id(worked.plan), "leave out", points, name, "it pulls the eye out of the picture")
    )


def _spare(worked: Worked, values: NDArray[np.floating], rules: Rules) -> list[Reading]:
    """The widest strip that says nothing and holds no ring."""
    strips = judging.spare_strips(values, rules)
    best: tuple[float, Side] | None = None
    for side, share in strips.items():
        share = min(share, _free_of_rings(worked, side), 0.4)
        if share >= rules.spare_least and (best is None or share > best[0]):
            best = (share, side)
    if best is None:
        return []
    share, side = best
    box = worked.frame_map.box
    width = share * (box.width if side in ("left", "right") else box.height)
    part = {
        "left": box.part(0.0, 0.0, share, 1.0),
        "right": box.part(1 - share, 0.0, 1.0, 1.0),
        "top": box.part(0.0, 0.0, 1.0, share),
        "bottom": box.part(0.0, 1 - share, 1.0, 1.0),
    }[side]
    shown = format_length(width, worked.unit, 0)
    text = f"The {side} {shown} ({100 * share:.0f} %) say next to nothing and could go."
    remedy = _try(worked, _without(worked, side, share))
    return [Reading("spare", "Spare strip", text, round(width), "mm", "look", Place.box(*part), remedy, shown)]


def _free_of_rings(worked: Worked, side: Side) -> float:
    """How far a strip may reach from a side before it meets a ring, as a share of the frame."""
    box, free = worked.frame_map.box, 1.0
    size = box.width if side in ("left", "right") else box.height
    for ring in worked.study.rings:
        free = min(free, max(0.0, gaps_mm(ring, worked.frame_map)[side] / size))
    return free


def _without(worked: Worked, side: Side, share: float) -> Frame:
    """The frame less a strip, smaller both ways to keep its proportion, about the middle of the other way."""
    frame = worked.study.frame
    smaller = about(frame, frame.middle, frame.width_px * (1 - share), frame.height_px * (1 - share))
    # Half of what goes at the side, in shares of the smaller frame.
    step = share / 2 / (1 - share)
    across = {"left": step, "right": -step}.get(side, 0.0)
    down = {"top": step, "bottom": -step}.get(side, 0.0)
    return shifted(smaller, across, down, worked.ground)


def _try(worked: Worked, frame: Frame) -> Edit | None:
    """The frame as a remedy, where it would not cut a ring."""
    frame_map = FrameMap.of(frame, worked.plan.paper)
    if any(min(gaps_mm(ring, frame_map).values()) < 0 for ring in worked.study.rings):
        return None
    edit = move_frame(frame)
    try:
        edit.change(worked.plan)
    except PlanError:
        return None
    return edit


def _balance(worked: Worked, values: NDArray[np.floating], rules: Rules) -> Reading:
    balance = judging.steelyard(values)
    box = worked.frame_map.box
    off = (balance.fulcrum - 0.5) * box.width
    side = "left" if balance.tip < 0 else "right"
    verdict: Verdict = "fine" if abs(balance.tip) <= rules.balance else "look"
    apart = format_length(abs(off), worked.unit, 0)
    if verdict == "fine":
        text = f"The picture hangs level: its weight lies {apart} {side} of the middle."
    else:
        text = f"The picture tips to the {side}: its weight lies {apart} {side} of the middle. Wanted, or not?"
    x = box.left + balance.fulcrum * box.width
    place = Place((((x, box.top), (x, box.bottom)),))
    number = round(100 * balance.tip, 1)
    return Reading("balance", "Balance", text, number, "% tip", verdict, place, None, f"{apart} {side}")


def _dark_and_light(values: NDArray[np.floating], rules: Rules) -> list[Reading]:
    shares = judging.dark_and_light(values)
    dark = 100 * shares.dark
    verdict: Verdict = "look" if abs(shares.dark - 0.5) <= rules.equal_halves else "fine"
    text = f"Parted where the picture itself parts, dark takes {dark:.0f} %, light {100 - dark:.0f} %."
    if verdict == "look":
        text += " Equal halves are static; let one of them lead."
    lean = 100 * (shares.dark_right - shares.dark_left)
    side = "right" if lean > 0 else "left"
    uneven = f"{abs(lean):.0f} % more dark on the {side} than on the other side."
    return [
        Reading(
            "dark_light",
            "Dark and light",
            text,
            round(dark, 1),
            "% dark",
            verdict,
            shown=f"{dark:.0f} : {100 - dark:.0f}",
        ),
        Reading("asymmetry", "Left against right", uneven, round(lean, 1), "% dark", shown=f"{abs(lean):.0f} % {side}"),
    ]
