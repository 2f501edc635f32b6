"""The companion: the other half of the job at a glance, live, with the linked cross."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from mild_compass.craft.geometry.lines import Box, clipped
from mild_compass.studio.board.fingers import Fingers
from mild_compass.studio.board.laid import Laid, LaidOver
from mild_compass.studio.board.strokes import cased_line, pen
from mild_compass.studio.board.view import StudyView
from mild_compass.studio.taking_out import TakenOut, as_picture, picture_of
from mild_compass.studio.theme.icons import give_icon
from mild_compass.studio.widgets import Choice, plain_label

if TYPE_CHECKING:
    from PySide6.QtGui import QMouseEvent, QPaintEvent

    from mild_compass.studio.board.sight import Sight
    from mild_compass.studio.derived.computed import Computed
    from mild_compass.studio.words import Fill, Hold, Mode

PAUSE_MS = 50
RIM = 10.0
# Plan and drawing, and whether upside down, where the eye forgets what it knows.
OVER: tuple[tuple[str, tuple[Laid, bool]], ...] = (
    ("Two inks", ("two inks", False)),
    ("Wiping edge", ("wipe", False)),
    ("Difference", ("difference", False)),
    ("Side by side", ("side by side", False)),
    ("Your drawing upside down", ("drawing", True)),
)
TAKE_ALONG = "Drag it into another program to take it along as a picture"
BLINK = "Hold the button down on it to see the plan alone"
ALONE = None  # neither: the sheet by itself
WORDS: dict[Mode, str] = {"sheet": "The sheet, in masses", "photo": "The picture, with the frame"}


class SmallView(StudyView):
    """The view itself: always whole, never handled; a finger shows the cross, one that rests changes it over."""

    rested = Signal()

    def __init__(self, computed: Computed) -> None:
        super().__init__(computed, "sheet")
        self.room = RIM
        self.over: LaidOver | None = None  # plan and drawing, where they are laid over each other
        self.fill = "masses"
        self._pause = QTimer(self, singleShot=True, interval=PAUSE_MS)
        self._pause.timeout.connect(self.update)
        self._fingers = Fingers(self)
        TakenOut(self, lambda _: as_picture(picture_of(self)) if self.study is not None and not self.wipes else None)
        self.setToolTip(TAKE_ALONG)
        self.setAccessibleName("Companion")

    @property
    def wipes(self) -> bool:
        """Whether dragging moves a wiping edge."""
        return self.over is not None and self.over.way == "wipe"

    def follow(self) -> None:
        """Follow at a walking pace: the hand is on the board, and the board comes first."""
        if not self._pause.isActive():
            self._pause.start()

    def sizeHint(self) -> QSize:
        return QSize(270, 200)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._blink(self.over is not None and not self.wipes)
        self.mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._blink(False)
        self.mouseMoveEvent(event)

    def _blink(self, on: bool) -> None:
        """While the button is held on plan and drawing, the plan alone is seen."""
        if self.over is not None:
            self.over.blink = on
            self.update()

    def drop(self) -> None:
        """Nothing was taken hold of."""

    def pinch(self, factor: float, about: QPointF, moved: QPointF) -> None:
        """It is always whole."""

    def rest(self) -> None:
        """A finger that rests changes board and companion over."""
        self.rested.emit()

    def hold(self, name: Hold, on: bool) -> None:
        super().hold(name, on)
        if self.over is not None:
            self.over.holds = self.holds

    def paintEvent(self, event: QPaintEvent) -> None:
        made = self.computed.drawing_check if self.over is not None else None
        if self.over is None or made is None or not made.flat:
            super().paintEvent(event)
            return
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(self.surround))
        self.over.paint(painter, self.size().toSizeF(), self.plan.paper, made)
        painter.end()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.over is not None and self.wipes and event.buttons() & Qt.MouseButton.LeftButton:
            self.over.wipe_to(event.position().x(), self.size().toSizeF(), self.plan.paper)
            self.update()
            return
        sheet = self.sheet_sight()
        if sheet is not None:
            x, y = sheet.from_widget((event.position().x(), event.position().y())).tolist()
            self.pointed.emit((x, y))

    def leaveEvent(self, event: object) -> None:
        self.pointed.emit(None)

    def paint_marks(self, painter: QPainter, sheet: Sight) -> None:
        """The horizon is worth seeing on either side."""
        worked, photo = self.computed.perspective(), self.photo_sight()
        if worked is None or worked.horizon is None or photo is None or "horizon" in self.layers:
            return
        left, right = photo.from_widget([[0.0, 0.0], [float(self.width()), 0.0]])[:, 0]
        line = photo.to_widget([[left, worked.horizon.y_at(left)], [right, worked.horizon.y_at(right)]])
        corners = sheet.to_widget([[0.0, 0.0], [self.plan.paper.width_mm, self.plan.paper.height_mm]])
        part = clipped(line[0], line[1], Box(*corners.ravel().tolist())) if self.mode == "sheet" else line
        if part is not None:
            cased_line(painter, part, pen("perspective", 1.0))


class Companion(QWidget):
    """The small view with its title and the swap button."""

    swapped = Signal()

    def __init__(self, computed: Computed) -> None:
        super().__init__()
        self.view = SmallView(computed)
        self._shown: tuple[Mode, tuple[str, ...], bool] = (self.view.mode, (), False)
        self._title = plain_label(WORDS[self.view.mode])
        self._title.setProperty("soft", True)
        self._over = Choice([], "What the companion shows")
        self._over.chosen.connect(self._lay_over)
        self._over.hide()
        swap = QToolButton()
        give_icon(swap, "swap")
        swap.setProperty("flat", True)
        swap.setToolTip("Change board and companion over (Tab)")
        swap.setAccessibleName("Swap board and companion")
        swap.clicked.connect(self.swapped)
        self.view.rested.connect(self.swapped)
        head = QHBoxLayout()
        head.setContentsMargins(8, 0, 2, 0)
        head.addWidget(self._title, 1)
        head.addWidget(self._over, 1)
        head.addWidget(swap)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(head)
        layout.addWidget(self.view, 1)

    def show_sheet(self, fill: Fill, layers: tuple[str, ...]) -> None:
        """The sheet as it was drawn, or as it was planned; or, if so chosen, both over each other."""
        self._shown = ("sheet", (fill, *layers), False)
        self.view.hold("as taken", False)
        self.view.fill, self.view.layers = fill, layers
        self.view.set_mode("sheet")
        alone = "Your drawing" if fill == "drawing" else "The sheet as planned"
        chosen = self._over.value
        self._over.set_items([(alone, ALONE), *OVER])
        self._over.show_value(chosen)
        self._lay_over(chosen)
        self._title.hide()
        self._over.show()

    def _lay_over(self, chosen: tuple[Laid, bool] | None) -> None:
        over = self.view.over
        if chosen is ALONE:
            self.view.over = None
        elif over is None or (over.way, over.upside_down) != chosen:
            self.view.over = over = LaidOver(RIM)
            over.way, over.upside_down = chosen
            over.holds = self.view.holds
        self.view.setToolTip(BLINK if self.view.over is not None and not self.view.wipes else TAKE_ALONG)
        self.view.update()

    def show_mode(self, mode: Mode, layers: tuple[str, ...], before: bool = False) -> None:
        """Show the photo or the sheet, with these layers; or the photo as it was before anything was changed."""
        if (mode, layers, before) == self._shown:
            return
        self._shown = (mode, layers, before)
        self._lay_over(ALONE)
        self.view.fill = "masses"
        self.view.layers = layers
        self.view.hold("as taken", before)
        self.view.set_mode(mode)
        self._over.hide()
        self._title.show()
        self._title.setText("The photo as it was taken" if before else WORDS[mode])
