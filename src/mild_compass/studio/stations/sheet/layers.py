"""What is drawn on the sheet: layers, squared grid, words and inks, which lines stay."""

from __future__ import annotations

from dataclasses import replace
from math import ceil
from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtGui import QColor, QPainter, QPen

from mild_compass.craft.sheet.tiles import tiling_of
from mild_compass.plan.edits.sheet import change_sheet
from mild_compass.plan.errors import PlanError
from mild_compass.studio.desk import Desk
from mild_compass.studio.painting import polygon
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Entry, LengthEntry, Names, Tick, button, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.craft.picture.line_drawing import LineDrawing
    from mild_compass.plan.sheet import SheetLayer
    from mild_compass.studio.board.sight import PhotoSight, Sight

LAYER_WORDS: dict[SheetLayer, str] = {
    "picture": "Photo",
    "frame": "Frame",
    "margins": "Margins",
    "grid": "Squared grid",
    "masses": "Mass outlines",
    "edges": "Edges, hard to lost",
    "planes": "Direction of strokes",
    "lines": "Lines from the photo",
    "armature": "Armature",
    "horizon": "Horizon and edges",
    "pins": "Pins",
    "ticks": "Edge ticks",
    "guides": "Perspective guides",
    "stage": "The stage's lines",
    "stage behind": "Its hidden lines",
    "stage construction": "Its construction",
    "stage shadows": "Edges of its shadows",
    "big lines": "Big lines, numbered",
    "shapes": "Simple shapes",
    "departures": "Planned changes",
    "motif": "Motif repeats",
    "datum": "Datum lines",
    "measures": "Measures",
}
ROWS = 8
USUAL, ALL = -1, -2
LINES = [("twelve big lines", 12), ("sixty lines", 60), ("the usual", USUAL), ("all that was found", ALL)]


def _kind_of(amount: float, count: int | None) -> int | None:
    """Which of the choices an amount is, or none."""
    if amount in (95.0, 100.0):
        return USUAL if amount == 95.0 else ALL
    return count if count in (12, 60) else None


def _traced_words(drawing: LineDrawing) -> str:
    """How much there is to trace, and about how long it takes."""
    count, minutes = len(drawing.lines_mm), drawing.minutes
    time = "about a minute" if minutes < 1.5 else f"about {minutes:.0f} minutes"
    shadows = drawing.kinds.count("shadow")
    dashed = f" Dashed: {shadows} edges of shadows." if shadows else ""
    return f"{count} lines, {drawing.length_mm / 10:.0f} cm: {time} to trace.{dashed}"


class LayersInstrument(Instrument):
    """Ticks what goes on the paper."""

    name = "layers"
    words = "On the sheet"
    icon = "layers"
    tells = ("lift",)
    hint = "Tick what goes on the paper. What is ticked here is what is printed and saved."

    def options(self) -> QWidget:
        self._names = list(LAYER_WORDS)
        self._layers = Names("Layers of the sheet", ROWS, ticked=True)
        self._layers.ticked.connect(self._tick)
        self._layers.chosen.connect(lambda _: self.refresh())
        self._stays = Tick("Stays; is not lifted")
        self._stays.chosen.connect(self._stay)
        self._grid = LengthEntry("Squares of the grid", lambda: self.desk.computed.unit)
        self._grid.chosen.connect(lambda value: self._try(self._grid, grid_mm=value, grid_count=0))
        self._count = number_entry("Squares across; 0 for by size", "")
        self._count.chosen.connect(lambda value: self._try(self._count, grid_count=round(value)))
        self._diagonals = Tick("Diagonals in the squares")
        self._diagonals.chosen.connect(lambda on: self._send(grid_diagonals=on))
        self._lines = Choice(LINES, "How many of the photo's lines")
        self._lines.chosen.connect(self._choose_lines)
        self._traced = soft("")
        self._amount = number_entry("How many of the photo's lines, 0 to 100", "")
        self._amount.chosen.connect(lambda value: self._try(self._amount, trace_amount=value))
        self._labels = Tick("Words and numbers")
        self._labels.chosen.connect(lambda on: self._send(labels=on))
        self._inks = Choice([("coloured inks", "coloured"), ("pencil greys", "grey")], "Inks")
        self._inks.chosen.connect(lambda inks: self._send(inks=inks))
        return form(
            self._layers,
            self._stays,
            button(
                "Print or save…", lambda: self.desk.take_up("print"), main=True, tip="Every page as it will come out"
            ),
            rule(),
            ("Squares", self._grid),
            ("Or across", self._count),
            self._diagonals,
            ("Lines", self._lines),
            ("Amount", self._amount),
            self._traced,
            rule(),
            self._labels,
            ("Inks", self._inks),
            soft("Pencil greys: construction pale and thin, lines that stay black."),
        )

    def refresh(self) -> None:
        sheet = self.desk.study.sheet
        row = max(self._layers.currentRow(), 0)
        self._layers.show_names([LAYER_WORDS[n] for n in self._names], row, [n in sheet.layers for n in self._names])
        name = self._names[row]
        self._stays.show_value(name in sheet.staying)
        self._stays.setEnabled(name not in ("picture", "frame", "margins"))
        self._grid.show_value(sheet.grid_mm)
        self._count.show_value(sheet.grid_count)
        self._diagonals.show_value(sheet.grid_diagonals)
        self._amount.show_value(round(sheet.trace_amount, 1))
        drawing = self.desk.computed.views.lines() if "lines" in sheet.layers else None
        self._lines.show_value(_kind_of(sheet.trace_amount, len(drawing.lines_mm) if drawing else None))
        self._lines.setEnabled("lines" in sheet.layers)
        self._traced.setText(_traced_words(drawing) if drawing else "")
        self._traced.setVisible(drawing is not None)
        self._labels.show_value(sheet.labels)
        self._inks.show_value(sheet.inks)

    def _choose_lines(self, wanted: int) -> None:
        """So many big lines, the usual, or all: said as an amount."""
        if wanted in (USUAL, ALL):
            self._send(trace_amount=95.0 if wanted == USUAL else 100.0)
            return
        drawing = self.desk.computed.views.lines()
        if drawing is None:
            self.desk.say("The lines are still being found. Try again in a moment.")
            return
        self._send(trace_amount=ceil(drawing.amount_of(wanted) * 1000) / 1000)

    def _tick(self, row: int, on: bool) -> None:
        name = self._names[row]
        chosen = {*self.desk.study.sheet.layers, name} if on else {*self.desk.study.sheet.layers} - {name}
        self._layers.setCurrentRow(row)
        self._send(layers=tuple(each for each in LAYER_WORDS if each in chosen))

    def _stay(self, on: bool) -> None:
        name = self._names[max(self._layers.currentRow(), 0)]
        staying = {*self.desk.study.sheet.staying, name} if on else {*self.desk.study.sheet.staying} - {name}
        self._send(staying=tuple(each for each in LAYER_WORDS if each in staying))

    def _try(self, entry: Entry, **changes: Any) -> None:
        try:
            self._send(**changes)
        except PlanError as error:
            entry.refuse(f"{error} It stays as it was.")

    def _send(self, **changes: Any) -> None:
        self.commit(change_sheet(replace(self.desk.study.sheet, **changes)))

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        paint_tiles(painter, self.desk, sheet)


def paint_tiles(painter: QPainter, desk: Desk, sheet: Sight) -> None:
    """Where the pages lie on the sheet, with the marks by which they are joined."""
    settings = desk.study.sheet
    if desk.board.mode != "sheet":
        return
    try:
        tiling = tiling_of(settings, desk.plan.paper, desk.settings.output)
    except PlanError:
        return
    if tiling is None:
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
