"""What the viewfinder says, all of it: this is where its readings are gathered."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.reading import Reading
from mild_compass.craft.sheet_sizes.lengths import format_length, least_told
from mild_compass.craft.sheet_sizes.sharpness import dots_per_inch, said_of_dpi
from mild_compass.craft.viewfinder.ring_readings import ring_readings
from mild_compass.craft.viewfinder.rules import rules_of
from mild_compass.craft.viewfinder.sheet_readings import sheet_readings

if TYPE_CHECKING:
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.pictures import Ground
    from mild_compass.plan.study import Frame


def share_kept(frame: Frame, photo: Ground) -> float:
    """Area of the frame over area of the photo."""
    return frame.width_px * frame.height_px / (photo.width_px * photo.height_px)


def headline(worked: Worked) -> str:
    """For the route."""
    if not worked.ground.is_photo:
        return "the picture area"
    return f"{100 * share_kept(worked.study.frame, worked.ground):.0f} % kept"


def readings(worked: Worked) -> list[Reading]:
    """All readings of the viewfinder."""
    of_photo = [_share(worked), _scale(worked), _sharpness(worked)] if worked.ground.is_photo else []
    found = [*of_photo, *sheet_readings(worked)]
    for number, ring in enumerate(worked.study.rings):
        found += ring_readings(worked, ring, number)
    if worked.picture is not None:
        # Loaded with the photo: it needs slow libraries, and a plan without a picture does without it.
        from mild_compass.craft.viewfinder.picture_readings import picture_readings

        found += picture_readings(worked)
    return [*found, *_horizon(worked), *_kept_out(worked)]


def _share(worked: Worked) -> Reading:
    share = 100 * share_kept(worked.study.frame, worked.ground)
    text = f"The viewfinder keeps {share:.0f} % of the photo."
    if share > 100:
        text = f"The viewfinder is larger than the photo, {share:.0f} % of its area."
    return Reading("share_kept", "Photo kept", text, round(share, 2), "%", shown=f"{share:.0f} %")


def _scale(worked: Worked) -> Reading:
    scale = 100 * worked.frame_map.mm_per_px
    length = format_length(scale, worked.unit, 2)
    text = f"100 pixels of the photo become {length} on the sheet."
    return Reading("scale", "Scale", text, round(scale, 4), "mm per 100 px", shown=length)


def _sharpness(worked: Worked) -> Reading:
    dpi = dots_per_inch(worked.frame_map.mm_per_px)
    verdict, words = said_of_dpi(dpi)
    text = f"Printed at size the photo has {dpi:.0f} dots per inch: {words}."
    return Reading("sharpness", "Printed sharpness", text, round(dpi, 1), "dpi", verdict, shown=f"{dpi:.0f} dpi")


def _horizon(worked: Worked) -> list[Reading]:
    """A horizon at half height, where one is known."""
    share = worked.horizon_share
    if share is None or abs(share - 0.5) > rules_of(worked.study).horizon_half:
        return []
    text = f"The horizon lies {100 * share:.0f} % down, close to half height: stiff. Move the frame up or down."
    shown = f"{100 * share:.0f} %"
    return [Reading("horizon_half", "Horizon", text, round(100 * share, 1), "% down", "look", shown=shown)]


def _kept_out(worked: Worked) -> list[Reading]:
    """Areas that must be inside and are cut."""
    found = []
    for number, area in enumerate(worked.study.keep):
        outline = [
            (area.left_px, area.top_px),
            (area.right_px, area.top_px),
            (area.right_px, area.bottom_px),
            (area.left_px, area.bottom_px),
        ]
        points, box = worked.frame_map.to_sheet(outline), worked.frame_map.box
        over = max(
            box.left - points[:, 0].min(),
            points[:, 0].max() - box.right,
            box.top - points[:, 1].min(),
            points[:, 1].max() - box.bottom,
        )
        if over <= least_told(worked.unit):
            continue
        shown = format_length(float(over), worked.unit)
        text = f"To be kept inside, but {shown} of {area.name} lie outside the viewfinder."
        found.append(Reading(f"keep_{number}", "Cut off", text, round(float(over), 1), "mm", "act", shown=shown))
    return found
