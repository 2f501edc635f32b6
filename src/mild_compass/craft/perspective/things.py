"""Neutral silhouettes and usual heights of things whose size is known."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.plan.guides import Thing

    Array = NDArray[np.float64]

# Heights in metres. Standing adults: US Army anthropometric survey 1988 (from memory), eyes at 1.63 m and 1.52 m.
# Saloon car, storey, lamp post, child of about eight: common practice, no published source. Door leaf 80 in, US usual
# (from memory; 1.98 m is usual in the UK, from memory).
USUAL_M: dict[Thing, float] = {
    "man": 1.75,
    "woman": 1.63,
    "child": 1.28,
    "car": 1.45,
    "door": 2.03,
    "storey": 3.0,
    "lamp post": 5.0,
    "own": 1.0,
}
EYE_OF_M: dict[str, float] = {"man": 1.63, "woman": 1.52}
THING_WORDS: dict[Thing, str] = {
    "man": "man",
    "woman": "woman",
    "child": "child",
    "car": "car",
    "door": "door",
    "storey": "storey",
    "lamp post": "lamp post",
    "own": "own height",
}


def _mirrored(half: list[tuple[float, float]]) -> Array:
    """A closed outline from its right half, given from the top down to the middle of the foot."""
    right = np.array(half, np.float64)
    left = right[::-1] * (-1, 1)
    return np.concatenate([right, left, right[:1]])


# Right halves: x in heights from the middle, z in heights from the ground.
_PERSON = _mirrored(
    [
        *((0.0, 1.0), (0.035, 0.985), (0.048, 0.945), (0.042, 0.9), (0.026, 0.872), (0.028, 0.85)),
        *((0.105, 0.82), (0.13, 0.78), (0.14, 0.66), (0.145, 0.52), (0.142, 0.43), (0.118, 0.43)),
        *((0.112, 0.54), (0.1, 0.68), (0.092, 0.6), (0.1, 0.5), (0.098, 0.38), (0.08, 0.25)),
        *((0.07, 0.06), (0.085, 0.0), (0.03, 0.0), (0.028, 0.22), (0.012, 0.44), (0.0, 0.46)),
    ]
)
_CAR = _mirrored(
    [
        *((0.0, 1.0), (0.42, 0.98), (0.5, 0.62), (0.6, 0.55), (0.62, 0.2), (0.55, 0.16)),
        *((0.54, 0.0), (0.4, 0.0), (0.39, 0.14), (0.0, 0.14)),
    ]
)
_BAR = _mirrored([(0.0, 1.0), (0.012, 1.0), (0.012, 0.0), (0.0, 0.0)])
_LAMP = _mirrored([(0.0, 1.0), (0.04, 0.97), (0.03, 0.91), (0.01, 0.9), (0.012, 0.1), (0.025, 0.0), (0.0, 0.0)])
_DOOR = _mirrored([(0.0, 1.0), (0.22, 1.0), (0.22, 0.0), (0.0, 0.0)])


def silhouette(thing: Thing) -> Array:
    """The outline (n, 2) of a thing seen from the front: x across from the middle, z up, both in its own heights."""
    return {"man": _PERSON, "woman": _PERSON, "child": _PERSON, "car": _CAR, "door": _DOOR, "lamp post": _LAMP}.get(
        thing, _BAR
    )
