"""The logbook on the board's place: the line of time with its pictures, what is looked for, a question by the way."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QScrollArea, QToolButton, QVBoxLayout, QWidget

from mild_compass.craft.logbook.questions import Asked, is_after, next_question
from mild_compass.craft.logbook.timeline import Item, PictureOf, Wanted, chosen, timeline, when
from mild_compass.plan.edits.check import remove_drawing
from mild_compass.plan.edits.logbook import answer, change_note, delete_line
from mild_compass.plan.edits.work import delete_sitting
from mild_compass.plan.times import now
from mild_compass.studio.derived.derived import Derived, Key
from mild_compass.studio.theme.apply import text_times
from mild_compass.studio.theme.icons import give_icon
from mild_compass.studio.widgets import Line, Wrapped, button, plain_label, soft

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.craft.picture.load import Picture
    from mild_compass.memory.plan_index import Hit
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Frame
    from mild_compass.studio.pages.parts import Parts

AT_ONCE = 200  # lines; those before are a click away
THUMB_PX = (150, 110)
NOTHING_YET = "Nothing yet. What you decide is written here by itself; add notes in the line below."
NOTHING_FOUND = "Nothing in the logbook is like that."
KIND_WORDS = {"check": "Check", "sitting": "Easel"}


def _framed_image(picture: Picture, frame: Frame, paper: Paper) -> QImage:
    """In a worker."""
    from mild_compass.studio.derived.looks import frame_images

    return frame_images(picture, [frame], paper)[0]


class LogbookPage(QScrollArea):
    """One row per line, the latest at the foot; notes stand out, decisions are quiet.

    Rows that are there stay: only what has come or gone is laid out.
    """

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        self._session, self._computed, self._settings = parts.session, parts.computed, parts.settings
        self._framed: Derived[QImage] = Derived(
            "picture in the record", parts.session, parts.work, self._framed_from, _framed_image
        )
        self._framed.changed.connect(self._show_pictures)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setAccessibleName("Logbook")
        self._shown: tuple[object, ...] = ()
        self._rows: list[_Row] = []
        self._most = AT_ONCE
        self._wanted = Wanted()
        self._hits: tuple[Hit, ...] | None = None
        self._question = _Question(self._answer)
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(28, 20, 28, 20)
        layout.setSpacing(6)
        self._earlier = button("", self._show_earlier)
        self._empty = soft(NOTHING_YET)
        layout.addWidget(self._question)
        layout.addWidget(self._earlier, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addWidget(self._empty)
        self._lines = QVBoxLayout()
        self._lines.setSpacing(6)
        layout.addLayout(self._lines)
        layout.addStretch(1)
        self.setWidget(page)
        parts.session.replaced.connect(self._begin_anew)
        parts.computed.changed.connect(self.refresh)

    def show_wanted(self, wanted: Wanted) -> None:
        """Look at some of it only."""
        self._wanted, self._hits = wanted, None
        self._shown = ()
        self.refresh()

    def show_hits(self, hits: tuple[Hit, ...]) -> None:
        """Show what was found in all plans."""
        self._hits = hits
        self._shown = ()
        self.refresh()

    def refresh(self) -> None:
        """Follow the log while the page is seen."""
        plan = self._session.plan
        if not self.isVisible():
            return
        self._ask()
        shown = (plan.log, plan.sittings, plan.drawings)
        if len(self._shown) == len(shown) and all(a is b for a, b in zip(shown, self._shown, strict=True)):
            self._show_pictures()
            return
        self._shown = shown
        found = chosen(timeline(plan), self._wanted) if self._hits is None else tuple(map(_as_item, self._hits))
        wanted = found[-self._most :]
        self._take_away(set(wanted))
        for place, item in enumerate(wanted):
            if place == len(self._rows) or self._rows[place].item != item:
                row = _Row(item, self._delete, self._change, own=self._hits is None)
                self._rows.insert(place, row)
                self._lines.insertWidget(place, row)
        day = ""
        for row in self._rows:
            row.head.setVisible(row.day != day)
            day = row.day
        before = len(found) - len(wanted)
        self._earlier.setText(f"Show the lines before ({before})")
        self._earlier.setVisible(before > 0)
        self._empty.setVisible(not found)
        self._empty.setText(NOTHING_FOUND if plan.log else NOTHING_YET)
        self._show_pictures()

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _take_away(self, wanted: set[Item]) -> None:
        kept = []
        for row in self._rows:
            if row.item in wanted and row.own == (self._hits is None):
                kept.append(row)
            else:
                self._lines.removeWidget(row)
                row.deleteLater()
                row.hide()
        self._rows = kept

    def _show_pictures(self) -> None:
        for row in self._rows:
            if row.item.picture is not None:
                row.show_picture(self._picture(row.item.picture))

    def _picture(self, of: PictureOf) -> QPixmap | None:
        """What is there already is shown; a drawing is looked at at Check."""
        plan, study = self._session.plan, self._session.plan.study
        if of.kind == "drawing":
            if plan.drawing is None or plan.drawing.id != of.name:
                return None
            check = self._computed.drawing_check
            image = check.flat.get("colour", check.photo) if check is not None else None
        elif study is None or study.name != of.name:
            return None
        elif of.kind == "masses":
            image = self._computed.masses_image
        else:
            image = self._framed.look()
        return QPixmap.fromImage(image) if image is not None else None

    @property
    def settled(self) -> bool:
        """Whether the picture in the record is that of the study as it is."""
        return not self.isVisible() or self._framed.settled or self._framed.state == "none"

    def _framed_from(self) -> Key | None:
        plan, looks = self._session.plan, self._computed.looks
        return (looks.picture, plan.study.frame, plan.paper) if looks is not None and plan.study is not None else None

    def _show_earlier(self) -> None:
        self._most += AT_ONCE
        self._shown = ()
        self.refresh()

    def _begin_anew(self) -> None:
        self._most = AT_ONCE
        self._shown, self._hits = (), None

    # -- what the artist does ---------------------------------------------------------------------------------

    def _delete(self, item: Item) -> None:
        if item.index >= 0:
            self._session.apply(delete_line(item.index))
        elif item.kind == "sitting":
            self._session.apply(delete_sitting(item.key))
        else:
            self._session.apply(remove_drawing(item.key))

    def _change(self, item: Item, text: str) -> None:
        self._session.apply(change_note(item.index, text))

    def _ask(self) -> None:
        """The next question, once for each; nothing when the record is searched, or there is nothing to ask about."""
        plan = self._session.plan
        asked = "after" if is_after(plan) else "before"
        own = [words for kind, words in self._settings.now.own_questions if kind == asked]
        searching = self._hits is not None or self._wanted != Wanted()
        question = None if searching or plan.study is None else next_question(plan, asked, own)  # type: ignore[arg-type]
        self._question.show_question(question)

    def _answer(self, question: Asked, text: str) -> None:
        self._session.apply(answer(question.question, question.asked, text, now()))


def _as_item(hit: Hit) -> Item:
    """A line of another plan; it is changed there."""
    kind = hit.kind if hit.kind in ("note", "decision", "check", "sitting") else "decision"
    return Item(hit.time, kind, hit.station, f"{hit.plan}", hit.text)  # type: ignore[arg-type]


class _Question(QFrame):
    """A question by the way; an answer goes into the log, and put aside it does not come again."""

    def __init__(self, answered: Callable[[Asked, str], None]) -> None:
        super().__init__()
        self._answered = answered
        self._asked: Asked | None = None
        self.setProperty("card", True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 10, 8)
        layout.setSpacing(6)
        self._when = soft("")
        self._words = Wrapped()
        self._words.setProperty("head", True)
        self._line = Line()
        self._line.setAccessibleName("Your answer")
        self._line.returnPressed.connect(lambda: self._send(self._line.text()))
        row = QHBoxLayout()
        row.addWidget(self._line, 1)
        row.addWidget(button("Write it down", lambda: self._send(self._line.text())))
        row.addWidget(button("Not this one", lambda: self._send(""), tip="It does not come up again"))
        layout.addWidget(self._when)
        layout.addWidget(self._words)
        layout.addLayout(row)
        self.hide()

    def show_question(self, asked: Asked | None) -> None:
        """Show a question, or none; what is being typed is left alone while the question is the same."""
        self.setVisible(asked is not None)
        if asked is not None and asked != self._asked:
            self._when.setText("Before the first mark" if asked.asked == "before" else "After the last mark")
            self._words.setText(asked.question)
            self._line.clear()
        self._asked = asked

    def _send(self, text: str) -> None:
        if self._asked is not None:
            self._answered(self._asked, text)


class _Row(QWidget):
    """A line of the log, under its day where a new one begins."""

    def __init__(
        self, item: Item, delete: Callable[[Item], None], change: Callable[[Item, str], None], own: bool
    ) -> None:
        super().__init__()
        self.item, self.own = item, own
        self.day, self._time = when(item.time)
        self._delete, self._change = delete, change
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        self.head: QLabel = plain_label(self.day)
        self.head.setProperty("head", True)
        layout.addWidget(self.head)
        layout.addWidget(self._line())

    def _line(self) -> QWidget:
        item = self.item
        row = QFrame()
        row.setProperty("card", item.kind in ("note", "sitting"))
        layout = QHBoxLayout(row)
        layout.setContentsMargins(10, 4, 6, 4)
        layout.setSpacing(12)
        where = KIND_WORDS.get(item.kind, item.station.capitalize()) + (f" · {item.study}" if item.study else "")
        for text, width in ((self._time, 44), (where, 122)):
            label = plain_label(text)
            label.setProperty("soft", True)
            label.setFixedWidth(round(width * text_times()))
            layout.addWidget(label, 0, Qt.AlignmentFlag.AlignTop)
        self._column = QVBoxLayout()
        self._column.setSpacing(0)
        self._words = Wrapped(f"“{item.text}”" if item.kind == "note" else item.text)
        self._words.setProperty("soft", item.kind not in ("note", "sitting"))
        self._column.addWidget(self._words)
        self._picture = plain_label()
        self._picture.hide()
        self._column.addWidget(self._picture)
        self._column.addStretch(1)
        layout.addLayout(self._column, 1)
        if self.own and item.kind == "note":
            layout.addWidget(self._tool("pencil", self._edit, "Change this note"), 0, Qt.AlignmentFlag.AlignTop)
        if self.own:
            layout.addWidget(
                self._tool("cross", lambda: self._delete(item), "Delete this line"), 0, Qt.AlignmentFlag.AlignTop
            )
        return row

    def _tool(self, drawn: str, action: Callable[[], None], tip: str) -> QWidget:
        tool = QToolButton()
        give_icon(tool, drawn)
        tool.setIconSize(QSize(15, 15))
        tool.setProperty("tiny", True)
        tool.setFixedSize(24, 22)
        tool.setToolTip(tip)
        tool.clicked.connect(lambda: action())
        tool.setAccessibleName(f"{tip.removesuffix(' this line').removesuffix(' this note')}: {self.item.text[:40]}")
        return tool

    def show_picture(self, picture: QPixmap | None) -> None:
        """The picture beside the line, once it is there."""
        if picture is not None:
            fitted = Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
            self._picture.setPixmap(picture.scaled(*THUMB_PX, *fitted))
        self._picture.setVisible(picture is not None)

    def _edit(self) -> None:
        """A line in the place of the words; Enter takes it over."""
        line = Line()
        line.setAccessibleName("The note")
        line.setText(self.item.text)
        self._words.hide()
        self._column.insertWidget(0, line)
        line.setFocus()
        line.editingFinished.connect(lambda: self._edited(line))

    def _edited(self, line: Line) -> None:
        text = line.text()
        self._column.removeWidget(line)
        line.deleteLater()
        self._words.show()
        if text.strip() != self.item.text:
            self._change(self.item, text)
