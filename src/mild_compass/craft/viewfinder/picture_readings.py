"""What the picture inside the frame says: edges, spare strips, balance, dark and light."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.reading import Place, Reading
from mild_compass.craft.sheet_sizes.lengths import format_length
from mild_compass.craft.values.masses import framed_lightness
from mild_compass.craft.viewfinder import judging
from mild_compass.craft.viewfinder.gaps import Side, gaps_px
from mild_compass.craft.viewfinder.moves import moved
from mild_compass.craft.viewfinder.rules import RULES
from mild_compass.plan.edits.viewfinder import move_frame
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Frame

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from mild_compass.craft.reading import Verdict
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.edits.base import Edit

JUDGED_PX = 160  # readings of the whole frame keep up with the hand; places are told to whole millimetres
MOST_PATCHES = 2


def picture_readings(worked: Worked) -> list[Reading]:
    """Readings that need the photo; none while it has not been read."""
    if worked.picture is None:
        return []
    values = framed_lightness(worked.picture, worked.study.frame, JUDGED_PX)
    if min(values.shape) < 8:
        return []
    return [
        *_edges(worked, values),
        *_spare(worked, values),
        _balance(worked, values),
        *_dark_and_light(values),
    ]


def _box_place(worked: Worked, left: float, top: float, right: float, bottom: float) -> Place:
    paper = worked.plan.paper
    m, width, height = paper.margin_mm, paper.picture_width_mm, paper.picture_height_mm
    return Place.box(m + left * width, m + top * height, m + right * width, m + bottom * height)


def _edges(worked: Worked, values: NDArray[np.floating]) -> list[Reading]:
    paper, found = worked.plan.paper, []
    for number, patch in enumerate(judging.edge_patches(values, RULES)[:MOST_PATCHES], 1):
        if patch.side in ("top", "bottom"):
            at = paper.margin_mm + (patch.left + patch.right) / 2 * paper.picture_width_mm
        else:
            at = paper.margin_mm + (patch.top + patch.bottom) / 2 * paper.picture_height_mm
        tone, where = ("bright" if patch.bright else "dark"), format_length(at, worked.unit, 0)
        text = f"A {tone} patch at the {patch.side} edge, at {where} on the ruler, pulls the eye out."
        place = _box_place(worked, patch.left, patch.top, patch.right, patch.bottom)
        found.append(Reading(f"edge_{number}", "Edge", text, round(at), "mm", "look", place, None, where))
    return found


def _spare(worked: Worked, values: NDArray[np.floating]) -> list[Reading]:
    """The widest strip that says nothing and holds no ring."""
    strips = judging.spare_strips(values, RULES)
    best: tuple[float, Side, Frame] | None = None
    for side, share in strips.items():
        share = min(share, _free_of_rings(worked, side), 0.4)
        if share < RULES.spare_least or (best is not None and share <= best[0]):
            continue
        best = (share, side, _without(worked, side, share))
    if best is None:
        return []
    share, side, frame = best
    paper, level = worked.plan.paper, side in ("left", "right")
    width = share * (paper.picture_width_mm if level else paper.picture_height_mm)
    box = {
        "left": (0.0, 0.0, share, 1.0),
        "right": (1 - share, 0.0, 1.0, 1.0),
        "top": (0.0, 0.0, 1.0, share),
        "bottom": (0.0, 1 - share, 1.0, 1.0),
    }[side]
    shown = format_length(width, worked.unit, 0)
    text = f"The {side} {shown} ({100 * share:.0f} %) say next to nothing and could go."
    place = _box_place(worked, *box)
    return [Reading("spare", "Spare strip", text, round(width), "mm", "look", place, _try(worked, frame), shown)]


def _free_of_rings(worked: Worked, side: Side) -> float:
    """How far a strip may reach from a side before it meets a ring, as a share of the frame."""
    frame, free = worked.study.frame, 1.0
    size = frame.width_px if side in ("left", "right") else frame.height_px
    for ring in worked.study.rings:
        free = min(free, max(0.0, gaps_px(ring, frame)[side] / size))
    return free


def _without(worked: Worked, side: Side, share: float) -> Frame:
    """The frame less a strip, smaller both ways to keep its proportion, about the middle of the other way."""
    frame = worked.study.frame
    width, height = frame.width_px * (1 - share), frame.height_px * (1 - share)
    along = {"left": 1.0, "right": 0.0}.get(side, 0.5)
    down = {"top": 1.0, "bottom": 0.0}.get(side, 0.5)
    x = frame.x_px + along * (frame.width_px - width)
    y = frame.y_px + down * (frame.height_px - height)
    return moved(Frame(x, y, width, height), 0, 0, worked.photo)


def _try(worked: Worked, frame: Frame) -> Edit | None:
    """The frame as a remedy, where it would not cut a ring."""
    if any(min(gaps_px(ring, frame).values()) < 0 for ring in worked.study.rings):
        return None
    edit = move_frame(frame)
    try:
        edit.change(worked.plan)
    except PlanError:
        return None
    return edit


def _balance(worked: Worked, values: NDArray[np.floating]) -> Reading:
    balance = judging.steelyard(values)
    paper = worked.plan.paper
    off = (balance.fulcrum - 0.5) * paper.picture_width_mm
    side = "left" if balance.tip < 0 else "right"
    verdict: Verdict = "fine" if abs(balance.tip) <= RULES.balance else "look"
    apart = format_length(abs(off), worked.unit, 0)
    if verdict == "fine":
        text = f"The picture hangs level: its weight lies {apart} {side} of the middle."
    else:
        text = f"The picture tips to the {side}: its weight lies {apart} {side} of the middle. Wanted, or not?"
    x = paper.margin_mm + balance.fulcrum * paper.picture_width_mm
    place = Place((((x, paper.margin_mm), (x, paper.height_mm - paper.margin_mm)),))
    number = round(100 * balance.tip, 1)
    return Reading("balance", "Balance", text, number, "% tip", verdict, place, None, f"{apart} {side}")


def _dark_and_light(values: NDArray[np.floating]) -> list[Reading]:
    shares = judging.dark_and_light(values)
    dark = 100 * shares.dark
    verdict: Verdict = "look" if abs(shares.dark - 0.5) <= RULES.equal_halves else "fine"
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
