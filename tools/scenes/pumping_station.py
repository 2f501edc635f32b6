"""The pumping station: a brick pump house on a heath seen at an angle, bollards in a row, a hand cart, two people."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from . import textures as tx
from .figure import gardener
from .glasshouse import _bush, _floor
from .mesh import Mesh

TURN_DEG = 33.0  # of the house's long wall, off the picture plane
CORNER = (1.1, 8.6)  # where its nearest corner stands
LONG, DEEP, EAVES, RIDGE = 7.2, 4.6, 3.3, 5.2
DOOR = (0.95, 2.03)
BOLLARD = (0.16, 0.95)  # radius, height
BOLLARDS, SPACING = 7, 1.75
POLES = (((-3.1, 9.5), 2.0), ((2.6, 6.0), 1.5), ((-1.6, 15.5), 3.0))
PEOPLE = (((-1.25, 6.2), 1.66, 80.0), ((-5.2, 11.5), 1.80, 250.0))
GARDENER_M = 1.66
K1 = -0.18
SUN = (-0.55, 0.52, -0.66)


@dataclass(frozen=True)
class Shot:
    """One photograph: where the camera stands and looks, and whether its lens bows."""

    name: str
    camera: tuple[float, float, float]
    yaw_deg: float
    pitch_deg: float
    k1: float = 0.0


SHOTS = (
    Shot("pumping-station", (0.0, 0.0, 1.6), 0.0, 7.5, K1),
    Shot("pumping-station-level", (-1.2, 0.4, 1.6), 6.0, 0.0),
    Shot("pumping-station-low", (1.4, -0.6, 0.75), -9.0, 4.0),
)


def _axes() -> tuple[np.ndarray, np.ndarray]:
    """Unit vectors on the ground along the long wall (going back to the left) and along the gable (to the right)."""
    angle = np.radians(TURN_DEG)
    return np.array([-np.cos(angle), np.sin(angle)]), np.array([np.sin(angle), np.cos(angle)])


def place(along: float, across: float, up: float) -> np.ndarray:
    """A point of the house, from its nearest corner: metres along the long wall, along the gable, above ground."""
    long, deep = _axes()
    return np.array([*(np.array(CORNER) + along * long + across * deep), up])


def house() -> dict[str, Mesh]:
    """Walls with door and windows, stone sills and coping, a slate roof, a chimney."""
    brick, stone, wood, dark, slate = Mesh(), Mesh(), Mesh(), Mesh(), Mesh()
    long, deep = _axes()
    turn = np.array([[*long, 0], [*deep, 0], [0, 0, 1]])
    origin = np.array([*CORNER, 0.0])

    def block(mesh: Mesh, low: tuple, high: tuple) -> None:
        mesh.beam(np.array(low, float), np.array(high, float), turn, origin)

    plan = [(0, 0), (LONG, 0), (LONG, DEEP), (0, DEEP), (0, 0)]
    for (a, b), (c, d) in pairwise(plan):
        _wall(brick, (a, b), (c, d), 0.0, EAVES)
    block(stone, (-0.06, -0.06, 0), (LONG + 0.06, DEEP + 0.06, 0.32))
    block(stone, (-0.05, -0.05, EAVES - 0.14), (LONG + 0.05, DEEP + 0.05, EAVES))
    for gable in (0.0, LONG):
        corners = np.array([place(gable, 0, EAVES), place(gable, DEEP, EAVES), place(gable, DEEP / 2, RIDGE)])
        brick.add(corners, np.array([[0, 1, 2]]), np.array([[0, 0], [DEEP, 0], [DEEP / 2, RIDGE - EAVES]]))
    for side in (0, 1):
        y0, y1 = (-0.3, DEEP / 2) if side == 0 else (DEEP + 0.3, DEEP / 2)
        z0 = EAVES - 0.3 * (RIDGE - EAVES) / (DEEP / 2)
        corners = np.array(
            [place(-0.3, y0, z0), place(LONG + 0.3, y0, z0), place(LONG + 0.3, y1, RIDGE), place(-0.3, y1, RIDGE)]
        )
        run = float(np.hypot(DEEP / 2, RIDGE - EAVES))
        slate.quad(corners + np.array([0, 0, 0.05]), np.array([[0, 0], [LONG, 0], [LONG, run], [0, run]]))
    shaft = [(1.4, -0.3), (2.0, -0.3), (2.0, 0.3), (1.4, 0.3), (1.4, -0.3)]
    for (a, b), (c, d) in pairwise(shaft):
        _wall(brick, (a, DEEP / 2 + b), (c, DEEP / 2 + d), RIDGE - 0.8, RIDGE + 1.1)
    block(wood, (3.15, -0.05, 0.04), (3.15 + DOOR[0], 0.05, DOOR[1]))
    for x in (0.9, 5.2):
        _window(block, stone, wood, dark, x)
    block(wood, (-0.04, 1.7, 0.04), (0.06, 1.7 + 1.3, 2.3))
    return {"brick": brick, "stone": stone, "shutter": wood, "pane": dark, "slate": slate}


def _wall(mesh: Mesh, start: tuple[float, float], end: tuple[float, float], low: float, high: float) -> None:
    """An upright wall between two places of the plan, its courses level."""
    corners = np.array([place(*start, low), place(*end, low), place(*end, high), place(*start, high)])
    run = float(np.hypot(end[0] - start[0], end[1] - start[1]))
    mesh.quad(corners, np.array([[0, low], [run, low], [run, high], [0, high]]))


def _window(block, stone: Mesh, wood: Mesh, dark: Mesh, x: float) -> None:
    block(dark, (x, -0.02, 1.05), (x + 1.1, 0.02, 2.25))
    block(stone, (x - 0.1, -0.09, 0.93), (x + 1.2, 0.04, 1.05))
    block(stone, (x - 0.1, -0.05, 2.25), (x + 1.2, 0.04, 2.43))
    for k in range(4):
        block(wood, (x + k * 1.06 / 3, -0.05, 1.05), (x + k * 1.06 / 3 + 0.04, 0.0, 2.25))
    for z in (1.05, 1.62, 2.21):
        block(wood, (x, -0.05, z), (x + 1.1, 0.0, z + 0.04))


def bollard_feet() -> np.ndarray:
    """Feet (n, 2) of the bollards, in a row beside the long wall."""
    long, deep = _axes()
    start = np.array(CORNER) - 1.9 * deep - 0.6 * long
    return start + np.arange(BOLLARDS)[:, None] * SPACING * long


def things() -> dict[str, Mesh]:
    """Bollards, the cart, poles of known height, people."""
    iron, poles, cart = Mesh(), Mesh(), Mesh()
    radius, height = BOLLARD
    for x, y in bollard_feet():
        profile = [(radius * 1.15, 0), (radius * 1.15, 0.12), (radius, 0.16), (radius * 0.8, height - 0.12),
                   (radius, height - 0.08), (radius * 0.7, height - 0.02), (0, height)]  # fmt: skip
        iron.lathe(profile, (x, y, 0))
    for (x, y), tall in POLES:
        poles.bar((x, y, 0), (x, y, tall), 0.07, 0.07)
    _cart(cart, np.array([1.9, 4.6, 0.0]), 24.0)
    meshes = {"iron": iron, "pole": poles, "cart": cart}
    for number, (at, tall, facing) in enumerate(PEOPLE, 1):
        for part, mesh in gardener((0.0, 0.0), facing).items():
            if part in ("can", "apron"):
                continue
            scaled = Mesh()
            points = np.concatenate(mesh.points) * (tall / GARDENER_M) + [*at, 0.0]
            scaled.add(points, np.concatenate(mesh.faces), np.concatenate(mesh.uvs))
            meshes[f"figure{number}-{part}"] = scaled
    return meshes


def _cart(mesh: Mesh, at: np.ndarray, turn_deg: float) -> None:
    """A flat hand cart on two spoked wheels."""
    angle = np.radians(turn_deg)
    turn = np.array([[np.cos(angle), np.sin(angle), 0], [-np.sin(angle), np.cos(angle), 0], [0, 0, 1]])
    mesh.beam(np.array([-0.75, -0.42, 0.58]), np.array([0.75, 0.42, 0.64]), turn, at)
    for y in (-0.42, 0.39):
        mesh.beam(np.array([-0.75, y, 0.64]), np.array([0.75, y + 0.03, 0.9]), turn, at)
    for y in (-0.3, 0.26):
        mesh.beam(np.array([0.75, y, 0.58]), np.array([1.75, y + 0.05, 0.63]), turn, at)
    mesh.beam(np.array([1.7, -0.3, 0.58]), np.array([1.75, 0.31, 0.63]), turn, at)
    mesh.beam(np.array([1.2, -0.3, 0.0]), np.array([1.26, -0.24, 0.6]), turn, at)
    for side in (-0.5, 0.5):
        rim = np.linspace(0, 2 * np.pi, 25)
        for a, b in pairwise(rim):
            ends = [np.array([0.42 * np.cos(t) - 0.1, side, 0.42 + 0.42 * np.sin(t)]) @ turn + at for t in (a, b)]
            mesh.bar(ends[0], ends[1], 0.05, 0.06)
        for t in np.arange(0, 2 * np.pi, np.pi / 4):
            hub = np.array([-0.1, side, 0.42]) @ turn + at
            mesh.bar(hub, np.array([0.4 * np.cos(t) - 0.1, side, 0.42 + 0.4 * np.sin(t)]) @ turn + at, 0.03, 0.03)


def ground() -> dict[str, Mesh]:
    """Sandy yard, heath and bushes beyond."""
    yard, heath, bush, ling = Mesh(), Mesh(), Mesh(), Mesh()
    _floor(yard, -9, 12, -6, 19, 0.0)
    _floor(heath, -120, 120, -20, 240, -0.02)
    rng = np.random.default_rng(6)
    for _ in range(95):
        x, y = rng.uniform(-45, 45), rng.uniform(20, 75)
        size = rng.uniform(0.5, 1.8) * (1 + y / 60)
        _bush(bush, rng, (x, y, size * 0.45), size, 300, 0.22 * (1 + y / 50))
    for _ in range(170):
        x, y = rng.uniform(-13, 15), rng.uniform(1.5, 22)
        near_house = abs(x - 0.5) < 8 and y > 4
        if near_house or abs(x) < 4:
            continue
        _bush(ling, rng, (x, y, 0.12), rng.uniform(0.16, 0.4), 110, 0.09)
    return {"yard": yard, "heath": heath, "bush": bush, "ling": ling}


def surfaces() -> dict[str, tuple[np.ndarray | tuple[float, float, float], float]]:
    """Texture (or plain colour) and repeats per metre of every material."""
    found = {
        "brick": (tx.bricks(41), 1 / 0.9),
        "stone": (tx.earth(42, (0.30, 0.28, 0.24), (0.56, 0.53, 0.46)), 0.9),
        "shutter": (tx.wood(43, (0.05, 0.10, 0.09), (0.16, 0.26, 0.22)), 0.9),
        "pane": ((0.025, 0.03, 0.035), 1),
        "slate": (tx.earth(44, (0.07, 0.075, 0.085), (0.21, 0.215, 0.23)), 0.8),
        "iron": ((0.045, 0.047, 0.05), 1),
        "pole": (tx.wood(45, (0.30, 0.28, 0.25), (0.68, 0.66, 0.60)), 0.7),
        "cart": (tx.wood(46, (0.22, 0.14, 0.08), (0.52, 0.38, 0.24)), 1.0),
        "yard": (tx.earth(47, (0.20, 0.165, 0.11), (0.46, 0.40, 0.29)), 0.5),
        "heath": (tx.earth(48, (0.07, 0.075, 0.03), (0.24, 0.21, 0.12)), 0.35),
        "bush": (tx.leafage(49, (0.03, 0.06, 0.015), (0.10, 0.15, 0.05)), 1),
        "ling": (tx.leafage(50, (0.14, 0.06, 0.11), (0.30, 0.15, 0.24)), 1),
    }
    coats = {1: (0.10, 0.12, 0.20), 2: (0.30, 0.22, 0.10)}
    for number, coat in coats.items():
        found |= {
            f"figure{number}-trousers": (tx.cloth(50 + number, (0.06, 0.055, 0.05)), 1),
            f"figure{number}-boots": (tx.cloth(53 + number, (0.03, 0.025, 0.02)), 1),
            f"figure{number}-shirt": (tx.cloth(56 + number, coat), 1),
            f"figure{number}-skin": (tx.cloth(59, (0.42, 0.24, 0.16)), 1),
            f"figure{number}-hair": (tx.cloth(60, (0.05, 0.028, 0.015)), 1),
            f"figure{number}-hat": (tx.cloth(61 + number, (0.20, 0.18, 0.15)), 1),
        }
    return found


def facts() -> dict:
    """What stands where, in metres, for those who want to check."""
    long, deep = _axes()
    return {
        "house_along": [*long.tolist(), 0.0],
        "house_across": [*deep.tolist(), 0.0],
        "house_corner_m": [*CORNER, 0.0],
        "house_m": {"along": LONG, "across": DEEP, "eaves": EAVES, "ridge": RIDGE},
        "bollards_m": [[float(x), float(y), 0.0] for x, y in bollard_feet()],
        "bollard_height_m": BOLLARD[1],
        "poles_m": [{"foot": [*foot, 0.0], "height": tall} for foot, tall in POLES],
        "people_m": [{"foot": [*at, 0.0], "height": tall} for at, tall, _ in PEOPLE],
        "sun_direction": list(SUN),
    }
