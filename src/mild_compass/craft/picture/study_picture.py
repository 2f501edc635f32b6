"""A study's picture from the stored photos: read, with its planned departures made."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.picture.departed import active, departed
from mild_compass.craft.picture.load import PROXY_PX, Picture, read_full, read_proxy
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from mild_compass.plan.model import Ground, Plan, Study
    from mild_compass.plan.photos import PhotoFolder


def study_picture(plan: Plan, study: Study, photos: PhotoFolder, longest_px: int | None = PROXY_PX) -> Picture:
    """The picture of a study, its longest side at most longest_px or in full with None.

    Raises:
        PlanError: the study stands on a blank sheet, or the photo is missing or damaged.
    """
    ground = plan.ground(study)
    if not ground.is_photo:
        raise PlanError(f"Study {study.name} stands on a blank sheet: it has no photo to take this from.")
    sources = {
        each.source: _read(plan.reference(each.source), photos, longest_px)
        for each in active(study.departures)
        if each.source
    }
    photo = _read(ground, photos, longest_px)
    return departed(photo, study.departures, sources, study.perspective.lens)


def _read(reference: Ground, photos: PhotoFolder, longest_px: int | None) -> Picture:
    data = photos.read(reference.sha256, reference.name)
    if longest_px is not None:
        return read_proxy(data, reference.name, longest_px)
    return Picture(read_full(data, reference.name), reference.width_px, reference.height_px)
