"""The plan of work for a medium: what the ground does and what the hand does, step by step, each with its share.

The order of work in each medium is common practice, no published source.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
import shapely
from numpy.typing import NDArray

from mild_compass.craft.memo import Memo
from mild_compass.craft.values.names import names_of

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.craft.values.edges import Edge
    from mild_compass.craft.values.masses import Masses
    from mild_compass.plan.tones import Medium, MediumPlan

    Mask = NDArray[np.bool_]
    Picture = NDArray[np.float32]

WHITE_PAPER = 96.0  # L* of drawing paper
CHARCOAL_TONE = 45.0  # L* of a sheet rubbed with charcoal: common practice, no published source
BINS = 100
PICTURE_PX = 1200  # of a step's picture
WET: tuple[Medium, ...] = ("washes", "opaque")
LEAST_CM = 1.0  # of edge: less is not worth a word
LITTLE_PAPER = 0.20  # of the sheet: with less of it in sight a toned paper no longer speaks

MEDIUM_WORDS: dict[Medium, str] = {
    "toned paper": "toned paper with dark and light",
    "charcoal": "charcoal rubbed on, lights lifted",
    "washes": "transparent washes, light to dark",
    "opaque": "opaque paint",
    "hatching": "graphite or hatching on white",
}


_MAPS: Memo[NDArray[np.uint8]] = Memo(2)


@dataclass(frozen=True, eq=False, slots=True)
class Step:
    """One step: what to do, where (mask over the picture), how the picture looks afterwards (L*), and which value it
    lays, if one."""

    title: str
    words: str
    mask: Mask
    after: Picture
    value: int | None = None

    @property
    def share(self) -> float:
        """Of the picture that is worked on."""
        return float(self.mask.mean())


@dataclass(frozen=True, eq=False, slots=True)
class MediumWork:
    """All steps in order, the L* of the paper, how much of it stays untouched, the masking line, warnings, and how
    much of the edges is softened."""

    steps: tuple[Step, ...]
    paper_value: float
    paper_share: float
    dark_share: float
    light_share: float
    masking_mm: float
    warnings: tuple[str, ...]
    soft_mm: float = 0.0


def medium_work(masses: Masses, medium: MediumPlan, edges: tuple[Edge, ...] = ()) -> MediumWork:
    """The steps of the chosen medium for these masses, with what becomes of the ``edges`` of each."""
    work = MAKERS[medium.medium](masses, medium)
    if not edges:
        return work
    wet = medium.medium in WET
    steps = tuple(replace(step, words=step.words + _edge_words(step.value, edges, wet)) for step in work.steps)
    return replace(work, steps=steps, soft_mm=sum(edge.length_mm for edge in edges if edge.kind == "soft"))


def _edge_words(value: int | None, edges: tuple[Edge, ...], wet: bool) -> str:
    """Which edges of a value toward lighter ones are lost and softened, and when."""
    if value is None:
        return ""
    mine = [edge for edge in edges if edge.values[0] == value]
    lost, soft = (sum(edge.length_mm for edge in mine if edge.kind == kind) / 10 for kind in ("lost", "soft"))
    parts = [f"{verb} {length:.0f} cm" for verb, length in (("lose", lost), ("soften", soft)) if length >= LEAST_CM]
    when = "while wet" if wet else "with a finger or a dry brush"
    return f" Its edges: {' and '.join(parts)} {when}." if parts else ""


def map_of(masses: Masses) -> NDArray[np.uint8]:
    """The value of each pixel of the steps' pictures, from the masses' outlines."""
    return _MAPS.of(masses, None, lambda: masses.step_map(PICTURE_PX))


def best_paper(lightness: NDArray[np.floating], tolerance: float) -> float:
    """The L* of paper that leaves most of a picture (h, w) untouched: the middle of the scale's fullest stretch."""
    counts, edges = np.histogram(lightness, BINS, (0, 100))
    width = max(1, round(2 * tolerance / 100 * BINS))
    sums = np.convolve(counts, np.ones(width, int), "valid")
    best = np.flatnonzero(sums == sums.max())
    start = int(best[len(best) // 2])
    return float((edges[start] + edges[start + width]) / 2)


def paper_shares(lightness: NDArray[np.floating], value: float, tolerance: float) -> tuple[float, float, float]:
    """What a toned paper does itself, and what dark and light have to do; adds up to 1."""
    dark = float((lightness < value - tolerance).mean())
    light = float((lightness > value + tolerance).mean())
    return 1 - dark - light, dark, light


def masking_line_mm(masses: Masses, values: set[int]) -> float:
    """The length of the outlines round some of the values, in mm on the sheet; the frame's own edge is not masked."""
    height, width = masses.steps.shape
    chosen = [
        shape for shape, value in zip(masses.shapes.polygons, masses.shapes.values, strict=True) if value in values
    ]
    if not chosen:
        return 0.0
    outline = shapely.boundary(shapely.union_all(np.array(chosen)))
    inner = shapely.difference(outline, shapely.buffer(shapely.boundary(shapely.box(0, 0, width, height)), 0.5))
    return float(shapely.length(inner)) * masses.mm_per_step_px


def _toned(masses: Masses, medium: MediumPlan) -> MediumWork:
    value = medium.paper_value if medium.paper_value is not None else best_paper(masses.lightness, medium.tolerance)
    paper, dark, light = paper_shares(masses.lightness, value, medium.tolerance)
    names = names_of(len(masses.shown))
    canvas = np.full(map_of(masses).shape, value, np.float32)
    left = np.abs(np.array(masses.shown) - value) <= medium.tolerance
    steps = [
        _step(
            "The paper", f"Paper of L* {value:.0f}. What is of its value stays untouched.", left[map_of(masses)], canvas
        )
    ]
    darks = [k for k in range(len(left)) if not left[k] and masses.shown[k] < value]
    lights = [k for k in range(len(left)) if not left[k] and masses.shown[k] > value]
    for k in darks[::-1]:
        canvas = _laid(canvas, masses, k)
        steps.append(_step(f"The {names[k]}", "With the dark, one even value.", map_of(masses) == k, canvas, k))
    for k in lights:
        canvas = _laid(canvas, masses, k)
        steps.append(_step(f"The {names[k]}", "With the light, never over the dark.", map_of(masses) == k, canvas, k))
    warnings = []
    if dark > paper:
        warnings.append(
            f"The dark work covers {100 * dark:.0f} % and leaves the paper {100 * paper:.0f} %: a darker paper would "
            "share the work."
        )
    if paper < LITTLE_PAPER:
        warnings.append(f"Only {100 * paper:.0f} % of the paper is left to speak. Plain white may do as well.")
    return MediumWork(tuple(steps), value, paper, dark, light, 0.0, tuple(warnings))


def _charcoal(masses: Masses, _: MediumPlan) -> MediumWork:
    names, every = names_of(len(masses.shown)), np.ones(map_of(masses).shape, bool)
    canvas = np.full(map_of(masses).shape, CHARCOAL_TONE, np.float32)
    steps = [_step("Tone the sheet", f"Rub charcoal over all of it, to about L* {CHARCOAL_TONE:.0f}.", every, canvas)]
    darks = [k for k, shown in enumerate(masses.shown) if shown < CHARCOAL_TONE]
    lights = [k for k, shown in enumerate(masses.shown) if shown >= CHARCOAL_TONE]
    for k in darks[::-1]:
        canvas = _laid(canvas, masses, k)
        steps.append(
            _step(f"Draw the {names[k]}", "With the side of the stick, then the point.", map_of(masses) == k, canvas, k)
        )
    for k in lights:
        canvas = _laid(canvas, masses, k)
        tool = "the clean edge of a rubber" if k == len(masses.shown) - 1 else "a kneaded rubber, dabbing"
        steps.append(_step(f"Lift the {names[k]}", f"With {tool}.", map_of(masses) == k, canvas))
    return _plain_work(masses, steps, WHITE_PAPER, 0.0, _lifting_warnings(masses))


def _lifting_warnings(masses: Masses) -> tuple[str, ...]:
    lifted = sum(share for share, shown in zip(masses.shares, masses.shown, strict=True) if shown > CHARCOAL_TONE + 25)
    if lifted < 0.5:
        return ()
    return (
        f"{100 * lifted:.0f} % would have to be lifted far: a lighter tone to begin with, or white paper, is less.",
    )


def _washes(masses: Masses, _: MediumPlan) -> MediumWork:
    return _light_to_dark(
        masses, "Reserve the {}", "Mask {} or paint round it: the paper is the white.", "Wash {}", _wash_words
    )


def _wash_words(number: int, name: str, last: bool) -> str:
    drying = "Let it dry first. " if number > 1 else ""
    return (
        f"{drying}Over everything darker than this; it stays in sight as the {name}."
        if not last
        else f"{drying}Only the {name} is left."
    )


def _hatching(masses: Masses, _: MediumPlan) -> MediumWork:
    return _light_to_dark(masses, "Leave the {}", "White paper; {} is never touched.", "Layer {}", _hatch_words)


def _hatch_words(number: int, name: str, last: bool) -> str:
    way = ("one way", "across the first", "slanting", "slanting the other way", "upright", "level")[min(number - 1, 5)]
    return f"Hatch {way}; what gets no more is the {name}." if not last else f"Hatch {way}, only the {name}."


def _light_to_dark(
    masses: Masses, reserved: str, how: str, title: str, words: Callable[[int, str, bool], str]
) -> MediumWork:
    """The lightest is the paper; every further layer covers all that is darker."""
    count, names = len(masses.shown), names_of(len(masses.shown))
    canvas = np.full(map_of(masses).shape, max(masses.shown[-1], WHITE_PAPER), np.float32)
    line = masking_line_mm(masses, {count - 1})
    first = f"{how.format('the ' + names[-1])} Its outline is {line / 10:.0f} cm long on the sheet."
    steps = [_step(reserved.format(names[-1]), first, map_of(masses) == count - 1, canvas)]
    for number, k in enumerate(range(count - 2, -1, -1), 1):
        covered = map_of(masses) <= k
        canvas = np.where(covered, np.float32(masses.shown[k]), canvas)
        steps.append(_step(title.format(number), words(number, names[k], k == 0), covered, canvas, k))
    return _plain_work(masses, steps, WHITE_PAPER, line, ())


def _opaque(masses: Masses, _: MediumPlan) -> MediumWork:
    names = names_of(len(masses.shown))
    canvas = np.full(map_of(masses).shape, 60.0, np.float32)
    steps = [
        _step(
            "The ground",
            "A thin middle tone over all, so that no white confuses the eye.",
            np.ones(map_of(masses).shape, bool),
            canvas,
        )
    ]
    for k in range(len(masses.shown)):
        canvas = _laid(canvas, masses, k)
        how = "Thin." if k == 0 else ("Last and thickest." if k == len(masses.shown) - 1 else "A little thicker.")
        steps.append(_step(f"Block in the {names[k]}", how, map_of(masses) == k, canvas, k))
    return _plain_work(masses, steps, WHITE_PAPER, 0.0, ())


MAKERS: dict[Medium, Callable[[Masses, MediumPlan], MediumWork]] = {
    "toned paper": _toned,
    "charcoal": _charcoal,
    "washes": _washes,
    "opaque": _opaque,
    "hatching": _hatching,
}


def _laid(canvas: Picture, masses: Masses, value: int) -> Picture:
    return np.where(map_of(masses) == value, np.float32(masses.shown[value]), canvas)


def _step(title: str, words: str, mask: Mask, after: Picture, value: int | None = None) -> Step:
    return Step(title, words, mask, after, value)


def _plain_work(
    masses: Masses, steps: list[Step], paper: float, masking_mm: float, warnings: tuple[str, ...]
) -> MediumWork:
    light = float(masses.shares[-1])
    return MediumWork(tuple(steps), paper, light, 1 - light, 0.0, masking_mm, warnings)
