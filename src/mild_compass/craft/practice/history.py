"""What the artist has answered so far, drill by drill: the level, the eye, the trend, what comes next."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import TYPE_CHECKING

from mild_compass.craft.practice.drills import DRILLS, Drill, drill
from mild_compass.craft.practice.estimate import Eye, eye_of
from mild_compass.craft.practice.staircase import allowed_at, levels, threshold
from mild_compass.craft.practice.trend import Trend, together, trend_of

if TYPE_CHECKING:
    from collections.abc import Iterable

LAST_ANSWERS = 40  # the eye as it is now
MINUTES_A_DAY = 5
DAYS = 7
NEVER_DAYS = 30.0  # a drill never done counts as so long ago


@dataclass(frozen=True, slots=True)
class Answered:
    """One answer: when (ISO 8601), of which drill, its signed error (None where there is none), right or not, what was
    allowed, how long it took, and whether it was on the artist's own reference. ``id`` is its own mark."""

    id: str
    time: str
    drill: str
    error: float | None
    right: bool
    allowed: float
    seconds: float
    own: bool = False

    @property
    def day(self) -> str:
        """The day of its session."""
        return self.time[:10]


class History:
    """All answers in order of time."""

    def __init__(self, answers: Iterable[Answered] = ()) -> None:
        self.answers = tuple(sorted(answers, key=lambda each: each.time))
        self._of: dict[str, list[Answered]] = {}
        for each in self.answers:
            self._of.setdefault(each.drill, []).append(each)

    def of(self, name: str) -> list[Answered]:
        """The answers of a drill."""
        return self._of.get(name, [])

    def level(self, name: str) -> int:
        """How hard the next question is."""
        return levels(each.right for each in self.of(name))[-1]

    def allowed(self, name: str) -> float:
        """What is allowed at that level."""
        return allowed_at(self.level(name), drill(name).easiest)

    def settles_at(self, name: str) -> float | None:
        """Where 70.7 % of the answers are right."""
        return threshold([each.right for each in self.of(name)], drill(name).easiest)

    def eye(self, name: str) -> Eye | None:
        """How the eye measures now, by the last answers."""
        return eye_of([each.error for each in self.of(name) if each.error is not None][-LAST_ANSWERS:])

    def sessions(self, name: str) -> list[list[float]]:
        """Signed errors by day."""
        days: dict[str, list[float]] = {}
        for each in self.of(name):
            if each.error is not None:
                days.setdefault(each.day, []).append(each.error)
        return list(days.values())

    def days(self, name: str) -> list[str]:
        """The days a drill was done."""
        return list(dict.fromkeys(each.day for each in self.of(name) if each.error is not None))

    def trends(self) -> dict[str, Trend]:
        """Every drill that has errors with a size, tested together."""
        return together({each.name: trend_of(self.sessions(each.name)) for each in DRILLS if each.signed})

    # -- what comes next --------------------------------------------------------------------------------------

    def weakness(self, row: Drill) -> float:
        """How far off against what is usual at the start: 1 is as usual; never done counts as usual."""
        if row.signed:
            errors = [abs(each.error) for each in self.of(row.name) if each.error is not None][-LAST_ANSWERS:]
            return sum(errors) / len(errors) / row.usual if errors else 1.0
        at = self.settles_at(row.name)
        return at / row.usual if at is not None else 1.0

    def days_since(self, name: str, today: date) -> float:
        """Since a drill was last done."""
        done = self.of(name)
        if not done:
            return NEVER_DAYS
        return max(0.0, float((today - datetime.fromisoformat(done[-1].time).date()).days))

    def in_need(self, today: date) -> tuple[Drill, ...]:
        """All drills, the one that is most in need first: weakness times the time since."""
        need = {row.name: self.weakness(row) * (1 + self.days_since(row.name, today)) for row in DRILLS}
        return tuple(sorted(DRILLS, key=lambda row: -need[row.name]))

    def week(self, today: date) -> tuple[tuple[date, tuple[Drill, ...]], ...]:
        """Five minutes a day from today on, each day's drills as if those of the days before had been done."""
        last: dict[str, date] = {}
        plan = []
        for day in (today + timedelta(days=k) for k in range(DAYS)):
            need = {
                row.name: self.weakness(row) * (1 + self._since(row.name, day, last))
                for row in DRILLS
            }  # fmt: skip
            left, chosen = MINUTES_A_DAY, []
            for row in sorted(DRILLS, key=lambda row: -need[row.name]):
                if row.minutes <= left:
                    chosen.append(row)
                    left -= row.minutes
                    last[row.name] = day
            plan.append((day, tuple(chosen)))
        return tuple(plan)

    def _since(self, name: str, day: date, last: dict[str, date]) -> float:
        return float((day - last[name]).days) if name in last else self.days_since(name, day)


def said(name: str, eye: Eye) -> str:
    """An eye in a sentence: its lean only where it is beyond chance, then its scatter."""
    row = drill(name)
    what = f"{row.title}: "
    space = "" if row.unit == "°" else " "
    if eye.leans:
        lean = f"{abs(eye.bias):.1f}{space}{row.unit} {row.more if eye.bias > 0 else row.less} on the whole, "
    else:
        lean = "no lean to one side, "
    return f"{what}{lean}and within {eye.spread:.1f}{space}{row.unit} of that two times in three."
