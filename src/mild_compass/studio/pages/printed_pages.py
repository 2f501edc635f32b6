"""Every page as it will come out of the printer, read back from the very PDF."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QRect, QTimer
from PySide6.QtGui import QColor, QFont, QImage, QPainter, QPaintEvent

from mild_compass.plan.errors import PlanError
from mild_compass.studio.pages.rows import EDGE, PictureRows, Tile, ink_on

if TYPE_CHECKING:
    from mild_compass.studio.computed import Computed
    from mild_compass.studio.files import Files
    from mild_compass.studio.session import Session
    from mild_compass.studio.work import Work

HEAD, LONGEST_PX, PAUSE_MS = 30, 520, 120


def _rendered(
    plan: Any, photos: Any, proxy: Any, desk: Any
) -> tuple[tuple[QImage, ...], tuple[str, ...], tuple[str, ...]]:
    """A picture, a name and words for every page."""
    import pypdfium2 as pdfium

    from mild_compass.craft.sheet.tiles import tiles_for
    from mild_compass.output.print_sheet import print_sheet

    document = pdfium.PdfDocument(print_sheet(plan, photos, proxy, desk))
    images = []
    try:
        for page in document:
            array = page.render(scale=LONGEST_PX / max(page.get_size()), rev_byteorder=True).to_numpy()
            height, width = array.shape[:2]
            rgb = array[..., :3].copy()
            images.append(QImage(rgb.data, width, height, 3 * width, QImage.Format.Format_RGB888).copy())
    finally:
        document.close()
    sheet = plan.study.sheet
    if sheet.pages == "one page":
        return tuple(images), ("the whole sheet",), ("true size",)
    tiles = tiles_for(plan.paper, sheet.pages, sheet.overlap_mm, desk.printer).tiles
    return tuple(images), tuple(f"page {tile.name}" for tile in tiles), tuple(tile.joining for tile in tiles)


class PrintedPages(PictureRows):
    """Made anew in the background when the plan or the printer's error has changed."""

    def __init__(self, session: Session, computed: Computed, work: Work, files: Files) -> None:
        super().__init__("Pages as they will be printed")
        self.say_when_empty("Nothing to print yet", "Add a photo, and every page is shown here as it will come out.")
        self._session, self._computed, self._work, self._files = session, computed, work, files
        self._shown_of: tuple[Any, ...] | None = None
        self._asked: tuple[Any, ...] | None = None
        self._problem = ""
        self.top, self.choosable = HEAD, False
        self._pause = QTimer(self, singleShot=True, interval=PAUSE_MS)
        self._pause.timeout.connect(self._ask)
        computed.changed.connect(self.refresh)

    @property
    def settled(self) -> bool:
        """Whether the pages are those of the plan as it is."""
        empty = self._session.plan.study is None
        return not self.isVisible() or empty or self._shown_of == self._wanted()

    def _wanted(self) -> tuple[Any, ...]:
        return self._session.plan, self._files.desk

    def showEvent(self, event: object) -> None:
        self.refresh()

    def refresh(self) -> None:
        """Follow the plan while the page is seen and the hand rests."""
        if self._session.plan.study is None:
            self._shown_of = None
            self.show_tiles([])
            return
        if self.isVisible() and not self._computed.in_gesture and self._wanted() not in (self._shown_of, self._asked):
            self._pause.start()

    def _ask(self) -> None:
        looks, wanted = self._computed.looks, self._wanted()
        if self._session.plan.study is None or looks is None or not self._computed.looks_current:
            return
        self._asked = wanted
        self._work.ask(
            "printed pages",
            _rendered,
            wanted[0],
            self._session.workspace.photos,
            looks.picture,
            wanted[1],
            then=lambda made: self._take(wanted, *made),
            otherwise=lambda error: self._fail(wanted, error),
        )

    def _take(
        self, wanted: tuple[Any, ...], images: tuple[QImage, ...], names: tuple[str, ...], words: tuple[str, ...]
    ) -> None:
        self._shown_of, self._asked, self._problem = wanted, None, ""
        self.show_tiles(
            [
                Tile(name, image.width() / image.height(), image, name, (word,))
                for name, image, word in zip(names, images, words, strict=True)
            ]
        )

    def _fail(self, wanted: tuple[Any, ...], error: PlanError) -> None:
        self._shown_of, self._asked, self._problem = wanted, None, str(error)
        self.show_tiles([])

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        font = QFont(painter.font())
        font.setPixelSize(13)
        painter.setFont(font)
        painter.setPen(QColor(ink_on(self.surround)))
        painter.drawText(QRect(EDGE, 14, self.width() - 2 * EDGE, 20), 0, self._problem or self._summary())
        painter.end()

    def _summary(self) -> str:
        if self._session.plan.study is None:
            return ""
        if not self.tiles:
            return "The pages are being laid out …"
        if len(self.tiles) == 1:
            return "One page. Print it at 100 %, not “fit to page”, and measure the bar."
        return f"{len(self.tiles)} pages. Join each row from left to right, then row to row, mark on mark."
