"""A study's picture from the stored photos: read, with its planned departures made."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.perspective.worked import work_out
from mild_compass.craft.picture.departed import active, departed
from mild_compass.craft.picture.load import PROXY_PX, Picture, read_full, read_proxy
from mild_compass.plan.errors import PlanError

LARGEST_STAGE_PX = 3000  # flat values need no more, however large the sheet

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder
    from mild_compass.plan.pictures import Ground
    from mild_compass.plan.study import Study


def study_picture(plan: Plan, study: Study, photos: PhotoFolder, longest_px: int | None = PROXY_PX) -> Picture:
    """The picture of a study, its longest side at most longest_px or in full with None.

    Raises:
        PlanError: the study stands on a blank sheet, or the photo is missing or damaged.
    """
    sources = {
        each.source: _read(plan.reference(each.source), photos, longest_px)
        for each in active(study.departures)
        if each.source
    }
    return departed(ground_picture(plan, study, photos, longest_px), study.departures, sources, study.perspective.lens)


def ground_picture(plan: Plan, study: Study, photos: PhotoFolder, longest_px: int | None = PROXY_PX) -> Picture:
    """What a study stands on as it is: its photo, or its stage in values.

    Raises:
        PlanError: there is nothing to be seen on its blank sheet, or the photo is missing or damaged.
    """
    ground = plan.ground(study)
    if ground.is_photo:
        return _read(ground, photos, longest_px)
    camera = work_out(study.perspective, ground).camera
    if not plan.has_picture(study) or study.stage is None or camera is None:
        raise PlanError(f"Study {study.name} stands on a blank sheet: it has no photo to take this from.")
    from mild_compass.craft.stage.staged import lighted
    from mild_compass.craft.stage.tones import stage_picture

    found = lighted(study.stage, camera, study.perspective.light)
    size = (ground.width_px, ground.height_px)
    cut_from = {thing.source for thing in study.stage.things if thing.source}
    sources = {key: _read(plan.reference(key), photos, PROXY_PX) for key in cut_from}
    longest = longest_px or LARGEST_STAGE_PX
    return stage_picture(study.stage, found.scene, found.faces, found.lit, size, longest, sources)


def _read(reference: Ground, photos: PhotoFolder, longest_px: int | None) -> Picture:
    data = photos.read(reference.sha256, reference.name)
    if longest_px is not None:
        return read_proxy(data, reference.name, longest_px)
    return Picture(read_full(data, reference.name), reference.width_px, reference.height_px)
