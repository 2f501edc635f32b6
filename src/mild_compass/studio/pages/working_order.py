"""The working order: for each sitting a strip of time with the waiting in it, and its steps as a list."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QFont, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from mild_compass.studio.theme.apply import text_times
from mild_compass.studio.widgets import Wrapped, plain_label

if TYPE_CHECKING:
    from mild_compass.craft.work.planned import WorkingOrder
    from mild_compass.craft.work.sittings import Part, SittingPlan
    from mild_compass.craft.work.step import WorkStep
    from mild_compass.plan.model import Plan
    from mild_compass.plan.work import Sitting
    from mild_compass.studio.derived.work_order import DrawnOrder
    from mild_compass.studio.pages.parts import Parts

THUMB_PX, NUMBERS_PX = (104, 70), 136
BAR_PX, DRY_PX, STRIP_PX = 26, 4, 74
TICK_MIN = (5, 10, 15, 30, 60, 120, 240)
LEAST_TICK_PX = 54
WORK_INK, DRY_INK, CHOSEN_INK = "#4a4a4c", "#26399e", "#a2391f"
EMPTY = "Add a photo, or begin with a blank sheet; its working order stands here."


class _Strip(QWidget):
    """Time of one sitting from left to right: work in blocks with the step's number, drying as a line below."""

    def __init__(self, order: WorkingOrder, sitting: SittingPlan, numbers: dict[str, int]) -> None:
        super().__init__()
        self._order, self._sitting, self._numbers = order, sitting, numbers
        self.chosen = ""
        self.setFixedHeight(STRIP_PX)
        self.setAccessibleName(f"Sitting {sitting.number} as a strip of time")

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ink = self.palette().windowText().color()
        span = max(self._sitting.end, *(part.dry_at for part in self._sitting.parts), 1.0)
        scale = (self.width() - 48) / span
        self._paint_waiting(painter, scale, ink)
        dry_row = 0
        for part in self._sitting.parts:
            self._paint_part(painter, part, scale)
            if part.dry_at > part.end:
                painter.setPen(QPen(QColor(DRY_INK), 2, Qt.PenStyle.DotLine))
                y = BAR_PX + 6 + DRY_PX * (dry_row % 2)
                painter.drawLine(QPointF(part.end * scale, y), QPointF(part.dry_at * scale, y))
                dry_row += 1
        self._paint_clock(painter, scale, span, ink)
        painter.end()

    def _paint_waiting(self, painter: QPainter, scale: float, ink: QColor) -> None:
        """Hatched, where the hands have nothing to do."""
        now = 0.0
        hatch = QColor(ink)
        hatch.setAlpha(90)
        for part in self._sitting.parts:
            if part.start > now + 0.5:
                painter.fillRect(
                    QRectF(now * scale, 0, (part.start - now) * scale, BAR_PX),
                    QBrush(hatch, Qt.BrushStyle.BDiagPattern),
                )
            now = part.end

    def _paint_part(self, painter: QPainter, part: Part, scale: float) -> None:
        block = QRectF(part.start * scale + 0.5, 0.5, max(2.0, (part.end - part.start) * scale - 1), BAR_PX - 1)
        colour = CHOSEN_INK if part.step.key == self.chosen else WORK_INK
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(colour))
        painter.drawRoundedRect(block, 2, 2)
        if block.width() >= 16:
            painter.setPen(QColor("#ffffff"))
            painter.drawText(block, Qt.AlignmentFlag.AlignCenter, str(self._numbers[part.step.key]))

    def _paint_clock(self, painter: QPainter, scale: float, span: float, ink: QColor) -> None:
        step = next((each for each in TICK_MIN if each * scale >= LEAST_TICK_PX), TICK_MIN[-1])
        font = QFont(painter.font())
        font.setPixelSize(11)
        painter.setFont(font)
        painter.setPen(ink)
        y = BAR_PX + 18
        for minute in range(0, int(span) + 1, step):
            painter.drawLine(QPointF(minute * scale + 0.5, y), QPointF(minute * scale + 0.5, y + 5))
            painter.drawText(QPointF(minute * scale, y + 18), self._order.clock(minute))


class _StepRow(QFrame):
    """A step, or a part of one: its picture, what it is, what it needs and waits for, how long it takes and dries."""

    pressed = Signal(str)

    def __init__(
        self, number: int, part: Part, order: WorkingOrder, picture: QPixmap | None, done_min: float | None
    ) -> None:
        super().__init__()
        self.key = part.step.key
        self._done_min = done_min if part.last else None
        self.setProperty("card", True)
        self.setAccessibleName(f"{number} {part.step.title}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(8, 6, 12, 6)
        layout.setSpacing(12)
        thumb = plain_label()
        thumb.setFixedSize(*THUMB_PX)
        thumb.setAlignment(Qt.AlignmentFlag.AlignCenter)
        if picture is not None:
            thumb.setPixmap(picture)
        layout.addWidget(thumb, 0, Qt.AlignmentFlag.AlignTop)
        layout.addLayout(self._words(number, part, order), 1)
        layout.addWidget(self._numbers(part, order))

    def _words(self, number: int, part: Part, order: WorkingOrder) -> QVBoxLayout:
        step = part.step
        some = "" if part.first and part.last else "  (a first part)" if part.first else "  (goes on)"
        head = Wrapped(f"{number}  {step.title}{some}")
        head.setProperty("head", True)
        column = QVBoxLayout()
        column.setSpacing(2)
        column.addWidget(head)
        column.addWidget(Wrapped(step.words))
        quiet = [f"Look: {step.look_for}"] if step.look_for else []
        if step.materials:
            quiet.append(f"At hand: {', '.join(step.materials)}.")
        waits = _waits(step, order)
        if waits:
            quiet.append(waits)
        quiet += step.cautions
        for line in quiet:
            words = Wrapped(line)
            words.setProperty("soft", True)
            column.addWidget(words)
        column.addStretch(1)
        return column

    def _numbers(self, part: Part, order: WorkingOrder) -> QWidget:
        """Numbers under each other, set to the right."""
        from mild_compass.craft.work.planned import hours

        step = part.step
        rows = [("at", order.clock(part.start)), ("takes", hours(part.end - part.start))]
        if (step.low_min, step.high_min) != (step.minutes, step.minutes):
            rows.append(("mostly", f"{step.low_min:.0f}–{step.high_min:.0f} min"))
        if step.drying_min and part.last:
            rows.append(("dries", hours(step.drying_min)))
        if self._done_min is not None:
            rows.append(("✓ done in", hours(self._done_min)))
        if step.area_cm2 >= 1:
            rows.append(("covers", f"{step.area_cm2:.0f} cm²"))
        column = QWidget()
        column.setProperty("clear", True)
        column.setFixedWidth(round(NUMBERS_PX * text_times()))
        grid = QGridLayout(column)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(1)
        for row, (word, number) in enumerate(rows):
            name, figure = plain_label(word), plain_label(number)
            name.setProperty("soft", True)
            figure.setAlignment(Qt.AlignmentFlag.AlignRight)
            grid.addWidget(name, row, 0)
            grid.addWidget(figure, row, 1)
        grid.setRowStretch(len(rows), 1)
        grid.setColumnStretch(1, 1)
        return column

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.pressed.emit(self.key)

    def focusInEvent(self, event: object) -> None:
        self.pressed.emit(self.key)


def _waits(step: WorkStep, order: WorkingOrder) -> str:
    """What it waits for, and what is done while it dries."""
    before = [order.step(need.step) for need in step.needs if need.dry and order.step(need.step).drying_min]
    words = f"Waits until {' and '.join(f'“{each.title}”' for each in before)} is dry. " if before else ""
    meanwhile = order.meanwhile(step.key) if step.drying_min else ()
    if meanwhile:
        words += f"Meanwhile: {', '.join(title[0].lower() + title[1:] for title in meanwhile)}."
    return words.strip()


class WorkingOrderPage(QScrollArea):
    """Laid out anew when the order has changed; which step is chosen stays."""

    chosen = Signal()

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        self._computed = parts.computed
        self._shown: DrawnOrder | None = None
        self._sittings: tuple[Sitting, ...] = ()
        self._chosen = ""
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setAccessibleName("Working order")
        parts.computed.changed.connect(self.refresh)
        parts.session.replaced.connect(self._forget)
        self._show_nothing()

    @property
    def order(self) -> DrawnOrder | None:
        """What is shown."""
        return self._shown

    @property
    def settled(self) -> bool:
        """Whether there is nothing to wait for."""
        return not self.isVisible() or self._computed.work_order.made.settled

    @property
    def chosen_step(self) -> WorkStep | None:
        """The step that is chosen."""
        steps = self._shown.order.steps if self._shown is not None else ()
        return next((step for step in steps if step.key == self._chosen), None)

    def refresh(self) -> None:
        """Follow the plan while the page is seen."""
        if not self.isVisible():
            return
        made, sittings = self._computed.work_order.look(), self._computed.plan.sittings
        if made is self._shown and sittings is self._sittings:
            return
        self._shown, self._sittings = made, sittings
        if made is None:
            self._show_nothing()
        else:
            self._lay_out(made)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def choose(self, key: str) -> None:
        """Choose a step."""
        if key == self._chosen:
            return
        self._chosen = key
        self._mark()
        self.chosen.emit()

    def _mark(self) -> None:
        for strip in self.findChildren(_Strip):
            strip.chosen = self._chosen
            strip.update()
        for row in self.findChildren(_StepRow):
            row.setProperty("chosen", row.key == self._chosen)
            row.style().unpolish(row)
            row.style().polish(row)

    def _forget(self) -> None:
        self._shown, self._chosen = None, ""
        self._show_nothing()

    def _show_nothing(self) -> None:
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(28, 24, 28, 20)
        words = "The working order is being made …" if self._computed.plan.study is not None else EMPTY
        layout.addWidget(Wrapped(words))
        layout.addStretch(1)
        self.setWidget(page)

    def _lay_out(self, made: DrawnOrder) -> None:
        at = self.verticalScrollBar().value()
        order = made.order
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(24, 16, 24, 20)
        layout.setSpacing(6)
        layout.addWidget(Wrapped(_summary(order)))
        numbers = {step.key: number for number, step in enumerate(order.in_order, 1)}
        done = _done(self._computed.plan)
        for sitting in order.sittings:
            head = plain_label(f"Sitting {sitting.number}   {order.clock(0)} to {order.clock(sitting.end)}")
            head.setProperty("head", True)
            layout.addSpacing(10)
            layout.addWidget(head)
            layout.addWidget(_Strip(order, sitting, numbers))
            for part in sitting.parts:
                key = part.step.key
                row = _StepRow(numbers[key], part, order, _thumb(made, key), done.get(key))
                row.pressed.connect(self.choose)
                layout.addWidget(row)
            stop = Wrapped(sitting.stop)
            stop.setProperty("head", True)
            layout.addWidget(stop)
        layout.addSpacing(10)
        for line in _at_the_foot(order, self._computed.plan):
            quiet = Wrapped(line)
            quiet.setProperty("soft", True)
            layout.addWidget(quiet)
        layout.addStretch(1)
        self.setWidget(page)
        self._mark()
        self.verticalScrollBar().setValue(at)


def _done(plan: Plan) -> dict[str, float]:
    """The minutes of each step of the current study that is done."""
    study = plan.study.id if plan.study is not None else ""
    steps = [step for sitting in plan.sittings if sitting.study == study for step in sitting.steps]
    ticked = {step.step for step in steps if step.done}
    return {key: sum(step.minutes for step in steps if step.step == key) for key in ticked}


def _thumb(made: DrawnOrder, key: str) -> QPixmap:
    picture = QPixmap.fromImage(made.thumbs[key])
    return picture.scaled(*THUMB_PX, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation)


def _at_the_foot(order: WorkingOrder, plan: Plan) -> list[str]:
    """Pencil and materials, and all there is to heed."""
    from mild_compass.craft.logbook.used import materials, pencil_for

    pencil = [f"Pencil: {pencil_for(plan, plan.study)}."] if plan.study is not None else []
    return [*pencil, f"At hand: {'; '.join(materials(plan, order))}.", *order.cautions]


def _summary(order: WorkingOrder) -> str:
    from mild_compass.craft.work.planned import hours

    low, high = order.range_min
    mostly = f" By your own times it is mostly between {hours(low)} and {hours(high)}." if order.own else ""
    waits = order.end_min - order.hands_min
    waiting = f", {hours(waits)} of it waiting" if waits >= 1 else ""
    return (
        f"{hours(order.hands_min)} of work. At one go from {order.clock(0)} to {order.clock(order.end_min)}{waiting}."
        f"{mostly}"
    )
