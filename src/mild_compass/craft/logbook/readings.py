"""What the logbook says: what is on record, the work ahead, what is left to tell, what keeps going wrong."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.logbook.planned_done import planned_and_done
from mild_compass.craft.logbook.questions import is_after
from mild_compass.craft.logbook.repeated import Wrong, repeated
from mild_compass.craft.reading import Reading
from mild_compass.craft.work.planned import hours

if TYPE_CHECKING:
    from mild_compass.craft.work.planned import WorkingOrder
    from mild_compass.craft.worked import Worked

MOST_REPEATED = 3


def headline(worked: Worked) -> str:
    """For the route."""
    count = sum(entry.kind == "note" for entry in worked.plan.log)
    return f"{count} note{'s' * (count != 1)}"


def readings(worked: Worked) -> list[Reading]:
    """Notes and decisions counted, the work ahead, and what came out."""
    notes = sum(entry.kind == "note" for entry in worked.plan.log)
    decisions = len(worked.plan.log) - notes
    text = f"{notes} note{'s' * (notes != 1)} and {decisions} decision{'s' * (decisions != 1)} are on record."
    found = [Reading("notes", "On record", text, float(notes), "notes", shown=str(len(worked.plan.log)))]
    if worked.order is not None:
        found += [*_work(worked.order), *_done(worked, worked.order)]
    return [*found, *_to_tell(worked), *_again(worked)]


def _work(order: WorkingOrder) -> list[Reading]:
    count = len(order.sittings)
    low, high = order.range_min
    if order.own:
        span = f"between {hours(low)} and {hours(high)}, by your own times"
    else:
        span = "by common practice, until your own times are known"
    text = (
        f"{hours(order.hands_min)} of work in {count} sitting{'s' * (count != 1)}, {span}. "
        f"At one go it is done at {order.clock(order.end_min)}, {hours(order.end_min - order.hands_min)} of it waiting."
    )
    found = [Reading("work", "The work", text, round(order.hands_min), "min", shown=hours(order.hands_min))]
    for sitting in order.sittings:
        if sitting.over_min > 0:
            step = max(sitting.parts, key=lambda part: part.end - part.start).step
            text = (
                f"Sitting {sitting.number} lasts {hours(sitting.end)}: “{step.title}” cannot be left half-way. "
                "Make room for it, or lay it in parts."
            )
            found.append(
                Reading(f"over {sitting.number}", "Long sitting", text, sitting.over_min, "min", "look",
                        shown=hours(sitting.end))
            )  # fmt: skip
    if order.light_until:
        cut = sum(sitting.light for sitting in order.sittings)
        text = f"The light on the motif lasts until {order.light_until}: all that needs it is done by then."
        if cut:
            text = (
                f"The light on the motif lasts until {order.light_until}; the work from it takes {cut + 1} days at the "
                "same hour."
            )
        found.append(
            Reading("light", "Light", text, float(cut), "days", "look" if cut else "fine", shown=order.light_until)
        )
    return found


def _done(worked: Worked, order: WorkingOrder) -> list[Reading]:
    mine = [sitting for sitting in worked.plan.sittings if sitting.study == worked.study.id]
    done = {step.step for sitting in mine for step in sitting.steps if step.done} & {step.key for step in order.steps}
    if not mine:
        return []
    total = sum(sitting.minutes for sitting in mine)
    text = f"{len(done)} of {len(order.steps)} steps are done, in {hours(total)} at the easel."
    return [
        Reading(
            "steps done", "At the easel", text, float(len(done)), "steps", shown=f"{len(done)} of {len(order.steps)}"
        )
    ]


def _to_tell(worked: Worked) -> list[Reading]:
    if not is_after(worked.plan):
        return []
    rows = planned_and_done(worked)
    still = [row for row in rows if row.outcome == "open" and not row.measured]
    if not still:
        return []
    text = (
        f"The work is finished, and of {len(still)} thing{'s' * (len(still) != 1)} planned nothing is said yet: "
        f"{still[0].planned}. See Planned and done."
    )
    return [Reading("to tell", "Left to tell", text, float(len(still)), "things", "look", shown=str(len(still)))]


def _again(worked: Worked) -> list[Reading]:
    if not worked.elsewhere:
        return []
    here = [
        Wrong(worked.plan.name, row.topic, row.way if not row.departure else "", row.planned, row.learned)
        for row in planned_and_done(worked)
        if row.outcome in ("changed", "dropped") or (row.measured and row.way)
    ]
    found = []
    for each in repeated(here, worked.elsewhere)[:MOST_REPEATED]:
        before = f" Before: {', '.join(each.plans[:3])}."
        learned = f" You wrote: “{each.learned[-1]}”" if each.learned else ""
        found.append(
            Reading(f"again {each.topic}", "Again", each.words + before + learned, float(len(each.plans) + 1), "plans",
                    "look", shown=f"{len(each.plans) + 1}×")
        )  # fmt: skip
    return found
