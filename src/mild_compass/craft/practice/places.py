"""Drills of the whole: the crop of the sheet's proportion, five points from memory."""

from __future__ import annotations

from math import hypot
from typing import TYPE_CHECKING

from mild_compass.craft.practice.card import CARD_MM, Answer, Area, Judged, Line, Mark, Question, Spot, Word, box, dot
from mild_compass.craft.practice.drills import drill

if TYPE_CHECKING:
    from random import Random

WIDE, HIGH = CARD_MM
SHEETS = (("3 : 4", 3 / 4), ("A sizes, upright", 2**-0.5), ("4 : 5", 4 / 5), ("2 : 3", 2 / 3), ("square", 1.0))
LOOK_S = 10.0
POINTS = 5


def crop_question(chance: Random, allowed: float) -> Question:
    """Three frames; one has the named proportion, the others are wider and narrower by what is allowed."""
    name, ratio = chance.choice(SHEETS)
    if chance.random() < 0.5 and ratio != 1:
        name, ratio = f"{name}, laid across", 1 / ratio
    shares = [1.0, 1 + allowed / 100, 1 / (1 + allowed / 100)]
    chance.shuffle(shares)
    frames = []
    for place, share in enumerate(shares):
        wide_of_high = ratio * share
        high = min(chance.uniform(70, 110), 68 / wide_of_high)
        middle = 42 + 78 * place
        wide = high * wide_of_high
        frames.append(box(middle - wide / 2, 70 - high / 2, middle + wide / 2, 70 + high / 2))
    truth = shares.index(1.0)

    def judge(answer: Answer) -> Judged:
        picked = int(answer) if isinstance(answer, int | float) else 0
        if picked == truth:
            return Judged(None, True, "That is the one.")
        way = "wider" if shares[picked] > 1 else "narrower"
        words = f"It is the {('left', 'middle', 'right')[truth]} one; yours is {allowed:.0f} % {way}."
        return Judged(None, False, words, (Line(frames[truth], 1.6),))

    marks: list[Mark] = [Area(frame, (214, 212, 208)) for frame in frames]
    marks += [Line(frame, 0.5) for frame in frames]
    marks.append(Word(name, (WIDE / 2, 148)))
    prompt = f"Which frame has the proportion {name}?"
    return Question("crop", prompt, "choice", tuple(marks), judge, allowed, choices=tuple(frames), unit="%")


def memory_question(chance: Random, allowed: float) -> Question:
    """Five points are looked at for ten seconds, covered, and set down again in any order."""
    points: list[Spot] = []
    while len(points) < POINTS:
        spot = (chance.uniform(20, WIDE - 20), chance.uniform(16, HIGH - 16))
        if all(hypot(spot[0] - x, spot[1] - y) > 32 for x, y in points):
            points.append(spot)
    middle = (sum(x for x, _ in points) / POINTS, sum(y for _, y in points) / POINTS)

    def judge(answer: Answer) -> Judged:
        assert isinstance(answer, tuple)
        placed = [(float(x), float(y)) for x, y in answer]  # type: ignore[misc]
        pairs = _paired(points, placed)
        off = [hypot(x1 - x0, y1 - y0) for (x0, y0), (x1, y1) in pairs]
        out = [hypot(*_from(middle, after)) - hypot(*_from(middle, before)) for before, after in pairs]
        error, mean = sum(out) / POINTS, sum(off) / POINTS
        row = drill("memory")
        way = f", on the whole {abs(error):.1f} mm {row.more if error > 0 else row.less}" if abs(error) >= 0.5 else ""
        truth: tuple[Mark, ...] = (
            *(dot(point, 1.6, (158, 59, 33)) for point in points),
            *(Line(pair, 0.4) for pair in pairs),
        )
        return Judged(error, mean <= allowed, f"{mean:.1f} mm off in the mean{way}.", truth)

    marks = tuple(dot(point, 1.6) for point in points)
    prompt = "Look for ten seconds. When they are covered, point at all five."
    return Question(*("memory", prompt, "places", marks, judge, allowed), count=POINTS, seen_s=LOOK_S, unit="mm")


def _from(middle: Spot, point: Spot) -> Spot:
    return point[0] - middle[0], point[1] - middle[1]


def _paired(points: list[Spot], placed: list[Spot]) -> list[tuple[Spot, Spot]]:
    """Each point with the one set down for it, so that all distances together are least."""
    import numpy as np
    from scipy.optimize import linear_sum_assignment

    apart = np.hypot(*(np.array(points)[:, None] - np.array(placed)[None]).transpose(2, 0, 1))
    rows, columns = linear_sum_assignment(apart)
    return [(points[row], placed[column]) for row, column in zip(rows, columns, strict=True)]
