"""Procedural surfaces as linear-light picture arrays, made from summed noise."""

from __future__ import annotations

import cv2
import numpy as np

SIZE = 512


def noise(seed: int, scales: tuple[int, ...] = (4, 8, 16, 32, 64, 128), stretch: int = 1) -> np.ndarray:
    """Tileable cloud noise in 0-1 of shape (SIZE, SIZE); stretch draws it out along the rows."""
    rng = np.random.default_rng(seed)
    total = np.zeros((SIZE, SIZE), np.float32)
    for scale in scales:
        grid = rng.random((scale, max(2, scale // stretch)), np.float32)
        wrapped = np.pad(grid, 2, mode="wrap")
        step_y, step_x = SIZE / grid.shape[0], SIZE / grid.shape[1]
        size = (round(wrapped.shape[1] * step_x), round(wrapped.shape[0] * step_y))
        big = cv2.resize(wrapped, size, interpolation=cv2.INTER_CUBIC)
        y, x = round(2 * step_y), round(2 * step_x)
        total += big[y : y + SIZE, x : x + SIZE] / scale**0.7
    total -= total.min()
    return total / total.max()


def mix(amount: np.ndarray, low: tuple[float, ...], high: tuple[float, ...]) -> np.ndarray:
    """Blend two colours by an amount in 0-1."""
    a = np.clip(amount, 0, 1)[..., None]
    return (np.array(low) * (1 - a) + np.array(high) * a).astype(np.float32)


def wood(seed: int, low: tuple[float, ...], high: tuple[float, ...]) -> np.ndarray:
    """Weathered boards with the grain along v."""
    grain = noise(seed, (24, 48, 96, 192), stretch=16).T
    stain = noise(seed + 1)
    return mix(0.65 * grain + 0.45 * stain - 0.05, low, high)


def bricks(seed: int) -> np.ndarray:
    """Brick courses: one picture is 0.9 m wide (4 stretchers) and 0.9 m high (12 courses)."""
    rng = np.random.default_rng(seed)
    picture = mix(noise(seed), (0.20, 0.075, 0.045), (0.42, 0.19, 0.12))
    rows, columns = 12, 4
    y = np.arange(SIZE)[:, None] / SIZE * rows
    x = np.arange(SIZE)[None] / SIZE * columns + (np.floor(y) % 2) * 0.5
    tint = rng.uniform(0.65, 1.25, (rows, columns))[np.floor(y).astype(int), np.floor(x).astype(int) % columns]
    picture = picture * tint[..., None]
    mortar = ((y % 1) < 0.13) | ((x % 1) < 0.045)
    return np.where(mortar[..., None], mix(noise(seed + 3), (0.28, 0.26, 0.22), (0.5, 0.47, 0.42)), picture)


def paving(seed: int) -> np.ndarray:
    """Concrete slabs: one picture is 1.2 m square and holds two by two slabs."""
    rng = np.random.default_rng(seed)
    picture = mix(noise(seed, (4, 8, 32, 128, 256)), (0.17, 0.16, 0.14), (0.40, 0.385, 0.35))
    y = np.arange(SIZE)[:, None] / SIZE * 2
    x = np.arange(SIZE)[None] / SIZE * 2
    tint = rng.uniform(0.8, 1.12, (2, 2))[np.floor(y).astype(int), np.floor(x).astype(int)]
    joint = ((y % 1) < 0.022) | ((x % 1) < 0.022)
    moss = mix(noise(seed + 5), (0.03, 0.04, 0.02), (0.10, 0.11, 0.05))
    damp = np.clip(noise(seed + 7, (3, 6, 12)) * 2.2 - 1.1, 0, 1)[..., None]
    return np.where(joint[..., None], moss, picture * tint[..., None] * (1 - 0.45 * damp))


def earth(seed: int, low: tuple[float, ...], high: tuple[float, ...]) -> np.ndarray:
    """Soil, gravel or grass, by colour."""
    return mix(noise(seed, (8, 32, 64, 128, 256)) ** 1.3, low, high)


def leafage(seed: int, low: tuple[float, ...], high: tuple[float, ...]) -> np.ndarray:
    """A leaf with a lighter rib and mottling."""
    base = mix(noise(seed, (4, 16, 64)), low, high)
    u = np.abs(np.arange(SIZE) / SIZE - 0.5)[None]
    rib = np.clip(1 - u / 0.03, 0, 1)[..., None]
    return base * (1 - 0.5 * rib) + 0.5 * rib * np.array(high) * 1.4


def cloth(seed: int, colour: tuple[float, float, float]) -> np.ndarray:
    """Worn cloth."""
    return (np.array(colour) * (0.65 + 0.6 * noise(seed, (6, 12, 64, 256)))[..., None]).astype(np.float32)


def sky(seed: int) -> np.ndarray:
    """Latitude-longitude sky of shape (256, 512, 3): pale at the horizon, deeper overhead, with soft cloud."""
    height = np.clip(1 - np.arange(256) / 128, 0, 1)[:, None]
    clear = mix(np.broadcast_to(height**0.6, (256, 512)), (0.95, 0.98, 1.02), (0.30, 0.45, 0.80))
    cloud = cv2.resize(noise(seed, (3, 6, 12, 24, 48)), (512, 256))
    amount = np.clip(2.6 * cloud - 1.35, 0, 1)[..., None] * np.clip(height * 4, 0, 1)[..., None]
    picture = clear * (1 - amount) + amount * np.array((1.35, 1.33, 1.30))
    picture[128:] = (0.10, 0.11, 0.08)
    return np.ascontiguousarray(picture, np.float32)
