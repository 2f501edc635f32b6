"""One tracing placed several times: its outline drawn once, its places moved, turned and turned over."""

from __future__ import annotations

from dataclasses import replace
from math import atan2, cos, degrees, radians, sin
from typing import TYPE_CHECKING, Any

import numpy as np
import shapely
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor

from mild_compass.craft.sheet.motif import centred, placed_outline, repeats, transfers
from mild_compass.plan.edits.sheet import set_motif
from mild_compass.plan.errors import PlanError
from mild_compass.plan.sheet import Motif, MotifPlace
from mild_compass.studio.board.board import handle, near
from mild_compass.studio.board.marks import paint_lasso, paint_word
from mild_compass.studio.board.strokes import cased_line, pen
from mild_compass.studio.desk import Desk
from mild_compass.studio.painting import polygon
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Entry, Names, Tick, button, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint

STEP_PX = 3.0
PLACED = "#dededc"
DRAW = "Draw round a thing on the photo: that is the tracing. It keeps its size."
PLACE = "Click to lay the tracing down once more. Drag a place to move it, its outer handle to turn it."


class MotifInstrument(Instrument):
    """Works in mm on the sheet, because a tracing has one size."""

    name = "motif"
    words = "Motif repeats"
    icon = "cut"
    tells = ("positive", "contacts", "turns", "overlap", "weight", "low", "negatives")
    hint = "One tracing laid down several times, turned and turned over, what is behind left out."
    cursor = Qt.CursorShape.CrossCursor
    fill = "paper"
    layers = ("frame",)

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._chosen = -1
        self._held = ""
        self._moved = False
        self._trail: list[BoardPoint] = []

    def options(self) -> QWidget:
        self._how = soft(DRAW)
        self._photo = Tick("Show the photo beneath")
        self._photo.chosen.connect(self._show_photo)
        self._list = Names("Places in the order of transfer, the front one first", 6)
        self._list.chosen.connect(self._choose_row)
        self._turn = number_entry("Turned clockwise", "°")
        self._turn.chosen.connect(lambda value: self._try(self._turn, turn_deg=value))
        self._flipped = Tick("Turned over")
        self._flipped.chosen.connect(lambda on: self._change(flipped=on))
        self._load = number_entry("Transfers a side gives before it is loaded again", "")
        self._load.chosen.connect(self._choose_load)
        self._forward = button("Forward", lambda: self._shift(1), tip="In front of the next one")
        self._back = button("Back", lambda: self._shift(-1), tip="Behind the one before")
        self._remove = button("Remove it", self.delete)
        self._new = button("Draw another tracing", lambda: self.commit(set_motif(None)))
        return form(
            self._how,
            self._photo,
            rule(),
            self._list,
            ("Turned", self._turn),
            self._flipped,
            (self._back, self._forward),
            self._remove,
            ("Per load", self._load),
            self._new,
        )

    def refresh(self) -> None:
        motif = self.desk.study.motif
        places = motif.places if motif else ()
        self._chosen = len(places) - 1 if self._chosen < 0 else min(self._chosen, len(places) - 1)
        self._how.setText(PLACE if motif else DRAW)
        self._photo.setVisible(motif is not None)
        self._photo.show_value(self.desk.board.fill == "colour")
        rows = [
            f"{k}  {each.turn_deg:.0f}°{' · turned over' if each.flipped else ''}"
            for k, each in enumerate(reversed(places), 1)
        ]
        self._list.show_names(rows, len(places) - 1 - self._chosen if self._chosen >= 0 else -1)
        place = self._place
        for control in (self._turn, self._flipped, self._forward, self._back, self._remove):
            control.setEnabled(place is not None)
        self._new.setEnabled(motif is not None)
        self._load.setEnabled(motif is not None)
        self._load.show_value(motif.copies_per_load if motif else 3)
        if place is not None:
            self._turn.show_value(round(place.turn_deg, 1))
            self._flipped.show_value(place.flipped)
        if motif is None:
            self.desk.board.fill = "colour"

    def _show_photo(self, on: bool) -> None:
        self.desk.board.fill = "colour" if on else "paper"
        self.desk.board.update()

    @property
    def _place(self) -> MotifPlace | None:
        motif = self.desk.study.motif
        return motif.places[self._chosen] if motif and 0 <= self._chosen < len(motif.places) else None

    def _choose_row(self, row: int) -> None:
        motif = self.desk.study.motif
        self._chosen = len(motif.places) - 1 - row if motif and row >= 0 else -1
        self.refresh()
        self.desk.board.update()

    def _choose_load(self, value: float) -> None:
        motif = self.desk.study.motif
        assert motif is not None
        try:
            self.commit(set_motif(replace(motif, copies_per_load=round(value))))
        except PlanError as error:
            self._load.refuse(f"{error} It stays as it was.")

    def _try(self, entry: Entry, **changes: Any) -> None:
        try:
            self._change(**changes)
        except PlanError as error:
            entry.refuse(f"{error} It stays as it was.")

    def _change(self, **changes: Any) -> None:
        if self._place is not None:
            self.commit(set_motif(self._with(replace(self._place, **changes))))

    def _with(self, place: MotifPlace) -> Motif:
        motif = self.desk.study.motif
        assert motif is not None
        places = list(motif.places)
        places[self._chosen] = place
        return replace(motif, places=tuple(places))

    def _shift(self, way: int) -> None:
        motif, other = self.desk.study.motif, self._chosen + way
        if motif is None or self._place is None or not 0 <= other < len(motif.places):
            return
        places = list(motif.places)
        places[self._chosen], places[other] = places[other], places[self._chosen]
        self._chosen = other
        self.commit(set_motif(replace(motif, places=tuple(places))))

    # -- on the board -----------------------------------------------------------------------------------------

    def _grip(self, motif: Motif, place: MotifPlace) -> tuple[float, float]:
        """The handle that turns a place, outside its outline, in sheet mm."""
        reach = float(np.hypot(*np.array(motif.outline_mm).T).max()) + 4
        turn = radians(place.turn_deg)
        return place.x_mm + reach * sin(turn), place.y_mm - reach * cos(turn)

    def press(self, at: BoardPoint) -> bool:
        motif = self.desk.study.motif
        self._trail, self._held, self._moved = [at], "", False
        if motif is None:
            return True
        reach = at.reach_px * self.desk.frame_map.mm_per_px
        place = self._place
        if place is not None and near(self._grip(motif, place), at.sheet_mm, reach):
            self._held = "turn"
            return True
        for index in range(len(motif.places) - 1, -1, -1):
            if (
                shapely.Polygon(placed_outline(motif, motif.places[index]))
                .buffer(0)
                .contains(shapely.Point(at.sheet_mm))
            ):
                self._held, self._chosen = "place", index
                self.refresh()
                break
        return True

    def drag(self, at: BoardPoint) -> None:
        if not near(self._trail[-1].widget, at.widget, STEP_PX):
            self._trail.append(at)
        edit = self._dragged(at)
        if edit is not None:
            self._moved = True
            self.desk.session.preview(set_motif(edit))

    def _dragged(self, at: BoardPoint) -> Motif | None:
        place = self._place
        if not self._held or place is None or len(self._trail) < 2:
            return None
        if self._held == "turn":
            turn = degrees(atan2(at.sheet_mm[0] - place.x_mm, place.y_mm - at.sheet_mm[1]))
            return self._with(replace(place, turn_deg=turn))
        dx, dy = at.sheet_mm[0] - self._trail[-2].sheet_mm[0], at.sheet_mm[1] - self._trail[-2].sheet_mm[1]
        self._trail = [at, at]
        return self._with(replace(place, x_mm=place.x_mm + dx, y_mm=place.y_mm + dy))

    def release(self, at: BoardPoint) -> None:
        motif, trail = self.desk.study.motif, [*self._trail, at]
        held, moved = self._held, self._moved
        self._trail, self._held, self._moved = [], "", False
        if held:
            if moved and motif is not None and self.desk.session.in_gesture:
                self.commit(set_motif(motif))
            return
        try:
            if motif is None:
                self._draw(trail)
            elif near(trail[0].widget, at.widget, 6):
                place = MotifPlace(round(at.sheet_mm[0], 2), round(at.sheet_mm[1], 2))
                if self.commit(set_motif(replace(motif, places=(*motif.places, place)))):
                    self._chosen = len(motif.places)
        except PlanError as error:
            self.desk.say(str(error))
        self.refresh()

    def _draw(self, trail: list[BoardPoint]) -> None:
        """The outline drawn becomes the tracing, and lies where it was drawn."""
        if len(trail) < 4:
            self.desk.say(DRAW)
            return
        points = shapely.get_coordinates(shapely.simplify(shapely.LineString([p.sheet_mm for p in trail]), 0.3))
        outline, (x, y) = centred(points)
        if self.commit(set_motif(Motif(outline, (MotifPlace(round(x, 2), round(y, 2)),)))):
            self._chosen = 0

    def cancel(self) -> None:
        self._trail, self._held, self._moved = [], "", False
        super().cancel()

    def delete(self) -> None:
        motif = self.desk.study.motif
        if motif is not None and self._place is not None:
            self.commit(
                set_motif(replace(motif, places=motif.places[: self._chosen] + motif.places[self._chosen + 1 :]))
            )

    def nudge(self, dx_mm: float, dy_mm: float) -> None:
        if self._place is not None:
            self._change(x_mm=self._place.x_mm + dx_mm, y_mm=self._place.y_mm + dy_mm)

    def tag(self) -> str | None:
        place = self._place
        if place is None or not self._held:
            return None
        return (
            f"{place.turn_deg:.0f}°"
            if self._held == "turn"
            else f"{self.desk.length(place.x_mm)}, {self.desk.length(place.y_mm)}"
        )

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        motif = self.desk.study.motif
        if motif is None:
            if self._trail:
                trail = photo.to_widget([each.photo_px for each in self._trail])
                paint_lasso(painter, np.asarray(trail), closed=True)
            return
        if self.desk.computed.in_gesture:
            self._paint_quickly(painter, sheet, motif)
        else:
            self._paint_parted(painter, sheet, motif)
        for number, each in enumerate(transfers(motif), 1):
            lies = motif.places[each.place]
            x, y = sheet.to_widget((lies.x_mm, lies.y_mm)).tolist()
            paint_word(painter, f"{number}{' load again' if each.reload else ''}", x, y)
        place = self._place
        if place is not None:
            cased_line(painter, sheet.to_widget(placed_outline(motif, place)), pen("subject", 1.6, "dashed"))
            x, y = sheet.to_widget(self._grip(motif, place)).tolist()
            handle(painter, x, y, True)

    def _paint_quickly(self, painter: QPainter, sheet: Sight, motif: Motif) -> None:
        """From back to front, each over those behind it, so that the hand need not wait for what is hidden."""
        painter.setPen(pen("mass", 1.6))
        if self.desk.board.fill == "paper":
            painter.setBrush(QColor(PLACED))
        for place in motif.places:
            painter.drawPolygon(polygon(sheet.to_widget(placed_outline(motif, place))))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_parted(self, painter: QPainter, sheet: Sight, motif: Motif) -> None:
        """What is seen of every place inside the picture, and the triangle of its contacts with the edges."""
        found = repeats(motif, self.desk.frame_map.box)
        ground = QColor(60, 60, 60, 40)
        for lines, shape in zip(found.lines, found.shapes, strict=True):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(ground)
            for part in shapely.get_parts(shape):
                if part.geom_type == "Polygon":
                    painter.drawPolygon(polygon(sheet.to_widget(shapely.get_coordinates(part.exterior))))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for line in lines:
                cased_line(painter, sheet.to_widget(line), pen("mass", 1.6))
        if len(found.contacts) > 2:
            points = [(x, y) for _, x, y in found.contacts[:3]]
            cased_line(painter, sheet.to_widget([*points, points[0]]), pen("perspective", 1.2, "dotted"))
