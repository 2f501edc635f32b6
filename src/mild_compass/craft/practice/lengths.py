"""Drills of lengths: halves, thirds, proportions, heads, units, balance."""

from __future__ import annotations

from math import cos, pi, radians, sin
from typing import TYPE_CHECKING

from mild_compass.craft.practice.card import (
    CARD_MM,
    Answer,
    Area,
    Judged,
    Line,
    Mark,
    Question,
    Spot,
    along,
    box,
    cross,
    dot,
    off,
    onto,
)
from mild_compass.craft.practice.drills import drill

if TYPE_CHECKING:
    from random import Random

WIDE, HIGH = CARD_MM
GREY = (176, 176, 174)


def as_spot(answer: Answer) -> Spot:
    """An answer given by pointing."""
    assert isinstance(answer, tuple)
    assert len(answer) == 2
    return float(answer[0]), float(answer[1])  # type: ignore[arg-type]


def as_number(answer: Answer) -> float:
    """An answer that was typed."""
    assert isinstance(answer, int | float)
    return float(answer)


def told(name: str, error: float, allowed: float, truth: tuple[Mark, ...], answer: str = "") -> Judged:
    """A signed error judged and worded as its drill does."""
    row = drill(name)
    words = off(error, row.unit, row.more, row.less)
    return Judged(error, abs(error) <= allowed, f"{answer} {words}".strip(), truth)


def _divided(name: str, prompt: str, chance: Random, allowed: float, share: float) -> Question:
    """A line at any turn, from left to right, to be divided."""
    length, turn = chance.uniform(80, 190), radians(chance.choice([0, 0, 15, -15, 30, -30, 60, -60]))
    if turn:
        length = min(length, (HIGH - 24) / abs(sin(turn)))
    half = (length / 2 * cos(turn), length / 2 * sin(turn))
    x = chance.uniform(14 + half[0], WIDE - 14 - half[0])
    y = chance.uniform(10 + abs(half[1]), HIGH - 10 - abs(half[1]))
    line = ((x - half[0], y - half[1]), (x + half[0], y + half[1]))
    truth = share * length

    def judge(answer: Answer) -> Judged:
        return told(name, onto(line, as_spot(answer)) - truth, allowed, cross(along(line, truth)))

    marks = (Line(line), dot(line[0], 1.0), dot(line[1], 1.0))
    return Question(name, prompt, "point", marks, judge, allowed, unit="mm", line=line)


def halve_question(chance: Random, allowed: float) -> Question:
    """The middle of a line."""
    return _divided("halve", "Point at the middle of the line.", chance, allowed, 0.5)


def third_question(chance: Random, allowed: float) -> Question:
    """The first third of a line."""
    return _divided("third", "Point at a third of the line, from the left.", chance, allowed, 1 / 3)


def width_to_height_question(chance: Random, allowed: float) -> Question:
    """A rectangle's width in its heights."""
    ratio = chance.uniform(0.45, 2.4)
    height = min(chance.uniform(50, 120), 210 / ratio)
    width = ratio * height
    left, top = chance.uniform(8, WIDE - 8 - width), chance.uniform(8, HIGH - 8 - height)

    def judge(answer: Answer) -> Judged:
        error = 100 * (as_number(answer) / ratio - 1)
        return told("width to height", error, allowed, (), f"It is {ratio:.2f} to 1:")

    return Question(
        *("width to height", "How wide is it for a height of 1? Type for instance 0.75.", "number"),
        (Area(box(left, top, left + width, top + height), GREY),), judge, allowed, unit="to 1",
    )  # fmt: skip


def heads_question(chance: Random, allowed: float) -> Question:
    """How many heads a standing figure is tall."""
    count = chance.uniform(4.5, 8.6)
    tall = chance.uniform(90, 145)
    head, x, top = tall / count, chance.uniform(60, WIDE - 60), (HIGH - tall) / 2
    foot = top + tall

    def judge(answer: Answer) -> Judged:
        truth = tuple(Line(((x - 22, y), (x + 22, y)), 0.3) for y in _steps(top, foot, head))
        return told("heads", as_number(answer) - count, allowed, truth, f"{count:.1f} heads:")

    body = (
        *((x - 0.9 * head, top + 1.3 * head), (x + 0.9 * head, top + 1.3 * head), (x + 0.55 * head, top + 0.5 * tall)),
        *((x + 0.5 * head, foot), (x - 0.5 * head, foot), (x - 0.55 * head, top + 0.5 * tall)),
    )
    neck = box(x - 0.16 * head, top + 0.9 * head, x + 0.16 * head, top + 1.35 * head)
    marks = (Area(_oval(x, top + head / 2, 0.38 * head, head / 2), GREY), Area(body, GREY), Area(neck, GREY))
    return Question(
        "heads",
        "How many heads tall is it? Type for instance 6.5.",
        "number",
        marks,
        judge,
        allowed,
        unit="heads",
    )


def units_question(chance: Random, allowed: float) -> Question:
    """An upright length in units of a level one."""
    unit, count = chance.uniform(18, 40), chance.uniform(1.3, 5.2)
    long = min(unit * count, 140.0)
    count = long / unit
    x, top = chance.uniform(100, 200), chance.uniform(6, HIGH - 8 - long)
    left, y = chance.uniform(10, 50), chance.uniform(20, HIGH - 20)

    def judge(answer: Answer) -> Judged:
        return told("units", as_number(answer) - count, allowed, (), f"{count:.2f} times:")

    marks = (
        Line(((left, y), (left + unit, y)), 1.4),
        Line(((x, top), (x, top + long)), 0.7),
        Line(((x - 3, top), (x + 3, top)), 0.5),
        Line(((x - 3, top + long), (x + 3, top + long)), 0.5),
    )
    return Question(
        *("units", "How often does the thick length go into the thin one? Type for instance 2.3.", "number"),
        marks, judge, allowed, unit="times",
    )  # fmt: skip


def balance_question(chance: Random, allowed: float) -> Question:
    """Where a level bar with dark shapes on it would balance: the middle of their areas (Poore's steelyard)."""
    y, line = HIGH * 0.62, ((15.0, HIGH * 0.62), (WIDE - 15.0, HIGH * 0.62))
    marks: list[Mark] = [Line(line, 0.8)]
    weight = moment = 0.0
    for place in range(chance.randint(2, 3)):
        wide, high = chance.uniform(14, 46), chance.uniform(14, 60)
        low, top = 20 + 72 * place, 72 * (place + 1) - wide
        x = chance.uniform(low, max(low + 1, top))
        marks.append(Area(box(x, y - high, x + wide, y), (70, 70, 72)))
        weight += wide * high
        moment += wide * high * (x + wide / 2)
    truth = moment / weight

    def judge(answer: Answer) -> Judged:
        return told("balance", as_spot(answer)[0] - truth, allowed, (Line(((truth, y), (truth, y + 16)), 0.8),))

    prompt = "All shapes are equally dark. Point at where the bar would balance."
    return Question("balance", prompt, "point", tuple(marks), judge, allowed, unit="mm", line=line)


def _steps(start: float, end: float, step: float) -> list[float]:
    return [start + k * step for k in range(int((end - start) / step) + 1)]


def _oval(x: float, y: float, wide: float, high: float) -> tuple[Spot, ...]:
    return tuple((x + wide * cos(2 * pi * k / 40), y + high * sin(2 * pi * k / 40)) for k in range(40))
