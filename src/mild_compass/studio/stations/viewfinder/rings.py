"""Rings round the subjects, in order of importance, with the way each faces."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt

from mild_compass.plan.edits.viewfinder import put_ring_first, remove_ring, ring_subject
from mild_compass.plan.errors import PlanError
from mild_compass.plan.study import Facing, Ring
from mild_compass.studio.board.marks import paint_ring
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Entry, Names, button, form, number_entry

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint

FACINGS: list[tuple[str, Facing]] = [
    ("nowhere", "nowhere"),
    ("to the left", "left"),
    ("to the right", "right"),
    ("up", "up"),
    ("down", "down"),
]


class RingInstrument(Instrument):
    """Rings subjects with ellipses."""

    name = "ring"
    words = "Ring the subject"
    icon = "ring"
    tells = ("placement", "lead", "tangent", "cut", "touch")
    hint = "Drag an ellipse round the subject, most important first. The readings say where it stands in the frame."
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._from: BoardPoint | None = None
        self._moving: Ring | None = None
        self._chosen = 0

    def options(self) -> QWidget:
        self._list = Names("Rings in order of importance", 3)
        self._list.chosen.connect(self._choose)
        self._name = Entry("What the ring is round", lambda text: text.strip() or "subject", str)
        self._name.chosen.connect(lambda name: self._change(name=name[:40]))
        self._facing = Choice(FACINGS, "Faces")
        self._facing.chosen.connect(lambda facing: self._change(facing=facing))
        self._heads = number_entry("Heads tall, when the ring is round a head", "heads")
        self._heads.chosen.connect(self._set_heads)
        self._heads.setToolTip(
            "When the ring is round a head: how many heads tall the figure stands (usually 8). 0: no."
        )
        self._first = button("Put it first", self._put_first)
        self._remove = button("Remove the ring", self.delete)
        return form(
            self._list,
            ("It is the", self._name),
            ("It faces", self._facing),
            ("A head, of", self._heads),
            self._first,
            self._remove,
        )

    def refresh(self) -> None:
        rings = self.desk.study.rings
        self._chosen = min(self._chosen, max(0, len(rings) - 1))
        self._list.show_names([f"{k + 1}  {ring.name}" for k, ring in enumerate(rings)], self._chosen if rings else -1)
        self._list.setVisible(len(rings) > 1)
        ring = self._ring
        self._name.show_value(ring.name if ring else "subject")
        self._facing.show_value(ring.facing if ring else "nowhere")
        self._heads.show_value(ring.heads if ring else 0.0)
        for control in (self._facing, self._heads, self._remove):
            control.setEnabled(ring is not None)
        self._first.setVisible(len(rings) > 1)
        self._first.setEnabled(self._chosen > 0)

    @property
    def _ring(self) -> Ring | None:
        rings = self.desk.study.rings
        return rings[self._chosen] if self._chosen < len(rings) else None

    def _choose(self, row: int) -> None:
        if row >= 0:
            self._chosen = row
            self.refresh()
            self.desk.board.update()

    def _change(self, **changes: object) -> None:
        if self._ring is not None:
            self.commit(ring_subject(replace(self._ring, **changes), self._chosen))  # type: ignore[arg-type]

    def _set_heads(self, heads: float) -> None:
        try:
            self._change(heads=heads)
        except PlanError as error:
            self._heads.refuse(str(error))

    def _put_first(self) -> None:
        self.commit(put_ring_first(self._chosen))
        self._chosen = 0
        self.refresh()

    def press(self, at: BoardPoint) -> bool:
        self._moving = None
        for index, ring in enumerate(self.desk.study.rings):
            if _within(ring, at.photo_px):
                self._moving, self._chosen = ring, index
        if self._moving is None:
            self._chosen = len(self.desk.study.rings)
        self._from = at
        self._draft_name = self._name.line.text().strip()[:40] if not self.desk.study.rings else "subject"
        return True

    def _ring_for(self, at: BoardPoint) -> Ring | None:
        assert self._from is not None
        (x0, y0), (x1, y1) = self._from.photo_px, at.photo_px
        if self._moving is not None:
            return replace(self._moving, x_px=self._moving.x_px + x1 - x0, y_px=self._moving.y_px + y1 - y0)
        if abs(x1 - x0) < at.reach_px / 2 or abs(y1 - y0) < at.reach_px / 2:
            return None
        centre, radii = ((x0 + x1) / 2, (y0 + y1) / 2), (abs(x1 - x0) / 2, abs(y1 - y0) / 2)
        return Ring(*centre, *radii, self._draft_name or "subject")

    def drag(self, at: BoardPoint) -> None:
        ring = self._ring_for(at)
        if ring is not None:
            self.desk.session.preview(ring_subject(ring, self._chosen))

    def release(self, at: BoardPoint) -> None:
        ring = self._ring_for(at)
        self._from = None
        if ring is None:
            self.desk.session.cancel()
            self.desk.say("Drag from one side of the subject to the other to ring it.")
        else:
            self.commit(ring_subject(ring, self._chosen))

    def cancel(self) -> None:
        self._from = None
        super().cancel()

    def nudge(self, dx_mm: float, dy_mm: float) -> None:
        if self._ring is not None:
            dx, dy = self.desk.on_photo(dx_mm, dy_mm)
            self._change(x_px=self._ring.x_px + dx, y_px=self._ring.y_px + dy)

    def delete(self) -> None:
        if self._ring is not None:
            self.commit(remove_ring(self._chosen))

    def tag(self) -> str | None:
        if self._from is None or self._ring is None:
            return None
        across, down = (100 * self.desk.frame_map.to_share((self._ring.x_px, self._ring.y_px))).tolist()
        return f"{across:.0f} % across, {down:.0f} % down"

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        rings = self.desk.study.rings
        for number, ring in enumerate(rings):
            paint_ring(painter, ring, photo, number if len(rings) > 1 else None, number == self._chosen)


def _within(ring: Ring, point: tuple[float, float]) -> bool:
    x, y = (point[0] - ring.x_px) / ring.radius_x_px, (point[1] - ring.y_px) / ring.radius_y_px
    return x * x + y * y <= 1
