"""Instruments of the sheet: what is printed, and how."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtGui import QColor, QPainter, QPen

from mild_compass.craft.sheet.tiles import tiles_for
from mild_compass.plan.edits.sheet import change_sheet
from mild_compass.plan.errors import PlanError
from mild_compass.studio.board.strokes import polygon
from mild_compass.studio.stations.instrument import Desk, Instrument
from mild_compass.studio.widgets import Choice, LengthEntry, Tick, button, form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.plan.model import Pages, SheetLayer
    from mild_compass.studio.board.sight import PhotoSight, Sight

LAYER_WORDS: dict[SheetLayer, str] = {
    "picture": "Photo",
    "frame": "Frame",
    "armature": "Armature",
    "horizon": "Horizon and edges",
    "masses": "Mass outlines",
    "departures": "Planned changes",
    "guides": "Perspective guides",
    "ticks": "Edge ticks",
    "grid": "Squared grid",
}
OTHER_KINDS = (
    ("SVG", ".svg", "Lines in named layers, in mm"),
    ("PNG", ".png", "A picture at 150 dots per inch"),
    ("layers", ".ora", "OpenRaster: photo, values, each mass, outlines, guides; for painting programs"),
)
PAGE_WORDS: list[tuple[str, Pages]] = [
    ("one page, true size", "one page"),
    ("A4 pages to join", "A4"),
    ("Letter pages to join", "Letter"),
]


class PrintInstrument(Instrument):
    """Chooses the layers and pages, and prints."""

    name = "print"
    words = "Print"
    icon = "print"
    hint = "Tick what goes on the paper. The PDF is true to size: print it at 100 %."

    def options(self) -> QWidget:
        self._ticks = {name: Tick(words) for name, words in LAYER_WORDS.items()}
        for name, tick in self._ticks.items():
            tick.chosen.connect(lambda on, name=name: self._layer(name, on))
        self._grid = LengthEntry("Squares of the grid", lambda: self.desk.computed.unit)
        self._grid.chosen.connect(self._choose_grid)
        self._pages = Choice(PAGE_WORDS, "Pages")
        self._pages.chosen.connect(lambda pages: self._send(pages=pages))
        self._mirrored = Tick("Mirrored, for tracing")
        self._mirrored.chosen.connect(lambda on: self._send(mirrored=on))
        save = button("Save as PDF…", self.desk.files.choose_sheet, main=True, tip="Ctrl+P")
        others = [
            button(f"Save as {words}…", partial(self.desk.files.choose_sheet, suffix), tip=tip)
            for words, suffix, tip in OTHER_KINDS
        ]
        return form(
            *self._ticks.values(),
            ("Squares", self._grid),
            ("Pages", self._pages),
            self._mirrored,
            save,
            *others,
            soft("Print at 100 %, not “fit to page”, and measure the bar."),
        )

    def refresh(self) -> None:
        sheet = self.desk.study.sheet
        for name, tick in self._ticks.items():
            tick.show_value(name in sheet.layers)
        self._grid.show_value(sheet.grid_mm)
        self._pages.show_value(sheet.pages)
        self._mirrored.show_value(sheet.mirrored)

    def _layer(self, name: SheetLayer, on: bool) -> None:
        chosen = {*self.desk.study.sheet.layers, name} if on else {*self.desk.study.sheet.layers} - {name}
        self._send(layers=tuple(each for each in LAYER_WORDS if each in chosen))

    def _choose_grid(self, spacing_mm: float) -> None:
        try:
            self.commit(change_sheet(replace(self.desk.study.sheet, grid_mm=spacing_mm)))
        except PlanError as error:
            self._grid.refuse(f"{error} They stay as they were.")

    def _send(self, **changes: Any) -> None:
        self.commit(change_sheet(replace(self.desk.study.sheet, **changes)))

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        """Where the pages lie on the sheet."""
        if self.desk.study.sheet.pages == "one page" or self.desk.board.mode != "sheet":
            return
        try:
            tiling = tiles_for(self.desk.plan.paper, self.desk.study.sheet.pages)
        except PlanError:
            return
        for tile in tiling.tiles:
            low = (tile.left_mm, tile.top_mm)
            high = (tile.left_mm + tile.width_mm, tile.top_mm + tile.height_mm)
            corners = sheet.to_widget([low, (high[0], low[1]), high, (low[0], high[1]), low])
            painter.setPen(QPen(QColor(162, 57, 31, 170), 1.2))
            painter.drawPolyline(polygon(corners))
            x, y = corners[:4].mean(0).tolist()
            ground = QColor(250, 250, 248, 215)
            words = f"page {tile.name}"
            width = painter.fontMetrics().horizontalAdvance(words)
            painter.fillRect(round(x - width / 2 - 6), round(y - 11), width + 12, 22, ground)
            painter.setPen(QColor("#a2391f"))
            painter.drawText(round(x - width / 2), round(y + 5), words)
        for tile in tiling.tiles:
            for point in tiling.marks_of(tile):
                x, y = sheet.to_widget(np.array(point)).tolist()
                painter.setPen(QPen(QColor("#1c1c1c"), 1))
                painter.drawLine(round(x - 5), round(y), round(x + 5), round(y))
                painter.drawLine(round(x), round(y - 5), round(x), round(y + 5))


def instruments(desk: Desk) -> list[Instrument]:
    """The instruments of this station."""
    return [Instrument(desk), PrintInstrument(desk)]
