"""The picture's big lines and key points: traced with a loupe, laid onto real edges, or found."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt

from mild_compass.craft.armature.marks import ends_px, locked_now, marks_on_sheet
from mild_compass.plan.edits.armature import (
    add_big_line,
    add_key_point,
    change_big_line,
    change_key_point,
    clear_lines,
    take_found_lines,
)
from mild_compass.plan.errors import PlanError
from mild_compass.plan.structure import BigLine, KeyPoint
from mild_compass.studio.board.board import handle, near
from mild_compass.studio.board.loupe import paint_loupe
from mild_compass.studio.board.strokes import cased_line, casing, pen
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import OTHER_STUDY, Instrument
from mild_compass.studio.widgets import Names, Sentence, Tick, button, form, rule, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.craft.armature.lock_in import Locked
    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Frame
    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint
    from mild_compass.studio.requests.jobs import Job

SNAP_REACH = 0.6  # of the hand's reach: an edge nearer than that is the one that was meant


def _find(picture: Picture, frame: Frame, paper: Paper) -> tuple[BigLine, ...]:
    from mild_compass.craft.armature.tracing import found_big_lines

    return found_big_lines(picture, frame, paper)


def paint_marks(painter: QPainter, desk: Desk, photo: PhotoSight, chosen: tuple[str, int] | None = None) -> None:
    """Big lines and key points; what locks onto the drawn armature is strong, the rest is thin and dashed."""
    structure = desk.study.structure
    held = locked_now(desk.study, desk.frame_map)
    for index, ends in enumerate(ends_px(structure.lines)):
        locks = bool(held.locks[index])
        width = 3.0 if chosen == ("line", index) else 2.4 if locks else 1.1
        cased_line(painter, photo.to_widget(ends), pen("perspective", width, "solid" if locks else "dashed"))
    for index, point in enumerate(structure.points):
        x, y = photo.to_widget((point.x_px, point.y_px)).tolist()
        painter.setPen(casing(2.0))
        painter.drawEllipse(QPointF(x, y), 6, 6)
        painter.setPen(pen("perspective", 2.6 if chosen == ("point", index) else 1.6))
        if held.point_locks[index]:
            painter.setBrush(pen("perspective", 1).color())
        painter.drawEllipse(QPointF(x, y), 5, 5)
        painter.setBrush(Qt.BrushStyle.NoBrush)


class BigLinesInstrument(Instrument):
    """Drag along a big line; click for a key point. Ends and points can be moved afterwards."""

    name = "big lines"
    words = "Big lines"
    icon = "edge"
    tells = ("lock_in", "weak", "engage", "nudge")
    hint = "Drag along a big line of the picture; a click marks a key point. Strong ones lock onto the armature."
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._looking: Job | None = None
        self._chosen: tuple[str, int] | None = None
        self._end = 0
        self._from: BoardPoint | None = None
        self._at: BoardPoint | None = None
        self._moving = False

    # -- options ----------------------------------------------------------------------------------------------

    def options(self) -> QWidget:
        self._find = button("Find big lines", self._search, main=True)
        self._snap = Tick("Snap to the photo's edges")
        self._snap.show_value(True)
        self._list = Names("Big lines and key points", 6)
        self._list.chosen.connect(self._choose_row)
        self._name = Sentence("Name of the line or point")
        self._name.line.setPlaceholderText("edge of the bench …")
        self._name.chosen.connect(self._rename)
        self._state = soft("")
        self._remove = button("Remove it", self.delete)
        self._clear = button("Remove all", lambda: self.commit(clear_lines()))
        return form(self._find, self._snap, rule(), self._list, ("It is", self._name), self._state,
                    (self._remove, self._clear))  # fmt: skip

    def refresh(self) -> None:
        rows = self._rows()
        if self._chosen not in rows:
            self._chosen = None
        held = locked_now(self.desk.study, self.desk.frame_map)
        self._list.show_names(
            [self._row_words(row, held) for row in rows], rows.index(self._chosen) if self._chosen else -1
        )
        self._find.setEnabled(self._looking is None or self._looking.state == "ended")
        chosen = self._mark
        self._name.setEnabled(chosen is not None)
        self._name.show_value(chosen.name if chosen else "")
        self._remove.setEnabled(chosen is not None)
        self._clear.setEnabled(bool(rows))
        self._state.setText(self._say(held) if chosen else ("" if rows else "None yet."))

    def _rows(self) -> list[tuple[str, int]]:
        """Lines by their length on the sheet, the longest first, then points."""
        structure = self.desk.study.structure
        length = self._lengths()
        lines = sorted(range(len(structure.lines)), key=lambda k: -length[k])
        return [("line", k) for k in lines] + [("point", k) for k in range(len(structure.points))]

    def _lengths(self) -> np.ndarray:
        lines = marks_on_sheet(self.desk.study.structure, self.desk.frame_map).lines
        return np.hypot(*(lines[:, 1] - lines[:, 0]).T) if len(lines) else np.zeros(0)

    def _row_words(self, row: tuple[str, int], held: Locked) -> str:
        kind, index = row
        structure = self.desk.study.structure
        if kind == "point":
            return f"{'●' if held.point_locks[index] else '○'} {structure.points[index].name or 'key point'}"
        told = self.desk.length(float(self._lengths()[index]))
        return f"{'●' if held.locks[index] else '○'} {told}  {structure.lines[index].name}".rstrip()

    def _say(self, held: Locked) -> str:
        assert self._chosen is not None
        kind, index = self._chosen
        off = float(held.point_off_mm[index] if kind == "point" else held.off_mm[index])
        if not np.isfinite(off):
            return "Outside the viewfinder, or nowhere near a line."
        told = f"{self.desk.length(off)} from the nearest line"
        if kind == "line":
            told += f", {held.angle_deg[index]:.1f}° off it"
        locks = held.point_locks[index] if kind == "point" else held.locks[index]
        return f"{told}: {'locks' if locks else 'does not lock'}."

    @property
    def _mark(self) -> BigLine | KeyPoint | None:
        if self._chosen is None:
            return None
        kind, index = self._chosen
        structure = self.desk.study.structure
        marks: tuple[BigLine, ...] | tuple[KeyPoint, ...] = structure.lines if kind == "line" else structure.points
        return marks[index] if index < len(marks) else None

    def _choose_row(self, row: int) -> None:
        rows = self._rows()
        self._chosen = rows[row] if 0 <= row < len(rows) else None
        self.refresh()
        self.desk.board.update()

    def _rename(self, name: str) -> None:
        mark = self._mark
        if mark is not None:
            self._replace(replace(mark, name=name[:40]))

    def _replace(self, mark: BigLine | KeyPoint | None) -> None:
        assert self._chosen is not None
        kind, index = self._chosen
        self.commit(change_big_line(index, mark) if kind == "line" else change_key_point(index, mark))  # type: ignore[arg-type]

    def _search(self) -> None:
        looks = self.desk.computed.looks
        if looks is None or not looks.complete:
            self.desk.say("The photo is still being read. Try again in a moment.")
            return
        self._looking = self.desk.jobs.do(
            "Finding big lines",
            _find,
            *(looks.picture, self.desk.study.frame, self.desk.plan.paper),
            owner=self.desk.session.owner(),
            done=self._take_found,
            called_off=lambda: self.desk.say(OTHER_STUDY.format("Finding big lines")),
        )
        self.refresh()

    def _take_found(self, found: tuple[BigLine, ...]) -> None:
        self.commit(take_found_lines(found))

    # -- on the board -----------------------------------------------------------------------------------------

    def press(self, at: BoardPoint) -> bool:
        self._from = self._at = at
        self._moving = False
        structure = self.desk.study.structure
        for index, ends in enumerate(ends_px(structure.lines)):
            for end in (0, 1):
                if near(at.photo_px, (ends[end][0], ends[end][1]), at.reach_px):
                    self._chosen, self._end, self._moving = ("line", index), end, True
        for index, point in enumerate(structure.points):
            if near(at.photo_px, (point.x_px, point.y_px), at.reach_px):
                self._chosen, self._moving = ("point", index), True
        if self._moving:
            self.refresh()
        return True

    def drag(self, at: BoardPoint) -> None:
        self._at = at
        if self._moving and self._chosen is not None:
            moved = self._moved(at)
            if moved is not None:
                kind, index = self._chosen
                edit = change_big_line(index, moved) if kind == "line" else change_key_point(index, moved)  # type: ignore[arg-type]
                self.desk.session.preview(edit)

    def _moved(self, at: BoardPoint) -> BigLine | KeyPoint | None:
        mark = self._mark
        try:
            if isinstance(mark, KeyPoint):
                return replace(mark, x_px=at.photo_px[0], y_px=at.photo_px[1])
            if isinstance(mark, BigLine) and self._end == 0:
                return replace(mark, x0_px=at.photo_px[0], y0_px=at.photo_px[1])
            if isinstance(mark, BigLine):
                return replace(mark, x1_px=at.photo_px[0], y1_px=at.photo_px[1])
        except PlanError:
            return None
        return None

    def release(self, at: BoardPoint) -> None:
        start, moving = self._from, self._moving
        self._from = self._at = None
        self._moving = False
        assert start is not None
        if moving:
            moved = self._moved(at)
            if moved is not None and self.desk.session.in_gesture:
                self._replace(moved)
            return
        if near(start.widget, at.widget, 6):
            self._mark_point(at)
        else:
            self._trace(start, at)

    def _mark_point(self, at: BoardPoint) -> None:
        if self.commit(add_key_point(KeyPoint(*at.photo_px))):
            self._chosen = ("point", len(self.desk.study.structure.points) - 1)
            self.refresh()

    def _trace(self, start: BoardPoint, at: BoardPoint) -> None:
        from mild_compass.craft.armature.tracing import snapped_to_edge, traced_line

        ends: tuple[tuple[float, float], tuple[float, float]] = (start.photo_px, at.photo_px)
        looks = self.desk.computed.looks
        if looks is None:
            return
        if self._snap.isChecked():
            ends = snapped_to_edge(looks.picture, ends, SNAP_REACH * at.reach_px) or ends
        try:
            line = traced_line(looks.picture, ends)
        except PlanError as error:
            self.desk.say(str(error))
            return
        if self.commit(add_big_line(line)):
            self._chosen = ("line", len(self.desk.study.structure.lines) - 1)
            self.refresh()

    def cancel(self) -> None:
        self._from = self._at = None
        self._moving = False
        super().cancel()

    def delete(self) -> None:
        if self._mark is not None:
            self._replace(None)

    def nudge(self, dx_mm: float, dy_mm: float) -> None:
        mark = self._mark
        dx, dy = self.desk.on_photo(dx_mm, dy_mm)
        if isinstance(mark, KeyPoint):
            self._replace(replace(mark, x_px=mark.x_px + dx, y_px=mark.y_px + dy))
        elif isinstance(mark, BigLine):
            ends = (mark.x0_px + dx, mark.y0_px + dy, mark.x1_px + dx, mark.y1_px + dy)
            self._replace(BigLine(*ends, mark.name, mark.contrast))

    def tag(self) -> str | None:
        if self._from is None or self._at is None or self._moving:
            return None
        length = np.hypot(*np.subtract(self._at.sheet_mm, self._from.sheet_mm))
        return self.desk.length(float(length))

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        paint_marks(painter, self.desk, photo, self._chosen)
        mark = self._mark
        if isinstance(mark, BigLine):
            for x, y in photo.to_widget([[mark.x0_px, mark.y0_px], [mark.x1_px, mark.y1_px]]).tolist():
                handle(painter, x, y)
        if self._from is not None and self._at is not None:
            if not self._moving:
                line = photo.to_widget([self._from.photo_px, self._at.photo_px])
                cased_line(painter, line, pen("perspective", 1.8))
            paint_loupe(painter, self.desk.board, self.desk.computed.looks, self._at.widget)
