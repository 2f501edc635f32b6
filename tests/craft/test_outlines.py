"""Outlines of masses as curves: true to rendered shapes, shared to the bit, never crossing, few corners."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
import shapely
from tests.craft.test_hierarchy import PHOTOGRAPHS, THREE, photo, taken

from mild_compass.craft.values.drawn import flowing, painted
from mild_compass.craft.values.masses import find_masses
from mild_compass.craft.values.outlines import MassShapes, mass_shapes
from mild_compass.craft.values.shapes import shapes_of
from mild_compass.craft.values.tracing import LevelCrossing, chains_of_labels

SIDE, FINE = 200, 16
ROUND_PX = 3.6


def ellipse(a: float, b: float, turn: float) -> np.ndarray:
    t = np.linspace(0, 2 * np.pi, 1500)
    x, y = a * np.cos(t), b * np.sin(t)
    return np.stack([100.3 + x * np.cos(turn) - y * np.sin(turn), 99.6 + x * np.sin(turn) + y * np.cos(turn)], 1)


def star(points: int, outer: float, inner: float, turn: float) -> np.ndarray:
    t = turn + np.arange(2 * points) * np.pi / points
    r = np.where(np.arange(2 * points) % 2 == 0, outer, inner)
    return np.stack([100.2 + r * np.cos(t), 100.4 + r * np.sin(t)], 1)


def rendered(outline: np.ndarray) -> np.ndarray:
    """L* of a light shape on dark, each pixel by how much of it is covered."""
    fine = np.zeros((SIDE * FINE, SIDE * FINE), np.uint8)
    # Filled from the middles of fine pixels; half of one is what the filling adds all round.
    cv2.fillPoly(fine, [np.round((outline * FINE - 0.5) * 256).astype(np.int32)], 1, shift=8)
    return (20 + 60 * fine.reshape(SIDE, FINE, SIDE, FINE).mean((1, 3))).astype(np.float32)


def drawn(lightness: np.ndarray) -> tuple[MassShapes, shapely.Polygon]:
    steps = (lightness > 50).astype(np.uint8)
    shapes = mass_shapes(steps, ROUND_PX, LevelCrossing(lightness, steps, (20.0, 80.0)))
    return shapes, shapes.polygons[shapes.values == 1][0]


def turns_deg(line: np.ndarray) -> np.ndarray:
    way = np.diff(line, axis=0)
    angle = np.arctan2(way[:, 1], way[:, 0])
    return np.degrees(np.abs((np.diff(angle) + np.pi) % (2 * np.pi) - np.pi))


SHAPES = {
    "circle": (ellipse(60, 60, 0), 0),
    "small circle": (ellipse(12, 12, 0), 0),
    "ellipse": (ellipse(70, 30, 0.4), 0),
    "square": (star(2, 70, 70, 0.3), 4),
    "upright square": (np.array([[40.2, 40.3], [150.4, 40.3], [150.4, 150.1], [40.2, 150.1]]), 4),
    "star": (star(8, 85, 50, 0.1), 16),
}


@pytest.mark.parametrize("name", SHAPES)
def test_a_rendered_shape_comes_out_within_a_fifth_of_a_pixel_and_keeps_its_corners(name):
    outline, corners = SHAPES[name]
    _, found = drawn(rendered(outline))
    true = shapely.LinearRing(outline)
    for one, other in ((found.exterior, true), (true, found.exterior)):
        points = shapely.points(shapely.get_coordinates(shapely.segmentize(one, 0.5)))
        assert float(shapely.distance(other, points).max()) <= 0.2
    ring = shapely.get_coordinates(found.exterior)
    assert int((turns_deg(np.concatenate([ring, ring[1:2]])) > 30).sum()) == corners


def random_map(seed: int) -> tuple[np.ndarray, np.ndarray, tuple[float, ...], float]:
    """A value map of any size and roughness, its L*, the L* of its values, and how round it is to be drawn."""
    hand = np.random.default_rng(seed)
    height, width = (int(side) for side in hand.integers(3, 60, 2))
    count, rough = int(hand.integers(2, 6)), float(hand.choice([0.6, 1, 2, 4]) if max(height, width) > 40 else 0)
    field = hand.normal(size=(height, width)).astype(np.float32)
    field = cv2.GaussianBlur(field, (0, 0), rough) if rough else field
    steps = np.digitize(field, np.quantile(field, np.linspace(0, 1, count + 1)[1:-1])).astype(np.uint8)
    lightness = (100 * (field - field.min()) / max(float(np.ptp(field)), 1e-6)).astype(np.float32)
    shown = tuple(float(lightness[steps == k].mean()) if (steps == k).any() else 50.0 for k in range(count))
    return steps, lightness, shown, float(hand.choice([0, 1, 3.6, 8]))


@pytest.mark.parametrize("seed", range(24))
def test_shapes_of_any_map_tile_it_and_no_border_crosses_another(seed):
    steps, lightness, shown, rounding = random_map(seed)
    shapes = mass_shapes(steps, rounding, LevelCrossing(lightness, steps, shown))
    assert shapely.is_valid(shapes.polygons).all()
    assert float(shapely.area(shapes.polygons).sum()) == pytest.approx(steps.size, rel=1e-9)
    lines = np.array([shapely.LineString(border) for border in shapes.borders])
    if not len(lines):
        return
    assert shapely.is_simple(lines).all()
    one, other = shapely.STRtree(lines).query(lines, "crosses")
    # Two rings that hang on one point are said to cross there.
    start = shapely.get_point(lines, 0)
    hang = shapely.is_closed(lines[one]) & shapely.equals(start[one], start[other])
    assert hang.all()
    plain = shapely.union_all(np.array([shapely.LineString(border) for border in mass_shapes(steps, 0).borders]))
    points = shapely.points(np.concatenate(shapes.borders))
    assert float(shapely.distance(plain, points).max()) <= rounding / 2 + 0.01


@pytest.mark.parametrize("seed", range(24))
def test_borders_go_from_junction_to_junction_as_a_public_library_merges_them(seed):
    hand = np.random.default_rng(seed)
    size = (int(hand.integers(1, 50)), int(hand.integers(1, 50)))
    soft = cv2.GaussianBlur(hand.normal(0, 1, size), (0, 0), float(hand.uniform(0.3, 4)))
    labels = shapes_of(np.digitize(soft, (-0.05, 0.05)).astype(np.uint8)).labels()
    chains = chains_of_labels(labels)
    here, there = np.pad(labels, 1, constant_values=-1), []
    for y, x in np.argwhere(here[1:] != here[:-1]).tolist():
        there.append([(x - 1, y), (x, y)])
    for y, x in np.argwhere(here[:, 1:] != here[:, :-1]).tolist():
        there.append([(x, y - 1), (x, y)])
    merged = shapely.get_parts(shapely.line_merge(shapely.multilinestrings(there)))
    assert len(chains) == len(merged)
    assert sorted(np.diff(chains.first).tolist()) == sorted(shapely.length(merged).round().astype(int).tolist())
    assert shapely.equals(shapely.union_all(merged), shapely.union_all(chains.lines))
    walked = np.concatenate([chains.ends[:, :1], chains.middles[chains.first[:-1], None]], 1)
    assert np.allclose(np.abs(walked[:, 1] - walked[:, 0]).sum(1), 0.5), "a border begins half a side from its end"


def test_each_border_is_the_same_for_both_neighbours_to_the_bit():
    steps, lightness, shown, _ = random_map(41)
    shapes = mass_shapes(steps, 3.6, LevelCrossing(lightness, steps, shown))
    rings = [shapely.get_coordinates(ring) for ring in shapely.get_rings(shapes.polygons)]
    sides = {tuple(map(tuple, pair)) for ring in rings for pair in np.stack([ring[:-1], ring[1:]], 1)}
    for border, (left, right) in zip(shapes.borders, shapes.beside.tolist(), strict=True):
        assert left != right
        for a, b in np.stack([border[:-1], border[1:]], 1):
            assert (tuple(a), tuple(b)) in sides
            assert (tuple(b), tuple(a)) in sides


@pytest.mark.parametrize("name", PHOTOGRAPHS)
def test_a_photograph_has_few_corners_that_are_none(name):
    """Turns of more than 30 degrees to 100 mm of border on A4."""
    masses = find_masses(*taken(photo(name)), THREE)
    length = sum(float(np.hypot(*np.diff(line, axis=0).T).sum()) for line in masses.borders_mm)
    assert masses.border_mm == pytest.approx(length)
    assert 100 * sum(int((turns_deg(line) > 30).sum()) for line in masses.borders_mm) / length <= 4


def test_painted_masses_have_the_shares_of_their_shapes_at_any_size():
    masses = find_masses(*taken(photo("coffee")), THREE)
    for longest in (150, 900):
        picture = masses.painted(longest)
        shares = shapely.area(masses.shapes.polygons) / masses.steps.size
        mean = sum(share * masses.shown[value] for share, value in zip(shares, masses.shapes.values, strict=True))
        assert float(picture.mean()) == pytest.approx(mean, abs=1e-4)
    map_ = masses.step_map(900)
    for value in range(3):
        share = float(shares[masses.shapes.values == value].sum())
        assert float((map_ == value).mean()) == pytest.approx(share, abs=0.003)
    # Where dark meets light no thin middle comes between them.
    grown = np.maximum(map_[:, 1:], map_[:, :-1]) - np.minimum(map_[:, 1:], map_[:, :-1])
    assert (grown == 2).any()
    assert painted(mass_shapes(np.zeros((4, 4), np.uint8), 0), (40.0,), (4, 4), (3, 2)).tolist() == [[40.0] * 3] * 2


def test_a_coarse_map_drawn_large_has_borders_as_curves_where_they_belong():
    y, x = np.mgrid[:80, :120] + 0.5
    steps = (0.6 * x + y > 70).astype(np.uint8)  # a slanting border, in steps of pixels
    large = flowing(steps, (20.0, 80.0), 600)
    assert large.shape == (400, 600)
    assert {round(float(large[20, 20])), round(float(large[-20, -20]))} == {20, 80}
    rows, columns = np.nonzero(np.diff((large > 50).astype(np.int8), axis=1))
    off = (0.6 * (columns + 1) + rows + 0.5 - 350) / np.hypot(0.6, 1) / 5  # in pixels of the map
    inner = (rows > 20) & (rows < 380)
    assert inner.sum() > 300
    assert np.abs(off[inner]).max() < 0.4
