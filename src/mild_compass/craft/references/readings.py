"""What the references say: how many are kept, and how large the chosen one prints."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.reading import Reading, Verdict
from mild_compass.craft.sheet_sizes.lengths import MM_PER_INCH, format_length
from mild_compass.craft.sheet_sizes.sharpness import FINE_DPI, dpi_at_widest, said_of_dpi

if TYPE_CHECKING:
    from mild_compass.craft.worked import Worked


def headline(worked: Worked) -> str:
    """For the route."""
    kept = sum(photo.standing == "kept" for photo in worked.plan.references)
    return f"{kept} kept" if worked.plan.references else "blank sheet"


def readings(worked: Worked) -> list[Reading]:
    """All readings of the references."""
    if not worked.ground.is_photo:
        return [_standing(worked)]
    return [_standing(worked), _print_size(worked), _enlarged(worked), *_set_aside(worked)]


def _standing(worked: Worked) -> Reading:
    photos = worked.plan.references
    kept = sum(photo.standing == "kept" for photo in photos)
    if not photos:
        text = "There is no photo: the study stands on a blank sheet."
        return Reading("kept", "Photos", text, 0.0, "kept", shown="none")
    text = f"{len(photos)} photo{'s' * (len(photos) != 1)}, {kept} kept, {len(photos) - kept} set aside."
    return Reading("kept", "Photos", text, float(kept), "kept", shown=f"{kept} of {len(photos)}")


def _print_size(worked: Worked) -> Reading:
    photo, unit = worked.ground, worked.unit
    sides = [side / FINE_DPI * MM_PER_INCH for side in (photo.width_px, photo.height_px)]
    larger = [format_length(2 * side, unit, 0) for side in sides]
    fine = [format_length(side, unit, 0) for side in sides]
    text = f"{photo.name} prints {fine[0]} × {fine[1]} at 300 dots per inch, {larger[0]} × {larger[1]} at 150."
    return Reading("print_size", "In use", text, round(sides[0], 1), "mm wide at 300 dpi", shown=f"{photo.width_px} px")


def _enlarged(worked: Worked) -> Reading:
    dpi = dpi_at_widest(worked.ground, worked.plan.paper)
    times = FINE_DPI / dpi
    how = f"{times:.1f} times as large as it prints finely" if times >= 1.05 else "finely"
    text = f"At its widest on this sheet it has {dpi:.0f} dots per inch, {how}: {said_of_dpi(dpi)[1]}."
    return Reading("enlarged", "On this sheet", text, round(dpi, 1), "dpi", shown=f"{dpi:.0f} dpi")


def _set_aside(worked: Worked) -> list[Reading]:
    photo = worked.plan.reference(worked.ground.id)
    if photo.standing == "kept":
        return []
    verdict: Verdict = "look"
    why = f" ({photo.reason})" if photo.reason else ""
    text = f"The study uses {photo.name}, which is set aside{why}."
    return [Reading("in_use_set_aside", "Set aside", text, verdict=verdict, shown="in use")]
