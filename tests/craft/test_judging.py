"""Readings of the picture on constructed pictures where the answer is known."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import skimage.data
from skimage.color import rgb2lab
from skimage.filters import threshold_otsu

from mild_compass.craft.picture.load import Picture
from mild_compass.craft.stations import readings_of
from mild_compass.craft.viewfinder.judging import dark_and_light, edge_patches, spare_strips, steelyard
from mild_compass.craft.viewfinder.rules import RULES
from mild_compass.craft.worked import Worked, worked_study
from mild_compass.plan.edits.base import with_study
from mild_compass.plan.edits.perspective import set_horizon
from mild_compass.plan.model import Plan
from mild_compass.plan.perspective import Horizon
from mild_compass.plan.study import Frame, Ring

GREY = 50.0


def plain(height: int = 200, width: int = 300) -> np.ndarray:
    return np.full((height, width), GREY)


def test_a_bright_patch_at_the_right_edge_is_found_where_it_is():
    values = plain()
    values[60:90, -12:] = 95
    (patch,) = edge_patches(values, RULES)
    assert (patch.side, patch.bright) == ("right", True)
    assert (patch.top, patch.bottom) == pytest.approx((0.3, 0.45))
    assert patch.right == pytest.approx(1)


def test_bright_pulls_harder_than_dark_and_the_strongest_comes_first():
    values = plain()
    values[60:90, -12:] = GREY + 40
    values[60:90, :12] = GREY - 40
    bright, dark = edge_patches(values, RULES)
    assert (bright.side, dark.side) == ("right", "left")
    assert bright.pull == pytest.approx(RULES.bright_weight * dark.pull)


def test_patches_off_the_edge_too_small_too_weak_or_too_long_do_not_count():
    values = plain()
    values[80:120, 120:160] = 95  # in the middle
    values[0:3, 10:14] = 95  # a speck
    values[60:90, :12] = GREY + 20  # weak
    values[-8:] = 95  # the whole foot of the picture
    assert edge_patches(values, RULES) == []


def test_a_strip_in_which_nothing_happens_is_spare_up_to_where_something_does():
    rng = np.random.default_rng(1)
    values = plain()
    values[:, 90:] += rng.normal(0, 12, (200, 210))
    strips = spare_strips(values, RULES)
    assert strips["left"] == pytest.approx(0.3, abs=0.03)
    assert strips["right"] < 0.03
    assert strips["top"] < 0.03


def test_a_picture_of_nothing_has_no_spare_strips_and_hangs_level():
    assert set(spare_strips(plain(), RULES).values()) == {0.0}
    assert (steelyard(plain()).fulcrum, steelyard(plain()).tip) == (0.5, 0.0)


def test_a_small_weight_far_out_holds_a_heavy_one_near_the_middle():
    """The steelyard: 1 unit at arm 120 against 4 units at arm 30 (Poore, Pictorial Composition, 1903)."""
    values = plain(200, 301)
    values[90:100, 150 - 120 - 2 : 150 - 120 + 3] = GREY + 20
    values[90:130, 150 + 30 - 2 : 150 + 30 + 3] = GREY + 20
    assert steelyard(values).fulcrum == pytest.approx(0.5, abs=1e-9)
    assert steelyard(values).tip == pytest.approx(0, abs=1e-9)


def test_the_fulcrum_is_the_centre_of_weight():
    values = plain(100, 400)
    values[:, 80:120] = 90  # weight 40 wide about 100
    values[:, 320:340] = 90  # 20 wide about 330
    assert steelyard(values).fulcrum == pytest.approx((40 * 100 + 20 * 330) / 60 / 400)


def test_tipping_changes_side_with_the_picture_mirrored():
    values = np.random.default_rng(3).uniform(0, 100, (60, 90))
    values[:, :20] = 100
    assert steelyard(values[:, ::-1]).tip == pytest.approx(-steelyard(values).tip)


def test_dark_and_light_is_divided_at_otsus_threshold():
    """Against scikit-image on its astronaut sample (public domain)."""
    values = rgb2lab(skimage.data.astronaut())[..., 0]
    found = dark_and_light(values)
    expected = threshold_otsu(values, nbins=128)
    assert found.threshold == pytest.approx(expected, abs=1.5 * 100 / 128)
    assert found.dark == pytest.approx(float((values < expected).mean()), abs=0.02)
    assert found.dark == pytest.approx((found.dark_left + found.dark_right) / 2, abs=1e-9)


def judged(plan: Plan, rgb: np.ndarray, ring: Ring | None = None, frame: Frame | None = None) -> Worked:
    assert plan.study is not None
    study = replace(plan.study, rings=(ring,) if ring else (), frame=frame or plan.study.frame)
    worked = worked_study(with_study(plan, study), picture=Picture(rgb, 600, 400))
    assert worked is not None
    return worked


def found(worked: Worked, key: str):
    return next((each for each in readings_of("viewfinder", worked) if each.key == key), None)


def grey(value: int = 119) -> np.ndarray:
    return np.full((400, 600, 3), value, np.uint8)


def test_readings_of_the_picture_come_with_millimetres_and_a_place(plan):
    rgb = grey()
    rgb[150:200, -14:] = 250
    reading = found(judged(plan, rgb), "edge_1")
    assert reading is not None
    assert "right edge" in reading.text
    frame = plan.study.frame
    assert reading.number == pytest.approx(15 + (175 - frame.y_px) / frame.height_px * 267, abs=3)
    assert reading.place is not None


def test_try_it_cuts_a_spare_strip_and_keeps_proportion_and_ring(plan):
    rgb = grey()
    rgb[:, 200:] = np.random.default_rng(2).integers(60, 200, (400, 400, 1))
    ring = Ring(420, 200, 30, 60)
    worked = judged(plan, rgb, ring)
    reading = found(worked, "spare")
    assert reading is not None
    assert reading.remedy is not None
    smaller = reading.remedy.change(worked.plan).study.frame
    assert smaller.x_px > worked.study.frame.x_px + 100
    assert smaller.width_px / smaller.height_px == pytest.approx(plan.paper.ratio)
    with_ring_in_it = found(judged(plan, rgb, Ring(60, 200, 30, 60)), "spare")
    assert with_ring_in_it is None or with_ring_in_it.number <= (60 - 30) * 390 / worked.study.frame.width_px + 1


def test_equal_halves_are_flagged_and_asymmetry_names_the_side(plan):
    rgb = grey(30)
    rgb[:, 300:] = 220
    worked = judged(plan, rgb)
    assert found(worked, "dark_light").verdict == "look"
    assert found(worked, "asymmetry").shown == "100 % left"


@pytest.mark.parametrize(("facing", "verdict"), [("left", "look"), ("right", "fine")])
def test_lead_room_is_wanted_ahead_of_where_the_subject_looks(plan, facing, verdict):
    frame = Frame(100, 50, 300, 300 / plan.paper.ratio)
    worked = judged(plan, grey(), Ring(170, 150, 20, 40, "ferryman", facing), frame)
    reading = found(worked, "lead_room")
    ahead, behind = (50, 210) if facing == "left" else (210, 50)
    assert reading.number == pytest.approx(ahead / behind, abs=0.01)
    assert reading.verdict == verdict
    if verdict == "look":
        better = reading.remedy.change(worked.plan)
        again = found(
            judged(better, grey(), Ring(170, 150, 20, 40, "ferryman", facing), better.study.frame), "lead_room"
        )
        assert again.number > reading.number


def test_a_subject_that_looks_nowhere_needs_no_lead_room(plan):
    assert found(judged(plan, grey(), Ring(170, 150, 20, 40)), "lead_room") is None


@pytest.mark.parametrize(("x", "words"), [(121, "all but touches the left"), (110, "cuts"), (150, None)])
def test_a_subject_that_touches_or_is_cut_by_the_edge_is_named(plan, x, words):
    frame = Frame(100, 50, 300, 300 / plan.paper.ratio)
    reading = found(judged(plan, grey(), Ring(x, 150, 20, 40), frame), "tangent_left")
    assert (reading is None) == (words is None)
    if words:
        assert words in reading.text


def test_a_horizon_at_half_height_is_flagged_at_the_viewfinder_too(plan):
    middle = plan.study.frame.y_px + plan.study.frame.height_px / 2
    stiff = set_horizon(Horizon(middle + 5)).apply(plan, "2026-05-01T12:00:00+02:00")
    assert found(judged(stiff, grey()), "horizon_half") is not None
    free = set_horizon(Horizon(middle + 80)).apply(plan, "2026-05-01T12:00:00+02:00")
    assert found(judged(free, grey()), "horizon_half") is None
