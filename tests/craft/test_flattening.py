"""A flattened picture against what is known of it on paper, and against a public library."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from skimage.restoration import denoise_tv_chambolle

from mild_compass.craft.checkpoint import OvertakenError, stopped_when
from mild_compass.craft.values.total_variation import flattened


def blots(seed: int, size: tuple[int, int] = (90, 130)) -> np.ndarray:
    """L* of soft blots with grain on them."""
    hand = np.random.default_rng(seed)
    soft = cv2.GaussianBlur(hand.normal(0, 1, size).astype(np.float32), (0, 0), 6)
    return np.asarray(
        np.clip(50 + 22 * soft / max(float(soft.std()), 1e-6) + hand.normal(0, 5, size), 0, 100), np.float32
    )


def energy(found: np.ndarray, lightness: np.ndarray, strength: float) -> float:
    """Half the squared differences and the strength times the total variation."""
    across, down = np.zeros_like(found), np.zeros_like(found)
    across[:, :-1], down[:-1] = np.diff(found, axis=1), np.diff(found, axis=0)
    return float(0.5 * ((found - lightness) ** 2).sum() + strength * np.hypot(across, down).sum())


@pytest.mark.parametrize(("radius", "strength"), [(40, 30.0), (40, 80.0), (25, 50.0)])
def test_a_disc_loses_twice_the_strength_by_its_radius(radius, strength):
    """D. Strong & T. Chan, Inverse Problems 19, 2003; the ground, far larger, gains what the disc loses."""
    y, x = np.mgrid[:240, :240]
    disc = np.hypot(x - 119.5, y - 119.5) < radius
    found = flattened(np.where(disc, 70.0, 20.0).astype(np.float32), strength)
    lost = 50 - (found[110:130, 110:130].mean() - found[:10].mean())
    gained = 2 * np.pi * radius * strength / (240**2 - np.pi * radius**2)
    assert lost == pytest.approx(2 * strength / radius + gained, rel=0.06)


@pytest.mark.parametrize("strength", [4.0, 15.0])
@pytest.mark.parametrize("seed", [1, 2])
def test_it_comes_as_near_to_the_least_as_a_public_library(seed, strength):
    """scikit-image's denoise_tv_chambolle, run a hundred times as long."""
    lightness = blots(seed)
    theirs = denoise_tv_chambolle(lightness, weight=strength, eps=1e-9, max_num_iter=3000)
    found = energy(flattened(lightness, strength), lightness, strength)
    assert found <= 1.002 * energy(theirs, lightness, strength)
    assert found < 0.8 * energy(lightness, lightness, strength)


def test_no_light_is_lost_and_an_even_picture_stays():
    lightness = blots(3)
    assert flattened(lightness, 20.0).mean() == pytest.approx(lightness.mean(), abs=0.01)
    even = np.full((40, 50), 37.0, np.float32)
    assert flattened(even, 20.0) == pytest.approx(even, abs=1e-3)


def test_where_border_is_dearer_more_is_flattened():
    lightness = blots(4)
    weight = np.ones(lightness.shape, np.float32)
    weight[:, 65:] = 4.0
    plain, found = flattened(lightness, 5.0), flattened(lightness, 5.0, weight)
    assert np.abs(found - plain)[:, :55].mean() < 0.3
    assert np.abs(np.diff(found[:, 75:])).sum() < 0.8 * np.abs(np.diff(plain[:, 75:])).sum()
    assert flattened(lightness, 5.0, np.ones_like(weight)) == pytest.approx(plain, abs=1e-4)


@pytest.mark.parametrize("size", [(1, 1), (1, 9), (9, 1), (15, 40), (33, 47)])
def test_pictures_of_any_size_can_be_flattened(size):
    lightness = blots(5, size)
    found = flattened(lightness, 3.0)
    assert found.shape == size
    assert lightness.min() - 1e-3 <= found.min() <= found.max() <= lightness.max() + 1e-3


def test_it_can_be_called_off():
    with stopped_when(lambda: True), pytest.raises(OvertakenError):
        flattened(blots(6), 5.0)
