"""From a photo of the drawing to what is off: corners, flattening, the whole, the parts, and what to say when not."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.check.checked import Checked, whole_of
from mild_compass.craft.check.corners import found_sheet
from mild_compass.craft.check.flat import FlatSheet, flattened, ink_of
from mild_compass.craft.check.offs import frame_drawn, told_places
from mild_compass.craft.check.parts import labelled
from mild_compass.craft.check.pieces import pieces_of
from mild_compass.craft.check.planned import WORDS, without_doubles
from mild_compass.craft.check.proportion import told_ratio
from mild_compass.craft.check.ridges import profiles, ridges_of
from mild_compass.craft.check.sheet_state import cover, inked, painted
from mild_compass.craft.check.sides import Sides, by_hand
from mild_compass.craft.check.whole import CoarseFit, coarse_fit, fitted_whole, told_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from mild_compass.craft.check.checked import Point
    from mild_compass.craft.check.pieces import PlanLine, Pieces
    from mild_compass.craft.check.ridges import Ridges

    Array = NDArray[np.float64]
    Rgb = NDArray[np.uint8]
    Grey = NDArray[np.float32]

LEAST_PX = 600
LEAST_PX_PER_MM = 1.5
STANDS_OUT = 5.8  # spreads above all other places: no other drawing comes so near
LEAD = 1.25  # times as far out as the best with the sheet turned round
DRAWN, BY_CHANCE, MOST_ASKED = 0.18, 0.45, 300  # of a kind's lines followed more than by chance: it is drawn; mm; pieces of it
PX_OFF = 0.35  # what corners are off besides their own error: lenses are not as simple as one number
RATIO_OFF = 0.035


@dataclass(frozen=True, slots=True)
class Asked:
    """What is looked for: the sheet (mm), its lines, its frame, what the artist has set by hand, what it is called."""

    width_mm: float
    height_mm: float
    lines: tuple[PlanLine, ...]
    frame: tuple[PlanLine, ...] = ()
    names: tuple[tuple[str, float, float, float], ...] = ()  # name, x, y, radius in mm
    paper: str = "this sheet"
    corners_px: tuple[Point, ...] = ()
    focal_35mm: float = 0.0


def check(rgb: Rgb, asked: Asked) -> Checked:
    """What is off in a photo (h, w, 3) of a drawing; with a sentence instead where that cannot be told."""
    height, width = rgb.shape[:2]
    if max(height, width) < LEAST_PX:
        return Checked(False, problem=f"This photo is only {max(height, width)} pixels long, too few to measure a drawing "
                       f"on. Take it again with at least {2 * LEAST_PX}, or send the original instead of a small copy.")  # fmt: skip
    long, short = max(asked.width_mm, asked.height_mm), min(asked.width_mm, asked.height_mm)
    sure, sides = _sides(rgb, asked, long / short)
    if sides is None:
        return Checked(False, problem="No sheet of paper can be told from its ground in this photo. Lay it on something darker and "
                       "take all four corners in, or put the corners on by hand.")  # fmt: skip
    flat = flattened(rgb, _turned_to(sides, asked), asked.width_mm, asked.height_mm)
    remark, ratio_fits = _proportion(sides, asked, rgb)
    corners = _corners(flat.sides)
    if flat.px_per_mm < LEAST_PX_PER_MM:
        return Checked(False, corners, "The sheet is too small in this photo to measure on it. Go nearer, so that it fills the picture.", remark, flat)  # fmt: skip
    every = _Every.of_lines(asked.lines)
    found = _found(flat, rgb, asked, every)
    if isinstance(found, str):
        return Checked(False, corners, found, remark, flat)
    flat, ink, coarse = found
    return _compared(flat, ink, coarse, asked, every, sure and ratio_fits, remark)


def _sides(rgb: Rgb, asked: Asked, ratio: float) -> tuple[bool, Sides | None]:
    if asked.corners_px:
        return True, by_hand(np.array(asked.corners_px), (rgb.shape[1], rgb.shape[0]))
    found = found_sheet(rgb, ratio)
    if found is None:
        return False, None
    return found.sure, replace(found.sides, sigma_px=np.hypot(found.sides.sigma_px, PX_OFF))


def _turned_to(sides: Sides, asked: Asked) -> Sides:
    """The corners begun anew so that the sheet's long side lies along the plan's."""
    if asked.corners_px:
        return sides
    side = np.hypot(*(np.roll(sides.corners_px, -1, 0) - sides.corners_px).T)
    lies_across = side[0] + side[2] > side[1] + side[3]
    turned = 0 if lies_across == (asked.width_mm >= asked.height_mm) else 1
    corners = np.roll(sides.corners_px, turned, 0)
    if corners[0].sum() > corners[2].sum():  # as it lies in the photo, until the lines tell
        turned += 2
    return _rolled(sides, turned)


def _rolled(sides: Sides, by: int) -> Sides:
    return replace(sides, corners_px=np.roll(sides.corners_px, by, 0), sigma_px=np.roll(sides.sigma_px, by, 0))


def _corners(sides: Sides) -> tuple[Point, ...]:
    return tuple((float(x), float(y)) for x, y in sides.corners_px)


def _proportion(sides: Sides, asked: Asked, rgb: Rgb) -> tuple[str, bool]:
    told = told_ratio(sides, (rgb.shape[1], rgb.shape[0]), asked.focal_35mm)
    wanted = max(asked.width_mm, asked.height_mm) / min(asked.width_mm, asked.height_mm)
    if min(abs(np.log(each / wanted)) for each in told.span) <= RATIO_OFF:
        return "", True
    what = f", like {told.name}" if told.name else ""
    return (f"The sheet in this photo is {told.ratio:.2f} times as long as wide{what}; the plan is for {asked.paper}, "
            f"{wanted:.2f} times. Is it the right sheet, and are these its corners?"), False  # fmt: skip


# -- whether it is this drawing ---------------------------------------------------------------------------------


@dataclass(frozen=True, eq=False, slots=True)
class _Every:
    """All lines of the plan in pieces, and the kind of each."""

    pieces: Pieces
    kind: NDArray[np.str_]

    @classmethod
    def of_lines(cls, lines: Sequence[PlanLine]) -> _Every:
        pieces = pieces_of(lines)
        return cls(pieces, np.array([line.layer for line in lines], np.str_)[pieces.line])

    @property
    def kinds(self) -> list[str]:
        return list(dict.fromkeys(self.kind.tolist()))

    def of(self, kinds: Sequence[str]) -> Pieces:
        return self.pieces.only(np.isin(self.kind, list(kinds)))


def _found(flat: FlatSheet, rgb: Rgb, asked: Asked, every: _Every) -> tuple[FlatSheet, Grey, CoarseFit] | str:
    """The sheet the right way up and where the whole lies on it, or a sentence why that cannot be told."""
    ink = ink_of(flat.rgb, flat.px_per_mm)
    size = (asked.width_mm, asked.height_mm)
    if not asked.lines:
        return "The plan has no lines yet that a drawing could follow. Choose lines, shapes or masses for the sheet first."
    if painted(flat.rgb, flat.px_per_mm):
        return "This sheet is painted: lines cannot be told in it any more. Its values can be compared with the plan's."
    if not inked(ink, flat.px_per_mm):
        return "Nothing is drawn on this sheet yet, or so lightly that the photo does not show it. Take it in better light."
    best: tuple[CoarseFit, int] | None = None
    others = 0.0
    turns = (0, 2) if not asked.corners_px else (0,)
    for kinds in _kinds_to_try(every.kinds):
        pieces = every.of(kinds)
        if len(pieces) < 4:
            continue
        fits = [(coarse_fit(np.ascontiguousarray(np.rot90(ink, turn)), flat.px_per_mm, pieces, size), turn) for turn in turns]
        fits.sort(key=lambda fit: -fit[0].stands_out)
        if best is None or fits[0][0].stands_out > best[0].stands_out:
            best, others = fits[0], fits[-1][0].stands_out if len(fits) > 1 else 0.0
        if best[0].stands_out > STANDS_OUT:
            break
    if best is None:
        return "The plan has too few lines to compare a drawing with."
    coarse, turn = best
    if coarse.stands_out < STANDS_OUT or coarse.stands_out < LEAD * others:
        hidden = float(cover(flat.rgb, flat.px_per_mm).mean())
        if hidden > 0.25:
            return f"Something lies over {hidden:.0%} of the sheet. Take it away and take the photo again."
        return "What is drawn on this sheet does not follow this plan, or too little is drawn yet to tell. Nothing is compared."
    if turn:
        flat = flattened(rgb, _rolled(flat.sides, 2), asked.width_mm, asked.height_mm)
        ink = ink_of(flat.rgb, flat.px_per_mm)
    return flat, ink, coarse


def _kinds_to_try(kinds: list[str]) -> list[list[str]]:
    return [[kind] for kind in kinds] + ([kinds] if len(kinds) > 1 else [])


# -- what is off ------------------------------------------------------------------------------------------------


def _compared(flat: FlatSheet, ink: Grey, coarse: CoarseFit, asked: Asked, every: _Every, sure: bool, remark: str) -> Checked:
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
    corner_mm = float(flat.sides.sigma_px.mean() / _px_per_mm(flat))
    places, parts, missing = told_places(
        ridges, pieces, lines, matrix, found, asked.names, corner_mm, cover(flat.rgb, flat.px_per_mm)
    )
    spread = np.sqrt(np.diag(covariance))
    shift_sigma = float(np.hypot(np.hypot(*spread[:2]), corner_mm))
    whole = whole_of(told_of(matrix, middle), (shift_sigma, float(100 * spread[2]), float(np.degrees(spread[3]))))
    untouched = [WORDS.get(kind, kind) for kind in every.kinds if kind not in kinds]
    return Checked(
        sure,
        _corners(flat.sides),
        "",
        remark,
        flat,
        whole,
        matrix,
        frame_drawn(ridges, asked.frame, middle),
        places,
        parts,
        missing,
        float(pieces.length[found.part >= -1].sum() / max(pieces.length.sum(), 1e-9)),
        tuple(untouched),
    )


def _px_per_mm(flat: FlatSheet) -> float:
    area = cv2.contourArea(flat.sides.corners_px.astype(np.float32))
    return float(np.sqrt(area / (flat.width_mm * flat.height_mm)))


def _drawn_kinds(ridges: Ridges, every: _Every, matrix: Array, slack_mm: float = BY_CHANCE) -> list[str]:
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
