"""From a photo of the drawing to what is off: corners, flattening, the whole, the parts, and what to say when not."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.check.checked import Checked, PlaceFound, whole_of
from mild_compass.craft.check.corners import found_sheet
from mild_compass.craft.check.flat import FlatSheet, flattened, ink_of
from mild_compass.craft.check.offs import frame_drawn, told_places
from mild_compass.craft.check.parts import labelled
from mild_compass.craft.check.pieces import pieces_of
from mild_compass.craft.check.planned import WORDS, without_doubles
from mild_compass.craft.check.proportion import told_ratio
from mild_compass.craft.check.ridges import profiles, ridges_of
from mild_compass.craft.check.sheet_state import cover, inked, painted
from mild_compass.craft.check.sides import Sides, by_hand, fitted_sides
from mild_compass.craft.check.whole import CoarseFit, applied, best_similarity, coarse_fit, fitted_whole, told_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import NDArray

    from mild_compass.craft.check.checked import PartFound, Point
    from mild_compass.craft.check.pieces import PlanLine, Pieces
    from mild_compass.craft.check.ridges import Ridges

    Array = NDArray[np.float64]
    Rgb = NDArray[np.uint8]
    Grey = NDArray[np.float32]

LEAST_PX = 600
LEAST_PX_PER_MM = 1.5
STANDS_OUT = 5.8  # spreads above all other places: no other drawing comes so near
LEAD = 1.25  # times as far out as the best with the sheet turned round
DRAWN, BY_CHANCE, MOST_ASKED = (
    0.18,
    0.45,
    300,
)  # of a kind's lines followed more than by chance: it is drawn; mm; pieces of it
PX_OFF = 0.35  # what corners are off besides their own error: lenses are not as simple as one number
RATIO_OFF, RATIO_NONSENSE, SCAN_OFF = 0.035, 0.3, 0.02  # in ln
LEAST_PAIRS, HAND_MM, PART_MM, CLICK_MM, OFF_BY_HAND_MM = 3, 4.0, 6.0, 0.35, 1.0
LEAST_DRAWN = 0.08  # of the lines looked for: less is chance

NO_SHEET = (
    "No sheet of paper can be told from its ground in this photo. Lay it on something darker and take all four corners "
    "in, or put the corners on by hand."
)
TOO_FAR = "The sheet is too small in this photo to measure on it. Go nearer, so that it fills the picture."
PAINTED = "This sheet is painted: lines cannot be told in it any more. Its values can be compared with the plan's."
NOT_THIS = (
    "What is drawn on this sheet does not follow this plan, or too little is drawn yet to tell. Nothing is compared."
)


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
    pairs: tuple[tuple[Point, Point], ...] = ()  # of the plan (mm) and of the photo (px), clicked by hand
    refused: tuple[Point, ...] = ()  # places of the plan that are not compared


def check(rgb: Rgb, asked: Asked) -> Checked:
    """What is off in a photo (h, w, 3) of a drawing; with a sentence instead where that cannot be told."""
    longest = max(rgb.shape[:2])
    if longest < LEAST_PX:
        return Checked(False, problem=f"This photo is only {longest} pixels long, too few to measure a drawing on. Take it "
                       f"again with at least {2 * LEAST_PX}, or send the original instead of a small copy.")  # fmt: skip
    seen = _sides(rgb, asked)
    if seen is None:
        return Checked(False, problem=NO_SHEET)
    flat = flattened(rgb, _turned_to(seen.sides, asked), asked.width_mm, asked.height_mm)
    corners = _corners(flat.sides)
    if flat.px_per_mm < LEAST_PX_PER_MM:
        return Checked(False, corners, TOO_FAR, seen.remark, flat)
    every = _Every.of_lines(asked.lines)
    found = _found(flat, rgb, asked, every)
    if isinstance(found, str):
        return Checked(False, corners, found, seen.remark, flat)
    flat, ink, coarse = found
    compared = _compared(flat, ink, coarse, asked, every, seen)
    if compared.drawn_share < LEAST_DRAWN or not compared.places:
        return Checked(False, corners, NOT_THIS, seen.remark, flat)
    return compared


@dataclass(frozen=True, eq=False, slots=True)
class _Seen:
    """The sheet in the photo, whether its corners may be trusted, and what is to be said of it."""

    sides: Sides
    sure: bool
    remark: str = ""


def _sides(rgb: Rgb, asked: Asked) -> _Seen | None:
    size = (rgb.shape[1], rgb.shape[0])
    wanted = max(asked.width_mm, asked.height_mm) / min(asked.width_mm, asked.height_mm)
    if asked.corners_px:
        return _Seen(_with_bow(rgb, by_hand(np.array(asked.corners_px), size)), True)
    found = found_sheet(rgb, wanted)
    if found is not None:
        sides = replace(found.sides, sigma_px=np.hypot(found.sides.sigma_px, PX_OFF))
        told = told_ratio(sides, size, asked.focal_35mm)
        off = min(abs(np.log(each / wanted)) for each in told.span)
        if off <= RATIO_OFF:
            return _Seen(sides, found.sure)
        if off <= RATIO_NONSENSE:
            what = f", like {told.name}" if told.name else ""
            return _Seen(sides, False, f"The sheet in this photo is {told.ratio:.2f} times as long as wide{what}; the plan is for "
                         f"{asked.paper}, {wanted:.2f} times. Is it the right sheet, and are these its corners?")  # fmt: skip
    if abs(np.log(max(size) / min(size) / wanted)) < SCAN_OFF:
        width, height = size
        sides = by_hand(np.array([[0.0, 0], [width, 0], [width, height], [0, height]]), size, sigma_px=0.01 * width)
        return _Seen(sides, False, "No edge of the sheet is to be seen: the whole picture is taken for it, as from a scanner. "
                     "Put the corners on by hand where that is not so.")  # fmt: skip
    return None


def _with_bow(rgb: Rgb, sides: Sides) -> Sides:
    """Corners set by hand stay; the bow of the lens is taken from the sheet's edges where these are near."""
    fitted = fitted_sides(rgb, sides.corners_px)
    reach = 0.012 * np.hypot(*rgb.shape[:2])
    if fitted is None or np.hypot(*(fitted.corners_px - sides.corners_px).T).max() > reach:
        return sides
    return replace(sides, bow=fitted.bow)


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
        return (
            "The plan has no lines yet that a drawing could follow. Choose lines, shapes or masses for the sheet first."
        )
    if painted(flat.rgb, flat.px_per_mm):
        return PAINTED
    if not inked(ink, flat.px_per_mm):
        return "Nothing is drawn on this sheet yet, or so lightly that the photo does not show it. Take it in better light."
    best: tuple[CoarseFit, int] | None = None
    others = 0.0
    turns = (0, 2) if not asked.corners_px else (0,)
    for kinds in _kinds_to_try(every.kinds):
        pieces = every.of(kinds)
        if len(pieces) < 4:
            continue
        fits = [
            (coarse_fit(np.ascontiguousarray(np.rot90(ink, turn)), flat.px_per_mm, pieces, size), turn)
            for turn in turns
        ]
        fits.sort(key=lambda fit: -fit[0].stands_out)
        if best is None or fits[0][0].stands_out > best[0].stands_out:
            best, others = fits[0], fits[-1][0].stands_out if len(fits) > 1 else 0.0
        if best[0].stands_out > STANDS_OUT:
            break
    if asked.pairs and len(asked.pairs) >= LEAST_PAIRS and (best is None or best[0].stands_out < STANDS_OUT):
        return flat, ink, _by_pairs(flat, asked)
    if best is None:
        return "The plan has too few lines to compare a drawing with."
    coarse, turn = best
    if coarse.stands_out < STANDS_OUT or coarse.stands_out < LEAD * others:
        hidden = float(cover(flat.rgb, flat.px_per_mm).mean())
        if hidden > 0.25:
            return f"Something lies over {hidden:.0%} of the sheet. Take it away and take the photo again."
        return NOT_THIS
    if turn:
        flat = flattened(rgb, _rolled(flat.sides, 2), asked.width_mm, asked.height_mm)
        ink = ink_of(flat.rgb, flat.px_per_mm)
    return flat, ink, coarse


def _kinds_to_try(kinds: list[str]) -> list[list[str]]:
    return [[kind] for kind in kinds] + ([kinds] if len(kinds) > 1 else [])


def _by_pairs(flat: FlatSheet, asked: Asked) -> CoarseFit:
    """Where the whole lies by the pairs that the artist has clicked: their word goes."""
    plan, seen = (np.array([pair[n] for pair in asked.pairs], np.float64) for n in (0, 1))
    return CoarseFit((best_similarity(plan, flat.to_sheet(seen)),), 1.0, 0.0, 1e-3)


# -- what is off ------------------------------------------------------------------------------------------------


def _compared(flat: FlatSheet, ink: Grey, coarse: CoarseFit, asked: Asked, every: _Every, seen: _Seen) -> Checked:
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
    places, parts = _by_hand(flat, asked, matrix, places, parts)
    spread = np.sqrt(np.diag(covariance))
    shift_sigma = float(np.hypot(np.hypot(*spread[:2]), corner_mm))
    whole = whole_of(told_of(matrix, middle), (shift_sigma, float(100 * spread[2]), float(np.degrees(spread[3]))))
    untouched = [WORDS.get(kind, kind) for kind in every.kinds if kind not in kinds]
    return Checked(
        seen.sure,
        _corners(flat.sides),
        "",
        seen.remark,
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
