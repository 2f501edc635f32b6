"""Six invented weeks of practice, for the demo: made from seeds, told as invented wherever they are shown."""

from __future__ import annotations

from datetime import datetime, timedelta
from random import Random

from mild_compass.craft.practice.drills import DRILLS, Drill
from mild_compass.craft.practice.history import Answered, History
from mild_compass.craft.practice.staircase import allowed_at, levels

BEGAN = "2026-02-23T18:30:00+01:00"
WEEKS, DAYS_A_WEEK, ANSWERS = 6, (0, 1, 3, 4, 6), 5
SEED = 61
# How far off against what is usual at the start, and after the six weeks; and the lean, in the drill's unit.
HANDS: dict[str, tuple[float, float, float]] = {
    "halve": (1.2, 0.3, 0.4),
    "third": (1.1, 0.9, 1.6),
    "angle": (1.1, 0.55, -2.6),
    "width to height": (0.9, 0.85, -3.0),
    "heads": (0.9, 0.8, 0.3),
    "value": (1.4, 0.4, 0.5),
    "eye level": (1.0, 0.9, 2.0),
    "next post": (1.0, 0.7, 1.0),
    "ellipse": (1.1, 1.0, 2.2),
    "memory": (0.9, 0.8, -1.0),
}


def invented_practice() -> History:
    """Ten drills by turns on five days of each week; an eye that gets better at some of them."""
    chance, answers = Random(SEED), list[Answered]()
    rows = [row for row in DRILLS if row.name in HANDS]
    right: dict[str, list[bool]] = {row.name: [] for row in rows}
    sessions = [7 * week + day for week in range(WEEKS) for day in DAYS_A_WEEK]
    for number, day in enumerate(sessions):
        moment = datetime.fromisoformat(BEGAN) + timedelta(days=day, minutes=chance.randint(0, 50))
        for row in rows[number % 2 :: 2] + rows[:1] * (number % 2):
            for _ in range(ANSWERS):
                answers.append(_answer(row, number / (len(sessions) - 1), moment, chance, right[row.name]))
                moment += timedelta(seconds=chance.randint(8, 30))
    return History(answers)


def _answer(row: Drill, gone: float, moment: datetime, chance: Random, right: list[bool]) -> Answered:
    """One answer, so far through the six weeks (0 to 1)."""
    before, after, lean = HANDS[row.name]
    noise = row.usual * (before + (after - before) * gone) * 1.1
    error = round(lean * (1 - 0.4 * gone) + chance.gauss(0, noise), 2)
    allowed = allowed_at(levels(right)[-1], row.easiest)
    right.append(abs(error) <= allowed)
    time = moment.isoformat(timespec="seconds")
    return Answered(f"{row.name} {time}", time, row.name, error, right[-1], round(allowed, 3), chance.uniform(3, 12))
