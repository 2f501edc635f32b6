"""Practice: a card with a question, answered by pointing, choosing or typing; the error is told at once."""

from __future__ import annotations

import time
from random import SystemRandom
from typing import TYPE_CHECKING
from uuid import uuid4

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QFont, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from mild_compass.plan.times import now
from mild_compass.studio.widgets import Line as TextLine
from mild_compass.studio.widgets import Wrapped, button, soft

if TYPE_CHECKING:
    from collections.abc import Sequence

    from mild_compass.craft.practice.card import Judged, Mark, Question, Spot
    from mild_compass.craft.practice.drills import Drill
    from mild_compass.craft.practice.own import OwnCard
    from mild_compass.studio.pages.parts import Parts

PAPER, INK, TRUTH, YOURS = "#faf9f6", "#28282a", "#a2391f", "#26399e"
COVER = "#d9d7d2"
ROUND = 6  # questions


class Card(QWidget):
    """Paints a question, then its truth; tells where it was pointed at, in mm on the card."""

    pointed = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.question: Question | None = None
        self.truth: tuple[Mark, ...] = ()
        self.spots: list[Spot] = []
        self.picked: list[int] = []
        self.covered = False
        self.photo: QImage | None = None
        self.setMinimumSize(300, 200)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The card of the drill")

    def place(self, spot: Spot) -> QPointF:
        """Where a spot of the card is on the widget."""
        area, scale = self._area()
        return QPointF(area.left() + spot[0] * scale, area.top() + spot[1] * scale)

    def _area(self) -> tuple[QRectF, float]:
        assert self.question is not None
        wide, high = self.question.size_mm
        scale = min((self.width() - 32) / wide, (self.height() - 32) / high)
        size = (wide * scale, high * scale)
        return QRectF((self.width() - size[0]) / 2, (self.height() - size[1]) / 2, *size), scale

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if self.question is not None:
            area, scale = self._area()
            painter.fillRect(area, QColor(COVER if self.covered else PAPER))
            painter.setPen(QColor("#bdbdbd"))
            painter.drawRect(area)
            painter.setClipRect(area if not self.question.own else QRectF(self.rect()))
            if not self.covered:
                self._paint_marks(painter, self.question.marks, scale, INK)
            self._paint_marks(painter, self.truth, scale, TRUTH)
            self._paint_answer(painter)
        painter.end()

    def _paint_marks(self, painter: QPainter, marks: Sequence[Mark], scale: float, ink: str) -> None:
        from mild_compass.craft.practice.card import Area, Line, Word

        for mark in marks:
            if isinstance(mark, Line):
                self._paint_line(painter, mark.points, max(1.0, mark.width_mm * scale), ink, mark.dashed)
            elif isinstance(mark, Area):
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QColor(*mark.rgb))
                painter.drawPolygon(QPolygonF([self.place(point) for point in mark.points]))
                painter.setBrush(Qt.BrushStyle.NoBrush)
            elif isinstance(mark, Word):
                self._paint_word(painter, mark.text, mark.at, ink)
            elif self.photo is not None:
                painter.drawImage(self._area()[0], self.photo)

    def _paint_line(self, painter: QPainter, points: Sequence[Spot], width: float, ink: str, dashed: bool) -> None:
        line = QPolygonF([self.place(point) for point in points])
        if self.question is not None and self.question.own:  # a casing, so that it reads on any photo
            painter.setPen(QPen(QColor("#f6f4ee"), width + 2.5))
            painter.drawPolyline(line)
        style = Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine
        painter.setPen(QPen(QColor(ink), width, style, Qt.PenCapStyle.FlatCap))
        painter.drawPolyline(line)

    def _paint_word(self, painter: QPainter, text: str, at: Spot, ink: str) -> None:
        font = QFont(painter.font())
        font.setPixelSize(14)
        font.setWeight(QFont.Weight.DemiBold)
        painter.setFont(font)
        painter.setPen(QColor(ink))
        middle = self.place(at)
        painter.drawText(QRectF(middle.x() - 120, middle.y() - 12, 240, 24), Qt.AlignmentFlag.AlignCenter, text)

    def _paint_answer(self, painter: QPainter) -> None:
        """Where the artist pointed, and what was chosen."""
        assert self.question is not None
        for colour, width in (("#f6f4ee", 5.0), (YOURS, 2.2)):
            painter.setPen(QPen(QColor(colour), width))
            for spot in self.spots:
                at = self.place(spot)
                for dx, dy in ((6, 6), (6, -6)):
                    painter.drawLine(at - QPointF(dx, dy), at + QPointF(dx, dy))
            for choice in self.picked:
                outline = QPolygonF([self.place(point) for point in self.question.choices[choice]])
                painter.drawPolyline(outline)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.question is None:
            return
        area, scale = self._area()
        at = event.position()
        self.pointed.emit(((at.x() - area.left()) / scale, (at.y() - area.top()) / scale))


class PracticePage(QWidget):
    """Asks question after question of a drill; Enter goes on."""

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        from mild_compass.craft.practice.drills import DRILLS

        self._session, self._computed, self._memory = parts.session, parts.computed, parts.memory
        self.setAccessibleName("Practice")
        self.drill: Drill = DRILLS[0]
        self.own = False
        self.last_answer: str | None = None
        self.chance = SystemRandom()
        self._own_card: tuple[object, OwnCard] | None = None
        self._begun = 0.0
        self._asked = self._right = 0
        self._question: Question | None = None
        self._judged: Judged | None = None
        self._cover = QTimer(self, singleShot=True)
        self._cover.timeout.connect(self._cover_card)
        self._lay_out()
        parts.session.replaced.connect(self._begin_anew)

    def _lay_out(self) -> None:
        self.card = Card()
        self.card.pointed.connect(self._pointed)
        self._prompt, self._told = Wrapped(), Wrapped()
        for words in (self._prompt, self._told):
            words.setProperty("head", True)
        self._count = soft("")
        self._line = TextLine()
        self._line.setAccessibleName("Your answer")
        self._line.setMaximumWidth(140)
        self._line.returnPressed.connect(self._typed)
        self._go_on = button("Next", self.ask, main=True)
        row = QHBoxLayout()
        row.addWidget(self._line)
        row.addWidget(self._told, 1)
        row.addWidget(self._go_on)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 14, 24, 16)
        layout.setSpacing(6)
        layout.addWidget(self._count)
        layout.addWidget(self._prompt)
        layout.addWidget(self.card, 1)
        layout.addLayout(row)

    # -- what is asked ----------------------------------------------------------------------------------------

    @property
    def question(self) -> Question | None:
        """The question on the card."""
        return self._question

    @property
    def can_use_own(self) -> bool:
        """Whether the plan knows the answer to this drill on the artist's own reference."""
        card = self._own()
        return card is not None and self.drill.name in card.can()

    def take(self, name: str) -> None:
        """Take up a drill."""
        from mild_compass.craft.practice.drills import drill

        self.drill = drill(name)
        self.own = self.own and self.can_use_own
        self._asked = self._right = 0
        self.ask()

    def use_own(self, on: bool) -> None:
        """Ask on the artist's own reference, or on made pictures."""
        self.own = on and self.can_use_own
        self.ask()

    def refresh(self) -> None:
        """Ask when the page is first seen."""
        if self.isVisible() and self._question is None:
            self.ask()

    def showEvent(self, event: object) -> None:
        self.refresh()

    def hideEvent(self, event: object) -> None:
        """A card that is looked at for a time only is asked anew when one comes back."""
        if self._question is not None and self._question.seen_s and self._judged is None:
            self._cover.stop()
            self._question = None

    def ask(self) -> None:
        """The next question."""
        level = self._memory.history.level(self.drill.name)
        own = self._own() if self.own else None
        if own is not None and self.drill.name in own.can():
            question = own.question(self.drill.name, self.chance, level)
        else:
            question = self.drill.question(self.chance, level)
        self._show(question)

    def _show(self, question: Question) -> None:
        self._question, self._judged = question, None
        card = self.card
        card.question, card.truth, card.spots, card.picked, card.covered = question, (), [], [], False
        card.photo = self._photo() if question.own else None
        self._prompt.setText(question.prompt)
        self._told.setText(_how(question))
        self._told.setProperty("soft", True)
        self._line.setVisible(question.kind == "number")
        self._line.setEnabled(True)
        self._line.clear()
        self._line.setPlaceholderText(question.unit)
        self._go_on.setEnabled(False)
        done = f", {self._right} right" if self._asked else ""
        self._count.setText(f"{self.drill.title}, question {self._asked % ROUND + 1} of {ROUND}{done}")
        (self._line if question.kind == "number" else card).setFocus()
        self._begun = time.monotonic()
        self._cover.stop()
        if question.seen_s:
            self._cover.start(round(1000 * question.seen_s))
        card.update()

    def _cover_card(self) -> None:
        self.card.covered = True
        self._begun = time.monotonic()
        self._told.setText("Now point at all five.")
        self.card.update()

    # -- the answer -------------------------------------------------------------------------------------------

    def _pointed(self, at: Spot) -> None:
        from mild_compass.craft.practice.card import along, onto

        question = self._question
        if question is None or self._judged is not None:
            return
        if question.kind == "point":
            spot = along(question.line, onto(question.line, at)) if question.line is not None else at
            self.card.spots = [spot]
            self._judge(spot)
        elif question.kind == "places" and self.card.covered:
            self.card.spots.append(at)
            if len(self.card.spots) == question.count:
                self._judge(tuple(self.card.spots))
        elif question.kind in ("choice", "order"):
            self._pick(next((n for n, each in enumerate(question.choices) if _inside(each, at)), -1))
        self.card.update()

    def _pick(self, choice: int) -> None:
        question = self._question
        if question is None or self._judged is not None or not 0 <= choice < len(question.choices):
            return
        if choice in self.card.picked:
            return
        self.card.picked.append(choice)
        if question.kind == "choice":
            self._judge(choice)
        elif len(self.card.picked) == question.count:
            self._judge(tuple(self.card.picked))
        self.card.update()

    def _typed(self) -> None:
        """Enter judges what is typed, and then goes on."""
        if self._judged is not None:
            self.ask()
            return
        text = self._line.text().replace(",", ".").replace("°", "").strip()
        try:
            number = float(text)
        except ValueError:
            number = float("nan")
        if not abs(number) < 1e6:
            self._told.setText("That is not a number. Type for instance 2.5.")
            return
        self._judge(number)

    def _judge(self, given: object) -> None:
        from mild_compass.craft.practice.history import Answered

        question = self._question
        assert question is not None
        judged = self._judged = question.judge(given)  # type: ignore[arg-type]
        self.card.truth, self.card.covered = judged.truth, False
        self._asked += 1
        self._right += judged.right
        self._told.setProperty("soft", False)
        self._told.setText(("Right. " if judged.right else "") + judged.words)
        self._line.setEnabled(True)
        self._go_on.setEnabled(True)
        if question.kind != "number":
            self._go_on.setFocus()
        self.last_answer = str(uuid4())
        seconds = round(time.monotonic() - self._begun, 1)
        self._memory.keep_answer(
            Answered(
                self.last_answer, now(), self.drill.name, judged.error, judged.right, question.allowed, seconds,
                question.own,
            )
        )  # fmt: skip
        self.card.update()

    def strike_last(self) -> None:
        """The last answer was a slip of the hand: it does not count."""
        if self.last_answer is not None:
            self._memory.strike_answer(self.last_answer)
            self.last_answer = None
            self._asked = max(0, self._asked - 1)
            self.ask()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Digits choose, Enter goes on."""
        key = event.key()
        if self._line.hasFocus():  # it has had the key already
            super().keyPressEvent(event)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._judged is not None:
            self.ask()
        elif self._question is not None and self._question.choices and Qt.Key.Key_1 <= key <= Qt.Key.Key_9:
            self._pick(key - Qt.Key.Key_1)
        else:
            super().keyPressEvent(event)

    # -- the own reference ------------------------------------------------------------------------------------

    def _own(self) -> OwnCard | None:
        """What the plan knows of its own picture, worked out once for a plan as it stands."""
        worked = self._computed.worked()
        if worked is None or not worked.ground.is_photo or worked.picture is None:
            return None
        key = (worked.study, worked.plan.paper)
        if self._own_card is None or self._own_card[0] != key:
            from mild_compass.craft.practice.own import own_card

            self._own_card = (key, own_card(worked))
        return self._own_card[1]

    def _photo(self) -> QImage | None:
        worked = self._computed.worked()
        if worked is None or worked.picture is None:
            return None
        from mild_compass.craft.picture.framed import framed_colour
        from mild_compass.studio.derived.looks import image_of

        return image_of(framed_colour(worked.picture, worked.study.frame, worked.frame_map, 1400))

    def _begin_anew(self) -> None:
        self._own_card, self.own, self._question, self.last_answer = None, False, None, None
        self._cover.stop()


def _how(question: Question) -> str:
    """How it is answered."""
    return {
        "point": "Click the place.",
        "number": "Type it, then Enter.",
        "choice": f"Click it, or press 1 to {len(question.choices)}.",
        "order": f"Click three, or press 1 to {len(question.choices)}.",
        "places": f"They are covered after {question.seen_s:.0f} seconds.",
    }[question.kind]


def _inside(outline: Sequence[Spot], at: Spot) -> bool:
    return QPolygonF([QPointF(x, y) for x, y in outline]).containsPoint(QPointF(*at), Qt.FillRule.OddEvenFill)
