"""Edits of the values."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.plan.edits.base import current, named, with_study

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan, ValuePlan


def _words(plan: Plan, *_: object) -> str:
    values = current(plan).values
    how = {"even": "even thresholds", "found": "thresholds from the picture", "by hand": "thresholds by hand"}
    marks = f" at L* {', '.join(f'{mark:.0f}' for mark in values.thresholds)}" if values.method == "by hand" else ""
    return f"{values.count} values, {how[values.method]}{marks}, smallest shape {values.smallest_mm2:g} mm²."


@named("change the values", "values", _words)
def change_values(plan: Plan, values: ValuePlan) -> Plan:
    """Change the number of values, the thresholds or the smallest shape."""
    return with_study(plan, replace(current(plan), values=values))
