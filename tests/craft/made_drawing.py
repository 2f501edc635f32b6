"""A made-up drawing for the tests of the check: a shed, posts, a path, a hill, as polylines on A4 across."""

from __future__ import annotations

import numpy as np
from tools.accuracy.photographed import Hand, Moved, Photographed, Shot, photographed

from mild_compass.craft.check.asked import Asked
from mild_compass.craft.check.pieces import PlanLine

A4 = (297.0, 210.0)
SMALL = (2200, 1650)
SHED, CART = (98.0, 95.0, 30.0), (222.0, 150.0, 26.0)  # x, y, radius


def _box(x: float, y: float, w: float, h: float) -> np.ndarray:
    return np.array([[x, y], [x + w, y], [x + w, y + h], [x, y + h], [x, y]])


def _ring(x: float, y: float, r: float) -> np.ndarray:
    angle = np.linspace(0, 2 * np.pi, 40)
    return np.stack([x + r * np.cos(angle), y + r * np.sin(angle)], 1)


def lines() -> list[np.ndarray]:
    """Some seventy strokes."""
    found = [_box(72, 80, 52, 40), np.array([[68, 80], [98, 62], [128, 80.0]]), np.array([[72, 80], [124, 80.0]])]
    found += [_box(78 + 15 * k, 88, 9, 11) for k in range(3)] + [_box(92, 103, 9, 17)]
    found += [np.array([[150 + 11 * k, 78 + 1.4 * k], [150 + 11 * k, 104 + 2.6 * k]]) for k in range(9)]
    found += [np.array([[150, 82 + 7 * k], [238, 93 + 8.0 * k]]) for k in range(2)]
    found += [_ring(212, 155, 11), _ring(236, 155, 11), _ring(212, 155, 3), _ring(236, 155, 3)]
    found += [np.array([[200, 140], [252, 140], [258, 132.0]]), np.array([[204, 146], [246, 146.0]])]
    x = np.linspace(24, 272, 60)
    found += [np.stack([x, 66 + 9 * np.sin(x / 31)], 1), np.stack([x, 180 + 4 * np.sin(x / 22 + 1)], 1)]
    found += [np.array([[40 + 26 * k, 190], [120 + 9 * k, 124.0]]) for k in range(6)]
    found += [
        np.stack([40 + 7 * np.cos(t) + 18 * k, 100 + 12 * np.sin(t)], 1)
        for k in range(2)
        for t in [np.linspace(2, 7, 30)]
    ]
    found += [np.array([[30, 40 + 6 * k], [70 - 4 * k, 40 + 6.5 * k]]) for k in range(3)]
    return found


def asked(names: tuple[tuple[str, float, float, float], ...] = (("shed", *SHED), ("cart", *CART))) -> Asked:
    """What is looked for in photos of it."""
    return Asked(*A4, tuple(PlanLine(line, "lines") for line in lines()), names=names, paper="A4")


def photo(hand: Hand | None = None, shot: Shot | None = None, seed: int = 1, kept: slice = slice(None)) -> Photographed:
    """A photo of it as a hand has drawn it."""
    return photographed(lines()[kept], A4, hand or Hand(), shot or Shot(SMALL), seed)


def cart_off(shift: tuple[float, float], **more: float) -> Hand:
    """A hand that has put the cart elsewhere."""
    return Hand(parts=(Moved(CART[:2], CART[2], shift, **more),))
