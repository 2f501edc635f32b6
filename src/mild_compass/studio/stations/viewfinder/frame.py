"""The viewfinder itself: moved, sized, turned, flipped; its proportion; its threads."""

from __future__ import annotations

from math import atan2, degrees
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, Qt

from mild_compass.craft.sheet_sizes.lengths import format_length
from mild_compass.craft.viewfinder.moves import (
    Handle,
    flipped,
    handle_points,
    moved,
    resized,
    scaled_about_centre,
    turned_to,
    with_proportion,
)
from mild_compass.craft.viewfinder.readings import share_kept
from mild_compass.craft.viewfinder.threads import THREADS
from mild_compass.plan.edits.viewfinder import choose_threads, move_frame
from mild_compass.plan.framing import is_beyond, largest_frame, on_photo, stretch_of, widest_px
from mild_compass.plan.pictures import Ground
from mild_compass.plan.study import TURN_DEG, Frame, Proportion, Thread
from mild_compass.studio.board.board import handle, near
from mild_compass.studio.board.marks import paint_wishes
from mild_compass.studio.board.strokes import casing, pen
from mild_compass.studio.board.tool import BoardPoint
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Tick, button, form, number_entry, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.board.sight import PhotoSight, Sight

DOWN, UP = Qt.CursorShape.SizeFDiagCursor, Qt.CursorShape.SizeBDiagCursor
CURSORS: dict[Handle, Qt.CursorShape] = {
    "top left": DOWN,
    "bottom right": DOWN,
    "top right": UP,
    "bottom left": UP,
    "top": Qt.CursorShape.SizeVerCursor,
    "bottom": Qt.CursorShape.SizeVerCursor,
    "left": Qt.CursorShape.SizeHorCursor,
    "right": Qt.CursorShape.SizeHorCursor,
}
PROPORTIONS: list[tuple[str, Proportion]] = [
    ("the sheet's", "locked"),
    ("free", "free"),
    ("stretched", "stretched"),
]
KNOB_PX = 30.0  # how far above the frame the handle for turning sits


class FrameInstrument(Instrument):
    """Moves the viewfinder, sizes it by its handles, turns it by its knob."""

    name = "frame"
    words = "Viewfinder"
    icon = "frame"
    tells = ("placement", "lead", "edge", "tangent", "cut", "touch", "share_kept", "horizon")
    hint = "Drag the opening over the photo, or its handles to take in more or less; the round knob turns the photo."
    cursor = Qt.CursorShape.ArrowCursor

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._held: Handle | None = None
        self._turning = False
        self._from: BoardPoint | None = None
        self._start: Frame | None = None
        self._hub = (0.0, 0.0)
        self._beyond = False

    def options(self) -> QWidget:
        self._kept = number_entry("Share of the photo's widest frame", "%")
        self._kept.chosen.connect(self._set_share)
        self._proportion = Choice(PROPORTIONS, "Proportion of the viewfinder")
        self._proportion.chosen.connect(self._set_proportion)
        self._proportion_words = soft("")
        self._turn = number_entry("Turn of the viewfinder in degrees, clockwise", "°")
        self._turn.chosen.connect(self._set_turn)
        self._level = button("Level the horizon", self._level_horizon, tip="Turn until the horizon found is level")
        self._flip = Tick("Left and right changed over")
        self._flip.chosen.connect(lambda _: self._send(flipped(self.desk.study.frame)))
        self._reach = Tick("May reach beyond the photo")
        self._reach.chosen.connect(self._set_beyond)
        self._threads = {name: Tick(name.capitalize()) for name in THREADS}
        for name, tick in self._threads.items():
            tick.chosen.connect(lambda on, name=name: self._thread(name, on))
        whole = button("Take in all of it", self._widest, tip="The largest frame of this proportion on the photo")
        return form(
            ("Of the widest", self._kept),
            whole,
            ("Proportion", self._proportion),
            self._proportion_words,
            ("Turned", self._turn),
            self._level,
            self._flip,
            self._reach,
            soft("Threads"),
            *self._threads.values(),
        )

    def refresh(self) -> None:
        frame = self.desk.study.frame
        self._kept.show_value(round(100 * frame.width_px / self._widest_px(), 1))
        self._proportion.show_value(frame.proportion)
        self._proportion_words.setText(self._say_proportion())
        self._turn.show_value(round(frame.turn_deg, 2))
        self._level.setEnabled(self._tilt() is not None)
        self._flip.show_value(frame.flipped)
        self._beyond = self._beyond or is_beyond(frame, self._photo)
        self._reach.show_value(self._beyond)
        for name, tick in self._threads.items():
            tick.show_value(name in self.desk.study.threads)

    def _say_proportion(self) -> str:
        frame, paper = self.desk.study.frame, self.desk.plan.paper
        ratio = frame.width_px / frame.height_px
        if frame.proportion == "free":
            return f"1 : {1 / ratio:.3f}, laid as large as it goes on the sheet."
        stretch = stretch_of(frame, paper)
        if frame.proportion == "stretched":
            return f"Drawn {100 * abs(stretch):.1f} % {'wider' if stretch > 0 else 'narrower'}; at most 10 %."
        return f"1 : {1 / ratio:.3f}, as the picture area."

    # -- what the options do ----------------------------------------------------------------------------------

    @property
    def _photo(self) -> Ground:
        return self.desk.ground

    def _widest_px(self) -> float:
        frame = self.desk.study.frame
        return widest_px(self._photo, frame.width_px / frame.height_px)

    def _send(self, frame: Frame) -> None:
        self.commit(move_frame(frame))

    def _set_share(self, percent: float) -> None:
        most = 400 if self._beyond else 100
        if not 5 <= percent <= most:
            self._kept.refuse(f"Between 5 and {most} %. The viewfinder stays as it was.")
            return
        width = self._widest_px() * percent / 100
        self._send(scaled_about_centre(self.desk.study.frame, width, self._photo, self.desk.plan.paper, self._beyond))

    def _set_proportion(self, proportion: Proportion) -> None:
        self._send(with_proportion(self.desk.study.frame, proportion, self._photo, self.desk.plan.paper))

    def _set_turn(self, angle: float) -> None:
        if abs(angle) > TURN_DEG:
            self._turn.refuse(f"Between −{TURN_DEG:g} and {TURN_DEG:g}°. The viewfinder stays as it was.")
            return
        self._send(turned_to(self.desk.study.frame, angle, self._photo, self._beyond))

    def _tilt(self) -> float | None:
        """How far the horizon found is off level in the photo, where it can be levelled by turning."""
        worked = self.desk.computed.perspective()
        if worked is None or worked.horizon is None or worked.horizon.source != "points":
            return None
        tilt = worked.horizon.tilt_deg
        return tilt if abs(tilt) <= TURN_DEG and abs(tilt - self.desk.study.frame.turn_deg) > 0.005 else None

    def _level_horizon(self) -> None:
        tilt = self._tilt()
        if tilt is not None:
            self._set_turn(tilt)

    def _set_beyond(self, on: bool) -> None:
        self._beyond = on
        if not on and is_beyond(self.desk.study.frame, self._photo):
            self._send(on_photo(self.desk.study.frame, self._photo))

    def _widest(self) -> None:
        self._beyond = False
        self._send(largest_frame(self._photo, self.desk.plan.paper))

    def _thread(self, name: Thread, on: bool) -> None:
        rest = tuple(each for each in self.desk.study.threads if each != name)
        self.commit(choose_threads((*rest, name) if on else rest))

    # -- on the board -----------------------------------------------------------------------------------------

    def _handle_at(self, at: BoardPoint) -> Handle | None:
        for name, point in handle_points(self.desk.study.frame).items():
            if near(at.photo_px, point, at.reach_px):
                return name
        return None

    def _knob(self) -> tuple[float, float] | None:
        """Where the knob for turning sits on the board."""
        sheet = self.desk.board.sheet_sight()
        if sheet is None or self.desk.board.mode != "photo":
            return None
        box = self.desk.frame_map.box
        x, y = sheet.to_widget(((box.left + box.right) / 2, box.top)).tolist()
        return x, max(y - KNOB_PX, 12.0)

    def _at_knob(self, at: BoardPoint) -> bool:
        knob = self._knob()
        return knob is not None and near(at.widget, knob, 12.0)

    def _inside(self, at: BoardPoint) -> bool:
        across, down = self.desk.frame_map.to_share(at.photo_px).tolist()
        return bool(0 <= across <= 1 and 0 <= down <= 1)

    def press(self, at: BoardPoint) -> bool:
        self._turning = self._at_knob(at)
        self._held = None if self._turning else self._handle_at(at)
        if not self._turning and self._held is None and not self._inside(at):
            return False
        self._from, self._start = at, self.desk.study.frame
        photo = self.desk.board.photo_sight()
        assert photo is not None
        x, y = photo.to_widget(self._start.middle).tolist()
        self._hub = (x, y)
        return True

    def drag(self, at: BoardPoint) -> None:
        self.desk.session.preview(move_frame(self._frame_for(at)))
        if self._turning:
            self._keep_hub()

    def release(self, at: BoardPoint) -> None:
        frame = self._frame_for(at)
        self._from = None
        self._send(frame)
        if self._turning:
            self._turning = False
            self.desk.board.fit()

    def cancel(self) -> None:
        self._from, self._turning = None, False
        super().cancel()

    def _keep_hub(self) -> None:
        """The photo turns under the viewfinder, whose middle stays where it is on the board."""
        board = self.desk.board
        photo = board.photo_sight()
        assert photo is not None
        x, y = photo.to_widget(self.desk.study.frame.middle).tolist()
        board.set_sight(board.sight.panned(self._hub[0] - x, self._hub[1] - y))

    def _frame_for(self, at: BoardPoint) -> Frame:
        assert self._from is not None
        assert self._start is not None
        if self._turning:
            return turned_to(self._start, self._angle_for(at), self._photo, self._beyond)
        if self._held is not None:
            return resized(self._start, self._held, *at.photo_px, self._photo, self.desk.plan.paper, self._beyond)
        dx = at.photo_px[0] - self._from.photo_px[0]
        dy = at.photo_px[1] - self._from.photo_px[1]
        return moved(self._start, dx, dy, self._photo, self._beyond)

    def _angle_for(self, at: BoardPoint) -> float:
        """The photo follows the hand round the middle of the viewfinder; with Shift in whole degrees."""
        assert self._from is not None
        assert self._start is not None
        hub_x, hub_y = self._hub
        before = atan2(self._from.widget[1] - hub_y, self._from.widget[0] - hub_x)
        after = atan2(at.widget[1] - hub_y, at.widget[0] - hub_x)
        by_hand = (degrees(after - before) + 180) % 360 - 180
        angle = self._start.turn_deg - (-by_hand if self._start.flipped else by_hand)
        return min(max(round(angle) if at.shift else angle, -TURN_DEG), TURN_DEG)

    def hover(self, at: BoardPoint) -> Qt.CursorShape:
        if self._at_knob(at):
            return Qt.CursorShape.PointingHandCursor
        name = self._handle_at(at)
        if name is not None:
            shape = CURSORS[name]
            return {DOWN: UP, UP: DOWN}.get(shape, shape) if self.desk.study.frame.flipped else shape
        return Qt.CursorShape.SizeAllCursor if self._inside(at) else self.cursor

    def nudge(self, dx_mm: float, dy_mm: float) -> None:
        step = self.desk.on_photo(dx_mm, dy_mm)
        self._send(moved(self.desk.study.frame, *step, self._photo, self._beyond))

    def typed_value(self) -> str:
        return f"{100 * self.desk.study.frame.width_px / self._widest_px():.1f} %"

    def set_typed(self, text: str) -> bool:
        return self.accepted(self._kept.type_in(text))

    def tag(self) -> str | None:
        if self._from is None:
            return None
        frame = self.desk.study.frame
        if self._turning:
            return f"turned {frame.turn_deg:.1f}°".replace("-", "−")
        share = 100 * share_kept(frame, self._photo)
        scale = 100 * self.desk.frame_map.mm_per_px
        words = f"{share:.0f} % kept · 100 px → {format_length(scale, self.desk.computed.unit)}"
        if frame.proportion == "stretched":
            words += f" · {100 * stretch_of(frame, self.desk.plan.paper):+.1f} % wider".replace("-", "−")
        if frame.proportion == "free":
            words += f" · 1 : {frame.height_px / frame.width_px:.3f}"
        return words

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        paint_wishes(painter, self.desk.study, photo)
        for name, point in handle_points(self.desk.study.frame).items():
            x, y = photo.to_widget(point).tolist()
            handle(painter, x, y, name == self._held and self._from is not None)
        knob = self._knob()
        if knob is not None:
            box = self.desk.frame_map.box
            stem = QPointF(*sheet.to_widget(((box.left + box.right) / 2, box.top)).tolist())
            for line in (casing(1.2), pen("measure", 1.2)):
                painter.setPen(line)
                painter.drawLine(stem, QPointF(*knob))
            painter.setPen(pen("measure", 1.2))
            painter.setBrush(Qt.GlobalColor.white)
            painter.drawEllipse(QPointF(*knob), 5.5, 5.5)
            painter.setBrush(Qt.BrushStyle.NoBrush)
