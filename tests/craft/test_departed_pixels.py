"""Departures to the pixel: where a mask lies, how a fade runs, and that a colour stays one a screen can show."""

from __future__ import annotations

from math import hypot

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage.color import lab2rgb, rgb2lab

from mild_compass.craft.picture.departed import LINE_WIDTH, departed, outline_mask, plain_tone
from mild_compass.craft.picture.load import Picture
from mild_compass.craft.picture.tone import LINEAR, lightness, lightness_of_luminance
from mild_compass.plan.study import Departure


class Window:
    """A window whose left top corner lies at a place of the raster."""

    def __init__(self, left: int, top: int, right: int, bottom: int) -> None:
        self.left, self.top, self.right, self.bottom = left, top, right, bottom


def flat(value: int = 128, shape: tuple[int, int] = (100, 200)) -> Picture:
    return Picture(np.full((*shape, 3), value, np.uint8), shape[1], shape[0])


def values_after(picture: Picture, kind: str, points, **more) -> np.ndarray:
    return lightness(departed(picture, [Departure("d", kind, points, **more)], {}).rgb).astype(float)


def test_a_mask_on_whole_pixels_weighs_just_those():
    mask = outline_mask(np.array([[12.0, 6], [18, 6], [18, 10], [12, 10]]), Window(10, 5, 22, 14))
    assert mask[2:4, 3:7].min() > 0.99
    assert mask[1:5, 2:8].min() > 0.7
    assert mask.sum() == pytest.approx(24, rel=0.12)
    rows, columns = np.mgrid[: mask.shape[0], : mask.shape[1]]
    assert (mask * (columns + 0.5)).sum() / mask.sum() + 10 == pytest.approx(15, abs=0.15)
    assert (mask * (rows + 0.5)).sum() / mask.sum() + 5 == pytest.approx(8, abs=0.15)


@given(st.floats(0, 1), st.floats(0, 1))
def test_a_mask_follows_its_outline_by_fractions_of_a_pixel(across, down):
    moved = np.add([[2.0, 2], [12, 2], [12, 8], [2, 8]], (across, down))
    mask = outline_mask(moved, Window(0, 0, 16, 12))
    rows, columns = np.mgrid[:12, :16]
    assert (mask * (columns + 0.5)).sum() / mask.sum() == pytest.approx(7 + across, abs=0.15)
    assert (mask * (rows + 0.5)).sum() / mask.sum() == pytest.approx(5 + down, abs=0.15)


def test_a_soft_mask_keeps_its_weight_and_is_half_at_the_outline():
    points = np.array([[40.0, 40], [80, 40], [80, 80], [40, 80]])
    hard, soft = (outline_mask(points, Window(0, 0, 120, 120), px) for px in (0.0, 6.0))
    assert soft.sum() == pytest.approx(hard.sum(), rel=0.01)
    assert soft[60, 38:42].mean() == pytest.approx(0.5, abs=0.05)
    assert soft[60, 60] > 0.99


def test_a_grade_is_whole_at_its_start_and_beyond_a_half_midway_and_nothing_at_its_end():
    """A fade of 3t² − 2t³, so that neither end shows a line."""
    before = lightness(flat().rgb).astype(float)[50]
    after = values_after(flat(), "gradation", ((60.0, 50.0), (140.0, 50.0)), value=20.0)[50]
    gone = before - after
    assert gone[:60] == pytest.approx(20, abs=0.4)
    assert gone[140:] == pytest.approx(0, abs=0.4)
    assert gone[99:101] == pytest.approx(10, abs=0.5)
    t = 1 - (np.arange(60, 140) + 0.5 - 60) / 80
    assert gone[60:140] == pytest.approx(20 * t * t * (3 - 2 * t), abs=0.5)


def test_a_grade_down_the_picture_runs_down_it():
    gone = 40 - values_after(flat(94), "gradation", ((30.0, 20.0), (30.0, 80.0)), value=15.0) + 0
    column = gone[:, 10] - gone[-1, 10]
    assert column[:20] == pytest.approx(15, abs=0.5)
    assert column[50] == pytest.approx(7.5, abs=0.6)


@given(st.tuples(*[st.floats(0.001, 1)] * 3), st.floats(1, 99))
def test_a_plain_tone_has_the_asked_lightness_whatever_its_hue(linear, value):
    """L* as scikit-image computes it from the bytes; what no screen shows goes toward grey, never dark."""
    tone = plain_tone(np.array(linear), value)
    assert tone.min() >= 0
    assert tone.max() <= 255
    found = rgb2lab(np.round(tone).reshape(1, 1, 3) / 255)[0, 0, 0]
    assert found == pytest.approx(value, abs=0.8)


def test_a_plain_tone_within_reach_keeps_its_hue_and_black_has_none():
    colour = (lab2rgb([[[50.0, 20.0, 15.0]]])[0, 0] * 255).round()
    tone = plain_tone(LINEAR[colour.astype(np.uint8)], 40.0)
    lab = rgb2lab(tone.reshape(1, 1, 3) / 255)[0, 0]
    assert np.degrees(np.arctan2(lab[2], lab[1])) == pytest.approx(np.degrees(np.arctan2(15, 20)), abs=6)
    assert np.ptp(plain_tone(np.zeros(3), 60.0)) == 0


def test_more_contrast_goes_out_from_the_areas_own_mean_and_less_comes_in_to_it():
    picture = flat()
    picture.rgb[:, 100:] = 160
    area = ((60.0, 20.0), (140.0, 20.0), (140.0, 80.0), (60.0, 80.0))
    before = lightness(picture.rgb).astype(float)
    middle = (before[50, 90] + before[50, 110]) / 2
    for kind, factor in (("more contrast", 1.5), ("less contrast", 0.5)):
        after = values_after(picture, kind, area, value=50.0)
        for column in (95, 105):
            assert after[50, column] - middle == pytest.approx(factor * (before[50, column] - middle), abs=0.7)


def test_what_is_lightened_past_white_stays_white_and_its_neighbours_keep_their_order():
    picture = Picture(np.repeat(np.arange(56, 256, dtype=np.uint8)[None, :, None], 60, 0).repeat(3, 2), 200, 60)
    after = values_after(picture, "lighten", ((0.0, 0.0), (200.0, 0.0), (200.0, 60.0), (0.0, 60.0)), value=40.0)[30]
    assert after.max() <= 100
    assert (np.diff(after[40:160]) >= -1e-6).all()


@pytest.mark.parametrize("size", [1.0, 3.0])
def test_a_line_carried_on_is_as_thick_as_its_share_of_the_diagonal_and_lies_on_its_points(size):
    picture = flat(200, (800, 1200))
    picture.rgb[390:411, 90:111] = 30
    points = ((100.5, 400.5), (700.5, 400.5))
    rgb = departed(picture, [Departure("d", "extend a line", points, size=size)], {}).rgb
    column = (200.0 - rgb[:, 400, 0]) / 170
    thick = max(1, round(size * LINE_WIDTH * hypot(800, 1200)))
    assert column.sum() == pytest.approx(thick, rel=0.16, abs=1.6)
    assert (column * (np.arange(800) + 0.5)).sum() / column.sum() == pytest.approx(400.5, abs=0.6)
    assert rgb[400, 760, 0] == 200


def test_an_element_moved_lands_on_its_place_to_a_fraction_of_a_pixel():
    picture = flat(200, (200, 300))
    picture.rgb[60:80, 40:70] = 20
    outline = ((36.0, 56.0), (74.0, 56.0), (74.0, 84.0), (36.0, 84.0))
    for at in ((200.0, 120.0), (200.5, 121.25)):
        after = departed(picture, [Departure("d", "move", outline, x_px=at[0], y_px=at[1])], {}).rgb[..., 0]
        dark = np.clip(200.0 - after, 0, None)
        dark[:, :150] = 0
        rows, columns = np.mgrid[:200, :300]
        assert (dark * (columns + 0.5)).sum() / dark.sum() == pytest.approx(at[0], abs=0.15)
        assert (dark * (rows + 0.5)).sum() / dark.sum() == pytest.approx(at[1], abs=0.15)
        assert dark.sum() / 180 == pytest.approx(600, rel=0.05)


def test_a_tone_of_the_foot_of_the_scale_follows_the_straight_part_of_the_curve():
    """CIE 15:2004: below (6/29)³ L* is 903.3 Y, and the two parts meet at L* 8."""
    assert lightness_of_luminance(np.array([0.001, 0.005])) == pytest.approx([0.9033, 4.5165], abs=0.002)
    assert lightness_of_luminance((6 / 29) ** 3) == pytest.approx(8.0)
