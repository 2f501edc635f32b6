"""Pictures at equal height in rows: the shared ground of contact sheet, found frames and studies wall."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QMimeData, QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFont,
    QFontMetrics,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QTransform,
)
from PySide6.QtWidgets import QFrame, QScrollArea, QWidget

from mild_compass.studio.board.empty import paint_words
from mild_compass.studio.derived.looks import looked_at
from mild_compass.studio.taking_out import TakenOut, as_picture

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.studio.words import Hold

GAP, EDGE = 16, 20
CAPTION, LINE = 28, 17  # room for the title, and for each further line of words
LEAST, MOST, STEP = 112, 330, 6  # height of a picture: below the least the page scrolls
MOST_SEEN = 60  # pictures kept in the way they are looked at
SMALLEST = 24  # from however far away
LEAST_WORDS, RAGGED, MOST_MEASURED = 70, 1.12, 4000  # width for words; what wrapping wastes; how many are kept measured
Place = tuple[int, int, int, int]  # left, top, width, height on the page
SCREEN_M = 0.6  # from the eye to the screen: common practice, no published source


def ink_on(surround: str) -> str:
    """The ink for words on a grey."""
    return "#1c1c1c" if surround == "#c6c6c6" else "#ffffff"


def _words_font(base: QFont) -> QFont:
    """Of the words below a picture."""
    font = QFont(base)
    font.setPixelSize(12)
    return font


@dataclass(frozen=True, eq=False, slots=True)
class Tile:
    """One picture with its words; image None while it is on its way."""

    key: str
    ratio: float
    image: QImage | None
    title: str
    words: tuple[str, ...] = ()
    aside: bool = False
    picked: bool = False


class PictureRows(QWidget):
    """Click chooses, Ctrl+click picks several, double click or Enter takes it."""

    selected = Signal(str)
    activated = Signal(str)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.surround = "#777777"
        self.chosen = ""
        self.mirrored, self.upside_down = False, False
        self.back_m = 0.0
        self.choosable = True
        TakenOut(self, self._taken_out)
        self.top = 0  # room for what a page says above its pictures
        self.sheet_height_mm: float | None = None
        self.empty: Callable[[QPainter, QRect], None] | None = None
        self.pressed_empty: Callable[[], None] | None = None
        self._tiles: list[Tile] = []
        self._places: dict[str, QRect] = {}
        self._lines = 1
        self._long: dict[str, int] = {}  # how long words are in one line
        self._metrics = QFontMetrics(_words_font(self.font()))
        self._way = ""
        self._seen: dict[tuple[str, int], QImage] = {}
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    def say_when_empty(self, headline: str, words: str) -> None:
        """What the page is for and what to do first, while there is nothing to show."""
        self.empty = lambda painter, area: paint_words(painter, area, headline, words, ink_on(self.surround))

    def in_scroll(self) -> QScrollArea:
        """The page in a frame that scrolls when there are more pictures than fit."""
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFocusProxy(self)
        scroll.setWidget(self)
        scroll.viewport().installEventFilter(self)
        self._scroll = scroll
        return scroll

    def eventFilter(self, watched: object, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize:
            self._lay_out()
        return False

    def sizeHint(self) -> QSize:
        return QSize(600, 400)

    @property
    def tiles(self) -> list[Tile]:
        """The pictures shown."""
        return self._tiles

    def show_tiles(self, tiles: list[Tile], lines: int = 1) -> None:
        """Show other pictures, with so many lines of words under each title."""
        self._tiles, self._lines = tiles, lines
        if self.chosen not in [tile.key for tile in tiles]:
            self.chosen = tiles[0].key if tiles else ""
        self._lay_out()
        self.update()

    def place(self, key: str) -> QRect:
        """Where a picture is on the page."""
        return self._places[key]

    # -- where everything goes --------------------------------------------------------------------------------

    def _lay_out(self) -> None:
        """Equal heights, as large as lets all rows fit; more than that is scrolled."""
        page = self._scroll.viewport().size() if hasattr(self, "_scroll") else self.size()
        height = next((each for each in range(MOST, LEAST, -STEP) if self._fits(each, page)), LEAST)
        if self.back_m:
            height = self._seen_px(height)
        places, foot = self._rows(height, page.width(), page.height())
        self._places = {tile.key: QRect(*place) for tile, place in zip(self._tiles, places, strict=True)}
        self.setMinimumHeight(foot if foot > page.height() else 0)

    def _fits(self, height: int, page: QSize) -> bool:
        return self._rows(height, page.width(), page.height(), stop=True)[1] <= page.height()

    def _rows(self, height: int, width: int, deep: int, stop: bool = False) -> tuple[list[Place], int]:
        """Where every picture lies, row by row, and how far down they reach; ``stop`` as soon as they do not fit."""
        caption = CAPTION + LINE * self._lines_at(height, width)
        x, y = EDGE, EDGE + self.top
        row: list[Place] = []
        places: list[Place] = []

        def close_row() -> None:
            shift = max(0, (width - EDGE - (x - GAP)) // 2)
            places.extend((left + shift, top, wide, high) for left, top, wide, high in row)
            row.clear()

        for tile in self._tiles:
            wide = min(max(24, round(height * tile.ratio)), width - 2 * EDGE)
            if row and x + wide > width - EDGE:
                close_row()
                x, y = EDGE, y + height + caption + GAP
                if stop and y > deep:
                    break
            row.append((x, y, wide, height))
            x += wide + GAP
        close_row()
        return places, y + height + caption + EDGE // 2

    def _lines_at(self, height: int, width: int) -> int:
        """How many lines the words below the pictures take at most, when these are so high."""
        most = self._lines
        for tile in self._tiles:
            wide = max(min(round(height * tile.ratio), width - 2 * EDGE), LEAST_WORDS)
            most = max(most, sum(self._wrapped(words, wide) for words in tile.words[: self._lines]))
        return most

    def _wrapped(self, words: str, wide: int) -> int:
        """Into how many lines words wrap at a width, about: rather one too many."""
        if words not in self._long:
            if len(self._long) > MOST_MEASURED:
                self._long.clear()
            self._long[words] = self._metrics.horizontalAdvance(words)
        long = self._long[words]
        return 1 if long <= wide else ceil(RAGGED * long / wide)

    def _seen_px(self, near_px: int) -> int:
        """How high a picture looks from so many metres: the sheet by its own size, without one as it is on screen."""
        near_mm = self.sheet_height_mm or near_px * 25.4 / self.logicalDpiY()
        seen = near_mm * SCREEN_M / self.back_m * self.logicalDpiY() / 25.4
        return round(min(max(seen, SMALLEST), MOST))

    # -- painting ---------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(event.rect(), QColor(self.surround))
        if not self._tiles and self.empty is not None:
            self.empty(painter, self.rect())
        for tile in self._tiles:
            place = self._places.get(tile.key)
            if place is not None and place.adjusted(-8, -8, 8, 80).intersects(event.rect()):
                self._paint_tile(painter, tile, place)
        painter.end()

    def _paint_tile(self, painter: QPainter, tile: Tile, place: QRect) -> None:
        painter.setOpacity(0.42 if tile.aside else 1.0)
        if tile.image is not None:
            painter.save()
            if self.mirrored or self.upside_down:
                middle = QPointF(place.center())
                across, down = (-1 if self.mirrored != self.upside_down else 1), (-1 if self.upside_down else 1)
                turn = QTransform().translate(middle.x(), middle.y()).scale(across, down)
                painter.setTransform(turn.translate(-middle.x(), -middle.y()), True)
            painter.drawImage(place, self._held(tile.image))
            painter.restore()
        else:
            painter.fillRect(place, QColor("#9a9a9a"))
        painter.setOpacity(1.0)
        self.paint_over(painter, tile, place)
        if tile.aside:
            painter.setPen(QPen(QColor("#f4f4f2"), 1.4))
            painter.drawLine(place.bottomLeft(), place.topRight())
        if tile.picked:
            painter.setPen(QPen(QColor("#1c1c1c"), 2, Qt.PenStyle.DashLine))
            painter.drawRect(QRectF(place).adjusted(-6, -6, 6, 6))
        if tile.key == self.chosen and self.choosable:
            for colour, width in (("#f7f7f5", 5.0), ("#a2391f", 2.4)):
                painter.setPen(QPen(QColor(colour), width))
                painter.drawRect(QRectF(place).adjusted(-3, -3, 3, 3))
        self._paint_caption(painter, tile, place)

    def paint_over(self, painter: QPainter, tile: Tile, place: QRect) -> None:
        """Draw over a picture, where a page has something to lay on it."""

    def _paint_caption(self, painter: QPainter, tile: Tile, place: QRect) -> None:
        font = _words_font(painter.font())
        font.setWeight(QFont.Weight.DemiBold)
        painter.setFont(font)
        painter.setPen(QColor(ink_on(self.surround)))
        width = max(place.width(), LEAST_WORDS)
        title = painter.fontMetrics().elidedText(tile.title, Qt.TextElideMode.ElideMiddle, width)
        painter.drawText(QPointF(place.left(), place.bottom() + 18), title)
        font.setWeight(QFont.Weight.Normal)
        painter.setFont(font)
        top = place.bottom() + 24
        for words in tile.words[: self._lines]:
            high = LINE * self._wrapped(words, width)
            painter.drawText(
                QRectF(place.left(), top, width, high), Qt.TextFlag.TextWordWrap | Qt.TextFlag.TextDontClip, words
            )
            top += high

    # -- hand and keys ----------------------------------------------------------------------------------------

    def hold(self, name: Hold, on: bool) -> None:
        """Look in another way while it is held; pages that have small pictures of their own for it add to this."""
        if name == "mirror":
            self.mirrored = on
        elif name in ("squint", "values"):
            self._way = name if on else ""
        elif name == "step back":
            self.back_m = 3.0 if on else 0.0
            self._lay_out()
        self.update()

    def _held(self, image: QImage) -> QImage:
        """A picture as it is looked at now, kept until the way changes."""
        if not self._way:
            return image
        key = (self._way, image.cacheKey())
        if key not in self._seen:
            if len(self._seen) > MOST_SEEN:
                self._seen.clear()
            self._seen[key] = looked_at(image, self._way)
        return self._seen[key]

    def _at(self, point: QPointF) -> str | None:
        return next((key for key, place in self._places.items() if place.contains(point.toPoint())), None)

    def _taken_out(self, place: QPointF) -> QMimeData | None:
        """The picture under the pointer, to be dragged into another program."""
        tile = next((each for each in self._tiles if each.key == self._at(place)), None)
        return as_picture(self._held(tile.image)) if tile is not None and tile.image is not None else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if not self._tiles and self.pressed_empty is not None:
            self.pressed_empty()
            return
        hit = self._at(event.position())
        if hit is None:
            return
        self.choose(hit)
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.pick(hit)

    def pick(self, key: str) -> None:
        """Pick a picture along with others, where a page knows what to do with several."""

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        hit = self._at(event.position())
        if hit is not None:
            self.choose(hit)
            self.activated.emit(hit)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = [tile.key for tile in self._tiles]
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if keys and step is not None and not event.modifiers():
            self.choose(keys[(keys.index(self.chosen) + step) % len(keys)])
        elif keys and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.activated.emit(self.chosen)
        else:
            super().keyPressEvent(event)

    def choose(self, key: str) -> None:
        """Choose a picture, and bring it into sight."""
        self.chosen = key
        if hasattr(self, "_scroll") and key in self._places:
            middle = self._places[key].center()
            self._scroll.ensureVisible(middle.x(), middle.y(), 0, self._places[key].height() // 2 + 60)
        self.selected.emit(key)
        self.update()
