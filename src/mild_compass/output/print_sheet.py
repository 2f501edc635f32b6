"""From a plan and the bytes of its photo to the finished PDF or SVG: the one way for the studio and for scripts."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.geometry.lines import picture_box
from mild_compass.craft.perspective.worked import work_out
from mild_compass.craft.picture.study_picture import study_picture
from mild_compass.craft.sheet.layers import sheet_drawing
from mild_compass.craft.values.masses import find_masses
from mild_compass.output.pdf import sheet_pdf
from mild_compass.output.raster import framed
from mild_compass.output.svg import sheet_svg
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from mild_compass.craft.drawing import Drawing
    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder


def print_sheet(plan: Plan, photos: PhotoFolder, proxy: Picture | None = None) -> bytes:
    """The PDF of the current study with the layers it asks for; the full photo is read only when it is printed.

    ``proxy`` is the study's picture with its departures, where it is known already.
    """
    return sheet_pdf(plan, *drawn_sheet(plan, photos, proxy))


def svg_sheet(plan: Plan, photos: PhotoFolder, proxy: Picture | None = None) -> bytes:
    """The same as SVG in named layers."""
    drawing, picture = drawn_sheet(plan, photos, proxy)
    assert plan.study is not None
    return sheet_svg(
        drawing, f"{plan.name} – study {plan.study.name}", picture, picture_box(plan.paper, plan.study.frame)
    )


def drawn_sheet(
    plan: Plan, photos: PhotoFolder, proxy: Picture | None = None
) -> tuple[Drawing, NDArray[np.uint8] | None]:
    """The drawing with the layers asked for, and the framed photo where it is one of them."""
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
    return drawing, picture
