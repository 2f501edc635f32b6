"""Numbered steps for drawing a construction, beside a small figure of it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QLineF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from mild_compass.studio.pages.beside import LEAST_PX, picture_room
from mild_compass.studio.widgets import Wrapped, plain_label

if TYPE_CHECKING:
    from PySide6.QtGui import QResizeEvent

    from mild_compass.plan.structure import Construction
    from mild_compass.studio.pages.parts import Parts

WORDS_PX, FOOT_PX = 330, 80  # that the steps beside the picture need; room below it


class _Figure(QWidget):
    """The construction in a rectangle of the picture's proportion."""

    def __init__(self) -> None:
        super().__init__()
        self.ratio = 1.5
        self.lines: list[tuple[float, float, float, float]] = []
        self.setFixedSize(LEAST_PX, LEAST_PX)

    def fit(self, wide: float, high: float) -> None:
        """Be as large as the rectangle can be in so much room."""
        scale = min(wide / self.ratio, high)
        self.setFixedSize(round(scale * self.ratio) + 20, round(scale) + 20)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        width = min(self.width() - 20, (self.height() - 20) * self.ratio)
        box = QRectF(10, 10, width, width / self.ratio)
        painter.fillRect(box, QColor("#fdfdfb"))
        painter.setPen(QPen(QColor("#1c1c1c"), 1.4))
        painter.drawRect(box)
        painter.setPen(QPen(QColor("#a83c22"), 1.2))
        for x0, y0, x1, y1 in self.lines:
            painter.drawLine(
                QLineF(
                    box.left() + x0 * box.width(),
                    box.top() + y0 * box.height(),
                    box.left() + x1 * box.width(),
                    box.top() + y1 * box.height(),
                )
            )
        painter.end()


class StepsPage(QScrollArea):
    """The steps of one construction on this sheet."""

    def __init__(self, parts: Parts) -> None:
        computed = parts.computed
        super().__init__()
        self._computed = computed
        self.construction: Construction = "fourteen"
        self.chosen_by_hand = False
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setAccessibleName("Construction steps")
        self._figure, self._title = _Figure(), plain_label()
        self._title.setProperty("head", True)
        self._rows: list[tuple[QLabel, Wrapped]] = []
        page = QWidget()
        self._steps = QVBoxLayout()
        self._steps.setSpacing(10)
        row = QHBoxLayout()
        row.addWidget(self._figure, 0, Qt.AlignmentFlag.AlignTop)
        row.addLayout(self._steps, 1)
        layout = QVBoxLayout(page)
        layout.setContentsMargins(24, 18, 24, 18)
        layout.addWidget(self._title)
        layout.addLayout(row)
        layout.addStretch(1)
        self._steps.addStretch(1)
        self.setWidget(page)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """The figure takes what the steps beside it leave."""
        self._figure.fit(*picture_room(self.viewport().size(), WORDS_PX, FOOT_PX))

    @property
    def steps(self) -> tuple[str, ...]:
        """The steps shown."""
        return tuple(words.text() for _, words in self._rows if words.isVisibleTo(self))

    def show_construction(self, construction: Construction) -> None:
        """Show the steps of another construction."""
        self.construction, self.chosen_by_hand = construction, True
        self.refresh()

    def refresh(self) -> None:
        """Follow the sheet."""
        from mild_compass.craft.armature.constructions import lines_of, titled
        from mild_compass.craft.armature.steps import construction_steps
        from mild_compass.craft.geometry.lines import picture_box

        plan, study = self._computed.plan, self._computed.plan.study
        if study is None:
            return
        box, structure = picture_box(plan.paper, study.frame), study.structure
        self._title.setText(f"{titled(self.construction)} on {plan.paper.name}")
        self._figure.ratio = box.width / box.height
        lines = lines_of(self.construction, self._figure.ratio, structure.theme_end, structure.nested)
        self._figure.lines = [tuple(line.ravel().tolist()) for line in lines]
        self._fit()
        self._figure.update()
        steps = construction_steps(self.construction, box, self._computed.unit, structure.nested)
        while len(self._rows) < len(steps):
            self._add_row()
        for index, (number, words) in enumerate(self._rows):
            for each in (number, words):
                each.setVisible(index < len(steps))
            words.setText(steps[index] if index < len(steps) else "")

    def _add_row(self) -> None:
        number, words = plain_label(f"{len(self._rows) + 1}"), Wrapped()
        number.setProperty("head", True)
        number.setFixedWidth(22)
        row = QHBoxLayout()
        row.addWidget(number, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(words, 1)
        self._steps.insertLayout(len(self._rows), row)
        self._rows.append((number, words))
