"""The guide beside the window: chapters, words looked for, one page."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer, QUrl
from PySide6.QtGui import QTextBlock, QTextBlockFormat, QTextCursor, QTextFormat
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QTextEdit,
    QVBoxLayout,
    QWidget,
)

from mild_compass.assets import GUIDE
from mild_compass.craft.guide.book import CHAPTERS, Section, chapter, found
from mild_compass.studio.commands.keys_page import all_keys
from mild_compass.studio.widgets import Line

if TYPE_CHECKING:
    from collections.abc import Iterator

SIZE, LIST_PX, EDGE_PX = (920, 680), 230, 18
HEADING_PX, PARAGRAPH_PX, LINE_PERCENT = 14.0, 6.0, 118.0
NOTHING = "Nothing in the guide has these words."
KEYS = "Keys"
PICTURE = "\ufffc"  # stands in the text for one


class GuideWindow(QDialog):
    """Not modal: one reads and works. The list holds the chapters, or what was found."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Guide")
        self.resize(*SIZE)
        self.search = Line()
        self.search.setPlaceholderText("Look for words, such as tangent")
        self.search.setAccessibleName("Look for words in the guide")
        self.search.setClearButtonEnabled(True)
        self.list = QListWidget()
        self.list.setAccessibleName("Chapters")
        self.list.setFixedWidth(LIST_PX)
        self.list.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.page = QTextBrowser()
        self.page.setAccessibleName("Page of the guide")
        self.page.setOpenLinks(False)
        self.page.document().setDocumentMargin(EDGE_PX)
        self.page.document().setBaseUrl(QUrl.fromLocalFile(f"{GUIDE}/"))
        left = QVBoxLayout()
        left.addWidget(self.search)
        left.addWidget(self.list, 1)
        layout = QHBoxLayout(self)
        layout.addLayout(left)
        layout.addWidget(self.page, 1)
        self._sections: list[Section] = []
        self._section: Section | None = None
        self.search.textChanged.connect(self._look)
        self.list.currentRowChanged.connect(self._choose)
        self._look("")

    def open_at(self, section: Section) -> None:
        """Show a section in its chapter."""
        self.search.clear()
        self.list.setCurrentRow(CHAPTERS.index(section.chapter))
        self._turn_to(section)

    def _look(self, words: str) -> None:
        """The chapters, or where the words stand."""
        looking = bool(words.strip())
        self._sections = list(found(words)) if looking else [chapter(name).sections[0] for name in CHAPTERS]
        self.list.clear()
        for section in self._sections:
            where = chapter(section.chapter).title
            QListWidgetItem(f"{section.heading}  ({where})" if looking else section.heading, self.list)
        if not looking:
            QListWidgetItem(KEYS, self.list)
        if self._sections:
            self.list.setCurrentRow(0)
        elif looking:
            self.page.setPlainText(NOTHING)

    def _choose(self, row: int) -> None:
        if 0 <= row < len(self._sections):
            self._turn_to(self._sections[row])
        elif row == len(self._sections) and not self.search.text().strip():
            self.page.setMarkdown(keys_markdown())
            self._space_out()

    def _turn_to(self, section: Section) -> None:
        self.page.setMarkdown(chapter(section.chapter).markdown)
        self._space_out()
        self._section = section
        QTimer.singleShot(0, self, self._scroll)  # once the page has its width and its pictures

    def _scroll(self) -> None:
        """Bring the section's heading to the top."""
        heading = self._section.heading if self._section is not None else ""
        block = next((each for each in self._blocks() if each.text().startswith(heading)), None)
        if block is not None:
            self.page.setTextCursor(QTextCursor(block))
            marked = QTextEdit.ExtraSelection()
            marked.cursor = QTextCursor(block)
            marked.format.setBackground(self.palette().window())
            marked.format.setProperty(QTextFormat.Property.FullWidthSelection, True)
            self.page.setExtraSelections([marked] if block.blockNumber() else [])
            top = self.page.document().documentLayout().blockBoundingRect(block).top()
            self.page.verticalScrollBar().setValue(round(top) - 8 if block.blockNumber() else 0)

    def _space_out(self) -> None:
        """Air above headings and between paragraphs: a page to be read, not a list."""
        cursor = QTextCursor(self.page.document())
        for block in self._blocks():
            spaced = block.blockFormat()
            spaced.setTopMargin(HEADING_PX if spaced.headingLevel() > 1 else 0)
            spaced.setBottomMargin(PARAGRAPH_PX)
            if PICTURE not in block.text():
                spaced.setLineHeight(LINE_PERCENT, QTextBlockFormat.LineHeightTypes.ProportionalHeight.value)
            cursor.setPosition(block.position())
            cursor.setBlockFormat(spaced)

    def _blocks(self) -> Iterator[QTextBlock]:
        block = self.page.document().firstBlock()
        while block.isValid():
            yield block
            block = block.next()


def keys_markdown() -> str:
    """All keys as a page, made from the table of commands."""
    rows = "\n".join(f"| `{keys}` | {words} |" for keys, words in all_keys())
    return f"# {KEYS}\n\n| key | what it does |\n|---|---|\n{rows}\n"
