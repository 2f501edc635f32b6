"""Bodies: what a thing is made of, in metres, its foot at the origin, its front towards smaller y."""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import ArrayLike, NDArray

    Array = NDArray[np.float64]

MOST_CORNERS = 8  # of a face; a rounder one is laid out as several


@dataclass(frozen=True, eq=False, slots=True)
class Circle:
    """A drawn circle or ellipse in space, middle + across·cos t + along·sin t, of a body with so many ``sides``."""

    middle: Array
    across: Array
    along: Array
    sides: int


@dataclass(frozen=True, eq=False, slots=True)
class Skin:
    """A smooth surface as a grid of points and normals (rings, sides, 3), closed round its axis.

    Where it turns away from the eye it has an outline. A ``bulging`` one never hides its own outline. ``number`` is
    that of the round part it belongs to.
    """

    points: Array
    normals: Array
    bulging: bool
    number: int


@dataclass(slots=True)
class Body:
    """Points (n, 3); convex flat faces by their corners, outward when seen against the clock; edges; round parts.

    ``tones`` are the own values of the faces in L*. ``laid_on`` tells the faces that lie on others, as a door does on
    its wall: they hide nothing and throw no shadow. ``rounds`` numbers the round part a face is of, -1 for flat ones.
    """

    points: list[tuple[float, float, float]] = field(default_factory=list)
    faces: list[tuple[int, ...]] = field(default_factory=list)
    tones: list[float] = field(default_factory=list)
    laid_on: list[bool] = field(default_factory=list)
    rounds: list[int] = field(default_factory=list)
    round_count: int = 0
    edges: list[tuple[int, int]] = field(default_factory=list)
    circles: list[Circle] = field(default_factory=list)
    skins: list[Skin] = field(default_factory=list)

    def add_points(self, points: ArrayLike) -> list[int]:
        """Add points (k, 3) and tell their numbers."""
        first = len(self.points)
        rows = np.asarray(points, np.float64).reshape(-1, 3).tolist()
        self.points += [(x, y, z) for x, y, z in rows]
        return list(range(first, first + len(rows)))

    def add_face(self, corners: Sequence[int], tone: float, laid_on: bool = False, of_round: int = -1) -> None:
        """Add a convex face; one with many corners is laid out in several that share its first corner."""
        first = 1
        while first < len(corners) - 1:
            last = min(first + MOST_CORNERS - 2, len(corners) - 1)
            self.faces.append((corners[0], *corners[first : last + 1]))
            self.tones.append(tone)
            self.laid_on.append(laid_on)
            self.rounds.append(of_round)
            first = last

    def add_loop(self, corners: Sequence[int]) -> None:
        """Add the edges round a face."""
        self.edges += zip(corners, [*corners[1:], corners[0]], strict=True)

    def add_patch(self, points: ArrayLike, tone: float) -> None:
        """A flat piece that lies on a face, with its outline."""
        corners = self.add_points(points)
        self.add_face(corners, tone, laid_on=True)
        self.add_loop(corners)

    def add_line(self, first: ArrayLike, last: ArrayLike) -> None:
        """A line that lies on a face, as a joint."""
        a, b = self.add_points(np.array([first, last], np.float64))
        self.edges.append((a, b))

    def add_prism(
        self,
        outline: Sequence[tuple[float, float]],
        low: float,
        high: float,
        tone: float,
        top_tone: float | None = None,
    ) -> None:
        """An upright prism over a convex outline on the plan, given against the clock."""
        flat = np.asarray(outline, np.float64)
        foot = self.add_points(np.column_stack([flat, np.full(len(flat), low)]))
        top = self.add_points(np.column_stack([flat, np.full(len(flat), high)]))
        self.add_face(top, tone if top_tone is None else top_tone)
        self.add_face(foot[::-1], tone)
        count = len(flat)
        for k in range(count):
            after = (k + 1) % count
            self.add_face((foot[k], foot[after], top[after], top[k]), tone)
            self.edges.append((foot[k], top[k]))
        self.add_loop(foot)
        self.add_loop(top)

    def add_box(
        self,
        x: tuple[float, float],
        y: tuple[float, float],
        z: tuple[float, float],
        tone: float,
        top_tone: float | None = None,
    ) -> None:
        """An upright box between these bounds."""
        outline = ((x[0], y[0]), (x[1], y[0]), (x[1], y[1]), (x[0], y[1]))
        self.add_prism(outline, z[0], z[1], tone, top_tone)

    def add_extruded(
        self,
        profile: Sequence[tuple[float, float]],
        pieces: Sequence[Sequence[int]],
        ends: tuple[float, float],
        tones: Sequence[float],
        end_tone: float,
        along_x: bool = True,
    ) -> None:
        """A profile carried along x (given in y, z) or along y (given in x, z), against the clock as seen from its
        last end along x, from its first end along y; ``pieces`` are the convex parts it is made of."""

        def placed(end: float) -> Array:
            flat = np.asarray(profile, np.float64)
            far = np.full(len(flat), end)
            columns = [far, flat[:, 0], flat[:, 1]] if along_x else [flat[:, 0], far, flat[:, 1]]
            return np.column_stack(columns)

        # Seen from outside: along x the last end shows the profile as it is given, along y the first one does.
        ahead, behind = (ends[1], ends[0]) if along_x else (ends[0], ends[1])
        shown, other = self.add_points(placed(ahead)), self.add_points(placed(behind))
        for piece in pieces:
            self.add_face([shown[k] for k in piece], end_tone)
            self.add_face([other[k] for k in reversed(piece)], end_tone)
        count = len(profile)
        for k in range(count):
            after = (k + 1) % count
            self.add_face((shown[after], shown[k], other[k], other[after]), tones[k])
            self.edges.append((shown[k], other[k]))
        self.add_loop(shown)
        self.add_loop(other)

    def add_turned(
        self,
        profile: Sequence[tuple[float, float]],
        tone: float,
        sides: int,
        middle: tuple[float, float, float] = (0.0, 0.0, 0.0),
        bulging: bool = True,
        corners: Sequence[int] = (),
        squash: float = 1.0,
    ) -> None:
        """A body turned round the upright through ``middle`` from its profile (radius, height), from the foot up.

        The profile's numbers in ``corners`` are drawn as circles; ``squash`` is its depth over its width.
        """
        radius, height = np.asarray(profile, np.float64).T
        angle = 2 * np.pi * np.arange(sides) / sides
        round_x, round_y = np.cos(angle), squash * np.sin(angle)
        points = np.empty((len(radius), sides, 3))
        points[..., 0] = middle[0] + radius[:, None] * round_x
        points[..., 1] = middle[1] + radius[:, None] * round_y
        points[..., 2] = middle[2] + height[:, None]
        numbers = [self.add_points(ring) for ring in points]
        this, self.round_count = self.round_count, self.round_count + 1
        for low, high in pairwise(numbers):
            for k in range(sides):
                after = (k + 1) % sides
                quad = (low[k], low[after], high[after], high[k])
                self.add_face(_without_twins(quad, self.points), tone, of_round=this)
        for number, up in ((0, False), (-1, True)):
            if radius[number] > 0:
                self.add_face(numbers[number] if up else numbers[number][::-1], tone)
        for k in corners:
            self.circles.append(
                Circle(
                    np.array([middle[0], middle[1], middle[2] + height[k]]),
                    np.array([radius[k], 0.0, 0.0]),
                    np.array([0.0, squash * radius[k], 0.0]),
                    sides,
                )
            )
        self.skins += _skins(points, radius, height, angle, squash, corners, bulging, this)

    def add_wheel(self, middle: tuple[float, float, float], radius: float, width: float, tone: float) -> None:
        """A wheel that rolls along y: a short cylinder lying along x."""
        angle = 2 * np.pi * np.arange(20) / 20
        rings = []
        for x in (middle[0] - width / 2, middle[0] + width / 2):
            ring = np.column_stack(
                [np.full(20, x), middle[1] + radius * np.cos(angle), middle[2] + radius * np.sin(angle)]
            )
            rings.append(self.add_points(ring))
            self.circles.append(
                Circle(np.array([x, *middle[1:]]), np.array([0.0, radius, 0.0]), np.array([0.0, 0.0, radius]), 20)
            )
        first, last = rings
        this, self.round_count = self.round_count, self.round_count + 1
        self.add_face(last, tone)
        self.add_face(first[::-1], tone)
        for k in range(20):
            after = (k + 1) % 20
            self.add_face((first[k], first[after], last[after], last[k]), tone, of_round=this)


def _without_twins(corners: tuple[int, ...], points: list[tuple[float, float, float]]) -> list[int]:
    """A face at the tip of a turned body has two corners in one place."""
    kept: list[int] = []
    for corner in corners:
        if all(points[corner] != points[other] for other in kept):
            kept.append(corner)
    return kept


def _skins(
    points: Array,
    radius: Array,
    height: Array,
    angle: Array,
    squash: float,
    corners: Sequence[int],
    bulging: bool,
    number: int,
) -> list[Skin]:
    """The smooth parts between corners of the profile, with their normals."""
    cuts = sorted({0, len(radius) - 1, *(k % len(radius) for k in corners)})
    found = []
    for low, high in pairwise(cuts):
        part = slice(low, high + 1)
        rise, run = np.gradient(height[part]), np.gradient(radius[part])
        size = np.maximum(np.hypot(rise, run), 1e-12)
        normals = np.empty_like(points[part])
        normals[..., 0] = (rise / size)[:, None] * np.cos(angle)
        normals[..., 1] = (rise / size)[:, None] * np.sin(angle) / squash
        normals[..., 2] = -(run / size)[:, None]
        if high > low and not np.allclose(height[part], height[low]):
            found.append(Skin(points[part], normals, bulging, number))
    return found
