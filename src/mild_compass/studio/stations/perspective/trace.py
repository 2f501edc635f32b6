"""Tracing edges into lettered sets, with a loupe and snapping; sets suggested from the photo's own edges."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter

from mild_compass.craft.perspective.string_check import string_checks
from mild_compass.craft.perspective.worked import homogeneous_on_sheet, told_focal_px
from mild_compass.plan.edits.perspective import move_edge, next_letter, remove_edge, set_kind, take_sets, trace_edge
from mild_compass.plan.errors import PlanError
from mild_compass.plan.perspective import EdgeSet, SetKind, TracedEdge
from mild_compass.studio.board.board import handle, near
from mild_compass.studio.board.loupe import paint_loupe
from mild_compass.studio.board.marks import paint_word
from mild_compass.studio.board.strokes import cased_line, pen
from mild_compass.studio.board.tool import BoardPoint
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import OTHER_STUDY, Instrument
from mild_compass.studio.stations.perspective.strings import POINT_INK, paint_strings
from mild_compass.studio.widgets import Choice, Names, Tick, button, form, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.craft.perspective.suggest import Suggestion
    from mild_compass.craft.picture.load import Picture
    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.requests.jobs import Job
    from mild_compass.studio.requests.owner import Owner

KINDS: list[tuple[str, SetKind]] = [("level, going back", "level"), ("upright", "upright"), ("free", "free")]
SNAP_REACH = 0.6  # of the hand's reach


def _suggest(picture: Picture, focal_px: float, traced: tuple[EdgeSet, ...]) -> Suggestion:
    from mild_compass.craft.perspective.suggest import suggested_sets

    return suggested_sets(picture, focal_px, traced)


class TraceInstrument(Instrument):
    """Traces straight edges over the photo into lettered sets."""

    name = "trace"
    words = "Trace an edge"
    icon = "edge"
    tells = ("doubtful", "many_sets", "set_", "horizon", "string", "tipped", "focal")
    hint = "Drag along a straight edge, from end to end. Edges that are parallel in the world go into one set."
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._looking: Job | None = None
        self._suggested_for: Owner | None = None
        self._letter = "A"
        self._chosen: tuple[str, int] | None = None
        self._end: int | None = None
        self._from: BoardPoint | None = None
        self._at: BoardPoint | None = None
        self._draft: TracedEdge | None = None
        self._suggested: Suggestion | None = None
        self._by_hand: tuple[str, TracedEdge, TracedEdge] | None = None  # set, as laid onto the photo, as drawn

    def options(self) -> QWidget:
        self._set = Choice([], "Set of edges")
        self._kind = Choice(KINDS, "What the set's edges are")
        self._list = Names("Traced edges", 5)
        self._remove = button("Remove this edge", self.delete)
        self._snap = Tick("Snap to the photo's edges")
        self._snap.show_value(True)
        self._back = button("As I drew it", self.as_the_hand_drew, tip="The line as the hand drew it, H on the board")
        self._look = button("Suggest sets of edges", self._ask)
        self._found = soft("")
        self._accept = button("Take them", self._take, main=True)
        self._refuse_them = button("No", self._put_away)
        self._set.chosen.connect(self._choose_set)
        self._kind.chosen.connect(lambda kind: self.commit(set_kind(self._letter, kind)))
        self._list.chosen.connect(self._choose_row)
        return form(
            ("Set", self._set),
            ("Edges are", self._kind),
            self._snap,
            self._back,
            self._list,
            self._remove,
            rule(),
            self._look,
            self._found,
            (self._accept, self._refuse_them),
        )

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
        self._back.setVisible(self._laid_place() is not None)
        self._show_suggestion()

    def _fill_list(self) -> None:
        names: list[str] = []
        row = -1
        for edge_set in self.desk.study.perspective.sets:
            for number, edge in enumerate(edge_set.edges, 1):
                if self._chosen == (edge_set.letter, number - 1):
                    row = len(names)
                names.append(f"{edge_set.letter}{number}   {self._string_words(edge_set.letter, edge)}")
        self._list.show_names(names, row)
        for each in (self._list, self._remove):
            each.setVisible(bool(names))

    # -- suggestions ------------------------------------------------------------------------------------------

    def _ask(self) -> None:
        looks = self.desk.computed.looks
        if looks is None or not looks.complete:
            self.desk.say("The photo is still being read. Try again in a moment.")
            return
        photo = self.desk.ground
        focal = told_focal_px(photo)
        self._looking = self.desk.jobs.do(
            "Looking for edges that run together",
            _suggest,
            *(looks.picture, focal, self.desk.study.perspective.sets),
            owner=self.desk.session.owner(),
            done=self._show_found,
            called_off=lambda: self.desk.say(OTHER_STUDY.format("Looking for edges")),
        )
        self.refresh()

    def _show_found(self, suggestion: Suggestion) -> None:
        self._suggested, self._suggested_for = suggestion, self.desk.session.owner()
        self.refresh()
        self.desk.board.update()

    def _show_suggestion(self) -> None:
        if self._suggested_for is not None and not self._suggested_for.in_hand(self.desk.session.owner()):
            self._suggested = self._suggested_for = None  # it was for another study
        found = self._suggested
        busy = self._looking is not None and self._looking.state != "ended"
        some = found is not None and bool(found.sets)
        self._look.setEnabled(not busy)
        for each in (self._accept, self._refuse_them):
            each.setVisible(some)
        if busy:
            self._found.setText("Looking at the edges …")
        elif found is None:
            self._found.setText("")
        else:
            words = {"upright": "uprights", "level": "running back", "free": "free"}
            kinds = [f"{len(each.edges)} {words[each.kind]}" for each in found.sets]
            sure = f"Sure: {100 * found.probability:.0f} in 100" if found.sure else ""
            told = (", ".join(kinds), sure, found.reason)
            self._found.setText(". ".join(part for part in told if part))

    def _take(self) -> None:
        if self._suggested is not None:
            sets = tuple((each.kind, each.edges, each.letter) for each in self._suggested.sets)
            self._suggested = None
            self.commit(take_sets(sets))

    def _put_away(self) -> None:
        self._suggested = None
        self.refresh()
        self.desk.board.update()

    # -- edges ------------------------------------------------------------------------------------------------

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
            self.desk.say("Drag along the edge from one end to the other; that was only a click.")
            return
        laid = self._snapped(edge, at)
        if self.commit(trace_edge(self._letter, laid)):
            self._by_hand = (self._letter, laid, edge) if laid != edge else None
            edges = next(each.edges for each in self.desk.study.perspective.sets if each.letter == self._letter)
            self._chosen = (self._letter, len(edges) - 1)
            self.refresh()

    def as_the_hand_drew(self) -> None:
        place = self._laid_place()
        if place is None or self._by_hand is None:
            return
        letter, _, drawn = self._by_hand
        self._by_hand = None
        if self.commit(move_edge(letter, place, drawn)):
            self.desk.say("The edge lies as you drew it.")

    def _laid_place(self) -> int | None:
        """Where the edge that was laid onto the photo last is in its set; None when it has been changed since."""
        if self._by_hand is None:
            return None
        letter, laid, _ = self._by_hand
        edges = next((each.edges for each in self.desk.study.perspective.sets if each.letter == letter), ())
        return edges.index(laid) if laid in edges else None

    def _snapped(self, edge: TracedEdge, at: BoardPoint) -> TracedEdge:
        """The edge laid onto the one in the photo, where there is one near."""
        looks = self.desk.computed.looks
        if looks is None or not self._snap.isChecked():
            return edge
        from mild_compass.craft.armature.tracing import snapped_to_edge

        ends = ((edge.x0_px, edge.y0_px), (edge.x1_px, edge.y1_px))
        found = snapped_to_edge(looks.picture, ends, SNAP_REACH * at.reach_px)
        return edge if found is None else TracedEdge(*found[0], *found[1])

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
        dx, dy = self.desk.on_photo(dx_mm, dy_mm)
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
        if self._by_hand is not None and self._laid_place() is not None:
            drawn = self._by_hand[2]
            line = photo.to_widget([[drawn.x0_px, drawn.y0_px], [drawn.x1_px, drawn.y1_px]])
            cased_line(painter, line, pen("subject", 1.2, "dotted"))
        if self._suggested is not None and self._suggested.horizon_px is not None:
            left, right = self._suggested.horizon_px
            across = photo.to_widget([[0.0, left], [float(self.desk.ground.width_px), right]])
            cased_line(painter, across, pen("perspective", 1.4, "dashed"))
            words = f"horizon, {self._suggested.certainty}"
            paint_word(painter, words, float(across[0, 0]) + 8, float(across[0, 1]) - 6)
        if self._suggested is not None:
            for number, each in enumerate(self._suggested.sets):
                for edge in each.edges:
                    line = photo.to_widget([[edge.x0_px, edge.y0_px], [edge.x1_px, edge.y1_px]])
                    cased_line(painter, line, pen("subject", 1.8, "solid" if number == 0 else "dashed"))
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
        paint_word(painter, f"{letter}{index + 1}", x + 7, y - 6, POINT_INK)
