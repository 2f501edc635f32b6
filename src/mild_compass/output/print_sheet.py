"""From a plan and the bytes of its photo to the finished PDF: the one way for the studio and for scripts."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.perspective.worked import work_out
from mild_compass.craft.picture.study_picture import study_picture
from mild_compass.craft.sheet.layers import sheet_drawing
from mild_compass.craft.values.masses import find_masses
from mild_compass.output.pdf import sheet_pdf
from mild_compass.output.raster import framed
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder


def print_sheet(plan: Plan, photos: PhotoFolder, proxy: Picture | None = None) -> bytes:
    """The PDF of the current study with the layers it asks for; the full photo is read only when it is printed.

    ``proxy`` is the study's picture with its departures, where it is known already.
    """
    study = plan.study
    if study is None:
        raise PlanError("There is no photo in the plan yet, so there is nothing to print. Add one first.")
    layers = study.sheet.layers
    masses = None
    if "masses" in layers:
        proxy = proxy or study_picture(plan, study, photos)
        masses = find_masses(proxy, study.frame, plan.paper, study.values)
    drawing = sheet_drawing(
        study, plan.paper, work_out(study.perspective, plan.reference(study.reference)), masses, layers
    )
    picture = None
    if "picture" in layers:
        picture = framed(study_picture(plan, study, photos, None), study.frame, plan.paper)
    return sheet_pdf(plan, drawing, picture)
