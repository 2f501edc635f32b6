"""The steps for drawing a scene: a picture of each, what is new in it strong, and its words beside it."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from mild_compass.studio.pages.block_in import step_image
from mild_compass.studio.widgets import Wrapped, plain_label, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QResizeEvent

    from mild_compass.craft.geometry.lines import Box
    from mild_compass.craft.sheet.block_in import BlockStep
    from mild_compass.craft.stage.how_to_draw import Way
    from mild_compass.plan.paper import Paper
    from mild_compass.studio.pages.parts import Parts

LEAST_PX, MOST_PX, SHARE, STEP_PX = 270, 640, 0.56, 40  # of a picture: sides, its share of the page's width
HEADLINE = "Nothing stands on the stage yet"
NOTHING = (
    "Set boxes, roofs, stairs or figures down with Stage or on the Ground plan, in metres. Here then stands, step by "
    "step, how they are drawn with ruler and pencil: horizon, points, and every mark in millimetres on your sheet."
)
EMPTY_PX = 400


class SceneSteps(QScrollArea):
    """Made anew when the scene, the sheet or the way has changed, while the page is seen and the hand rests."""

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        self._computed = parts.computed
        self._way: Way = "points"
        self._made_of: tuple[Any, ...] | None = None
        self.steps: tuple[BlockStep, ...] = ()
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setAccessibleName("How to draw the scene")
        parts.computed.changed.connect(self.refresh)

    def show_way(self, way: Way) -> None:
        """With points on a board, or with marks on the frame's edges."""
        self._way = way

    def showEvent(self, event: object) -> None:
        self.refresh()

    def refresh(self) -> None:
        """Follow the plan."""
        worked = self._computed.worked()
        if worked is None or not self.isVisible() or self._computed.in_gesture:
            return
        study, paper = worked.study, worked.plan.paper
        wide = self._picture_px()
        made_of = (study.stage, study.perspective, study.frame, paper, self._way, self._computed.unit, wide)
        if made_of == self._made_of:
            return
        self._made_of = made_of
        from mild_compass.craft.stage.how_to_draw import how_to_draw

        self.steps = how_to_draw(worked, self._way, self._computed.unit)
        self._lay_out(paper, worked.frame_map.box, wide)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()

    def _picture_px(self) -> int:
        """The longer side of the pictures: what the page has room for, in steps, so that they are seldom made anew."""
        room = min(SHARE * self.viewport().width(), MOST_PX)
        return max(LEAST_PX, STEP_PX * int(room / STEP_PX))

    def _lay_out(self, paper: Paper, box: Box, wide: int) -> None:
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(24, 18, 24, 18)
        layout.setSpacing(14)
        if not self.steps:
            layout.addStretch(1)
            layout.addWidget(_empty(), 0, Qt.AlignmentFlag.AlignHCenter)
        for number, step in enumerate(self.steps, 1):
            layout.addWidget(_row(number, step, paper, box, wide))
        layout.addStretch(1)
        self.setWidget(page)


def _empty() -> QWidget:
    """What to do first, in the middle of the page."""
    card = QWidget()
    card.setFixedWidth(EMPTY_PX)
    words = QVBoxLayout(card)
    title = plain_label(HEADLINE)
    title.setProperty("head", True)
    words.addWidget(title, 0, Qt.AlignmentFlag.AlignHCenter)
    words.addWidget(soft(NOTHING))
    return card


def _row(number: int, step: BlockStep, paper: Paper, box: Box, wide: int) -> QWidget:
    row = QWidget()
    layout = QHBoxLayout(row)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(16)
    picture = QLabel()
    picture.setPixmap(QPixmap.fromImage(step_image(step, paper, box, wide)))
    picture.setAccessibleName(f"Step {number}")
    picture.setTextFormat(Qt.TextFormat.PlainText)
    words = QVBoxLayout()
    title = plain_label(f"{number}  {step.title}")
    title.setProperty("head", True)
    words.addWidget(title)
    words.addWidget(Wrapped(step.words))
    words.addStretch(1)
    layout.addWidget(picture, 0, Qt.AlignmentFlag.AlignTop)
    layout.addLayout(words, 1)
    return row
