"""Model verification: whether it is this drawing on the sheet, which way up, and where registration begins."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.check import sentences
from mild_compass.craft.check.flat import flattened, ink_of
from mild_compass.craft.check.sheet_state import cover, inked, painted
from mild_compass.craft.check.sides import rolled
from mild_compass.craft.check.whole import CoarseFit, best_similarity, coarse_fit, directions_of, turned_directions

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.check.asked import Asked, PlanSegments
    from mild_compass.craft.check.flat import FlatSheet

    Rgb = NDArray[np.uint8]
    Grey = NDArray[np.float32]

STANDS_OUT = 5.8  # spreads above all other places: no other drawing comes so near
LEAD = 1.25  # times as far out as the best with the sheet turned round
LEAST_PAIRS, LEAST_PIECES, MOST_COVERED = 3, 4, 0.25
Recognised = tuple["FlatSheet", "Grey", CoarseFit]


def recognised(flat: FlatSheet, rgb: Rgb, asked: Asked, every: PlanSegments) -> Recognised | str:
    """The sheet the right way up and where the whole lies on it, or a sentence why that cannot be told."""
    ink = ink_of(flat.rgb, flat.px_per_mm)
    plain = _nothing_to_compare(flat, ink, asked)
    if plain:
        return plain
    best = _best(ink, asked, every)
    if best is not None and best[0].stands_out >= STANDS_OUT and best[0].stands_out >= LEAD * best[2]:
        coarse, turn, _ = best
        if turn:
            flat = flattened(rgb, rolled(flat.sides, 4 - turn), asked.width_mm, asked.height_mm)
            ink = ink_of(flat.rgb, flat.px_per_mm)
        return flat, ink, coarse
    if len(asked.pairs) >= LEAST_PAIRS:
        return flat, ink, _by_pairs(flat, asked)
    if best is None:
        return sentences.FEW_LINES
    hidden = float(cover(flat.rgb, flat.px_per_mm).mean())
    return sentences.covered(hidden) if hidden > MOST_COVERED else sentences.NOT_THIS


def _nothing_to_compare(flat: FlatSheet, ink: Grey, asked: Asked) -> str:
    if not asked.lines:
        return sentences.NO_LINES
    if painted(flat.rgb, flat.px_per_mm):
        return sentences.PAINTED
    return "" if inked(ink, flat.px_per_mm) else sentences.BLANK


def _best(ink: Grey, asked: Asked, every: PlanSegments) -> tuple[CoarseFit, int, float] | None:
    """The best of all kinds of line and both ways up, its quarter turns, and how far the other way up stands out."""
    size = (asked.width_mm, asked.height_mm)
    best: tuple[CoarseFit, int, float] | None = None
    turns: tuple[int, ...] = (0,) if asked.corners_px else (0, 2)
    if not asked.corners_px and ink.shape[0] == ink.shape[1]:
        turns = (0, 1, 2, 3)
    kinds, maps = every.kinds, directions_of(ink, size)
    for some in [[kind] for kind in kinds] + ([kinds] if len(kinds) > 1 else []):
        pieces = every.of(some)
        if len(pieces) < LEAST_PIECES:
            continue
        fits = [(coarse_fit(turned_directions(maps, turn), pieces, size), turn) for turn in turns]
        fits.sort(key=lambda fit: -fit[0].stands_out)
        other = max((fit.stands_out for fit, _ in fits[1:]), default=0.0)
        if best is None or fits[0][0].stands_out > best[0].stands_out:
            best = (*fits[0], other)
        if best[0].stands_out > STANDS_OUT:
            break
    return best


def _by_pairs(flat: FlatSheet, asked: Asked) -> CoarseFit:
    """Where the whole lies by the pairs that the artist has clicked: their word goes."""
    plan, seen = (np.array([pair[n] for pair in asked.pairs], np.float64) for n in (0, 1))
    return CoarseFit((best_similarity(plan, flat.to_sheet(seen)),), 1.0, 0.0, 1e-3)
