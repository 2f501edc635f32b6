"""Masses: thresholds against scikit-image, shapes that tile, nothing under the bound."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
import shapely
import skimage.data
from hypothesis import given
from hypothesis import strategies as st
from skimage.filters import threshold_multiotsu, threshold_otsu
from skimage.measure import label

from mild_compass.craft.picture.framed import framed_lightness
from mild_compass.craft.picture.load import Picture
from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.craft.stations import readings_of
from mild_compass.craft.values.masses import Masses, find_masses
from mild_compass.craft.values.merging import without_small
from mild_compass.craft.values.outlines import mass_shapes
from mild_compass.craft.values.prepared_frame import LONGEST_PX
from mild_compass.craft.values.thresholds import even_thresholds, found_thresholds, thresholds_for
from mild_compass.craft.worked import worked_study
from mild_compass.plan.framing import largest_frame
from mild_compass.plan.pictures import Reference
from mild_compass.plan.study import Frame
from mild_compass.plan.tones import ValuePlan

SHEET = paper("A3", across=True)
BIN = 100 / 128


def picture_of(rgb: np.ndarray) -> Picture:
    return Picture(rgb, rgb.shape[1], rgb.shape[0])


def whole(picture: Picture) -> Frame:
    photo = Reference("p", "p", "ab" * 32, picture.width_px, picture.height_px)
    return largest_frame(photo, SHEET)


@pytest.fixture(scope="module")
def astronaut() -> Picture:
    """scikit-image's sample photograph (public domain)."""
    return picture_of(skimage.data.astronaut())


@pytest.fixture(scope="module")
def masses(astronaut: Picture) -> Masses:
    return find_masses(astronaut, whole(astronaut), SHEET, ValuePlan(count=4, smallest_mm2=60))


def test_even_thresholds_divide_the_scale_equally():
    assert even_thresholds(4) == (25, 50, 75)
    assert len(even_thresholds(7)) == 6


def test_the_found_threshold_is_otsus(astronaut):
    """N. Otsu, IEEE SMC 9(1), 1979, as scikit-image computes it."""
    values = framed_lightness(astronaut, whole(astronaut), SHEET, LONGEST_PX).values
    assert found_thresholds(values, 2)[0] == pytest.approx(threshold_otsu(values, nbins=128), abs=1.5 * BIN)


@pytest.mark.parametrize("count", [3, 4])
def test_several_found_thresholds_are_the_multi_level_ones(astronaut, count):
    values = framed_lightness(astronaut, whole(astronaut), SHEET, LONGEST_PX).values
    expected = threshold_multiotsu(values, classes=count, nbins=128)
    assert found_thresholds(values, count) == pytest.approx(expected, abs=2 * BIN)


@pytest.mark.parametrize("value", [0.0, 50.0, 100.0])
def test_a_picture_of_one_value_falls_back_on_even_steps(value):
    assert found_thresholds(np.full((20, 20), value), 4) == even_thresholds(4)


def test_thresholds_by_hand_are_taken_as_they_are():
    values = ValuePlan(3, "by hand", (12.5, 80.0))
    assert thresholds_for(values, np.zeros((2, 2))) == (12.5, 80.0)


def test_every_pixel_is_in_one_mass_and_shares_add_up(masses):
    assert sum(masses.shares) == pytest.approx(1, abs=1e-12)
    assert masses.steps.max() < 4
    assert all(low < high for low, high in zip(masses.shown, masses.shown[1:], strict=False))


def test_polygons_tile_the_frame_without_gap_or_overlap(masses):
    height, width = masses.steps.shape
    polygons = masses.shapes.polygons
    assert shapely.area(polygons).sum() == pytest.approx(height * width, rel=1e-9)
    assert shapely.coverage_is_valid(polygons)
    assert shapely.union_all(polygons).area == pytest.approx(height * width, rel=1e-9)


def test_no_shape_is_smaller_than_asked(masses):
    smallest = np.bincount(label(masses.steps, connectivity=1, background=-1).ravel())[1:].min()
    assert smallest * masses.mm_per_step_px**2 >= 60 * 0.999
    assert sum(masses.counts) == len(masses.shapes.polygons)


def test_shapes_are_those_that_scikit_image_counts(masses):
    for value, count in enumerate(masses.counts):
        assert label(masses.steps == value, connectivity=1).max() == count


def test_borders_lie_in_the_picture_area_and_each_is_drawn_once(masses):
    points = np.concatenate(masses.borders_mm)
    assert points.min() >= 15 - 1e-6
    assert points[:, 0].max() <= 405 + 1e-6
    segments = np.concatenate([np.stack([b[:-1], b[1:]], 1) for b in masses.borders_mm]).round(9)
    ends = np.sort(segments.view([("x", float), ("y", float)]).reshape(-1, 2), axis=1)
    assert len(np.unique(ends, axis=0)) == len(ends)


def test_the_same_picture_gives_the_same_masses(astronaut, masses):
    again = find_masses(astronaut, whole(astronaut), SHEET, ValuePlan(count=4, smallest_mm2=60))
    assert np.array_equal(again.steps, masses.steps)
    assert again.thresholds == masses.thresholds


@pytest.mark.parametrize("grey", [0, 255])
def test_pure_black_and_pure_white_are_one_shape(grey):
    picture = picture_of(np.full((200, 300, 3), grey, np.uint8))
    found = find_masses(picture, whole(picture), SHEET, ValuePlan())
    assert sum(found.counts) == 1
    assert found.borders_mm == ()
    assert found.largest_share == pytest.approx(1)


def test_two_tones_come_out_as_drawn_with_the_border_where_it_is():
    pixels = np.zeros((267, 390, 3), np.uint8)
    pixels[:, 130:] = 200
    picture = picture_of(pixels)
    found = find_masses(picture, Frame(0, 0, 390, 267), SHEET, ValuePlan(count=2))
    assert found.counts == (1, 1)
    assert found.shares[0] == pytest.approx(1 / 3, abs=0.005)
    (border,) = found.borders_mm
    assert border[:, 0] == pytest.approx(15 + 130, abs=1.0)


def test_noise_gives_masses_all_the_same():
    picture = picture_of(np.random.default_rng(4).integers(0, 256, (200, 300, 3), np.uint8))
    found = find_masses(picture, whole(picture), SHEET, ValuePlan(smallest_mm2=200))
    assert sum(found.shares) == pytest.approx(1)


def test_a_picture_one_pixel_wide_is_no_trouble():
    picture = picture_of(np.linspace(0, 255, 900).astype(np.uint8).reshape(300, 1, 3))
    found = find_masses(picture, Frame(0, 0, 1, 1 / SHEET.ratio), SHEET, ValuePlan(smallest_mm2=2))
    assert sum(found.shares) == pytest.approx(1)


@given(st.integers(0, 10_000), st.integers(2, 60))
def test_after_merging_no_shape_is_under_the_bound_unless_it_is_all_there_is(seed, smallest):
    rng = np.random.default_rng(seed)
    rough = cv2.resize(rng.integers(0, 4, (6, 8), np.uint8), (24, 18), interpolation=cv2.INTER_NEAREST)
    rough[rng.random(rough.shape) < 0.15] = rng.integers(0, 4)
    merged = without_small(rough, smallest)
    sizes = np.bincount(label(merged, connectivity=1, background=-1).ravel())[1:]
    assert sizes.min() >= smallest or len(sizes) == 1


@given(st.integers(0, 10_000))
def test_polygons_of_any_map_tile_it(seed):
    rng = np.random.default_rng(seed)
    steps = cv2.resize(rng.integers(0, 3, (5, 6), np.uint8), (40, 30), interpolation=cv2.INTER_NEAREST)
    steps[rng.random(steps.shape) < 0.05] = 1
    shapes = mass_shapes(steps, 1.6)
    assert shapely.area(shapes.polygons).sum() == pytest.approx(1200, rel=1e-9)
    assert shapely.coverage_is_valid(shapes.polygons)
    assert len(shapes.polygons) == sum(label(steps == v, connectivity=1).max() for v in range(3))


def test_a_small_shape_goes_to_the_neighbour_with_most_border():
    steps = np.zeros((9, 9), np.uint8)
    steps[:, 5:] = 2
    steps[3:6, 4] = 1  # three sides on the dark to its left and its ends, three on the light to its right
    merged = without_small(steps, 5)
    assert (merged[3:6, 4] == 0).all()


def test_a_ring_round_an_island_keeps_its_hole():
    steps = np.zeros((30, 30), np.uint8)
    steps[8:22, 8:22] = 1
    steps[12:18, 12:18] = 0
    shapes = mass_shapes(steps, 0)
    areas = sorted(shapely.area(shapes.polygons))
    assert areas == [36, 14 * 14 - 36, 900 - 196]


def test_readings_name_each_value_and_warn_of_equal_halves(plan):
    pixels = np.zeros((267, 390, 3), np.uint8)
    pixels[:, 195:] = 220
    found = find_masses(picture_of(pixels), Frame(0, 0, 390, 267), SHEET, ValuePlan(count=2))
    worked = worked_study(plan, masses=found)
    assert worked is not None
    readings = {each.key: each for each in readings_of("values", worked)}
    assert readings["share_dark"].number == pytest.approx(50, abs=0.3)
    assert readings["dark_share"].verdict == "look"
    assert readings["shapes"].number == 2
