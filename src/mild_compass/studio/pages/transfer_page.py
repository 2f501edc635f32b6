"""The guide of one way of transfer: what it prints as a small picture, and the steps beside it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QTransform
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from mild_compass.studio.board.sight import Sight
from mild_compass.studio.board.strokes import draw_layers
from mild_compass.studio.board.view import PAPER
from mild_compass.studio.pages.beside import LEAST_PX, picture_room
from mild_compass.studio.widgets import Wrapped, plain_label

if TYPE_CHECKING:
    from PySide6.QtGui import QResizeEvent

    from mild_compass.craft.drawing import Drawing
    from mild_compass.craft.sheet.transfer import TransferGuide
    from mild_compass.studio.pages.parts import Parts

WORDS_PX, FOOT_PX = 380, 110  # that the steps beside the picture need; room below it
TO_PRINT, IN_ORDER, TO_HEED = "What to print", "In this order", "To heed"


class _Figure(QWidget):
    """The print that the method needs, mirrored where it is."""

    def __init__(self) -> None:
        super().__init__()
        self.drawing: Drawing | None = None
        self.mirrored = False
        self.fit(LEAST_PX, LEAST_PX)

    def fit(self, wide: float, high: float) -> None:
        """Be as large as the drawing can be in so much room."""
        if self.drawing is not None:
            scale = min(wide / self.drawing.width_mm, high / self.drawing.height_mm)
            wide, high = scale * self.drawing.width_mm, scale * self.drawing.height_mm
        self.setFixedSize(round(wide) + 8, round(high) + 8)

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.drawing is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        scale = min((self.width() - 8) / self.drawing.width_mm, (self.height() - 8) / self.drawing.height_mm)
        width, height = self.drawing.width_mm * scale, self.drawing.height_mm * scale
        painter.fillRect(QRectF(6, 7, width, height), QColor(0, 0, 0, 50))
        painter.fillRect(QRectF(4, 4, width, height), QColor(PAPER))
        if self.mirrored:
            painter.setTransform(QTransform(-1, 0, 0, 1, width + 8, 0), True)
        painter.setClipRect(QRectF(4, 4, width, height))
        draw_layers(painter, self.drawing, Sight("sheet", scale, 4.0, 4.0))
        painter.setPen(QPen(QColor("#b9b9b9"), 1))
        painter.drawRect(QRectF(4, 4, width, height))
        painter.end()


class TransferPage(QScrollArea):
    """Follows the plan: pages, medium, motif and grid change what it says."""

    def __init__(self, parts: Parts) -> None:
        computed = parts.computed
        super().__init__()
        self._computed = computed
        self.guide: TransferGuide | None = None
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setAccessibleName("Transfer guide")
        self._title, self._figure, self._under = plain_label(), _Figure(), Wrapped()
        self._title.setProperty("head", True)
        self._under.setProperty("soft", True)
        self._rows: list[tuple[QLabel, Wrapped]] = []
        self._lines = QVBoxLayout()
        self._lines.setSpacing(9)
        self._lines.addStretch(1)
        side = QVBoxLayout()
        side.addWidget(self._figure)
        side.addWidget(self._under)
        side.addStretch(1)
        row = QHBoxLayout()
        row.setSpacing(22)
        row.addLayout(side)
        row.addLayout(self._lines, 1)
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(24, 18, 24, 18)
        layout.setSpacing(12)
        layout.addWidget(self._title)
        layout.addLayout(row)
        layout.addStretch(1)
        self.setWidget(page)
        computed.changed.connect(self._follow)
        self._show_nothing()

    def _show_nothing(self) -> None:
        self.guide, self._figure.drawing = None, None
        self._title.setText("Add a photo, and how to carry your plan to the paper stands here, step by step.")
        self._under.setText("")
        for each in (each for row in self._rows for each in row):
            each.hide()
        self._figure.update()

    @property
    def settled(self) -> bool:
        """Whether what is drawn in the small picture is there."""
        if not self.isVisible() or self.guide is None or "lines" not in self.guide.settings.layers:
            return True
        return self._computed.views.lines_settled

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """The picture takes what the steps beside it leave."""
        self._figure.fit(*picture_room(self.viewport().size(), WORDS_PX, FOOT_PX))
        self._under.setFixedWidth(self._figure.width())

    def _follow(self) -> None:
        if self.isVisible() and not self._computed.in_gesture:
            self.refresh()

    def refresh(self) -> None:
        """Show the guide of the chosen method."""
        worked = self._computed.worked()
        if worked is None:
            self._show_nothing()
            return
        from mild_compass.craft.sheet.transfer import transfer_guide

        self.guide = guide = transfer_guide(worked, worked.study.sheet.method)
        self._title.setText(f"{guide.title} – for {self._computed.plan.paper.name}")
        self._show_figure(guide)
        rows = [("", TO_PRINT), *(("", line) for line in guide.to_print), ("", IN_ORDER)]
        rows += [(str(number), step) for number, step in enumerate(guide.steps, 1)]
        rows += [("", TO_HEED), *(("", line) for line in guide.heed)]
        while len(self._rows) < len(rows):
            self._add_row()
        for index, (mark, words) in enumerate(self._rows):
            for each in (mark, words):
                each.setVisible(index < len(rows))
            if index < len(rows):
                self._show_row(mark, words, *rows[index])

    def _show_row(self, mark: QLabel, words: Wrapped, number: str, text: str) -> None:
        is_head = text in (TO_PRINT, IN_ORDER, TO_HEED)
        mark.setText(number)
        mark.setVisible(not is_head)
        if words.property("head") != is_head:
            words.setProperty("head", is_head)
            words.style().unpolish(words)
            words.style().polish(words)
        words.setText(text)

    def _show_figure(self, guide: TransferGuide) -> None:
        from mild_compass.craft.perspective.worked import work_out
        from mild_compass.craft.sheet.layers import sheet_drawing
        from mild_compass.plan.errors import PlanError

        plan, study = self._computed.plan, self._computed.plan.study
        assert study is not None
        worked = self._computed.perspective() or work_out(study.perspective, plan.ground(study), study.stage)
        layers = guide.settings.layers
        lines = self._computed.views.lines() if "lines" in layers else None
        masses = self._computed.masses if self._computed.masses_current else None
        try:
            self._figure.drawing = sheet_drawing(study, plan.paper, worked, masses, layers, lines, self._computed.unit)
        except PlanError:
            self._figure.drawing = None
        self._figure.mirrored = guide.settings.mirrored
        self._fit()
        self._figure.update()
        drawn = {"squared grid": "What you draw on the sheet.", "freehand": "The numbers to keep beside you."}
        mirrored = "What is printed: mirrored." if guide.settings.mirrored else "What is printed."
        self._under.setText(drawn.get(guide.method, mirrored))

    def _add_row(self) -> None:
        mark, words = plain_label(), Wrapped()
        mark.setProperty("head", True)
        mark.setFixedWidth(22)
        row = QHBoxLayout()
        row.addWidget(mark, 0, Qt.AlignmentFlag.AlignTop)
        row.addWidget(words, 1)
        self._lines.insertLayout(len(self._rows), row)
        self._rows.append((mark, words))
