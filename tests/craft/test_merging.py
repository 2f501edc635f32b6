"""The merging of small shapes against the rule carried out the slow way, one shape at a time."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage.measure import label

from mild_compass.craft.values.merging import without_small
from mild_compass.craft.values.shapes import shapes_of


def borders(marks: np.ndarray, number: int) -> dict[int, int]:
    """How many pixel sides a shape shares with each of the others."""
    shared: dict[int, int] = {}
    for a, b in ((marks[:, :-1], marks[:, 1:]), (marks[:-1], marks[1:])):
        for one, two in ((a, b), (b, a)):
            for other in two[(one == number) & (two != number)].tolist():
                shared[other] = shared.get(other, 0) + 1
    return shared


def slowly(steps: np.ndarray, smallest: float) -> np.ndarray:
    """The smallest shape first, to the neighbour with most border, then the nearer value, then the darker."""
    steps = steps.copy()
    while True:
        marks = label(steps, connectivity=1, background=-1)
        sizes = np.bincount(marks.ravel())[1:]
        if len(sizes) == 1 or sizes.min() >= smallest:
            return steps
        number = int(sizes.argmin()) + 1
        here = int(steps[marks == number][0])
        shared = borders(marks, number)
        value = {other: int(steps[marks == other][0]) for other in shared}
        target = min(shared, key=lambda k: (-shared[k], abs(value[k] - here), value[k]))
        steps[marks == number] = value[target]


@given(st.integers(0, 10_000), st.sampled_from([2, 3, 5.5]))
def test_merging_is_the_rule_carried_out_shape_by_shape(seed, smallest):
    """Maps in which no two shapes are of one small size, so that which goes first is never a matter of numbering."""
    rng = np.random.default_rng(seed)
    steps = np.repeat(np.repeat(rng.integers(0, 4, (3, 4), np.uint8), 6, 0), 6, 1)
    row, column = rng.integers(1, 16), rng.integers(1, 20)
    steps[row : row + 1, column : column + int(rng.integers(1, 4))] = rng.integers(0, 4)
    marks = label(steps, connectivity=1, background=-1)
    sizes = np.bincount(marks.ravel())[1:]
    if (sizes < smallest).sum() <= 1:
        assert (without_small(steps, smallest) == slowly(steps, smallest)).all()


@pytest.mark.parametrize(
    ("left", "right", "speck", "goes_to"),
    [(0, 3, 1, 0), (3, 0, 1, 0), (0, 5, 3, 5), (5, 0, 3, 5), (3, 1, 2, 1), (1, 3, 2, 1)],
)
def test_with_equal_borders_the_nearer_value_wins_and_at_equal_distance_the_darker(left, right, speck, goes_to):
    steps = np.full((5, 10), left, np.uint8)
    steps[:, 5:] = right
    steps[2, 4:6] = speck
    assert (without_small(steps, 3)[2, 4:6] == goes_to).all()


def test_a_shape_of_just_the_smallest_size_stays():
    steps = np.zeros((5, 5), np.uint8)
    steps[2, 1:4] = 1
    assert (without_small(steps, 3)[2, 1:4] == 1).all()
    assert (without_small(steps, 3.5) == 0).all()


def test_what_grows_together_is_judged_anew():
    """Two small neighbours of one value become one large enough to stay when the speck between them goes."""
    steps = np.zeros((5, 9), np.uint8)
    steps[2, 1:4], steps[1, 3:5], steps[2, 5:8] = 1, 1, 1
    steps[2, 4] = 2  # two sides on the shape to its left and above, one each on the ground and the shape to its right
    assert (without_small(steps, 9) == np.where(steps > 0, 1, 0)).all()
    assert (without_small(steps, 9.5) == 0).all()


def test_a_map_of_one_value_is_one_shape_and_stays():
    steps = np.full((4, 6), 2, np.uint8)
    shapes = shapes_of(steps)
    assert (shapes.labels() == 0).all()
    assert shapes.values.tolist() == [2]
    assert (without_small(steps, 1000) == 2).all()
