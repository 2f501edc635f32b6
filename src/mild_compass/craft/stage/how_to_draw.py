"""How to draw a stage with ruler and pencil: numbered steps, every mark in mm on the sheet.

Two ways: with the points on an extended board, or with marks on the frame's edges alone. Common practice, from any
handbook of perspective; the marks are those of the drawing itself.
"""

from __future__ import annotations

from math import hypot
from typing import TYPE_CHECKING, Literal

import numpy as np

from mild_compass.craft.drawing import stroke
from mild_compass.craft.geometry.lines import clipped
from mild_compass.craft.perspective.stage_points import pair_of
from mild_compass.craft.sheet.artist_layers import pieces_inside
from mild_compass.craft.sheet.block_in import BlockStep
from mild_compass.craft.sheet.stage_layers import shadows_of, staged_of
from mild_compass.craft.sheet_sizes.lengths import Unit, format_length
from mild_compass.craft.stage.construction import corners_of
from mild_compass.craft.stage.scene import from_eye, places_of, turn_of
from mild_compass.plan.stage import row_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.drawing import Stroke
    from mild_compass.craft.stage.staged import ThingLines
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.stage import Stage, Thing

    Array = NDArray[np.float64]

Way = Literal["points", "edge marks"]
MOST_THINGS = 14  # told one by one; the others are drawn likewise
Part = tuple[str, str, "list[Stroke]"]  # title, words, what is new
LIFT: Part = (
    "Lift",
    "Lift the horizon, the lines to the points and all that is hidden; go over the lines that stay.",
    [],
)


class _Sheet:
    """Where things of the scene come to lie on the sheet, and how that is told."""

    def __init__(self, worked: Worked, stage: Stage, unit: Unit) -> None:
        self.worked, self.stage, self.unit = worked, stage, unit
        self.box = worked.frame_map.box

    def spots(self, points_m: Array) -> Array:
        """Places of the plan with their heights (n, 3) on the sheet in mm; NaN behind the eye."""
        camera = self.worked.perspective.camera
        assert camera is not None
        return self.worked.frame_map.to_sheet(camera.seen(from_eye(self.stage, points_m)))

    def across(self, x: float) -> str:
        """A place along the frame, from its left edge."""
        return f"{self.length(x - self.box.left)} from the left"

    def down(self, y: float) -> str:
        """A place down the frame, from its top."""
        if y < self.box.top - 0.05:
            return f"{self.length(self.box.top - y)} above the frame"
        return f"{self.length(y - self.box.top)} down"

    def upright(self, foot: Array, top: Array) -> str:
        """Where an upright stands, and between which heights."""
        return f"{self.across(foot[0])}: foot {self.down(foot[1])}, top {self.down(top[1])}"

    def length(self, mm: float) -> str:
        """A length in the artist's unit."""
        return format_length(mm, self.unit)

    def inside(self, line: Array) -> list[Stroke]:
        """What of a line lies inside the picture."""
        return [stroke(run, "mass", 0.4) for run in pieces_inside(line, self.worked.frame_map)]


def how_to_draw(worked: Worked, way: Way, unit: Unit = "mm") -> tuple[BlockStep, ...]:
    """The steps for this scene on this sheet; none where there is nothing on the stage."""
    stage, found = worked.study.stage, staged_of(worked.study, worked.perspective)
    if stage is None or found is None:
        return ()
    sheet = _Sheet(worked, stage, unit)
    lines = dict(zip((thing.id for thing in stage.things), found.things, strict=True))
    told = _order(stage, lines, sheet)
    parts = [_horizon(sheet), *_points(sheet, way)]
    for thing in told[:MOST_THINGS]:
        parts += _thing(sheet, thing, lines[thing.id], way)
    if len(told) > MOST_THINGS:
        rest = told[MOST_THINGS:]
        strokes = [mark for thing in rest for line in lines[thing.id].seen for mark in _sheet_line(sheet, line)]
        named = ", ".join(thing.words for thing in rest[:6])
        parts.append(("The rest likewise", f"Draw {named}{' and what is left' if len(rest) > 6 else ''}.", strokes))
    shadows = [mark for line in shadows_of(worked.study, worked.perspective) for mark in _sheet_line(sheet, line)]
    if shadows:
        parts.append(("Shadows", "Lay in the edges of the cast shadows as shown.", shadows))
    parts.append(LIFT)
    steps: list[BlockStep] = []
    before: tuple[Stroke, ...] = ()
    for title, words, new in parts:
        steps.append(BlockStep(title, words, tuple(new), before))
        before = (*before, *new)
    return tuple(steps)


def _sheet_line(sheet: _Sheet, line_px: Array) -> list[Stroke]:
    return sheet.inside(sheet.worked.frame_map.to_sheet(line_px))


def _order(stage: Stage, lines: dict[str, ThingLines], sheet: _Sheet) -> list[Thing]:
    """What is seen, the largest on the sheet first; what lies on the ground before what stands on it."""
    sized = []
    for thing in stage.things:
        seen = lines[thing.id].seen
        if not seen:
            continue
        spots = np.concatenate([sheet.worked.frame_map.to_sheet(line) for line in seen])
        spots = np.clip(spots, (sheet.box.left, sheet.box.top), (sheet.box.right, sheet.box.bottom))
        sized.append((not row_of(thing.kind).laid, -float(np.ptp(spots[:, 0]) * np.ptp(spots[:, 1])), thing))
    return [thing for *_, thing in sorted(sized, key=lambda row: row[:2])]


def _horizon(sheet: _Sheet) -> Part:
    line = sheet.worked.perspective.horizon
    assert line is not None
    box = sheet.box
    ends = line.through(sheet.worked.frame_map)
    part = clipped(ends[0], ends[1], box, endless=True)
    words = f"Your eye is {sheet.worked.study.perspective.eye_m:.2f} m above the ground."
    if part is None:
        y = float(ends[:, 1].mean())
        side = (
            f"{sheet.length(box.top - y)} above the frame"
            if y < box.top
            else f"{sheet.length(y - box.bottom)} below it"
        )
        return "The horizon", f"Draw the frame. The horizon lies {side}. {words}", []
    left, right = part
    text = (
        f"Draw the frame. Mark the left edge {sheet.down(left[1])}, the right one {sheet.down(right[1])}; join them. "
    )
    return "The horizon", text + words, [stroke(part, "mass", 0.4)]


def _points(sheet: _Sheet, way: Way) -> list[Part]:
    """Where the points of all directions lie along the horizon."""
    found = sheet.worked.perspective.of_stage
    if not found or way == "edge marks":
        return []
    words, strokes = [], []
    for point in found:
        if point.at_infinity:
            words.append(f"{point.letter} has no point: its lines stay level.")
            continue
        x, y, w = point.homogeneous
        x, y = sheet.worked.frame_map.to_sheet([x / w, y / w]).tolist()
        if sheet.box.left <= x <= sheet.box.right:
            words.append(f"{point.letter}: {sheet.across(x)} on the horizon.")
            strokes += [
                stroke([[x - 3, y], [x + 3, y]], "mass", 0.4),
                stroke([[x, y - 3], [x, y + 3]], "mass", 0.4),
            ]
        else:
            off = sheet.box.left - x if x < sheet.box.left else x - sheet.box.right
            side = "left" if x < sheet.box.left else "right"
            words.append(f"{point.letter}: a pin {sheet.length(off)} {side} of the frame, on the horizon.")
    return [("The points", " ".join(words), strokes)]


def _thing(sheet: _Sheet, thing: Thing, lines: ThingLines, way: Way) -> list[Part]:
    drawn = [mark for line in lines.seen for mark in _sheet_line(sheet, line)]
    name = thing.words[0].upper() + thing.words[1:]
    if thing.count > 1:
        return [(name, _row_words(sheet, thing), drawn)]
    if row_of(thing.kind).flat:
        return [(name, _flat_words(sheet, drawn), drawn)]
    if row_of(thing.kind).square:
        return _box(sheet, thing, name, drawn, way)
    return [(name, _upright_words(sheet, thing), drawn)]


def _flat_words(sheet: _Sheet, drawn: list[Stroke]) -> str:
    """Where the two longest edges of something flat begin and end in the picture."""
    long = sorted((mark.points_mm[[0, -1]] for mark in drawn), key=lambda ends: -hypot(*(ends[1] - ends[0])))[:2]
    told = [
        f"from {sheet.across(a[0])}, {sheet.down(a[1])}, to {sheet.across(b[0])}, {sheet.down(b[1])}"
        for a, b in (sorted(ends.tolist(), key=lambda spot: -spot[1]) for ends in long)
    ]
    return f"Its edges run {'; the other '.join(told)}." if told else "Draw what is seen of it as shown."


def _corners(sheet: _Sheet, thing: Thing) -> tuple[Array, Array]:
    """Feet and tops of the four corners on the sheet (4, 2), the corner nearest to the eye first, then round."""
    foot = corners_of(sheet.stage, thing)
    return sheet.spots(foot), sheet.spots(foot + np.array([0, 0, thing.height_m]))


def _box(sheet: _Sheet, thing: Thing, name: str, drawn: list[Stroke], way: Way) -> list[Part]:
    """First upright, tops and bottoms to the points, ends, then what is on it."""
    feet, tops = _corners(sheet, thing)
    if not np.isfinite([*feet[[0, 1, 3]], *tops[[0, 1, 3]]]).all():
        return [(name, "It begins beside you: draw what is seen of it as shown.", drawn)]
    first = f"Its nearest upright stands {sheet.upright(feet[0], tops[0])}."
    ends = f"Its other uprights: {sheet.across(feet[1, 0])} and {sheet.across(feet[3, 0])}."
    pair = pair_of(sheet.worked.perspective.of_stage, thing.turn_deg - sheet.stage.heading_deg)
    if way == "points" and pair is not None:
        towards = f"From its foot and its top draw lines to {pair[0].letter} and {pair[1].letter}."
    else:
        pairs = [(what, ends[0], ends[k]) for k in (1, 3) for what, ends in (("foot", feet), ("top", tops))]
        towards = " ".join(_edge_words(sheet, start, end, what) for what, start, end in pairs)
    new = []
    for line in (np.stack([feet[0], tops[0]]), np.stack([feet[0], feet[1]]), np.stack([tops[0], tops[1]]),
                 np.stack([feet[0], feet[3]]), np.stack([tops[0], tops[3]])):  # fmt: skip
        new += sheet.inside(line)
    words = " ".join([first, towards, ends])
    found: list[Part] = [(name, words, new)]
    rest = _roof_words(sheet, thing)
    found.append((f"{name}: the rest", rest or "Draw the rest of it as shown; what is hidden stays faint.", drawn))
    return found


def _edge_words(sheet: _Sheet, start: Array, end: Array, what: str) -> str:
    """Where the line from one place through another leaves the frame."""
    part = clipped(start, end, sheet.box, endless=True)
    if part is None:
        return f"The line from its {what} stays outside the frame."
    first, last = part
    far = last if hypot(*(last - end)) < hypot(*(first - end)) else first
    box = sheet.box
    if abs(far[0] - box.left) < 0.01:
        return f"From its {what} to the left edge, {sheet.down(far[1])}."
    if abs(far[0] - box.right) < 0.01:
        return f"From its {what} to the right edge, {sheet.down(far[1])}."
    side = "top" if abs(far[1] - box.top) < 0.01 else "foot"
    return f"From its {what} to the {side} of the frame, {sheet.across(far[0])}."


def _roof_words(sheet: _Sheet, thing: Thing) -> str:
    """The ridge over the crossing of the gable's diagonals."""
    if not row_of(thing.kind).roofed or thing.roof == "flat":
        return ""
    rise = thing.width_m / 2 * np.tan(np.radians(thing.pitch_deg))
    if thing.roof != "gable":
        return "Draw the roof as shown; its ridge or upper edge runs to the same point as the eaves."
    turn = turn_of(thing)[:2, :2]
    ridge = []
    for y in (-thing.depth_m / 2, thing.depth_m / 2):
        place = turn @ np.array([0.0, y]) + (thing.x_m, thing.y_m)
        ridge.append([*place, thing.base_m + thing.height_m + rise])
    a, b = sheet.spots(np.array(ridge))
    if not np.isfinite([a, b]).all():
        return ""
    return (
        "Diagonals of the gable's wall cross in its middle: draw an upright there. The ridge begins on it, "
        f"{sheet.across(a[0])}, {sheet.down(a[1])}, and ends {sheet.across(b[0])}, {sheet.down(b[1])}."
    )


def _row_words(sheet: _Sheet, thing: Thing) -> str:
    """Feet and tops of a row lie on two lines; where each stands."""
    places = places_of(thing)
    foot = np.column_stack([places, np.full(len(places), thing.base_m)])
    feet, tops = sheet.spots(foot), sheet.spots(foot + np.array([0, 0, thing.height_m]))
    shown = [k for k in range(len(feet)) if np.isfinite(feet[k]).all() and np.isfinite(tops[k]).all()]
    shown = [k for k in shown if sheet.box.left <= feet[k, 0] <= sheet.box.right]
    if not shown:
        return "Draw what is seen of the row as shown."
    first = shown[0]
    where = ", ".join(sheet.length(feet[k, 0] - sheet.box.left) for k in shown[:10])
    words = (
        f"The first stands {sheet.upright(feet[first], tops[first])}. "
        "All feet lie on one line, all tops on another; both run to one point. "
    )
    return words + f"They stand, from the left: {where}."


def _upright_words(sheet: _Sheet, thing: Thing) -> str:
    """Middle line, foot and top; of round things how wide."""
    spots = sheet.spots(
        np.array([[thing.x_m, thing.y_m, thing.base_m], [thing.x_m, thing.y_m, thing.base_m + thing.height_m]])
    )
    if not np.isfinite(spots).all():
        return "It begins beside you: draw what is seen of it as shown."
    foot, top = spots
    words = f"Its middle line stands {sheet.upright(foot, top)}."
    camera = sheet.worked.perspective.camera
    assert camera is not None
    ahead = from_eye(sheet.stage, [[thing.x_m, thing.y_m]])[0, 1]
    if ahead > 0:
        wide = thing.width_m / ahead * camera.focal.px * sheet.worked.frame_map.mm_per_px
        words += f" It is {sheet.length(float(wide))} wide."
    if row_of(thing.kind).rimmed:
        words += " Its rims are ellipses, their longer axis level; rounder the further below the horizon."
    return words
