"""Edges: which are hard, soft and lost, and which the artist wants otherwise."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt

from mild_compass.craft.values.edges import border_at, edges_of, shares
from mild_compass.plan.edits.values import change_edge, next_value_id, remove_edge_change
from mild_compass.plan.tones import EDGE_KINDS, EdgeChange
from mild_compass.studio.board.board import handle
from mild_compass.studio.board.strokes import cased_line, pen
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.stations.values.seen import seen_choice
from mild_compass.studio.widgets import Choice, Names, button, form, rule, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.craft.values.masses import Masses
    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint

FINDING = "The edges are still being found. Try again in a moment."


class EdgesInstrument(Instrument):
    """Shows each border by how hard the photo has it, and takes the artist's own wish for any of them."""

    name = "edges"
    words = "Edges"
    icon = "edges"
    tells = ("edges", "hardest", "melts")
    needs = "a photo"
    fill = "paper"
    layers = ("edges", "frame")
    hint = "Thick is hard, thin is soft, dotted is lost. Click an edge to have it otherwise."
    cursor = Qt.CursorShape.PointingHandCursor

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._chosen = ""
        self._over: int | None = None

    def options(self) -> QWidget:
        self._kind = Choice([(kind, kind) for kind in EDGE_KINDS], "A clicked edge becomes")
        self._kind.show_value("lost")
        self._seen = seen_choice(self.desk, [("Edges only", "paper"), ("Masses", "masses"), ("Colour", "colour")])
        self._told = soft("")
        self._list = Names("Edges by hand", 4)
        self._list.chosen.connect(self._choose_row)
        self._remove = button("Leave it as the photo has it", self.delete)
        return form(
            self._told,
            ("Becomes", self._kind),
            rule(),
            self._list,
            self._remove,
            ("Board shows", self._seen),
            soft("On paper: tick Edges under Sheet. In the way of working it says what to lose while wet."),
        )

    def refresh(self) -> None:
        changes = self.desk.study.values.edges
        if self._chosen not in {each.id for each in changes}:
            self._chosen = changes[-1].id if changes else ""
        rows = [f"{k}  {each.kind}" for k, each in enumerate(changes, 1)]
        self._list.show_names(rows, next((k for k, each in enumerate(changes) if each.id == self._chosen), -1))
        self._list.setVisible(bool(rows))
        self._remove.setVisible(bool(rows))
        self._seen.show_value(self.desk.board.fill)
        self._told.setText(self._shares())

    def _masses(self) -> Masses | None:
        return self.desk.computed.measured_masses

    def _shares(self) -> str:
        masses = self._masses()
        if masses is None:
            return "Finding the edges …"
        edges = edges_of(masses, self.desk.study.values.edges, self.desk.frame_map)
        part = shares(edges)
        if not part:
            return "All is one shape: there are no edges."
        return ", ".join(f"{100 * share:.0f} % {kind}" for kind, share in part.items()) + "."

    def _choose_row(self, row: int) -> None:
        changes = self.desk.study.values.edges
        if 0 <= row < len(changes):
            self._chosen = changes[row].id
            self.desk.board.update()

    def hover(self, at: BoardPoint) -> Qt.CursorShape:
        masses = self._masses()
        x, y = self.desk.frame_map.to_sheet(at.photo_px).tolist()
        self._over = border_at(masses, (x, y)) if masses is not None else None
        return self.cursor

    def press(self, at: BoardPoint) -> bool:
        return True

    def release(self, at: BoardPoint) -> None:
        masses = self._masses()
        if masses is None:
            self.desk.say(FINDING)
            return
        x, y = self.desk.frame_map.to_sheet(at.photo_px).tolist()
        border = border_at(masses, (x, y))
        if border is None:
            self.desk.say("No edge is near that place. Click on one.")
            return
        there = [each for each in self.desk.study.values.edges if self._border_of(masses, each) == border]
        name = there[0].id if there else next_value_id(self.desk.plan, "edge")
        self._chosen = name
        self.commit(change_edge(EdgeChange(name, at.photo_px, self._kind.value)))

    def _border_of(self, masses: Masses, change: EdgeChange) -> int | None:
        x, y = self.desk.frame_map.to_sheet(change.place).tolist()
        return border_at(masses, (x, y))

    def delete(self) -> None:
        if self._chosen:
            self.commit(remove_edge_change(self._chosen))

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        masses = self._masses()
        if masses is not None and self._over is not None and self._over < len(masses.borders_mm):
            cased_line(painter, sheet.to_widget(masses.borders_mm[self._over]), pen("subject", 1.6))
        for each in self.desk.study.values.edges:
            x, y = photo.to_widget(each.place).tolist()
            handle(painter, x, y, each.id == self._chosen)
