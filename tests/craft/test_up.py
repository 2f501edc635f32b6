"""Which way is up, told by uprights and level edges together."""

from __future__ import annotations

from math import cos, radians, sin

import numpy as np
import pytest

from mild_compass.craft.perspective.up import uprights_point
from mild_compass.craft.perspective.vanishing import vanishing_point
from mild_compass.plan.perspective import EdgeSet, PerspectivePlan, TracedEdge

FOCAL, SIZE = 1200.0, (1500, 1000)
WAYS = {"level": ((sin(0.4), cos(0.4), 0.0), (cos(0.4), -sin(0.4), 0.0)), "upright": ((0.0, 0.0, 1.0),)}
MIDDLE = (SIZE[0] / 2, SIZE[1] / 2)


def seen(points, pitch_deg: float, centre=MIDDLE):
    """Scene points (n, 3), x right, y ahead, z up, before a tipped camera."""
    p = radians(pitch_deg)
    turn = np.array([[1, 0, 0], [0, sin(p), -cos(p)], [0, cos(p), sin(p)]])
    local = np.asarray(points, float) @ turn.T
    return local[:, :2] / local[:, 2:] * FOCAL + centre


def traced(seed: int, pitch_deg: float, error_px: float, centre=MIDDLE) -> PerspectivePlan:
    hand = np.random.default_rng(seed)
    sets = []
    for kind, ways in WAYS.items():
        for way in ways:
            edges = []
            for _ in range(4):
                start = np.array([hand.uniform(-4, 4), hand.uniform(9, 14), hand.uniform(-2, 2)])
                ends = seen(np.stack([start, start + 2.0 * np.array(way)]), pitch_deg, centre)
                edges.append(TracedEdge(*(ends + hand.normal(0, error_px, (2, 2))).ravel().tolist()))
            sets.append(EdgeSet("ABC"[len(sets)], kind=kind, edges=tuple(edges)))
    return PerspectivePlan(sets=tuple(sets))


def lean_deg(point, pitch_deg: float, centre=MIDDLE) -> float:
    """Between where the uprights are taken to run and where they do."""
    way = np.array([(point[0] - point[2] * centre[0]) / FOCAL, (point[1] - point[2] * centre[1]) / FOCAL, point[2]])
    up = np.array([0.0, -cos(radians(pitch_deg)), sin(radians(pitch_deg))])
    return float(np.degrees(np.arccos(min(1.0, abs(way @ up) / np.linalg.norm(way)))))


@pytest.mark.parametrize("pitch", [-12.0, 3.0, 20.0])
def test_without_error_the_point_is_the_true_one(pitch):
    assert lean_deg(uprights_point(traced(1, pitch, 0.0), FOCAL, MIDDLE), pitch) < 1e-4


def test_level_edges_make_short_uprights_tell_more():
    alone, together = [], []
    for seed in range(60):
        plan = traced(seed, 10.0, 1.5)
        alone.append(lean_deg(vanishing_point(plan.sets[2]).homogeneous, 10.0))
        together.append(lean_deg(uprights_point(plan, FOCAL, MIDDLE), 10.0))
    assert np.median(together) < 0.7 * np.median(alone)
    assert np.quantile(together, 0.95) < 0.7 * np.quantile(alone, 0.95)


def test_in_a_cropped_picture_level_edges_do_not_pull_the_uprights_off():
    aside = (MIDDLE[0], MIDDLE[1] + 220.0)  # the camera looked far below the middle of what is left
    plan = traced(3, 0.0, 0.3, aside)
    own = vanishing_point(plan.sets[2]).homogeneous
    assert uprights_point(plan, FOCAL, MIDDLE) == pytest.approx(own)
    assert lean_deg(uprights_point(plan, FOCAL, aside), 0.0, aside) < 0.2


def test_without_uprights_there_is_no_point():
    plan = traced(1, 5.0, 0.0)
    assert uprights_point(PerspectivePlan(sets=plan.sets[:2]), FOCAL, MIDDLE) is None
    only = PerspectivePlan(sets=plan.sets[2:])
    assert uprights_point(only, FOCAL, MIDDLE) == pytest.approx(vanishing_point(plan.sets[2]).homogeneous)
