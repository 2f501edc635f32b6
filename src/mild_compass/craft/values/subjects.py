"""Figure-ground contrast: the step of L* along a subject's border."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.values.ranks import mean_lightness

if TYPE_CHECKING:
    from mild_compass.craft.values.masses import Masses
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.study import Ring

MOSTLY = 0.6  # of a shape inside a ring: then it is part of the subject
MELTS = 0.5  # of the border under one step: then the subject melts into its ground


@dataclass(frozen=True, slots=True)
class Subject:
    """A ring, the share of its subject's border that is under one value step, by how much L* the subject is lighter
    than its ground, and one step."""

    ring: Ring
    melting: float
    lighter: float
    step: float


def subjects_of(masses: Masses, worked: Worked) -> list[Subject]:
    """Each ringed subject of which something stands in the picture."""
    box, (height, width) = worked.frame_map.box, masses.steps.shape
    scale = np.array([width / box.width, height / box.height])
    shown = np.sort(np.array(masses.shown))
    step = float(np.median(np.diff(shown))) if len(shown) > 1 else 0.0
    found = []
    for ring in worked.study.rings:
        ellipse = _ellipse(ring, worked, scale)
        inside = shapely.intersection(ellipse, shapely.box(0, 0, width, height))
        if inside.is_empty or inside.area < 12:
            continue
        found.append(_judged(masses, ring, inside, step))
    return [each for each in found if each is not None]


def _ellipse(ring: Ring, worked: Worked, scale: np.ndarray) -> shapely.Polygon:
    angle = np.linspace(0, 2 * np.pi, 48, endpoint=False)
    on_photo = np.stack([ring.x_px + ring.radius_x_px * np.cos(angle), ring.y_px + ring.radius_y_px * np.sin(angle)], 1)
    return shapely.Polygon((worked.frame_map.to_sheet(on_photo) - worked.frame_map.box[:2]) * scale)


def _judged(masses: Masses, ring: Ring, inside: shapely.Polygon, step: float) -> Subject | None:
    polygons = masses.shapes.polygons
    area = shapely.area(polygons)
    within = shapely.area(shapely.intersection(polygons, inside)) >= MOSTLY * area
    lightness = mean_lightness(masses)
    if not within.any():  # nothing stands off in the ring at all: it is of one piece with what lies round it
        return Subject(ring, 1.0, 0.0, step)
    left, right = masses.shapes.beside.T
    outer = within[left] != within[right]
    if not outer.any():
        return None
    length = np.array([float(np.hypot(*np.diff(line, axis=0).T).sum()) for line in masses.shapes.borders])[outer]
    mine = np.where(within[left[outer]], left[outer], right[outer])
    other = np.where(within[left[outer]], right[outer], left[outer])
    difference = lightness[mine] - lightness[other]
    melting = float(length[np.abs(difference) < step].sum() / length.sum())
    return Subject(ring, melting, float((difference * length).sum() / length.sum()), step)
