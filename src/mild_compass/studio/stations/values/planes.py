"""Planes: which way the strokes run on each, as a reminder in light hatching."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from shapely import contains_xy

from mild_compass.craft.values.planes import area_of, outline_of_shape
from mild_compass.plan.edits.values import next_value_id, remove_plane, set_plane
from mild_compass.plan.errors import PlanError
from mild_compass.plan.tones import Plane, StrokeWay
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.outlining import OutliningInstrument, Points, points_of
from mild_compass.studio.widgets import Choice, Names, Sentence, Tick, button, form, number_entry, rule

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint

WAYS: list[tuple[str, tuple[StrokeWay, str]]] = [
    ("at an angle", ("angle", "")),
    ("level", ("level", "")),
    ("upright", ("upright", "")),
    ("along the plane", ("along", "")),
]
NAMES = ("top", "side", "falling away")
FINDING = "The shapes are still being found. Try again in a moment, or draw round a plane."


class PlanesInstrument(OutliningInstrument):
    """Points at a shape, or draws round a plane, and says which way its strokes run; the hatching may be printed."""

    name = "planes"
    words = "Planes"
    icon = "planes"
    fill = "colour"
    layers = ("planes", "frame")
    hint = "Click a shape, or draw round a plane: the top, a side. Strokes that follow it make it turn."

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._chosen = ""

    def options(self) -> QWidget:
        self._way = Choice(WAYS, "Strokes run")
        self._way.chosen.connect(self._choose_way)
        self._angle = number_entry("Angle of the strokes, up from level", "°")
        self._angle.chosen.connect(lambda angle: self._change(self._angle, way="angle", angle_deg=angle))
        self._name = Sentence("Name of the plane")
        self._name.chosen.connect(lambda name: self._change(self._name, name=name))
        self._printed = Tick("On the sheet")
        self._printed.chosen.connect(lambda on: self._change(None, printed=on))
        self._list = Names("Planes", 5)
        self._list.chosen.connect(self._choose_row)
        self._remove = button("Remove the plane", self.delete)
        return form(
            self._list,
            rule(),
            ("Strokes run", self._way),
            ("Angle", self._angle),
            ("Name", self._name),
            self._printed,
            self._remove,
        )

    @property
    def _plane(self) -> Plane | None:
        return next((each for each in self.desk.study.values.planes if each.id == self._chosen), None)

    def refresh(self) -> None:
        planes = self.desk.study.values.planes
        if self._plane is None:
            self._chosen = planes[-1].id if planes else ""
        letters = [each.letter for each in self.desk.study.perspective.sets]
        ways = [*WAYS, *((f"to point {letter}", ("to a point", letter)) for letter in letters)]
        if [self._way.itemText(k) for k in range(self._way.count())] != [words for words, _ in ways]:
            self._way.set_items(ways)
        rows = [f"{k}  {each.name or 'a plane'}, {_words(each)}" for k, each in enumerate(planes, 1)]
        self._list.show_names(rows, next((k for k, each in enumerate(planes) if each.id == self._chosen), -1))
        self._list.setVisible(bool(rows))
        chosen = self._plane
        for control in (self._name, self._printed, self._remove):
            control.setEnabled(chosen is not None)
        self._angle.setEnabled(chosen is not None and chosen.way == "angle")
        if chosen is not None:
            self._way.show_value((chosen.way, chosen.letter if chosen.way == "to a point" else ""))
            self._angle.show_value(round(chosen.angle_deg, 1))
            self._name.show_value(chosen.name)
            self._printed.show_value(chosen.printed)

    def _choose_row(self, row: int) -> None:
        planes = self.desk.study.values.planes
        if 0 <= row < len(planes):
            self._chosen = planes[row].id
            self.refresh()
            self.desk.board.update()

    def _choose_way(self, way: tuple[StrokeWay, str]) -> None:
        if self._plane is not None:
            self._change(None, way=way[0], letter=way[1])

    def _change(self, entry: object, **changes: object) -> None:
        plane = self._plane
        if plane is None:
            return
        try:
            self.commit(set_plane(replace(plane, **changes)))  # type: ignore[arg-type]
        except PlanError as error:
            if entry is None:
                self.desk.say(str(error))
            else:
                entry.refuse(f"{error} It stays as it was.")  # type: ignore[attr-defined]

    def drawn(self, trail: list[BoardPoint]) -> None:
        self._mark(points_of(trail))

    def _mark(self, points: Points) -> None:
        chosen: tuple[StrokeWay, str] = self._way.value or ("angle", "")
        way, letter = chosen
        count = len(self.desk.study.values.planes)
        name = NAMES[count] if count < len(NAMES) else ""
        try:
            plane = Plane(next_value_id(self.desk.plan, "plane"), points, way, 45.0, letter, name)
        except PlanError as error:
            self.desk.say(str(error))
            return
        if self.commit(set_plane(plane)):
            self._chosen = plane.id
            self.refresh()

    def clicked(self, at: BoardPoint) -> None:
        """A click takes up the plane under it, or makes one of the shape that is there."""
        for each in reversed(self.desk.study.values.planes):
            if contains_xy(area_of(each.points), *at.photo_px):
                self._chosen = each.id
                self.refresh()
                return
        masses = self.desk.computed.masses if self.desk.computed.masses_current else None
        if masses is None:
            self.desk.say(FINDING)
            return
        outline = outline_of_shape(masses, self.desk.frame_map.to_sheet(at.photo_px), self.desk.frame_map)
        if outline is None:
            self.desk.say("That is outside the picture. Point at a shape inside it, or draw round a plane.")
        else:
            self._mark(outline)

    def delete(self) -> None:
        if self._chosen:
            self.commit(remove_plane(self._chosen))

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        for each in self.desk.study.values.planes:
            self.paint_outline(painter, photo, each.points, each.id == self._chosen, "dashed")
        self.paint_trail(painter, photo)


def _words(plane: Plane) -> str:
    return {
        "angle": f"{plane.angle_deg:.0f}°",
        "level": "level",
        "upright": "upright",
        "along": "along it",
        "to a point": f"to {plane.letter}",
    }[plane.way]
