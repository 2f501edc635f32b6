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


@compiled
def neighbours_of(one: Numbers, other: Numbers, lengths: Lengths, count: int) -> Neighbours:
    """The neighbours of so many shapes, from pairs (m,) that touch and how long their border is."""
    halves = 2 * len(one)
    beyond, after, before = np.empty(halves, np.int64), np.empty(halves, np.int64), np.empty(halves, np.int64)
    none = np.full(count, NONE, np.int64)
    shapes = Neighbours(none.copy(), beyond, after, before, np.repeat(lengths, 2), none)
    for k in range(len(one) - 1, NONE, -1):
        _listed(shapes, 2 * k, one[k], other[k])
        _listed(shapes, 2 * k + 1, other[k], one[k])
    return shapes


@compiled
def _listed(shapes: Neighbours, half: int, shape: int, beyond: int) -> None:
    """Put a half at the front of a shape's list."""
    shapes.beyond[half], shapes.after[half], shapes.before[half] = beyond, shapes.first[shape], NONE
    if shapes.first[shape] != NONE:
        shapes.before[shapes.first[shape]] = half
    shapes.first[shape] = half


@compiled
def _unlisted(shapes: Neighbours, half: int, shape: int) -> None:
    after, before = shapes.after[half], shapes.before[half]
    if before == NONE:
        shapes.first[shape] = after
    else:
        shapes.after[before] = after
    if after != NONE:
        shapes.before[after] = before


@compiled
def around(shapes: Neighbours, shape: int) -> Numbers:
    """The halves in a shape's list."""
    count, half = 0, shapes.first[shape]
    while half != NONE:
        count, half = count + 1, shapes.after[half]
    found, half = np.empty(count, np.int64), shapes.first[shape]
    for k in range(count):
        found[k], half = half, shapes.after[half]
    return found


@compiled
def join(shapes: Neighbours, gone: int, kept: int) -> None:
    """Let one shape be part of another: borders with the same neighbour become one."""
    toward = shapes.toward
    for half in around(shapes, kept):
        toward[shapes.beyond[half]] = half
    for half in around(shapes, gone):
        beyond, twin = shapes.beyond[half], half ^ 1
        known = toward[beyond]
        if beyond == kept:
            _unlisted(shapes, twin, kept)
        elif known != NONE:
            _unlisted(shapes, twin, beyond)
            shapes.length[known] += shapes.length[half]
            shapes.length[known ^ 1] = shapes.length[known]
        else:
            shapes.beyond[twin] = kept
            _listed(shapes, half, kept, beyond)
    shapes.first[gone] = NONE
    toward[gone] = NONE
    for half in around(shapes, kept):
        toward[shapes.beyond[half]] = NONE
