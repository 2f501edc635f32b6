"""Drills of depth: eye level, where lines run to, the next post in a row."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.perspective.spacing import equally_spaced
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
    cross,
    onto,
)
from mild_compass.craft.practice.lengths import as_spot, told

if TYPE_CHECKING:
    from random import Random

WIDE, HIGH = CARD_MM
WALLS = ((206, 204, 200), (188, 186, 183))


def _toward(start: Spot, end: Spot, share: float) -> Spot:
    return start[0] + (end[0] - start[0]) * share, start[1] + (end[1] - start[1]) * share


def eye_level_question(chance: Random, allowed: float) -> Question:
    """A street between two rows of fronts; all their level edges run to one point of the eye level."""
    point = (chance.uniform(80, 160), chance.uniform(45, 115))
    marks: list[Mark] = []
    for side, shade in zip((0.0, WIDE), WALLS, strict=True):
        roof, foot = (side, chance.uniform(-30, 20)), (side, HIGH + chance.uniform(0, 40))
        depth = chance.uniform(0.55, 0.75)
        far_roof, far_foot = _toward(roof, point, depth), _toward(foot, point, depth)
        marks.append(Area((roof, far_roof, far_foot, foot), shade))
        for share in (0.3, 0.62):
            sill = _toward(roof, foot, share)
            marks.append(Line((_toward(sill, point, 0.05), _toward(sill, point, depth - 0.08)), 0.5))
    truth = point[1]

    def judge(answer: Answer) -> Judged:
        level = (Line(((0, truth), (WIDE, truth)), 0.5, dashed=True), *cross(point))
        return told("eye level", truth - as_spot(answer)[1], allowed, level)

    return Question("eye level", "Point at the eye level.", "point", tuple(marks), judge, allowed, unit="mm")


def runs_to_question(chance: Random, allowed: float) -> Question:
    """Two edges of a wall: the place where they meet, beyond what is drawn."""
    side = chance.choice([-1, 1])
    point = (WIDE / 2 + side * chance.uniform(60, 110), chance.uniform(40, 120))
    near_x = WIDE / 2 - side * chance.uniform(85, 110)
    top, foot = (near_x, chance.uniform(2, 40)), (near_x, chance.uniform(120, 158))
    share = chance.uniform(0.3, 0.5)
    lines = tuple((start, _toward(start, point, share)) for start in (top, foot))
    away = ((near_x, point[1]), point)
    length = abs(point[0] - near_x)

    def judge(answer: Answer) -> Judged:
        error = onto(away, as_spot(answer)) - length
        rest = tuple(Line((line[1], point), 0.4, dashed=True) for line in lines)
        return told("runs to", error, allowed, (*rest, *cross(point)))

    marks: tuple[Mark, ...] = (
        Area((*lines[0], lines[1][1], lines[1][0]), WALLS[0]),
        *(Line(line, 0.7) for line in lines),
        Line((top, foot), 0.7),
    )
    return Question("runs to", "Point at where the two edges meet.", "point", marks, judge, allowed, unit="mm")


def next_post_question(chance: Random, allowed: float) -> Question:
    """Two equal posts going back; the foot of the third, equally far on, on the line of their feet."""
    side = chance.choice([-1, 1])
    point = (WIDE / 2 + side * chance.uniform(70, 105), chance.uniform(40, 70))
    first = (WIDE / 2 - side * chance.uniform(80, 105), chance.uniform(125, 150))
    tall = chance.uniform(40, 80)
    feet = ((first[0], first[1]), point)
    length = ((point[0] - first[0]) ** 2 + (point[1] - first[1]) ** 2) ** 0.5
    second = chance.uniform(0.22, 0.45) * length
    places = equally_spaced(length, 0.0, second, 4).tolist()

    def post(place: float) -> Line:
        foot = along(feet, place)
        high = tall * (length - place) / length
        return Line((foot, (foot[0], foot[1] - high)), 1.2 * (length - place) / length + 0.3)

    def judge(answer: Answer) -> Judged:
        truth = (post(places[2]), post(places[3]))
        return told("next post", onto(feet, as_spot(answer)) - places[2], allowed, truth)

    marks = (
        Line((first, _toward(first, point, 1.0)), 0.3, dashed=True),
        Line(((first[0], first[1] - tall), point), 0.3, dashed=True),
        post(0.0),
        post(places[1]),
    )
    prompt = "Point at the foot of the next post, equally far on."
    return Question("next post", prompt, "point", marks, judge, allowed, unit="mm", line=feet)
