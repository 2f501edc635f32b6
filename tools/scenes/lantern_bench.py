"""The lantern bench: three lanterns, a funnel and a folded cloth on a bench under one window light."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from . import textures as tx
from .mesh import Mesh

TOP = 0.95  # of the bench
ROOM = ((-1.7, -1.2, 0.0), (1.9, 1.75, 2.5))
WINDOW = ((-1.66, 0.45, 1.2), (-1.66, 1.2, 2.0))
SUN = (0.2, 0.3, -0.9)  # outside: the room is closed, and only its window lights it
RED, IRON, BRASS = (-0.34, 1.0), (-0.02, 1.2), (0.3, 1.04)


@dataclass(frozen=True)
class Shot:
    """One photograph of the bench."""

    name: str
    camera: tuple[float, float, float]
    yaw_deg: float
    pitch_deg: float


SHOTS = (Shot("lantern-bench", (0.03, 0.12, 1.4), 1.0, -17.0),)


def room() -> dict[str, Mesh]:
    """Six boarded sides, the window with its bars, a shelf, and the bench."""
    (x0, y0, z0), (x1, y1, z1) = ROOM
    boards, plaster, bars, bench, window = Mesh(), Mesh(), Mesh(), Mesh(), Mesh()
    for k, x in enumerate(np.arange(x0, x1, 0.21)):
        boards.box((x, y1 + 0.004 * (k % 3), z0), (min(x + 0.204, x1), y1 + 0.03, z1))
    plaster.box((x0 - 0.1, y0 - 0.1, z0), (x0 - 0.02, y1 + 0.1, z1))
    plaster.box((x1, y0 - 0.1, z0), (x1 + 0.1, y1 + 0.1, z1))
    plaster.box((x0 - 0.1, y0 - 0.1, z0), (x1 + 0.1, y0, z1))
    plaster.box((x0 - 0.1, y0 - 0.1, z1), (x1 + 0.1, y1 + 0.1, z1 + 0.1))
    plaster.box((x0 - 0.1, y0 - 0.1, z0 - 0.1), (x1 + 0.1, y1 + 0.1, z0))
    plaster.box((x0 - 0.1, y1 + 0.05, z0), (x1 + 0.1, y1 + 0.1, z1))
    (wx, wy0, wz0), (_, wy1, wz1) = WINDOW
    window.quad(np.array([[wx, wy0, wz0], [wx, wy1, wz0], [wx, wy1, wz1], [wx, wy0, wz1]]), np.zeros((4, 2)))
    for y in np.linspace(wy0, wy1, 4):
        bars.bar((wx + 0.03, y, wz0), (wx + 0.03, y, wz1), 0.04, 0.04)
    for z in np.linspace(wz0, wz1, 3):
        bars.bar((wx + 0.03, wy0, z), (wx + 0.03, wy1, z), 0.04, 0.04)
    for k in range(5):
        bench.box((-1.5, 0.62 + 0.2 * k, TOP - 0.05), (1.75, 0.815 + 0.2 * k, TOP))
    bench.box((-1.5, 0.64, TOP - 0.17), (1.75, 0.68, TOP - 0.05))
    bench.box((-0.2, 1.5, 1.78), (1.7, 1.72, 1.81))  # a shelf above
    return {"boards": boards, "plaster": plaster, "paint": bars, "bench": bench, "window": window}


def things() -> dict[str, Mesh]:
    """What stands on the bench and the shelf."""
    meshes = {name: Mesh() for name in ("enamel-red", "enamel-iron", "enamel-brass", "glass", "enamel-tin", "cord")}
    for at, name, size in ((RED, "enamel-red", 1.0), (IRON, "enamel-iron", 1.22), (BRASS, "enamel-brass", 0.86)):
        _lantern(meshes[name], meshes["glass"], meshes["cord"], (*at, TOP), size)
    _funnel(meshes["enamel-tin"], (0.06, 0.84, TOP))
    meshes["cloth"] = _cloth((0.36, 0.8, TOP))
    pots = Mesh()
    for x, r in ((0.2, 0.06), (0.62, 0.08), (1.1, 0.05)):
        pots.lathe([(0, 0), (0.8 * r, 0), (r, 1.6 * r), (0.9 * r, 1.6 * r), (0.8 * r, 0.2 * r)], (x, 1.62, 1.81), 48)
    meshes["terracotta"] = pots
    return meshes


def _lantern(body: Mesh, glass: Mesh, wire: Mesh, at: tuple[float, float, float], s: float) -> None:
    """A tank, a glass between four wires, a vented cap and a handle."""
    x, y, z = at
    tank = [(0, 0), (0.085, 0), (0.09, 0.012), (0.09, 0.055), (0.075, 0.075), (0.04, 0.08), (0.04, 0.1), (0, 0.1)]
    cap = [(0.05, 0.235), (0.06, 0.245), (0.045, 0.27), (0.03, 0.28), (0.034, 0.3), (0.03, 0.32), (0, 0.325)]
    chimney = [(0.042, 0.1), (0.06, 0.14), (0.062, 0.18), (0.045, 0.235)]
    for form, profile in ((body, tank), (body, cap), (glass, chimney)):
        form.lathe([(s * r, s * h) for r, h in profile], at, 64)
    for k in range(4):
        angle = np.pi / 4 + k * np.pi / 2
        dx, dy = s * 0.072 * np.cos(angle), s * 0.072 * np.sin(angle)
        wire.bar((x + dx, y + dy, z + s * 0.07), (x + 0.8 * dx, y + 0.8 * dy, z + s * 0.25), 0.005, 0.005)
    bow = np.linspace(0, np.pi, 13)
    points = [(x + s * 0.075 * np.cos(a), y, z + s * (0.25 + 0.17 * np.sin(a))) for a in bow]
    for start, end in pairwise(points):
        wire.bar(start, end, 0.004, 0.004)


def _funnel(tin: Mesh, at: tuple[float, float, float]) -> None:
    """Standing on its wide rim."""
    tin.lathe([(0.1, 0), (0.1, 0.012), (0.022, 0.115), (0.016, 0.19), (0.013, 0.19), (0.018, 0.115)], at, 64)


def _cloth(at: tuple[float, float, float]) -> Mesh:
    """Folded four times, with rounded folds on the left and one corner hanging over the edge."""
    mesh = Mesh()
    x, y, z = at
    rng = np.random.default_rng(5)
    for k in range(4):
        low = z + 0.02 * k
        fold = np.linspace(-np.pi / 2, np.pi / 2, 9)
        profile = [(x - 0.0095 * np.cos(a), low + 0.0095 + 0.0095 * np.sin(a)) for a in fold]
        outline = [(x + 0.24, low), *profile, (x + 0.24, low + 0.019)]
        lean = rng.normal(0, 0.006, 2)
        for (xa, za), (xb, zb) in pairwise(outline):
            corners = [
                [xa + lean[0], y - 0.12, za],
                [xb + lean[0], y - 0.12, zb],
                [xb, y + 0.16, zb],
                [xa, y + 0.16, za],
            ]
            mesh.quad(np.array(corners), np.array([[xa, 0], [xb, 0], [xb, 0.28], [xa, 0.28]]) * 4)
        front = [
            [x, y - 0.12, low],
            [x + 0.24, y - 0.12, low],
            [x + 0.24, y - 0.12, low + 0.019],
            [x, y - 0.12, low + 0.019],
        ]
        mesh.quad(np.array(front), np.array([[0, 0], [1, 0], [1, 0.1], [0, 0.1]]))
        rim = np.array([[x, y - 0.12, low + 0.0095], *([xa + lean[0], y - 0.12, za] for xa, za in profile)])
        mesh.add(rim, np.array([[0, j, j + 1] for j in range(1, len(profile))]))
    drop = np.linspace(0, 1, 10)
    edge = np.stack([x + 0.06 + 0.12 * drop, y - 0.12 - 0.16 * np.sin(drop * 1.2), z + 0.08 - 0.2 * drop**2], 1)
    other = edge + np.array([0.11, 0.02, 0.0])
    for a, b, c, d in zip(edge, edge[1:], other[1:], other, strict=False):
        mesh.quad(np.array([a, b, c, d]), np.array([[0, 0], [0, 0.3], [1, 0.3], [1, 0]]))
    return mesh


def surfaces() -> dict[str, tuple[np.ndarray | tuple[float, float, float], float]]:
    """Texture (or plain colour) and repeats per metre of every material."""
    return {
        "boards": (tx.wood(41, (0.045, 0.04, 0.035), (0.16, 0.14, 0.12)), 0.8),
        "plaster": (tx.earth(42, (0.06, 0.055, 0.05), (0.10, 0.095, 0.085)), 0.6),
        "paint": ((0.45, 0.45, 0.42), 1),
        "bench": (tx.wood(43, (0.13, 0.09, 0.05), (0.38, 0.29, 0.19)), 0.9),
        "enamel-red": ((0.33, 0.012, 0.014), 1),
        "enamel-iron": ((0.022, 0.023, 0.026), 1),
        "enamel-brass": ((0.42, 0.25, 0.06), 1),
        "enamel-tin": ((0.36, 0.38, 0.39), 1),
        "cord": ((0.05, 0.05, 0.05), 1),
        "cloth": (tx.cloth(44, (0.62, 0.42, 0.03)), 1),
        "terracotta": (tx.earth(45, (0.26, 0.095, 0.05), (0.50, 0.24, 0.15)), 1.3),
    }
