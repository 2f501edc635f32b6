"""The glasshouse: benches left and right, hanging lamps in a row, a gardener with a watering can."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from . import textures as tx
from .figure import gardener
from .mesh import Mesh, leaf

LENGTH, HALF, EAVES, RIDGE = 19.0, 2.9, 2.25, 3.7
BENCH_NEAR, BENCH_FAR, BENCH_TOP = 0.75, 2.35, 0.82
EYE = 1.55


@dataclass(frozen=True)
class Shot:
    """One photograph: where the camera stands and looks, where the gardener is, and what spoils it."""

    name: str
    camera: tuple[float, float, float]
    yaw_deg: float  # positive looks to the right
    pitch_deg: float  # positive looks up
    gardener: tuple[float, float]
    facing_deg: float
    crates_on_path: bool = False
    glaring_pane: bool = False


SHOTS = (
    Shot("glasshouse-good", (-0.12, 0.0, EYE), 7.0, -3.5, (0.42, 5.1), 200),
    Shot("glasshouse-centre", (0.0, 0.2, EYE), 0.0, -2.0, (0.0, 5.0), 250),
    Shot("glasshouse-looking-out", (0.1, 0.0, EYE), -13.0, -2.5, (0.48, 3.9), 12),
    Shot("glasshouse-glare", (0.05, 0.0, EYE), -4.0, -2.5, (-0.3, 5.6), 330, glaring_pane=True),
    Shot("glasshouse-crates", (0.15, 0.0, EYE), 2.0, -5.0, (0.25, 7.4), 215, crates_on_path=True),
)


def structure() -> dict[str, Mesh]:
    """Walls, bars, rafters, ridge, the far gable with its door."""
    brick, bars, glass = Mesh(), Mesh(), Mesh()
    for side in (-1, 1):
        x = side * HALF
        brick.box((min(x, x + side * 0.22), -3, 0), (max(x, x + side * 0.22), LENGTH, 0.72))
        for y in np.arange(-3, LENGTH + 0.01, 0.62):
            bars.bar((x, y, 0.72), (x, y, EAVES), 0.045, 0.05)
            bars.bar((x, y, EAVES), (0, y, RIDGE), 0.045, 0.06)
        for y in np.arange(-3, LENGTH, 3.1):
            bars.bar((x * 0.985, y, 0), (x * 0.985, y, EAVES), 0.09, 0.09)
            bars.bar((x, y, EAVES), (0, y, RIDGE - 0.06), 0.07, 0.13)
        for height, thick in ((0.76, 0.09), (1.5, 0.035), (EAVES, 0.10)):
            bars.bar((x, -3, height), (x, LENGTH, height), thick, thick)
        for share in (0.33, 0.67):
            z = EAVES + (RIDGE - EAVES) * share
            bars.bar((x * (1 - share), -3, z - 0.05), (x * (1 - share), LENGTH, z - 0.05), 0.05, 0.05)
    bars.bar((0, -3, RIDGE), (0, LENGTH, RIDGE), 0.08, 0.14)
    for y in np.arange(0.1, LENGTH, 3.1):
        bars.bar((-HALF, y, EAVES), (HALF, y, EAVES), 0.05, 0.07)
    glass.quad(
        np.array([[HALF, -3, 0.75], [HALF, LENGTH, 0.75], [HALF, LENGTH, EAVES], [HALF, -3, EAVES]]),
        np.zeros((4, 2)),
    )
    _gable(brick, bars)
    return {"brick": brick, "paint": bars, "glass": glass}


def _gable(brick: Mesh, bars: Mesh) -> None:
    y = LENGTH
    for side in (-1, 1):
        brick.box((min(side * 0.55, side * HALF), y, 0), (max(side * 0.55, side * HALF), y + 0.22, 0.72))
    for x in np.arange(-2.85, 2.9, 0.57):
        top = RIDGE - (RIDGE - EAVES) * abs(x) / HALF
        bars.bar((x, y, 0.72), (x, y, top), 0.05, 0.05)
    for x in (-0.5, 0.5):
        bars.bar((x, y - 0.03, 0), (x, y - 0.03, 2.1), 0.10, 0.08)
    bars.bar((-0.5, y - 0.03, 2.1), (0.5, y - 0.03, 2.1), 0.10, 0.08)
    bars.box((-0.45, y - 0.02, 0.02), (0.45, y + 0.02, 0.85))
    for height in (0.72, 1.5, EAVES):
        bars.bar((-HALF, y, height), (HALF, y, height), 0.06, 0.06)


def benches() -> dict[str, Mesh]:
    """Two slatted benches on legs running back, and the lamps above the path."""
    slats, legs, lamps, cords = Mesh(), Mesh(), Mesh(), Mesh()
    for side in (-1, 1):
        for k in range(11):
            x = BENCH_NEAR + 0.012 + k * 0.146
            a, b = sorted((side * x, side * (x + 0.125)))
            for start in np.arange(0.7, 18, 3.0):
                slats.box((a, start, BENCH_TOP - 0.03), (b, start + 2.985, BENCH_TOP))
        for edge in (BENCH_NEAR, BENCH_FAR):
            a, b = sorted((side * edge, side * (edge + 0.035)))
            legs.box((a, 0.7, BENCH_TOP - 0.14), (b, 18.6, BENCH_TOP - 0.03))
        for y in np.arange(0.75, 18.6, 1.5):
            for edge in (BENCH_NEAR + 0.02, BENCH_FAR - 0.08):
                a, b = sorted((side * edge, side * (edge + 0.07)))
                legs.box((a, y, 0), (b, y + 0.07, BENCH_TOP - 0.03))
    for y in np.arange(2.2, 18, 2.4):
        lamps.lathe([(0.03, 0.2), (0.05, 0.17), (0.06, 0.12), (0.21, 0.0), (0.20, 0.0), (0.05, 0.11)], (0, y, 2.42))
        cords.bar((0, y, 2.6), (0, y, RIDGE), 0.012, 0.012)
    return {"bench": slats, "legs": legs, "enamel": lamps, "cord": cords}


def ground() -> dict[str, Mesh]:
    """The paved path, the gravel beside it, the lawn and hedges outside."""
    path, gravel, lawn, hedge = Mesh(), Mesh(), Mesh(), Mesh()
    _floor(path, -0.6, 0.6, -4, LENGTH + 2, 0.012)
    _floor(gravel, -HALF, HALF, -4, LENGTH, 0.0)
    _floor(lawn, -60, 60, -20, 90, -0.03)
    rng = np.random.default_rng(4)
    for x, y, size in [(rng.uniform(-26, 26), rng.uniform(27, 48), rng.uniform(1.2, 3.4)) for _ in range(70)]:
        _bush(hedge, rng, (x, y, size * 0.5), size, 420, 0.34)
    for side in (-1, 1):
        for y in np.arange(0, 30, 1.5):
            _bush(hedge, rng, (side * rng.uniform(6.5, 9), y, 0.7), rng.uniform(0.9, 1.6), 260, 0.24)
    return {"path": path, "gravel": gravel, "lawn": lawn, "hedge": hedge}


def _floor(mesh: Mesh, x0: float, x1: float, y0: float, y1: float, z: float) -> None:
    corners = np.array([[x0, y0, z], [x1, y0, z], [x1, y1, z], [x0, y1, z]])
    mesh.quad(corners, corners[:, :2])


def _bush(mesh: Mesh, rng: np.random.Generator, centre: tuple, size: float, leaves: int, leaf_length: float) -> None:
    for _ in range(leaves):
        direction = rng.normal(size=3)
        direction /= np.linalg.norm(direction)
        base = np.array(centre) + direction * size * np.array([1, 1, 0.8]) * rng.uniform(0.75, 1) * 0.6
        heading = np.arctan2(direction[1], direction[0]) + rng.normal(0, 0.6)
        length = leaf_length * rng.uniform(0.6, 1.2)
        mesh.add(*leaf(base, heading, rng.uniform(-0.2, 1.1), length, 0.5 * length, rng.uniform(0.2, 0.8)))


def planting() -> dict[str, Mesh]:
    """Pots and plants along the benches, low trays, climbing stems, a few crates in their places."""
    rng = np.random.default_rng(11)
    pots, soil, crates = Mesh(), Mesh(), Mesh()
    greens = {name: Mesh() for name in ("leaf-deep", "leaf-fresh", "leaf-grey", "leaf-yellow")}
    names = list(greens)
    for side in (-1, 1):
        y = 1.1
        while y < 18.2:
            kind = rng.choice(["tall", "broad", "tuft", "tray", "gap"], p=[0.26, 0.30, 0.24, 0.14, 0.06])
            x = side * rng.uniform(BENCH_NEAR + 0.25, BENCH_FAR - 0.45)
            green = greens[str(rng.choice(names, p=[0.4, 0.33, 0.17, 0.1]))]
            if kind == "tray":
                _crate(crates, rng, (x, y, BENCH_TOP), 0.5, 0.34, 0.11)
                for _ in range(26):
                    spot = np.array([x + rng.uniform(-0.2, 0.2), y + rng.uniform(-0.13, 0.13), BENCH_TOP + 0.07])
                    _rosette(green, rng, spot, 6, 0.10, 0.045)
            elif kind != "gap":
                radius = rng.uniform(0.11, 0.19)
                _pot(pots, soil, (x, y, BENCH_TOP), radius)
                _plant(green, rng, np.array([x, y, BENCH_TOP + radius * 1.7]), kind)
            y += rng.uniform(0.13, 0.30)
    _clutter(pots, crates, rng)
    for y, side in ((0.9, 1), (2.6, -1), (6.4, 1), (9.0, -1), (12, 1)):
        _crate(crates, rng, (side * 1.15, y + 0.4, 0.0), 0.55, 0.38, 0.3)
    return {"terracotta": pots, "soil": soil, "crate": crates, **greens}


def _clutter(pots: Mesh, crates: Mesh, rng: np.random.Generator) -> None:
    """Stacked empty pots, pots lying under the benches, stakes leaning on the wall."""
    for side, y in ((1, 2.2), (-1, 3.9), (1, 8.3)):
        for k in range(4):
            _pot(pots, Mesh(), (side * 1.9, y, BENCH_TOP + 0.06 * k), 0.12)
    for _ in range(16):
        side = rng.choice([-1, 1])
        _pot(pots, Mesh(), (side * rng.uniform(0.9, 2.2), rng.uniform(1, 12), 0.0), rng.uniform(0.09, 0.2))
    for _ in range(24):
        side, y = rng.choice([-1, 1]), rng.uniform(1.5, 15)
        top = (side * 2.8, y + rng.normal(0, 0.15), rng.uniform(1.3, 1.9))
        crates.bar(np.array([side * 2.45, y, BENCH_TOP]), np.array(top), 0.016, 0.016)


def _pot(pots: Mesh, soil: Mesh, at: tuple[float, float, float], r: float) -> None:
    h = 1.8 * r
    pots.lathe(
        [
            (0, 0),
            (0.68 * r, 0),
            (0.93 * r, 0.78 * h),
            (r, 0.78 * h),
            (1.03 * r, h),
            (0.92 * r, h),
            (0.9 * r, 0.8 * h),
        ],
        at,
    )
    soil.lathe([(0.93 * r, 0.86 * h), (0.0, 0.9 * h)], at)


def _plant(mesh: Mesh, rng: np.random.Generator, base: np.ndarray, kind: str) -> None:
    if kind == "tuft":
        for _ in range(3):
            _rosette(mesh, rng, base, 16, rng.uniform(0.28, 0.5), 0.035)
    elif kind == "broad":
        for level in range(4):
            _rosette(mesh, rng, base + np.array([0, 0, 0.07 * level]), 9, rng.uniform(0.2, 0.36), 0.13)
    else:
        for height in np.arange(0.02, rng.uniform(0.55, 1.15), 0.055):
            spot = base + np.array([rng.normal(0, 0.03), rng.normal(0, 0.03), height])
            _rosette(mesh, rng, spot, 5, rng.uniform(0.14, 0.27), 0.085)


def _rosette(mesh: Mesh, rng: np.random.Generator, base: np.ndarray, count: int, length: float, width: float) -> None:
    for heading in rng.uniform(0, 2 * np.pi, count):
        size = length * rng.uniform(0.6, 1.15)
        mesh.add(*leaf(np.asarray(base), heading, rng.uniform(0.1, 1.25), size, width, rng.uniform(0.1, 0.7)))


def _crate(mesh: Mesh, rng: np.random.Generator, at: tuple, long: float, deep: float, high: float) -> None:
    angle = rng.normal(0, 0.12)
    turn = np.array([[np.cos(angle), np.sin(angle), 0], [-np.sin(angle), np.cos(angle), 0], [0, 0, 1]])
    boards = max(1, round(high / 0.1))
    step = high / boards
    for k in range(boards):
        z0, z1 = k * step, k * step + step * 0.82
        for s in (-1, 1):
            y = s * deep / 2
            mesh.beam(np.array([-long / 2, y - 0.008, z0]), np.array([long / 2, y + 0.008, z1]), turn, np.array(at))
            x = s * long / 2
            mesh.beam(np.array([x - 0.008, -deep / 2, z0]), np.array([x + 0.008, deep / 2, z1]), turn, np.array(at))
    mesh.beam(np.array([-long / 2, -deep / 2, 0.005]), np.array([long / 2, deep / 2, 0.02]), turn, np.array(at))


def extras(shot: Shot) -> dict[str, Mesh]:
    """What differs from shot to shot: the gardener, crates in the way, a pane that catches the sun."""
    meshes = {f"figure-{name}": mesh for name, mesh in gardener(shot.gardener, shot.facing_deg).items()}
    if shot.crates_on_path:
        rng, clutter = np.random.default_rng(21), Mesh()
        spots = [(-0.42, 2.3, 0), (-0.4, 2.35, 0.31), (0.45, 3.0, 0), (-0.35, 3.7, 0), (0.42, 4.2, 0),
                 (0.4, 4.22, 0.31), (0.46, 4.2, 0.62), (-0.44, 5.2, 0), (-0.42, 5.25, 0.31), (0.3, 5.9, 0)]  # fmt: skip
        for spot in spots:
            _crate(clutter, rng, spot, rng.uniform(0.42, 0.56), 0.38, 0.3)
        meshes["clutter"] = clutter
    if shot.glaring_pane:
        pane = Mesh()
        corners = [
            [-HALF + 0.03, 4.42, 0.8],
            [-HALF + 0.03, 6.2, 0.8],
            [-HALF + 0.03, 6.2, 2.2],
            [-HALF + 0.03, 4.42, 2.2],
        ]
        pane.quad(np.array(corners), np.zeros((4, 2)))
        meshes["glare"] = pane
    return meshes


def surfaces() -> dict[str, tuple[np.ndarray | tuple[float, float, float], float]]:
    """Texture (or plain colour) and repeats per metre of every material."""
    return {
        "brick": (tx.bricks(1), 1 / 0.9),
        "paint": (tx.wood(2, (0.42, 0.43, 0.40), (0.74, 0.74, 0.70)), 0.7),
        "bench": (tx.wood(3, (0.11, 0.085, 0.06), (0.40, 0.33, 0.25)), 0.9),
        "legs": (tx.wood(5, (0.08, 0.065, 0.05), (0.26, 0.21, 0.16)), 0.9),
        "enamel": ((0.03, 0.075, 0.06), 1),
        "cord": ((0.02, 0.02, 0.02), 1),
        "path": (tx.paving(6), 1 / 1.2),
        "gravel": (tx.earth(7, (0.05, 0.045, 0.035), (0.27, 0.245, 0.20)), 1.1),
        "lawn": (tx.earth(8, (0.035, 0.06, 0.015), (0.14, 0.19, 0.06)), 0.5),
        "hedge": (tx.leafage(9, (0.02, 0.05, 0.012), (0.085, 0.14, 0.04)), 1),
        "terracotta": (tx.earth(10, (0.26, 0.095, 0.05), (0.50, 0.24, 0.15)), 1.3),
        "soil": (tx.earth(12, (0.012, 0.009, 0.006), (0.05, 0.038, 0.028)), 3),
        "crate": (tx.wood(13, (0.25, 0.17, 0.10), (0.58, 0.44, 0.28)), 1.2),
        "clutter": (tx.wood(14, (0.24, 0.16, 0.09), (0.60, 0.46, 0.30)), 1.2),
        "leaf-deep": (tx.leafage(15, (0.018, 0.06, 0.014), (0.07, 0.15, 0.035)), 1),
        "leaf-fresh": (tx.leafage(16, (0.06, 0.14, 0.02), (0.19, 0.31, 0.06)), 1),
        "leaf-grey": (tx.leafage(17, (0.10, 0.14, 0.095), (0.27, 0.33, 0.24)), 1),
        "leaf-yellow": (tx.leafage(18, (0.30, 0.24, 0.02), (0.55, 0.44, 0.06)), 1),
        "figure-trousers": (tx.cloth(20, (0.035, 0.05, 0.10)), 1),
        "figure-boots": (tx.cloth(21, (0.03, 0.045, 0.025)), 1),
        "figure-shirt": (tx.cloth(22, (0.34, 0.07, 0.05)), 1),
        "figure-apron": (tx.cloth(23, (0.46, 0.44, 0.38)), 1),
        "figure-skin": (tx.cloth(24, (0.42, 0.24, 0.16)), 1),
        "figure-hair": (tx.cloth(25, (0.05, 0.028, 0.015)), 1),
        "figure-hat": (tx.cloth(26, (0.62, 0.50, 0.27)), 1),
        "figure-can": ((0.33, 0.36, 0.37), 1),
    }
