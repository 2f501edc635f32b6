"""Planned departures from the photo: drawn on the study, listed with a reason, later ticked as kept or not."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
import shapely
from PySide6.QtCore import Qt

from mild_compass.craft.perspective.standing import made_to_stand
from mild_compass.plan.departure_kinds import ROWS, DepartureKind, kind_of
from mild_compass.plan.edits.departures import (
    add_departure,
    change_departure,
    next_id,
    remove_departure,
    settle_departure,
    words_for,
)
from mild_compass.plan.errors import PlanError
from mild_compass.plan.pictures import Point
from mild_compass.plan.record import Outcome
from mild_compass.plan.study import Departure
from mild_compass.studio.board.board import near
from mild_compass.studio.board.marks import paint_departure, paint_lasso
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import (
    Choice,
    Entry,
    LengthEntry,
    Names,
    Sentence,
    Tick,
    button,
    form,
    number_entry,
    rule,
    soft,
)

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QLabel, QWidget

    from mild_compass.craft.perspective.camera import Camera
    from mild_compass.plan.edits.base import Edit
    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint

DRAWN: tuple[tuple[str, DepartureKind], ...] = tuple((row.name, row.name) for row in ROWS if row.name != "borrow")
OUTCOMES: list[tuple[str, Outcome]] = [
    ("still to be done", "open"),
    ("kept as planned", "kept"),
    ("changed", "changed"),
    ("dropped", "dropped"),
]
STEP_PX = 3.0


class ChangesInstrument(Instrument):
    """Plans departures by outlines and lines on the board; moves what is moved or borrowed."""

    name = "changes"
    words = "Planned changes"
    icon = "depart"
    tells: tuple[str, ...] = ("spare", "bare_")
    needs = "a photo"
    hint = "What the drawing will do otherwise than the photo. The photo itself is never touched."
    cursor = Qt.CursorShape.CrossCursor
    kinds = DRAWN

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._trail: list[BoardPoint] = []
        self._held: Departure | None = None
        self._from: BoardPoint | None = None
        self._chosen = ""

    # -- options ----------------------------------------------------------------------------------------------

    def options(self) -> QWidget:
        self._kind = Choice(self.kinds, "Kind of change")
        self._kind.chosen.connect(lambda _: self._show_how())
        self._how = soft(kind_of(self.kinds[0][1]).hint)
        self._list = Names("Planned changes", 4)
        self._list.chosen.connect(self._choose_row)
        self._name = Sentence("What it is")
        self._name.chosen.connect(lambda name: self._change(name=name[:40]))
        self._reason = Sentence("Why")
        self._reason.chosen.connect(lambda reason: self._change(reason=reason[:200]))
        self._value = number_entry("Value", "")
        self._value.chosen.connect(lambda value: self._try_change(self._value, value=value))
        self._tall = LengthEntry("Height on the sheet", lambda: self.desk.computed.unit)
        self._tall.chosen.connect(self._set_height)
        self._stands = number_entry("Height in the scene, 0 for none", "m")
        self._stands.setToolTip("So tall in the scene: then it is as large as the perspective makes it where it stands")
        self._stands.chosen.connect(self._set_standing)
        self._mirrored = Tick("Mirrored")
        self._mirrored.chosen.connect(lambda on: self._change(mirrored=on))
        self._outcome = Choice(OUTCOMES, "What became of it")
        self._outcome.chosen.connect(lambda outcome: self._settle(outcome, None))
        self._happened = Sentence("What happened")
        self._happened.chosen.connect(lambda words: self._settle(None, words))
        self._remove = button("Take it off the list", self.delete)
        self._of_chosen = form(
            ("It is", self._name),
            ("Because", self._reason),
            ("Value", self._value),
            ("Height", self._tall),
            ("In scene", self._stands),
            self._mirrored,
            ("Outcome", self._outcome),
            ("In the end", self._happened),
            self._remove,
        )
        return form(("Draw", self._kind), self._how, rule(), self._list, self._of_chosen)

    def _show_how(self) -> None:
        self._how.setText(kind_of(self._kind.value).hint)

    def refresh(self) -> None:
        departures = self.desk.study.departures
        if self._chosen not in [each.id for each in departures]:
            self._chosen = departures[-1].id if departures else ""
        row = next((k for k, each in enumerate(departures) if each.id == self._chosen), -1)
        self._list.show_names([f"{words_for(each)}{_sign(each)}" for each in departures], row)
        self._list.setVisible(bool(departures))
        self._of_chosen.setVisible(bool(departures))
        chosen = self._departure
        if chosen is None:
            return
        self._name.show_value(chosen.name)
        self._reason.show_value(chosen.reason)
        self._value.show_value(round(chosen.value, 1))
        value, label = kind_of(chosen.kind).value, self._label(self._value)
        for each in (self._value, label):
            each.setVisible(value is not None)
        label.setText(value.words if value is not None else "")
        for control in (self._tall, self._stands):
            self._of_chosen.layout().setRowVisible(control, chosen.moves)  # type: ignore[union-attr]
        self._mirrored.setVisible(chosen.moves)
        self._stands.show_value(chosen.height_m)
        self._tall.show_value(self._height_mm(chosen))
        self._mirrored.show_value(chosen.mirrored)
        self._outcome.show_value(chosen.outcome)
        self._happened.show_value(chosen.happened)

    def _label(self, control: QWidget) -> QLabel:
        return self._of_chosen.layout().labelForField(control)  # type: ignore[union-attr,no-any-return]

    @property
    def _departure(self) -> Departure | None:
        return next((each for each in self.desk.study.departures if each.id == self._chosen), None)

    def _choose_row(self, row: int) -> None:
        if 0 <= row < len(self.desk.study.departures):
            self.choose(self.desk.study.departures[row].id)

    def choose(self, departure_id: str) -> None:
        """Choose a planned change by its id."""
        self._chosen = departure_id
        self.refresh()
        self.desk.board.update()

    def _change(self, **changes: object) -> None:
        if self._departure is not None:
            self.commit(change_departure(replace(self._departure, **changes)))  # type: ignore[arg-type]

    def _try_change(self, entry: Entry, **changes: object) -> None:
        try:
            self._change(**changes)
        except PlanError as error:
            entry.refuse(f"{error} It stays as it was.")

    def _height_mm(self, departure: Departure) -> float:
        _, top, _, bottom = departure.bounds
        return (bottom - top) * departure.size * self.desk.frame_map.mm_per_px

    def _set_height(self, height_mm: float) -> None:
        chosen = self._departure
        if chosen is None:
            return
        if height_mm <= 0:
            self._tall.refuse("Nothing is that small. It stays as it was.")
            return
        self._try_change(self._tall, size=chosen.size * height_mm / self._height_mm(chosen))

    def _set_standing(self, height_m: float) -> None:
        """So tall in the scene: sized by where it stands, now and whenever it is moved."""
        chosen, camera = self._departure, self._camera()
        if chosen is None:
            return
        if height_m and camera is None:
            self._stands.refuse("That needs a horizon: trace edges at Perspective, or set it there.")
            return
        try:
            self.commit(change_departure(made_to_stand(replace(chosen, height_m=height_m), camera)))
        except PlanError as error:
            self._stands.refuse(f"{error} It stays as it was.")

    def _camera(self) -> Camera | None:
        worked = self.desk.computed.perspective()
        return worked.camera if worked is not None else None

    def _settle(self, outcome: Outcome | None, happened: str | None) -> None:
        chosen = self._departure
        if chosen is not None:
            words = chosen.happened if happened is None else happened
            self.commit(settle_departure(chosen.id, outcome or chosen.outcome, words))

    # -- on the board -----------------------------------------------------------------------------------------

    def press(self, at: BoardPoint) -> bool:
        self._from = at
        self._held = next(
            (each for each in self.desk.study.departures if each.moves and _inside(each.placed(), at.photo_px)), None
        )
        if self._held is not None:
            self._chosen = self._held.id
            self.refresh()
        else:
            self._trail = [at]
        return True

    def drag(self, at: BoardPoint) -> None:
        if self._held is not None:
            self.desk.session.preview(self._moved(at))
        elif self._trail and not near(self._trail[-1].widget, at.widget, STEP_PX):
            self._trail.append(at)

    def _moved(self, at: BoardPoint) -> Edit:
        assert self._held is not None
        assert self._from is not None
        dx, dy = at.photo_px[0] - self._from.photo_px[0], at.photo_px[1] - self._from.photo_px[1]
        moved = replace(self._held, x_px=self._held.x_px + dx, y_px=self._held.y_px + dy)
        return change_departure(made_to_stand(moved, self._camera()))

    def release(self, at: BoardPoint) -> None:
        held, trail, start = self._held, [*self._trail, at], self._from
        if held is not None:
            edit = self._moved(at)
            self._held = None
            self.commit(edit)
            return
        self._trail = []
        assert start is not None
        if all(near(start.widget, each.widget, 2 * STEP_PX) for each in trail):
            self._choose_at(at)
        else:
            self._plan(trail)

    def _choose_at(self, at: BoardPoint) -> None:
        hit = [each for each in self.desk.study.departures if _inside(each.placed(), at.photo_px)]
        if hit:
            self.choose(hit[-1].id)
        else:
            self.desk.say(kind_of(self._kind.value).hint)

    def _plan(self, trail: list[BoardPoint]) -> None:
        kind: DepartureKind = self._kind.value
        points = tuple(each.photo_px for each in trail)
        row = kind_of(kind)
        if row.shape == "line":
            points = (points[0], points[-1])
        xs, ys = [x for x, _ in points], [y for _, y in points]
        middle = ((min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2)
        value = row.value.usual if row.value is not None else 0.0
        try:
            made = Departure(next_id(self.desk.plan), kind, points, x_px=middle[0], y_px=middle[1], value=value)
        except PlanError as error:
            self.desk.say(str(error))
            return
        if self.commit(add_departure(made)):
            self.choose(made.id)
            self._name.line.setFocus()

    def cancel(self) -> None:
        self._trail, self._held = [], None
        super().cancel()

    def nudge(self, dx_mm: float, dy_mm: float) -> None:
        chosen = self._departure
        if chosen is not None and chosen.moves:
            dx, dy = self.desk.on_photo(dx_mm, dy_mm)
            self._change(x_px=chosen.x_px + dx, y_px=chosen.y_px + dy)

    def delete(self) -> None:
        if self._departure is not None:
            self.commit(remove_departure(self._chosen))

    def typed_value(self) -> str | None:
        chosen = self._departure
        return self.desk.length(self._height_mm(chosen)) if chosen is not None and chosen.moves else None

    def set_typed(self, text: str) -> bool:
        return self.accepted(self._tall.type_in(text))

    def tag(self) -> str | None:
        if self._held is None or self._departure is None:
            return None
        return f"{self.desk.length(self._height_mm(self._departure))} tall on the sheet"

    def hover(self, at: BoardPoint) -> Qt.CursorShape:
        over = any(each.moves and _inside(each.placed(), at.photo_px) for each in self.desk.study.departures)
        return Qt.CursorShape.SizeAllCursor if over else self.cursor

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        for each in self.desk.study.departures:
            paint_departure(painter, each, photo, each.id == self._chosen)
        if self._trail:
            trail = photo.to_widget([each.photo_px for each in self._trail])
            paint_lasso(painter, np.asarray(trail), closed=not kind_of(self._kind.value).is_line)


def _sign(departure: Departure) -> str:
    return {"open": "", "kept": " ✓", "changed": " ~", "dropped": " ×"}[departure.outcome]


def _inside(outline: tuple[Point, ...], point: Point) -> bool:
    """Whether a point lies inside an outline; one that crosses itself counts by its even-odd rule."""
    return (
        bool(shapely.contains_xy(shapely.make_valid(shapely.Polygon(outline)), *point)) if len(outline) > 2 else False
    )
