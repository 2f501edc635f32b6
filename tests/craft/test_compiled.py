"""Loops that are compiled: the same as the plain Python they are written in, and as public libraries have it."""

from __future__ import annotations

import subprocess
from importlib import import_module
from pkgutil import iter_modules
from types import ModuleType

import cv2
import numpy as np
import pytest
import shapely
from numba.core.registry import CPUDispatcher
from scipy import ndimage
from tests.craft.test_hierarchy import THREE, photo, taken

from mild_compass.craft import values as room
from mild_compass.craft.checkpoint import OvertakenError, checkpoint, stopped_when
from mild_compass.craft.values import ready
from mild_compass.craft.values.crossings import crossing_lines
from mild_compass.craft.values.curves import _thinned
from mild_compass.craft.values.drawn import painted
from mild_compass.craft.values.faces import faces_of
from mild_compass.craft.values.hierarchy import flat_of, hierarchy_of
from mild_compass.craft.values.masses import find_masses
from mild_compass.craft.values.merging import without_small
from mild_compass.craft.values.outlines import mass_shapes
from mild_compass.craft.values.shapes import shapes_of
from mild_compass.craft.values.tracing import Crossing, chains_of_labels
from mild_compass.craft.values.trial import try_all
from mild_compass.plan.tones import ValuePlan

MODULES = [import_module(f"{room.__name__}.{each.name}") for each in iter_modules(room.__path__)]


def made(seed: int, size: tuple[int, int] = (40, 54)) -> np.ndarray:
    """L* of soft blots."""
    hand = np.random.default_rng(seed)
    blots = cv2.GaussianBlur(hand.normal(0, 1, size).astype(np.float32), (0, 0), float(hand.uniform(1, 3)))
    return np.asarray(np.clip(50 + 25 * blots / blots.std(), 0, 100), np.float32)


def stepped(lightness: np.ndarray) -> np.ndarray:
    return np.digitize(lightness, (38.0, 60.0)).astype(np.uint8)


def loops() -> list[tuple[ModuleType, str, CPUDispatcher]]:
    return [(m, name, each) for m in MODULES for name, each in vars(m).items() if isinstance(each, CPUDispatcher)]


def everything(seed: int) -> list[np.ndarray]:
    """All that is done with the masses of a small picture."""
    lightness = made(seed)
    steps = without_small(stepped(lightness), 6)
    weight = np.full(lightness.shape, 1.0, np.float32)
    weight[:, 20:] = 0.5
    nested = hierarchy_of(flat_of(lightness, weight), (38.0, 60.0), (28.0, 50.0, 72.0), 9.0)
    drawn_shapes = mass_shapes(steps, 3.0, Crossing(lightness, steps, (28.0, 50.0, 72.0)))
    return [
        steps,
        nested.steps_at(nested.stop_at(50.0)),
        nested.losses,
        drawn_shapes.lines.points,
        painted(drawn_shapes, (28.0, 50.0, 72.0), steps.shape, (108, 80)),
    ]


@pytest.mark.parametrize("seed", [1, 2])
def test_compiled_loops_are_what_they_are_as_plain_python(seed, monkeypatch):
    quick = everything(seed)
    for module, name, loop in loops():
        monkeypatch.setattr(module, name, loop.py_func)
    with np.errstate(over="ignore"):
        plain = everything(seed)
    for one, other in zip(quick, plain, strict=True):
        assert one.shape == other.shape
        np.testing.assert_allclose(one, other, rtol=1e-6, atol=1e-5)


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
    shapes = mass_shapes(steps, 3.0, Crossing(lightness, steps, shown))
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
    points, of = _thinned(np.concatenate(lines), which, 0.3)
    for k, line in enumerate(lines):
        told = shapely.simplify(shapely.LineString(line), 0.3, preserve_topology=False)
        assert (points[of == k] == shapely.get_coordinates(told)).all()


def test_the_trial_compiles_all_that_masses_need():
    """After it nothing is compiled any more, whatever is asked for."""
    try_all()
    before = {(m.__name__, name): len(loop.signatures) for m, name, loop in loops()}
    picture, frame, paper = taken(photo("coffee"))
    for values in (THREE, ValuePlan(count=5, method="found"), ValuePlan(count=2, softness_mm=0.0)):
        found = find_masses(picture, frame, paper, values)
        found.greys(300)
        found.step_map(300)
    assert {(m.__name__, name): len(loop.signatures) for m, name, loop in loops()} == before


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


def test_loops_are_made_ready_once_in_a_process_of_their_own(monkeypatch, tmp_path, caplog):
    asked: list[list[str]] = []

    def run(command: list[str], **_: object) -> subprocess.CompletedProcess[str]:
        asked.append(command)
        return subprocess.CompletedProcess(command, len(asked) - 1, "", "no room on the disk")

    monkeypatch.setattr(ready, "_ready", False)
    monkeypatch.setattr(ready, "_marker", lambda: tmp_path / "ready-1")
    monkeypatch.setattr(ready.subprocess, "run", run)
    assert not ready.is_ready()
    ready.make_sure()
    ready.make_sure()
    assert [command[-1] for command in asked] == ["prepare"]
    assert ready.is_ready()
    monkeypatch.setattr(ready, "_ready", False)
    ready.make_sure()  # it goes on without: the loops are compiled where they are needed
    assert "no room on the disk" in caplog.text
    (tmp_path / "ready-1").touch()
    monkeypatch.setattr(ready, "_ready", False)
    ready.make_sure()
    assert len(asked) == 2


@pytest.mark.parametrize("seed", range(20))
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
