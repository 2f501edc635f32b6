"""What was used and how long it took: materials with their cautions, the pencil for the hand, time at each station."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.cautions import LABEL, cautions_for, cautions_of_materials
from mild_compass.craft.sheet.transfer import PENCILS
from mild_compass.craft.values.medium import MEDIUM_WORDS
from mild_compass.craft.work.planned import hours
from mild_compass.craft.work.words import PENCIL_OF_HAND
from mild_compass.plan.stations import STATION_NAMES

if TYPE_CHECKING:
    from mild_compass.craft.work.planned import WorkingOrder
    from mild_compass.plan.model import Plan
    from mild_compass.plan.study import Study


def pencil_for(plan: Plan, study: Study) -> str:
    """Which pencil for this way of working and this hand."""
    medium = study.medium.medium
    return PENCIL_OF_HAND.get((medium, plan.work.hand), PENCILS[medium])


def materials(plan: Plan, order: WorkingOrder | None = None) -> tuple[str, ...]:
    """Everything needed, in the order it is needed, with the artist's own list last; each once."""
    steps = order.in_order if order is not None else ()
    given = [thing for step in steps for thing in step.materials if thing != plan.work.support]
    return tuple(dict.fromkeys((f"{plan.paper.name}, {plan.work.support}", *given, *plan.work.materials)))


def cautions(plan: Plan, study: Study) -> tuple[str, ...]:
    """Of the way of working and of the artist's own materials, each once, the label last."""
    found = (*cautions_for(study.medium.medium), *cautions_of_materials(plan.work.materials))
    return (*dict.fromkeys(each for each in found if each != LABEL), LABEL)


def times(plan: Plan) -> tuple[tuple[str, str], ...]:
    """Where the time went: each station that was used, then the easel."""
    spent = {each.station: each.seconds / 60 for each in plan.spent}
    rows = [(name.capitalize(), hours(spent[name])) for name in STATION_NAMES if spent.get(name, 0) >= 1]
    at_easel = sum(sitting.minutes for sitting in plan.sittings)
    if at_easel >= 1:
        rows.append(("At the easel", hours(at_easel)))
    return tuple(rows)


def way_of_working(study: Study) -> str:
    """In words."""
    return MEDIUM_WORDS[study.medium.medium]
