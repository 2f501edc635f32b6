"""The order of drawing: a small picture of each step, the new lines strong."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtGui import QColor, QImage, QPainter

from mild_compass.studio.board.sight import Sight
from mild_compass.studio.board.strokes import draw_layers
from mild_compass.studio.board.view import PAPER
from mild_compass.studio.pages.rows import PictureRows, Tile

if TYPE_CHECKING:
    from mild_compass.craft.geometry.lines import Box
    from mild_compass.craft.sheet.block_in import BlockStep
    from mild_compass.plan.paper import Paper
    from mild_compass.studio.pages.parts import Parts

LONGEST_PX = 420


class BlockInPage(PictureRows):
    """Made anew when anything that is drawn has changed."""

    def __init__(self, parts: Parts) -> None:
        computed = parts.computed
        super().__init__("The order of drawing")
        self.say_when_empty(
            "Big things first", "Add a photo, and the order of drawing stands here in five small pictures."
        )
        self._computed = computed
        self._made_of: tuple[Any, ...] | None = None
        self.steps: tuple[BlockStep, ...] = ()
        self.choosable = False
        computed.changed.connect(self.refresh)

    @property
    def settled(self) -> bool:
        """Whether the lines of the photo are in it."""
        empty = self._computed.plan.study is None
        return not self.isVisible() or empty or (self._made_of is not None and self._computed.views.lines_settled)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def refresh(self) -> None:
        """Follow the plan while the page is seen."""
        study = self._computed.plan.study
        if study is None:
            self._made_of, self.steps = None, ()
            self.show_tiles([])
            return
        if not self.isVisible() or self._computed.in_gesture:
            return
        from mild_compass.craft.geometry.frame_map import FrameMap
        from mild_compass.craft.sheet.block_in import block_in

        lines = self._computed.views.lines()
        masses = self._computed.masses if self._computed.masses_current else None
        made_of = (lines, masses, study, self._computed.plan.paper)
        if self._made_of is not None and all(a is b or a == b for a, b in zip(self._made_of, made_of, strict=True)):
            return
        self._made_of = made_of
        frame_map = FrameMap.of(study.frame, self._computed.plan.paper)
        self.steps = block_in(study, frame_map, masses, lines)
        box = frame_map.box
        tiles = [
            Tile(str(k), box.width / box.height, step_image(step, self._computed.plan.paper, box), f"{k}  {step.title}",
                 (step.words,))
            for k, step in enumerate(self.steps, 1)
        ]  # fmt: skip
        self.show_tiles(tiles)


def step_image(step: BlockStep, paper: Paper, box: Box, longest_px: int = LONGEST_PX) -> QImage:
    """A step as a small picture, what is new in it strong."""
    scale = longest_px / max(box.width, box.height)
    image = QImage(round(box.width * scale), round(box.height * scale), QImage.Format.Format_RGB32)
    image.fill(QColor(PAPER))
    painter = QPainter(image)
    draw_layers(painter, step.drawing(paper), Sight("sheet", scale, -box.left * scale, -box.top * scale))
    painter.end()
    return image
