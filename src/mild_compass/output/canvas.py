"""A PDF page measured in millimetres from its top left corner.

PDF user space has 72 units to the inch (ISO 32000-1, 8.3.2.3), so 100 mm is 283.465 units.
"""

from __future__ import annotations

import io
from functools import cache
from typing import TYPE_CHECKING

from PIL import Image
from reportlab import rl_config
from reportlab.lib.utils import ImageReader
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from mild_compass.assets import FONTS

if TYPE_CHECKING:
    from collections.abc import Callable

    import numpy as np
    from numpy.typing import NDArray

    from mild_compass.craft.drawing import Dash, Drawing, Ink, Label, Stroke

UNITS_PER_MM = 72 / 25.4
rl_config.useA85 = 0  # streams as bytes: written as letters they are a quarter larger and take seconds to make
FONT = "MildCompassSans"
INKS: dict[Ink, tuple[float, float, float]] = {
    "armature": (0.62, 0.22, 0.13),
    "perspective": (0.14, 0.20, 0.55),
    "measure": (0.25, 0.25, 0.25),
    "mass": (0.0, 0.0, 0.0),
    "grid": (0.42, 0.45, 0.48),
    "subject": (0.62, 0.22, 0.13),
    "chalk": (0.75, 0.75, 0.75),  # white would be lost on white paper
    "faint": (0.62, 0.62, 0.62),
}
DASHES_MM: dict[Dash, tuple[float, ...]] = {
    "solid": (),
    "dashed": (3.0, 1.5),
    "dotted": (0.6, 1.2),
    "dash-dot": (4.0, 1.2, 0.6, 1.2),
}


@cache
def _font() -> str:
    pdfmetrics.registerFont(TTFont(FONT, str(FONTS / "OpenSans-Regular.ttf")))
    return FONT


class MmCanvas:
    """A thin skin over reportlab's canvas that speaks sheet millimetres, y down."""

    def __init__(self, target: io.BytesIO, title: str) -> None:
        self._canvas = Canvas(target, pageCompression=1)
        self._canvas.setTitle(title)
        self._canvas.setCreator("Mild Compass")
        _font()

    def begin(self, width_mm: float, height_mm: float, across: float = 1.0, down: float = 1.0) -> None:
        """Start a page of this real size; from here on coordinates are mm from its top left corner.

        With ``across`` and ``down`` they are scaled, to make up for a printer's error.
        """
        canvas = self._canvas
        canvas.setPageSize((width_mm * UNITS_PER_MM, height_mm * UNITS_PER_MM))
        canvas.saveState()
        canvas.transform(across * UNITS_PER_MM, 0, 0, -down * UNITS_PER_MM, 0, height_mm * UNITS_PER_MM)

    def end(self) -> None:
        """Finish the page."""
        self._canvas.restoreState()
        self._canvas.showPage()

    def save(self) -> None:
        """Finish the document."""
        self._canvas.save()

    def pushed(self, a: float, b: float, c: float, d: float, e: float, f: float) -> None:
        """Open a nested coordinate system: x' = a·x + c·y + e, y' = b·x + d·y + f."""
        self._canvas.saveState()
        self._canvas.transform(a, b, c, d, e, f)

    def popped(self) -> None:
        """Leave the nested coordinate system."""
        self._canvas.restoreState()

    def define(self, name: str, width: float, height: float, draw: Callable[[], None]) -> None:
        """Draw something once, outside any page, to be laid onto several (a form XObject, ISO 32000-1, 8.10)."""
        self._canvas.beginForm(name, -width, -height, 2 * width, 2 * height)
        draw()
        self._canvas.endForm()

    def lay(self, name: str) -> None:
        """Lay down what was defined under this name."""
        self._canvas.doForm(name)

    def clip(self, left: float, top: float, width: float, height: float) -> None:
        """Let nothing show outside a rectangle until the coordinate system is left."""
        path = self._canvas.beginPath()
        path.rect(left, top, width, height)
        self._canvas.clipPath(path, stroke=0, fill=0)

    def picture(self, image: ImageReader, left: float, top: float, width: float, height: float) -> None:
        """Lay a picture into a rectangle; the same reader given twice is stored once."""
        self._canvas.saveState()
        self._canvas.transform(1, 0, 0, -1, left, top + height)
        self._canvas.drawImage(image, 0, 0, width, height)
        self._canvas.restoreState()

    def stroke(self, points: NDArray[np.float64], width_mm: float, ink: Ink, dash: Dash = "solid") -> None:
        """Draw a polyline (n, 2)."""
        canvas = self._canvas
        canvas.setStrokeColorRGB(*INKS[ink])
        canvas.setLineWidth(width_mm)
        canvas.setLineCap(0 if dash != "dotted" else 1)
        canvas.setLineJoin(1)
        canvas.setDash(list(DASHES_MM[dash]))
        path = canvas.beginPath()
        path.moveTo(*points[0])
        for point in points[1:]:
            path.lineTo(*point)
        canvas.drawPath(path, stroke=1, fill=0)

    def words(self, label: Label) -> None:
        """Set words with their base line at the label's point."""
        canvas = self._canvas
        canvas.saveState()
        canvas.transform(1, 0, 0, -1, label.x_mm, label.y_mm)
        canvas.setFillColorRGB(*INKS[label.ink])
        canvas.setFont(_font(), label.size_mm * 1.35)  # size_mm is the height of a capital
        draw = {"left": canvas.drawString, "middle": canvas.drawCentredString, "right": canvas.drawRightString}
        draw[label.anchor](0, 0, label.text)
        canvas.restoreState()

    def drawing(self, drawing: Drawing) -> None:
        """Draw every layer."""
        for layer in drawing.layers:
            for mark in layer.strokes:
                self._mark(mark)
            for label in layer.labels:
                self.words(label)

    def _mark(self, mark: Stroke) -> None:
        self.stroke(mark.points_mm, mark.width_mm, mark.ink, mark.dash)


def as_reader(rgb: NDArray[np.uint8]) -> ImageReader:
    """A picture (h, w, 3) packed as JPEG for the PDF."""
    packed = io.BytesIO()
    Image.fromarray(rgb).save(packed, "JPEG", quality=88, subsampling="4:2:0")
    packed.seek(0)
    return ImageReader(packed)
