"""Paper and files made of a plan: ``sheet``, ``export``, ``brief``, ``card``."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from mild_compass.commands.opened import opened
from mild_compass.craft.sheet.printer import OutputSettings
from mild_compass.craft.sheet_sizes.lands import page_of_locale
from mild_compass.output.kinds import kind_of_file
from mild_compass.plan import archive
from mild_compass.plan.atomic import write_bytes_atomically
from mild_compass.plan.edits.sheet import change_sheet
from mild_compass.plan.times import now

if TYPE_CHECKING:
    from pathlib import Path

    from mild_compass.craft.sheet.printer import Printer
    from mild_compass.plan.sheet import Pages, SheetLayer


def sheet(
    plan: Path,
    output: Path,
    tiles: Pages | None,
    layers: tuple[SheetLayer, ...] | None,
    grid_mm: float | None,
    squares: int | None,
    overlap_mm: float | None,
    mirrored: bool,
    printer: Printer,
    photo_print: bool,
) -> None:
    """Write the sheet as PDF at true size, set up as the plan says but for what is told here.

    Raises:
        PlanError: the plan cannot be read, holds no study, or cannot be set up so.
    """
    from mild_compass.output import print_sheet

    with opened(plan, "print") as (read, photos):
        assert read.study is not None
        settings = read.study.sheet
        changes: dict[str, Any] = {"mirrored": settings.mirrored or mirrored}
        told = {"pages": tiles, "layers": layers, "overlap_mm": overlap_mm}
        changes |= {name: value for name, value in told.items() if value is not None}
        if grid_mm is not None or squares:
            shown = changes.get("layers", settings.layers)
            changes |= {"layers": shown if "grid" in shown else (*shown, "grid")}
            changes |= {"grid_mm": settings.grid_mm if grid_mm is None else grid_mm, "grid_count": squares or 0}
        read = change_sheet(replace(settings, **changes)).apply(read, now())
        desk = OutputSettings(printer, page=page_of_locale())
        if photo_print:
            pdf = print_sheet.photo_print(read, photos, desk)
        else:
            pdf = print_sheet.print_sheet(read, photos, None, desk)
    write_bytes_atomically(output, pdf)


def export(plan: Path, output: Path, dpi: float | None) -> None:
    """Write a plan as the kind of file that the suffix names.

    Raises:
        PlanError: the kind is not known, or the plan cannot be read.
    """
    kind = kind_of_file(output)
    with opened(plan) as (read, photos):
        if dpi is not None and read.study is not None:
            read = change_sheet(replace(read.study.sheet, png_dpi=dpi)).apply(read, now())
        data = kind.write(read, photos, None, OutputSettings(page=page_of_locale()))
    write_bytes_atomically(output, data)


def brief(plan: Path, output: Path) -> None:
    """Write the page to take along.

    Raises:
        PlanError: the plan cannot be read, or holds no study.
    """
    from mild_compass.output.brief_pdf import brief_pdf
    from mild_compass.output.logbook_document import worked_out

    with opened(plan, "take along") as (read, photos):
        worked = worked_out(read, photos)
        assert worked is not None
        write_bytes_atomically(output, brief_pdf(worked))


def card(plan: Path, output: Path, opening_mm: float, distance_mm: float) -> None:
    """Write a viewfinder card of the sheet's proportion, to cut."""
    from mild_compass.output.card_pdf import card_pdf

    write_bytes_atomically(output, card_pdf(archive.read_plan(plan), opening_mm, distance_mm))
