"""The stage on the board: things in metres, set down, moved and measured in the drawing itself."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import Qt

from mild_compass.plan.edits.stage import change_thing
from mild_compass.plan.errors import PlanError
from mild_compass.plan.stage import row_of
from mild_compass.studio.board.board import handle, near
from mild_compass.studio.board.strokes import cased_line, pen
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.stations.perspective.stage_options import ThingOptions
from mild_compass.studio.widgets import form, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.craft.perspective.camera import Camera
    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.stage import Thing
    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint

TURN_DEG_PER_PX = 0.4
LOST = "Nothing stands above the horizon. Click on the ground, below it."
NO_EYE = "The stage needs an eye level first: set the horizon, or trace edges."


class StageInstrument(Instrument):
    """Click the ground to set a thing down; drag things along it; the upper handle says how tall."""

    name = "stage"
    words = "Stage"
    icon = "stage"
    tells = ("stretched", "overlaps", "out_of_sight")
    hint = "Click the ground to set a thing down. Drag it about; its upper handle makes it taller, Shift turns it."
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.options_of_thing = ThingOptions(desk, self.commit)
        self._from: BoardPoint | None = None
        self._at: BoardPoint | None = None
        self._held: str | None = None  # "thing", "top" or None
        self._begun: Thing | None = None
        self._edit: Edit | None = None

    def options(self) -> QWidget:
        self._told = soft("")
        return form(self._told, *self.options_of_thing.rows())

    def refresh(self) -> None:
        self._told.setText("" if self._camera() is not None else NO_EYE)
        self._told.setVisible(self._camera() is None)
        self.options_of_thing.refresh()

    def _camera(self) -> Camera | None:
        worked = self.desk.computed.perspective()
        return worked.camera if worked is not None else None

    # -- where things are in the picture ------------------------------------------------------------------------

    def _ground(self, at: BoardPoint, height_m: float = 0.0) -> np.ndarray | None:
        """A place of the picture on the plan, at a height above the ground; None above the horizon."""
        from mild_compass.craft.stage.scene import on_plan

        camera = self._camera()
        if camera is None:
            return None
        place = camera.on_ground([at.photo_px], height_m)
        return on_plan(self.options_of_thing.stage, place[:, :2])[0] if np.isfinite(place).all() else None

    def _marks(self, thing: Thing) -> tuple[tuple[float, float], tuple[float, float]] | None:
        """Where its foot and its top are in the picture."""
        from mild_compass.craft.stage.scene import from_eye

        camera = self._camera()
        if camera is None:
            return None
        x, y = from_eye(self.options_of_thing.stage, [[thing.x_m, thing.y_m]])[0]
        spots = camera.seen([[x, y, thing.base_m], [x, y, thing.base_m + thing.height_m]])
        if not np.isfinite(spots).all():
            return None
        foot, top = spots.tolist()
        return (foot[0], foot[1]), (top[0], top[1])

    def _found(self, at: BoardPoint) -> Thing | None:
        """The thing whose drawing is under the pointer, the nearest of several."""
        import shapely

        here = shapely.Point(at.photo_px)
        stage, scene = self.options_of_thing.stage, self.desk.computed.scene
        found = []
        for thing, lines in zip(stage.things, scene.things, strict=False):
            points = [point for line in lines.seen for point in line]
            if not points or row_of(thing.kind).flat:
                close = any(shapely.distance(shapely.LineString(line), here) <= at.reach_px for line in lines.seen)
            else:
                close = shapely.distance(shapely.convex_hull(shapely.multipoints(points)), here) <= at.reach_px / 2
            if close:
                away = np.hypot(thing.x_m - stage.eye_x_m, thing.y_m - stage.eye_y_m)
                found.append((float(away), thing))
        return min(found, key=lambda pair: pair[0])[1] if found else None

    # -- gestures -----------------------------------------------------------------------------------------------

    def press(self, at: BoardPoint) -> bool:
        self._from = self._at = at
        self._held, self._edit = None, None
        chosen = self.options_of_thing.thing
        marks = self._marks(chosen) if chosen is not None else None
        if chosen is not None and marks is not None and near(at.photo_px, marks[1], at.reach_px):
            self._held, self._begun = "top", chosen
            return True
        thing = self._found(at)
        if thing is not None:
            self._held, self._begun = "thing", thing
            self.options_of_thing.choose(thing.id)
        return True

    def drag(self, at: BoardPoint) -> None:
        self._at = at
        self._edit = self._moved(at)
        if self._edit is not None:
            self.desk.session.preview(self._edit)

    def _moved(self, at: BoardPoint) -> Edit | None:
        thing, start, camera = self._begun, self._from, self._camera()
        if self._held is None or thing is None or start is None or camera is None:
            return None
        if self._held == "top":
            marks = self._marks(thing)
            tall = camera.height_of(marks[0], at.photo_px) if marks and thing.base_m == 0 else float("nan")
            return change_thing(thing.id, height_m=round(float(tall), 2)) if tall > 0 else None
        if at.shift:
            turn = (thing.turn_deg + (at.widget[0] - start.widget[0]) * TURN_DEG_PER_PX + 180) % 360 - 180
            return change_thing(thing.id, turn_deg=round(turn))
        here, there = self._ground(start, thing.base_m), self._ground(at, thing.base_m)
        if here is None or there is None:
            return None
        x, y = (np.array([thing.x_m, thing.y_m]) + there - here).tolist()
        return change_thing(thing.id, x_m=round(x, 2), y_m=round(y, 2))

    def release(self, at: BoardPoint) -> None:
        start, held, edit = self._from, self._held, self._edit
        self._from = self._at = self._held = self._begun = self._edit = None
        if held is not None:
            if edit is not None and self.desk.session.in_gesture:
                self.commit(edit)
            return
        if start is None or not near(start.widget, at.widget, 6):
            return
        place = self._ground(at)
        if place is None:
            self.desk.say(LOST if self._camera() is not None else NO_EYE)
            return
        self.options_of_thing.set_down(*place.tolist())

    def cancel(self) -> None:
        self._from = self._at = self._held = self._begun = self._edit = None
        super().cancel()

    def delete(self) -> None:
        self.options_of_thing.take_away()

    def nudge(self, dx_mm: float, dy_mm: float) -> None:
        """By so many tenths of a metre to the right and towards the eye."""
        thing = self.options_of_thing.thing
        if thing is None:
            return
        try:
            self.commit(change_thing(thing.id, x_m=thing.x_m + dx_mm / 10, y_m=thing.y_m - dy_mm / 10))
        except PlanError as error:
            self.desk.say(str(error))

    def tag(self) -> str | None:
        if self._at is None:
            return None
        thing = self.options_of_thing.thing
        if self._held == "top" and thing is not None:
            return f"{thing.height_m:.2f} m tall"
        place = self._ground(self._at)
        if place is None:
            return "above the horizon"
        stage = self.options_of_thing.stage
        return f"{np.hypot(place[0] - stage.eye_x_m, place[1] - stage.eye_y_m):.1f} m away"

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        thing = self.options_of_thing.thing
        if thing is None:
            return
        if self.desk.computed.in_gesture:
            self._paint_quickly(painter, photo, thing)
        else:
            self._paint_behind(painter, photo, thing)
        marks = self._marks(thing)
        if marks is not None:
            for number, (x, y) in enumerate(photo.to_widget(marks).tolist()):
                if number == 0 or not row_of(thing.kind).flat:
                    handle(painter, x, y, chosen=number == 0)

    def _paint_behind(self, painter: QPainter, photo: PhotoSight, thing: Thing) -> None:
        """Of the thing in hand also what is hidden, as it would be constructed."""
        for each, lines in zip(self.options_of_thing.stage.things, self.desk.computed.scene.things, strict=False):
            if each.id == thing.id:
                for line in lines.behind:
                    cased_line(painter, photo.to_widget(line), pen("perspective", 1.0, "dashed"))
                for line in lines.seen:
                    cased_line(painter, photo.to_widget(line), pen("subject", 1.6))

    def _paint_quickly(self, painter: QPainter, photo: PhotoSight, thing: Thing) -> None:
        """What is in the hand, all its lines; which of them are hidden is worked out when the hand rests."""
        from dataclasses import replace

        from PySide6.QtCore import QLineF

        from mild_compass.craft.stage.staged import quick_lines

        camera = self._camera()
        if camera is None:
            return
        lines = quick_lines(replace(self.options_of_thing.stage, things=(thing,)), camera)
        if len(lines):
            ends = photo.to_widget(lines.reshape(-1, 2)).reshape(-1, 4)
            painter.setPen(pen("subject", 1.4))
            painter.drawLines([QLineF(*end) for end in ends.tolist()])
