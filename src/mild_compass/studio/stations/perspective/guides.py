"""Guides: figures at true scale, rows, boxes, circles, floors, on the ground; they follow the horizon."""

from __future__ import annotations

from dataclasses import replace
from itertools import starmap
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QLineF, Qt

from mild_compass.craft.perspective.guide_lines import lines_of_guides, quick_lines, third_post
from mild_compass.craft.perspective.things import THING_WORDS, USUAL_M
from mild_compass.plan.edits.perspective import add_guide, change_guide, next_guide_id, remove_guide
from mild_compass.plan.errors import PlanError
from mild_compass.plan.guides import Guide, GuideKind, Thing
from mild_compass.studio.board.board import handle, near
from mild_compass.studio.board.marks import paint_word
from mild_compass.studio.board.strokes import cased_line, casing, pen
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Names, Sentence, Tick, button, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.craft.drawing import Dash
    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.pictures import Point
    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint

KINDS: list[tuple[str, GuideKind]] = [
    ("a figure or thing", "figure"),
    ("a row of posts", "row"),
    ("a height carried along", "level line"),
    ("a rectangle carried along", "rectangle"),
    ("a length parted", "division"),
    ("a box or house", "box"),
    ("a circle or tub", "circle"),
    ("an arch", "arch"),
    ("a floor of squares", "floor"),
]
HOW: dict[GuideKind, str] = {
    "figure": "Click where its feet stand.",
    "row": "Drag from the foot of the first post to the foot of the second.",
    "level line": "Drag along something upright, foot to top; then drag the loose handle to where it is to be carried.",
    "rectangle": "Drag a rectangle round a thing; then drag the loose handle to where it is to be carried.",
    "division": "Drag along the ground from one end to the other.",
    "box": "Click its nearest corner.",
    "circle": "Click its middle on the ground.",
    "arch": "Click the middle between its feet.",
    "floor": "Click where the floor begins.",
}
DRAGGED: tuple[GuideKind, ...] = ("row", "level line", "rectangle", "division")
CARRIED: tuple[GuideKind, ...] = ("level line", "rectangle")
# Which measures a kind has, by the names of the fields.
MEASURES: dict[GuideKind, tuple[str, ...]] = {
    "figure": ("height_m",),
    "row": ("count", "spacing_m", "height_m"),
    "level line": (),
    "rectangle": (),
    "division": ("count", "height_m"),
    "box": ("width_m", "depth_m", "height_m", "turn_deg", "rise_m"),
    "circle": ("width_m", "height_m"),
    "arch": ("width_m", "height_m", "turn_deg"),
    "floor": ("width_m", "count", "turn_deg"),
}
USUAL: dict[GuideKind, dict[str, float]] = {
    "row": {"height_m": 1.0, "count": 6},
    "division": {"height_m": 0.5, "count": 2},
    "box": {"width_m": 4.0, "depth_m": 6.0, "height_m": 3.0, "turn_deg": 30.0},
    "circle": {"width_m": 1.0, "height_m": 0.8},
    "arch": {"width_m": 1.2, "height_m": 2.0},
    "floor": {"width_m": 1.0, "count": 8},
}


def paint_guides(painter: QPainter, desk: Desk, photo: PhotoSight, chosen: str = "") -> None:
    """All guides on the photo, the chosen one strong."""
    worked = desk.computed.perspective()
    if worked is None:
        return
    if desk.computed.in_gesture:  # shadows, smooth edges, casings and words come back when the hand rests
        segments = quick_lines(desk.study.perspective, worked.horizon, worked.camera)
        painter.setRenderHint(painter.RenderHint.Antialiasing, False)
        painter.setPen(pen("perspective", 1.0))
        painter.drawLines(_as_lines(photo.to_widget(segments.reshape(-1, 2)).reshape(-1, 4)))
        painter.setRenderHint(painter.RenderHint.Antialiasing)
        return
    found = lines_of_guides(desk.study.perspective, worked.horizon, worked.camera)
    rest = [each for each in found if each.guide.id != chosen]
    _paint_lines(painter, photo, [line for each in rest for line in each.lines], 1.0)
    _paint_lines(painter, photo, [line for each in found for line in each.shadow], 1.0, "dotted")
    _paint_lines(painter, photo, [line for each in found for line in each.reflection], 1.0, "dashed")
    _paint_lines(painter, photo, [line for each in found if each.guide.id == chosen for line in each.lines], 2.0)
    for each in found:
        if each.lines and each.words:
            points = photo.to_widget(each.lines[0])
            top = points[points[:, 1].argmin()]
            paint_word(painter, each.words, float(top[0]) + 4, float(top[1]) - 5)


def _paint_lines(
    painter: QPainter,
    photo: PhotoSight,
    lines: list[np.ndarray],
    width: float,
    dash: Dash = "solid",
) -> None:
    """Many polylines at once, casing and ink: drawn one by one they could not follow the hand."""
    if not lines:
        return
    points = photo.to_widget(np.concatenate(lines))
    last = np.zeros(len(points), bool)
    last[np.cumsum([len(line) for line in lines]) - 1] = True
    starts = np.flatnonzero(~last)
    segments = _as_lines(np.concatenate([points[starts], points[starts + 1]], 1))
    for brush in (casing(width), pen("perspective", width, dash)):
        painter.setPen(brush)
        painter.drawLines(segments)


def _as_lines(segments: np.ndarray) -> list[QLineF]:
    """Segments (n, 4) in widget coordinates for the painter."""
    return list(starmap(QLineF, segments.tolist()))


class GuidesInstrument(Instrument):
    """Places guides on the ground, changes their measures, moves them by their handles."""

    name = "guides"
    words = "Guides"
    icon = "figure"
    tells = ("guide", "gaps", "heads")
    hint = "Figures and things at their true size, wherever they stand. All guides follow the horizon."
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._chosen = ""
        self._held: tuple[str, int] | None = None
        self._from: BoardPoint | None = None
        self._at: BoardPoint | None = None

    # -- options ----------------------------------------------------------------------------------------------

    def options(self) -> QWidget:
        self._kind = Choice(KINDS, "Kind of guide")
        self._kind.chosen.connect(lambda _: self.refresh())
        self._how = soft("")
        self._list = Names("Guides", 4)
        self._list.chosen.connect(self._choose_row)
        self._name = Sentence("Name of the guide")
        self._name.chosen.connect(lambda name: self._change(name=name[:40]))
        self._thing = Choice([(THING_WORDS[thing].capitalize(), thing) for thing in USUAL_M], "What it is")
        self._thing.chosen.connect(self._take_thing)
        self._measures = {
            "width_m": number_entry("Width in the scene", "m"),
            "depth_m": number_entry("Depth in the scene", "m"),
            "height_m": number_entry("Height in the scene", "m"),
            "count": number_entry("How many", ""),
            "spacing_m": number_entry("Distance between posts on the ground; 0 for as they were given", "m"),
            "turn_deg": number_entry("Turned off the picture plane", "°"),
            "rise_m": number_entry("The ridge over the eaves", "m"),
        }
        for field, entry in self._measures.items():
            entry.chosen.connect(lambda value, field=field: self._measure(field, value))
        self._third = Tick("The third is given too")
        self._third.chosen.connect(self._give_third)
        self._gable = Tick("With a gable")
        self._gable.chosen.connect(lambda on: self._change(gable=on))
        self._shadow, self._mirrored, self._shown = Tick("Shadow"), Tick("Mirrored in the water"), Tick("Shown")
        self._shadow.chosen.connect(lambda on: self._change(shadow=on))
        self._mirrored.chosen.connect(lambda on: self._change(reflected=on))
        self._shown.chosen.connect(lambda on: self._change(shown=on))
        self._remove = button("Remove this guide", self.delete)
        words = {"width_m": "Wide", "depth_m": "Deep", "height_m": "Tall", "count": "Number", "turn_deg": "Turned"}
        words |= {"spacing_m": "Every", "rise_m": "Ridge"}
        self._of_chosen = form(
            ("It is", self._name),
            ("Thing", self._thing),
            *((words[field], entry) for field, entry in self._measures.items()),
            self._third,
            self._gable,
            (self._shadow, self._shown),
            self._mirrored,
            self._remove,
        )
        return form(("Place", self._kind), self._how, rule(), self._list, self._of_chosen)

    def refresh(self) -> None:
        guides = self.desk.study.perspective.guides
        if self._chosen not in [guide.id for guide in guides]:
            self._chosen = guides[-1].id if guides else ""
        worked = self.desk.computed.perspective()
        ready = worked is not None and worked.camera is not None
        self._how.setText(HOW[self._kind.value] if ready else "Guides need a horizon first: trace edges, or set it.")
        row = next((k for k, guide in enumerate(guides) if guide.id == self._chosen), -1)
        self._list.show_names([guide.name or f"{guide.kind} {k + 1}" for k, guide in enumerate(guides)], row)
        self._list.setVisible(bool(guides))
        self._of_chosen.setVisible(bool(guides))
        chosen = self._guide
        if chosen is not None:
            self._show(chosen)

    def _show(self, guide: Guide) -> None:
        layout = self._of_chosen.layout()
        self._name.show_value(guide.name)
        self._thing.show_value(guide.thing)
        layout.setRowVisible(self._thing, guide.kind == "figure")  # type: ignore[union-attr]
        for field, entry in self._measures.items():
            entry.show_value(round(float(getattr(guide, field)), 2))
            asked = field in MEASURES[guide.kind] and (field != "rise_m" or guide.gable)
            layout.setRowVisible(entry, asked)  # type: ignore[union-attr]
        self._third.setVisible(guide.kind == "row" and not guide.spacing_m)
        self._third.show_value(len(guide.points) > 2)
        self._gable.setVisible(guide.kind == "box")
        self._gable.show_value(guide.gable)
        self._shadow.show_value(guide.shadow)
        self._mirrored.show_value(guide.reflected)
        self._mirrored.setEnabled(self.desk.study.perspective.water_m is not None)
        self._shown.show_value(guide.shown)

    @property
    def _guide(self) -> Guide | None:
        return next((each for each in self.desk.study.perspective.guides if each.id == self._chosen), None)

    def _choose_row(self, row: int) -> None:
        guides = self.desk.study.perspective.guides
        if 0 <= row < len(guides):
            self._chosen = guides[row].id
            self.refresh()
            self.desk.board.update()

    def _change(self, **changes: object) -> None:
        if self._guide is not None:
            self.commit(change_guide(replace(self._guide, **changes)))  # type: ignore[arg-type]

    def _measure(self, field: str, value: float) -> None:
        try:
            self._change(**{field: round(value) if field == "count" else value})
        except PlanError as error:
            self._measures[field].refuse(f"{error} It stays as it was.")

    def _give_third(self, on: bool) -> None:
        """A handle for the third post, where it would come by the first two; from then on the three decide."""
        guide, worked = self._guide, self.desk.computed.perspective()
        if guide is None or worked is None or worked.horizon is None:
            return
        points = guide.points[:2]
        if on:
            third = third_post(guide, worked.horizon)
            if third is None:
                self.desk.say("A third post would stand behind you there. The row stays as it was.")
                self.refresh()
                return
            points = (*points, third)
        self._change(points=points)

    def _take_thing(self, thing: Thing) -> None:
        self._change(thing=thing, height_m=USUAL_M[thing])

    # -- on the board -----------------------------------------------------------------------------------------

    def _handles(self, guide: Guide) -> list[tuple[float, float]]:
        """Its points; where it can still be carried, a loose handle beside its foot."""
        points = list(guide.points)
        if guide.kind in CARRIED and len(points) == 2:
            (x0, y0), (x1, y1) = points
            points.append(((x0 + x1) / 2 + 60, max(y0, y1)))
        return points

    def press(self, at: BoardPoint) -> bool:
        self._from = self._at = at
        self._held = None
        for guide in self.desk.study.perspective.guides:
            for index, point in enumerate(self._handles(guide)):
                if guide.shown and near(at.photo_px, point, at.reach_px):
                    self._held, self._chosen = (guide.id, index), guide.id
        if self._held is not None:
            self.refresh()
        return True

    def drag(self, at: BoardPoint) -> None:
        self._at = at
        edit = self._moved(at)
        if edit is not None:
            self.desk.session.preview(edit)

    def _moved(self, at: BoardPoint) -> Edit | None:
        guide = self._guide
        if self._held is None or guide is None:
            return None
        index = self._held[1]
        points = list(guide.points)
        if index < len(points):
            points[index] = at.photo_px
        else:
            points.append(at.photo_px)
        try:
            return change_guide(replace(guide, points=tuple(points)))
        except PlanError:
            return None

    def release(self, at: BoardPoint) -> None:
        start, held = self._from, self._held
        edit = self._moved(at)
        self._from = self._at = self._held = None
        assert start is not None
        if held is not None:
            if edit is not None and self.desk.session.in_gesture:
                self.commit(edit)
            return
        self._place(start, at)

    def _place(self, start: BoardPoint, at: BoardPoint) -> None:
        kind: GuideKind = self._kind.value
        clicked = near(start.widget, at.widget, 6)
        if clicked and kind in DRAGGED:
            self.desk.say(HOW[kind])
            return
        points: tuple[Point, ...] = (start.photo_px, at.photo_px) if kind in DRAGGED else (at.photo_px,)
        if kind == "level line":  # the foot first, whichever way it was drawn
            points = tuple(sorted(points, key=lambda point: -point[1]))
        usual = USUAL.get(kind, {})
        thing: Thing = self._thing.value if kind == "figure" and self._thing.value else "man"
        height = USUAL_M[thing] if kind == "figure" else usual.get("height_m", 1.0)
        try:
            guide = Guide(
                next_guide_id(self.desk.plan),
                kind,
                points,
                thing=thing if kind == "figure" else "own",
                height_m=height,
                width_m=usual.get("width_m", 1.0),
                depth_m=usual.get("depth_m", 1.0),
                count=int(usual.get("count", 6)),
                turn_deg=usual.get("turn_deg", 0.0),
            )
        except PlanError as error:
            self.desk.say(str(error))
            return
        if self.commit(add_guide(guide)):
            self._chosen = guide.id
            self.refresh()

    def cancel(self) -> None:
        self._from = self._at = self._held = None
        super().cancel()

    def delete(self) -> None:
        if self._guide is not None:
            self.commit(remove_guide(self._chosen))

    def nudge(self, dx_mm: float, dy_mm: float) -> None:
        guide = self._guide
        if guide is not None:
            dx, dy = self.desk.on_photo(dx_mm, dy_mm)
            self._change(points=tuple((x + dx, y + dy) for x, y in guide.points))

    def tag(self) -> str | None:
        worked = self.desk.computed.perspective()
        if self._at is None or worked is None or worked.camera is None:
            return None
        foot = worked.camera.on_ground([self._at.photo_px])[0]
        return f"{foot[1]:.1f} m away" if foot[1] == foot[1] else "above the horizon"

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        paint_guides(painter, self.desk, photo, self._chosen)
        guide = self._guide
        if guide is not None and guide.shown:
            for x, y in photo.to_widget(self._handles(guide)).tolist() if guide.points else []:
                handle(painter, x, y)
        if self._from is not None and self._at is not None and self._held is None:
            if self._kind.value == "rectangle":
                (x0, y0), (x1, y1) = self._from.photo_px, self._at.photo_px
                corners = [(x0, y0), (x1, y0), (x1, y1), (x0, y1), (x0, y0)]
            else:
                corners = [self._from.photo_px, self._at.photo_px]
            cased_line(painter, photo.to_widget(corners), pen("perspective", 1.6))
