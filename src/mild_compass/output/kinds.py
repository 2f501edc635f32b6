"""The kinds of file a plan can be written as: one table for dialog, command line, man page and completion."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    from mild_compass.craft.picture.load import Picture
    from mild_compass.craft.sheet.printer import OutputSettings
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder

    Writer = Callable[[Plan, PhotoFolder, Picture | None, OutputSettings], bytes]


@dataclass(frozen=True, slots=True)
class KindOfFile:
    """One row: the suffix, what the kind is called, what is in it, whether it is the sheet, and what writes it."""

    suffix: str
    words: str
    holds: str
    of_sheet: bool
    write: Writer


# What writes is loaded when something is written: some of the libraries take a third of a second.
def _pdf(plan: Plan, photos: PhotoFolder, proxy: Picture | None, output: OutputSettings) -> bytes:
    from mild_compass.output.print_sheet import print_sheet

    return print_sheet(plan, photos, proxy, output)


def _svg(plan: Plan, photos: PhotoFolder, proxy: Picture | None, output: OutputSettings) -> bytes:
    from mild_compass.output.print_sheet import svg_sheet

    return svg_sheet(plan, photos, proxy, output)


def _png(plan: Plan, photos: PhotoFolder, proxy: Picture | None, output: OutputSettings) -> bytes:
    from mild_compass.output.write_pixels import png_sheet

    return png_sheet(plan, photos, proxy, output)


def _dxf(plan: Plan, photos: PhotoFolder, proxy: Picture | None, output: OutputSettings) -> bytes:
    from mild_compass.output.dxf import sheet_dxf
    from mild_compass.output.print_sheet import drawn_sheet

    return sheet_dxf(drawn_sheet(plan, photos, proxy, output)[0])


def _openraster(plan: Plan, photos: PhotoFolder, proxy: Picture | None, output: OutputSettings) -> bytes:
    from mild_compass.output.write_pixels import layered_sheet

    return layered_sheet(plan, photos, proxy, output)


def _csv(plan: Plan, *_: object) -> bytes:
    from mild_compass.output.measures_csv import measures_csv

    return measures_csv(plan).encode()


def _markdown(plan: Plan, photos: PhotoFolder, *_: object) -> bytes:
    from mild_compass.output.logbook_document import logbook_file

    return logbook_file(".md", plan, photos)


KINDS: tuple[KindOfFile, ...] = (
    KindOfFile(".pdf", "PDF", "The sheet at true size, in pages to join", True, _pdf),
    KindOfFile(".svg", "SVG", "Lines in named layers, in mm", True, _svg),
    KindOfFile(".png", "PNG", "A picture, at so many dots per inch", True, _png),
    KindOfFile(".dxf", "DXF", "Lines in named layers, in mm, for those who cut or plot", True, _dxf),
    KindOfFile(".ora", "layers", "OpenRaster: photo, values, each mass, outlines, guides; for painting programs", True,
               _openraster),
    KindOfFile(".csv", "CSV", "The measures, as a table", False, _csv),
    KindOfFile(".md", "Markdown", "The logbook, as text", False, _markdown),
)  # fmt: skip


SHEET_KINDS = tuple(each for each in KINDS if each.of_sheet)


def kind_of_file(path: Path, among: tuple[KindOfFile, ...] = KINDS) -> KindOfFile:
    """The row of a file by its suffix.

    Raises:
        PlanError: the suffix is none of these.
    """
    for each in among:
        if each.suffix == path.suffix.lower():
            return each
    known = ", ".join(each.suffix for each in among)
    raise PlanError(f"“{path.name}” is of a kind that cannot be written. Known are {known}.")
