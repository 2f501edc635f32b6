"""Measuring on the photo, in lengths on the sheet: datum lines, places, lengths, shapes between things, an axis."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any, Literal

import numpy as np
from PySide6.QtCore import QPointF, Qt

from mild_compass.craft.sheet.alignments import alignments
from mild_compass.craft.sheet.measure import datum_lines, lean_words, length_name, lengths_mm, point_name
from mild_compass.craft.sheet.symmetry import compared_sides
from mild_compass.plan.edits.sheet import change_measures
from mild_compass.plan.errors import PlanError
from mild_compass.plan.sheet import Datum, MeasuredLength, MeasuredPoint, NegativeShape, Symmetry
from mild_compass.studio.board.board import handle, near
from mild_compass.studio.board.marks import paint_lasso, paint_word
from mild_compass.studio.board.strokes import cased_line, casing, pen
from mild_compass.studio.desk import Desk
from mild_compass.studio.painting import polygon
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Entry, LengthEntry, Names, Sentence, Tick, button, form, rule, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.plan.sheet import MeasurePlan
    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint

What = Literal["datums", "points", "lengths", "negatives", "axis", "outline"]
WHATS: list[tuple[str, str]] = [
    ("a length", "lengths"),
    ("a place", "points"),
    ("an upright datum", "upright"),
    ("a level datum", "level"),
    ("a shape between things", "negatives"),
    ("the axis of a thing", "axis"),
    ("round that thing", "outline"),
]
HOW = {
    "lengths": "Drag from end to end: length, ratio and angle.",
    "points": "Click a place: its distance from every datum.",
    "upright": "Click where the upright datum stands.",
    "level": "Click where the level datum lies.",
    "negatives": "Draw round the empty shape, as if it were the thing.",
    "axis": "Drag along the middle of a thing that should be the same on both sides.",
    "outline": "Draw round the whole thing; both sides are compared.",
}
STEP_PX = 3.0
MOST_ALIGNED = 12


class MeasureInstrument(Instrument):
    """Every number is a length on the sheet, ready for the ruler."""

    name = "measure"
    words = "Measure"
    icon = "measure"
    tells = ("units", "datum", "measured", "aligned", "sides")
    hint = "Halve the frame, set a datum, take one thing as the unit. All lengths are those on your paper."
    cursor = Qt.CursorShape.CrossCursor
    fill = "colour"
    layers = ("frame",)

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._trail: list[BoardPoint] = []
        self._held: tuple[What, int, int] | None = None
        self._chosen: tuple[What, int] | None = None

    # -- options ----------------------------------------------------------------------------------------------

    def options(self) -> QWidget:
        self._what = Choice(WHATS, "What is measured")
        self._what.chosen.connect(lambda _: self.refresh())
        self._how = soft("")
        self._halve = button(
            "Halve the frame", self._halve_frame, tip="An upright and a level datum through its middle"
        )
        self._list = Names("Measures", 7)
        self._list.chosen.connect(self._choose_row)
        self._name = Sentence("Name")
        self._name.line.setPlaceholderText("door, eave, lamp …")
        self._name.chosen.connect(self._rename)
        self._unit = Tick("Compare all with this length")
        self._unit.chosen.connect(self._take_unit)
        self._remove = button("Remove it", self.delete)
        self._tolerance = LengthEntry("What still counts as level or plumb", lambda: self.desk.computed.unit)
        self._tolerance.chosen.connect(lambda value: self._try(self._tolerance, tolerance_mm=value))
        return form(
            ("Measure", self._what),
            self._how,
            self._halve,
            rule(),
            self._list,
            ("It is", self._name),
            self._unit,
            self._remove,
            rule(),
            ("Lines up to", self._tolerance),
        )

    def refresh(self) -> None:
        plan, rows = self._plan, self._rows()
        if self._chosen not in rows:
            self._chosen = rows[-1] if rows else None
        self._how.setText(HOW[self._what.value])
        self._list.show_names([self._words(*row) for row in rows], rows.index(self._chosen) if self._chosen else -1)
        chosen = self._chosen
        named = chosen is not None and chosen[0] not in ("axis", "outline")
        self._name.setEnabled(named)
        self._name.show_value(getattr(plan, chosen[0])[chosen[1]].name if named and chosen else "")
        is_length = chosen is not None and chosen[0] == "lengths"
        self._unit.setEnabled(is_length)
        self._unit.show_value(is_length and chosen is not None and plan.unit == chosen[1] + 1)
        self._remove.setEnabled(chosen is not None)
        self._tolerance.show_value(plan.tolerance_mm)

    @property
    def _plan(self) -> MeasurePlan:
        return self.desk.study.measures

    def _rows(self) -> list[tuple[What, int]]:
        plan = self._plan
        rows: list[tuple[What, int]] = []
        for what in ("datums", "points", "lengths", "negatives"):
            rows += [(what, k) for k in range(len(getattr(plan, what)))]
        return [*rows, ("axis", 0)] if plan.symmetry else rows

    def _words(self, what: What, index: int) -> str:
        plan, frame_map = self._plan, self.desk.frame_map
        if what == "datums":
            return f"— {datum_lines(plan.datums, frame_map)[index].name}"
        if what == "points":
            return f"+ {point_name(plan.points[index].name, index)}"
        if what == "lengths":
            ends = lengths_mm(plan, frame_map)[index]
            unit = " · the unit" if plan.unit == index + 1 else ""
            told = self.desk.length(float(np.hypot(*(ends[1] - ends[0]))))
            return f"{length_name(plan.lengths[index].name, index)}  {told}{unit}"
        return f"◇ {plan.negatives[index].name or f'shape {index + 1}'}" if what == "negatives" else "the axis"

    def _choose_row(self, row: int) -> None:
        rows = self._rows()
        if 0 <= row < len(rows):
            self._chosen = rows[row]
            self.refresh()
            self.desk.board.update()

    def _rename(self, name: str) -> None:
        if self._chosen is not None:
            what, index = self._chosen
            each = getattr(self._plan, what)[index]
            self._replace(what, index, replace(each, name=name[:40]))

    def _take_unit(self, on: bool) -> None:
        if self._chosen is not None and self._chosen[0] == "lengths":
            self._send(unit=self._chosen[1] + 1 if on else 0)

    def _halve_frame(self) -> None:
        x, y = self.desk.study.frame.middle
        self._send(datums=(*self._plan.datums, Datum("upright", x, y, "middle"), Datum("level", x, y, "half height")))

    def _replace(self, what: What, index: int, thing: Any) -> None:
        things = list(getattr(self._plan, what))
        things[index] = thing
        self._send(**{what: tuple(things)})

    def _try(self, entry: Entry, **changes: Any) -> None:
        try:
            self._send(**changes)
        except PlanError as error:
            entry.refuse(f"{error} It stays as it was.")

    def _send(self, **changes: Any) -> bool:
        return self.commit(change_measures(replace(self._plan, **changes)))

    # -- on the board -----------------------------------------------------------------------------------------

    def _grips(self) -> list[tuple[What, int, int, tuple[float, float]]]:
        """Everything that can be taken hold of, and where, in photo pixels."""
        plan = self._plan
        found: list[tuple[What, int, int, tuple[float, float]]] = []
        found += [("points", k, 0, (p.x_px, p.y_px)) for k, p in enumerate(plan.points)]
        for k, each in enumerate(plan.lengths):
            found += [("lengths", k, 0, (each.x0_px, each.y0_px)), ("lengths", k, 1, (each.x1_px, each.y1_px))]
        found += [("datums", k, 0, (d.x_px, d.y_px)) for k, d in enumerate(plan.datums)]
        if plan.symmetry is not None:
            found += [("axis", 0, end, plan.symmetry.axis[end]) for end in (0, 1)]
        return found

    def press(self, at: BoardPoint) -> bool:
        self._trail = [at]
        grips = [grip for grip in self._grips() if near(grip[3], at.photo_px, at.reach_px)]
        self._held = grips[0][:3] if grips and self._what.value not in ("negatives", "outline") else None
        if self._held is not None:
            self._chosen = self._held[:2]
            self.refresh()
        return True

    def drag(self, at: BoardPoint) -> None:
        if not near(self._trail[-1].widget, at.widget, STEP_PX):
            self._trail.append(at)
        moved = self._moved(at)
        if moved is not None:
            self.desk.session.preview(change_measures(moved))

    def _moved(self, at: BoardPoint) -> MeasurePlan | None:
        if self._held is None:
            return None
        what, index, end = self._held
        x, y = at.photo_px
        plan = self._plan
        try:
            if what == "axis":
                assert plan.symmetry is not None
                axis = (at.photo_px, plan.symmetry.axis[1]) if end == 0 else (plan.symmetry.axis[0], at.photo_px)
                return replace(plan, symmetry=replace(plan.symmetry, axis=axis))
            things = list(getattr(plan, what))
            if what == "lengths":
                ends = {"x0_px": x, "y0_px": y} if end == 0 else {"x1_px": x, "y1_px": y}
                things[index] = replace(things[index], **ends)
            else:
                things[index] = replace(things[index], x_px=x, y_px=y)
            changes: dict[str, Any] = {what: tuple(things)}
            return replace(plan, **changes)
        except PlanError:
            return None

    def release(self, at: BoardPoint) -> None:
        trail, held = [*self._trail, at], self._held
        moved = self._moved(at) if held is not None else None
        self._trail, self._held = [], None
        clicked = near(trail[0].widget, at.widget, 2 * STEP_PX) and len(trail) < 5
        if held is not None:
            if moved is not None and self.desk.session.in_gesture:
                self.commit(change_measures(moved))
            return
        try:
            self._put(trail, clicked)
        except PlanError as error:
            self.desk.say(str(error))

    def _put(self, trail: list[BoardPoint], clicked: bool) -> None:
        what, plan = self._what.value, self._plan
        (x, y), (x1, y1) = trail[0].photo_px, trail[-1].photo_px
        if clicked and what in ("lengths", "negatives", "axis", "outline"):
            self.desk.say(HOW[what])
        elif what == "points":
            self._add("points", MeasuredPoint(x1, y1))
        elif what in ("upright", "level"):
            self._add("datums", Datum(what, x1, y1))
        elif what == "lengths":
            self._add("lengths", MeasuredLength(x, y, x1, y1))
        elif what == "negatives":
            self._add("negatives", NegativeShape(tuple(each.photo_px for each in trail)))
        elif what == "axis":
            outline = plan.symmetry.outline if plan.symmetry else ()
            if self._send(symmetry=Symmetry(((x, y), (x1, y1)), outline)):
                self._chosen = ("axis", 0)
        elif plan.symmetry is None:
            self.desk.say("Drag the axis of the thing first, then draw round it.")
        else:
            self._send(symmetry=replace(plan.symmetry, outline=tuple(each.photo_px for each in trail)))
        self.refresh()

    def _add(self, what: What, thing: Any) -> None:
        things = getattr(self._plan, what)
        if self._send(**{what: (*things, thing)}):
            self._chosen = (what, len(things))

    def cancel(self) -> None:
        self._trail, self._held = [], None
        super().cancel()

    def delete(self) -> None:
        if self._chosen is None:
            return
        what, index = self._chosen
        if what == "axis":
            self._send(symmetry=None)
            return
        plan = self._plan
        things = getattr(plan, what)
        changes: dict[str, Any] = {what: things[:index] + things[index + 1 :]}
        if what == "lengths" and plan.unit:
            changes["unit"] = 0 if plan.unit == index + 1 else plan.unit - (plan.unit > index + 1)
        self._send(**changes)

    def nudge(self, dx_mm: float, dy_mm: float) -> None:
        if self._chosen is None or self._chosen[0] not in ("points", "datums"):
            return
        what, index = self._chosen
        dx, dy = self.desk.on_photo(dx_mm, dy_mm)
        each = getattr(self._plan, what)[index]
        self._replace(what, index, replace(each, x_px=each.x_px + dx, y_px=each.y_px + dy))

    def tag(self) -> str | None:
        if not self._trail or self._what.value not in ("lengths", "axis") or self._held is not None:
            return None
        (x0, y0), (x1, y1) = self._trail[0].sheet_mm, self._trail[-1].sheet_mm
        length = float(np.hypot(x1 - x0, y1 - y0))
        return f"{self.desk.length(length)}  {lean_words(x1 - x0, y1 - y0)}" if length > 0 else None

    # -- painting ---------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        plan, frame_map = self._plan, self.desk.frame_map
        self._paint_datums(painter, sheet)
        for k, each in enumerate(plan.negatives):
            outline = photo.to_widget([*each.points, each.points[0]])
            painter.setBrush(pen("measure", 1, alpha=50).color())
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawPolygon(polygon(outline))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            cased_line(painter, outline, pen("measure", 2.2 if self._chosen == ("negatives", k) else 1.2))
        self._paint_axis(painter, photo, sheet)
        for aligned in alignments(plan, frame_map)[:MOST_ALIGNED]:
            if aligned.relation != "equal":
                cased_line(painter, sheet.to_widget(aligned.line_mm), pen("subject", 1.2, "dotted"))
        for k, ends in enumerate(lengths_mm(plan, frame_map)):
            points = sheet.to_widget(ends)
            weight = 2.6 if self._chosen == ("lengths", k) else 1.8
            cased_line(painter, points, pen("subject" if plan.unit == k + 1 else "measure", weight))
            for x, y in points.tolist():
                handle(painter, x, y, self._chosen == ("lengths", k))
            x, y = points.mean(0).tolist()
            paint_word(painter, self._words("lengths", k), x + 8, y - 4)
        for k, point in enumerate(plan.points):
            x, y = photo.to_widget((point.x_px, point.y_px)).tolist()
            painter.setPen(casing(2.0))
            painter.drawEllipse(QPointF(x, y), 6, 6)
            painter.setPen(pen("subject" if self._chosen == ("points", k) else "measure", 2.0))
            painter.drawEllipse(QPointF(x, y), 4, 4)
            paint_word(painter, point_name(point.name, k), x + 8, y - 5)
        if self._trail and self._held is None:
            self._paint_trail(painter, photo)

    def _paint_datums(self, painter: QPainter, sheet: Sight) -> None:
        box = self.desk.frame_map.box
        for k, each in enumerate(datum_lines(self._plan.datums, self.desk.frame_map)):
            ends = (
                [(each.at_mm, box.top), (each.at_mm, box.bottom)]
                if each.kind == "upright"
                else [(box.left, each.at_mm), (box.right, each.at_mm)]
            )
            points = sheet.to_widget(ends)
            cased_line(painter, points, pen("measure", 2.2 if self._chosen == ("datums", k) else 1.2, "dash-dot"))
            paint_word(painter, each.name, float(points[0, 0]) + 5, float(points[0, 1]) + (14 if k % 2 == 0 else -5))

    def _paint_axis(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        symmetry = self._plan.symmetry
        if symmetry is None:
            return
        if symmetry.outline:
            cased_line(
                painter, photo.to_widget([*symmetry.outline, symmetry.outline[0]]), pen("measure", 1.0, "dotted")
            )
            sides = compared_sides(symmetry, self.desk.frame_map)
            for row in sides.rows:
                worst = row is sides.worst
                cased_line(
                    painter, sheet.to_widget(row.line_mm), pen("subject" if worst else "measure", 1.8 if worst else 1.0)
                )
        points = photo.to_widget(symmetry.axis)
        cased_line(painter, points, pen("subject", 1.8, "dash-dot"))
        for x, y in points.tolist():
            handle(painter, x, y, self._chosen == ("axis", 0))

    def _paint_trail(self, painter: QPainter, photo: PhotoSight) -> None:
        if self._what.value in ("lengths", "axis"):
            ends = photo.to_widget([self._trail[0].photo_px, self._trail[-1].photo_px])
            cased_line(painter, ends, pen("measure", 1.8))
        elif self._what.value in ("negatives", "outline"):
            paint_lasso(painter, np.asarray(photo.to_widget([each.photo_px for each in self._trail])), closed=True)
