"""Difficulty follows the hand: two right in a row make it harder, one wrong makes it easier.

The transformed up-down method of H. Levitt, JASA 49, 1971: it settles where 70.7 % are right.
"""

from __future__ import annotations

from itertools import pairwise
from math import exp, log
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

FACTOR = 0.85  # of what is allowed, from one level to the next
EASIEST, HARDEST = 0, 24
FIRST_TURNS = 4  # that only find the neighbourhood


def levels(right: Iterable[bool]) -> list[int]:
    """The level of each answer, and last that of the next one; the first is asked at the easiest.

    Until the first wrong answer each right one makes it harder, so that the neighbourhood is found soon.
    """
    level, run, found = EASIEST, 0, False
    asked = [level]
    for hit in right:
        if not hit:
            level, run, found = level - 1, 0, True
        else:
            run += 1
            if run == 2 or not found:
                level, run = level + 1, 0
        level = min(max(level, EASIEST), HARDEST)
        asked.append(level)
    return asked


def allowed_at(level: int, easiest: float) -> float:
    """What is allowed, or how different two things are, at a level."""
    return easiest * FACTOR**level


def threshold(right: Sequence[bool], easiest: float) -> float | None:
    """Where 70.7 % are right: the geometric mean of what was allowed at the turns; None before there are enough."""
    asked = levels(right)[:-1]
    turns = [
        asked[place]
        for place, way in enumerate(_ways(asked))
        if way and way != next((each for each in reversed(_ways(asked)[:place]) if each), way)
    ]
    turns = turns[FIRST_TURNS:]
    if len(turns) < 2:
        return None
    turns = turns[len(turns) % 2 :]  # as many upper as lower ones
    return exp(sum(log(allowed_at(level, easiest)) for level in turns) / len(turns))


def _ways(asked: Sequence[int]) -> list[int]:
    """Up, down or stay from each level to the next."""
    return [(after > level) - (after < level) for level, after in pairwise(asked)]
