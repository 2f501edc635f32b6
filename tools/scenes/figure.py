"""A gardener modelled as blended distance fields, turned into meshes one material at a time."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from skimage.measure import marching_cubes

from .mesh import Mesh

Field = Callable[[np.ndarray], np.ndarray]


def capsule(start: tuple, end: tuple, r0: float, r1: float) -> Field:
    """A limb between two points whose radius changes from r0 to r1."""
    a, b = np.array(start, float), np.array(end, float)

    def field(p: np.ndarray) -> np.ndarray:
        t = np.clip(((p - a) @ (b - a)) / ((b - a) @ (b - a)), 0, 1)
        return np.linalg.norm(p - a - t[..., None] * (b - a), axis=-1) - (r0 + (r1 - r0) * t)

    return field


def ellipsoid(centre: tuple, radii: tuple) -> Field:
    """An egg-shaped form."""
    c, r = np.array(centre, float), np.array(radii, float)

    def field(p: np.ndarray) -> np.ndarray:
        k = np.linalg.norm((p - c) / r, axis=-1)
        return (k - 1) * r.min()

    return field


def blend(fields: list[Field], softness: float) -> Field:
    """Smooth union of several forms."""

    def field(p: np.ndarray) -> np.ndarray:
        total = fields[0](p)
        for other in fields[1:]:
            d = other(p)
            h = np.clip(0.5 + 0.5 * (d - total) / softness, 0, 1)
            total = d * (1 - h) + total * h - softness * h * (1 - h)
        return total

    return field


def to_mesh(
    field: Field, low: tuple, high: tuple, place: Callable[[np.ndarray], np.ndarray], ripple: float = 0.0
) -> Mesh:
    """Surface of a form, moved to its place; ripple adds folds as of cloth."""
    step = 0.011
    axes = [np.arange(a, b, step) for a, b in zip(low, high, strict=True)]
    grid = np.stack(np.meshgrid(*axes, indexing="ij"), -1)
    values = field(grid)
    if ripple:
        x, y, z = np.moveaxis(grid, -1, 0)
        values = values + ripple * np.sin(9 * z + 23 * x + 3 * np.sin(17 * y)) * np.sin(21 * y - 5 * z)
    points, faces, _, _ = marching_cubes(values, 0.0, spacing=(step,) * 3)
    points = points + np.array(low)
    mesh = Mesh()
    mesh.add(place(points), faces, points[:, [1, 2]] * 2)
    return mesh


def gardener(at: tuple[float, float], facing_deg: float) -> dict[str, Mesh]:
    """A woman 1.66 m tall with hat, apron and watering can; facing 0 looks along +x, 90 away from the viewer."""
    angle = np.radians(facing_deg)
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])

    def place(p: np.ndarray) -> np.ndarray:
        return np.concatenate([p[:, :2] @ turn.T + np.array(at), p[:, 2:]], 1)

    low, high = (-0.5, -0.5, 0.0), (0.9, 0.5, 1.75)
    legs = blend(
        [
            capsule((0.02, 0.09, 0.88), (0.06, 0.10, 0.48), 0.10, 0.068),
            capsule((0.06, 0.10, 0.48), (0.0, 0.11, 0.14), 0.066, 0.055),
            capsule((0.0, -0.09, 0.88), (-0.06, -0.10, 0.47), 0.10, 0.068),
            capsule((-0.06, -0.10, 0.47), (-0.15, -0.11, 0.14), 0.066, 0.055),
        ],
        0.04,
    )
    boots = blend(
        [
            capsule((0.0, 0.11, 0.26), (0.0, 0.11, 0.06), 0.075, 0.06),
            capsule((0.0, 0.11, 0.05), (0.16, 0.12, 0.045), 0.055, 0.048),
            capsule((-0.15, -0.11, 0.26), (-0.16, -0.11, 0.06), 0.075, 0.06),
            capsule((-0.16, -0.11, 0.05), (0.0, -0.12, 0.045), 0.055, 0.048),
        ],
        0.04,
    )
    shirt = blend(
        [
            ellipsoid((0.0, 0.0, 0.98), (0.13, 0.18, 0.16)),
            ellipsoid((0.02, 0.0, 1.22), (0.125, 0.175, 0.2)),
            capsule((0.02, 0.17, 1.36), (0.06, 0.23, 1.10), 0.062, 0.052),
            capsule((0.06, 0.23, 1.10), (0.27, 0.17, 1.00), 0.05, 0.042),
            capsule((0.02, -0.17, 1.36), (0.05, -0.24, 1.10), 0.062, 0.052),
            capsule((0.05, -0.24, 1.10), (0.26, -0.19, 1.02), 0.05, 0.042),
            capsule((0.02, -0.14, 1.38), (0.02, 0.14, 1.38), 0.05, 0.05),
        ],
        0.05,
    )
    apron = blend(
        [ellipsoid((0.06, 0.0, 0.80), (0.12, 0.19, 0.30)), ellipsoid((0.07, 0.0, 1.10), (0.105, 0.13, 0.22))],
        0.06,
    )
    skin = blend(
        [
            ellipsoid((0.055, 0.0, 1.53), (0.088, 0.075, 0.105)),
            capsule((0.02, 0, 1.38), (0.04, 0, 1.47), 0.05, 0.047),
            ellipsoid((0.145, 0.0, 1.52), (0.022, 0.016, 0.026)),
            capsule((0.27, 0.17, 1.00), (0.36, 0.13, 0.985), 0.036, 0.034),
            capsule((0.26, -0.19, 1.02), (0.35, -0.08, 1.0), 0.036, 0.034),
        ],
        0.03,
    )
    hair = blend(
        [ellipsoid((0.0, 0.0, 1.555), (0.10, 0.09, 0.10)), ellipsoid((-0.09, 0.0, 1.48), (0.05, 0.05, 0.06))],
        0.03,
    )
    hat = blend(
        [
            ellipsoid((0.03, 0.0, 1.60), (0.20, 0.19, 0.018)),
            ellipsoid((0.02, 0.0, 1.62), (0.10, 0.095, 0.075)),
        ],
        0.03,
    )
    can = blend(
        [
            capsule((0.46, 0.06, 0.72), (0.46, 0.06, 0.90), 0.11, 0.10),
            capsule((0.54, 0.05, 0.76), (0.80, 0.02, 0.98), 0.026, 0.018),
            ellipsoid((0.815, 0.02, 0.995), (0.03, 0.05, 0.04)),
            capsule((0.40, 0.06, 0.98), (0.36, 0.05, 0.99), 0.016, 0.016),
            capsule((0.40, 0.06, 0.98), (0.52, 0.06, 0.93), 0.016, 0.016),
            capsule((0.36, 0.05, 0.99), (0.36, 0.06, 0.80), 0.016, 0.016),
        ],
        0.012,
    )
    parts = {
        "trousers": (legs, 0.004),
        "boots": (boots, 0),
        "shirt": (shirt, 0.005),
        "apron": (apron, 0.006),
        "skin": (skin, 0),
        "hair": (hair, 0.004),
        "hat": (hat, 0),
        "can": (can, 0),
    }
    return {name: to_mesh(field, low, high, place, ripple) for name, (field, ripple) in parts.items()}
