"""The drawing of a study on its sheet, layer by layer, in mm."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.armature.constructions import constructed, in_box, own_lines
from mild_compass.craft.drawing import Dash, Drawing, Label, Layer, Stroke, stroke
from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.geometry.lines import Box, clipped, sheet_box
from mild_compass.craft.perspective.guide_lines import GuideLines, lines_of_guides
from mild_compass.craft.perspective.sheet_marks import TICK_MM, ticks_on_sheet
from mild_compass.craft.perspective.vanishing import ends
from mild_compass.craft.perspective.worked import WorkedPerspective, homogeneous_on_sheet
from mild_compass.craft.sheet.artist_layers import (
    big_lines_layer,
    datum_layer,
    margins_layer,
    measures_layer,
    motif_layer,
    pieces_inside,
    pins_layer,
    shapes_layer,
)
from mild_compass.craft.sheet.lifting import in_greys, without_labels
from mild_compass.craft.sheet.squared import cell_mm, squared_grid
from mild_compass.craft.sheet.stage_layers import (
    construction_layers,
    reflections_of,
    shadows_layer,
    shadows_of,
    stage_layers,
    staged_of,
)
from mild_compass.craft.values.edges import edges_of
from mild_compass.craft.values.planes import hatching
from mild_compass.craft.viewfinder.threads import THREADS
from mild_compass.plan.departure_kinds import kind_of
from mild_compass.plan.guides import guide_name

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.craft.drawing import Ink
    from mild_compass.craft.picture.line_drawing import LineDrawing
    from mild_compass.craft.picture.line_kinds import LineKind
    from mild_compass.craft.sheet_sizes.lengths import Unit
    from mild_compass.craft.stage.staged import Staged
    from mild_compass.craft.values.masses import Masses
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.perspective import PerspectivePlan
    from mild_compass.plan.sheet import SheetPlan
    from mild_compass.plan.structure import Construction, LineInk, Structure
    from mild_compass.plan.study import Departure, Study, Thread
    from mild_compass.plan.tones import EdgeKind

SET_DASHES: tuple[Dash, ...] = ("solid", "dashed", "dotted", "dash-dot")
LINE_INKS: dict[LineInk, Ink] = {
    "iron oxide": "armature",
    "ultramarine": "perspective",
    "ink black": "measure",
    "chalk white": "chalk",
}


def frame_layer(paper: Paper, box: Box) -> Layer:
    """The outline of the picture with short middle ticks outside it, the tape's inner edge and the mat's opening."""
    left, top, right, bottom = box
    outline = stroke([[left, top], [right, top], [right, bottom], [left, bottom], [left, top]], "measure", 0.35)
    tick = min(4.0, *paper.borders_mm)
    middle_x, middle_y = (left + right) / 2, (top + bottom) / 2
    ticks = (
        [[middle_x, top - tick], [middle_x, top]],
        [[middle_x, bottom], [middle_x, bottom + tick]],
        [[left - tick, middle_y], [left, middle_y]],
        [[right, middle_y], [right + tick, middle_y]],
    )
    middles = tuple(stroke(line, "measure", 0.2) for line in ticks if tick > 0)
    return Layer("frame", (outline, *middles, *_tape_and_mat(paper, box)))


def _tape_and_mat(paper: Paper, box: Box) -> list[Stroke]:
    found = []
    if paper.tape_mm:
        t = paper.tape_mm
        found.append(_outline(Box(t, t, paper.width_mm - t, paper.height_mm - t), "dotted"))
    if paper.mat_overlap_mm:
        m = paper.mat_overlap_mm
        found.append(_outline(Box(box.left + m, box.top + m, box.right - m, box.bottom - m), "dashed"))
    return found


def _outline(box: Box, dash: Dash) -> Stroke:
    left, top, right, bottom = box
    return stroke([[left, top], [right, top], [right, bottom], [left, bottom], [left, top]], "measure", 0.2, dash)


def armature_layer(box: Box, constructions: tuple[Construction, ...], structure: Structure) -> Layer:
    """The chosen constructions inside the picture area, each in its ink and weight, and the artist's own lines."""
    strokes = []
    for name, lines in constructed(constructions, structure, box):
        style = structure.style(name)
        strokes += [stroke(line, LINE_INKS[style.ink], style.weight_mm) for line in lines]
    strokes += [stroke(line, "armature", 0.25, "dashed") for line in own_lines(structure, box)]
    return Layer("armature", tuple(strokes))


def threads_layer(box: Box, threads: tuple[Thread, ...]) -> Layer:
    """The viewfinder's threads; they are for the eye and are not printed."""
    lines = [line for name in threads for line in in_box(THREADS[name], box)]
    return Layer("threads", tuple(stroke(line, "measure", 0.15, "dashed") for line in lines))


def horizon_layer(perspective: PerspectivePlan, worked: WorkedPerspective, frame_map: FrameMap, paper: Paper) -> Layer:
    """Horizon across the sheet, traced edges, and a cross for every point on the sheet or near it."""
    strokes: list[Stroke] = []
    labels: list[Label] = []
    if worked.horizon is not None:
        line = worked.horizon.through(frame_map)
        part = clipped(line[0], line[1], sheet_box(paper), endless=True)
        if part is not None:
            strokes.append(stroke(part, "perspective", 0.35))
            labels.append(Label("horizon", part[1][0] - 2, part[1][1] - 1.2, "perspective", 2.6, "right"))
    for number, each in enumerate(perspective.sets):
        dash = SET_DASHES[number % len(SET_DASHES)]
        on_sheet = frame_map.to_sheet(ends(each.edges).reshape(-1, 2)).reshape(-1, 2, 2)
        inside = [clipped(segment[0], segment[1], frame_map.box) for segment in on_sheet]
        strokes += [stroke(part, "perspective", 0.3, dash) for part in inside if part is not None]
        point = worked.point(each.letter)
        if point is not None and not point.at_infinity:
            x, y, w = homogeneous_on_sheet(point, frame_map)
            strokes += _cross(x / w, y / w)
            labels.append(Label(each.letter, x / w + 3, y / w - 3, "perspective", 3.6, "left"))
    return Layer("horizon", tuple(strokes), tuple(labels))


def ticks_layer(worked: WorkedPerspective, frame_map: FrameMap) -> Layer:
    """Matching ticks on both upright sides for every point beside the picture: they take the place of its pin."""
    strokes, labels = [], []
    for letter, pairs in ticks_on_sheet(worked, frame_map).items():
        for number, (left, right) in enumerate(pairs, 1):
            strokes.append(stroke([left, left - np.array([TICK_MM, 0])], "perspective", 0.25))
            strokes.append(stroke([right, right + np.array([TICK_MM, 0])], "perspective", 0.25))
            for at, side, anchor in ((left, -TICK_MM - 0.8, "right"), (right, TICK_MM + 0.8, "left")):
                word = Label(f"{letter}{number}", float(at[0] + side), float(at[1] + 0.9), "perspective", 2.0, anchor)  # type: ignore[arg-type]
                labels.append(word)
    return Layer("ticks", tuple(strokes), tuple(labels))


def guide_layers(perspective: PerspectivePlan, worked: WorkedPerspective, frame_map: FrameMap) -> list[Layer]:
    """A layer for every guide that is shown."""
    names = {guide.id: guide_name(guide, number) for number, guide in enumerate(perspective.guides, 1)}
    found = lines_of_guides(perspective, worked.horizon, worked.camera)
    return [_guide_layer(each, names[each.guide.id], frame_map) for each in found]


def _guide_layer(guide: GuideLines, name: str, frame_map: FrameMap) -> Layer:
    """What lies inside the picture: the guide itself thin, its shadow dotted, its reflection dashed."""
    strokes: list[Stroke] = []
    labels: list[Label] = []
    kinds: tuple[tuple[tuple[np.ndarray, ...], Dash], ...] = (
        (guide.lines, "solid"),
        (guide.shadow, "dotted"),
        (guide.reflection, "dashed"),
    )
    for lines, dash in kinds:
        for line in lines:
            runs = pieces_inside(frame_map.to_sheet(line), frame_map)
            strokes += [stroke(run, "perspective", 0.2, dash) for run in runs]
    if guide.words and guide.lines:
        top = min((tuple(point) for line in guide.lines for point in frame_map.to_sheet(line)), key=lambda p: p[1])
        if frame_map.box.left <= top[0] <= frame_map.box.right and frame_map.box.top <= top[1]:
            labels.append(Label(guide.words, float(top[0]), float(top[1]) - 1.2, "perspective", 2.2))
    return Layer("guides", tuple(strokes), tuple(labels), name)


def _cross(x: float, y: float, arm: float = 3.0) -> list[Stroke]:
    return [
        stroke([[x - arm, y], [x + arm, y]], "perspective", 0.3),
        stroke([[x, y - arm], [x, y + arm]], "perspective", 0.3),
    ]


def masses_layer(masses: Masses) -> Layer:
    """The borders of the masses, each drawn once."""
    return Layer("masses", tuple(Stroke(border, "mass", 0.2) for border in masses.borders_mm))


EDGE_WEIGHTS_MM: dict[EdgeKind, float] = {"hard": 0.7, "soft": 0.25, "lost": 0.25}


def edges_layer(masses: Masses, study: Study, frame_map: FrameMap) -> Layer:
    """The borders by how hard they are to be: thick, thin, dotted."""
    edges = edges_of(masses, study.values.edges, frame_map)
    strokes = tuple(
        Stroke(each.line_mm, "mass", EDGE_WEIGHTS_MM[each.kind], "dotted" if each.kind == "lost" else "solid")
        for each in edges
    )
    return Layer("edges", strokes)


def planes_layer(study: Study, worked: WorkedPerspective, frame_map: FrameMap) -> Layer:
    """Light hatching on each plane that is to be printed, with its name."""
    strokes, labels = [], []
    for plane in study.values.planes:
        lines = hatching(plane, worked, frame_map) if plane.printed else []
        strokes += [Stroke(line, "faint", 0.15) for line in lines]
        if lines and plane.name:
            x, y = np.concatenate(lines).mean(0).tolist()
            labels.append(Label(plane.name, x, y, "measure", 2.2))
    return Layer("planes", tuple(strokes), tuple(labels))


def departures_layer(departures: tuple[Departure, ...], frame_map: FrameMap) -> Layer:
    """Outlines and lines of what is planned otherwise than in the photo, each with its words."""
    strokes, labels = [], []
    for each in departures:
        if each.outcome == "dropped":
            continue
        points = frame_map.to_sheet(each.placed())
        if kind_of(each.kind).is_line:
            points = points[[0, -1]]
        else:
            points = np.concatenate([points, points[:1]])
        runs = pieces_inside(points, frame_map)
        if not runs:
            continue
        strokes += [stroke(run, "subject", 0.25, "dashed") for run in runs]
        top = min((point for run in runs for point in run), key=lambda point: float(point[1]))
        labels.append(Label(each.name or each.kind, float(top[0]), float(top[1]) - 1.0, "subject", 2.6))
    return Layer("departures", tuple(strokes), tuple(labels))


LINE_STYLES: dict[LineKind, tuple[float, Dash]] = {
    "outline": (0.28, "solid"),
    "inner": (0.18, "solid"),
    "shadow": (0.18, "dashed"),
}


def lines_layer(lines: LineDrawing) -> Layer:
    """Lines drawn from the photo: outlines stronger than what is inside them, edges of shadows dashed."""
    plain: LineKind = "inner"
    kinds = lines.kinds or (plain,) * len(lines.lines_mm)
    pairs = zip(lines.lines_mm, kinds, strict=True)
    return Layer("lines", tuple(Stroke(line, "mass", *LINE_STYLES[kind]) for line, kind in pairs))


def sheet_drawing(
    study: Study,
    paper: Paper,
    worked: WorkedPerspective,
    masses: Masses | None,
    layers: tuple[str, ...],
    lines: LineDrawing | None = None,
    unit: Unit = "mm",
    scene: Staged | None = None,
) -> Drawing:
    """The named layers of a study, from the ground up; masses and lines are left out while they are not computed.

    The stage is worked out where it has not been given.
    """
    if scene is None and {"stage", "stage behind"} & set(layers):
        scene = staged_of(study, worked)
        scene = replace(scene, reflections=reflections_of(study, worked)) if scene is not None else None
    frame_map = FrameMap.of(study.frame, paper)
    box, sheet = frame_map.box, study.sheet
    spacing = cell_mm(box.width, sheet)
    makers: dict[str, Callable[[], Layer | list[Layer] | None]] = {
        "threads": lambda: threads_layer(box, study.threads),
        "margins": lambda: margins_layer(paper),
        "grid": lambda: squared_grid(box, paper, spacing, sheet.grid_diagonals),
        "masses": lambda: masses_layer(masses) if masses is not None else None,
        "edges": lambda: edges_layer(masses, study, frame_map) if masses is not None else None,
        "planes": lambda: planes_layer(study, worked, frame_map),
        "lines": lambda: lines_layer(lines) if lines is not None else None,
        "armature": lambda: armature_layer(box, study.armature, study.structure),
        "horizon": lambda: horizon_layer(study.perspective, worked, frame_map, paper),
        "pins": lambda: pins_layer(worked, frame_map, paper, unit),
        "ticks": lambda: ticks_layer(worked, frame_map),
        "guides": lambda: guide_layers(study.perspective, worked, frame_map),
        "stage": lambda: stage_layers("stage", study, scene, frame_map) if scene else None,
        "stage behind": lambda: stage_layers("stage behind", study, scene, frame_map) if scene else None,
        "stage construction": lambda: construction_layers(study, worked, frame_map),
        "stage shadows": lambda: shadows_layer(
            shadows_of(study, worked) if scene is None or scene.shadows is None else scene.shadows, frame_map
        ),
        "big lines": lambda: big_lines_layer(study.structure, frame_map),
        "shapes": lambda: shapes_layer(study.shapes, frame_map),
        "departures": lambda: departures_layer(study.departures, frame_map),
        "motif": lambda: motif_layer(study.motif, frame_map) if study.motif is not None else None,
        "datum": lambda: datum_layer(study.measures, frame_map),
        "measures": lambda: measures_layer(study.measures, frame_map, unit),
        "frame": lambda: frame_layer(paper, box),
    }
    drawn: list[Layer] = []
    for name, make in makers.items():
        made = make() if name in layers else None
        drawn += made if isinstance(made, list) else [made] if made is not None else []
    return Drawing(paper.width_mm, paper.height_mm, tuple(drawn))


def as_printed(drawing: Drawing, sheet: SheetPlan) -> Drawing:
    """The drawing with the words and the inks that the sheet is to have."""
    if not sheet.labels:
        drawing = without_labels(drawing)
    return in_greys(drawing, sheet) if sheet.inks == "grey" else drawing
