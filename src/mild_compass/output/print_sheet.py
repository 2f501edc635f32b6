"""From a plan and the bytes of its photo to the finished PDF: the one way for the studio and for scripts."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.perspective.worked import work_out
from mild_compass.craft.picture.load import Picture, read_full, read_proxy
from mild_compass.craft.sheet.layers import sheet_drawing
from mild_compass.craft.values.masses import find_masses
from mild_compass.output.pdf import sheet_pdf
from mild_compass.output.raster import framed
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan


def print_sheet(plan: Plan, photo: bytes, proxy: Picture | None = None) -> bytes:
    """The PDF of the current study with the layers it asks for; the full photo is read only when it is printed."""
    study = plan.study
    if study is None:
        raise PlanError("There is no photo in the plan yet, so there is nothing to print. Add one first.")
    reference, layers = plan.reference(study.reference), study.sheet.layers
    masses = None
    if "masses" in layers:
        proxy = proxy or read_proxy(photo, reference.name)
        masses = find_masses(proxy, study.frame, plan.paper, study.values)
    drawing = sheet_drawing(study, plan.paper, work_out(study.perspective), masses, layers)
    picture = None
    if "picture" in layers:
        picture = framed(read_full(photo, reference.name), study.frame, plan.paper)
    return sheet_pdf(plan, drawing, picture)
