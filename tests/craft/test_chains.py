"""Thin edges made into lines: nothing lost, nothing added, joined only where they go on."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mild_compass.craft.picture.chains import Crowded, chains_of, joined_chains, lengths
from mild_compass.craft.picture.line_drawing import gaussian_smoothed


def grid_of(points: list[tuple[int, int]], shape: tuple[int, int] = (24, 24)) -> np.ndarray:
    on = np.zeros(shape, bool)
    for x, y in points:
        on[y, x] = True
    return on


def test_a_straight_run_is_one_line_through_the_middles_of_its_pixels():
    (line,) = chains_of(grid_of([(x, 5) for x in range(3, 15)]))
    assert sorted(map(tuple, line[[0, -1]].tolist())) == [(3.5, 5.5), (14.5, 5.5)]
    assert lengths([line]) == pytest.approx([11])


def test_a_slanted_run_is_one_line_too():
    (line,) = chains_of(grid_of([(k, k) for k in range(2, 12)]))
    assert lengths([line]) == pytest.approx([9 * np.sqrt(2)])


def test_a_step_is_not_cut_across():
    """Where square steps lead round a corner the slanted one beside them is left out."""
    (line,) = chains_of(grid_of([(2, 2), (3, 2), (3, 3), (4, 3)]))
    assert lengths([line]) == pytest.approx([3])


def test_a_ring_is_closed_and_a_cross_has_four_arms():
    ring = [(x, y) for x in range(4, 15) for y in range(4, 15) if x in (4, 14) or y in (4, 14)]
    (line,) = chains_of(grid_of(ring))
    assert line[0] == pytest.approx(line[-1])
    assert lengths([line]) == pytest.approx([40])
    cross = [(12, y) for y in range(3, 22)] + [(x, 12) for x in range(3, 22)]
    assert len(chains_of(grid_of(cross))) == 4


@given(st.lists(st.tuples(st.integers(0, 23), st.integers(0, 23)), max_size=80))
def test_every_line_lies_on_pixels_that_are_on_and_single_ones_give_none(points):
    on = grid_of(points)
    covered = np.zeros_like(on)
    for line in chains_of(on):
        columns, rows = np.floor(line).astype(int).T
        assert on[rows, columns].all()
        covered[rows, columns] = True
    padded = np.pad(on, 1)
    neighbours = sum(
        padded[1 + dy : 25 + dy, 1 + dx : 25 + dx] for dy in (-1, 0, 1) for dx in (-1, 0, 1) if (dx, dy) != (0, 0)
    )
    assert (covered == (on & (neighbours > 0))).all()


@given(st.integers(0, 10_000))
def test_joining_never_loses_length(seed):
    hand = np.random.default_rng(seed)
    lines = []
    for _ in range(hand.integers(2, 9)):
        start, turn = hand.uniform(10, 90, 2), hand.uniform(0, 2 * np.pi)
        steps = np.arange(hand.integers(6, 30))[:, None] * np.array([np.cos(turn), np.sin(turn)])
        lines.append(start + steps)
    joined = joined_chains(lines, 9.0, 35.0)
    assert len(joined) <= len(lines)
    assert lengths(joined).sum() >= lengths(lines).sum() - 1e-6
    assert sum(map(len, joined)) >= sum(map(len, lines))


@pytest.mark.parametrize(
    ("second", "together"),
    [
        ([(25.0, 10.0), (45.0, 10.0)], True),  # straight on, across a gap of five
        ([(34.0, 10.0), (54.0, 10.0)], False),  # too far away
        ([(23.0, 13.0), (23.0, 33.0)], False),  # round a corner
        ([(24.0, 12.0), (42.0, 20.0)], True),  # a little bent
    ],
)
def test_lines_are_joined_only_where_they_go_on(second, together):
    first = np.stack([np.linspace(0, 20, 21), np.full(21, 10.0)], 1)
    a, b = np.array(second)
    other = a + np.linspace(0, 1, 21)[:, None] * (b - a)
    assert (len(joined_chains([first, other], 9.0, 35.0)) == 1) is together


@pytest.mark.parametrize(("gap", "bend_deg", "together"), [(4.0, 0.0, True), (16.0, 0.0, False), (4.0, 30.0, False)])
def test_in_a_crowd_only_near_ends_that_go_straight_on_are_joined(gap, bend_deg, together):
    first = np.stack([np.linspace(0, 20, 21), np.full(21, 30.0)], 1)
    way = np.array([np.cos(np.radians(bend_deg)), np.sin(np.radians(bend_deg))])
    other = np.array([20 + gap, 30.0]) + np.linspace(0, 20, 21)[:, None] * way
    crowd = np.ones((60, 60), bool)
    assert (len(joined_chains([first, other], 18.0, 35.0, Crowded(crowd, 9.0, 25.0))) == 1) is together
    assert len(joined_chains([first, other], 18.0, 35.0, Crowded(~crowd, 9.0, 25.0))) == 1


def test_an_end_is_joined_once_and_to_the_straightest():
    first = np.stack([np.linspace(0, 20, 21), np.full(21, 10.0)], 1)
    straight = np.stack([np.linspace(22, 40, 19), np.full(19, 10.0)], 1)
    bent = np.stack([np.linspace(22, 36, 15), np.linspace(10.5, 17.5, 15)], 1)
    joined = joined_chains([first, bent, straight], 9.0, 35.0)
    assert len(joined) == 2
    longest = max(joined, key=lambda line: np.ptp(line[:, 0]))
    assert np.ptp(longest[:, 1]) == pytest.approx(0)


@given(st.integers(5, 60), st.integers(0, 1000))
def test_easing_keeps_the_ends_and_stays_near_the_line(count, seed):
    hand = np.random.default_rng(seed)
    line = np.stack([np.arange(count, dtype=float), hand.integers(0, 2, count).astype(float)], 1)
    smooth = gaussian_smoothed(line)
    assert smooth.shape == line.shape
    assert smooth[0] == pytest.approx(line[0])
    assert smooth[-1] == pytest.approx(line[-1])
    assert np.abs(smooth - line).max() <= 1.2
    assert np.abs(np.diff(smooth[:, 1])).sum() <= np.abs(np.diff(line[:, 1])).sum() + 1e-9
