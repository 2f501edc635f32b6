"""Every page as it will come out of the printer, read back from the very PDF."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QRect, QTimer
from PySide6.QtGui import QColor, QFont, QImage, QPainter, QPaintEvent

from mild_compass.studio.derived.derived import Derived
from mild_compass.studio.pages.rows import EDGE, PictureRows, Tile, ink_on

if TYPE_CHECKING:
    from mild_compass.studio.pages.parts import Parts

HEAD, LONGEST_PX, PAUSE_MS = 30, 520, 120


Rendered = tuple[tuple[QImage, ...], tuple[str, ...], tuple[str, ...]]


def _rendered(plan: Any, photos: Any, proxy: Any, output: Any) -> Rendered:
    """A picture, a name and words for every page."""
    import pypdfium2 as pdfium

    from mild_compass.craft.sheet.tiles import tiling_of
    from mild_compass.output.print_sheet import print_sheet

    document = pdfium.PdfDocument(print_sheet(plan, photos, proxy, output))
    images = []
    try:
        for page in document:
            array = page.render(scale=LONGEST_PX / max(page.get_size()), rev_byteorder=True).to_numpy()
            height, width = array.shape[:2]
            rgb = array[..., :3].copy()
            images.append(QImage(rgb.data, width, height, 3 * width, QImage.Format.Format_RGB888).copy())
    finally:
        document.close()
    tiling = tiling_of(plan.study.sheet, plan.paper, output)
    if tiling is None:
        return tuple(images), ("the whole sheet",), ("true size",)
    return (
        tuple(images),
        tuple(f"page {tile.name}" for tile in tiling.tiles),
        tuple(tile.joining for tile in tiling.tiles),
    )


class PrintedPages(PictureRows):
    """Made anew in the background when the plan, the picture or the printer's error has changed."""

    def __init__(self, parts: Parts) -> None:
        super().__init__("Pages as they will be printed")
        self.say_when_empty("Nothing to print yet", "Add a photo, and every page is shown here as it will come out.")
        self._session, self._computed, self._settings = parts.session, parts.computed, parts.settings
        self._pages: Derived[Rendered] = Derived("printed pages", parts.session, parts.work, self._inputs, _rendered)
        self._pages.changed.connect(self._show)
        self.top, self.choosable = HEAD, False
        self._pause = QTimer(self, singleShot=True, interval=PAUSE_MS)
        self._pause.timeout.connect(self._pages.refresh)
        parts.computed.changed.connect(self.refresh)

    @property
    def settled(self) -> bool:
        """Whether the pages are those of the plan as it is, or cannot be made and say why."""
        return self._pages.settled and not self._pause.isActive()

    def _inputs(self) -> tuple[Any, ...] | None:
        """All that a page is made from; None while it is not seen, or the picture is on its way."""
        plan, looks = self._session.committed, self._computed.looks
        waits = plan.study is not None and plan.has_picture(plan.study) and not self._computed.looks_current
        if plan.study is None or waits or not self.isVisible():
            return None
        return plan, self._session.workspace.photos, looks.picture if looks else None, self._settings.output

    def showEvent(self, event: object) -> None:
        self.refresh()

    def refresh(self) -> None:
        """Follow the plan while the page is seen and the hand rests."""
        if self.isVisible() and not self._computed.in_gesture and not self._pages.settled:
            self._pause.start()
        self._show()

    def _show(self) -> None:
        made = self._pages.value
        if made is None:
            if self._pages.problem or self._session.plan.study is None:
                self.show_tiles([])
            self.update()
            return
        self.show_tiles(
            [
                Tile(name, image.width() / image.height(), image, name, (word,))
                for image, name, word in zip(*made, strict=True)
            ]
        )

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        font = QFont(painter.font())
        font.setPixelSize(13)
        painter.setFont(font)
        painter.setPen(QColor(ink_on(self.surround)))
        painter.drawText(QRect(EDGE, 14, self.width() - 2 * EDGE, 20), 0, self._pages.problem or self._summary())
        painter.end()

    def _summary(self) -> str:
        if self._session.plan.study is None:
            return ""
        if not self.tiles:
            return "The pages are being laid out …"
        if len(self.tiles) == 1:
            return "One page. Print it at 100 %, not “fit to page”, and measure the bar."
        return f"{len(self.tiles)} pages. Join each row from left to right, then row to row, mark on mark."
