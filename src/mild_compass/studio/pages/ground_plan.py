"""The ground plan, to scale in metres, with the drawing that comes of it beside it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import atan2, cos, degrees, hypot, radians, sin
from typing import TYPE_CHECKING, Literal

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from mild_compass.craft.sheet_sizes.card import view_deg
from mild_compass.plan.edits.stage import change_thing
from mild_compass.plan.framing import picture_area
from mild_compass.plan.stage import Stage, row_of
from mild_compass.studio.board.marks import paint_word
from mild_compass.studio.board.still import Still
from mild_compass.studio.painting import polygon
from mild_compass.studio.widgets import Wrapped, plain_label

if TYPE_CHECKING:
    from PySide6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent, QWheelEvent

    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.stage import Thing
    from mild_compass.studio.pages.parts import Parts
    from mild_compass.studio.session import Session

PAPER, INK, RULE, ACCENT, EYE = "#fbfbf8", "#1c1c1c", "#d9d9d4", "#a2391f", "#26399e"
REACH_PX, KNOB_PX = 12.0, 34.0
CLOSEST, FARTHEST = 400.0, 0.5  # pixels to a metre
DRAWN_PX = 330
NEAREST_M = 0.3  # for the picture plane
Held = Literal["thing", "turn", "size", "eye", "heading", "paper"]


@dataclass(frozen=True, slots=True)
class Scale:
    """Widget point = (x, −y)·px per metre + shift: the plan's y runs up."""

    px: float
    dx: float
    dy: float

    def to_widget(self, points: np.ndarray) -> np.ndarray:
        """Plan points (n, 2) in metres to widget pixels."""
        return np.asarray(points, np.float64) * (self.px, -self.px) + (self.dx, self.dy)

    def from_widget(self, x: float, y: float) -> tuple[float, float]:
        """A place of the widget on the plan."""
        return (x - self.dx) / self.px, (self.dy - y) / self.px


UNTOLD_HALF_DEG = 30.0  # of the view, while nothing tells the lens


class GroundPlan(QWidget):
    """Plan and drawing side by side.

    ``taken`` tells which thing is taken in hand, ``pressed_empty`` where a thing is to be set down, ``removed`` that
    the one in hand is to go.
    """

    taken = Signal(str)
    pressed_empty = Signal(float, float)
    removed = Signal()

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        self.plan = _PlanView(parts, self)
        self.drawn = _Drawn(parts)
        self._words = Wrapped("")
        self._words.setProperty("soft", True)
        beside = QVBoxLayout()
        head = plain_label("As it is drawn")
        head.setProperty("head", True)
        for widget in (head, self.drawn, self._words):
            beside.addWidget(widget)
        beside.addStretch(1)
        beside.setContentsMargins(10, 10, 10, 10)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.plan, 1)
        layout.addLayout(beside)
        self._computed = parts.computed
        parts.computed.changed.connect(self.refresh)

    @property
    def settled(self) -> bool:
        """Whether what is seen is as it will stay."""
        return True

    def show_chosen(self, key: str) -> None:
        """Mark the thing in hand."""
        self.plan.chosen = key
        self.plan.update()

    @property
    def view_deg(self) -> float:
        """How wide the view is across the picture, by the lens that counts; 0 while nothing tells it."""
        study, worked = self._computed.plan.study, self._computed.perspective()
        if study is None or worked is None or worked.camera is None:
            return 0.0
        return view_deg(study.frame.width_px, worked.camera.focal.px)

    def fit(self) -> None:
        """Show everything."""
        self.plan.scale = None
        self.plan.update()

    def refresh(self) -> None:
        """Follow the plan while the page is seen."""
        study = self._computed.plan.study
        if not self.isVisible() or study is None:
            return
        eye, wide = study.perspective.eye_m, self.view_deg
        view = f"; the view is {wide:.0f}° wide" if wide else ""
        self._words.setText(f"Your eye is {eye:.2f} m above the ground{view}. Drag to move, wheel to zoom, F to see "
                            "all of it.")  # fmt: skip
        self.plan.update()
        self.drawn.fit_picture()
        self.drawn.update()

    def showEvent(self, event: object) -> None:
        self.refresh()


class _PlanView(QWidget):
    """The scene from above."""

    def __init__(self, parts: Parts, page: GroundPlan) -> None:
        super().__init__()
        self._session, self._computed, self._page = parts.session, parts.computed, page
        self.scale: Scale | None = None
        self.chosen = ""
        self._held: Held | None = None
        self._begun: tuple[float, float] = (0.0, 0.0)
        self._pressed: QPointF | None = None
        self._stage_before = Stage()
        self._edit: Edit | None = None
        self._still = Still()
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Ground plan")
        self.setMinimumWidth(240)
        parts.session.replaced.connect(self._forget)

    def _forget(self) -> None:
        self.scale = None

    @property
    def _stage(self) -> Stage:
        study = self._session.plan.study
        return (study.stage if study is not None else None) or Stage()

    def _thing(self) -> Thing | None:
        return next((each for each in self._stage.things if each.id == self.chosen), None)

    def _sight(self) -> Scale:
        """The scale in use; at first what shows everything. While the hand moves it stays."""
        if self.scale is None:
            self.scale = self._fitting()
        return self.scale

    def _fitting(self) -> Scale:
        from mild_compass.craft.stage.scene import footprints

        stage = self._stage
        points = [np.array([[stage.eye_x_m, stage.eye_y_m], [stage.eye_x_m, stage.eye_y_m + 4]])]
        points += [each for thing in stage.things for each in footprints(thing)]
        every = np.concatenate(points)
        (left, low), (right, high) = every.min(0), every.max(0)
        px = min((self.width() - 80) / max(right - left, 2.0), (self.height() - 80) / max(high - low, 2.0))
        px = min(max(px, FARTHEST), CLOSEST)
        return Scale(px, self.width() / 2 - px * (left + right) / 2, self.height() / 2 + px * (low + high) / 2)

    # -- painting ----------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(PAPER))
        scale = self._sight()
        self._paint_metres(painter, scale)
        self._paint_eye(painter, scale)
        things = self._stage.things
        lively = {self.chosen, *_in_hand(self._session)}
        still = tuple(thing for thing in things if thing.id not in lively)
        self._still.show(painter, self, (still, scale), lambda on: self._paint_things(on, scale, still))
        self._paint_things(painter, scale, tuple(thing for thing in things if thing.id in lively))
        self._paint_handles(painter, scale)
        if not self._stage.things:
            self._paint_first_words(painter)
        painter.end()

    def _paint_metres(self, painter: QPainter, scale: Scale) -> None:
        """Squares of a metre, five or more; the rule at the foot says how large."""
        step = next((each for each in (0.1, 0.5, 1.0, 5.0, 10.0, 50.0) if each * scale.px >= 24), 100.0)
        left, high = scale.from_widget(0, 0)
        right, low = scale.from_widget(self.width(), self.height())
        painter.setPen(QPen(QColor(RULE), 1))
        lines = []
        for k in range(int(left // step), int(right // step) + 1):
            x = scale.dx + k * step * scale.px
            lines.append(QLineF(x, 0, x, self.height()))
        for k in range(int(low // step), int(high // step) + 1):
            y = scale.dy - k * step * scale.px
            lines.append(QLineF(0, y, self.width(), y))
        painter.drawLines(lines)
        painter.setPen(QPen(QColor(INK), 2))
        foot = self.height() - 18.0
        painter.drawLine(QLineF(16, foot, 16 + step * scale.px, foot))
        paint_word(painter, f"{step:g} m", 18, foot - 5)

    def _paint_eye(self, painter: QPainter, scale: Scale) -> None:
        study, stage = self._session.plan.study, self._stage
        if study is None:
            return
        eye = scale.to_widget(np.array([[stage.eye_x_m, stage.eye_y_m]]))[0]
        half = self._page.view_deg / 2 or UNTOLD_HALF_DEG
        reach = float(np.hypot(self.width(), self.height()))
        wedge = QPainterPath(QPointF(*eye))
        for side in (-half, half):
            angle = radians(stage.heading_deg + side)
            wedge.lineTo(QPointF(eye[0] + reach * sin(angle), eye[1] - reach * cos(angle)))
        wedge.closeSubpath()
        painter.fillPath(wedge, QColor(38, 57, 158, 18))
        painter.setPen(QPen(QColor(EYE), 1.2, Qt.PenStyle.DashLine))
        painter.drawPath(wedge)
        self._paint_picture_plane(painter, scale, half)
        painter.setPen(QPen(QColor(EYE), 1.6))
        painter.setBrush(QColor(PAPER))
        painter.drawEllipse(QPointF(*eye), 8, 8)
        painter.setBrush(QColor(EYE))
        painter.drawEllipse(QPointF(*eye), 3, 3)
        painter.setBrush(QColor(PAPER))
        painter.drawEllipse(self._heading_knob(scale), 5, 5)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        paint_word(painter, "you", float(eye[0]) + 12, float(eye[1]) + 4)

    def _paint_picture_plane(self, painter: QPainter, scale: Scale, half_deg: float) -> None:
        """Through the nearest thing in view: what stands on it is drawn at the sheet's own scale."""
        from mild_compass.craft.stage.scene import footprints, from_eye

        stage = self._stage
        outlines = [each for thing in stage.things if not row_of(thing.kind).flat for each in footprints(thing)]
        if not outlines:
            return
        x, y = from_eye(stage, np.concatenate(outlines)).T
        ahead = y[(y > NEAREST_M) & (np.abs(x) < y * np.tan(radians(half_deg)))]
        if not len(ahead):
            return
        away = float(ahead.min())
        wide = away * np.tan(radians(half_deg))
        h = radians(stage.heading_deg)
        ends = [(stage.eye_x_m + cos(h) * x + sin(h) * away, stage.eye_y_m - sin(h) * x + cos(h) * away)
                for x in (-wide, wide)]  # fmt: skip
        a, b = scale.to_widget(np.array(ends))
        painter.setPen(QPen(QColor(EYE), 1.6))
        painter.drawLine(QPointF(*a), QPointF(*b))
        paint_word(
            painter, f"picture plane, {2 * wide:.1f} m wide", float(a[0] + b[0]) / 2 - 62, float(a[1] + b[1]) / 2 + 16
        )

    def _paint_things(self, painter: QPainter, scale: Scale, things: tuple[Thing, ...]) -> None:
        for thing in things:
            self._paint_thing(painter, scale, thing)

    def _paint_thing(self, painter: QPainter, scale: Scale, thing: Thing) -> None:
        from mild_compass.craft.stage.scene import footprints

        chosen = thing.id == self.chosen
        painter.setPen(QPen(QColor(ACCENT if chosen else INK), 2.0 if chosen else 1.2))
        grey = round(2.0 * thing.tone + 40)
        painter.setBrush(QColor(grey, grey, grey, 90 if row_of(thing.kind).flat else 190))
        outlines = footprints(thing)
        for outline in outlines:
            painter.drawPolygon(polygon(scale.to_widget(outline)))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        middle = scale.to_widget(outlines[0]).mean(0)
        large = float(np.ptp(scale.to_widget(outlines[0]), axis=0).max())
        if chosen or large > 26:
            paint_word(painter, thing.words.removeprefix("the "), float(middle[0]) + 6, float(middle[1]) - 6)

    def _paint_handles(self, painter: QPainter, scale: Scale) -> None:
        thing = self._thing()
        if thing is None:
            return
        painter.setPen(QPen(QColor(INK), 1.0))
        painter.setBrush(QColor(PAPER))
        knob, corner = self._turn_knob(scale, thing), self._corner(scale, thing)
        middle = QPointF(*scale.to_widget(np.array([[thing.x_m, thing.y_m]]))[0])
        painter.drawLine(middle, knob)
        painter.drawEllipse(knob, 5, 5)
        painter.drawRect(QRectF(corner.x() - 4, corner.y() - 4, 8, 8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self._held in ("thing", "turn", "size"):
            words = {
                "thing": f"{thing.x_m:.2f}, {thing.y_m:.2f} m",
                "turn": f"{thing.turn_deg:.0f}°",
                "size": f"{thing.width_m:.2f} × {thing.depth_m:.2f} m",
            }
            paint_word(painter, words[self._held], corner.x() + 10, corner.y() + 16)

    def _paint_first_words(self, painter: QPainter) -> None:
        font = painter.font()
        font.setPixelSize(14)
        painter.setFont(font)
        painter.setPen(QColor("#555555"))
        painter.drawText(
            self.rect().adjusted(40, 30, -40, 0),
            Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap,
            "The ground from above, you at the round mark. Choose what to set down, then click where it is to stand.",
        )

    # -- handles -----------------------------------------------------------------------------------------------

    def _heading_knob(self, scale: Scale) -> QPointF:
        stage = self._stage
        eye = scale.to_widget(np.array([[stage.eye_x_m, stage.eye_y_m]]))[0]
        h = radians(stage.heading_deg)
        return QPointF(eye[0] + KNOB_PX * sin(h), eye[1] - KNOB_PX * cos(h))

    def _turn_knob(self, scale: Scale, thing: Thing) -> QPointF:
        t = radians(thing.turn_deg)
        at = scale.to_widget(np.array([[thing.x_m, thing.y_m]]))[0]
        reach = min(thing.depth_m / 2 * scale.px, 200.0) + 22
        return QPointF(at[0] + reach * sin(t), at[1] - reach * cos(t))

    def _corner(self, scale: Scale, thing: Thing) -> QPointF:
        t = radians(thing.turn_deg)
        w, d = thing.width_m / 2, -thing.depth_m / 2
        place = (thing.x_m + cos(t) * w + sin(t) * d, thing.y_m - sin(t) * w + cos(t) * d)
        return QPointF(*scale.to_widget(np.array([place]))[0])

    # -- the hand ----------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        from mild_compass.craft.stage.scene import thing_at

        self.setFocus()
        scale, at = self._sight(), event.position()
        self._pressed, self._edit, self._stage_before = at, None, self._stage
        self._begun = scale.from_widget(at.x(), at.y())
        chosen = self._thing()
        eye = QPointF(*scale.to_widget(np.array([[self._stage.eye_x_m, self._stage.eye_y_m]]))[0])
        if chosen is not None and _near(at, self._turn_knob(scale, chosen)):
            self._held = "turn"
        elif chosen is not None and _near(at, self._corner(scale, chosen)):
            self._held = "size"
        elif _near(at, self._heading_knob(scale)):
            self._held = "heading"
        elif _near(at, eye):
            self._held = "eye"
        else:
            thing = thing_at(self._stage, *self._begun, 4 / scale.px)
            self._held = "paper" if thing is None else "thing"
            if thing is not None:
                self.chosen = thing.id
                self._page.taken.emit(thing.id)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None or self._held is None:
            return
        at, scale = event.position(), self._sight()
        if self._held == "paper":
            if self._moved_far(at):
                step = at - self._pressed
                self._pressed = at
                self.scale = Scale(scale.px, scale.dx + step.x(), scale.dy + step.y())
                self._begun = (float("nan"), 0.0)
                self.update()
            return
        self._edit = self._edit_for(scale.from_widget(at.x(), at.y()))
        if self._edit is not None:
            self._session.preview(self._edit)

    def _moved_far(self, at: QPointF) -> bool:
        assert self._pressed is not None
        return self._begun[0] != self._begun[0] or not _near(at, self._pressed, 5.0)

    def _stood(self, x_m: float, y_m: float, heading_deg: float) -> Edit | None:
        from mild_compass.craft.stage.standing import stood_at

        plan = self._session.committed
        return stood_at(plan.study, plan.ground(plan.study), x_m, y_m, heading_deg) if plan.study is not None else None

    def _edit_for(self, here: tuple[float, float]) -> Edit | None:
        stage = self._stage_before
        dx, dy = here[0] - self._begun[0], here[1] - self._begun[1]
        if self._held == "eye":
            return self._stood(round(stage.eye_x_m + dx, 2), round(stage.eye_y_m + dy, 2), stage.heading_deg)
        if self._held == "heading":
            way = degrees(atan2(here[0] - stage.eye_x_m, here[1] - stage.eye_y_m))
            return self._stood(stage.eye_x_m, stage.eye_y_m, round(way, 1))
        thing = next((each for each in stage.things if each.id == self.chosen), None)
        if thing is None:
            return None
        if self._held == "turn":
            return change_thing(thing.id, turn_deg=round(degrees(atan2(here[0] - thing.x_m, here[1] - thing.y_m))))
        if self._held == "size":
            t = radians(thing.turn_deg)
            off = (here[0] - thing.x_m, here[1] - thing.y_m)
            wide = 2 * abs(cos(t) * off[0] - sin(t) * off[1])
            deep = 2 * abs(sin(t) * off[0] + cos(t) * off[1])
            if row_of(thing.kind).round:
                wide = deep = 2 * hypot(*off) / 2**0.5
            return change_thing(thing.id, width_m=round(max(wide, 0.01), 2), depth_m=round(max(deep, 0.01), 2))
        return change_thing(thing.id, x_m=round(thing.x_m + dx, 2), y_m=round(thing.y_m + dy, 2))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        held, edit, pressed = self._held, self._edit, self._pressed
        self._held = self._edit = self._pressed = None
        if edit is not None and self._session.in_gesture:
            self._session.apply(edit)
        elif held == "paper" and pressed is not None and self._begun[0] == self._begun[0]:
            self._page.pressed_empty.emit(*self._begun)
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        scale, at = self._sight(), event.position()
        factor = 1.0015 ** event.angleDelta().y()
        px = min(max(scale.px * factor, FARTHEST), CLOSEST)
        factor = px / scale.px
        self.scale = Scale(px, at.x() - (at.x() - scale.dx) * factor, at.y() - (at.y() - scale.dy) * factor)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
        thing = self._thing()
        if event.key() == Qt.Key.Key_Escape and self._held is not None:
            self._held = self._edit = self._pressed = None
            self._session.cancel()
        elif event.key() == Qt.Key.Key_Delete:
            self._page.removed.emit()
        elif event.key() in steps and thing is not None:
            step = 1.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.1
            dx, dy = steps[Qt.Key(event.key())]
            self._session.apply(change_thing(thing.id, x_m=thing.x_m + dx * step, y_m=thing.y_m + dy * step))
        else:
            super().keyPressEvent(event)


class _Drawn(QWidget):
    """The drawing as it is now, in the picture's proportion; of what the hand moves all lines, seen or not."""

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        self._session, self._computed = parts.session, parts.computed
        self._still = Still()
        self.setFixedSize(DRAWN_PX, DRAWN_PX)
        self.setAccessibleName("The drawing")

    def fit_picture(self) -> None:
        """As tall as the picture is on its sheet."""
        plan, study = self._computed.plan, self._computed.plan.study
        if study is not None:
            _, _, width, height = picture_area(plan.paper, study.frame)
            scale = (DRAWN_PX - 2) / max(width, height)
            self.setFixedSize(round(width * scale) + 2, round(height * scale) + 2)

    def paintEvent(self, event: QPaintEvent) -> None:
        from mild_compass.craft.geometry.frame_map import FrameMap

        plan, study, worked = self._computed.plan, self._computed.plan.study, self._computed.perspective()
        if study is None or worked is None:
            return
        frame_map = FrameMap.of(study.frame, plan.paper)
        box = frame_map.box
        scale = (DRAWN_PX - 2) / max(box.width, box.height)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        sheet = QRectF(1, 1, box.width * scale, box.height * scale)
        painter.fillRect(sheet, QColor(PAPER))
        looks = self._computed.looks
        if looks is not None and not self._computed.in_gesture:
            image = looks.level("colour", scale)
            (x0, y0), (x1, y1) = frame_map.to_photo([[box.left, box.top], [box.right, box.bottom]]) * (
                image.width() / looks.picture.width_px
            )
            painter.drawImage(sheet, image, QRectF(x0, y0, x1 - x0, y1 - y0))
        painter.setClipRect(sheet)
        painter.setPen(QPen(QColor(INK), 1.0))
        shift = np.array([1 - box.left * scale, 1 - box.top * scale])
        self._paint_lines(painter, frame_map, scale, shift)
        if worked.horizon is not None:
            painter.setPen(QPen(QColor(EYE), 1.0))
            painter.drawPolyline(polygon(worked.horizon.through(frame_map) * scale + shift))
        painter.setClipping(False)
        painter.setPen(QPen(QColor(INK), 1.0))
        painter.drawRect(sheet)
        painter.end()

    def _paint_lines(self, painter: QPainter, frame_map: FrameMap, scale: float, shift: np.ndarray) -> None:
        plan, study, worked = self._computed.plan, self._computed.plan.study, self._computed.perspective()
        if study is None or study.stage is None or worked is None or worked.camera is None:
            return
        stage, committed = study.stage, self._session.committed.study
        before = committed.stage if committed is not None else None
        same_eye = before is not None and _eye_of(before) == _eye_of(stage)
        held = _in_hand(self._session)
        if not self._computed.in_gesture or same_eye:
            scene, ids = self._computed.scene.things, tuple(thing.id for thing in stage.things)
            lines = [line for key, each in zip(ids, scene, strict=False) if key not in held for line in each.seen]
            key = (scene, ids, held, study.frame, plan.paper)
            self._still.show(painter, self, key, lambda on: _draw_lines(on, lines, frame_map, scale, shift))
        if self._computed.in_gesture:
            from mild_compass.craft.stage.staged import quick_lines

            shown = (
                replace(stage, things=tuple(each for each in stage.things if each.id in held)) if same_eye else stage
            )
            ends = quick_lines(shown, worked.camera).reshape(-1, 2)
            segments = (frame_map.to_sheet(ends) * scale + shift).reshape(-1, 4)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
            painter.drawLines([QLineF(*each) for each in segments.tolist()])


def _draw_lines(
    painter: QPainter, lines: list[np.ndarray], frame_map: FrameMap, scale: float, shift: np.ndarray
) -> None:
    """Lines of the picture on the small sheet; all are brought onto it at once."""
    if not lines:
        return
    painter.setPen(QPen(QColor(INK), 1.0))
    spots = frame_map.to_sheet(np.concatenate(lines)) * scale + shift
    for line in np.split(spots, np.cumsum([len(line) for line in lines])[:-1]):
        painter.drawPolyline(polygon(line))


def _in_hand(session: Session) -> frozenset[str]:
    """The marks of the things that the gesture in hand changes."""
    now, before = session.plan.study, session.committed.study
    if now is None or now.stage is None or now is before:
        return frozenset()
    known = {thing.id: thing for thing in (before.stage.things if before is not None and before.stage else ())}
    return frozenset(thing.id for thing in now.stage.things if known.get(thing.id) is not thing)


def _eye_of(stage: Stage) -> tuple[float, float, float]:
    return stage.eye_x_m, stage.eye_y_m, stage.heading_deg


def _near(a: QPointF, b: QPointF, reach: float = REACH_PX) -> bool:
    return hypot(a.x() - b.x(), a.y() - b.y()) <= reach
