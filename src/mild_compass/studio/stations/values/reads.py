"""The reads: where the eye goes first, second and third; where it should end; what pulls by what it is."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import Qt

from mild_compass.plan.edits.values import set_focus, set_pulls
from mild_compass.plan.tones import Pull
from mild_compass.studio.board.board import handle, near
from mild_compass.studio.board.marks import paint_word
from mild_compass.studio.board.strokes import cased_line, pen
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.stations.values.seen import seen_choice
from mild_compass.studio.widgets import Choice, button, form, rule, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint

FOCUS = "focus"
MARKS = [
    ("where the eye should end", FOCUS),
    ("a face", "face"),
    ("a living figure", "figure"),
    ("a pointed shape", "pointed"),
    ("a warm colour", "warm"),
]
WORDS = {"face": "face", "figure": "figure", "pointed": "point", "warm": "warm"}


class ReadsInstrument(Instrument):
    """Sets the focus and marks what pulls; the three reads are numbered on the board."""

    name = "reads"
    words = "Reads"
    icon = "reads"
    tells = ("focus", "hierarchy", "read", "corner_pull", "edge_pull")
    needs = "a photo"
    hint = "Numbered: where the eye goes first, second, third. Click where you want it to end, and what pulls besides."
    cursor = Qt.CursorShape.CrossCursor
    fill = "contrast"

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._held: int | str | None = None

    def options(self) -> QWidget:
        self._mark = Choice(MARKS, "What a click marks")
        choices = [("What stands out", "contrast"), ("Values only", "values"), ("Colour", "colour")]
        self._seen = seen_choice(self.desk, choices)  # type: ignore[arg-type]
        self._open = button("Leave the focus open", lambda: self.commit(set_focus(None)))
        self._clear = button("Take the marks off", lambda: self.commit(set_pulls(())))
        return form(
            soft("A click marks"),
            self._mark,
            self._open,
            self._clear,
            rule(),
            soft("The board shows"),
            self._seen,
            soft("What stands out is lit. Drag a mark to move it, Delete takes the last off."),
        )

    def refresh(self) -> None:
        reads = self.desk.study.reads
        self._seen.show_value(self.desk.board.fill)
        self._open.setEnabled(reads.focus is not None)
        self._clear.setEnabled(bool(reads.pulls))

    def press(self, at: BoardPoint) -> bool:
        reads = self.desk.study.reads
        self._held = None
        for k, pull in enumerate(reads.pulls):
            if near(at.photo_px, (pull.x_px, pull.y_px), at.reach_px):
                self._held = k
        if reads.focus is not None and near(at.photo_px, reads.focus, at.reach_px):
            self._held = FOCUS
        return True

    def drag(self, at: BoardPoint) -> None:
        if self._held is not None:
            self.desk.session.preview(self._edit(at))

    def _edit(self, at: BoardPoint):  # type: ignore[no-untyped-def]
        pulls = self.desk.study.reads.pulls
        if self._held == FOCUS or (self._held is None and self._mark.value == FOCUS):
            return set_focus(at.photo_px)
        if isinstance(self._held, int):
            moved = Pull(pulls[self._held].kind, *at.photo_px)
            return set_pulls((*pulls[: self._held], moved, *pulls[self._held + 1 :]))
        return set_pulls((*pulls, Pull(self._mark.value, *at.photo_px)))

    def release(self, at: BoardPoint) -> None:
        edit, self._held = self._edit(at), None
        self.commit(edit)

    def cancel(self) -> None:
        self._held = None
        super().cancel()

    def delete(self) -> None:
        pulls = self.desk.study.reads.pulls
        if pulls:
            self.commit(set_pulls(pulls[:-1]))

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        found = self.desk.computed.views.reads()
        angle = np.linspace(0, 2 * np.pi, 49)
        circle = np.stack([np.cos(angle), np.sin(angle)], 1)
        for k, (read, place) in enumerate(zip(found.reads, found.places_mm, strict=True) if found else ()):
            at = sheet.to_widget(place)
            cased_line(painter, at + circle * (12 + 14 * read.strength), pen("subject", 2.2 if k == 0 else 1.3))
            paint_word(painter, str(k + 1), float(at[0]) - 4, float(at[1]) + 4)
        for pull in self.desk.study.reads.pulls:
            x, y = photo.to_widget((pull.x_px, pull.y_px)).tolist()
            handle(painter, x, y)
            paint_word(painter, WORDS[pull.kind], x + 9, y + 4)
        focus = self.desk.study.reads.focus
        if focus is not None:
            at = photo.to_widget(focus)
            for arm in ((9, 0), (0, 9)):
                cased_line(painter, np.stack([at - arm, at + arm]), pen("measure", 1.8))
            paint_word(painter, "focus", float(at[0]) + 12, float(at[1]) - 6)
