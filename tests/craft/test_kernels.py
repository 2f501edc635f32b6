"""Compiled loops: the same, bit for bit, as plain Python (tests/craft/reference), and as public libraries have it."""

from __future__ import annotations

import copy
from importlib import import_module
from pkgutil import iter_modules

import cv2
import numpy as np
import pytest
import shapely
from scipy import ndimage
from tests.conftest import cases
from tests.craft import reference
from tests.craft.test_hierarchy import photo, taken

from mild_compass.craft import kernels
from mild_compass.craft.checkpoint import OvertakenError, checkpoint, stopped_when
from mild_compass.craft.kernels.curves import simplified
from mild_compass.craft.kernels.subdivision import crossing_lines
from mild_compass.craft.values.drawn import paint, painted
from mild_compass.craft.values.faces import faces_of
from mild_compass.craft.values.hierarchy import flat_of, hierarchy_of
from mild_compass.craft.values.masses import find_masses
from mild_compass.craft.values.merging import without_small
from mild_compass.craft.values.outlines import mass_shapes
from mild_compass.craft.values.shapes import shapes_of, sums_of
from mild_compass.craft.values.tracing import LevelCrossing, chains_of_labels
from mild_compass.plan.tones import ValuePlan

ROOMS = tuple(each.name for each in iter_modules(reference.__path__))
PAIRS = [
    (import_module(f"{kernels.__name__}.{room}"), name, plain)
    for room in ROOMS
    for name, plain in vars(import_module(f"{reference.__name__}.{room}")).items()
    if callable(plain)
    and not name.startswith("_")
    and hasattr(import_module(f"{kernels.__name__}.{room}"), name)
    and getattr(plain, "__module__", "").startswith(reference.__name__)
]


def made(seed: int, size: tuple[int, int] = (40, 54)) -> np.ndarray:
    """L* of soft blots."""
    hand = np.random.default_rng(seed)
    blots = cv2.GaussianBlur(hand.normal(0, 1, size).astype(np.float32), (0, 0), float(hand.uniform(1, 3)))
    return np.asarray(np.clip(50 + 25 * blots / blots.std(), 0, 100), np.float32)


def stepped(lightness: np.ndarray) -> np.ndarray:
    return np.digitize(lightness, (38.0, 60.0)).astype(np.uint8)


def everything(seed: int) -> None:
    """All that is done with the masses of a small picture."""
    lightness = made(seed)
    steps = without_small(stepped(lightness), 6)
    weight = np.full(lightness.shape, 1.0, np.float32)
    weight[:, 20:] = 0.5
    for each in (None, weight):
        nested = hierarchy_of(flat_of(lightness, each), (38.0, 60.0), (28.0, 50.0, 72.0), 9.0)
        nested.steps_at(nested.stop_at(50.0))
    for rounding_px in (0.0, 3.0, 9.0):
        shapes = mass_shapes(steps, rounding_px, LevelCrossing(lightness, steps, (28.0, 50.0, 72.0)))
        painted(shapes, (28.0, 50.0, 72.0), steps.shape, (108, 80))
        paint(shapes, (20, 90, 250), steps.shape, np.empty((33, 41), np.uint8), 0.5)
    kernels.raster.lightness_histogram(lightness)
    sums_of(steps, lightness, 3)


def both_ways(monkeypatch, module, name, plain, calls):
    """Let a loop be run as plain Python as well, each time that it is called."""
    quick = getattr(module, name)

    def run(*taken):
        also = copy.deepcopy(taken)
        answer = quick(*taken)
        with np.errstate(over="ignore"):
            told = plain(*also)
        calls[name] = calls.get(name, 0) + 1
        for one, other in zip((answer, *taken), (told, *also), strict=True):
            same(name, one, other)
        return answer

    for place in (module, *(import_module(f"mild_compass.craft.values.{each}") for each in USERS)):
        if vars(place).get(name) is quick:
            monkeypatch.setattr(place, name, run)


def same(name, one, other) -> None:
    if isinstance(one, tuple):
        assert len(one) == len(other), name
        for each, there in zip(one, other, strict=True):
            same(name, each, there)
    elif isinstance(one, np.ndarray):
        assert one.shape == other.shape, name
        assert one.dtype == other.dtype, name
        assert (one == other).all(), name
    else:
        assert one == other, name


USERS = ("merging", "hierarchy", "masses", "outlines")


def test_every_loop_has_its_plain_python():
    """And none is left out of the comparison."""
    for room in ROOMS:
        module = import_module(f"{kernels.__name__}.{room}")
        public = {
            name
            for name, each in vars(module).items()
            if callable(each)
            and not name.startswith("_")
            and getattr(each, "__module__", "") == module.__name__
            and not isinstance(each, type)
        }
        assert public == {name for where, name, _ in PAIRS if where is module}, room
    files = {each.name for each in iter_modules(kernels.__path__)} - {"library", "_kernels"}
    assert files == set(ROOMS)


@pytest.mark.parametrize("seed", cases(6, 2))
def test_loops_find_bit_for_bit_what_plain_python_finds(seed, monkeypatch):
    calls: dict[str, int] = {}
    for module, name, plain in PAIRS:
        both_ways(monkeypatch, module, name, plain, calls)
    everything(seed)
    assert set(calls) == {name for _, name, _ in PAIRS}


def test_a_loop_refuses_what_it_could_not_read():
    with pytest.raises(Exception, match="array must have flags"):
        kernels.potts.reached(made(1)[:, ::2], np.array([50.0], np.float32))
    with pytest.raises(Exception, match="array must have data type"):
        kernels.potts.reached(made(1).astype(np.float64), np.array([50.0], np.float32))


@pytest.mark.parametrize("seed", range(12))
def test_connected_shapes_are_those_of_a_public_library(seed):
    """SciPy's ndimage.label, value by value."""
    steps = stepped(made(seed))
    shapes = shapes_of(steps)
    labels, values = shapes.labels(), shapes.values
    count = 0
    for value in range(3):
        parts, found = ndimage.label(steps == value)
        for k in range(1, found + 1):
            assert len(np.unique(labels[parts == k])) == 1
        assert (values == value).sum() == found
        count += found
    assert len(values) == count == labels.max() + 1
    assert (values[labels] == steps).all()
    assert (shapes.filled(values.astype(np.uint8)) == steps).all()
    assert (shapes.areas() == np.bincount(labels.ravel())).all()


def test_borders_between_shapes_are_counted_once_and_weighed():
    steps = np.zeros((6, 9), np.uint8)
    steps[2:4, 3:6] = 1
    shapes = shapes_of(steps)
    one, other, length = shapes.borders()
    assert (one.tolist(), other.tolist(), length.tolist()) == ([0], [1], [10.0])
    weight = np.ones((6, 9), np.float32)
    weight[2:4, 3:6] = 3.0
    assert shapes.borders(weight)[2].tolist() == [20.0]


@pytest.mark.parametrize("seed", range(4))
def test_a_picture_of_shapes_has_of_each_pixel_what_they_cover(seed):
    """Against shapely's own areas of overlap, pixel by pixel."""
    lightness = made(seed, (14, 17))
    steps = stepped(lightness)
    shown = (20.0, 50.0, 90.0)
    shapes = mass_shapes(steps, 3.0, LevelCrossing(lightness, steps, shown))
    size = (23, 19)
    picture = painted(shapes, shown, steps.shape, size)
    scale = (size[0] / 17, size[1] / 14)
    large = [shapely.transform(each, lambda points: points * scale) for each in shapes.polygons]
    for row, column in np.random.default_rng(seed).integers(0, (19, 23), (60, 2)).tolist():
        pixel = shapely.box(column, row, column + 1, row + 1)
        told = sum(pixel.intersection(each).area * shown[v] for each, v in zip(large, shapes.values, strict=True))
        assert float(picture[row, column]) == pytest.approx(told, abs=1e-4)


def test_a_shape_that_touches_itself_at_a_corner_has_a_hole_there_and_stays_valid():
    steps = np.zeros((7, 7), np.uint8)
    steps[1:6, 1:6] = 1
    steps[2:4, 2:4] = 0
    steps[4, 4] = 0  # meets the hole at a corner
    shapes = mass_shapes(steps, 0)
    assert shapely.is_valid(shapes.polygons).all()
    assert shapely.area(shapes.polygons).sum() == 49
    assert sorted(len(each.interiors) for each in shapes.polygons) == [0, 0, 1, 2]


def test_a_face_turned_inside_out_is_none():
    labels = np.zeros((6, 6), np.int32)
    labels[2:4, 2:4] = 1
    chains = chains_of_labels(labels)
    points = shapely.get_coordinates(chains.lines)
    first = np.cumsum([0, *shapely.get_num_coordinates(chains.lines)])
    assert not shapely.is_missing(faces_of(chains, points, first, 2, 0.0)[0]).any()
    inner = int(np.flatnonzero((chains.left == 1) | (chains.right == 1))[0])
    points[first[inner] : first[inner + 1]] = points[first[inner] : first[inner + 1]][::-1]
    faces, unsure = faces_of(chains, points, first, 2, 0.0)
    assert (shapely.is_missing(faces) == unsure).all()
    assert unsure.any()


@pytest.mark.parametrize("seed", range(6))
def test_lines_are_thinned_as_a_public_library_does_it(seed):
    """shapely's simplify, open lines and one that closes, of two points and of many."""
    hand = np.random.default_rng(seed)
    lines = [np.cumsum(hand.normal(0, 1, (n, 2)), 0) for n in (2, 3, 40, 200)]
    turn = np.linspace(0, 2 * np.pi, 90)
    lines.append(np.stack([8 * np.cos(turn), 5 * np.sin(turn) + np.cos(3 * turn + seed)], 1))
    lines[-1][-1] = lines[-1][0]
    which = np.repeat(np.arange(len(lines)), [len(line) for line in lines])
    points, of = simplified(np.concatenate(lines), which, 0.3)
    for k, line in enumerate(lines):
        told = shapely.simplify(shapely.LineString(line), 0.3, preserve_topology=False)
        assert (points[of == k] == shapely.get_coordinates(told)).all()


def test_what_nobody_waits_for_ends_at_its_next_checkpoint():
    checkpoint()
    asked = []

    def overtaken() -> bool:
        asked.append(1)
        return len(asked) > 2

    picture, frame, paper = taken(photo("cat"))
    with stopped_when(overtaken), pytest.raises(OvertakenError):
        find_masses(picture, frame, paper, ValuePlan(count=3, method="by hand", thresholds=(31.0, 63.0)))
    assert len(asked) == 3
    found = find_masses(picture, frame, paper, ValuePlan(count=3, method="by hand", thresholds=(31.0, 63.0)))
    assert sum(found.counts) > 2


@pytest.mark.parametrize("seed", cases(20, 8))
def test_lines_that_cross_are_those_of_a_public_library(seed):
    """Against shapely: a line that is not simple, or that has more in common with another than its ends."""
    hand = np.random.default_rng(seed)
    ends = hand.uniform(0, 30, (4, 2))
    lines = [
        np.concatenate([ends[[k % 4]], hand.uniform(0, 30, (int(hand.integers(0, 5)), 2)), ends[[(k + 1) % 4]]])
        for k in range(int(hand.integers(2, 9)))
    ]
    first = np.cumsum([0, *(len(line) for line in lines)])
    found = crossing_lines(np.concatenate(lines), first)
    drawn = [shapely.LineString(line) for line in lines]
    for k, line in enumerate(drawn):
        others = [each for j, each in enumerate(drawn) if j != k]
        touched = [line.intersection(each).difference(shapely.MultiPoint(ends)) for each in others]
        assert found[k] == (not line.is_simple or any(not each.is_empty for each in touched)), k


def test_a_line_that_turns_back_on_itself_or_lies_on_another_crosses_it():
    there_and_back, other = [(0.0, 0.0), (9.0, 0.0), (4.0, 0.0)], [(0.0, 5.0), (9.0, 5.0)]
    points, first = np.array([*there_and_back, *other]), np.array([0, 3, 5])
    assert crossing_lines(points, first).tolist() == [True, False]
    points, first = np.array([*other, *other]), np.array([0, 2, 4])
    assert crossing_lines(points, first).tolist() == [True, True]


@pytest.mark.parametrize(("narrow", "sure"), [(True, False), (False, True)])
def test_a_face_with_a_hole_so_narrow_that_it_may_have_passed_by_is_looked_at_again(narrow, sure):
    labels = np.zeros((12, 12), np.int32)
    labels[3:9, 3 : 4 if narrow else 9] = 1
    chains = chains_of_labels(labels)
    lines = [shapely.get_coordinates(line) for line in chains.lines]
    first = np.cumsum([0, *(len(line) for line in lines)])
    _, unsure = faces_of(chains, np.concatenate(lines), first, 2, 2.0)
    assert unsure.tolist() == [not sure, False]
