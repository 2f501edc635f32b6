"""Edits of the logbook."""

from __future__ import annotations

from dataclasses import replace

from mild_compass.plan.edits.base import named
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import LogEntry, Plan, StationName


@named("note")
def add_note(plan: Plan, text: str, station: StationName, time: str) -> Plan:
    """Write a note with its station, study and time.

    Raises:
        PlanError: the note is empty.
    """
    if not text.strip():
        raise PlanError("The note is empty. Nothing was written.")
    study = plan.study.name if plan.study else ""
    return replace(plan, log=(*plan.log, LogEntry(time, station, study, "note", text.strip())))


@named("delete a line of the logbook")
def delete_line(plan: Plan, index: int) -> Plan:
    """Delete one line of the logbook."""
    return replace(plan, log=(*plan.log[:index], *plan.log[index + 1 :]))
