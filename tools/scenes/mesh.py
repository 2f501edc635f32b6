"""Triangle meshes in metres (x right, y away from the viewer, z up) and the file the path tracer reads."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path

import numpy as np


@dataclass
class Mesh:
    """Vertices, texture coordinates in metres, and triangles, gathered piece by piece."""

    points: list[np.ndarray] = field(default_factory=list)
    uvs: list[np.ndarray] = field(default_factory=list)
    faces: list[np.ndarray] = field(default_factory=list)
    count: int = 0

    def add(self, points: np.ndarray, faces: np.ndarray, uvs: np.ndarray | None = None) -> None:
        """Add a piece; faces index into the piece's own points."""
        self.points.append(np.asarray(points, np.float32))
        self.uvs.append(np.zeros((len(points), 2), np.float32) if uvs is None else np.asarray(uvs, np.float32))
        self.faces.append(np.asarray(faces, np.int32) + self.count)
        self.count += len(points)

    def quad(self, corners: np.ndarray, uvs: np.ndarray) -> None:
        """Add four corners in order as two triangles."""
        self.add(corners, np.array([[0, 1, 2], [0, 2, 3]]), uvs)

    def box(self, low: tuple[float, float, float], high: tuple[float, float, float]) -> None:
        """Add an upright box between two corners, with texture coordinates in metres."""
        self.beam(np.array(low), np.array(high), np.eye(3))

    def beam(self, low: np.ndarray, high: np.ndarray, turn: np.ndarray, origin: np.ndarray | None = None) -> None:
        """Add a box in a turned frame: rows of turn are the box's axes."""
        shift = np.random.default_rng(self.count).uniform(0, 3, 2)
        for axis in range(3):
            u, v = (axis + 1) % 3, (axis + 2) % 3
            # The grain runs along the longer side of each face.
            if high[u] - low[u] > high[v] - low[v]:
                u, v = v, u
            for side in (low, high):
                corners = np.empty((4, 3))
                corners[:, axis] = side[axis]
                corners[:, u] = [low[u], high[u], high[u], low[u]]
                corners[:, v] = [low[v], low[v], high[v], high[v]]
                uvs = corners[:, [u, v]] - [low[u], low[v]] + shift
                world = corners @ turn + (0 if origin is None else origin)
                self.quad(world, uvs)

    def bar(self, start: np.ndarray, end: np.ndarray, width: float, depth: float) -> None:
        """Add a straight bar of rectangular section between two points."""
        start, end = np.asarray(start, float), np.asarray(end, float)
        along = end - start
        length = float(np.linalg.norm(along))
        along /= length
        helper = np.array([0, 1.0, 0]) if abs(along[1]) < 0.9 else np.array([1.0, 0, 0])
        side = np.cross(along, helper)
        side /= np.linalg.norm(side)
        turn = np.stack([side, np.cross(along, side), along])
        low, high = np.array([-width / 2, -depth / 2, 0]), np.array([width / 2, depth / 2, length])
        self.beam(low, high, turn, start)

    def lathe(self, profile: list[tuple[float, float]], centre: tuple[float, float, float], sides: int = 28) -> None:
        """Add a turned form: profile rows are radius and height above the centre."""
        radii, heights = np.array(profile, float).T
        angle = np.linspace(0, 2 * np.pi, sides + 1)
        ring = np.stack([np.cos(angle), np.sin(angle)], -1)
        xy = radii[:, None, None] * ring[None]
        z = np.broadcast_to(heights[:, None, None], (*xy.shape[:2], 1))
        points = np.concatenate([xy, z], -1).reshape(-1, 3) + centre
        uvs = np.stack(np.meshgrid(angle * radii.max(), heights, indexing="xy"), -1).reshape(-1, 2)
        self.add(points, _grid_faces(len(radii), sides + 1), uvs)

    def write(self, path: Path) -> None:
        """Write a binary PLY file."""
        points, uvs, faces = (np.concatenate(part) for part in (self.points, self.uvs, self.faces))
        head = (
            "ply\nformat binary_little_endian 1.0\n"
            f"element vertex {len(points)}\n"
            + "".join(f"property float {name}\n" for name in ("x", "y", "z", "u", "v"))
            + f"element face {len(faces)}\nproperty list uchar int vertex_indices\nend_header\n"
        )
        rows = np.empty(len(faces), [("n", "u1"), ("i", "<i4", 3)])
        rows["n"], rows["i"] = 3, faces
        data = np.hstack([points, uvs]).astype("<f4").tobytes()
        path.write_bytes(head.encode() + data + rows.tobytes())


def _grid_faces(rows: int, columns: int) -> np.ndarray:
    index = np.arange(rows * columns).reshape(rows, columns)
    a, b, c, d = index[:-1, :-1], index[:-1, 1:], index[1:, 1:], index[1:, :-1]
    return np.concatenate([np.stack([a, b, c], -1), np.stack([a, c, d], -1)]).reshape(-1, 3)


def leaf(base: np.ndarray, heading: float, rise: float, length: float, width: float, droop: float) -> tuple:
    """One bent leaf as points, faces and texture coordinates."""
    t = np.linspace(0, 1, 6)
    out = length * t * np.cos(rise)
    up = length * (t * np.sin(rise) - droop * t**2)
    half = width / 2 * np.sin(np.pi * np.clip(t, 0.04, 0.985) ** 0.8)
    direction = np.array([np.cos(heading), np.sin(heading)])
    across = np.array([-direction[1], direction[0]])
    spine = np.concatenate([out[:, None] * direction, up[:, None]], 1) + base
    rim = np.concatenate([half[:, None] * across, 0.35 * half[:, None]], 1)
    other = np.concatenate([-half[:, None] * across, 0.35 * half[:, None]], 1)
    points = np.stack([spine + rim, spine, spine + other], 1).reshape(-1, 3)
    uvs = np.stack(np.meshgrid([0, 0.5, 1], t), -1).reshape(-1, 2)
    return points, _grid_faces(6, 3), uvs
