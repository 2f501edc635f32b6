"""Edits of what is printed."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.plan.edits.base import current, named, with_study

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan
    from mild_compass.plan.sheet import BlockShape, MeasurePlan, Motif, SheetPlan


def _words(plan: Plan, *_: object) -> str:
    sheet = current(plan).sheet
    pages = {"usual": "the usual pages", "one page": "one page"}.get(sheet.pages, f"{sheet.pages} pages")
    return f"Sheet: {', '.join(sheet.layers) or 'no layers'}; {pages}{', mirrored' if sheet.mirrored else ''}."


@named("change the sheet", "sheet", _words)
def change_sheet(plan: Plan, sheet: SheetPlan) -> Plan:
    """Change layers, grid, pages or mirroring."""
    return with_study(plan, replace(current(plan), sheet=sheet))


def _measure_words(plan: Plan, *_: object) -> str:
    measures = current(plan).measures
    counts = (len(measures.datums), len(measures.points), len(measures.lengths), len(measures.negatives))
    return "Measured: {} datum lines, {} places, {} lengths, {} shapes between things.".format(*counts)


@named("change the measures", "sheet", _measure_words)
def change_measures(plan: Plan, measures: MeasurePlan) -> Plan:
    """Change datum lines, places, lengths, shapes between things, or the axis."""
    return with_study(plan, replace(current(plan), measures=measures))


def _shapes_words(_: Plan, shapes: tuple[BlockShape, ...]) -> str:
    return f"{len(shapes)} simple shapes for the block-in."


@named("change the simple shapes", "sheet", _shapes_words)
def set_shapes(plan: Plan, shapes: tuple[BlockShape, ...]) -> Plan:
    """Lay simple shapes and proportion guides over the picture."""
    return with_study(plan, replace(current(plan), shapes=shapes))


def _motif_words(_: Plan, motif: Motif | None) -> str:
    return f"Motif “{motif.name}” placed {len(motif.places)} times." if motif else "The motif is given up."


@named("change the motif", "sheet", _motif_words)
def set_motif(plan: Plan, motif: Motif | None) -> Plan:
    """Draw a motif, or place it, or with None give it up."""
    return with_study(plan, replace(current(plan), motif=motif))
