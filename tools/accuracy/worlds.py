"""Random scenes of flat coloured faces: streets, courts, rooms, roofs, towers, each laid out before a camera."""

from __future__ import annotations

from dataclasses import dataclass, field
from math import cos, radians, sin

import numpy as np

KINDS = ("street", "court", "room", "roofs", "tower")


@dataclass(eq=False, slots=True)
class World:
    """Convex faces (k, 3) with their greys and the order in which what lies on one another is painted, in metres;
    level directions that many edges follow; posts by foot and height."""

    faces: list[tuple[np.ndarray, float, int]] = field(default_factory=list)
    turns_deg: list[float] = field(default_factory=list)
    posts: list[tuple[np.ndarray, float]] = field(default_factory=list)

    def stepped_back(self, away_m: float) -> World:
        """The same seen from further off, as one stands with a longer lens."""
        shift = np.array([0.0, away_m, 0.0])
        faces = [(corners + (shift if on >= -1 else 0), grey, on) for corners, grey, on in self.faces]
        return World(faces, self.turns_deg, [(foot + shift, height) for foot, height in self.posts])

    def add(self, corners: np.ndarray, grey: float, on: int = 0) -> None:
        """A face; ``on`` is how many others it lies upon."""
        self.faces.append((np.asarray(corners, float), float(grey), on))

    def wall(
        self, hand: np.random.Generator, a: np.ndarray, b: np.ndarray, low: float, high: float, grey: float
    ) -> None:
        """An upright wall with courses, windows and perhaps a door, each a shade apart."""
        a, b = np.asarray(a, float), np.asarray(b, float)

        def at(s: float, z: float) -> np.ndarray:
            return np.array([*(a + s * (b - a)), z])

        def patch(s0: float, s1: float, z0: float, z1: float, shade: float, on: int) -> None:
            self.add(np.array([at(s0, z0), at(s1, z0), at(s1, z1), at(s0, z1)]), np.clip(shade, 4, 250), on)

        patch(0, 1, low, high, grey, 0)
        long, tall = float(np.hypot(*(b - a))), high - low
        if hand.random() < 0.5:  # a string course or a plinth
            z = low + tall * hand.uniform(0.08, 0.2)
            patch(0, 1, low, z, grey - hand.uniform(12, 40), 1)
        storeys, bays = max(1, round(tall / 3.0)), max(1, int(long / hand.uniform(1.8, 3.2)))
        wide, deep = hand.uniform(0.35, 0.6), hand.uniform(0.4, 0.6)
        frame, glass = grey + hand.uniform(15, 45), grey - hand.uniform(40, 90)
        for storey in range(storeys):
            for bay in range(bays):
                if hand.random() < 0.15:
                    continue
                s = (bay + 0.5) / bays
                half = wide / bays / 2
                z0 = low + (storey + 0.28) / storeys * tall
                z1 = z0 + deep * tall / storeys
                patch(s - 1.15 * half, s + 1.15 * half, z0 - 0.1, z1 + 0.1, frame, 2)
                patch(s - half, s + half, z0, z1, glass, 3)

    def house(self, hand: np.random.Generator, x: float, y: float, w: float, d: float, h: float, turn: float) -> None:
        """Four walls and a pitched roof."""
        c, s = cos(radians(turn)), sin(radians(turn))
        corner = [np.array([x + c * u + s * v, y - s * u + c * v]) for u, v in ((0, 0), (w, 0), (w, d), (0, d))]
        base = hand.uniform(90, 210)
        for k in range(4):
            shade = base * (1.0, 0.72, 0.9, 0.8)[k]
            self.wall(hand, corner[k], corner[(k + 1) % 4], 0.0, h, shade)
        pitch = hand.uniform(20, 50)
        rise, roof = d / 2 * np.tan(np.radians(pitch)), hand.uniform(50, 130)
        left, right = (corner[0] + corner[3]) / 2, (corner[1] + corner[2]) / 2
        tops = [np.array([*p, h]) for p in corner]
        ends = [np.array([*p, h + rise]) for p in (left, right)]
        self.add(np.array([tops[0], tops[1], ends[1], ends[0]]), roof)
        self.add(np.array([tops[2], tops[3], ends[0], ends[1]]), roof * 0.8)
        self.add(np.array([tops[1], tops[2], ends[1]]), base * 0.72)
        self.add(np.array([tops[3], tops[0], ends[0]]), base * 0.8)

    def ground(self, hand: np.random.Generator, turn: float) -> None:
        """Level ground with some joints that run along a direction."""
        far, grey = 300.0, hand.uniform(120, 190)
        self.add(np.array([[-far, -far, 0], [far, -far, 0], [far, far, 0], [-far, far, 0]]), grey, -2)
        way, side = (
            np.array([sin(radians(turn)), cos(radians(turn))]),
            np.array([cos(radians(turn)), -sin(radians(turn))]),
        )
        for _ in range(int(hand.integers(0, 5))):
            off, wide = hand.uniform(-8, 8), hand.uniform(0.1, 2.0)
            ends = [
                off * side - 30 * way,
                off * side + 120 * way,
                (off + wide) * side + 120 * way,
                (off + wide) * side - 30 * way,
            ]
            self.add(np.array([[*p, 0.0] for p in ends]), grey + hand.uniform(-45, 45), -1)


def world(hand: np.random.Generator, kind: str) -> World:
    """One scene of a kind before an eye at the origin that looks roughly along +y."""
    made = World()
    turn = float(hand.uniform(-45, 45))
    made.turns_deg = [turn]
    {"street": _street, "court": _court, "room": _room, "roofs": _roofs, "tower": _tower}[kind](made, hand, turn)
    _posts(made, hand, turn)
    return made


def _placed(turn: float, u: float, v: float) -> tuple[float, float]:
    c, s = cos(radians(turn)), sin(radians(turn))
    return c * u + s * v, -s * u + c * v


def _street(made: World, hand: np.random.Generator, turn: float) -> None:
    made.ground(hand, turn)
    for side in (-1, 1):
        v = hand.uniform(4, 8)
        while v < 60:
            w, d, h = hand.uniform(6, 12), hand.uniform(6, 10), hand.uniform(4, 11)
            off = hand.uniform(4, 7)
            x, y = _placed(turn, -off - d if side < 0 else off, v)
            made.house(hand, x, y, d, w, h, turn)
            v += w + hand.choice([0.0, 2.0])


def _court(made: World, hand: np.random.Generator, turn: float) -> None:
    made.ground(hand, turn)
    for _ in range(int(hand.integers(3, 6))):
        x, y = hand.uniform(-14, 14), hand.uniform(12, 35)
        made.house(hand, x, y, hand.uniform(5, 12), hand.uniform(5, 10), hand.uniform(3, 8), turn)


def _room(made: World, hand: np.random.Generator, turn: float) -> None:
    turn = made.turns_deg[0] = float(hand.uniform(-35, 35))
    w, d, h = hand.uniform(4, 7), hand.uniform(6, 10), hand.uniform(2.5, 3.4)
    base = hand.uniform(140, 220)
    corner = [_placed(turn, u, v) for u, v in ((-w / 2, -2), (w / 2, -2), (w / 2, d), (-w / 2, d))]
    flat = np.array([[*p, 0.0] for p in corner])
    made.add(flat, base * 0.6, -1)
    made.add(flat + np.array([0, 0, h]), base * 1.1, -1)
    for k, shade in ((1, 0.75), (2, 1.0), (3, 0.85)):
        made.wall(hand, np.array(corner[k]), np.array(corner[(k + 1) % 4]), 0.0, h, base * shade)
    for _ in range(3):  # a table or a chest
        u, v = hand.uniform(-w / 3, w / 3), hand.uniform(2.5, d - 1.5)
        _box(made, hand, turn, u, v, hand.uniform(0.6, 1.6), hand.uniform(0.5, 1.2), hand.uniform(0.4, 1.0))


def _box(made: World, hand: np.random.Generator, turn: float, u: float, v: float, w: float, d: float, h: float) -> None:
    base = hand.uniform(60, 200)
    low = [np.array([*_placed(turn, u + a, v + b), 0.0]) for a, b in ((0, 0), (w, 0), (w, d), (0, d))]
    high = [p + np.array([0, 0, h]) for p in low]
    for k, shade in enumerate((1.0, 0.7, 0.9, 0.8)):
        made.add(np.array([low[k], low[(k + 1) % 4], high[(k + 1) % 4], high[k]]), base * shade)
    made.add(np.array(high), min(250, base * 1.2))


def _roofs(made: World, hand: np.random.Generator, turn: float) -> None:
    """Steep roofs turned two ways, so that many edges run to points off the horizon."""
    made.ground(hand, turn)
    for number in range(int(hand.integers(3, 6))):
        extra = 0.0 if number % 2 else float(hand.choice([0.0, 90.0]))
        x, y = hand.uniform(-14, 10), hand.uniform(12, 30)
        made.house(hand, x, y, hand.uniform(6, 11), hand.uniform(6, 10), hand.uniform(2.4, 4), turn + extra)


def _tower(made: World, hand: np.random.Generator, turn: float) -> None:
    made.ground(hand, turn)
    x, y = _placed(turn, hand.uniform(-4, 4), hand.uniform(14, 24))
    made.house(hand, x, y, hand.uniform(5, 8), hand.uniform(5, 8), hand.uniform(14, 26), turn)
    for _ in range(2):
        made.house(
            hand, hand.uniform(-16, 12), hand.uniform(16, 34), hand.uniform(5, 10), 7.0, hand.uniform(3, 7), turn
        )


def _posts(made: World, hand: np.random.Generator, turn: float) -> None:
    """A row of equal posts along the scene's own direction, before everything."""
    u, v, gap = hand.uniform(-2.5, 2.5), hand.uniform(4, 7), hand.uniform(1.2, 2.5)
    height = hand.uniform(0.9, 3.0)
    for k in range(8):
        made.posts.append((np.array([*_placed(turn, u, v + k * gap), 0.0]), float(height)))
