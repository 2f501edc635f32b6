"""Simple shapes for the first block-in, drawn by hand or fitted to a mass; proportion guides for figure and head."""

from __future__ import annotations

from dataclasses import replace
from math import atan2, cos, degrees, hypot, radians, sin
from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtCore import Qt

from mild_compass.craft.sheet.shapes import fitted_shape, outline_of
from mild_compass.craft.values.by_hand import shape_at, to_steps_px
from mild_compass.plan.edits.sheet import set_shapes
from mild_compass.plan.errors import PlanError
from mild_compass.plan.sheet import BlockShape
from mild_compass.studio.board.board import handle, near
from mild_compass.studio.board.strokes import cased_line, pen
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Entry, Names, Sentence, Tick, button, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.plan.sheet import ShapeKind
    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint

KINDS: list[tuple[str, str]] = [
    ("an oval", "oval"),
    ("a box", "box"),
    ("a triangle", "triangle"),
    ("a line", "line"),
    ("a figure in heads", "figure"),
    ("a head in thirds", "head"),
]
HOW = "Drag it out, or click a mass to fit it there. The middle handle moves it, the outer ones shape and turn it."


class SimpleShapesInstrument(Instrument):
    """Ovals, boxes, triangles and lines over the photo, before any detail."""

    name = "simple shapes"
    words = "Simple shapes"
    icon = "shape"
    tells = ("negatives", "units")
    hint = "Big and simple first: ovals, boxes, triangles and lines over the photo."
    cursor = Qt.CursorShape.CrossCursor
    fill = "colour"
    layers = ("frame",)

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._chosen = -1
        self._held = ""
        self._from: BoardPoint | None = None
        self._at: BoardPoint | None = None

    def options(self) -> QWidget:
        self._kind = Choice(KINDS, "Kind of shape")
        self._list = Names("Simple shapes", 5)
        self._list.chosen.connect(self._choose_row)
        self._name = Sentence("Name of the shape")
        self._name.chosen.connect(lambda name: self._change(name=name[:40]))
        self._turn = number_entry("Turned clockwise", "°")
        self._turn.chosen.connect(lambda value: self._try(self._turn, turn_deg=value))
        self._heads = number_entry("How many heads tall", "heads")
        self._heads.chosen.connect(lambda value: self._try(self._heads, heads=value))
        self._stays = Tick("Stays; is not lifted")
        self._stays.chosen.connect(lambda on: self._change(stays=on))
        self._of_chosen = form(
            ("It is", self._name), ("Turned", self._turn), ("Tall", self._heads), self._stays,
            button("Remove it", self.delete),
        )  # fmt: skip
        return form(("Lay", self._kind), soft(HOW), rule(), self._list, self._of_chosen)

    def refresh(self) -> None:
        shapes = self.desk.study.shapes
        self._chosen = min(self._chosen, len(shapes) - 1)
        self._list.show_names([each.name or f"{each.kind} {k + 1}" for k, each in enumerate(shapes)], self._chosen)
        self._of_chosen.setVisible(self._shape is not None)
        if self._shape is not None:
            self._name.show_value(self._shape.name)
            self._turn.show_value(round(self._shape.turn_deg, 1))
            self._heads.show_value(self._shape.heads)
            self._of_chosen.layout().setRowVisible(self._heads, self._shape.kind == "figure")  # type: ignore[union-attr]
            self._stays.show_value(self._shape.stays)

    @property
    def _shape(self) -> BlockShape | None:
        shapes = self.desk.study.shapes
        return shapes[self._chosen] if 0 <= self._chosen < len(shapes) else None

    def _choose_row(self, row: int) -> None:
        self._chosen = row
        self.refresh()
        self.desk.board.update()

    def _try(self, entry: Entry, **changes: Any) -> None:
        try:
            self._change(**changes)
        except PlanError as error:
            entry.refuse(f"{error} It stays as it was.")

    def _change(self, **changes: Any) -> None:
        if self._shape is not None:
            self.commit(set_shapes(self._with(replace(self._shape, **changes))))

    def _with(self, shape: BlockShape) -> tuple[BlockShape, ...]:
        shapes = list(self.desk.study.shapes)
        shapes[self._chosen] = shape
        return tuple(shapes)

    # -- on the board -----------------------------------------------------------------------------------------

    def _grips(self, shape: BlockShape) -> dict[str, tuple[float, float]]:
        """Middle, right and lower handle in photo pixels; the right one turns and widens, the lower heightens."""
        turn = radians(shape.turn_deg)
        across, down = (cos(turn), sin(turn)), (-sin(turn), cos(turn))
        x, y, a, b = shape.x_px, shape.y_px, shape.half_width_px, shape.half_height_px
        found = {"middle": (x, y), "right": (x + a * across[0], y + a * across[1])}
        if shape.kind != "line":
            found["lower"] = (x + b * down[0], y + b * down[1])
        return found

    def press(self, at: BoardPoint) -> bool:
        self._from = self._at = at
        self._held = ""
        for index, shape in enumerate(self.desk.study.shapes):
            for name, place in self._grips(shape).items():
                if near(place, at.photo_px, at.reach_px) and (name == "middle" or index == self._chosen):
                    self._held, self._chosen = name, index
        self.refresh()
        return True

    def drag(self, at: BoardPoint) -> None:
        self._at = at
        moved = self._moved(at)
        if moved is not None:
            self.desk.session.preview(set_shapes(self._with(moved)))

    def _moved(self, at: BoardPoint) -> BlockShape | None:
        shape = self._shape
        if not self._held or shape is None:
            return None
        dx, dy = at.photo_px[0] - shape.x_px, at.photo_px[1] - shape.y_px
        try:
            if self._held == "middle":
                return replace(shape, x_px=at.photo_px[0], y_px=at.photo_px[1])
            if self._held == "right":
                return replace(shape, half_width_px=hypot(dx, dy), turn_deg=degrees(atan2(dy, dx)))
            return replace(shape, half_height_px=hypot(dx, dy))
        except PlanError:
            return None

    def release(self, at: BoardPoint) -> None:
        start, held, moved = self._from, self._held, self._moved(at)
        self._from = self._at = None
        self._held = ""
        assert start is not None
        if held:
            if moved is not None and self.desk.session.in_gesture:
                self.commit(set_shapes(self._with(moved)))
            return
        try:
            clicked = near(start.widget, at.widget, 6)
            shape = self._fitted(at) if clicked else _dragged(self._kind.value, start.photo_px, at.photo_px)
        except PlanError as error:
            self.desk.say(str(error))
            return
        if shape is not None and self.commit(set_shapes((*self.desk.study.shapes, shape))):
            self._chosen = len(self.desk.study.shapes) - 1
            self.refresh()

    def _fitted(self, at: BoardPoint) -> BlockShape | None:
        """The shape that fits the mass under a place."""
        masses = self.desk.computed.masses if self.desk.computed.masses_current else None
        if masses is None:
            self.desk.say("The masses are still being found. Try again in a moment.")
            return None
        study, frame_map = self.desk.study, self.desk.frame_map
        x, y = to_steps_px((at.photo_px,), study.frame, self.desk.plan.paper, masses.steps.shape)[0].tolist()
        mask = shape_at(masses.steps, x, y)
        if mask is None:
            self.desk.say("That is outside the picture. Point at a mass inside it.")
            return None
        rows, columns = np.nonzero(mask)
        scale = (frame_map.box.width / mask.shape[1], frame_map.box.height / mask.shape[0])
        on_sheet = (np.stack([columns, rows], 1) + 0.5) * scale + frame_map.box[:2]
        area_px2 = len(rows) * scale[0] * scale[1] / frame_map.mm_per_px**2
        return fitted_shape(self._kind.value, frame_map.to_photo(on_sheet), area_px2)

    def cancel(self) -> None:
        self._from = self._at = None
        self._held = ""
        super().cancel()

    def delete(self) -> None:
        if self._shape is not None:
            shapes = self.desk.study.shapes
            self.commit(set_shapes(shapes[: self._chosen] + shapes[self._chosen + 1 :]))

    def nudge(self, dx_mm: float, dy_mm: float) -> None:
        if self._shape is not None:
            dx, dy = self.desk.on_photo(dx_mm, dy_mm)
            self._change(x_px=self._shape.x_px + dx, y_px=self._shape.y_px + dy)

    def tag(self) -> str | None:
        shape = self._shape
        if not self._held or shape is None:
            return None
        scale = 2 * self.desk.frame_map.mm_per_px
        width, height = (self.desk.length(scale * each) for each in (shape.half_width_px, shape.half_height_px))
        return width if shape.kind == "line" else f"{width} × {height}"

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        for index, shape in enumerate(self.desk.study.shapes):
            chosen = index == self._chosen
            for number, line in enumerate(outline_of(shape)):
                width = 1.0 if number else 2.4 if chosen else 1.6
                cased_line(painter, photo.to_widget(line), pen("subject", width, "solid" if shape.stays else "dashed"))
            for name, place in self._grips(shape).items():
                if chosen or name == "middle":
                    x, y = photo.to_widget(place).tolist()
                    handle(painter, x, y, chosen)
        if self._from is not None and self._at is not None and not self._held:
            try:
                shape = _dragged(self._kind.value, self._from.photo_px, self._at.photo_px)
            except PlanError:
                return
            for line in outline_of(shape):
                cased_line(painter, photo.to_widget(line), pen("subject", 1.4))


def _dragged(kind: ShapeKind, start: tuple[float, float], end: tuple[float, float]) -> BlockShape:
    """A shape from corner to corner, or a line from end to end."""
    (x0, y0), (x1, y1) = start, end
    x, y = (x0 + x1) / 2, (y0 + y1) / 2
    if kind == "line":
        return BlockShape("line", x, y, hypot(x1 - x0, y1 - y0) / 2, 0.0, degrees(atan2(y1 - y0, x1 - x0)))
    return BlockShape(kind, x, y, abs(x1 - x0) / 2, abs(y1 - y0) / 2)
