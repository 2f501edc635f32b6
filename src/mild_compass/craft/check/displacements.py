"""From labelled pieces to displacements of places and parts, each with its covariance and its name."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from mild_compass.craft.check.checked import NotDrawn, PartFound, PlaceFound, WholeFound, whole_of
from mild_compass.craft.check.pieces import INSET, MEET_MM, SAMPLES, PlanLine, pieces_of
from mild_compass.craft.check.ridges import profiles, turned_normals
from mild_compass.craft.check.whole import applied, similarity_of
from mild_compass.craft.check.whole_fit import narrowed

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from mild_compass.craft.check.checked import Point
    from mild_compass.craft.check.parts import Labelling, Part
    from mild_compass.craft.check.pieces import Pieces
    from mild_compass.craft.check.ridges import Ridges

    Array = NDArray[np.float64]
    Names = Sequence[tuple[str, float, float, float]]

FOLLOWED, LONG_MM = 0.45, 4.0  # a piece that tells a place: well followed, long enough
OFF_MM, OFF_SIGMAS = 0.6, 3.0  # less is the hand's own wobble; times the standard error
FIT_MM, PX_ERROR = 0.02, 0.12  # what remains at best; the error of a line in pixels
INDEPENDENT = 3.0  # places along a piece that err by themselves
CORNER_SINE = 0.5
WAVER_MM = 0.18  # what a line wavers between its middle and its end
MISSING_MM, MISSING_GAP_MM = 12.0, 9.0
SURE_PART_MM, SURE_SIGMAS, SURE_SPOKEN_MM, SURE_CROSSED_MM = 0.8, 3.0, 15.0, 2.0
SURE_SPREAD_MM, SURE_SPREAD_SHARE = 0.2, 0.05  # of how far it was moved
SURE_LEAD, SURE_LEAD_MM = 0.06, 30.0  # followed better there than anywhere near, by this share or length of its lines
LOOKED_MM = 0.8


def displaced_places(
    ridges: Ridges,
    pieces: Pieces,
    lines: Sequence[PlanLine],
    whole: Array,
    found: Labelling,
    names: Names,
    corner_mm: float,
    hidden: NDArray[np.bool_],
) -> tuple[tuple[PlaceFound, ...], tuple[PartFound, ...], tuple[NotDrawn, ...]]:
    """Places, parts and what is missing; ``hidden`` (h, w), a pixel to a mm, is where nothing can be said."""
    at, normal = applied(whole, pieces.middle), turned_normals(pieces.across, whole)
    carried = at.copy()
    for number, part in enumerate(found.parts):
        mine = found.part == number
        carried[mine] = applied(part.move.matrix(), at[mine])
    step = carried - at
    along = step - (step * normal).sum(1)[:, None] * normal
    drawn = at + along + found.profile_offset[:, None] * normal
    sigma = np.hypot(_spread(ridges, pieces, whole, found.profile_offset), corner_mm)
    told = (found.part >= -1) & (found.followed >= FOLLOWED) & (pieces.length >= LONG_MM)
    single = _single(pieces, found, normal, drawn, sigma, told)
    double = _corners(pieces, found, whole, normal, sigma, told)
    parts = tuple(_part(part, pieces, lines, whole, names) for part in found.parts)
    return (*single, *double), parts, _missing(pieces, lines, found, at, names, hidden)


def _off(far: float, sigma: float) -> bool:
    return far > max(OFF_MM, OFF_SIGMAS * sigma)


def _pair(point: Array) -> Point:
    return float(point[0]), float(point[1])


def _spread(ridges: Ridges, pieces: Pieces, whole: Array, offset: Array) -> Array:
    """The standard error of each piece's offset (n,), from how the drawn line wavers along it."""
    near = np.linspace(-LOOKED_MM, LOOKED_MM, 17)
    at, normal = applied(whole, pieces.at), turned_normals(pieces.normal, whole)
    points = at[:, :, None] + normal[:, :, None] * (offset[:, None, None, None] + near[:, None])
    n = len(pieces)
    got = ridges.across(points.reshape(n * SAMPLES, len(near), 2), normal.reshape(n * SAMPLES, 1, 2))
    seen = got.reshape(n, SAMPLES, len(near)).astype(np.float64) ** 2
    total = seen.sum(2)
    middle = (seen * near).sum(2) / np.maximum(total, 1e-9)
    weight = np.minimum(total, 1.0)
    mean = (weight * middle).sum(1) / np.maximum(weight.sum(1), 1e-9)
    spread = np.sqrt((weight * (middle - mean[:, None]) ** 2).sum(1) / np.maximum(weight.sum(1), 1e-9))
    fit = np.hypot(FIT_MM, PX_ERROR / ridges.px_per_mm)
    return np.asarray(np.hypot(fit, spread / np.sqrt(INDEPENDENT)))


def _single(
    pieces: Pieces, found: Labelling, normal: Array, drawn: Array, sigma: Array, told: NDArray[np.bool_]
) -> list[PlaceFound]:
    return [
        PlaceFound(
            _pair(pieces.middle[n]),
            _pair(drawn[n]),
            _pair(normal[n]),
            float(sigma[n]),
            _off(abs(float(found.profile_offset[n])), float(sigma[n])),
            _pair(found.profile_offset[n] * normal[n]),
            int(found.part[n]),
        )
        for n in np.nonzero(told)[0]
    ]


def _corners(
    pieces: Pieces, found: Labelling, whole: Array, normal: Array, sigma: Array, told: NDArray[np.bool_]
) -> list[PlaceFound]:
    """Where two lines that were found meet: there both directions are known."""
    ends = np.concatenate([pieces.at[:, 0], pieces.at[:, -1]])
    owner = np.tile(np.arange(len(pieces)), 2)
    # The pieces end a little before their corner; carried on straight they meet in it.
    inset = INSET * pieces.length
    way = np.concatenate([pieces.at[:, 0] - pieces.at[:, 1], pieces.at[:, -1] - pieces.at[:, -2]])
    way /= np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    ends = ends + way * np.tile(inset, 2)[:, None]
    edge = np.concatenate([pieces.normal[:, 0], pieces.normal[:, -1]]) @ np.linalg.inv(whole[:, :2])
    edge /= np.hypot(*edge.T)[:, None]
    places = []
    for a, b in sorted(cKDTree(ends).query_pairs(MEET_MM)):
        i, j = int(owner[a]), int(owner[b])
        if i == j or not (told[i] and told[j]) or found.part[i] != found.part[j]:
            continue
        sine = abs(edge[a, 0] * edge[b, 1] - edge[a, 1] * edge[b, 0])
        bent = min(abs(edge[a] @ normal[i]), abs(edge[b] @ normal[j]))
        if sine < CORNER_SINE or bent < 0.97:
            continue
        rest = np.linalg.solve(np.array([edge[a], edge[b]]), found.profile_offset[[i, j]])
        error = float(np.hypot(np.hypot(sigma[i], sigma[j]) / sine, WAVER_MM))
        plan = (ends[a] + ends[b]) / 2
        far = float(np.hypot(*rest))
        places.append(
            PlaceFound(
                _pair(plan),
                _pair(applied(whole, plan) + rest),
                None,
                error,
                _off(far, error),
                _pair(rest),
                int(found.part[i]),
            )
        )
    return places


# -- names -----------------------------------------------------------------------------------------------------


def name_at(middle: Array, spread_mm: float, names: Names, lines: Sequence[str]) -> str:
    """What stands there: a ring, a measure; else the name of most lines; else nothing."""
    best, name = 1.0, ""
    for words, x, y, radius in names:
        far = float(np.hypot(middle[0] - x, middle[1] - y)) / max(radius, 6.0)
        # Something much larger than what it is to name, or much smaller, is not meant.
        if far < best and 0.25 < max(radius, 6.0) / max(spread_mm, 4.0) < 4.0:
            best, name = far, words
    if name:
        return name
    named = [each for each in lines if each]
    if len(named) > len(lines) / 2:
        return max(dict.fromkeys(named), key=named.count)
    return ""


def _part(part: Part, pieces: Pieces, lines: Sequence[PlanLine], whole: Array, names: Names) -> PartFound:
    middle = pieces.middle[part.pieces].mean(0)
    spread = float(np.hypot(*pieces.middle[part.pieces].std(0))) + 4.0
    far, length = float(np.hypot(*part.move.shift_mm)), float(pieces.length[part.pieces].sum())
    at = applied(whole, pieces.middle[part.pieces])
    most = float(np.hypot(*(applied(part.move.matrix(), at) - at).T).max())
    sure = (
        len(part.pieces) >= 3
        and part.sigma_mm < SURE_SPREAD_MM + SURE_SPREAD_SHARE * far
        and part.crossed_mm > SURE_CROSSED_MM
        and max(far, most * 0.6) > max(SURE_PART_MM, SURE_SIGMAS * part.sigma_mm)
        and part.spoken_mm > SURE_SPOKEN_MM
        and (part.lead > SURE_LEAD or part.lead * length > SURE_LEAD_MM)
    )
    return PartFound(
        name_at(middle, spread, names, [lines[n].name for n in pieces.line[part.pieces]]),
        _pair(middle),
        part.move.shift_mm,
        100 * (part.move.scale - 1),
        part.move.turn_deg,
        sure,
        part.sigma_mm,
        _outlines(pieces, part.pieces),
    )


def _outlines(pieces: Pieces, which: NDArray[np.int64]) -> tuple[tuple[Point, ...], ...]:
    return tuple(tuple(_pair(point) for point in pieces.at[n][:: SAMPLES // 5]) for n in which)


def _missing(
    pieces: Pieces, lines: Sequence[PlanLine], found: Labelling, at: Array, names: Names, hidden: NDArray[np.bool_]
) -> tuple[NotDrawn, ...]:
    height, width = hidden.shape
    x, y = (np.clip(at[:, axis].astype(int), 0, (width, height)[axis] - 1) for axis in range(2))
    gone = np.nonzero((found.part == -2) & ~hidden[y, x])[0]
    if not len(gone):
        return ()
    marks = pieces.at[gone][:, [0, SAMPLES // 2, -1]].reshape(-1, 2)  # both ends and the middle of each
    pairs = cKDTree(marks).query_pairs(MISSING_GAP_MM, output_type="ndarray") // 3
    links = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), (len(gone), len(gone)))
    group = connected_components(links, directed=False)[1]
    told = []
    for number in range(int(group.max()) + 1):
        mine = gone[group == number]
        length = float(pieces.length[mine].sum())
        if length < MISSING_MM:
            continue
        middle = np.average(pieces.middle[mine], axis=0, weights=pieces.length[mine])
        spread = float(np.hypot(*pieces.middle[mine].std(0))) + 4.0
        name = name_at(middle, spread, names, [lines[n].name for n in pieces.line[mine]])
        told.append(NotDrawn(name, _pair(middle), length, _outlines(pieces, mine)))
    return tuple(sorted(told, key=lambda each: -each.length_mm))


# -- the drawn frame -------------------------------------------------------------------------------------------

FRAME_FOLLOWED, FRAME_SHARE = 0.45, 0.6


def frame_drawn(ridges: Ridges, frame: Sequence[PlanLine], middle: Point) -> WholeFound | None:
    """Where the frame was drawn against where it belongs; None where none is to be seen."""
    pieces = pieces_of(list(frame))
    if not len(pieces):
        return None
    start = np.column_stack([np.eye(2), np.zeros(2)])
    matrix, covariance = narrowed(ridges, pieces, start, middle)
    profile = profiles(ridges, pieces, matrix, 0.4)
    followed = profile.followed.max(1)
    sides = [
        float((followed[pieces.line == n] > FRAME_FOLLOWED).mean())
        for n in range(len(frame))
        if (pieces.line == n).any()
    ]
    if len(sides) < 4 or sorted(sides)[1] < FRAME_SHARE:
        return None
    spread = np.sqrt(np.diag(covariance))
    return whole_of(
        similarity_of(matrix, middle),
        (float(np.hypot(*spread[:2])), float(100 * spread[2]), float(np.degrees(spread[3]))),
    )
