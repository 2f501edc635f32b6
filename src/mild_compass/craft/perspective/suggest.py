"""Sets of edges suggested from the found lines: which run to one point, and how sure one can be of the horizon.

What the edges tell together is found by ``joint``, how certain it is by ``certainty``.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.perspective.certainty import Certainty, certainty_of, features, fit_of
from mild_compass.craft.perspective.chosen_edges import chosen_edges
from mild_compass.craft.perspective.horizon import HorizonLine, horizon_line
from mild_compass.craft.perspective.joint import JointCamera, delete_half_spread, joint_camera
from mild_compass.craft.perspective.joint_model import ROUGH_SHARE
from mild_compass.craft.perspective.vanishing import VanishingPoint, ends, vanishing_point
from mild_compass.craft.perspective.worked import tilt_of
from mild_compass.craft.picture.edges import found_lines, sharpened
from mild_compass.plan.perspective import EdgeSet, SetKind, TracedEdge
from mild_compass.plan.pictures import Ground

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.picture.load import Picture

    Array = NDArray[np.float64]

LOOKED_AT = 260
LEAST_FOUND, LEAST_OF_SET = 6, 2
NEAR_ENOUGH = 0.002  # of the height: sets whose horizon misses the best one by no more are as good
SHORT = "There are too few straight edges in this picture. Trace them by hand."


@dataclass(frozen=True, slots=True)
class Suggested:
    """A set of edges in photo pixels, what they seem to be, the share of all found length that agrees, and the letter
    of the traced set that they go into, if the artist has traced some of them."""

    kind: SetKind
    edges: tuple[TracedEdge, ...]
    share: float
    letter: str = ""


@dataclass(frozen=True, slots=True)
class Suggestion:
    """The sets, the strongest first; how sure one can be of the horizon they give, in words and as a probability; what
    would help; where that horizon lies at the photo's left and right edge, in pixels down; and what the probability was
    told from, for those who calibrate it."""

    sets: tuple[Suggested, ...]
    certainty: Certainty
    probability: float
    reason: str = ""
    horizon_px: tuple[float, float] | None = None
    told: tuple[float, ...] = ()

    @property
    def sure(self) -> bool:
        """Whether a horizon may be laid through them without a look."""
        return self.certainty == "sure"


def suggested_sets(picture: Picture, focal_px: float = 0.0, traced: tuple[EdgeSet, ...] = ()) -> Suggestion:
    """Sets of edges that run back, and uprights, from the long edges of a picture.

    ``focal_px`` is what the photo tells of its lens, 0 for nothing; edges ``traced`` by hand count for several.
    """
    edges = found_edges(picture)
    by_hand = [each for each in traced if each.kind != "free"]
    hands = sum(len(each.edges) for each in by_hand)
    size = (picture.width_px, picture.height_px)
    lines = np.concatenate([edges.lines, *(ends(each.edges) for each in by_hand)])
    weight = np.concatenate([edges.weight, np.full(hands, HAND_WEIGHT)])
    error = np.concatenate([edges.error_px, np.full(hands, ROUGH_SHARE * max(size))])
    letters = [""] * len(edges.lines) + [each.letter for each in by_hand for _ in each.edges]
    if len(lines) < LEAST_FOUND:
        return Suggestion((), "not sure", 0.0, SHORT)
    cameras = joint_camera(lines, size, focal_px, error_px=error, weight=weight)
    if not cameras:
        return Suggestion((), "not sure", 0.0, SHORT)
    best = cameras[0]
    sets = _sets(lines, error, best, letters)
    level = [each for each in sets if each.kind == "level"]
    if not level:
        return Suggestion(tuple(sets), "not sure", 0.0, "Not sure: no edges agree on a point. Trace two that run back.")
    missed, chosen, line = _best_sets(level, [each for each in sets if each.kind == "upright"], best, picture)
    sway = delete_half_spread(best, lines, size, focal_px, error, weight)
    fit = fit_of(lines, error, weight, best, float(np.hypot(*size)))
    height = picture.height_px
    told = features(cameras, missed / height, height, sway, fit, focal_px > 0)
    probability, certainty = certainty_of(told)
    across = (line.y_at(0.0), line.y_at(float(picture.width_px))) if line is not None else None
    return Suggestion(tuple(chosen), certainty, probability, _reason(certainty, cameras, level, picture), across, told)


@dataclass(frozen=True, eq=False, slots=True)
class FoundEdges:
    """Edges (n, 2, 2) in photo pixels, how exact their ends are across them (n,), and how much each counts (n,)."""

    lines: Array
    error_px: Array
    weight: Array


def found_edges(picture: Picture) -> FoundEdges:
    """The straight edges of a picture that may be edges of things.

    Faint, short and ragged ones are more often texture: they count for less, or not at all. How often so, and how
    exact the others are, was measured on made pictures (``tools/accuracy``).
    """
    values = picture.lightness
    found, step = found_lines(values, LOOKED_AT, shortest=SHORTEST)
    lines, miss = sharpened(values, found)
    scale = np.array([values.shape[1] / picture.width_px, values.shape[0] / picture.height_px])
    short = 1 + SHORT_PX / np.maximum(np.hypot(*(found[:, 1] - found[:, 0]).T), 1.0)
    clear = np.clip((RAGGED - miss * short) / RAGGED_SOFT, 0.0, 1.0)
    weight = np.clip(step / CLEAR_STEP, LEAST_WEIGHT, 1.0) * clear
    error = np.hypot(LEAST_ERROR_PX, OF_MISS * np.minimum(miss, RAGGED) * short) / scale.mean()
    kept = weight > 0
    return FoundEdges((lines / scale)[kept], error[kept], weight[kept])


CLEAR_STEP, LEAST_WEIGHT, HAND_WEIGHT = 15.0, 0.2, 4.0
SHORTEST = 0.016  # of the diagonal
LEAST_ERROR_PX, OF_MISS, SHORT_PX = 0.1, 0.2, 60.0  # of the picture looked at
RAGGED, RAGGED_SOFT = 1.6, 0.9


def _sets(lines: Array, error_px: Array, camera: JointCamera, letters: list[str]) -> list[Suggested]:
    """The families as sets, those with most length first."""
    length = np.hypot(*(lines[:, 1] - lines[:, 0]).T)
    found = []
    for family in range(int(camera.families.max(initial=0)) + 1):
        members = np.flatnonzero(camera.families == family)
        if len(members) < LEAST_OF_SET:
            continue
        taken = chosen_edges(lines, error_px, camera, family)
        edges = tuple(TracedEdge(*(round(float(value), 1) for value in lines[k].ravel())) for k in taken)
        kind: SetKind = "upright" if family == 0 else "level"
        traced = [letters[k] for k in members if letters[k]]
        letter = max(sorted(set(traced)), key=traced.count, default="")
        found.append(Suggested(kind, edges, float(length[members].sum() / length.sum()), letter))
    return sorted(found, key=lambda each: -each.share)


def _best_sets(
    level: list[Suggested], upright: list[Suggested], camera: JointCamera, picture: Picture
) -> tuple[float, list[Suggested], HorizonLine | None]:
    """The level sets whose own horizon lies near to what all edges tell together, as many as do: by how much the
    nearest misses that, the sets, and their horizon. Sets that the artist has begun are always among them."""
    points = {id(each): _point_of(each) for each in (*level, *upright)}
    best: tuple[float, list[Suggested], HorizonLine | None] | None = None
    nearest = float("inf")
    begun = [each for each in level if each.letter]
    for count in range(len(level), 0, -1):
        for some in combinations(level, count):
            line = _horizon_of([*some, *upright], points, picture)
            if line is None:
                continue
            miss = max(abs(line.y_at(x) - camera.horizon_at(x)) for x in (0.0, float(picture.width_px)))
            nearest = min(nearest, miss)
            # More sets are worth more than the nearest line: each is a direction to draw by.
            worth = max(miss, NEAR_ENOUGH * picture.height_px)
            if all(each in some for each in begun) and (best is None or worth < 0.7 * best[0]):
                best = (worth, [*some, *upright], line)
    return (nearest, *best[1:]) if best is not None else (nearest, [*level, *upright], None)


def _point_of(found: Suggested) -> VanishingPoint | None:
    point = vanishing_point(EdgeSet("A", kind=found.kind, edges=found.edges))
    return point if isinstance(point, VanishingPoint) else None


def _horizon_of(
    sets: list[Suggested], points: dict[int, VanishingPoint | None], picture: Picture
) -> HorizonLine | None:
    """The horizon that the perspective lays through these sets, by the point of each."""
    found = {kind: [p for each in sets if each.kind == kind and (p := points[id(each)]) is not None]
             for kind in ("level", "upright")}  # fmt: skip
    ground = Ground("p", "p", "0" * 64, picture.width_px, picture.height_px)
    tilt = tilt_of(found["upright"][0], ground) if found["upright"] else None
    return horizon_line(found["level"], None, tilt)


def _reason(certainty: Certainty, cameras: list[JointCamera], level: list[Suggested], picture: Picture) -> str:
    """What would decide, where it is not sure."""
    if certainty == "sure":
        return ""
    head = "Likely, but look before you accept." if certainty == "likely" else "Not sure."
    best = cameras[0]
    if len(cameras) > 1 and best.score - cameras[1].score < 6:
        here, there = (100 * each.horizon_at(picture.width_px / 2) / picture.height_px for each in cameras[:2])
        if abs(here - there) > 1:
            return f"{head} The horizon could also lie {there:.0f} % down. Trace two edges that you know to be level."
    if best.height_spread_px > 0.01 * picture.height_px:
        return f"{head} The edges found are too short to tell where they meet. Trace two long ones that run back."
    if len(level) < 2:
        return f"{head} Only one direction was found. Trace two edges that run back to the other side."
    return f"{head} Only a few of the edges agree. Trace two long edges that run back."
