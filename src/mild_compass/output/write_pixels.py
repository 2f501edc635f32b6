"""From a plan and the bytes of its photo to PNG and OpenRaster."""

from __future__ import annotations

import io
from typing import TYPE_CHECKING

import numpy as np
from PIL import Image

from mild_compass.craft.geometry.lines import Box, picture_box
from mild_compass.craft.perspective.worked import aims_of, work_out
from mild_compass.craft.picture.study_picture import study_picture
from mild_compass.craft.picture.tone import grey_of_lightness, lightness
from mild_compass.craft.sheet.layers import sheet_drawing
from mild_compass.craft.sheet.lifting import LAYER_WORDS
from mild_compass.craft.sheet.printer import USUAL_OUTPUT, OutputSettings
from mild_compass.craft.sheet_sizes.lengths import MM_PER_INCH
from mild_compass.craft.values.mass_guidance import lines_to_trace
from mild_compass.craft.values.masses import study_masses
from mild_compass.craft.values.names import names_of
from mild_compass.output.openraster import open_raster
from mild_compass.output.pixels import layer_pixels, merged, placed, sheet_px
from mild_compass.output.print_sheet import FROM_THE_PHOTO, drawn_sheet
from mild_compass.output.raster import framed
from mild_compass.plan.errors import PlanError
from mild_compass.plan.sheet import BLANK_LAYERS, SHEET_LAYERS

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.picture.load import Picture
    from mild_compass.craft.values.masses import Masses
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder
    from mild_compass.plan.study import Study

    Rgba = NDArray[np.uint8]

RASTER_LAYERS = tuple(name for name in SHEET_LAYERS if name not in ("picture", "margins"))
UNSEEN = ("values", "grid", "lines", "armature", "ticks", "pins", "shapes", "datum", "measures")


def png_sheet(
    plan: Plan,
    photos: PhotoFolder,
    proxy: Picture | None = None,
    output: OutputSettings = USUAL_OUTPUT,
    dpi: float | None = None,
) -> bytes:
    """The sheet with the layers it is printed with, at so many dots per inch; None for those of the plan."""
    drawing, picture = drawn_sheet(plan, photos, proxy, output)
    assert plan.study is not None
    dpi = dpi or plan.study.sheet.png_dpi
    size, per_mm = sheet_px(drawing, dpi), dpi / MM_PER_INCH
    under = [placed(picture, picture_box(plan.paper, plan.study.frame), size, per_mm)] if picture is not None else []
    clear = np.zeros((size[1], size[0], 4), np.uint8)
    pixels = merged([clear, *under, *(layer_pixels(layer, size, per_mm) for layer in drawing.layers)])
    packed = io.BytesIO()
    Image.fromarray(pixels).save(packed, "PNG", dpi=(dpi, dpi))
    return packed.getvalue()


def drawn_small(plan: Plan, study: Study, longest_px: int) -> NDArray[np.uint8]:
    """What is drawn on a blank sheet (h, w, 3), its picture area alone, with the longest side as given."""
    worked = work_out(study.perspective, plan.ground(study), study.stage)
    drawing = sheet_drawing(study, plan.paper, worked, None, (*BLANK_LAYERS, "stage"), None)
    box = picture_box(plan.paper, study.frame)
    per_mm = longest_px / max(box.width, box.height)
    size = (round(plan.paper.width_mm * per_mm), round(plan.paper.height_mm * per_mm))
    paper = np.full((size[1], size[0], 4), 255, np.uint8)
    pixels = merged([paper, *(layer_pixels(layer, size, per_mm) for layer in drawing.layers)])
    left, top = round(box.left * per_mm), round(box.top * per_mm)
    width, height = max(1, round(box.width * per_mm)), max(1, round(box.height * per_mm))
    return np.ascontiguousarray(pixels[top : top + height, left : left + width, :3])


def layered_sheet(
    plan: Plan,
    photos: PhotoFolder,
    proxy: Picture | None = None,
    output: OutputSettings = USUAL_OUTPUT,
    dpi: float | None = None,
) -> bytes:
    """Photo, values, each mass, outlines and guides, every one a layer; on a blank sheet only what is drawn.

    Raises:
        PlanError: there is no study to draw.
    """
    study = plan.study
    if study is None:
        raise PlanError("There is nothing in the plan to export yet. Add a photo, or begin with a blank sheet.")
    dpi = dpi or study.sheet.png_dpi
    worked, has_picture = work_out(study.perspective, plan.ground(study), study.stage), plan.has_picture(study)
    masses = lines = None
    if has_picture:
        proxy = proxy or study_picture(plan, study, photos)
        masses = study_masses(proxy, study, plan.paper)
        lines = lines_to_trace(proxy, study, plan.paper, aims_of(worked))
    names = RASTER_LAYERS if has_picture else tuple(name for name in RASTER_LAYERS if name not in FROM_THE_PHOTO)
    drawing = sheet_drawing(study, plan.paper, worked, masses, names, lines, output.unit)
    size, per_mm = sheet_px(drawing, dpi), dpi / MM_PER_INCH
    layers: list[tuple[str, Rgba, bool]] = [("paper", np.full((size[1], size[0], 4), 255, np.uint8), True)]
    if masses is not None:
        layers += _photo_layers(plan, study, photos, masses, size, dpi)
    for layer in drawing.layers:
        if not (layer.strokes or layer.labels):
            continue
        name = LAYER_WORDS[layer.name] if layer.name in ("masses", "lines") else layer.name
        title = f"{name}: {layer.title}" if layer.title else name
        layers.append((title, layer_pixels(layer, size, per_mm), layer.name not in UNSEEN))
    return open_raster(layers, merged([pixels for _, pixels, seen in layers if seen]), dpi)


def _photo_layers(
    plan: Plan, study: Study, photos: PhotoFolder, masses: Masses, size: tuple[int, int], dpi: float
) -> list[tuple[str, Rgba, bool]]:
    box, per_mm = picture_box(plan.paper, study.frame), dpi / MM_PER_INCH
    photo = framed(study_picture(plan, study, photos, None), study.frame, plan.paper, dpi)
    grey = np.repeat(grey_of_lightness(lightness(photo))[..., None], 3, 2)
    return [
        ("photo", placed(photo, box, size, per_mm), True),
        ("values", placed(grey, box, size, per_mm), False),
        *_mass_layers(masses, box, size, per_mm),
    ]


def _mass_layers(masses: Masses, box: Box, size: tuple[int, int], per_mm: float) -> list[tuple[str, Rgba, bool]]:
    """One layer a value, each its flat grey, clear elsewhere; together they tile the picture."""
    left, top = round(box.left * per_mm), round(box.top * per_mm)
    width, height = round(box.right * per_mm) - left, round(box.bottom * per_mm) - top
    covered = [np.ones((height, width), np.float32)]
    covered += [masses.lighter(value, (width, height)) for value in range(1, len(masses.shown))]
    covered.append(np.zeros((height, width), np.float32))
    found = []
    for value, (name, shown) in enumerate(zip(names_of(len(masses.shown)), masses.shown, strict=True)):
        pixels = np.zeros((size[1], size[0], 4), np.uint8)
        here = pixels[top : top + height, left : left + width]
        here[..., :3] = grey_of_lightness(np.array(shown))
        # What two values share of a pixel adds up to all of it.
        alpha = np.round(255 * covered[value]) - np.round(255 * covered[value + 1])
        here[..., 3] = np.clip(alpha[: here.shape[0], : here.shape[1]], 0, 255).astype(np.uint8)
        found.append((f"mass: {name}", pixels, False))
    return found
