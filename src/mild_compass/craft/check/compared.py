"""Registration of a recognised drawing: what of it is drawn, the global similarity, the parts that moved."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.check import sentences
from mild_compass.craft.check.checked import Checked, PlaceFound, whole_of
from mild_compass.craft.check.displacements import displaced_places, frame_drawn
from mild_compass.craft.check.parts import labelled
from mild_compass.craft.check.pieces import pieces_of
from mild_compass.craft.check.planned import without_doubles
from mild_compass.craft.check.ridges import profiles, ridges_of
from mild_compass.craft.check.sheet_state import cover
from mild_compass.craft.check.whole import CoarseFit, applied, similarity_of
from mild_compass.craft.check.whole_fit import fitted_whole

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.check.asked import Asked, PlanSegments
    from mild_compass.craft.check.checked import PartFound, Point
    from mild_compass.craft.check.flat import FlatSheet, Grey
    from mild_compass.craft.check.ridges import Ridges
    from mild_compass.craft.check.sides import Sides

    Array = NDArray[np.float64]

DRAWN, BY_CHANCE, MOST_ASKED = (
    0.18,
    0.45,
    300,
)  # of a kind's lines followed more than by chance: it is there; mm; pieces
HAND_MM, PART_MM, CLICK_MM, OFF_BY_HAND_MM = 4.0, 6.0, 0.35, 1.0
TELLS_COVERED = 0.08


def corners_of(sides: Sides) -> tuple[Point, ...]:
    """The corners as plain points."""
    return tuple((float(x), float(y)) for x, y in sides.corners_px)


def compared(
    flat: FlatSheet, ink: Grey, coarse: CoarseFit, asked: Asked, every: PlanSegments, sure: bool, remark: str
) -> Checked:
    """The drawing against the plan: the whole first, then the parts, then what is not drawn."""
    ridges = ridges_of(ink, flat.px_per_mm)
    middle = (asked.width_mm / 2, asked.height_mm / 2)
    first = _drawn_kinds(ridges, every, coarse.maps[0], slack_mm=1.5)
    lines, pieces = list(asked.lines), every.of(first)
    matrix, covariance = fitted_whole(ridges, pieces, coarse, middle)
    kinds = _drawn_kinds(ridges, every, matrix)
    if len(kinds) > 1:
        lines = without_doubles([line for kind in kinds for line in lines if line.layer == kind])
        pieces = pieces_of(lines)
    elif kinds != first:
        pieces = every.of(kinds)
    if kinds != first:
        matrix, covariance = fitted_whole(ridges, pieces, replace(coarse, maps=(matrix,)), middle)
    found = labelled(ridges, pieces, matrix)
    over = cover(flat.rgb, flat.px_per_mm)
    corner_mm = float(flat.sides.sigma_px.mean() / _px_per_mm(flat))
    places, parts, missing = displaced_places(ridges, pieces, lines, matrix, found, asked.names, corner_mm, over)
    places, parts = _by_hand(flat, asked, matrix, places, parts)
    spread = np.sqrt(np.diag(covariance))
    shift_sigma = float(np.hypot(np.hypot(*spread[:2]), corner_mm))
    whole = whole_of(similarity_of(matrix, middle), (shift_sigma, float(100 * spread[2]), float(np.degrees(spread[3]))))
    return Checked(
        sure,
        corners_of(flat.sides),
        "",
        " ".join(filter(None, (remark, sentences.partly_covered(over.mean()) if over.mean() > TELLS_COVERED else ""))),
        flat,
        whole,
        matrix,
        frame_drawn(ridges, asked.frame, middle),
        places,
        parts,
        missing,
        float(pieces.length[found.part >= -1].sum() / max(pieces.length.sum(), 1e-9)),
        tuple(kind for kind in every.kinds if kind not in kinds),
    )


def _by_hand(
    flat: FlatSheet, asked: Asked, matrix: Array, places: tuple[PlaceFound, ...], parts: tuple[PartFound, ...]
) -> tuple[tuple[PlaceFound, ...], tuple[PartFound, ...]]:
    """What the artist has clicked comes in, what is refused goes out."""
    out = [*asked.refused, *(pair[0] for pair in asked.pairs)]
    stay = [place for place in places if not any(np.hypot(*np.subtract(place.plan_mm, each)) < HAND_MM for each in out)]
    for plan, seen in asked.pairs:
        drawn = flat.to_sheet(np.array([seen]))[0]
        rest = drawn - applied(matrix, np.array(plan, np.float64))
        off = float(np.hypot(*rest)) > OFF_BY_HAND_MM
        stay.append(
            PlaceFound(plan, (float(drawn[0]), float(drawn[1])), None, CLICK_MM, off, (float(rest[0]), float(rest[1])))
        )
    kept = tuple(
        part
        for part in parts
        if not any(np.hypot(*np.subtract(part.centre_mm, each)) < PART_MM for each in asked.refused)
    )
    gone = {n for n, part in enumerate(parts) if part not in kept}
    return tuple(place for place in stay if place.part not in gone or place.part < 0), kept


def _px_per_mm(flat: FlatSheet) -> float:
    area = cv2.contourArea(flat.sides.corners_px.astype(np.float32))
    return float(np.sqrt(area / (flat.width_mm * flat.height_mm)))


def _drawn_kinds(ridges: Ridges, every: PlanSegments, matrix: Array, slack_mm: float = BY_CHANCE) -> list[str]:
    """The kinds of line that are on the paper: followed clearly better where they belong than beside it."""
    if len(every.kinds) == 1:
        return every.kinds
    found: list[tuple[float, str]] = []
    for kind in every.kinds:
        pieces = every.of([kind]).some(MOST_ASKED)
        profile = profiles(ridges, pieces, matrix, 6.0)
        close = abs(profile.offsets) <= slack_mm
        near, width = profile.followed[:, close].max(1), int(close.sum())
        beside = np.mean([profile.followed[:, part].max(1) for part in (slice(width), slice(-width, None))], 0)
        weight = pieces.length / pieces.length.sum()
        gain = float(weight @ (near > 0.45) - weight @ (beside > 0.45))
        if gain > DRAWN:
            found.append((gain, kind))
    found.sort(key=lambda each: -each[0])
    return [kind for _, kind in found] or every.kinds[:1]
