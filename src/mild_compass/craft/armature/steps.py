"""How to draw a construction with ruler and compass alone on this sheet, in numbered steps with the mm that help."""

from __future__ import annotations

from math import hypot, sqrt
from typing import TYPE_CHECKING

from mild_compass.craft.armature.constructions import CONSTRUCTION_WORDS, MUSICAL, ROOTS, musical_marks
from mild_compass.craft.armature.themes import PHI
from mild_compass.craft.sheet_sizes.lengths import format_length

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.craft.geometry.lines import Box
    from mild_compass.craft.sheet_sizes.lengths import Unit
    from mild_compass.plan.structure import Construction

SLANT = (
    "Lay a slanted line from a corner; step off {n} equal openings of the compass on it; join the last with the far "
    "end of the side; draw parallels through the others."
)


class _Sheet:
    """The picture area in the artist's words."""

    def __init__(self, box: Box, unit: Unit) -> None:
        self.width, self.height = box.width, box.height
        self.long, self.short = max(box.width, box.height), min(box.width, box.height)
        self.across = box.width >= box.height
        self._unit = unit

    def told(self, mm: float) -> str:
        return format_length(mm, self._unit)

    @property
    def line_across(self) -> str:
        """A line square to the long side."""
        return "an upright" if self.across else "a level"

    def marks(self, fractions: list[float]) -> str:
        """Where marks lie along both sides."""
        along = ", ".join(self.told(f * self.width) for f in fractions)
        down = ", ".join(self.told(f * self.height) for f in fractions)
        return f"Along the width from the left: {along}. Down the height from the top: {down}."


def construction_steps(construction: Construction, box: Box, unit: Unit = "mm", nested: int = 0) -> tuple[str, ...]:
    """Numbered steps, without their numbers; the first is always the rectangle itself."""
    sheet = _Sheet(box, unit)
    first = (
        f"Draw the picture area, {sheet.told(sheet.width)} × {sheet.told(sheet.height)}. Its corners are square when "
        f"both diagonals measure {sheet.told(hypot(sheet.width, sheet.height))}."
    )
    if construction in MUSICAL:
        rest = _musical(sheet, construction)
    elif construction in ROOTS:
        rest = _theme(sheet, construction, nested)
    else:
        rest = SIMPLE[construction](sheet)
    return (first, *rest)


def _diagonals(_: _Sheet) -> list[str]:
    return ["Join opposite corners with the ruler."]


def _halves(sheet: _Sheet) -> list[str]:
    return [
        "Join opposite corners lightly; they cross in the middle of the sheet.",
        (
            "With one opening of the compass, more than half the width, strike arcs above and below from the two upper "
            "corners; the ruler through their crossings gives the upright. It passes through the middle."
        ),
        (
            f"Do the same with two corners of one side for the level. The middles lie at {sheet.told(sheet.width / 2)} "
            f"and {sheet.told(sheet.height / 2)}."
        ),
    ]


def _quarters(sheet: _Sheet) -> list[str]:
    return [
        *_halves(sheet),
        "The cross makes four small rectangles. Draw a diagonal in each: they cross in the quarters.",
        (
            f"Draw uprights and levels through those crossings, {sheet.told(sheet.width / 4)} and "
            f"{sheet.told(sheet.height / 4)} from the edges."
        ),
    ]


def _thirds(sheet: _Sheet) -> list[str]:
    return [
        "Draw both diagonals.",
        (
            "Find the middle of the upper and of the lower side (half the width), and join each with the two corners "
            "opposite it."
        ),
        "Each of these lines crosses a diagonal a third of the way. Draw uprights and levels through the crossings.",
        f"Check: {sheet.told(sheet.width / 3)} from left and right, {sheet.told(sheet.height / 3)} from top and foot.",
    ]


def _fourteen(sheet: _Sheet) -> list[str]:
    return [
        "Draw both diagonals.",
        f"Mark the middles of the four sides: {sheet.told(sheet.width / 2)} and {sheet.told(sheet.height / 2)}.",
        "From each corner draw a line to the middle of each of the two sides that do not touch it: eight lines.",
        "Join the middles of neighbouring sides: four lines, a lozenge.",
        "Uprights and levels may be dropped through any crossing.",
    ]


def _reciprocals(sheet: _Sheet) -> list[str]:
    meets = sheet.short**2 / sheet.long
    return [
        "Draw both diagonals.",
        (
            f"Set the compass in the middle of a short side, open to half of it ({sheet.told(sheet.short / 2)}), and "
            "draw the half circle inwards."
        ),
        (
            "It meets each diagonal where the line from the other corner is square to it (Thales). From each "
            "of the two corners draw the line through that place on the diagonal and on to the long side."
        ),
        (
            f"It meets the long side {sheet.told(meets)} from there. Draw {sheet.line_across} there: it cuts off the "
            "reciprocal, the same shape turned."
        ),
        "Do the same from the other short side.",
    ]


def _rabatment(sheet: _Sheet) -> list[str]:
    return [
        (
            f"Set the compass in a corner, open along the short side ({sheet.told(sheet.short)}), and swing onto the "
            "long side."
        ),
        f"Draw {sheet.line_across} there: it makes a square.",
        f"Do the same from the other end; that line lies {sheet.told(sheet.long - sheet.short)} from the first corner.",
    ]


def _golden(sheet: _Sheet) -> list[str]:
    return [
        (
            f"Halve the width. At an end of the upper side mark half of it ({sheet.told(sheet.width / 2)}) square to "
            "it, and join that mark with the other end."
        ),
        (
            "From the mark swing half the width onto the slanted line; from the other end swing what is left of the "
            f"slanted line onto the side: {sheet.told(sheet.width / PHI)} from that end."
        ),
        "Draw an upright there, and one as far from the other end.",
        f"Do the same with the height: {sheet.told(sheet.height / PHI)}.",
    ]


def _reading_z(sheet: _Sheet) -> list[str]:
    return [
        "Strengthen the upper side from left to right.",
        "Draw the diagonal from the upper right corner to the lower left one.",
        f"Strengthen the lower side. The diagonal is {sheet.told(hypot(sheet.width, sheet.height))}.",
    ]


SIMPLE: dict[Construction, Callable[[_Sheet], list[str]]] = {
    "diagonals": _diagonals,
    "halves": _halves,
    "quarters": _quarters,
    "thirds": _thirds,
    "fourteen": _fourteen,
    "reciprocals": _reciprocals,
    "rabatment": _rabatment,
    "golden section": _golden,
    "reading Z": _reading_z,
}


def _musical(sheet: _Sheet, construction: Construction) -> list[str]:
    marks = musical_marks(construction)
    parts = max(mark.denominator for mark in MUSICAL[construction])
    counted = ", ".join(f"{mark.numerator * parts // mark.denominator}" for mark in marks)
    return [
        f"Part the upper side into {parts} equal parts. {SLANT.format(n=parts)}",
        f"Draw uprights at parts {counted}.",
        f"Do the same with the height, and draw levels at parts {counted}.",
        f"Check. {sheet.marks([float(mark) for mark in marks])}",
    ]


def _theme(sheet: _Sheet, construction: Construction, nested: int) -> list[str]:
    theme, words = ROOTS[construction], CONSTRUCTION_WORDS[construction]
    short, inside = sheet.short, sheet.long < ROOTS[construction] * sheet.short
    size = short / theme if inside else short * theme
    steps = (_inner if inside else _outer)(sheet, construction)
    steps.append(
        f"Draw {sheet.line_across} {sheet.told(size)} from the end: the {words.split()[0]} rectangle. Do the same from "
        "the other end if you want it there too."
    )
    long_side, short_side = max(size, short), min(size, short)
    count = round(theme**2)
    if abs(theme**2 - count) < 1e-9:
        parts = ", ".join(sheet.told(k * long_side / count) for k in range(1, count))
        steps.append(f"Draw its diagonals, and part its long side into {count}: {parts}. Each part is a reciprocal.")
    else:
        steps.append(
            f"Draw its diagonals. A square of {sheet.told(short_side)} from either end leaves a smaller golden "
            f"rectangle, {sheet.told(long_side - short_side)} wide."
        )
    if nested:
        steps.append(f"In the reciprocal at the inner end do the same again, {nested} times, going round.")
    return steps


def _outer(sheet: _Sheet, construction: Construction) -> list[str]:
    """The theme is longer than the square: swing diagonals outward."""
    short = sheet.short
    square = f"Lay off the square of the short side at one end: {sheet.told(short)}."
    if construction == "phi":
        return [
            square,
            (
                f"Set the compass in the middle of its side on the long side, open it to the far corner "
                f"({sheet.told(short * sqrt(5) / 2)}), and swing onto the long side."
            ),
        ]
    steps = [square, f"Swing its diagonal ({sheet.told(short * sqrt(2))}) onto the long side: √2."]
    roots = range(3, round(ROOTS[construction] ** 2) + 1)
    return steps + [
        f"Swing the diagonal of the √{n - 1} rectangle ({sheet.told(short * sqrt(n))}): √{n}." for n in roots
    ]


def _inner(sheet: _Sheet, construction: Construction) -> list[str]:
    """The theme is longer than the frame: it stands in the square of the short side."""
    short = sheet.short
    square = f"Lay off the square of the short side at one end: {sheet.told(short)}."
    if construction == "phi":
        return [
            square,
            (
                f"Join the middle of one of its sides with a far corner; from its neighbour swing half the side "
                f"({sheet.told(short / 2)}) onto this line, and from the far corner what is left "
                f"({sheet.told(short / PHI)}) onto the side."
            ),
        ]
    steps = [
        square,
        f"Draw its diagonal, and from one corner the quarter circle through the two next to it ({sheet.told(short)}).",
        f"Through the crossing draw a line square to the long side: √2, {sheet.told(short / sqrt(2))} wide.",
    ]
    roots = range(3, round(ROOTS[construction] ** 2) + 1)
    again = "Draw the diagonal of the √{} rectangle; through its crossing with the quarter circle: √{}, {} wide."
    return steps + [again.format(n - 1, n, sheet.told(short / sqrt(n))) for n in roots]
