"""Drills on the artist's own reference, where the plan knows the answer: eye level, edges, points, values, measures.

The card is the framed picture, and its millimetres are those of the artist's own sheet.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import atan2, degrees, hypot
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.perspective.worked import homogeneous_on_sheet
from mild_compass.craft.picture.framed import framed_lightness
from mild_compass.craft.practice.card import Answer, Judged, Line, PhotoCard, Question, Spot, cross, dot, onto
from mild_compass.craft.practice.drills import drill
from mild_compass.craft.practice.lengths import as_number, as_spot, told
from mild_compass.craft.practice.staircase import allowed_at
from mild_compass.craft.practice.tones import step_of

if TYPE_CHECKING:
    from collections.abc import Callable
    from random import Random

    from numpy.typing import NDArray

    from mild_compass.craft.worked import Worked

LONGEST_PX = 600  # along the longer side of what is drawn of it
PATCH = 0.015  # of the card's shorter side: radius within which a value is taken
REACH = 0.25  # beyond the card, of its size: a point farther off cannot be pointed at
EVEN = 3.0  # L*: a place whose values scatter more has no one value


@dataclass(frozen=True, eq=False, slots=True)
class OwnCard:
    """What a plan knows of its framed picture, in mm on the card."""

    size_mm: Spot
    horizon: tuple[Spot, Spot] | None
    edges: tuple[tuple[Spot, Spot], ...]  # traced ones
    runs: tuple[tuple[tuple[Spot, Spot], tuple[Spot, Spot], Spot], ...]  # two edges of a set, and their point
    lengths: tuple[tuple[str, tuple[Spot, Spot]], ...]
    values: NDArray[np.float32] | None  # L* (h, w) of the framed picture

    def can(self) -> tuple[str, ...]:
        """The drills that can be asked here."""
        there = {
            "eye level": self.horizon is not None,
            "angle": bool(self.edges),
            "runs to": bool(self.runs),
            "units": len(self.lengths) > 1,
            "value": self.values is not None,
        }
        return tuple(name for name, known in there.items() if known)

    def question(self, name: str, chance: Random, level: int) -> Question:
        """A question of one of these drills."""
        makers: dict[str, Callable[[OwnCard, Random, float], Question]] = {
            "eye level": _eye_level,
            "angle": _angle,
            "runs to": _runs_to,
            "units": _units,
            "value": _value,
        }
        return makers[name](self, chance, allowed_at(level, drill(name).easiest))


def own_card(worked: Worked) -> OwnCard:
    """What the current study knows."""
    frame_map, study = worked.frame_map, worked.study
    box = frame_map.box
    corner, size = (box.left, box.top), (float(box.width), float(box.height))

    def card(points_px: object) -> list[Spot]:
        return [(float(x) - corner[0], float(y) - corner[1]) for x, y in frame_map.to_sheet(points_px).tolist()]  # type: ignore[arg-type]

    edges, runs = [], []
    for each in study.perspective.sets:
        lines = [tuple(card([(e.x0_px, e.y0_px), (e.x1_px, e.y1_px)])) for e in each.edges]
        lines = [line for line in lines if all(_within(spot, size, 0.0) for spot in line)]
        edges += [line for line in lines if _length(line) > 0.08 * min(size)]
        point = worked.perspective.point(each.letter)
        if point is None or len(lines) < 2:
            continue
        x, y, w = homogeneous_on_sheet(point, frame_map).tolist()
        if abs(w) > 1e-9 and _within(spot := (x / w - corner[0], y / w - corner[1]), size, REACH):
            runs.append((lines[0], lines[-1], spot))
    horizon = None
    if worked.perspective.horizon is not None:
        ends = [(x - corner[0], y - corner[1]) for x, y in worked.perspective.horizon.through(frame_map).tolist()]
        if all(-0.05 * size[1] < y < 1.05 * size[1] for _, y in ends):
            horizon = (ends[0], ends[1])
    lengths = [(each.name, tuple(card([(each.x0_px, each.y0_px), (each.x1_px, each.y1_px)])))
               for each in study.measures.lengths]  # fmt: skip
    values = None
    if worked.picture is not None:
        values = framed_lightness(worked.picture, study.frame, worked.plan.paper, LONGEST_PX).values
    return OwnCard(size, horizon, tuple(edges), tuple(runs), tuple(lengths), values)  # type: ignore[arg-type]


def _within(spot: Spot, size: Spot, reach: float) -> bool:
    return all(-reach * side <= place <= (1 + reach) * side for place, side in zip(spot, size, strict=True))


def _length(line: tuple[Spot, ...]) -> float:
    return hypot(line[1][0] - line[0][0], line[1][1] - line[0][1])


def _eye_level(card: OwnCard, chance: Random, allowed: float) -> Question:
    assert card.horizon is not None
    (x0, y0), (x1, y1) = card.horizon
    del chance

    def judge(answer: Answer) -> Judged:
        x, y = as_spot(answer)
        truth = y0 + (y1 - y0) * (x - x0) / (x1 - x0)
        return told("eye level", truth - y, allowed, (Line(card.horizon or (), 0.8, dashed=True),))

    return Question(
        *("eye level", "Your reference: point at the eye level.", "point", (PhotoCard(),), judge, allowed),
        size_mm=card.size_mm, own=True, unit="mm",
    )  # fmt: skip


def _angle(card: OwnCard, chance: Random, allowed: float) -> Question:
    line = chance.choice(card.edges)
    (x0, y0), (x1, y1) = line
    lean = degrees(atan2(abs(x1 - x0), abs(y1 - y0)))

    def judge(answer: Answer) -> Judged:
        return told("angle", abs(as_number(answer)) - lean, allowed, (), f"{lean:.0f}° off the upright:")

    prompt = "Your reference: how many degrees does the edge between the dots lean off the upright?"
    marks = (PhotoCard(), dot(line[0], 1.6, (158, 59, 33)), dot(line[1], 1.6, (158, 59, 33)))
    return Question("angle", prompt, "number", marks, judge, allowed, size_mm=card.size_mm, own=True, unit="°")


def _runs_to(card: OwnCard, chance: Random, allowed: float) -> Question:
    first, second, point = chance.choice(card.runs)
    start = ((first[0][0] + second[0][0]) / 2, (first[0][1] + second[0][1]) / 2)
    away = (start, point)

    def judge(answer: Answer) -> Judged:
        error = onto(away, as_spot(answer)) - _length(away)
        rest = tuple(Line((line[0], point), 0.5, dashed=True) for line in (first, second))
        return told("runs to", error, allowed, (*rest, *cross(point)))

    prompt = "Your reference: point at where the two edges meet. It may lie beside the picture."
    marks = (PhotoCard(), Line(first, 0.9), Line(second, 0.9))
    return Question("runs to", prompt, "point", marks, judge, allowed, size_mm=card.size_mm, own=True, unit="mm")


def _units(card: OwnCard, chance: Random, allowed: float) -> Question:
    (unit_name, unit), (name, line) = chance.sample(card.lengths, 2)
    if _length(line) < _length(unit):
        unit_name, unit, name, line = name, line, unit_name, unit
    count = _length(line) / _length(unit)

    def judge(answer: Answer) -> Judged:
        return told("units", as_number(answer) - count, allowed, (), f"{count:.2f} times:")

    prompt = f"Your reference: how often does “{unit_name}” (thick) go into “{name}” (thin)?"
    marks = (PhotoCard(), Line(unit, 1.8), Line(line, 0.8))
    return Question("units", prompt, "number", marks, judge, allowed, size_mm=card.size_mm, own=True, unit="times")


def _value(card: OwnCard, chance: Random, allowed: float) -> Question:
    values = card.values
    assert values is not None
    height, width = values.shape
    reach = max(2, round(PATCH * min(height, width)))
    best: tuple[float, int, int] = (np.inf, width // 2, height // 2)
    for _ in range(40):  # a place that has one value
        x, y = chance.randrange(reach, width - reach), chance.randrange(reach, height - reach)
        best = min(best, (float(values[y - reach : y + reach, x - reach : x + reach].std()), x, y))
        if best[0] < EVEN:
            break
    _, x, y = best
    truth = step_of(float(values[y - reach : y + reach, x - reach : x + reach].mean()))
    at = (x / width * card.size_mm[0], y / height * card.size_mm[1])

    def judge(answer: Answer) -> Judged:
        return told("value", as_number(answer) - truth, allowed, (), f"It is step {truth:.1f}:")

    prompt = "Your reference: which of nine steps is the value inside the ring? 1 is the darkest, 9 the lightest."
    mm = reach / width * card.size_mm[0]
    ring = tuple(
        (at[0] + 1.6 * mm * float(np.cos(a)), at[1] + 1.6 * mm * float(np.sin(a)))
        for a in np.linspace(0, 2 * np.pi, 25)
    )
    marks = (PhotoCard(), Line(ring, 0.8))
    return Question("value", prompt, "number", marks, judge, allowed, size_mm=card.size_mm, own=True, unit="step")
