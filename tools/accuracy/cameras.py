"""Random cameras with everything known: where they stand and look, their lens, and how the picture was cropped."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, hypot, radians, sin

import numpy as np

SIZE = (1500, 1000)


@dataclass(frozen=True, eq=False, slots=True)
class KnownCamera:
    """``turn`` (3, 3) has the camera's right, down and forward in the scene (x right, y ahead, z up) as its rows."""

    focal_px: float
    centre_px: tuple[float, float]
    turn: np.ndarray
    eye_m: float
    k1: float = 0.0
    size_px: tuple[int, int] = SIZE

    def straight(self, points_m: np.ndarray) -> np.ndarray:
        """Scene points (n, 3) on the picture of a lens without bow (n, 2); NaN behind the eye."""
        local = (np.asarray(points_m, float).reshape(-1, 3) - (0, 0, self.eye_m)) @ self.turn.T
        depth = np.where(local[:, 2] > 0.05, local[:, 2], np.nan)
        return local[:, :2] / depth[:, None] * self.focal_px + self.centre_px

    def bowed(self, points_px: np.ndarray) -> np.ndarray:
        """Points of the straight picture as this lens shows them: x' = x·(1 + k1·r²)."""
        flat = (np.asarray(points_px, float) - self.centre_px) / self.focal_px
        return flat * (1 + self.k1 * (flat**2).sum(-1, keepdims=True)) * self.focal_px + self.centre_px

    def seen(self, points_m: np.ndarray) -> np.ndarray:
        """Scene points as they lie in the picture."""
        return self.bowed(self.straight(points_m))

    def toward(self, direction: np.ndarray) -> np.ndarray:
        """The vanishing point (x, y, w) of a direction, in the straight picture."""
        x, y, z = self.turn @ np.asarray(direction, float)
        return np.array([self.focal_px * x + self.centre_px[0] * z, self.focal_px * y + self.centre_px[1] * z, z])

    @property
    def horizon(self) -> tuple[float, float]:
        """Where the horizon crosses the middle column of the picture, in pixels down, and its tilt in degrees."""
        a, b = (self.toward(np.array([side, 1.0, 0.0])) for side in (-0.3, 0.3))
        line = np.cross(a, b)
        return float(-(line[0] * self.size_px[0] / 2 + line[2]) / line[1]), float(
            np.degrees(np.arctan(-line[0] / line[1]))
        )


def camera(
    focal_35mm: float,
    pitch_deg: float = 0.0,
    roll_deg: float = 0.0,
    yaw_deg: float = 0.0,
    crop: tuple[float, float] = (0.0, 0.0),
    k1: float = 0.0,
    eye_m: float = 1.6,
    size_px: tuple[int, int] = SIZE,
) -> KnownCamera:
    """A camera by its angles: pitch upward, roll clockwise; ``crop`` is how far the true centre is off, in shares."""
    p, r, h = radians(pitch_deg), radians(roll_deg), radians(yaw_deg)
    ahead = np.array([sin(h) * cos(p), cos(h) * cos(p), sin(p)])
    right = np.array([cos(h), -sin(h), 0.0])
    down = np.cross(ahead, right)
    right, down = cos(r) * right + sin(r) * down, -sin(r) * right + cos(r) * down
    centre = (size_px[0] * (0.5 + crop[0]), size_px[1] * (0.5 + crop[1]))
    return KnownCamera(focal_35mm / 36 * max(size_px), centre, np.stack([right, down, ahead]), eye_m, k1, size_px)


KINDS = ("plain", "tilted", "rolled", "cropped", "bowed")


def random_camera(hand: np.random.Generator, kind: str) -> KnownCamera:
    """One of a kind: plain as a careful photographer holds it, or with one thing awry."""
    longest = {"bowed": 50, "tilted": 50}.get(kind, 120)
    focal = float(np.exp(hand.uniform(np.log(24), np.log(longest))))
    pitch, roll = float(hand.uniform(-4, 6)), float(hand.normal(0, 0.7))
    crop, k1 = (0.0, 0.0), 0.0
    if kind == "tilted":
        pitch = float(hand.choice([-1, 1]) * hand.uniform(8, 25))
    if kind == "rolled":
        roll = float(hand.choice([-1, 1]) * hand.uniform(3, 12))
    if kind == "cropped":
        away, turn = hand.uniform(0.06, 0.15), hand.uniform(0, 2 * np.pi)
        crop = (float(away * cos(turn)), float(away * sin(turn)))
    if kind == "bowed":
        k1 = float(hand.uniform(-0.2, 0.05))
    yaw, eye = float(hand.uniform(-12, 12)), float(hand.uniform(1.2, 2.4))
    return camera(focal, pitch, roll, yaw, crop, k1, eye)


def off_px(found: np.ndarray, true: np.ndarray) -> float:
    """Distance of two points."""
    return float(hypot(*(np.asarray(found) - np.asarray(true))))
