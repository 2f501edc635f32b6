"""Instruments of the viewfinder: the paper, the frame, the ring."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, Qt

from mild_compass.craft.sheet_sizes.lengths import format_length
from mild_compass.craft.sheet_sizes.papers import CUSTOM, UPRIGHT_SIZES_MM, paper, turned
from mild_compass.craft.viewfinder.moves import Handle, handle_points, moved, resized, scaled_about_centre
from mild_compass.craft.viewfinder.readings import share_kept
from mild_compass.craft.viewfinder.threads import THREADS
from mild_compass.plan.edits.viewfinder import choose_paper, choose_threads, move_frame, remove_ring, ring_subject
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import largest_frame
from mild_compass.plan.model import Facing, Frame, Paper, Reference, Ring, Thread
from mild_compass.studio.board.board import BoardPoint, handle, near
from mild_compass.studio.board.strokes import casing, pen
from mild_compass.studio.stations.instrument import Desk, Instrument
from mild_compass.studio.widgets import Choice, Entry, LengthEntry, Tick, button, form, number_entry, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.board.sight import PhotoSight, Sight

CURSORS: dict[Handle, Qt.CursorShape] = {
    "top left": Qt.CursorShape.SizeFDiagCursor,
    "bottom right": Qt.CursorShape.SizeFDiagCursor,
    "top right": Qt.CursorShape.SizeBDiagCursor,
    "bottom left": Qt.CursorShape.SizeBDiagCursor,
    "top": Qt.CursorShape.SizeVerCursor,
    "bottom": Qt.CursorShape.SizeVerCursor,
    "left": Qt.CursorShape.SizeHorCursor,
    "right": Qt.CursorShape.SizeHorCursor,
}


class PaperInstrument(Instrument):
    """Names the sheet: size, upright or across, margin."""

    name = "paper"
    words = "Paper"
    icon = "paper"
    hint = "Name the sheet you will draw on. The viewfinder takes the proportion of its picture area."

    def options(self) -> QWidget:
        unit = lambda: self.desk.computed.unit  # noqa: E731 - handed on as a question, not kept as a value
        self._size = Choice([(name, name) for name in (*UPRIGHT_SIZES_MM, CUSTOM)], "Sheet size")
        self._lie = Choice([("Upright", False), ("Across", True)], "Upright or across")
        self._width, self._height = LengthEntry("Sheet width", unit), LengthEntry("Sheet height", unit)
        self._margin = LengthEntry("Margin", unit)
        self._area = soft("")
        self._size.chosen.connect(self._choose_size)
        self._lie.chosen.connect(lambda across: self._send(turned(self.desk.plan.paper, across)))
        self._width.chosen.connect(lambda mm: self._change(self._width, width_mm=mm, name=CUSTOM))
        self._height.chosen.connect(lambda mm: self._change(self._height, height_mm=mm, name=CUSTOM))
        self._margin.chosen.connect(lambda mm: self._change(self._margin, margin_mm=mm))
        return form(
            ("Sheet", self._size),
            ("Lies", self._lie),
            ("Width", self._width),
            ("Height", self._height),
            ("Margin", self._margin),
            self._area,
        )

    def refresh(self) -> None:
        sheet = self.desk.plan.paper
        self._size.show_value(sheet.name)
        self._lie.show_value(sheet.across)
        self._width.show_value(sheet.width_mm)
        self._height.show_value(sheet.height_mm)
        self._margin.show_value(sheet.margin_mm)
        width, height = self.desk.length(sheet.picture_width_mm), self.desk.length(sheet.picture_height_mm)
        self._area.setText(f"Picture area {width} × {height}")

    def _choose_size(self, name: str) -> None:
        old = self.desk.plan.paper
        if name == CUSTOM:
            self._send(replace(old, name=CUSTOM))
            return
        margin = min(old.margin_mm, min(UPRIGHT_SIZES_MM[name]) / 2 - 5)
        self._send(paper(name, old.across, margin))

    def _change(self, entry: Entry, **changes: object) -> None:
        try:
            sheet = replace(self.desk.plan.paper, **changes)  # type: ignore[arg-type]
        except PlanError as error:
            entry.refuse(f"{error} The sheet stays as it was.")
            return
        self._send(sheet)

    def _send(self, sheet: Paper) -> None:
        self.commit(choose_paper(sheet))
        self.refresh()


class FrameInstrument(Instrument):
    """Moves the viewfinder and sizes it by its handles."""

    name = "frame"
    words = "Viewfinder"
    icon = "frame"
    hint = "Drag the opening over the photo, or its handles to take in more or less. Arrow keys nudge 1 mm."
    cursor = Qt.CursorShape.ArrowCursor

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._held: Handle | None = None
        self._from: BoardPoint | None = None
        self._start: Frame | None = None

    def options(self) -> QWidget:
        self._kept = number_entry("Share of the photo's widest frame", "%")
        self._kept.chosen.connect(self._set_share)
        self._threads = {name: Tick(name.capitalize()) for name in THREADS}
        for name, tick in self._threads.items():
            tick.chosen.connect(lambda on, name=name: self._thread(name, on))
        whole = button("Take in all of it", self._widest, tip="The largest frame of this proportion on the photo")
        return form(("Of the widest", self._kept), whole, soft("Threads"), *self._threads.values())

    def refresh(self) -> None:
        widest = largest_frame(self._photo, self.desk.plan.paper)
        self._kept.show_value(round(100 * self.desk.study.frame.width_px / widest.width_px, 1))
        for name, tick in self._threads.items():
            tick.show_value(name in self.desk.study.threads)

    @property
    def _photo(self) -> Reference:
        return self.desk.plan.reference(self.desk.study.reference)

    def _set_share(self, percent: float) -> None:
        if not 5 <= percent <= 100:
            self._kept.refuse("Between 5 and 100 %. The viewfinder stays as it was.")
            return
        widest = largest_frame(self._photo, self.desk.plan.paper).width_px
        frame = scaled_about_centre(self.desk.study.frame, widest * percent / 100, self._photo, self.desk.plan.paper)
        self.commit(move_frame(frame))

    def _widest(self) -> None:
        self.commit(move_frame(largest_frame(self._photo, self.desk.plan.paper)))

    def _thread(self, name: Thread, on: bool) -> None:
        rest = tuple(each for each in self.desk.study.threads if each != name)
        self.commit(choose_threads((*rest, name) if on else rest))

    def _handle_at(self, at: BoardPoint) -> Handle | None:
        for name, point in handle_points(self.desk.study.frame).items():
            if near(at.photo_px, point, at.reach_px):
                return name
        return None

    def _inside(self, at: BoardPoint) -> bool:
        across, down = self.desk.frame_map.to_share(at.photo_px).tolist()
        return bool(0 <= across <= 1 and 0 <= down <= 1)

    def press(self, at: BoardPoint) -> bool:
        self._held = self._handle_at(at)
        if self._held is None and not self._inside(at):
            return False
        self._from, self._start = at, self.desk.study.frame
        return True

    def drag(self, at: BoardPoint) -> None:
        self.desk.session.preview(move_frame(self._frame_for(at)))

    def release(self, at: BoardPoint) -> None:
        frame = self._frame_for(at)
        self._from = None
        self.commit(move_frame(frame))

    def cancel(self) -> None:
        self._from = None
        super().cancel()

    def _frame_for(self, at: BoardPoint) -> Frame:
        assert self._from is not None
        assert self._start is not None
        if self._held is not None:
            return resized(self._start, self._held, *at.photo_px, self._photo, self.desk.plan.paper)
        dx = at.photo_px[0] - self._from.photo_px[0]
        dy = at.photo_px[1] - self._from.photo_px[1]
        return moved(self._start, dx, dy, self._photo)

    def hover(self, at: BoardPoint) -> Qt.CursorShape:
        name = self._handle_at(at)
        if name is not None:
            return CURSORS[name]
        return Qt.CursorShape.SizeAllCursor if self._inside(at) else self.cursor

    def nudge(self, dx_mm: float, dy_mm: float) -> None:
        px = self.desk.px_per_mm
        self.commit(move_frame(moved(self.desk.study.frame, dx_mm * px, dy_mm * px, self._photo)))

    def typed_value(self) -> str:
        widest = largest_frame(self._photo, self.desk.plan.paper)
        return f"{100 * self.desk.study.frame.width_px / widest.width_px:.1f} %"

    def set_typed(self, text: str) -> bool:
        return self.accepted(self._kept.take(text))

    def tag(self) -> str | None:
        if self._from is None:
            return None
        share = 100 * share_kept(self.desk.study.frame, self._photo)
        scale = 100 * self.desk.frame_map.mm_per_px
        return f"{share:.0f} % kept · 100 px → {format_length(scale, self.desk.computed.unit)}"

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        for name, point in handle_points(self.desk.study.frame).items():
            x, y = photo.to_widget(point).tolist()
            handle(painter, x, y, name == self._held and self._from is not None)
        for ring in self.desk.study.rings:
            paint_ring(painter, ring, photo)


class RingInstrument(Instrument):
    """Rings the subject with an ellipse."""

    name = "ring"
    words = "Ring the subject"
    icon = "ring"
    hint = "Drag an ellipse round the subject. The readings then say where it stands in the frame."
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._from: BoardPoint | None = None
        self._moving: Ring | None = None

    def options(self) -> QWidget:
        self._name = Entry("What the ring is round", lambda text: text.strip() or "subject", str)
        self._name.chosen.connect(self._rename)
        self._facing = Choice([("nowhere", "nowhere"), ("to the left", "left"), ("to the right", "right")], "Faces")
        self._facing.chosen.connect(self._turn)
        self._remove = button("Remove the ring", self.delete)
        return form(("It is the", self._name), ("It faces", self._facing), self._remove)

    def refresh(self) -> None:
        rings = self.desk.study.rings
        self._name.show_value(rings[0].name if rings else "subject")
        self._facing.show_value(rings[0].facing if rings else "nowhere")
        self._facing.setEnabled(bool(rings))
        self._remove.setEnabled(bool(rings))

    def _rename(self, name: str) -> None:
        if self.desk.study.rings:
            self.commit(ring_subject(replace(self.desk.study.rings[0], name=name[:40])))

    def _turn(self, facing: Facing) -> None:
        if self.desk.study.rings:
            self.commit(ring_subject(replace(self.desk.study.rings[0], facing=facing)))

    def _words_for_ring(self) -> str:
        rings = self.desk.study.rings
        return rings[0].name if rings else self._name.line.text().strip()[:40] or "subject"

    def press(self, at: BoardPoint) -> bool:
        rings = self.desk.study.rings
        inside = bool(rings) and _within(rings[0], at.photo_px)
        self._moving = rings[0] if inside else None
        self._from = at
        return True

    def _ring_for(self, at: BoardPoint) -> Ring | None:
        assert self._from is not None
        (x0, y0), (x1, y1) = self._from.photo_px, at.photo_px
        if self._moving is not None:
            return replace(self._moving, x_px=self._moving.x_px + x1 - x0, y_px=self._moving.y_px + y1 - y0)
        if abs(x1 - x0) < at.reach_px / 2 or abs(y1 - y0) < at.reach_px / 2:
            return None
        centre, radii = ((x0 + x1) / 2, (y0 + y1) / 2), (abs(x1 - x0) / 2, abs(y1 - y0) / 2)
        return Ring(*centre, *radii, self._words_for_ring(), self._facing.value or "nowhere")

    def drag(self, at: BoardPoint) -> None:
        ring = self._ring_for(at)
        if ring is not None:
            self.desk.session.preview(ring_subject(ring))

    def release(self, at: BoardPoint) -> None:
        ring = self._ring_for(at)
        self._from = None
        if ring is None:
            self.desk.session.cancel()
            self.desk.session.said.emit("Drag from one side of the subject to the other to ring it.")
        else:
            self.commit(ring_subject(ring))

    def cancel(self) -> None:
        self._from = None
        super().cancel()

    def nudge(self, dx_mm: float, dy_mm: float) -> None:
        if self.desk.study.rings:
            px = self.desk.px_per_mm
            ring = self.desk.study.rings[0]
            self.commit(ring_subject(replace(ring, x_px=ring.x_px + dx_mm * px, y_px=ring.y_px + dy_mm * px)))

    def delete(self) -> None:
        if self.desk.study.rings:
            self.commit(remove_ring())

    def tag(self) -> str | None:
        rings = self.desk.study.rings
        if self._from is None or not rings:
            return None
        across, down = (100 * self.desk.frame_map.to_share((rings[0].x_px, rings[0].y_px))).tolist()
        return f"{across:.0f} % across, {down:.0f} % down"

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        for ring in self.desk.study.rings:
            paint_ring(painter, ring, photo)


def _within(ring: Ring, point: tuple[float, float]) -> bool:
    x, y = (point[0] - ring.x_px) / ring.radius_x_px, (point[1] - ring.y_px) / ring.radius_y_px
    return x * x + y * y <= 1


def paint_ring(painter: QPainter, ring: Ring, photo: PhotoSight) -> None:
    """The ring with its casing and centre."""
    x, y = photo.to_widget((ring.x_px, ring.y_px)).tolist()
    rx, ry = ring.radius_x_px * photo.scale, ring.radius_y_px * photo.scale
    for line in (casing(1.6), pen("subject", 1.6, "dashed")):
        painter.setPen(line)
        painter.drawEllipse(QPointF(x, y), rx, ry)
        painter.drawLine(QPointF(x - 4, y), QPointF(x + 4, y))
        painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))


def instruments(desk: Desk) -> list[Instrument]:
    """The instruments of this station."""
    return [Instrument(desk), PaperInstrument(desk), FrameInstrument(desk), RingInstrument(desk)]
