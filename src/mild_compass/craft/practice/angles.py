"""Drills of angles and ellipses."""

from __future__ import annotations

from math import cos, pi, radians, sin
from typing import TYPE_CHECKING

from mild_compass.craft.practice.card import CARD_MM, Answer, Judged, Line, Question, along, onto
from mild_compass.craft.practice.lengths import as_number, as_spot, told

if TYPE_CHECKING:
    from random import Random

WIDE, HIGH = CARD_MM


def angle_question(chance: Random, allowed: float) -> Question:
    """How far a line leans off the upright; more is flatter."""
    lean, side = chance.uniform(4, 86), chance.choice([-1, 1])
    x, y, half = WIDE / 2, HIGH / 2, chance.uniform(35, 68)
    dx, dy = side * half * sin(radians(lean)), half * cos(radians(lean))

    def judge(answer: Answer) -> Judged:
        upright = (Line(((x, y - half), (x, y + half)), 0.4, dashed=True),)
        return told("angle", abs(as_number(answer)) - lean, allowed, upright, f"{lean:.0f}° off the upright:")

    marks = (Line(((x - dx, y + dy), (x + dx, y - dy)), 0.8),)
    prompt = "How many degrees does it lean off the upright? Upright is 0, level is 90."
    return Question("angle", prompt, "number", marks, judge, allowed, unit="°")


def ellipse_question(chance: Random, allowed: float) -> Question:
    """The upper end of the ellipse of a level disk seen from some degrees above it: the sine of these degrees.

    A small disk far from the eye is meant, whose picture's short axis is its long one times the sine.
    """
    tilt, half = chance.uniform(8, 65), chance.uniform(40, 66)
    x, y = WIDE / 2 + chance.uniform(-30, 30), HIGH / 2
    truth = half * sin(radians(tilt))
    line = ((x, y), (x, y - half))

    def judge(answer: Answer) -> Judged:
        return told("ellipse", onto(line, as_spot(answer)) - truth, allowed, (Line(_ellipse(x, y, half, truth), 0.5),))

    marks = (
        Line(((x - half, y), (x + half, y)), 0.6),
        Line((along(line, 0), along(line, half)), 0.3, dashed=True),
        Line(((x - half, y - 3), (x - half, y + 3)), 0.5),
        Line(((x + half, y - 3), (x + half, y + 3)), 0.5),
    )
    prompt = f"A round table seen from {tilt:.0f}° above it is so wide. Point at the far rim, on the dashed line."
    return Question("ellipse", prompt, "point", marks, judge, allowed, unit="mm", line=line)


def _ellipse(x: float, y: float, wide: float, high: float) -> tuple[tuple[float, float], ...]:
    return tuple((x + wide * cos(2 * pi * k / 60), y + high * sin(2 * pi * k / 60)) for k in range(61))
