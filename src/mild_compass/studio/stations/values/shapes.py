"""Masses changed by hand: joined, given another value, split, or all made one dark."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.values.by_hand import shape_at, to_steps_px
from mild_compass.craft.values.names import names_of
from mild_compass.plan.edits.values import (
    change_mass,
    mark_detail,
    next_mass_id,
    next_value_id,
    remove_detail,
    remove_mass_change,
)
from mild_compass.plan.errors import PlanError
from mild_compass.plan.tones import DetailArea, DetailKind, MassChange
from mild_compass.studio.board.board import handle
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.outlining import OutliningInstrument, points_of
from mild_compass.studio.widgets import Choice, Names, button, form, rule, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.craft.drawing import Dash
    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint

POINT, DRAW, JOIN, HOLD, LET_GO = "point", "draw", "join", "hold", "let go"
WAYS = [
    ("a shape pointed at", POINT),
    ("all within an outline", DRAW),
    ("a shape joined to another", JOIN),
    ("hold detail in an area", HOLD),
    ("let detail go in an area", LET_GO),
]
HOW = {
    POINT: "Click a shape: it becomes the value chosen here.",
    DRAW: "Draw round an area: all of it becomes that value. So a shape is split, or many are made one.",
    HOLD: "Draw round an area: small shapes are kept there.",
    LET_GO: "Draw round an area: only big shapes stay there.",
    JOIN: "Drag from a shape onto its neighbour: the two become one, in the neighbour's value.",
}

DETAIL_WORDS: dict[DetailKind, str] = {"hold": "detail held in an area", "let go": "detail let go in an area"}


class ShapesInstrument(OutliningInstrument):
    """Gives shapes and areas another value; what does not fit any more after other thresholds is listed."""

    name = "shapes"
    words = "Shapes by hand"
    icon = "shape"
    tells = ("join", "shapes", "by_hand")
    needs = "a photo"
    hint = "The picture decides by numbers; here you decide. Join shadows of different things into one big shape."
    fill = "masses"

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._chosen = ""

    def options(self) -> QWidget:
        self._way = Choice(WAYS, "What is changed")
        self._way.chosen.connect(lambda _: self.refresh())
        self._how = soft(HOW[POINT])
        self._value = Choice([("dark", 0)], "It becomes")
        self._list = Names("Changed by hand", 5)
        self._list.chosen.connect(self._choose_row)
        self._remove = button("Take it back", self.delete)
        return form(self._way, ("Becomes", self._value), self._how, rule(), self._list, self._remove)

    def refresh(self) -> None:
        values, masses = self.desk.study.values, self.desk.computed.masses
        names = names_of(values.count)
        if [self._value.itemText(k) for k in range(self._value.count())] != list(names):
            kept = min(self._value.currentIndex(), values.count - 1)
            self._value.set_items([(name, k) for k, name in enumerate(names)])
            self._value.show_value(max(kept, 0))
        self._value.setEnabled(self._way.value in (POINT, DRAW))
        self._how.setText(HOW[self._way.value])
        unfit = {each.id: each.why for each in masses.unfit} if masses else {}
        marks = [*(each.id for each in values.changes), *(each.id for each in values.areas)]
        if self._chosen not in marks:
            self._chosen = marks[-1] if marks else ""
        rows = [self._words(each, names, unfit) for each in values.changes]
        rows += [DETAIL_WORDS[each.kind] for each in values.areas]
        row = marks.index(self._chosen) if self._chosen else -1
        self._list.show_names(rows, row)
        self._list.setVisible(bool(rows))
        self._remove.setVisible(bool(rows))

    def _words(self, change: MassChange, names: tuple[str, ...], unfit: dict[str, str]) -> str:
        what = "shape" if change.kind == "shape" else "area"
        words = f"{what} → {names[change.value_of(len(names))]}"
        return f"{words} ✕ {unfit[change.id]}" if change.id in unfit else words

    def _choose_row(self, row: int) -> None:
        values = self.desk.study.values
        marks = [*(each.id for each in values.changes), *(each.id for each in values.areas)]
        if 0 <= row < len(marks):
            self._chosen = marks[row]
            self.desk.board.update()

    def clicked(self, at: BoardPoint) -> None:
        if self._way.value == POINT:
            self._change_shape(at, self._value.value)
        else:
            self.desk.say(HOW[self._way.value])

    def drawn(self, trail: list[BoardPoint]) -> None:
        way = self._way.value
        if way == POINT:
            self._change_shape(trail[0], self._value.value)
        elif way == JOIN:
            target = self._under(trail[-1])
            if target is not None:
                self._change_shape(trail[0], target[0])
        elif way in (HOLD, LET_GO):
            self._mark_detail(way, points_of(trail))
        else:
            self._send("area", points_of(trail), self._value.value, self.desk.study.values.count, 0.0)

    def _mark_detail(self, kind: str, points: tuple[tuple[float, float], ...]) -> None:
        try:
            area = DetailArea(next_value_id(self.desk.plan, "detail"), kind, points)  # type: ignore[arg-type]
        except PlanError as error:
            self.desk.say(str(error))
            return
        if self.commit(mark_detail(area)):
            self._chosen = area.id
            self.refresh()

    def _under(self, at: BoardPoint) -> tuple[int, float] | None:
        """Value and share of the shape under a place; None while the masses are being found, or off the picture."""
        masses = self.desk.computed.masses if self.desk.computed.masses_current else None
        if masses is None:
            self.desk.say("The masses are still being found. Try again in a moment.")
            return None
        paper, frame = self.desk.plan.paper, self.desk.study.frame
        x, y = to_steps_px((at.photo_px,), frame, paper, masses.steps.shape)[0].tolist()
        shape = shape_at(masses.steps, x, y)
        if shape is None:
            self.desk.say("That is outside the picture. Point at a shape inside it.")
            return None
        return int(masses.steps[int(y), int(x)]), float(shape.mean())

    def _change_shape(self, at: BoardPoint, value: int) -> None:
        under = self._under(at)
        if under is None:
            return
        if under[0] == value:
            self.desk.say("This shape has that value already.")
            return
        self._send("shape", (at.photo_px,), value, self.desk.study.values.count, under[1])

    def _send(self, kind: str, points: tuple[tuple[float, float], ...], value: int, of: int, share: float) -> None:
        try:
            change = MassChange(next_mass_id(self.desk.plan), kind, points, value, of, share)  # type: ignore[arg-type]
        except PlanError as error:
            self.desk.say(str(error))
            return
        if self.commit(change_mass(change)):
            self._chosen = change.id
            self.refresh()

    def delete(self) -> None:
        if self._chosen in {each.id for each in self.desk.study.values.areas}:
            self.commit(remove_detail(self._chosen))
        elif self._chosen:
            self.commit(remove_mass_change(self._chosen))

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        for each in self.desk.study.values.changes:
            if each.kind == "area":
                self.paint_outline(painter, photo, each.points, each.id == self._chosen, "dashed")
            else:
                x, y = photo.to_widget(each.points[0]).tolist()
                handle(painter, x, y, each.id == self._chosen)
        for area in self.desk.study.values.areas:
            dash: Dash = "dotted" if area.kind == "let go" else "solid"
            self.paint_outline(painter, photo, area.points, area.id == self._chosen, dash)
        self.paint_trail(painter, photo, closed=self._way.value != JOIN)
