"""What an edit is, and how a function becomes one."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import wraps
from string import ascii_uppercase
from typing import TYPE_CHECKING, Concatenate, ParamSpec

from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import LogEntry, Plan
from mild_compass.plan.stations import StationName
from mild_compass.plan.study import Study

if TYPE_CHECKING:
    from collections.abc import Callable

P = ParamSpec("P")


@dataclass(frozen=True)
class Edit:
    """A change to a plan, with the label of the undo menu and the station whose decision it is."""

    name: str
    label: str
    change: Callable[[Plan], Plan]
    station: StationName | None = None
    says: Callable[[Plan], str] | None = None
    merges: bool = True

    def apply(self, plan: Plan, time: str) -> Plan:
        """The changed plan, with the decision in its log; the same plan when nothing changed."""
        changed = self.change(plan)
        if changed == plan:
            return plan
        if self.says is None or self.station is None:
            return changed
        study = changed.study.name if changed.study else ""
        entry = LogEntry(time, self.station, study, "decision", self.says(changed), self.name)
        earlier = _without_superseded(changed.log, entry) if self.merges else changed.log
        return replace(changed, log=(*earlier, entry))


def _without_superseded(log: tuple[LogEntry, ...], entry: LogEntry) -> tuple[LogEntry, ...]:
    """Drop the last line where it is the same decision, so that a drag in ten strokes is one line."""
    same = log and (log[-1].topic, log[-1].study, log[-1].kind) == (entry.topic, entry.study, "decision")
    return log[:-1] if same else log


def named(
    label: str,
    station: StationName | None = None,
    says: Callable[..., str] | None = None,
    merges: bool = True,
) -> Callable[[Callable[Concatenate[Plan, P], Plan]], Callable[P, Edit]]:
    """Turn a function (plan, …) -> plan into a maker of labelled edits taking the remaining arguments.

    ``says`` words the decision for the logbook from the changed plan and the same arguments; with ``merges`` a
    decision made again at once replaces its own line.
    """

    def decorate(function: Callable[Concatenate[Plan, P], Plan]) -> Callable[P, Edit]:
        @wraps(function)
        def make(*args: P.args, **kwargs: P.kwargs) -> Edit:
            words = None if says is None else lambda plan: says(plan, *args, **kwargs)
            return Edit(function.__name__, label, lambda plan: function(plan, *args, **kwargs), station, words, merges)

        return make

    return decorate


def current(plan: Plan) -> Study:
    """The study being worked on, or a PlanError that says what is missing.

    Raises:
        PlanError: there is no study yet.
    """
    if plan.study is None:
        raise PlanError("There is nothing in the plan to work on yet. Add a photo, or begin with a blank sheet.")
    return plan.study


def next_study(plan: Plan) -> tuple[int, str]:
    """The next free number for a study's id, and the next free letter or name."""
    numbers = {int(old.id.rsplit("-", 1)[1]) for old in plan.studies if old.id.rsplit("-", 1)[1].isdigit()}
    number = max(numbers, default=0) + 1
    names = {old.name for old in plan.studies}
    return number, next((letter for letter in ascii_uppercase if letter not in names), f"Study {number}")


def with_study(plan: Plan, study: Study) -> Plan:
    """The plan with the study of the same id replaced."""
    return replace(plan, studies=tuple(study if old.id == study.id else old for old in plan.studies))
