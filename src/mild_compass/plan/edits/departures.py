"""Edits of the planned departures from the photo: plan one, change it, say what became of it, take it off."""

from __future__ import annotations

from dataclasses import replace

from mild_compass.plan.departure_kinds import kind_of
from mild_compass.plan.edits.base import current, named, with_study
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Plan
from mild_compass.plan.record import Outcome
from mild_compass.plan.study import Departure


def words_for(departure: Departure) -> str:
    """For instance "leave out the crates"."""
    return f"{kind_of(departure.kind).verb} {departure.name or 'this'}"


def _planned(_: Plan, departure: Departure) -> str:
    reason = f": {departure.reason}" if departure.reason else ""
    return f"Planned to {words_for(departure)}{reason}."


def _settled(plan: Plan, departure_id: str, outcome: Outcome, happened: str) -> str:
    departure = departure_of(plan, departure_id)
    words = words_for(departure)
    if outcome == "open":
        return f"Still open: {words}."
    return f"{outcome.capitalize()}: {words}" + (f". {happened.strip()}." if happened.strip() else ".")


def departure_of(plan: Plan, departure_id: str) -> Departure:
    """The departure with this id, or a PlanError.

    Raises:
        PlanError: no departure of the study has this id.
    """
    found = next((each for each in current(plan).departures if each.id == departure_id), None)
    if found is None:
        raise PlanError("This change is not in the study any more. Nothing was done.")
    return found


def next_id(plan: Plan) -> str:
    """An id no departure of the study carries."""
    taken = {each.id for each in current(plan).departures}
    return next(f"departure-{k}" for k in range(1, len(taken) + 2) if f"departure-{k}" not in taken)


@named("plan changes", "viewfinder", lambda *_: "Planned to darken the corners.")
def add_departures(plan: Plan, departures: tuple[Departure, ...]) -> Plan:
    """Plan several departures at once."""
    study = current(plan)
    return with_study(plan, replace(study, departures=(*study.departures, *departures)))


@named("plan a change", "viewfinder", _planned, merges=False)
def add_departure(plan: Plan, departure: Departure) -> Plan:
    """Plan a departure from the photo.

    Raises:
        PlanError: a departure of the study has the same id.
    """
    study = current(plan)
    if any(each.id == departure.id for each in study.departures):
        raise PlanError("Two changes carry the same mark. Nothing was added.")
    return with_study(plan, replace(study, departures=(*study.departures, departure)))


@named("change what is planned", "viewfinder", _planned)
def change_departure(plan: Plan, departure: Departure) -> Plan:
    """Replace the departure of the same id."""
    departure_of(plan, departure.id)
    study = current(plan)
    changed = tuple(departure if each.id == departure.id else each for each in study.departures)
    return with_study(plan, replace(study, departures=changed))


@named("say what became of it", "viewfinder", _settled, merges=False)
def settle_departure(plan: Plan, departure_id: str, outcome: Outcome, happened: str) -> Plan:
    """Tick a departure as kept, changed or dropped, and say what happened."""
    departure = replace(departure_of(plan, departure_id), outcome=outcome, happened=happened.strip())
    study = current(plan)
    changed = tuple(departure if each.id == departure_id else each for each in study.departures)
    return with_study(plan, replace(study, departures=changed))


@named("take the change off", "viewfinder", lambda plan, *_: f"Changes planned: {len(current(plan).departures)}.")
def remove_departure(plan: Plan, departure_id: str) -> Plan:
    """Take a departure off the study."""
    gone, study = departure_of(plan, departure_id), current(plan)
    return with_study(plan, replace(study, departures=tuple(each for each in study.departures if each != gone)))
