"""What the logbook says about itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.reading import Reading

if TYPE_CHECKING:
    from mild_compass.craft.worked import Worked


def headline(worked: Worked) -> str:
    """For the route."""
    count = sum(entry.kind == "note" for entry in worked.plan.log)
    return f"{count} note{'s' * (count != 1)}"


def readings(worked: Worked) -> list[Reading]:
    """Notes and decisions counted."""
    notes = sum(entry.kind == "note" for entry in worked.plan.log)
    decisions = len(worked.plan.log) - notes
    text = f"{notes} note{'s' * (notes != 1)} and {decisions} decision{'s' * (decisions != 1)} are on record."
    return [Reading("notes", "On record", text, float(notes), "notes", shown=str(len(worked.plan.log)))]
