"""What the sheet makes of the frame: bare paper to draw on, a stretch, what a mat hides, a scale from a print."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.reading import Place, Reading
from mild_compass.craft.sheet_sizes.lengths import format_length, least_told
from mild_compass.craft.sheet_sizes.scaling import scale_factor
from mild_compass.craft.viewfinder.gaps import SIDES, Side, ring_bounds
from mild_compass.plan.edits.viewfinder import move_frame
from mild_compass.plan.framing import is_beyond, on_photo, stretch_of

if TYPE_CHECKING:
    from mild_compass.craft.geometry.lines import Box
    from mild_compass.craft.worked import Worked

SAMPLED_PX = 400  # along the longer side: bounds the time


def sheet_readings(worked: Worked) -> list[Reading]:
    """Readings that need no picture."""
    return [*_bare(worked), *_stretch(worked), *_mat(worked), *_measured(worked)]


def bare_strips_mm(worked: Worked) -> dict[Side, float]:
    """Per side of the picture how deep bare paper reaches in, in mm; nothing where the photo covers it all.

    Exact for an upright frame; for a turned one the deepest place, to a four-hundredth of the picture.
    """
    frame, photo, box = worked.study.frame, worked.ground, worked.frame_map.box
    if not is_beyond(frame, photo):
        return dict.fromkeys(SIDES, 0.0)
    if frame.turn_deg == 0:
        ends = worked.frame_map.to_sheet([[0.0, 0.0], [float(photo.width_px), float(photo.height_px)]])
        (left, top), (right, bottom) = ends.min(0).tolist(), ends.max(0).tolist()
        deep = {
            "left": left - box.left,
            "right": box.right - right,
            "top": top - box.top,
            "bottom": box.bottom - bottom,
        }
        return {side: max(0.0, deep[side]) for side in SIDES}
    # Loaded when needed: it brings a slow library, and most frames stand upright.
    from mild_compass.craft.picture.framed import bare_paper, sized

    width, height = sized(worked.frame_map, SAMPLED_PX)
    bare = bare_paper((photo.width_px, photo.height_px), worked.frame_map, width, height)
    runs = {"left": bare, "right": bare[:, ::-1], "top": bare.T, "bottom": bare.T[:, ::-1]}
    lengths = {"left": box.width, "right": box.width, "top": box.height, "bottom": box.height}
    return {side: _deepest(runs[side]) * lengths[side] for side in SIDES}


def _deepest(bare: np.ndarray) -> float:
    """The longest run of bare paper from the start of any row, as a share; a row bare throughout counts for others."""
    inner = bare[~bare.all(1)]
    return float(np.argmin(inner, 1).max()) / bare.shape[1] if len(inner) else 1.0


def _bare(worked: Worked) -> list[Reading]:
    found = []
    for side, deep in bare_strips_mm(worked).items():
        if deep <= least_told(worked.unit):
            continue
        shown = format_length(deep, worked.unit)
        text = f"The photo ends {shown} before the {side} edge: bare paper, to be drawn on from imagination."
        remedy = move_frame(on_photo(worked.study.frame, worked.ground))
        place = Place.box(*_strip(worked.frame_map.box, side, deep))
        found.append(
            Reading(f"bare_{side}", "Beyond the photo", text, round(deep, 1), "mm", "look", place, remedy, shown)
        )
    return found


def _strip(box: Box, side: Side, deep: float) -> Box:
    return {
        "left": box._replace(right=box.left + deep),
        "right": box._replace(left=box.right - deep),
        "top": box._replace(bottom=box.top + deep),
        "bottom": box._replace(top=box.bottom - deep),
    }[side]


def _stretch(worked: Worked) -> list[Reading]:
    frame = worked.study.frame
    stretch = stretch_of(frame, worked.plan.paper)
    if frame.proportion != "stretched" or abs(stretch) < 0.0005:
        return []
    root = (1 + stretch) ** 0.5
    wide, high = (format_length(size, worked.unit) for size in (50 * root, 50 / root))
    way, figures = ("wider", "stouter") if stretch > 0 else ("narrower", "slimmer")
    text = (
        f"Everything is drawn {100 * abs(stretch):.1f} % {way} for its height: a circle of "
        f"{format_length(50, worked.unit)} becomes {wide} × {high}, and figures look {figures}."
    )
    shown = f"{100 * stretch:+.1f} %".replace("-", "−")
    return [Reading("stretch", "Stretched", text, round(100 * stretch, 2), "% wider", "look", shown=shown)]


def _mat(worked: Worked) -> list[Reading]:
    over, box = worked.plan.paper.mat_overlap_mm, worked.frame_map.box
    if not over:
        return []
    width, height = (format_length(side - 2 * over, worked.unit) for side in (box.width, box.height))
    text = f"The mat hides {format_length(over, worked.unit)} all round; {width} × {height} are seen."
    under = [ring.name for ring in worked.study.rings if _under_mat(ring_bounds(ring, worked.frame_map), box, over)]
    if under:
        text += f" It would touch the {' and the '.join(under)}."
    return [Reading("mat", "Mat", text, round(over, 2), "mm", "look" if under else "fine", shown=f"{width} × {height}")]


def _under_mat(bounds: Box, box: Box, over: float) -> bool:
    gaps = (bounds.left - box.left, bounds.top - box.top, box.right - bounds.right, box.bottom - bounds.bottom)
    return any(0 <= gap < over for gap in gaps)


def _measured(worked: Worked) -> list[Reading]:
    measured = worked.study.measured
    if measured is None:
        return []
    factor = scale_factor(measured, worked.ground, worked.study.frame, worked.frame_map)
    length = format_length(measured.length_mm, worked.unit)
    text = (
        f"On your print the {measured.span} is {length}: draw every length measured there {factor:.2f} times as long."
    )
    return [Reading("measured", "From your print", text, round(factor, 4), "times", shown=f"× {factor:.2f}")]
