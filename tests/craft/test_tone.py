"""Lightness against the standards' own figures and against colour-science."""

from __future__ import annotations

import colour
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mild_compass.craft.picture.squint import blurred, squint_sigma_px
from mild_compass.craft.picture.tone import grey_of_lightness, lightness, lightness_of_luminance, luminance


def swatch(*rgb: int) -> np.ndarray:
    return np.array([[rgb]], np.uint8)


@pytest.mark.parametrize(
    ("rgb", "expected"),
    [  # IEC 61966-2-1 to linear, Rec. 709 weights, ISO/CIE 11664-4
        ((119, 119, 119), 50.03),
        ((214, 172, 40), 72.2),
        ((150, 20, 25), 31.9),
        ((255, 255, 0), 97.1),
        ((0, 0, 255), 32.3),
        ((0, 0, 0), 0.0),
        ((255, 255, 255), 100.0),
    ],
)
def test_lightness_of_known_colours(rgb, expected):
    assert lightness(swatch(*rgb))[0, 0] == pytest.approx(expected, abs=0.06)


def test_middle_grey_is_at_a_luminance_of_18_42_percent():
    assert lightness_of_luminance(np.array(0.1842)) == pytest.approx(50.0, abs=0.01)


def test_all_greys_and_random_colours_agree_with_colour_science():
    rng = np.random.default_rng(3)
    greys = np.repeat(np.arange(256, dtype=np.uint8)[:, None], 3, 1)
    colours = np.concatenate([greys, rng.integers(0, 256, (2000, 3), np.uint8)])[None]
    linear = colour.models.eotf_sRGB(colours[0] / 255)
    y = linear @ np.array([0.2126, 0.7152, 0.0722])
    expected = colour.colorimetry.lightness_CIE1976(y * 100, 100)
    assert luminance(colours)[0] == pytest.approx(y, abs=1e-6)
    assert lightness_of_luminance(y) == pytest.approx(expected, abs=1e-9)
    assert lightness(colours)[0] == pytest.approx(expected, abs=0.01)


@given(st.integers(0, 255))
def test_the_grey_shown_for_a_lightness_is_the_one_that_has_it(value):
    assert grey_of_lightness(lightness(swatch(value, value, value)))[0, 0] == value


def test_the_grey_shown_for_any_lightness_is_the_nearest_one():
    each = lightness_of_luminance(((np.arange(256) / 255 + 0.055) / 1.055) ** 2.4)
    each[:11] = lightness_of_luminance(np.arange(11) / 255 / 12.92)  # IEC 61966-2-1: a straight piece near black
    between = (each[1:] + each[:-1]) / 2
    asked = np.concatenate([np.linspace(-1, 101, 20_001), between - 1e-6, between + 1e-6])
    off = np.abs(each[grey_of_lightness(asked)] - asked)
    assert off == pytest.approx(np.abs(each[None] - asked[:, None]).min(1), abs=1e-9)


def test_a_squint_mixes_light_and_not_bytes():
    """Black and white in equal parts blur to half the light, which is sRGB 188, and not to byte 128."""
    board = np.indices((64, 64)).sum(0) % 2 * 255
    soft = blurred(np.repeat(board[..., None], 3, 2).astype(np.uint8), 6.0)
    assert soft[32, 32, 0] == pytest.approx(188, abs=1)


def test_a_blur_of_nothing_leaves_the_picture_alone():
    picture = np.arange(48, dtype=np.uint8).reshape(4, 4, 3)
    assert np.array_equal(blurred(picture, 0), picture)


def test_a_larger_picture_is_squinted_at_in_proportion():
    assert squint_sigma_px(3000, 4000) == pytest.approx(10 * squint_sigma_px(300, 400))
