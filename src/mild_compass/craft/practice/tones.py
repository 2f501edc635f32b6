"""Drills of values: one value on the nine-step scale, the lighter of two, the lightest three in order."""

from __future__ import annotations

from colorsys import hsv_to_rgb
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.picture.tone import grey_of_lightness, lightness
from mild_compass.craft.practice.card import CARD_MM, Answer, Area, Judged, Mark, Question, Rgb, Word, box
from mild_compass.craft.practice.lengths import as_number, told
from mild_compass.craft.values.scale import strip_values

if TYPE_CHECKING:
    from random import Random

WIDE, HIGH = CARD_MM
SCALE_STEPS = 9  # D. W. Ross, A Theory of Pure Design, 1907
MIDDLE = (119, 119, 119)


def grey(value: float) -> Rgb:
    """The grey of an L*."""
    level = int(grey_of_lightness(np.array(value)))
    return level, level, level


def lightness_of(rgb: Rgb) -> float:
    """The L* of a colour."""
    return float(lightness(np.array([[rgb]], np.uint8))[0, 0])


def step_of(value: float) -> float:
    """Where an L* stands on the nine-step scale, from 1 for the darkest."""
    scale = strip_values(SCALE_STEPS)
    return 1 + (value - scale[0]) / (scale[1] - scale[0])


def _ladder(left: float) -> list[Mark]:
    """The scale itself, numbered, at a side of the card."""
    high = (HIGH - 16) / SCALE_STEPS
    marks: list[Mark] = []
    for k, value in enumerate(strip_values(SCALE_STEPS)):
        top = 8 + (SCALE_STEPS - 1 - k) * high
        marks.append(Area(box(left, top, left + 20, top + high), grey(value)))
        marks.append(Word(str(k + 1), (left - 7, top + high / 2)))
    return marks


def _colour(chance: Random) -> Rgb:
    """A saturated colour: the eye takes it for lighter or darker than it is."""
    hue = chance.choice([0.0, 0.04, 0.09, 0.13, 0.15, 0.3, 0.45, 0.6, 0.7, 0.85])
    red, green, blue = hsv_to_rgb(hue, chance.uniform(0.7, 1.0), chance.uniform(0.45, 1.0))
    return round(255 * red), round(255 * green), round(255 * blue)


def value_question(chance: Random, allowed: float) -> Question:
    """The step of a patch, grey or coloured, on grounds that deceive."""
    coloured = chance.random() < 0.6
    patch = _colour(chance) if coloured else grey(chance.uniform(14, 92))
    truth = step_of(lightness_of(patch))
    ground = grey(chance.choice([20, 50, 85]))

    def judge(answer: Answer) -> Judged:
        shown = (Area(box(150, 50, 170, 110), grey(lightness_of(patch))),) if coloured else ()
        return told("value", as_number(answer) - truth, allowed, shown, f"It is step {truth:.1f}:")

    marks = (Area(box(60, 20, 200, 140), ground), Area(box(105, 50, 150, 110), patch), *_ladder(18.0))
    prompt = "Which step of the scale is the patch? 1 is the darkest, 9 the lightest; halves count."
    return Question("value", prompt, "number", marks, judge, allowed, unit="step")


def lighter_question(chance: Random, allowed: float) -> Question:
    """A saturated colour beside a grey that is lighter or darker by as much as is allowed."""
    colour = _colour(chance)
    value, way = lightness_of(colour), chance.choice([-1, 1])
    if not 8 <= value + way * allowed <= 97:
        way = -way
    if not 8 <= value + way * allowed <= 97:
        return lighter_question(chance, allowed)
    other = grey(value + way * allowed)
    places = [box(30, 30, 110, 130), box(130, 30, 210, 130)]
    swapped = chance.random() < 0.5
    shown = (other, colour) if swapped else (colour, other)
    lighter = int(lightness_of(shown[1]) > lightness_of(shown[0]))

    def judge(answer: Answer) -> Judged:
        words = f"The {'left' if lighter == 0 else 'right'} one is lighter, by {allowed:.0f} L*."
        truth = tuple(Area(place, grey(lightness_of(rgb))) for place, rgb in zip(places, shown, strict=True))
        return Judged(None, answer == lighter, words, truth)

    marks = (Area(box(0, 0, WIDE, HIGH), MIDDLE), *(Area(p, rgb) for p, rgb in zip(places, shown, strict=True)))
    prompt = "Which of the two is lighter in value?"
    return Question("lighter", prompt, "choice", marks, judge, allowed, choices=tuple(places), unit="L*")


def lightest_three_question(chance: Random, allowed: float) -> Question:
    """Six patches, coloured and grey: the lightest three, the lightest first; they differ by what is allowed."""
    top = chance.uniform(70, 92)
    values = [top - k * allowed * (1.0 if k < 4 else 0.6) for k in range(6)]
    values = [max(6.0, value) for value in values]
    order = list(range(6))
    chance.shuffle(order)
    places = [box(16 + 74 * (k % 3), 10 + 74 * (k // 3), 76 + 74 * (k % 3), 70 + 74 * (k // 3)) for k in range(6)]
    shades = [_near(chance, values[rank]) for rank in order]
    rank_of = sorted(range(6), key=lambda place: -lightness_of(shades[place]))
    truth = tuple(rank_of[:3])

    def judge(answer: Answer) -> Judged:
        right = sum(a == b for a, b in zip(answer, truth, strict=False)) if isinstance(answer, tuple) else 0
        words = "All three." if right == 3 else f"{right} of three in their place; the others stand marked."
        ranks = tuple(
            Word(str(n + 1), (places[place][0][0] + 30, places[place][0][1] + 66)) for n, place in enumerate(truth)
        )
        plain = tuple(Area(place, grey(lightness_of(rgb))) for place, rgb in zip(places, shades, strict=True))
        return Judged(None, right == 3, words, (*plain, *ranks))

    marks = (Area(box(0, 0, WIDE, HIGH), MIDDLE), *(Area(p, rgb) for p, rgb in zip(places, shades, strict=True)))
    prompt = "Point at the lightest three, the lightest first."
    return Question(
        *("lightest three", prompt, "order", marks, judge, allowed), choices=tuple(places), count=3, unit="L*"
    )


def _near(chance: Random, value: float) -> Rgb:
    """A colour of about this L*; a grey where none is found soon."""
    for _ in range(60):
        found = _colour(chance)
        if abs(lightness_of(found) - value) < 1.0:
            return found
    return grey(value)
