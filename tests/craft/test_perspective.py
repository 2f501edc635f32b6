"""Vanishing points and horizon: known answers, other solvers, seeded trials, cameras that are known."""

from __future__ import annotations

from dataclasses import replace
from math import degrees, radians, tan

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.optimize import least_squares
from tests.conftest import cases

from mild_compass.craft.perspective.horizon import horizon_line
from mild_compass.craft.perspective.pins import pin_words
from mild_compass.craft.perspective.string_check import string_checks
from mild_compass.craft.perspective.vanishing import CHI2_95_TWO, NoPoint, VanishingPoint, vanishing_point
from mild_compass.craft.stations import readings_of
from mild_compass.craft.worked import worked_study
from mild_compass.demo.glasshouse import NAMES, camera, traced_edges
from mild_compass.plan.edits.base import with_study
from mild_compass.plan.edits.perspective import set_horizon, set_kind, trace_edge
from mild_compass.plan.paper import Paper
from mild_compass.plan.perspective import EdgeSet, Horizon, TracedEdge

NOON = "2026-05-01T12:00:00+02:00"


def toward(point: tuple[float, float], angles_deg: list[float], near: float = 300, far: float = 700) -> np.ndarray:
    """Segments (n, 2, 2) on lines through a point, at angles, between two distances from it."""
    angles = np.radians(angles_deg)
    way = np.stack([np.cos(angles), np.sin(angles)], -1)
    return np.array(point) + np.stack([near * way, far * way], 1)


def edge_set(segments: np.ndarray, letter: str = "A") -> EdgeSet:
    return EdgeSet(letter, edges=tuple(TracedEdge(*map(float, each.ravel())) for each in segments))


def fitted(segments: np.ndarray, sigma: float = 1.5) -> VanishingPoint:
    found = vanishing_point(edge_set(segments), sigma)
    assert isinstance(found, VanishingPoint)
    return found


@pytest.mark.parametrize("point", [(0, 0), (-4000, 350), (900, 600), (1200, -9000)])
def test_edges_through_one_point_give_that_point(point):
    found = fitted(toward(point, [10, 25, 40, 160], 500, 900))
    assert found.point_px == pytest.approx(point, abs=1e-3)
    assert np.abs(found.residuals_px).max() < 1e-6


def test_the_order_and_direction_of_tracing_do_not_matter():
    segments = toward((2500, 300), [170, 176, 185, 200])
    noisy = segments + np.random.default_rng(2).normal(0, 1, segments.shape)
    straight, backward = fitted(noisy), fitted(noisy[::-1, ::-1])
    assert straight.point_px == pytest.approx(backward.point_px, rel=1e-6)


def test_parallel_edges_meet_at_infinity_in_their_direction():
    way = np.array([np.cos(0.3), np.sin(0.3)])
    segments = np.array([[[0, k * 90.0], [0, k * 90.0] + 400 * way] for k in range(4)])
    found = fitted(segments)
    assert found.at_infinity
    assert found.point_px is None
    assert found.ellipse_px() is None
    assert abs(float(found.direction @ way)) == pytest.approx(1, abs=1e-6)


def test_nearly_parallel_edges_are_not_told_from_parallel_ones():
    segments = toward((4_000_000, 0), [179.999, 180.0, 180.001], 4_000_000 - 800, 4_000_000 - 200)
    assert fitted(segments).at_infinity


@pytest.mark.parametrize(
    ("segments", "words"),
    [
        (toward((0, 0), [10]), "one edge"),
        (np.array([[[0, 0], [100, 0]], [[200, 0], [300, 0]]], float), "one line"),
        (np.array([[[0, 0], [100, 0]], [[0, 0], [100, 0]]], float), "one line"),
    ],
)
def test_degenerate_sets_give_a_reason_and_not_a_point(segments, words):
    found = vanishing_point(edge_set(segments))
    assert isinstance(found, NoPoint)
    assert words in found.reason


def test_a_point_inside_the_picture_between_the_edges_is_found():
    segments = toward((600, 400), [0, 90, 180, 270], 50, 300)
    assert fitted(segments).point_px == pytest.approx((600, 400), abs=1e-6)


def test_one_bad_edge_among_five_is_named_and_left_out():
    segments = toward((3000, 200), [172, 176, 180, 184, 188])
    segments[2, 1] += (0, 60)
    found = fitted(segments)
    assert found.odd_one == 2
    assert found.point_px == pytest.approx((3000, 200), abs=1)


def test_good_edges_with_tracing_noise_are_not_accused():
    rng = np.random.default_rng(5)
    accused = 0
    for _ in range(60):
        segments = toward((3000, 200), [172, 176, 180, 184, 188, 192])
        accused += fitted(segments + rng.normal(0, 1.5, segments.shape)).odd_one is not None
    assert accused <= 2


def scipy_point(segments: np.ndarray) -> np.ndarray:
    """A plain nonlinear least squares: the point and one free line angle per edge, by SciPy."""
    middles = segments.mean(1)

    def misfit(unknowns: np.ndarray) -> np.ndarray:
        angles = unknowns[2:]
        normal = np.stack([-np.sin(angles), np.cos(angles)], -1)
        return (((segments - unknowns[:2]) * normal[:, None]).sum(-1)).ravel()

    start = fitted(segments).point_px
    assert start is not None
    way = middles - start
    return least_squares(misfit, [*start, *np.arctan2(way[:, 1], way[:, 0])], xtol=1e-14, ftol=1e-14).x[:2]


def test_the_point_is_the_least_squares_one_that_scipy_finds():
    rng = np.random.default_rng(8)
    for _ in range(20):
        segments = toward((1500, 250), [150, 165, 180, 195, 200, 210])
        noisy = segments + rng.normal(0, 1.0, segments.shape)
        found = fitted(noisy)
        if found.odd_one is None:
            assert found.point_px == pytest.approx(scipy_point(noisy), rel=1e-4)


def test_the_95_percent_ellipse_holds_the_truth_90_to_99_times_in_a_hundred():
    rng = np.random.default_rng(11)
    truth, inside = np.array([1600.0, 300.0]), 0
    clean = toward((1600, 300), [155, 165, 175, 185, 195, 205])
    for _ in range(tried := len(cases(1000, 300))):
        found = fitted(clean + rng.normal(0, 1.0, clean.shape), sigma=1.0)
        covariance, point = found.covariance_px2, found.point_px
        assert covariance is not None
        assert point is not None
        off = truth - point
        inside += float(off @ np.linalg.solve(covariance, off)) <= CHI2_95_TWO
    assert 0.90 <= inside / tried <= 0.99


def test_longer_tracing_error_widens_the_ellipse_in_proportion():
    segments = toward((1600, 300), [155, 170, 190, 205])
    one, two = fitted(segments, 1.0).covariance_px2, fitted(segments, 2.0).covariance_px2
    assert one is not None
    assert two == pytest.approx(4 * one)


def test_the_horizon_is_by_hand_if_set_level_through_one_point_and_a_line_through_two():
    left, right = fitted(toward((-800, 300), [-10, 0, 12])), fitted(toward((2600, 368), [170, 180, 195]))
    by_hand = horizon_line([left], Horizon(123))
    assert by_hand is not None
    assert (by_hand.source, by_hand.y_at(0), by_hand.tilt_deg) == ("hand", 123, 0)
    level = horizon_line([left], None)
    assert level is not None
    assert level.y_at(5000) == pytest.approx(300, abs=1e-3)
    line = horizon_line([left, right], None)
    assert line is not None
    assert line.y_at(-800) == pytest.approx(300, abs=1e-3)
    assert line.y_at(2600) == pytest.approx(368, abs=1e-3)
    assert line.tilt_deg == pytest.approx(degrees(np.arctan2(68, 3400)), abs=1e-3)
    assert horizon_line([], None) is None


def test_a_point_at_infinity_gives_the_horizon_its_direction():
    near = fitted(toward((700, 300), [20, 60, 120]))
    way = np.array([np.cos(0.1), np.sin(0.1)])
    far = fitted(np.array([[[0, k * 90.0], [0, k * 90.0] + 400 * way] for k in range(4)]))
    line = horizon_line([near, far], None)
    assert line is not None
    assert line.y_at(700) == pytest.approx(300, abs=1e-2)
    assert line.tilt_deg == pytest.approx(degrees(0.1), abs=1e-3)


def test_a_sharp_point_pulls_the_horizon_harder_than_a_vague_one():
    sharp = fitted(toward((-500, 300), [-25, 0, 25], 200, 900))
    other = fitted(toward((2500, 300), [155, 180, 205], 200, 900))
    vague = fitted(toward((1000, 400), [88, 90, 92], 500, 560))
    line = horizon_line([sharp, other, vague], None)
    assert line is not None
    assert abs(line.y_at(1000) - 300) < 10


def test_a_line_that_is_off_its_string_is_corrected_by_the_told_millimetres():
    """A line whose right end lies 2.5 mm below the string."""
    left, right = string_checks((0, 100), (200, 102.5), (1000, 100, 1))
    assert right.words == "raise its right end 2.5 mm"
    assert left.words == "lower its left end 3.1 mm"  # 2.5 mm at 800 mm from the point are 3.125 at 1000
    upper, lower = string_checks((50, 0), (51, 100), (50, 5000, 1))
    assert (upper.end, lower.end) == ("upper", "lower")
    assert lower.action == "move left"


@given(st.floats(-900, 900), st.floats(-900, 900), st.floats(-0.9, 0.9), st.floats(20, 400))
def test_moving_an_end_as_told_makes_the_line_run_true(vx, vy, slope, length):
    start, end = np.array([0.0, 0.0]), np.array([length, length * slope])
    assume(np.hypot(vx, vy) >= 30)
    check = string_checks(start, end, (vx, vy, 1))[1]
    normal = np.array([-vy, vx]) / np.hypot(vx, vy)  # square to the string from the start to the point
    corrected = end - np.sign(normal @ end) * abs(check.off_mm) * normal
    assert string_checks(start, corrected, (vx, vy, 1))[1].off_mm == pytest.approx(0, abs=1e-6)


def test_a_string_to_a_point_at_infinity_is_parallel():
    left, right = string_checks((0, 0), (100, 3), (1, 0, 0))
    assert right.off_mm == pytest.approx(3)
    assert left.off_mm == pytest.approx(-3)


@pytest.mark.parametrize(
    ("x", "y", "words"),
    [
        (-412, -6, "412.0 mm left of the paper, 6.0 mm above the top edge"),
        (500, 100, "80.0 mm right of the paper, 100.0 mm down from the top edge"),
        (120, 400, "120.0 mm from the left edge, 103.0 mm below the bottom edge"),
    ],
)
def test_a_pin_is_told_from_the_papers_own_edges(x, y, words):
    assert pin_words(x, y, Paper("A3", 420, 297)) == words


@pytest.mark.parametrize("name", NAMES)
def test_bench_edges_of_every_rendered_photo_meet_where_its_camera_says(name):
    """The camera is known, so the horizon and the point of the benches are facts."""
    view = camera(name)
    found = vanishing_point(EdgeSet("A", edges=traced_edges(view)))
    assert isinstance(found, VanishingPoint)
    covariance, point = found.covariance_px2, found.point_px
    assert covariance is not None
    assert point is not None
    off = np.array(view.benches_meet_px) - point
    assert float(off @ np.linalg.solve(covariance, off)) < 13.8  # 99.9 % of chi-square with 2 degrees of freedom
    horizon = horizon_line([found], None)
    assert horizon is not None
    assert horizon.y_at(0) == pytest.approx(view.horizon_y_px, abs=0.01 * 1200)


def test_the_known_cameras_agree_with_the_projection_written_out():
    """Horizon row of a level-rolled pinhole: centre row + f · tan(pitch), the pitch taken from its forward axis."""
    for name in NAMES:
        view = camera(name)
        pitch = np.arcsin(view.axes[2, 2])
        assert view.horizon_y_px == pytest.approx(600 + view.focal_px * tan(pitch))
        far = view.seen(np.array([[0.0, 1e7, 1.0]]))[0]
        assert far == pytest.approx(view.benches_meet_px, abs=0.01)
        assert view.focal_px == pytest.approx(900 / tan(radians(33)))


def test_readings_give_horizon_pins_and_strings_and_name_what_disagrees(plan):
    for segment in toward((-300, 150), [2, 8, 14, 20]):
        plan = trace_edge("A", TracedEdge(*map(float, segment.ravel()))).apply(plan, NOON)
    worked = worked_study(plan)
    assert worked is not None
    keys = [each.key for each in readings_of("perspective", worked)]
    assert {"horizon", "pin_A", "string_A1", "string_A4"} <= set(keys)
    pin = next(each for each in readings_of("perspective", worked) if each.key == "pin_A")
    assert "left of the paper" in pin.text
    expected = float(worked.frame_map.to_sheet((-300, 150))[0])
    assert pin.number == pytest.approx(expected, abs=0.5)

    wrong = set_horizon(Horizon(190)).apply(plan, NOON)
    worked = worked_study(wrong)
    assert worked is not None
    found = next(each for each in readings_of("perspective", worked) if each.key == "horizon_A")
    assert "above the horizon set by hand" in found.text
    assert found.remedy is not None
    assert found.remedy.change(wrong).study == plan.study


def test_upright_edges_do_not_make_a_horizon(plan):
    for segment in toward((300, 9000), [268, 270, 272], 8700, 8950):
        plan = trace_edge("A", TracedEdge(*map(float, segment.ravel()))).apply(plan, NOON)
    plan = set_kind("A", "upright").apply(plan, NOON)
    worked = worked_study(plan)
    assert worked is not None
    assert worked.perspective.horizon is None
    assert "No horizon yet" in readings_of("perspective", worked)[0].text


def test_a_horizon_at_half_height_is_called_stiff(plan):
    assert plan.study is not None
    middle = plan.study.frame.y_px + plan.study.frame.height_px / 2
    study = replace(plan.study, perspective=replace(plan.study.perspective, horizon=Horizon(middle)))
    worked = worked_study(with_study(plan, study))
    assert worked is not None
    assert readings_of("perspective", worked)[0].verdict == "look"
