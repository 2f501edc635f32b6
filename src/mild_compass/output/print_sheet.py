"""From a plan and the bytes of its photo to the finished PDF or SVG: the one way for the studio and for scripts."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.craft.drawing import Drawing, Layer
from mild_compass.craft.geometry.lines import picture_box
from mild_compass.craft.perspective.worked import aims_of, work_out
from mild_compass.craft.picture.study_picture import study_picture
from mild_compass.craft.sheet.layers import as_printed, frame_layer, sheet_drawing
from mild_compass.craft.sheet.printer import USUAL_OUTPUT, OutputSettings
from mild_compass.craft.sheet.squared import cell_mm, squared_grid
from mild_compass.craft.sheet.tiles import pages_for
from mild_compass.craft.values.mass_guidance import lines_to_trace
from mild_compass.craft.values.masses import study_masses
from mild_compass.output.pdf import PageSetup, Printed, pages_pdf
from mild_compass.output.raster import framed
from mild_compass.output.svg import sheet_svg
from mild_compass.plan.errors import PlanError
from mild_compass.plan.paper import Paper

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder
    from mild_compass.plan.study import Study

FROM_THE_PHOTO = ("picture", "masses", "edges", "planes", "lines")
PHOTO_PRINT_EDGE_MM = 14.0  # for the letters of the grid and the bar


def _study(plan: Plan) -> Study:
    if plan.study is None:
        raise PlanError("There is nothing in the plan to print yet. Add a photo, or begin with a blank sheet.")
    return plan.study


def print_sheet(
    plan: Plan, photos: PhotoFolder, proxy: Picture | None = None, output: OutputSettings = USUAL_OUTPUT
) -> bytes:
    """The PDF of the current study with the layers it asks for; the full photo is read only when it is printed.

    ``proxy`` is the study's picture with its departures, where it is known already.
    """
    study = _study(plan)
    drawing, picture = drawn_sheet(plan, photos, proxy, output)
    title = f"{plan.name} – study {study.name}"
    sheet = study.sheet
    setup = PageSetup(pages_for(sheet, plan.paper, output), sheet.overlap_mm, sheet.mirrored, output.printer)
    return pages_pdf(Printed(title, plan.paper, drawing, picture, picture_box(plan.paper, study.frame)), setup)


def photo_print(plan: Plan, photos: PhotoFolder, output: OutputSettings = USUAL_OUTPUT) -> bytes:
    """The framed photo as wide as the plan asks, with the very squares of the sheet's grid, to look at while drawing.

    It is on a page of its own size, or on the pages that the sheet is printed on.

    Raises:
        PlanError: the study stands on a blank sheet.
    """
    study = _study(plan)
    if not plan.ground(study).is_photo:
        raise PlanError("This study stands on a blank sheet: there is no photo to print. Nothing was written.")
    sheet, box = study.sheet, picture_box(plan.paper, study.frame)
    width, edge = sheet.photo_print_mm, PHOTO_PRINT_EDGE_MM
    page = Paper("photo print", width + 2 * edge, width * box.height / box.width + 2 * edge, edge)
    here = picture_box(page)
    spacing = cell_mm(box.width, sheet) * here.width / box.width
    layers: list[Layer] = [squared_grid(here, page, spacing, sheet.grid_diagonals), frame_layer(page, here)]
    drawing = as_printed(Drawing(page.width_mm, page.height_mm, tuple(layers)), replace(sheet, inks="coloured"))
    picture = framed(study_picture(plan, study, photos, None), study.frame, plan.paper)
    setup = PageSetup(pages_for(sheet, page, output), sheet.overlap_mm, printer=output.printer)
    return pages_pdf(Printed(f"{plan.name} – photo print", page, drawing, picture, here), setup)


def svg_sheet(
    plan: Plan, photos: PhotoFolder, proxy: Picture | None = None, output: OutputSettings = USUAL_OUTPUT
) -> bytes:
    """The same as SVG in named layers."""
    drawing, picture = drawn_sheet(plan, photos, proxy, output)
    assert plan.study is not None
    return sheet_svg(
        drawing, f"{plan.name} – study {plan.study.name}", picture, picture_box(plan.paper, plan.study.frame)
    )


def drawn_sheet(
    plan: Plan, photos: PhotoFolder, proxy: Picture | None = None, output: OutputSettings = USUAL_OUTPUT
) -> tuple[Drawing, NDArray[np.uint8] | None]:
    """The drawing with the layers asked for, and the framed photo where it is one of them."""
    study = _study(plan)
    layers = study.sheet.layers
    masses = lines = None
    worked = work_out(study.perspective, plan.ground(study), study.stage)
    if not plan.has_picture(study):
        layers = tuple(layer for layer in layers if layer not in FROM_THE_PHOTO)
    if {"masses", "edges", "lines"} & set(layers):
        proxy = proxy or study_picture(plan, study, photos)
        if {"masses", "edges"} & set(layers):
            masses = study_masses(proxy, study, plan.paper)
        if "lines" in layers:
            lines = lines_to_trace(proxy, study, plan.paper, aims_of(worked))
    drawing = as_printed(sheet_drawing(study, plan.paper, worked, masses, layers, lines, output.unit), study.sheet)
    picture = None
    if "picture" in layers:
        picture = framed(study_picture(plan, study, photos, None), study.frame, plan.paper)
    return drawing, picture
