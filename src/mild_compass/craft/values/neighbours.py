"""Which shapes touch which, while they are joined one with another.

A border between two shapes is two halves, 2k and 2k + 1, each in the list of the shape it belongs to: a half tells the
shape beyond, its length, and the halves after and before it in that list.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from mild_compass.craft.compiled import compiled

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Numbers = NDArray[np.int64]
    Lengths = NDArray[np.float64]

NONE = -1


class Neighbours(NamedTuple):
    """The first half in each shape's list (n,); of each half (2 m,) the shape beyond, the halves after and before it,
    and its length; and room to work in (n,), NONE everywhere."""

    first: Numbers
    beyond: Numbers
    after: Numbers
    before: Numbers
    length: Lengths
    toward: Numbers


# The loops take the arrays one by one: to take them out of the tuple again and again would count as using them.


@compiled
def neighbours_of(one: Numbers, other: Numbers, lengths: Lengths, count: int) -> Neighbours:
    """The neighbours of so many shapes, from pairs (m,) that touch and how long their border is."""
    halves = 2 * len(one)
    beyond, after, before = np.empty(halves, np.int64), np.empty(halves, np.int64), np.empty(halves, np.int64)
    first = np.full(count, NONE, np.int64)
    for k in range(len(one) - 1, NONE, -1):
        for half, shape, there in ((2 * k, one[k], other[k]), (2 * k + 1, other[k], one[k])):
            beyond[half] = there
            _list(first, after, before, half, shape)
    return Neighbours(first, beyond, after, before, np.repeat(lengths, 2), np.full(count, NONE, np.int64))


@compiled
def _list(first: Numbers, after: Numbers, before: Numbers, half: int, shape: int) -> None:
    """Put a half at the front of a shape's list."""
    after[half], before[half] = first[shape], NONE
    if first[shape] != NONE:
        before[first[shape]] = half
    first[shape] = half


@compiled
def _unlist(first: Numbers, after: Numbers, before: Numbers, half: int, shape: int) -> None:
    if before[half] == NONE:
        first[shape] = after[half]
    else:
        after[before[half]] = after[half]
    if after[half] != NONE:
        before[after[half]] = before[half]


@compiled
def join(shapes: Neighbours, gone: int, kept: int) -> None:
    """Let one shape be part of another: borders with the same neighbour become one."""
    first, beyond, after, before, length, toward = shapes
    _point(first, beyond, after, toward, kept, True)
    half = first[gone]
    while half != NONE:
        there, next_, known = beyond[half], after[half], toward[beyond[half]]
        if there == kept:
            _unlist(first, after, before, half ^ 1, kept)
        elif known != NONE:
            _unlist(first, after, before, half ^ 1, there)
            length[known] += length[half]
            length[known ^ 1] = length[known]
        else:
            beyond[half ^ 1] = kept
            _list(first, after, before, half, kept)
        half = next_
    first[gone] = toward[gone] = NONE
    _point(first, beyond, after, toward, kept, False)


@compiled
def _point(first: Numbers, beyond: Numbers, after: Numbers, toward: Numbers, shape: int, there: bool) -> None:
    """Note at each neighbour of a shape the half that leads there, or no more."""
    half = first[shape]
    while half != NONE:
        toward[beyond[half]] = half if there else NONE
        half = after[half]


@compiled
def around(shapes: Neighbours, shape: int) -> Numbers:
    """The halves in a shape's list."""
    first, _, after, _, _, _ = shapes
    count, half = 0, first[shape]
    while half != NONE:
        count, half = count + 1, after[half]
    found, half = np.empty(count, np.int64), first[shape]
    for k in range(count):
        found[k], half = half, after[half]
    return found
