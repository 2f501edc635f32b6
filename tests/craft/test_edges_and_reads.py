"""Straight edges found and snapped in made pictures and rendered photographs; reads of made pictures."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mild_compass.craft.armature.tracing import found_big_lines, snapped_to_edge, traced_line
from mild_compass.craft.picture.edges import edge_under, found_lines, joined, steps_across
from mild_compass.craft.picture.load import Picture, read_proxy
from mild_compass.craft.values.reads import APART, reads_of
from mild_compass.demo.glasshouse import BACK_EDGES, PHOTOS, camera
from mild_compass.plan.paper import Paper
from mild_compass.plan.study import Frame


def edge_picture(angle_deg: float, through=(200.0, 150.0), noise: float = 0.0) -> np.ndarray:
    """400 x 300 of L*, dark on one side of a straight edge and light on the other, smooth as a lens makes it."""
    y, x = np.mgrid[:300, :400] + 0.5
    normal = np.array([-np.sin(np.radians(angle_deg)), np.cos(np.radians(angle_deg))])
    off = (x - through[0]) * normal[0] + (y - through[1]) * normal[1]
    values = 50 + 20 * np.tanh(off)
    return (values + np.random.default_rng(1).normal(0, noise, values.shape)).astype(np.float32)


def off_edge(ends: np.ndarray, angle_deg: float, through=(200.0, 150.0)) -> np.ndarray:
    normal = np.array([-np.sin(np.radians(angle_deg)), np.cos(np.radians(angle_deg))])
    return np.abs((ends - through) @ normal)


@given(st.floats(0, 180), st.floats(-4, 4), st.floats(-4, 4))
def test_a_line_traced_near_an_edge_is_laid_onto_it(angle, first, second):
    way = np.array([np.cos(np.radians(angle)), np.sin(np.radians(angle))])
    square = np.array([-way[1], way[0]])
    traced = np.array([(200, 150) - 100 * way + first * square, (200, 150) + 100 * way + second * square])
    found = edge_under(edge_picture(angle, noise=1.0), traced, 8.0)
    assert found is not None
    assert off_edge(found, angle).max() < 0.6
    assert np.abs((found - traced) @ way).max() < 0.3  # the ends keep their place along the line


def test_where_there_is_no_edge_nothing_is_snapped_to():
    flat = np.full((300, 400), 50, np.float32)
    assert edge_under(flat, np.array([[50.0, 50.0], [300.0, 200.0]]), 8.0) is None
    assert edge_under(edge_picture(0), np.array([[50.0, 50.0], [52.0, 50.0]]), 8.0) is None


def test_the_step_across_an_edge_is_its_contrast():
    line = np.array([[[20.0, 150.0], [380.0, 150.0]]])
    assert steps_across(edge_picture(0), line)[0] == pytest.approx(40, abs=1)
    assert steps_across(np.full((300, 400), 30, np.float32), line)[0] == 0
    assert len(steps_across(edge_picture(0), np.zeros((0, 2, 2)))) == 0


def test_the_longest_edges_of_a_made_picture_are_found_and_the_strong_come_first():
    values = np.full((600, 900), 50, np.float32)
    values[:, 300:] += 30  # an upright, strong
    values[400:, :] -= 8  # a level, weak
    lines, steps = found_lines(values)
    # Each edge comes out at least once, within two pixels of where it is.
    strong = lines[0]
    assert np.abs(strong[:, 0] - 300).max() < 2
    assert np.ptp(strong[:, 1]) > 380
    assert any(np.abs(line[:, 1] - 400).max() < 2 and np.ptp(line[:, 0]) > 280 for line in lines)
    assert steps[0] == pytest.approx(30, abs=2)


def test_pieces_of_one_edge_are_joined_across_a_gap_and_others_are_not():
    pieces = np.array([[[0, 0], [100, 0]], [[110, 0.5], [180, 0.5]], [[0, 20], [90, 20]], [[300, 0], [380, 0]]], float)
    lines = joined(pieces, 20.0)
    assert len(lines) == 3
    assert np.ptp(lines[0][:, 0]) == pytest.approx(180, abs=0.1)


@pytest.mark.parametrize("shape", [(1, 1), (1, 500), (5, 5), (300, 400)])
def test_pictures_without_an_edge_have_no_big_lines(shape):
    assert len(found_lines(np.full(shape, 40, np.float32))[0]) == 0


def test_edges_of_a_rendered_photo_lie_where_its_known_camera_puts_them():
    """The left edge of the path, projected by the camera: a long found line runs along it."""
    name = "glasshouse-good"
    picture = read_proxy((PHOTOS / f"{name}.jpg").read_bytes(), name)
    found = found_big_lines(picture, Frame(0, 0, 1800, 1200), Paper("x", 330, 230, 15))
    assert 20 <= len(found) <= 60
    x, z, near, far = BACK_EDGES[2]
    true = camera(name).seen(np.array([[x, near, z], [x, far, z]]))
    way = (true[1] - true[0]) / np.hypot(*(true[1] - true[0]))
    square = np.array([-way[1], way[0]])
    ends = np.array([[[line.x0_px, line.y0_px], [line.x1_px, line.y1_px]] for line in found])
    off = np.abs((ends - true[0]) @ square).max(1)
    long = np.hypot(*(ends[:, 1] - ends[:, 0]).T) > 200
    assert (off[long] < 8).any()


def test_snapping_works_on_the_photos_own_pixels():
    values = edge_picture(30)
    grey = np.clip(values * 2.55, 0, 255).astype(np.uint8)
    picture = Picture(np.repeat(grey[..., None], 3, 2), 800, 600)  # the photo is twice as large as what is at hand
    way = np.array([np.cos(np.radians(30)), np.sin(np.radians(30))])
    traced = [tuple((400, 300) - 150 * way + (0, 5)), tuple((400, 300) + 150 * way + (0, 5))]
    ends = np.array(snapped_to_edge(picture, traced, 20.0))
    assert off_edge(ends, 30, (400, 300)).max() < 1.5
    assert traced_line(picture, ends, "the jetty").contrast > 20


# -- reads ----------------------------------------------------------------------------------------------------


@given(st.floats(0.15, 0.85), st.floats(0.15, 0.85))
def test_the_one_strong_contrast_is_the_first_read_wherever_it_is(x, y):
    """Within 3 % of the diagonal."""
    values = np.full((300, 400), 55, np.float32)
    cv2.circle(values, (round(x * 400), round(y * 300)), 10, 95.0, -1)
    first = reads_of(values)[0]
    assert np.hypot((first.x - x) * 400, (first.y - y) * 300) < 0.03 * 500
    assert first.strength == 1


def test_lowering_the_strongest_contrast_moves_the_first_read():
    values = np.full((300, 400), 55, np.float32)
    cv2.circle(values, (100, 100), 12, 95.0, -1)
    cv2.circle(values, (300, 200), 12, 85.0, -1)
    assert reads_of(values)[0].x < 0.5
    assert reads_of(values)[1].strength < 1
    cv2.circle(values, (100, 100), 12, 60.0, -1)
    assert reads_of(values)[0].x > 0.5


def test_reads_keep_their_distance_and_a_plain_picture_has_none():
    values = np.random.default_rng(3).uniform(20, 80, (240, 320)).astype(np.float32)
    reads = reads_of(values)
    assert len(reads) == 3
    for number, one in enumerate(reads):
        for other in reads[:number]:
            assert np.hypot((one.x - other.x) * 320, (one.y - other.y) * 240) > APART * 400 - 2
    assert reads_of(np.full((50, 70), 40, np.float32)) == []
    assert reads_of(np.full((1, 1), 40, np.float32)) == []
