"""The stage's drawing on the sheet: a layer for every thing, its hidden lines, the edges of the shadows."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.drawing import Layer, stroke
from mild_compass.craft.sheet.artist_layers import pieces_inside
from mild_compass.craft.stage.construction import construction
from mild_compass.craft.stage.staged import Staged, reflections, shadow_lines, staged

if TYPE_CHECKING:
    from collections.abc import Iterable

    import numpy as np

    from mild_compass.craft.drawing import Dash, Stroke
    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.perspective.worked import WorkedPerspective
    from mild_compass.plan.study import Study

SEEN_MM, BEHIND_MM, SHADOW_MM, CONSTRUCTION_MM = 0.35, 0.15, 0.2, 0.1


def staged_of(study: Study, worked: WorkedPerspective) -> Staged | None:
    """A study's stage worked out; None where there is nothing on it, or no eye level to see it from."""
    if study.stage is None or not study.stage.things or worked.camera is None:
        return None
    return staged(study.stage, worked.camera)


def shadows_of(study: Study, worked: WorkedPerspective) -> tuple[np.ndarray, ...]:
    """The edges of the shadows on a study's stage."""
    if study.stage is None or not study.stage.things or worked.camera is None:
        return ()
    return shadow_lines(study.stage, worked.camera, study.perspective.light)


def reflections_of(study: Study, worked: WorkedPerspective) -> tuple[np.ndarray, ...]:
    """What is seen in the water on a study's stage."""
    if study.stage is None or not study.stage.things or worked.camera is None:
        return ()
    return reflections(study.stage, worked.camera)


def shadows_layer(shadows: tuple[np.ndarray, ...], frame_map: FrameMap) -> Layer | None:
    """The edges of all cast shadows; None where there are none."""
    strokes = _strokes(shadows, frame_map, SHADOW_MM, "dotted")
    return Layer("stage shadows", strokes) if strokes else None


def construction_layers(study: Study, worked: WorkedPerspective, frame_map: FrameMap) -> list[Layer]:
    """The construction lines, a layer for each thing that has any."""
    if study.stage is None or worked.camera is None:
        return []
    layers = [
        Layer("stage construction", _strokes(lines, frame_map, CONSTRUCTION_MM, "dashed"), title=thing.words)
        for thing, lines in zip(study.stage.things, construction(study.stage, worked.camera), strict=True)
    ]
    return [layer for layer in layers if layer.strokes]


def stage_layers(name: str, study: Study, found: Staged, frame_map: FrameMap) -> list[Layer]:
    """The layers of one name, "stage" or "stage behind": one for each thing."""
    layers = []
    assert study.stage is not None
    for thing, lines in zip(study.stage.things, found.things, strict=False):
        if name == "stage":
            strokes = _strokes(lines.seen, frame_map, SEEN_MM, "solid")
            layers.append(Layer("stage", strokes, title=thing.words))
        else:
            strokes = _strokes(lines.behind, frame_map, BEHIND_MM, "dashed")
            layers.append(Layer("stage behind", strokes, title=thing.words))
    if name == "stage":
        strokes = _strokes(found.reflections or (), frame_map, SHADOW_MM, "solid")
        layers.append(Layer("stage", strokes, title="reflections"))
    return [layer for layer in layers if layer.strokes]


def _strokes(lines: Iterable[np.ndarray], frame_map: FrameMap, width_mm: float, dash: Dash) -> tuple[Stroke, ...]:
    ink = "mass" if dash == "solid" else "perspective"
    return tuple(
        stroke(run, ink, width_mm, dash)  # type: ignore[arg-type]
        for line in lines
        for run in pieces_inside(frame_map.to_sheet(line), frame_map)
    )
