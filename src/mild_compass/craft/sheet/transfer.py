"""How this plan is carried to the paper, method by method: what to print, which side, which pencil, in which order."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from mild_compass.craft.cautions import FIXATIVE, LABEL
from mild_compass.craft.sheet.lifting import LAYER_WORDS
from mild_compass.craft.sheet.squared import cell_mm, grid_marks
from mild_compass.craft.sheet.tiles import pages_for, tiling_of
from mild_compass.craft.sheet_sizes.lengths import format_length
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.sheet import Method, SheetLayer, SheetPlan
    from mild_compass.plan.tones import Medium

COPIES_PER_LOAD = 3  # of a graphite-backed tracing: common practice, no published source
METHOD_WORDS: dict[Method, str] = {
    "squared grid": "Squared grid",
    "transfer paper": "Print and transfer paper",
    "graphite tracing": "Tracing with graphite on the back",
    "light table": "Light table or window",
    "freehand": "Freehand with ticks",
}
DRAWN: tuple[SheetLayer, ...] = ("lines", "masses", "motif")
# The pencil that lifts and does not dent: common practice, no published source.
PENCILS: dict[Medium, str] = {
    "washes": "2B, no harder: a harder one dents watercolour paper and does not lift",
    "toned paper": "2B, light, or a stick of charcoal",
    "charcoal": "a thin stick of charcoal; it is wiped away with a cloth",
    "opaque": "2B, or thinned paint; opaque paint hides both",
    "hatching": "HB to 2B, the same that the drawing is made with",
}


@dataclass(frozen=True, slots=True)
class TransferGuide:
    """For one method: the settings of the print it needs, what to print in words, the steps, and what to heed."""

    method: Method
    title: str
    settings: SheetPlan
    to_print: tuple[str, ...]
    steps: tuple[str, ...]
    heed: tuple[str, ...]


def transfer_guide(worked: Worked, method: Method) -> TransferGuide:
    """The guide of one method for the current plan."""
    settings = _settings(worked, method)
    make = {
        "squared grid": _squared,
        "transfer paper": _transfer_paper,
        "graphite tracing": _graphite,
        "light table": _light_table,
        "freehand": _freehand,
    }[method]
    steps = [*make(worked, settings), *_at_the_end(worked, settings)]
    heed = [f"Pencil on the sheet: {PENCILS[worked.study.medium.medium]}."]
    if worked.study.medium.medium in ("charcoal", "toned paper"):
        heed.append(FIXATIVE)
    if method == "graphite tracing":
        heed.append("Graphite dust: wipe it up wet, do not blow it about.")
    return TransferGuide(
        method, METHOD_WORDS[method], settings, _to_print(worked, settings, method), tuple(steps), (*heed, LABEL)
    )


def _settings(worked: Worked, method: Method) -> SheetPlan:
    """The sheet as the method wants it printed; pages and squares stay as the artist has them."""
    sheet = worked.study.sheet
    drawn: list[SheetLayer] = [name for name in DRAWN if name in sheet.layers]
    if worked.study.motif is not None and worked.study.motif.places and "motif" not in drawn:
        drawn.append("motif")
    drawn = drawn or ["lines"]
    extra: tuple[SheetLayer, ...] = ("horizon",) if "horizon" in sheet.layers else ()
    layers: dict[Method, tuple[SheetLayer, ...]] = {
        "squared grid": ("frame", "grid"),
        "transfer paper": ("frame", *drawn, *extra),
        "graphite tracing": ("frame", *drawn, *extra),
        "light table": ("frame", *drawn, *extra),
        "freehand": ("frame", "big lines", "pins", "ticks", "datum", "measures"),
    }
    return replace(sheet, layers=layers[method], mirrored=method == "graphite tracing", method=method)


def _pages(worked: Worked, settings: SheetPlan) -> str:
    try:
        pages = pages_for(settings, worked.plan.paper, worked.output)
        tiling = tiling_of(settings, worked.plan.paper, worked.output)
    except PlanError:
        return f"{settings.pages} pages (see the warning)"
    if tiling is None:
        return "one page of the sheet's own size"
    count = len(tiling.tiles)
    if count == 1:
        return f"one {pages} page"
    return f"{count} {pages} pages, {tiling.columns} across and {tiling.rows} down"


def _to_print(worked: Worked, settings: SheetPlan, method: Method) -> tuple[str, ...]:
    named = ", ".join(LAYER_WORDS[name] for name in settings.layers if name != "frame")
    mirrored = ", mirrored" if settings.mirrored else ""
    if method == "squared grid":
        width = format_length(settings.photo_print_mm, worked.unit)
        cell = settings.photo_print_mm / worked.frame_map.box.width * cell_mm(worked.frame_map.box.width, settings)
        return (
            f"The photo print, {width} wide, with squares of {format_length(cell, worked.unit)}, to look at.",
            "Nothing for the sheet itself: its squares are drawn with ruler and pencil.",
        )
    if method == "freehand":
        return ("The photo print to look at, and the table of measures to keep beside you.",)
    return (f"At 100 %, not “fit to page”: {named}{mirrored}, on {_pages(worked, settings)}.",)


def _joined(worked: Worked, settings: SheetPlan) -> list[str]:
    steps = ["Measure the 100 mm bar both ways. If it is off, enter what you measure at Print and print again."]
    if pages_for(settings, worked.plan.paper, worked.output) != "one page":
        steps.append("Join the pages row by row: lay each over its neighbour mark on mark, tape them on the back.")
    return steps


def _where(worked: Worked) -> str:
    box, paper = worked.frame_map.box, worked.plan.paper
    borders = (box.left, box.top, paper.width_mm - box.right, paper.height_mm - box.bottom)
    left, top, right, bottom = (format_length(each, worked.unit) for each in borders)
    if left == top == right == bottom:
        return f"the frame {left} in from every edge of the sheet"
    return f"the frame {left} in from the left edge of the sheet, {top} from the top, {right} from the right"


def _squared(worked: Worked, settings: SheetPlan) -> list[str]:
    box, unit = worked.frame_map.box, worked.unit
    side = cell_mm(box.width, settings)
    columns, rows = len(grid_marks(box.width, side)) + 1, len(grid_marks(box.height, side)) + 1
    last_x, last_y = box.width - (columns - 1) * side, box.height - (rows - 1) * side
    cut = ""
    if min(last_x, last_y) < side - 0.05:
        cut = (
            f"; the last column is {format_length(last_x, unit)} wide, the last row {format_length(last_y, unit)} high"
        )
    return [
        f"Draw {_where(worked)}: {format_length(box.width, unit)} × {format_length(box.height, unit)}.",
        (
            f"Tick every {format_length(side, unit)} along all four sides from the top left corner, then join the "
            f"ticks, as light as you can see: {columns} columns, {rows} rows{cut}."
        ),
        "Letter the columns and number the rows in the margin as on the print.",
        "Go square by square: first where the big lines cross the sides of squares, then join those crossings.",
    ]


def _transfer_paper(worked: Worked, settings: SheetPlan) -> list[str]:
    return [
        *_joined(worked, settings),
        f"Lay the print on the sheet with {_where(worked)}. Tape it along the top edge only, so that it lifts.",
        "Slip the transfer paper under it, its coloured side down. Try it on a scrap of the same paper first.",
        (
            "Go over the lines with a coloured pencil or ball pen, so that you see what is done: big lines first. "
            "Lean lightly; lift the print now and then and look."
        ),
    ]


def _graphite(worked: Worked, settings: SheetPlan) -> list[str]:
    motif = worked.study.motif
    if motif is not None and motif.places:
        front = sum(not place.flipped for place in motif.places)
        copies = motif.copies_per_load
        used = (
            f"The motif is laid down {len(motif.places)} times, {front} from the front and {len(motif.places) - front} "
            f"turned over: load each side for {copies} transfers, and again at every ↻ on the plan."
        )
    else:
        used = f"Rub or draw the lines through. One load of graphite gives about {COPIES_PER_LOAD} transfers."
    return [
        *_joined(worked, settings),
        "The print is mirrored. Trace it onto thin paper with a soft pencil (2B to 6B): that graphite is the load.",
        (
            f"Turn the tracing over, pencil side down, with {_where(worked)}. It now reads the right way round. "
            "Tape it along one side."
        ),
        used,
    ]


# What light goes through, and when tape goes on, is common practice, no published source.
def _light_table(worked: Worked, settings: SheetPlan) -> list[str]:
    return [
        *_joined(worked, settings),
        f"Tape the print behind the sheet with {_where(worked)}, both against the light.",
        "Paper over about 300 g/m² lets little through: dim the room, or use transfer paper instead.",
        "Trace lightly, the big lines first; switch the light off now and then to see what is drawn.",
    ]


def _freehand(worked: Worked, _: SheetPlan) -> list[str]:
    lines = len(worked.study.structure.lines)
    told = f"the {min(lines, 7)} big lines" if lines else "three to seven big lines (find them at Armature)"
    measures = worked.study.measures
    return [
        f"Draw {_where(worked)}, and tick the middles of its sides.",
        f"Draw {told} from side to side first, in the order of their numbers, with the whole arm.",
        (
            f"Set the datum lines{'' if measures.datums else ' (none yet: halve the frame at Measure)'} and place "
            f"every point by its two numbers{f': {len(measures.points)} are measured' if measures.points else ''}."
        ),
        "Lines that run to a vanishing point: join matching edge ticks, or stretch a string from the pin.",
        "Look at the empty shapes before you draw the things.",
    ]


def _at_the_end(worked: Worked, settings: SheetPlan) -> list[str]:
    light = [LAYER_WORDS[n] for n in settings.layers if n not in settings.staying and n not in ("frame", "picture")]
    steps = []
    if light:
        steps.append(f"Lift at the end with a kneaded eraser: {', '.join(light)}.")
    if worked.plan.paper.tape_mm:
        tape = format_length(worked.plan.paper.tape_mm, worked.unit)
        steps.append(f"The tape covers {tape} along every edge: put it on after the drawing is carried over.")
    return steps
