"""Nested shapes: every coarser one a union of finer ones, and better than dividing by thresholds alone."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import cv2
import numpy as np
import pytest
import skimage.data

from mild_compass.craft.picture.load import Picture, read_proxy
from mild_compass.craft.values.detail import DetailWeight, border_weight, what_counts
from mild_compass.craft.values.hierarchy import flat_of, hierarchy_of
from mild_compass.craft.values.masses import find_masses, flat_masses, hierarchy_for, quick_masses
from mild_compass.craft.values.potts_fit import divided, fitted
from mild_compass.craft.values.shapes import shapes_of
from mild_compass.craft.values.total_variation import flattened
from mild_compass.demo.glasshouse import PHOTOS
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import largest_frame
from mild_compass.plan.paper import Paper
from mild_compass.plan.pictures import Reference
from mild_compass.plan.study import Frame
from mild_compass.plan.tones import DetailArea, ReadsPlan, ValuePlan

THREE = ValuePlan(count=3)


def taken(rgb: np.ndarray) -> tuple[Picture, Frame, Paper]:
    """A picture on A4, laid as the picture lies."""
    picture = Picture(np.ascontiguousarray(rgb[..., :3]), rgb.shape[1], rgb.shape[0])
    sides = (297.0, 210.0) if rgb.shape[1] > rgb.shape[0] else (210.0, 297.0)
    paper = Paper("A4", *sides)
    photo = Reference("p", "p", "ab" * 32, picture.width_px, picture.height_px)
    return picture, largest_frame(photo, paper), paper


def photo(name: str) -> np.ndarray:
    """scikit-image's sample photographs (public domain) and our own."""
    if name in ("coffee", "astronaut", "cat"):
        return np.asarray(getattr(skimage.data, name)())
    return read_proxy((PHOTOS / f"{name}.jpg").read_bytes(), name).rgb


PHOTOGRAPHS = ("coffee", "astronaut", "cat", "glasshouse-good", "pumping-station", "lantern-bench")


def explained(lightness: np.ndarray, steps: np.ndarray) -> float:
    """The share of the variance that flat values account for."""
    left = sum(float(((lightness[steps == k] - lightness[steps == k].mean()) ** 2).sum()) for k in np.unique(steps))
    return 1 - left / float(((lightness - lightness.mean()) ** 2).sum())


def border(steps: np.ndarray) -> int:
    """Pixel sides between different values."""
    return int((steps[1:] != steps[:-1]).sum() + (steps[:, 1:] != steps[:, :-1]).sum())


@pytest.fixture(scope="module", params=PHOTOGRAPHS)
def stops(request):
    """The quick masses of a photograph, its hierarchy, and the value map at each stop."""
    scene = taken(photo(request.param))
    nested = hierarchy_for(*scene, THREE)
    return quick_masses(*scene, THREE), nested, [nested.steps_at(stop) for stop in range(len(nested.prices))]


def test_every_shape_of_a_coarser_stop_is_a_union_of_finer_ones(stops):
    _, nested, maps = stops
    for finer, coarser in pairwise(maps):
        fine, coarse = shapes_of(finer).labels(), shapes_of(coarser).labels()
        pairs = np.unique(fine.astype(np.int64) * (int(coarse.max()) + 1) + coarse)
        assert len(pairs) == int(fine.max()) + 1
    assert [len(shapes_of(steps).values) for steps in maps] == nested.counts.tolist()
    assert nested.counts[-1] == 2


def test_loss_grows_and_border_shrinks_from_stop_to_stop(stops):
    _, nested, maps = stops
    assert (np.diff(nested.prices) > 0).all()
    assert (np.diff(nested.losses) >= 0).all()
    assert (np.diff(nested.borders) < 0).all()
    assert [border(steps) for steps in maps] == pytest.approx(nested.borders.tolist())


def test_they_take_less_border_for_the_same_fit_and_fit_better_in_as_many_shapes(stops):
    """Against smoothing, dividing and dropping what is small; in the mean of more photographs it is 0.82."""
    quick, nested, maps = stops
    fit = np.array([explained(quick.raw, steps) for steps in maps])
    enough = fit >= explained(quick.raw, quick.steps)
    assert min(border(steps) for steps, good in zip(maps, enough, strict=True) if good) <= 0.92 * border(quick.steps)
    as_many = nested.counts <= len(shapes_of(quick.steps).values)
    assert fit[as_many][0] >= explained(quick.raw, quick.steps)


def test_it_is_the_same_each_time_and_the_slider_goes_from_all_to_two_shapes():
    first, again = (taken(photo("cat")) for _ in range(2))
    for simple in (0.0, 30.0, 50.0, 80.0, 100.0):
        values = replace(THREE, simple=simple)
        assert (flat_masses(*first, values).steps == flat_masses(*again, values).steps).all()
    counts = [sum(find_masses(*first, replace(THREE, simple=simple)).counts) for simple in (0.0, 50.0, 70.0, 100.0)]
    assert counts == sorted(counts, reverse=True)
    assert counts[-1] == 2


def test_the_last_step_never_leaves_one_shape_alone():
    """A dark and a light on a middle ground: giving the ground a value would join all there is on one side."""
    values = np.full((90, 120), 50.0, np.float32)
    values[20:70, 10:40] = values[20:70, 50:70] = 10.0
    values[20:70, 80:110] = 90.0
    nested = hierarchy_of(flat_of(values), (30.0, 70.0), (10.0, 50.0, 90.0), 9.0)
    assert nested.counts[-1] == 2
    assert len(np.unique(nested.steps_at(nested.stop_at(100.0)))) == 2


def test_no_shape_is_smaller_than_the_smallest():
    picture, frame, paper = taken(photo("coffee"))
    masses = find_masses(picture, frame, paper, replace(THREE, smallest_mm2=150.0, simple=0.0))
    areas = shapes_of(masses.steps).areas()
    assert areas.min() * masses.mm_per_step_px**2 >= 149
    assert len(areas) > 2


def costs_of(values: np.ndarray, thresholds: tuple[float, ...], means: tuple[float, ...]) -> np.ndarray:
    """What each value costs at each pixel: its squared difference, but the same for two at the threshold between."""
    found = [(values - means[0]) ** 2]
    for k, mark in enumerate(thresholds):
        found.append(found[-1] + 2 * (means[k + 1] - means[k]) * (mark - values))
    return np.stack(found)


def fit_of(values: np.ndarray, thresholds: tuple[float, ...], means: tuple[float, ...], price: float) -> np.ndarray:
    """A picture flattened as far as a price of border asks for, divided and fitted."""
    flat = flattened(values, price / (2 * (means[1] - means[0])))
    return fitted(divided(flat, thresholds), values, thresholds, means, price)


def test_a_fit_of_two_values_is_the_cheapest_of_all_maps_of_a_small_picture():
    """Against every one of the 2¹² maps of 3 x 4 pixels."""
    hand = np.random.default_rng(5)
    for _ in range(12):
        values = hand.uniform(0, 100, (3, 4)).astype(np.float32)
        costs = costs_of(values, (50.0,), (25.0, 75.0))
        price = 60.0

        def cost(steps: np.ndarray, costs: np.ndarray = costs, price: float = price) -> float:
            return float(np.take_along_axis(costs, steps[None], 0).sum()) + price * border(steps)

        every = [np.array([(k >> bit) & 1 for bit in range(12)]).reshape(3, 4) for k in range(1 << 12)]
        best = min(cost(steps) for steps in every)
        found = cost(fit_of(values, (50.0,), (25.0, 75.0), price).astype(int))
        assert found <= best + 0.02 * abs(best) + 1e-6


@pytest.mark.parametrize("size", [(30, 41), (200, 260)])  # the larger one begins with a picture half as large
def test_no_pixel_at_a_border_of_a_fit_would_be_cheaper_with_another_value(size):
    hand = np.random.default_rng(9)
    rough = cv2.resize(hand.uniform(0, 100, (12, 16)), size[::-1], interpolation=cv2.INTER_CUBIC)
    values = (rough + hand.normal(0, 12, size)).astype(np.float32)
    costs, price = costs_of(values, (35.0, 65.0), (20.0, 50.0, 80.0)), 90.0
    steps = np.pad(fit_of(values, (35.0, 65.0), (20.0, 50.0, 80.0), price), 1, mode="edge")
    beside = (steps[:-2, 1:-1], steps[2:, 1:-1], steps[1:-1, :-2], steps[1:-1, 2:])
    each = np.stack(
        [cost - price * sum((other == k).astype(float) for other in beside) for k, cost in enumerate(costs)]
    )
    own = np.take_along_axis(each, steps[None, 1:-1, 1:-1].astype(int), 0)[0]
    at_border = np.any([other != steps[1:-1, 1:-1] for other in beside], axis=0)
    assert (own <= each.min(0) + 1e-2)[1:-1, 1:-1][at_border[1:-1, 1:-1]].all()
    assert len(np.unique(steps)) == 3


def test_detail_is_kept_round_the_focus_and_let_go_elsewhere():
    picture, frame, paper = taken(photo("glasshouse-good"))
    at = (frame.x_px + 0.3 * frame.width_px, frame.y_px + 0.6 * frame.height_px)
    even = find_masses(picture, frame, paper, THREE)
    led = find_masses(picture, frame, paper, replace(THREE, detail=100.0), (DetailWeight(*at),))
    y, x = np.indices(even.steps.shape)
    height, width = even.steps.shape
    near = np.hypot(x - 0.3 * width, y - 0.6 * height) < 0.14 * np.hypot(width, height)

    def lengths(steps: np.ndarray) -> tuple[int, int]:
        sides = (steps[1:, 1:] != steps[:-1, 1:]).astype(int) + (steps[1:, 1:] != steps[1:, :-1])
        return int(sides[near[1:, 1:]].sum()), int(sides[~near[1:, 1:]].sum())

    (here, there), (led_here, led_there) = lengths(even.steps), lengths(led.steps)
    assert led_here > 1.05 * here
    assert led_there < 0.7 * there


def test_areas_by_hand_hold_detail_or_let_it_go():
    picture, frame, paper = taken(photo("glasshouse-good"))
    x, y = frame.x_px, frame.y_px
    left = ((x, y), (x + frame.width_px / 2, y), (x + frame.width_px / 2, y + 900.0), (x, y + 900.0))
    plain = find_masses(picture, frame, paper, THREE)
    half = plain.steps.shape[1] // 2 - 20
    for kind, more in (("hold", True), ("let go", False)):
        values = replace(THREE, areas=(DetailArea("d", kind, left),))
        changed = find_masses(picture, frame, paper, values)
        assert (border(changed.steps[:, :half]) > border(plain.steps[:, :half])) == more
    with pytest.raises(PlanError):
        DetailArea("d", "hold", left[:2])


def test_what_counts_are_rings_and_focus_and_only_when_asked_for(plan):
    study = plan.study
    assert what_counts(study) == ()
    study = replace(study, values=replace(study.values, detail=40.0), reads=ReadsPlan((300.0, 200.0)))
    assert DetailWeight(300.0, 200.0) in what_counts(study)
    assert len(what_counts(study)) == 1 + len(study.rings)
    assert border_weight((30, 40), study.frame, plan.paper, (), 40.0, ()) is None


def test_a_plain_picture_has_one_shape_and_no_stops_beyond():
    flat = hierarchy_of(flat_of(np.full((20, 30), 40.0, np.float32)), (50.0,), (40.0, 75.0), 9.0)
    assert flat.counts.tolist() == [1]
    assert (flat.steps_at(flat.stop_at(100.0)) == 0).all()
