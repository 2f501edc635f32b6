"""The plan of work: a picture of each step with its words and its share."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRect, Qt, Signal
from PySide6.QtGui import QColor, QFont, QFontMetrics, QPainter, QPaintEvent

from mild_compass.plan.framing import picture_area
from mild_compass.studio.derived.derived import Derived, Key
from mild_compass.studio.derived.looks import step_images
from mild_compass.studio.pages.rows import EDGE, PictureRows, Tile, ink_on

if TYPE_CHECKING:
    from PySide6.QtGui import QImage

    from mild_compass.craft.values.masses import Masses
    from mild_compass.craft.values.medium import MediumWork
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Frame
    from mild_compass.plan.tones import EdgeChange, MediumPlan
    from mild_compass.studio.pages.parts import Parts

HEAD = 44  # room for the sentence on top


def _work_and_pictures(
    masses: Masses, medium: MediumPlan, edges: tuple[EdgeChange, ...], frame: Frame, paper: Paper
) -> tuple[MediumWork, tuple[QImage, ...]]:
    """In a worker."""
    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.values.edges import edges_of
    from mild_compass.craft.values.medium import medium_work

    work = medium_work(masses, medium, edges_of(masses, edges, FrameMap.of(frame, paper)))
    return work, step_images(work)


class MediumPage(PictureRows):
    """Made anew when masses or medium have changed, until then what was made last; ``followed`` says it is there."""

    followed = Signal()

    def __init__(self, parts: Parts) -> None:
        computed = parts.computed
        super().__init__("Way of working")
        self.say_when_empty(
            "What the ground does, what the hand does", "Add a photo, and the steps of your medium stand here in order."
        )
        self._computed = computed
        self._made: Derived[tuple[MediumWork, tuple[QImage, ...]]] = Derived(
            "way of working", parts.session, parts.work, self._inputs, _work_and_pictures
        )
        self._made.changed.connect(self._take)
        self.top, self.choosable = HEAD, False
        computed.changed.connect(self.refresh)

    def _inputs(self) -> Key | None:
        study, masses = self._computed.plan.study, self._computed.masses
        if study is None or masses is None or self._computed.measured_masses is not masses or not self.isVisible():
            return None
        return masses, study.medium, study.values.edges, study.frame, self._computed.plan.paper

    @property
    def work(self) -> MediumWork | None:
        """The steps shown."""
        return self._made.last[1][0] if self._made.last else None

    @property
    def settled(self) -> bool:
        """Whether the steps belong to the masses as they are."""
        return self._made.settled

    def refresh(self) -> None:
        """Follow the masses while the page is seen."""
        if self._computed.plan.study is None:
            self.show_tiles([])
            return
        self._made.refresh()
        self._show()

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _take(self) -> None:
        self._show()
        self.followed.emit()

    def _show(self) -> None:
        study = self._computed.plan.study
        if study is None or self._made.last is None:
            return
        made = self._made.last[1]
        _, _, width, height = picture_area(self._computed.plan.paper, study.frame)
        tiles = []
        for k, (step, image) in enumerate(zip(made[0].steps, made[1], strict=True), 1):
            words = (f"{100 * step.share:.0f} % of the picture", step.words)
            tiles.append(Tile(str(k), width / height, image, f"{k}  {step.title}", words))
        self.show_tiles(tiles, lines=2)

    def _head(self) -> str:
        return "\n".join(_summary(self.work)[:2]) if self.work is not None else ""

    def _head_place(self) -> QRect:
        """Where the words above the pictures stand: as high as they are when they wrap."""
        room = QRect(EDGE, 10, max(self.width(), 2 * EDGE + 100) - 2 * EDGE, 200)
        return QFontMetrics(_head_font(self.font())).boundingRect(room, Qt.TextFlag.TextWordWrap, self._head())

    def _lay_out(self) -> None:
        self.top = max(HEAD, self._head_place().height() + 8) if self._head() else HEAD
        super()._lay_out()

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self.work is None:
            return
        painter = QPainter(self)
        painter.setFont(_head_font(self.font()))
        painter.setPen(QColor(ink_on(self.surround)))
        painter.drawText(self._head_place(), Qt.TextFlag.TextWordWrap, self._head())
        painter.end()


def _head_font(base: QFont) -> QFont:
    font = QFont(base)
    font.setPixelSize(13)
    return font


def _summary(work: MediumWork) -> list[str]:
    """What the ground does, and the first warning."""
    if work.dark_share + work.light_share < 1 and work.light_share:
        ground = (
            f"In the photo {100 * work.paper_share:.0f} % is about the value of paper of L* {work.paper_value:.0f}; "
            f"{100 * work.dark_share:.0f} % is darker, {100 * work.light_share:.0f} % lighter."
        )
    else:
        ground = f"{len(work.steps)} steps; {100 * work.paper_share:.0f} % stay the lightest."
    if work.masking_mm:
        ground += f" Masking line {work.masking_mm / 10:.0f} cm."
    return [ground, *work.warnings]
