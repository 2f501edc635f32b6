"""The eye as a camera at its limits, the spread of a vanishing point, and chance counted by hand."""

from __future__ import annotations

from dataclasses import replace
from math import cos, radians, sin, tan

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.craft.test_camera import CENTRE, camera
from tests.craft.test_perspective import edge_set, fitted, toward

from mild_compass.craft.armature.chance import MOST_APART, SAME_FRAME, Bench, Moves, trials
from mild_compass.craft.armature.lock_in import CHANCES, HIGH_SCALE, LOW_SCALE, OVERSHOOT, SHIFT, Marks, Tolerance
from mild_compass.craft.geometry.lines import Box
from mild_compass.craft.perspective.camera import NEAR_M, USUAL_FOCAL, Focal, camera_of, guessed_focal
from mild_compass.craft.perspective.horizon import HorizonLine
from mild_compass.craft.perspective.vanishing import NoPoint, VanishingPoint, vanishing_point

LEVEL = camera()


# -- the camera -----------------------------------------------------------------------------------------------


def test_the_axis_of_a_level_camera_meets_the_middle_and_the_ground_lies_below_the_horizon():
    """By similar triangles: at distance d the ground is f·eye/d under the horizon."""
    seen = LEVEL.seen([[0, 10, 1.6], [0, 10, 0], [2, 10, 0], [-2, 5, 1.6]])
    assert seen == pytest.approx(np.array([[900, 600], [900, 824], [1180, 824], [340, 600]]))


def test_what_lies_nearer_than_two_centimetres_or_behind_is_not_seen():
    seen = LEVEL.seen([[0, NEAR_M * 1.5, 1.6], [0, NEAR_M / 2, 1.6], [0, -3, 1.6]])
    assert np.isfinite(seen[0]).all()
    assert np.isnan(seen[1:]).all()


def test_a_line_that_comes_from_behind_is_cut_before_the_eye_and_keeps_its_far_end():
    lines = np.array(
        [[[1.0, -4, 0], [1, 6, 0]], [[1, 6, 0], [1, -4, 0]], [[0, -1, 0], [0, -2, 0]], [[0, 1, 0], [0, 2, 0]]]
    )
    kept = LEVEL.in_front(lines)
    assert len(kept) == 3
    assert kept[0] == pytest.approx(np.array([[1, 2 * NEAR_M, 0], [1, 6, 0]]))
    assert kept[1] == pytest.approx(kept[0][::-1])
    assert kept[2] == pytest.approx(lines[3])


def test_points_on_the_ground_are_where_their_angle_below_the_horizon_says():
    ground = LEVEL.on_ground([[900, 824], [1180, 824], [900, 600], [900, 300]])
    assert ground[:2] == pytest.approx(np.array([[0, 10, 0], [2, 10, 0]]))
    assert np.isnan(ground[2:]).all()
    table = LEVEL.on_ground([[900, 712]], 0.8)
    assert table[0] == pytest.approx([0, 10, 0.8])
    assert np.isnan(LEVEL.on_ground([[900, 712]], 2.0)).all()


@given(st.floats(-25, 25), st.floats(-10, 10), st.floats(0, 1800), st.floats(0, 1200))
def test_the_quick_way_to_the_ground_is_the_way_of_many(pitch, roll, x, y):
    tipped = camera(pitch, roll)
    assert tipped.ground_of((x, y)) == pytest.approx(tipped.on_ground([[x, y]])[0], nan_ok=True, rel=1e-9)


def test_heights_follow_from_foot_and_top_and_there_is_none_above_the_horizon():
    assert LEVEL.height_of((900, 824), (900, 600)) == pytest.approx(1.6)
    assert LEVEL.height_of((900, 824), (900, 712)) == pytest.approx(0.8)
    assert LEVEL.height_of((1180, 824), (1180, 544)) == pytest.approx(2.0)
    assert np.isnan(LEVEL.height_of((900, 500), (900, 400)))


@given(st.floats(-20, 20), st.floats(-4, 4), st.floats(4, 20), st.floats(0.2, 3))
def test_a_height_seen_is_the_height_measured_back(pitch, x, y, height):
    tipped = camera(pitch)
    foot, top = tipped.seen([[x, y, 0], [x, y, height]])
    assert tipped.height_of(foot, top) == pytest.approx(height, rel=1e-6)


@given(st.floats(-40, 40), st.floats(-30, 30))
def test_a_camera_stands_at_right_angles_and_looks_up_where_it_is_tipped_up(pitch, roll):
    axes = camera(pitch, roll).axes
    assert axes @ axes.T == pytest.approx(np.eye(3), abs=1e-9)
    assert np.linalg.det(axes) == pytest.approx(1)
    assert axes[2, 2] == pytest.approx(sin(radians(pitch)), abs=1e-9)
    assert axes[1, 2] < 0


def test_a_camera_that_looks_straight_down_sees_north_at_the_top():
    """The horizon is then at infinity, everywhere below: up is against the line of sight."""
    down = camera_of(HorizonLine(np.array([0.0, 0.0, 1.0]), "hand"), Focal(1000, "hand"), (0.0, 0.0), 2.0)
    assert abs(down.axes[2, 2]) == pytest.approx(1)
    assert down.axes @ down.axes.T == pytest.approx(np.eye(3), abs=1e-9)


def test_the_vanishing_point_of_a_direction_is_where_far_things_lie():
    tipped = camera(8, 3)
    for direction in ([0, 1, 0], [1, 2, 0], [-1, 3, 0.5]):
        x, y, w = tipped.direction_px(direction)
        assert (x / w, y / w) == pytest.approx(tipped.seen([np.array(direction) * 1e9])[0], rel=1e-6)


def test_a_guessed_focal_length_is_that_of_a_phone_over_the_longer_side():
    assert guessed_focal(4000, 3000) == Focal(USUAL_FOCAL * 4000, "guess")
    assert guessed_focal(3000, 4000).px == guessed_focal(4000, 3000).px
    # 28 mm on a frame 36 mm wide: what phones' main lenses are, rounded.
    assert pytest.approx(28 / 36, abs=0.005) == USUAL_FOCAL


# -- the spread of a vanishing point --------------------------------------------------------------------------


def test_the_spread_of_a_point_is_that_of_many_noisy_tracings():
    """Against 400 seeded trials: the standard deviation along and across the edges, within a fifth."""
    true = toward((2500.0, 300.0), [168, 174, 181, 188], 1200, 2200)
    rng = np.random.default_rng(11)
    found = np.array([fitted(true + rng.normal(0, 1.5, true.shape)).point_px for _ in range(400)])
    told = np.sqrt(np.diag(fitted(true).covariance_px2))
    assert told == pytest.approx(np.std(found, axis=0), rel=0.2)


def test_a_point_is_at_infinity_when_twice_its_spread_reaches_there():
    point = fitted(toward((6000.0, 300.0), [170, 180, 190], 5000, 5800), 1.0)
    spread = float(np.sqrt(point.tangent[:, 2] @ point.spread @ point.tangent[:, 2]))
    grown = point.spread * (point.sphere[2] / (2 * spread)) ** 2
    assert not replace(point, spread=grown * 0.98).at_infinity
    assert replace(point, spread=grown * 1.02).at_infinity


def test_the_ellipse_lies_at_the_mahalanobis_distance_of_95_in_100():
    point = fitted(toward((2500.0, 300.0), [168, 174, 181, 188], 1200, 2200))
    off = point.ellipse_px(40) - point.point_px
    distance = np.einsum("ni,ij,nj->n", off, np.linalg.inv(point.covariance_px2), off)
    assert distance == pytest.approx(5.99146, rel=1e-4)  # chi-square, two degrees of freedom, any table
    assert len(off) == 40


@pytest.mark.parametrize(("offset", "told"), [(2.0, None), (40.0, 3)])
def test_an_edge_is_disowned_only_when_it_is_far_off(offset, told):
    edges = toward((2500.0, 300.0), [168, 174, 181, 188, 194], 1200, 2200)
    edges[3, 0, 1] += offset
    assert fitted(edges).odd_one == told


def test_of_three_edges_none_is_disowned_and_of_edges_all_askew_neither():
    edges = toward((2500.0, 300.0), [168, 174, 188], 1200, 2200)
    edges[1, 0, 1] += 60
    assert fitted(edges).odd_one is None
    rng = np.random.default_rng(4)
    wild = rng.uniform(0, 1000, (6, 2, 2))
    assert fitted(wild).odd_one is None


def test_residuals_are_distances_of_the_ends_from_the_line_through_the_point():
    edges = toward((2500.0, 300.0), [170, 180, 190], 1200, 2200)
    edges[1, :, 1] += (3.0, -3.0)
    found = fitted(edges)
    vx, vy = found.point_px
    for edge, told in zip(edges, found.residuals_px, strict=True):
        ends = edge - (vx, vy)
        least = np.linalg.svd(ends, compute_uv=False)[-1]
        assert abs(told) == pytest.approx(least, abs=1e-6)


def test_one_edge_and_edges_on_one_line_give_the_reason():
    assert isinstance(vanishing_point(edge_set(np.array([[[0.0, 0], [10, 0]]]))), NoPoint)
    on_one = np.array([[[0.0, 0], [100, 0]], [[200, 0.3], [300, 0.2]]])
    assert isinstance(vanishing_point(edge_set(on_one)), NoPoint)
    assert isinstance(vanishing_point(edge_set(np.add(on_one, [[[0, 0], [0, 0]], [[0, 40], [0, 30]]]))), VanishingPoint)


# -- chance ---------------------------------------------------------------------------------------------------

BOX = Box(0, 0, 200, 100)
LEVEL_LINE = np.array([[[0.0, 50], [200, 50]]])


def test_random_frames_lie_in_their_range_none_is_the_true_one_and_there_are_as_many_as_asked():
    moves = Moves.random(500, 3, 0.06)
    assert moves.shifts.shape == (500, 2)
    assert np.abs(moves.shifts).max() <= SHIFT
    assert moves.scales.min() >= LOW_SCALE
    assert moves.scales.max() <= HIGH_SCALE
    assert (np.abs(moves.shifts).max(1) + np.abs(moves.scales - 1) / 2 >= 0.06).all()
    assert len(Moves.random().scales) == CHANCES


def test_a_point_is_seen_from_a_frame_shifted_right_further_left_and_from_a_larger_one_nearer_the_middle():
    moves = Moves(np.array([[0.1, 0.0], [0.0, -0.1], [0.0, 0.0]]), np.array([1.0, 1.0, 2.0]))
    seen = moves.seen(np.array([[150.0, 80.0]]), BOX)
    assert seen[:, 0] == pytest.approx(np.array([[130, 80], [150, 90], [125, 65]]))


def test_p_counts_the_frames_that_do_as_well_and_the_true_one_with_them():
    """One level line on the middle line: a frame does as well just when its middle comes within the tolerance."""
    marks = Marks(np.array([[[20.0, 50], [180, 50]]]), np.ones(1), np.zeros((0, 2)))
    tolerance = Tolerance(2.0, 3.0)
    found = trials(marks, {"halves": LEVEL_LINE}, BOX, tolerance, 200, 7)[0]
    moves = Moves.random(200, 7, min(SAME_FRAME * 2.0 / 100, MOST_APART))
    as_well = (np.abs(moves.shifts[:, 1] * 100 / moves.scales) <= 2.0).sum()
    assert found.p == pytest.approx((1 + as_well) / 201)
    assert found.chance_mean == pytest.approx(as_well / 200)
    assert found.locked.score == pytest.approx(1.0)


@pytest.mark.parametrize(("past", "locks"), [(OVERSHOOT * 2 - 0.1, 1.0), (OVERSHOOT * 2 + 0.1, 0.0)])
@pytest.mark.parametrize("end", ["start", "end"])
def test_a_line_may_lie_three_tolerances_past_the_end_of_an_armature_line(past, locks, end):
    short = np.array([[[80.0, 50], [120, 50]]])
    middle = 120 + past if end == "end" else 80 - past
    marks = Marks(np.array([[[middle - 10, 50.0], [middle + 10, 50]]]), np.ones(1), np.zeros((0, 2)))
    scores = Bench(marks, {"halves": short}, BOX, Tolerance(2.0, 3.0)).scores(Moves(np.zeros((1, 2)), np.ones(1)))
    assert scores[0, 0] == pytest.approx(locks)


@pytest.mark.parametrize(("angle_deg", "locks"), [(2.9, 1.0), (3.1, 0.0)])
def test_a_line_locks_up_to_its_angle(angle_deg, locks):
    rise = 10 * tan(radians(angle_deg))
    marks = Marks(np.array([[[90.0, 50 - rise], [110, 50 + rise]]]), np.ones(1), np.zeros((0, 2)))
    scores = Bench(marks, {"halves": LEVEL_LINE}, BOX, Tolerance(2.0, 3.0)).scores(Moves(np.zeros((1, 2)), np.ones(1)))
    assert scores[0, 0] == pytest.approx(locks)


@pytest.mark.parametrize(("off", "locks"), [((0, 1.9), 1.0), ((0, 2.1), 0.0), ((21.9, 0), 1.0), ((22.1, 0), 0.0)])
def test_a_point_locks_within_the_tolerance_of_a_line_or_of_its_end(off, locks):
    short = np.array([[[80.0, 50], [120, 50]]])
    marks = Marks(np.zeros((0, 2, 2)), np.zeros(0), np.array([[100.0 + off[0], 50 + off[1]]]))
    scores = Bench(marks, {"halves": short}, BOX, Tolerance(2.0, 3.0)).scores(Moves(np.zeros((1, 2)), np.ones(1)))
    assert scores[0, 0] == pytest.approx(locks)


def test_equal_chances_are_ordered_by_what_locks_and_nothing_gives_no_trial():
    marks = Marks(np.array([[[20.0, 50], [180, 50]], [[100, 10], [100, 90]]]), np.ones(2), np.zeros((0, 2)))
    both = np.array([[[0.0, 50], [200, 50]], [[100, 0], [100, 100]]])
    order = [
        each.construction
        for each in trials(marks, {"halves": LEVEL_LINE, "thirds": both}, BOX, Tolerance(2.0, 3.0), 50)
    ]
    assert order[0] == "thirds"
    assert (
        trials(Marks(np.zeros((0, 2, 2)), np.zeros(0), np.zeros((0, 2))), {"halves": both}, BOX, Tolerance(2, 3)) == []
    )
    assert trials(marks, {}, BOX, Tolerance(2, 3)) == []


def test_the_camera_keeps_the_middle_it_was_given():
    assert LEVEL.centre_px == CENTRE
    assert LEVEL.rays([CENTRE])[0] == pytest.approx([0, cos(0), 0])
