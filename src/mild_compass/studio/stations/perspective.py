"""Instruments of the perspective: tracing edges into sets, and the horizon."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath
from PySide6.QtWidgets import QListWidget, QWidget

from mild_compass.craft.geometry.lines import Box, clipped
from mild_compass.craft.perspective.string_check import string_checks
from mild_compass.craft.perspective.worked import homogeneous_on_sheet
from mild_compass.craft.worked import height_at_middle
from mild_compass.plan.edits.perspective import move_edge, next_letter, remove_edge, set_horizon, set_kind, trace_edge
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Horizon, SetKind, TracedEdge
from mild_compass.studio.board.board import BoardPoint, handle, near
from mild_compass.studio.board.loupe import paint_loupe
from mild_compass.studio.board.strokes import cased_line, casing, pen, polygon
from mild_compass.studio.stations.instrument import Desk, Instrument
from mild_compass.studio.widgets import Choice, LengthEntry, button, form, soft

if TYPE_CHECKING:
    from mild_compass.craft.perspective.vanishing import VanishingPoint
    from mild_compass.studio.board.sight import PhotoSight, Sight

KINDS: list[tuple[str, SetKind]] = [("level, going back", "level"), ("upright", "upright"), ("free", "free")]


def paint_strings(painter: QPainter, desk: Desk, photo: PhotoSight, letter: str | None) -> None:
    """Threads from the edges to their points, the 95 % ellipse, and arrows to points out of sight."""
    worked = desk.computed.perspective()
    frame_map = desk.board.frame_map
    if worked is None or frame_map is None:
        return
    area = Box(0, 0, desk.board.width(), desk.board.height())
    for each in desk.study.perspective.sets:
        point = worked.point(each.letter)
        if point is None:
            continue
        strong = letter in (None, each.letter)
        _paint_threads(painter, desk, photo, each.letter, point, area, strong)
        at = point.point_px
        if at is None:
            continue
        outline = point.ellipse_px()
        if outline is not None:
            painter.setPen(pen("perspective", 1.0, "dotted"))
            painter.drawPolyline(polygon(photo.to_widget(outline)))
        x, y = photo.to_widget(at).tolist()
        mm = homogeneous_on_sheet(point, frame_map)
        words = _pin_tag(desk, each.letter, float(mm[0] / mm[2]), float(mm[1] / mm[2]))
        if area.left <= x <= area.right and area.top <= y <= area.bottom:
            _paint_pin(painter, x, y, words)
        else:
            _paint_arrow(painter, desk, (x, y), words)


def _paint_threads(
    painter: QPainter, desk: Desk, photo: PhotoSight, letter: str, point: VanishingPoint, area: Box, strong: bool
) -> None:
    line = pen("perspective", 0.8, "dashed", 190 if strong else 90)
    edges = next(each.edges for each in desk.study.perspective.sets if each.letter == letter)
    x, y, w = point.homogeneous
    for edge in edges:
        middle = np.array([(edge.x0_px + edge.x1_px) / 2, (edge.y0_px + edge.y1_px) / 2])
        toward = np.array([x - w * middle[0], y - w * middle[1]])
        length = float(np.hypot(*toward))
        if length == 0:
            continue
        start = photo.to_widget(middle)
        far = photo.to_widget(point.point_px) if point.point_px is not None else start + toward / length * 1e5
        part = clipped(start, far, area)
        if part is not None:
            if strong:
                painter.setPen(casing(0.8, 90))
                painter.drawPolyline(polygon(part))
            painter.setPen(line)
            painter.drawPolyline(polygon(part))


def _pin_tag(desk: Desk, letter: str, x_mm: float, y_mm: float) -> str:
    """The point's letter, and how far from the paper's nearest edge it lies."""
    paper = desk.plan.paper
    off = max(-x_mm, x_mm - paper.width_mm, -y_mm, y_mm - paper.height_mm)
    return f"{letter}  {desk.length(off)} off the paper" if off > 0 else letter


def _paint_pin(painter: QPainter, x: float, y: float, words: str) -> None:
    """A pin's head with its tag."""
    painter.setPen(casing(0.6, 230))
    painter.setBrush(QColor("#26399e"))
    painter.drawEllipse(QPointF(x, y), 4.5, 4.5)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    width = painter.fontMetrics().horizontalAdvance(words)
    painter.fillRect(QRectF(x + 8, y - 22, width + 8, 17), QColor(250, 250, 248, 220))
    painter.setPen(QColor("#26399e"))
    painter.drawText(QPointF(x + 12, y - 9), words)


def _paint_arrow(painter: QPainter, desk: Desk, target: tuple[float, float], words: str) -> None:
    """A small arrow at the board's edge pointing to a pin out of sight, with its tag."""
    board = desk.board
    middle = np.array([board.width() / 2, board.height() / 2])
    inner = Box(26, 26, board.width() - 26, board.height() - 26)
    part = clipped(middle, target, inner)
    if part is None:
        return
    tip, way = part[1], np.array(target) - middle
    way /= np.hypot(*way)
    across = np.array([-way[1], way[0]])
    path = QPainterPath(QPointF(*(tip + 9 * way)))
    path.lineTo(QPointF(*(tip + 6 * across)))
    path.lineTo(QPointF(*(tip - 6 * across)))
    path.closeSubpath()
    painter.fillPath(path, QColor("#26399e"))
    painter.setPen(casing(0.2))
    painter.drawPath(path)
    width = painter.fontMetrics().horizontalAdvance(words)
    left = min(max(tip[0] - width / 2, 8), board.width() - width - 14)
    top = tip[1] + 12 if tip[1] < board.height() / 2 else tip[1] - 30
    painter.fillRect(QRectF(left - 4, top, width + 8, 18), QColor(250, 250, 248, 220))
    painter.setPen(QColor("#26399e"))
    painter.drawText(QPointF(left, top + 13), words)


class TraceInstrument(Instrument):
    """Traces straight edges over the photo into lettered sets."""

    name = "trace"
    words = "Trace an edge"
    icon = "edge"
    hint = "Drag along a straight edge, from end to end. Edges that are parallel in the world go into one set."
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._letter = "A"
        self._chosen: tuple[str, int] | None = None
        self._end: int | None = None
        self._from: BoardPoint | None = None
        self._at: BoardPoint | None = None
        self._draft: TracedEdge | None = None

    def options(self) -> QWidget:
        self._set = Choice([], "Set of edges")
        self._kind = Choice(KINDS, "What the set's edges are")
        self._list = QListWidget()
        self._list.setAccessibleName("Traced edges")
        self._list.setMaximumHeight(128)
        self._remove = button("Remove this edge", self.delete)
        self._set.chosen.connect(self._choose_set)
        self._kind.chosen.connect(lambda kind: self.commit(set_kind(self._letter, kind)))
        self._list.currentRowChanged.connect(self._choose_row)
        return form(("Set", self._set), ("Edges are", self._kind), self._list, self._remove)

    def refresh(self) -> None:
        perspective = self.desk.study.perspective
        letters = [each.letter for each in perspective.sets]
        fresh = next_letter(perspective) if len(letters) < 26 else None
        if self._letter not in letters:
            self._letter = letters[0] if letters and self._letter != fresh else (fresh or letters[0])
        items = [(f"{each.letter}  ({len(each.edges)} edges)", each.letter) for each in perspective.sets]
        self._set.set_items([*items, *([(f"{fresh}  (new)", fresh)] if fresh else [])])
        self._set.show_value(self._letter)
        here = next((each for each in perspective.sets if each.letter == self._letter), None)
        self._kind.setEnabled(here is not None)
        self._kind.show_value(here.kind if here else "level")
        self._fill_list()
        self._remove.setEnabled(self._held_edge() is not None)

    def _fill_list(self) -> None:
        self._list.blockSignals(True)
        self._list.clear()
        for edge_set in self.desk.study.perspective.sets:
            for number, edge in enumerate(edge_set.edges, 1):
                self._list.addItem(f"{edge_set.letter}{number}   {self._string_words(edge_set.letter, edge)}")
                if self._chosen == (edge_set.letter, number - 1):
                    self._list.setCurrentRow(self._list.count() - 1)
        self._list.blockSignals(False)

    def _string_words(self, letter: str, edge: TracedEdge) -> str:
        worked, frame_map = self.desk.computed.perspective(), self.desk.board.frame_map
        point = worked.point(letter) if worked else None
        if point is None or frame_map is None:
            return "no point yet"
        ends = frame_map.to_sheet([[edge.x0_px, edge.y0_px], [edge.x1_px, edge.y1_px]])
        checks = string_checks(ends[0], ends[1], homogeneous_on_sheet(point, frame_map))
        return f"{self.desk.length(max(abs(check.off_mm) for check in checks))} off its string"

    def _choose_set(self, letter: str) -> None:
        self._letter, self._chosen = letter, None
        self.refresh()
        self.desk.board.update()

    def _choose_row(self, row: int) -> None:
        names = [(s.letter, k) for s in self.desk.study.perspective.sets for k in range(len(s.edges))]
        self._chosen = names[row] if 0 <= row < len(names) else None
        if self._chosen:
            self._letter = self._chosen[0]
            self._set.show_value(self._letter)
        self._remove.setEnabled(self._chosen is not None)
        self.desk.board.update()

    def _held_edge(self) -> TracedEdge | None:
        if self._chosen is None:
            return None
        letter, index = self._chosen
        edges = next((each.edges for each in self.desk.study.perspective.sets if each.letter == letter), ())
        if index >= len(edges):
            self._chosen = None
            return None
        return edges[index]

    def press(self, at: BoardPoint) -> bool:
        self._from = self._at = at
        self._draft = None
        self._end = None
        for edge_set in self.desk.study.perspective.sets:
            for index, edge in enumerate(edge_set.edges):
                for end, point in enumerate(((edge.x0_px, edge.y0_px), (edge.x1_px, edge.y1_px))):
                    if near(at.photo_px, point, at.reach_px):
                        self._chosen, self._end, self._letter = (edge_set.letter, index), end, edge_set.letter
                        return True
        self._chosen = None
        return True

    def drag(self, at: BoardPoint) -> None:
        self._at = at
        edge = self._edge_for(at)
        if edge is None:
            return
        if self._end is None:
            self._draft = edge
        elif self._chosen is not None:
            self.desk.session.preview(move_edge(*self._chosen, edge))

    def _edge_for(self, at: BoardPoint) -> TracedEdge | None:
        try:
            old = self._held_edge()
            if self._end is not None and old is not None:
                if self._end == 0:
                    return replace(old, x0_px=at.photo_px[0], y0_px=at.photo_px[1])
                return replace(old, x1_px=at.photo_px[0], y1_px=at.photo_px[1])
            assert self._from is not None
            return TracedEdge(*self._from.photo_px, *at.photo_px)
        except PlanError:
            return None

    def release(self, at: BoardPoint) -> None:
        edge, start = self._edge_for(at), self._from
        self._from = self._draft = self._at = None
        if self._end is not None and self._chosen is not None:
            if edge is not None and self.desk.session.in_gesture:
                self.commit(move_edge(*self._chosen, edge))
            return
        too_short = edge is None or start is None or near(start.photo_px, at.photo_px, at.reach_px)
        if too_short or edge is None:
            self.desk.session.said.emit("Drag along the edge from one end to the other; that was only a click.")
            return
        if self.commit(trace_edge(self._letter, edge)):
            edges = next(each.edges for each in self.desk.study.perspective.sets if each.letter == self._letter)
            self._chosen = (self._letter, len(edges) - 1)
            self.refresh()

    def cancel(self) -> None:
        self._from = self._draft = self._at = None
        super().cancel()

    def delete(self) -> None:
        if self._held_edge() is not None and self._chosen is not None:
            chosen, self._chosen = self._chosen, None
            self.commit(remove_edge(*chosen))

    def nudge(self, dx_mm: float, dy_mm: float) -> None:
        """Move the chosen end, or the whole edge when no end is chosen."""
        edge = self._held_edge()
        if edge is None or self._chosen is None:
            return
        px = self.desk.px_per_mm
        dx, dy = dx_mm * px, dy_mm * px
        first, second = self._end != 1, self._end != 0
        moved = TracedEdge(
            edge.x0_px + dx * first, edge.y0_px + dy * first, edge.x1_px + dx * second, edge.y1_px + dy * second
        )
        self.commit(move_edge(*self._chosen, moved))

    def tag(self) -> str | None:
        edge = self._draft or (self._held_edge() if self._from is not None else None)
        if edge is None:
            return None
        angle = np.degrees(np.arctan2(abs(edge.y1_px - edge.y0_px), abs(edge.x1_px - edge.x0_px)))
        return f"set {self._letter} · {angle:.1f}° off level"

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        paint_strings(painter, self.desk, photo, self._letter)
        for edge_set in self.desk.study.perspective.sets:
            for index, edge in enumerate(edge_set.edges):
                self._paint_edge(painter, photo, edge_set.letter, index, edge)
        if self._draft is not None:
            ends = [[self._draft.x0_px, self._draft.y0_px], [self._draft.x1_px, self._draft.y1_px]]
            cased_line(painter, photo.to_widget(ends), pen("perspective", 2.0))
        if self._at is not None:
            paint_loupe(painter, self.desk.board, self.desk.computed.looks, self._at.widget)

    def _paint_edge(self, painter: QPainter, photo: PhotoSight, letter: str, index: int, edge: TracedEdge) -> None:
        chosen = self._chosen == (letter, index)
        ends = photo.to_widget([[edge.x0_px, edge.y0_px], [edge.x1_px, edge.y1_px]])
        if chosen:
            cased_line(painter, ends, pen("subject", 2.2))
        for end, (x, y) in enumerate(ends.tolist()):
            handle(painter, x, y, chosen and self._end == end)
        x, y = ends.mean(0).tolist()
        words = f"{letter}{index + 1}"
        width = painter.fontMetrics().horizontalAdvance(words)
        painter.fillRect(QRectF(x + 4, y - 18, width + 6, 15), QColor(250, 250, 248, 205))
        painter.setPen(QColor("#26399e"))
        painter.drawText(QPointF(x + 7, y - 6), words)


class HorizonInstrument(Instrument):
    """Sets the horizon at the artist's eye level."""

    name = "horizon"
    words = "Horizon"
    icon = "horizon"
    hint = "Drag the line to your eye level, or lay it through the points of the level edges."
    cursor = Qt.CursorShape.SizeVerCursor

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._held = False

    def options(self) -> QWidget:
        self._height = LengthEntry("Horizon below the top of the sheet", lambda: self.desk.computed.unit)
        self._height.chosen.connect(self._set_height)
        self._through = button("Lay it through the points", lambda: self.commit(set_horizon(None)))
        self._source = soft("")
        return form(("Below the top", self._height), self._through, self._source)

    def refresh(self) -> None:
        height = self._height_mm()
        by_hand = self.desk.study.perspective.horizon is not None
        self._height.show_value(height if height is not None else 0.0)
        self._through.setEnabled(by_hand)
        words = "Set by hand." if by_hand else "Through the points of the level sets."
        self._source.setText(words if height is not None else "Not set yet: drag on the picture at your eye level.")

    def _height_mm(self) -> float | None:
        worked, frame_map = self.desk.computed.perspective(), self.desk.board.frame_map
        if worked is None or worked.horizon is None or frame_map is None:
            return None
        return height_at_middle(worked.horizon, frame_map)

    def _set_height(self, height_mm: float) -> None:
        frame_map = self.desk.board.frame_map
        if abs(height_mm) > 5000:
            self._height.refuse("That is further than any board reaches. The horizon stays as it was.")
        elif frame_map is not None:
            middle = (frame_map.box.left + frame_map.box.right) / 2
            self.commit(set_horizon(Horizon(float(frame_map.to_photo((middle, height_mm))[1]))))

    def press(self, at: BoardPoint) -> bool:
        self._held = True
        self.drag(at)
        return True

    def drag(self, at: BoardPoint) -> None:
        self.desk.session.preview(set_horizon(Horizon(at.photo_px[1])))

    def release(self, at: BoardPoint) -> None:
        self._held = False
        self.commit(set_horizon(Horizon(at.photo_px[1])))

    def cancel(self) -> None:
        self._held = False
        super().cancel()

    def nudge(self, dx_mm: float, dy_mm: float) -> None:
        height = self._height_mm()
        if height is not None and dy_mm:
            self._set_height(height + dy_mm)

    def typed_value(self) -> str | None:
        height = self._height_mm()
        return None if height is None else self.desk.length(height)

    def set_typed(self, text: str) -> bool:
        return self.accepted(self._height.take(text))

    def tag(self) -> str | None:
        height = self._height_mm()
        if not self._held or height is None:
            return None
        box = self.desk.frame_map.box
        share = 100 * (height - box.top) / box.height
        return f"{self.desk.length(height)} below the top · {share:.0f} % down"

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        paint_strings(painter, self.desk, photo, None)
        worked = self.desk.computed.perspective()
        if worked is None or worked.horizon is None:
            return
        width = self.desk.board.width()
        left, right = photo.from_widget([[0.0, 0.0], [float(width), 0.0]])[:, 0]
        line = photo.to_widget([[left, worked.horizon.y_at(left)], [right, worked.horizon.y_at(right)]])
        cased_line(painter, line, pen("perspective", 1.8))
        x, y = line.mean(0).tolist()
        handle(painter, x, y, self._held)


def instruments(desk: Desk) -> list[Instrument]:
    """The instruments of this station."""
    return [Instrument(desk), TraceInstrument(desk), HorizonInstrument(desk)]
