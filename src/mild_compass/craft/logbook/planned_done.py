"""Planned and done side by side: departures, readings acted on, settings; what came out, and what was learned."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from mild_compass.craft.check.over_time import mean_and_worst
from mild_compass.craft.check.readings import off_parts, part_name
from mild_compass.craft.check.where import drawn_lengths
from mild_compass.craft.sheet_sizes.lengths import format_length
from mild_compass.craft.values.medium import MEDIUM_WORDS
from mild_compass.craft.values.names import names_of
from mild_compass.craft.work.planned import hours
from mild_compass.plan.departure_kinds import kind_of
from mild_compass.plan.record import CameOut, Outcome, Way

if TYPE_CHECKING:
    from collections.abc import Iterator

    from mild_compass.craft.worked import Worked
    from mild_compass.plan.model import Plan
    from mild_compass.plan.study import Study

SHARE_APART = 0.05  # of the picture: a value that took so much more or less came out otherwise
TIME_APART = 0.2  # of the planned time
STEPS_APART = 0.5  # of the plan's value steps
FOCUS_APART_MM = 25.0
SIZE_APART = 1.0  # percent


@dataclass(frozen=True, slots=True)
class DoneRow:
    """One thing planned, and what came out: measured on the drawing where it can be, else told by the artist.

    ``topic`` is what it is about, the same in every plan; ``way`` whether it became more or less. ``departure`` is the
    id of a departure, whose outcome is kept with it.
    """

    key: str
    topic: str
    group: str
    planned: str
    done: str = ""
    measured: bool = False
    outcome: Outcome = "open"
    way: Way = ""
    learned: str = ""
    departure: str = ""

    def came(self, study: str, outcome: Outcome, done: str, learned: str) -> CameOut:
        """What the artist says of it, with what was measured."""
        return CameOut(study, self.key, self.topic, self.planned, done, outcome, self.way, learned.strip())


def planned_and_done(worked: Worked) -> tuple[DoneRow, ...]:
    """All rows of the current study, departures first."""
    plan, study = worked.plan, worked.study
    rows = [*_departures(study), *_acted(plan, study), *_settings(worked)]
    return tuple(_as_told(row, plan, study) for row in rows)


def _as_told(row: DoneRow, plan: Plan, study: Study) -> DoneRow:
    """With what the artist has said of it; what has been measured since stands beside it."""
    told = next((each for each in plan.came_out if (each.study, each.key) == (study.id, row.key)), None)
    if told is None:
        return row
    outcome = row.outcome if row.departure else told.outcome
    done = told.done or row.done
    return DoneRow(
        row.key, row.topic, row.group, row.planned, done, row.measured and done == row.done, outcome,
        row.way or told.way, told.learned, row.departure,
    )  # fmt: skip


def _departures(study: Study) -> Iterator[DoneRow]:
    for each in study.departures:
        kind = kind_of(each.kind)
        reason = f": {each.reason}" if each.reason else ""
        words = f"{kind.verb} {each.name or 'this'}{reason}"
        key = f"departure {each.id}"
        yield DoneRow(key, f"{each.kind}", "Departures", words, each.happened, outcome=each.outcome, departure=each.id)


def _acted(plan: Plan, study: Study) -> Iterator[DoneRow]:
    for each in plan.acted:
        if each.study == study.id:
            yield DoneRow(f"acted {each.station} {each.key}", f"reading {each.key}", "Readings acted on", each.text)


def _settings(worked: Worked) -> Iterator[DoneRow]:
    yield _frame(worked)
    yield from _lines(worked)
    yield from _measures(worked)
    yield DoneRow("medium", "the way of working", "Settings", MEDIUM_WORDS[worked.study.medium.medium])
    yield from _values(worked)
    yield from _focus(worked)
    yield from _time(worked)


def _frame(worked: Worked) -> DoneRow:
    box = worked.frame_map.box
    size = f"{format_length(box.width, worked.unit, 0)} × {format_length(box.height, worked.unit, 0)}"
    done = ""
    way: Way = ""
    whole = worked.check.whole if worked.check is not None else None
    if whole is not None:
        far = (whole.shift_mm[0] ** 2 + whole.shift_mm[1] ** 2) ** 0.5
        done = f"shifted {format_length(far, worked.unit)}, {whole.scale_percent:+.1f} % in size".replace("-", "−")
        way = _way(whole.scale_percent, SIZE_APART)
    return DoneRow(
        "frame", "the size of the drawing", "Settings", f"the picture {size} on the sheet", done, bool(done), way=way
    )


def _lines(worked: Worked) -> Iterator[DoneRow]:
    checked, drawing = worked.check, worked.plan.drawing
    if checked is None or drawing is None or checked.problem:
        return
    told = mean_and_worst(checked)
    if told is None:
        return
    off = off_parts(checked, drawing)
    named = ", ".join(part_name(part, worked) for part in off[:3])
    done = f"{format_length(told[0], worked.unit)} off in the mean" + (f"; off: {named}" if off else "; nothing off")
    planned = "the lines as printed"
    yield DoneRow("lines", "lines", "Settings", planned, done, True, way="more" if off else "")


def _measures(worked: Worked) -> Iterator[DoneRow]:
    count = len(worked.study.measures.lengths)
    if not count:
        return
    planned = f"{count} measured length{'s' * (count != 1)}"
    checked = worked.check
    drawn = drawn_lengths(checked, worked) if checked is not None and not checked.problem else []
    found = [each for each in drawn if each.drawn_mm is not None]
    done = ""
    way: Way = ""
    if found:
        worst = max(found, key=lambda each: abs(each.off_percent))
        off = sum(each.is_off for each in found)
        done = f"{off} off; {worst.name} {worst.off_percent:+.1f} %".replace("-", "−") if off else "all as measured"
        way = _way(worst.off_percent, 0.0) if off else ""
    yield DoneRow("measures", "measured lengths", "Settings", planned, done, bool(done), way=way)


def _values(worked: Worked) -> Iterator[DoneRow]:
    masses, tones = worked.masses, worked.tones
    if masses is None:
        return
    names = names_of(len(masses.shown))
    for place, topic in ((0, "darks"), (len(masses.shown) - 1, "lights")):
        share = masses.shares[place]
        done = ""
        way: Way = ""
        if tones is not None and masses.thresholds:
            drawn = tones.lightness
            taken = drawn < masses.thresholds[0] if place == 0 else drawn >= masses.thresholds[-1]
            came = float(taken.mean())
            done = f"they took {100 * came:.0f} %"
            way = _way(came - share, SHARE_APART)
        planned = f"the {names[place]} takes {100 * share:.0f} % of the picture"
        yield DoneRow(topic, topic, "Settings", planned, done, bool(done), way=way)
    if tones is None:
        return
    off = [each for each in tones.values if abs(each.steps_off) > STEPS_APART]
    worst = max(off, key=lambda each: abs(each.steps_off), default=None)
    done = "all within half a step"
    if worst is not None:
        side = "light" if worst.steps_off > 0 else "dark"
        done = f"{len(off)} off; the {worst.name} {abs(worst.steps_off):.1f} steps too {side}"
    side_of: Way = "" if worst is None else _way(worst.steps_off, STEPS_APART)
    planned = f"{len(tones.values)} masses in {len(masses.shown)} values"
    yield DoneRow("values", "how light the masses are", "Settings", planned, done, True, way=side_of)


def _focus(worked: Worked) -> Iterator[DoneRow]:
    focus, tones = worked.study.reads.focus, worked.tones
    if focus is None:
        return
    done = ""
    way: Way = ""
    if tones is not None and tones.first_read_mm is not None:
        (x, y), (x1, y1) = worked.frame_map.to_sheet(focus).tolist(), tones.first_read_mm
        far = float(((x - x1) ** 2 + (y - y1) ** 2) ** 0.5)
        there = far <= FOCUS_APART_MM
        done = "it does" if there else f"it ends {format_length(far, worked.unit, 0)} away"
        way = "" if there else "more"
    yield DoneRow("focus", "where the eye ends", "Settings", "the eye ends at the focus", done, bool(done), way=way)


def _time(worked: Worked) -> Iterator[DoneRow]:
    order = worked.order
    mine = [sitting for sitting in worked.plan.sittings if sitting.study == worked.study.id]
    if order is None and not mine:
        return
    steps = [step for sitting in mine for step in sitting.steps]
    given = sum({step.step: step.given_min for step in steps}.values())
    planned = order.hands_min if order is not None else given
    done = ""
    way: Way = ""
    if steps:
        taken = sum(step.minutes for step in steps)
        number = f"{len(mine)} sitting{'s' * (len(mine) != 1)}"
        done = f"{hours(taken)} in {number}, for steps given {hours(given)}"
        way = _way(taken - given, TIME_APART * given)
    words = f"{hours(planned)} of work"
    if order is not None:
        words += f" in {len(order.sittings)} sitting{'s' * (len(order.sittings) != 1)}"
    yield DoneRow("time", "time", "Settings", words, done, bool(done), way=way)


def _way(off: float, apart: float) -> Way:
    """More or less than planned, where it is so far apart."""
    return "more" if off > apart else "less" if off < -apart else ""
