"""A photo of the drawing checked without a window: what the check station says, as lines."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.check.study_check import study_check
from mild_compass.craft.picture.load import focal_35mm_of, read_file, read_full
from mild_compass.craft.picture.study_picture import study_picture
from mild_compass.craft.stations import readings_of
from mild_compass.craft.worked import worked_study
from mild_compass.plan import archive
from mild_compass.plan.edits.check import add_drawing, next_drawing_id, set_corners
from mild_compass.plan.errors import PlanError
from mild_compass.plan.pictures import OwnDrawing
from mild_compass.plan.texts import clean_name
from mild_compass.plan.times import now

if TYPE_CHECKING:
    from pathlib import Path

    from mild_compass.craft.check.checked import Checked
    from mild_compass.plan.photos import PhotoFolder


def check_photo(
    plan_path: Path, drawing_path: Path, photos: PhotoFolder, corners_px: tuple[tuple[float, float], ...] = ()
) -> tuple[Checked, list[str]]:
    """What is off in a photo of the drawing of a plan's current study, and the same in words.

    Raises:
        PlanError: the plan or the photo cannot be read, or there is no study.
    """
    plan = archive.read(plan_path, photos)
    study = plan.study
    if study is None:
        raise PlanError(f"{plan_path.name} holds no study yet, so there is nothing to check a drawing against.")
    data, name = read_file(drawing_path), clean_name(drawing_path.name)
    rgb = read_full(data, name)
    size, digest = (rgb.shape[1], rgb.shape[0]), photos.add(data, name)
    drawing = OwnDrawing(next_drawing_id(plan), name, digest, *size, focal_35mm=focal_35mm_of(data, name))
    twin = next((each for each in plan.drawings if each.sha256 == drawing.sha256), None)
    if twin is None:
        plan = add_drawing(drawing).apply(plan, now())
    drawing = twin or drawing
    if corners_px:
        plan = set_corners(drawing.id, corners_px).apply(plan, now())
    drawing = next(each for each in plan.drawings if each.id == drawing.id)
    picture = study_picture(plan, study, photos) if plan.has_picture(study) else None
    found = study_check(rgb, plan, drawing, picture, with_values=True)
    told = worked_study(plan, picture=picture, check=found.checked, tones=found.tones)
    assert told is not None
    return found.checked, [f"{reading.verdict:5} {reading.text}" for reading in readings_of("check", told)]
