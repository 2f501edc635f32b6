"""Heads of drawn figures against the eye level: people as tall as the artist have theirs on it, wherever they stand."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.check.where import TELLS_MM, TELLS_SIGMAS, where_drawn
from mild_compass.craft.check.whole import applied
from mild_compass.craft.perspective.standing import image_height_px
from mild_compass.plan.guides import guide_name

if TYPE_CHECKING:
    from collections.abc import Iterator

    from mild_compass.craft.check.checked import Checked
    from mild_compass.craft.worked import Worked


@dataclass(frozen=True, slots=True)
class DrawnHead:
    """A head: how much too low it was drawn in the whole as drawn (mm), the error of that, and where it is (mm)."""

    name: str
    low_mm: float
    sigma_mm: float
    at_mm: tuple[float, float]

    @property
    def is_off(self) -> bool:
        """Whether it is off beyond doubt."""
        return abs(self.low_mm) > max(TELLS_MM, TELLS_SIGMAS * self.sigma_mm)


def drawn_heads(checked: Checked, worked: Worked) -> list[DrawnHead]:
    """The heads of all figures whose lines round them were found."""
    found = []
    for name, head_px in _heads(worked):
        planned = worked.frame_map.to_sheet(head_px)
        drawn = where_drawn(checked, planned)
        if drawn is None or checked.matrix is None:
            continue
        wanted = applied(checked.matrix, np.asarray(planned))
        found.append(DrawnHead(name, drawn.y_mm - float(wanted[1]), drawn.sigma_mm, (drawn.x_mm, drawn.y_mm)))
    return found


def _heads(worked: Worked) -> Iterator[tuple[str, tuple[float, float]]]:
    """Figures set as guides, and heads that are ringed."""
    camera = worked.perspective.camera
    for number, guide in enumerate(worked.study.perspective.guides, 1):
        if guide.kind == "figure" and camera is not None and guide.points:
            x, y = guide.points[0]
            yield guide_name(guide, number), (x, y - image_height_px(camera, (x, y), guide.height_m))
    for ring in worked.study.rings:
        if ring.heads:
            yield ring.name, (ring.x_px, ring.y_px - ring.radius_y_px)
