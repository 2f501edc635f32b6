"""Edits of what is printed."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.plan.edits.base import current, named, with_study

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan, SheetPlan


def _words(plan: Plan, *_: object) -> str:
    sheet = current(plan).sheet
    return f"Sheet: {', '.join(sheet.layers) or 'no layers'}; {sheet.pages}{', mirrored' if sheet.mirrored else ''}."


@named("change the sheet", "sheet", _words)
def change_sheet(plan: Plan, sheet: SheetPlan) -> Plan:
    """Change layers, grid, pages or mirroring."""
    return with_study(plan, replace(current(plan), sheet=sheet))
