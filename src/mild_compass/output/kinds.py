"""The kinds of file a plan can be written as, by suffix: its sheet, its measures, its logbook."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.output.logbook_document import logbook_file
from mild_compass.output.measures_csv import measures_csv
from mild_compass.output.print_sheet import drawn_sheet, print_sheet, svg_sheet
from mild_compass.output.write_pixels import layered_sheet, png_sheet

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.craft.picture.load import Picture
    from mild_compass.craft.sheet.printer import OutputSettings
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder


def _dxf(plan: Plan, photos: PhotoFolder, proxy: Picture | None, output: OutputSettings) -> bytes:
    from mild_compass.output.dxf import sheet_dxf  # the library takes a third of a second to load

    return sheet_dxf(drawn_sheet(plan, photos, proxy, output)[0])


SHEET_WRITERS: dict[str, Callable[[Plan, PhotoFolder, Picture | None, OutputSettings], bytes]] = {
    ".pdf": print_sheet,
    ".svg": svg_sheet,
    ".png": png_sheet,
    ".ora": layered_sheet,
    ".dxf": _dxf,
}


def _csv(plan: Plan, *_: object) -> bytes:
    return measures_csv(plan).encode()


def _markdown(plan: Plan, photos: PhotoFolder, *_: object) -> bytes:
    return logbook_file(".md", plan, photos)


WRITERS = {**SHEET_WRITERS, ".csv": _csv, ".md": _markdown}
