"""The sheet as DXF in millimetres, for those who cut or plot it: one named layer to a layer of the sheet.

Written by ezdxf (AutoCAD DXF reference, release 2010). DXF counts upward from the bottom, the sheet downward from its
top; outlines that come back to their beginning are closed, so that a cutter takes them as one piece.
"""

from __future__ import annotations

import io
import re
from typing import TYPE_CHECKING

import numpy as np
from ezdxf import colors, units
from ezdxf.enums import TextEntityAlignment
from ezdxf.filemanagement import new

from mild_compass.output.canvas import DASHES_MM, INKS

if TYPE_CHECKING:
    from ezdxf.layouts.layout import Modelspace

    from mild_compass.craft.drawing import Anchor, Drawing, Ink, Label, Layer, Stroke

WEIGHTS = (
    0,
    5,
    9,
    13,
    15,
    18,
    20,
    25,
    30,
    35,
    40,
    50,
    53,
    60,
    70,
    80,
    90,
    100,
    106,
    120,
    140,
    158,
    200,
    211,
)  # 1/100 mm
SAME_MM = 1e-6
ANCHORS: dict[Anchor, TextEntityAlignment] = {
    "left": TextEntityAlignment.LEFT,
    "middle": TextEntityAlignment.CENTER,
    "right": TextEntityAlignment.RIGHT,
}


def sheet_dxf(drawing: Drawing) -> bytes:
    """The DXF file; one unit is one millimetre, the origin is the sheet's lower left corner."""
    document = new("R2010", units=units.MM)
    for dash, parts in DASHES_MM.items():
        if parts:
            signed = [part if k % 2 == 0 else -part for k, part in enumerate(parts)]
            document.linetypes.add(dash.upper(), [sum(parts), *signed], description=dash)
    space = document.modelspace()
    for layer in drawing.layers:
        _layer(space, layer, drawing.height_mm)
    document.header["$EXTMIN"], document.header["$EXTMAX"] = (0, 0, 0), (drawing.width_mm, drawing.height_mm, 0)
    written = io.StringIO()
    document.write(written)
    return written.getvalue().encode("utf-8")


def _layer(space: Modelspace, layer: Layer, height_mm: float) -> None:
    assert space.doc is not None
    name = re.sub(r'[<>/\\":;?*|=`,\x00-\x1f]', " ", f"{layer.name} {layer.title}").strip()
    if name not in space.doc.layers:
        space.doc.layers.add(name)
    for mark in layer.strokes:
        _stroke(space, mark, name, height_mm)
    for label in layer.labels:
        _label(space, label, name, height_mm)


def _stroke(space: Modelspace, mark: Stroke, layer: str, height_mm: float) -> None:
    points = mark.points_mm * (1, -1) + (0, height_mm)
    closed = len(points) > 3 and float(np.abs(points[0] - points[-1]).max()) < SAME_MM
    line = space.add_lwpolyline((points[:-1] if closed else points).tolist(), close=closed)
    line.dxf.layer, line.dxf.true_color = layer, _colour(mark.ink)
    line.dxf.lineweight = min(WEIGHTS, key=lambda weight: abs(weight - 100 * mark.width_mm))
    if DASHES_MM[mark.dash]:
        line.dxf.linetype = mark.dash.upper()


def _label(space: Modelspace, label: Label, layer: str, height_mm: float) -> None:
    text = space.add_text(re.sub(r"[\x00-\x1f]", " ", label.text), height=label.size_mm)
    text.set_placement((label.x_mm, height_mm - label.y_mm), align=ANCHORS[label.anchor])
    text.dxf.layer, text.dxf.true_color = layer, _colour(label.ink)


def _colour(ink: Ink) -> int:
    red, green, blue = (round(255 * part) for part in INKS[ink])
    return colors.rgb2int((red, green, blue))
