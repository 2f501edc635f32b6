"""What the camera and the guides say: eye level, lens, cone of vision, board, figures."""

from __future__ import annotations

from math import asin, degrees, hypot
from typing import TYPE_CHECKING

from mild_compass.craft.perspective.guide_readings import guide_readings
from mild_compass.craft.perspective.sheet_marks import (
    FARTHEST_PIN_MM,
    board_size,
    cone_px,
    pin_reach,
    points_on_sheet,
)
from mild_compass.craft.perspective.straightening import straightened, uprights_lens
from mild_compass.craft.perspective.worked import FILM_MM, centre_of
from mild_compass.craft.reading import Reading, Verdict
from mild_compass.craft.sheet_sizes.lengths import format_length
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import corners

if TYPE_CHECKING:
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.edits.base import Edit

TIPPED_DEG = 2.0  # common practice, no published source, as are the two below
DISAGREE = 1.25  # times: focal lengths further apart than that do not belong to one picture
MANY_SETS = 3


def scene_readings(worked: Worked) -> list[Reading]:
    """All of them."""
    return [
        *_eye(worked),
        *_cropped(worked),
        *_focal(worked),
        *_cone(worked),
        *_board(worked),
        *_many(worked),
        *guide_readings(worked),
    ]


def _eye(worked: Worked) -> list[Reading]:
    """Eye height and what it means for people; where the camera is tipped, that it is."""
    camera = worked.perspective.camera
    if camera is None:
        return []
    eye = worked.study.perspective.eye_m
    text = f"Eye height {eye:.2f} m: whatever is that high has its top on the horizon, wherever it stands."
    found = [Reading("eye", "Eye level", text, round(eye, 3), "m", shown=f"{eye:.2f} m")]
    pitch = degrees(asin(max(-1.0, min(1.0, float(camera.axes[2, 2])))))
    if abs(pitch) > TIPPED_DEG:
        way = "up" if pitch > 0 else "down"
        text = (
            f"The camera was tipped {way} by {abs(pitch):.0f}°, so uprights {'close' if pitch > 0 else 'open'} toward "
            "the top. A painting mostly wants them upright: see Straighten."
        )
        remedy, words = _uprights_set_up(worked), f"{pitch:+.0f}°"
        found.append(Reading("tipped", "Tipped camera", text, round(pitch, 1), "degrees", "look", None, remedy, words))
    return found


def _cropped(worked: Worked) -> list[Reading]:
    """A camera whose axis is told to lie elsewhere than in the picture's middle."""
    camera, ground = worked.perspective.camera, worked.ground
    if camera is None or not ground.is_photo:
        return []
    x, y = centre_of(ground)
    off = hypot(camera.centre_px[0] - x, camera.centre_px[1] - y)
    if off < 1:
        return []
    told = format_length(off * worked.frame_map.mm_per_px, worked.unit)
    side = "above" if camera.centre_px[1] < y else "below"
    text = (
        f"Horizon and uprights do not go together about the middle of this photo: it was cropped, or taken with a lens "
        f"that shifts. The camera looked at a place {told} {side} the middle, and sizes and tilt are told from there."
    )
    return [Reading("cropped", "Cropped photo", text, round(off), "px", "look", shown=told)]


def _uprights_set_up(worked: Worked) -> Edit | None:
    """The straightening, where an upright set has been traced that tells how."""
    try:
        return straightened(worked.study, worked.ground, uprights_lens(worked.study, worked.ground))
    except PlanError:
        return None


FOCAL_WORDS = {
    "two sets": "two sets of edges",
    "uprights": "the uprights",
    "photo": "the photo's own data",
    "hand": "your hand",
    "guess": "a guess: what a phone usually has",
}


def _focal(worked: Worked) -> list[Reading]:
    """The focal length in use, and any other that disagrees with it."""
    focals = worked.perspective.focals
    if not focals:
        return []
    long = max(worked.ground.width_px, worked.ground.height_px)
    told = [f"{focal.px / long * FILM_MM:.0f} mm by {FOCAL_WORDS[focal.source]}" for focal in focals]
    verdict: Verdict = "fine"
    text = f"The lens, as on 36 mm film: {told[0]}."
    if len(focals) > 1:
        text += f" Also {', '.join(told[1:])}."
        ratio = max(focal.px for focal in focals) / min(focal.px for focal in focals)
        if ratio > DISAGREE:
            verdict = "look"
            text += " They disagree: look at the edges, or choose one under Eye and lens."
    shown = f"{focals[0].px / long * FILM_MM:.0f} mm"
    return [Reading("focal", "Lens", text, round(focals[0].px, 1), "px", verdict, shown=shown)]


def _cone(worked: Worked) -> list[Reading]:
    """What of the picture lies outside the 60 degree cone."""
    cone = cone_px(worked.perspective)
    if cone is None:
        return []
    (x, y), radius = cone
    far = max(hypot(cx - x, cy - y) for cx, cy in corners(worked.study.frame))
    if far <= radius:
        return []
    over = format_length((far - radius) * worked.frame_map.mm_per_px, worked.unit)
    text = (
        f"The corners reach {over} beyond the cone of 60°, where things look stretched. Keep round things out of them."
    )
    return [Reading("cone", "Cone of vision", text, round(far / radius, 2), "times the cone", "look", shown=over)]


def _board(worked: Worked) -> list[Reading]:
    """The board that holds sheet and pins, and pins too far for it."""
    paper, frame_map = worked.plan.paper, worked.frame_map
    found = []
    size = board_size(worked.perspective, frame_map, paper)
    if size is not None:
        width, height = (format_length(side, worked.unit, 0) for side in (size.width_mm, size.height_mm))
        text = f"A board of {width} × {height} holds the sheet and its pins."
        found.append(Reading("board", "Board", text, round(size.width_mm), "mm wide", shown=f"{width} × {height}"))
    for letter, (x, y) in points_on_sheet(worked.perspective, frame_map).items():
        if pin_reach(x, y, paper) > FARTHEST_PIN_MM:
            text = f"Pin {letter} is too far for a board. Print the edge ticks: lines through equal numbers meet there."
            shown = format_length(pin_reach(x, y, paper), worked.unit, 0)
            found.append(Reading(f"far_{letter}", "Edge ticks", text, None, "", "fine", shown=shown))
    return found


def _many(worked: Worked) -> list[Reading]:
    level = [each for each in worked.study.perspective.sets if each.kind == "level"]
    if len(level) <= MANY_SETS:
        return []
    text = f"{len(level)} directions run back. More than {MANY_SETS} make a picture hard to read and to draw."
    return [Reading("many_sets", "Many directions", text, float(len(level)), "sets", "look", shown=f"{len(level)}")]
