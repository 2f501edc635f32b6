"""The display list in sheet millimetres that the board draws and every output writes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Sequence

    from numpy.typing import ArrayLike, NDArray

    from mild_compass.plan.sheet import SheetLayer

Ink = Literal["armature", "perspective", "measure", "mass", "grid", "subject", "chalk", "faint"]
Dash = Literal["solid", "dashed", "dotted", "dash-dot"]
Anchor = Literal["left", "middle", "right"]


@dataclass(frozen=True, eq=False, slots=True)
class Stroke:
    """A polyline (n, 2) in mm, its ink and its weight on paper in mm."""

    points_mm: NDArray[np.float64]
    ink: Ink
    width_mm: float = 0.25
    dash: Dash = "solid"


@dataclass(frozen=True, slots=True)
class Label:
    """Words at a point; the point is on the base line, at the left, middle or right of the words."""

    text: str
    x_mm: float
    y_mm: float
    ink: Ink
    size_mm: float = 3.0
    anchor: Anchor = "middle"


@dataclass(frozen=True, eq=False, slots=True)
class Layer:
    """Marks that are switched on and off together; ``title`` tells apart layers of one name, as one for each guide."""

    name: SheetLayer | Literal["threads", "corrections"]
    strokes: tuple[Stroke, ...] = ()
    labels: tuple[Label, ...] = ()
    title: str = ""


@dataclass(frozen=True, eq=False, slots=True)
class Drawing:
    """Everything to be drawn on one sheet."""

    width_mm: float
    height_mm: float
    layers: tuple[Layer, ...]

    def layer(self, name: str) -> Layer | None:
        """The layer of this name, if it is drawn."""
        return next((layer for layer in self.layers if layer.name == name), None)


def stroke(
    points: ArrayLike | Sequence[Sequence[float]], ink: Ink, width_mm: float = 0.25, dash: Dash = "solid"
) -> Stroke:
    """A stroke from anything that makes an (n, 2) array."""
    return Stroke(np.asarray(points, np.float64).reshape(-1, 2), ink, width_mm, dash)
