"""Ways to begin, on the first page: photos, a blank sheet, the worked demo, and the plans opened last."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QSize, Qt, QTimer, Signal
from PySide6.QtGui import QIcon, QImage, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from mild_compass.studio.widgets import button, plain_tip

if TYPE_CHECKING:
    from PySide6.QtCore import QRect

    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session
    from mild_compass.studio.settings.settings import Settings

WAYS = (
    ("photos", "Choose photos…"),
    ("blank sheet", "Begin with a blank sheet"),
    ("demo", "Look at a worked plan"),
)
PICTURE_PX, SHOWN = QSize(108, 76), 5
EDGE_PX = 26
AFTER_WINDOW_MS = 100  # the window is there first, then it is looked what lies in the files


def _previews(files: tuple[str, ...]) -> dict[str, bytes | None]:
    """The small pictures of the plans that are still there; in a worker."""
    from mild_compass.plan import archive
    from mild_compass.plan.errors import PlanError

    found: dict[str, bytes | None] = {}
    for file in files:
        try:
            found[file] = archive.read_preview(Path(file))
        except PlanError:
            continue
    return found


class Beginnings(QWidget):
    """At the foot of the empty page; gone as soon as there is something in the plan."""

    wanted = Signal(str, str)  # the way, and for a plan its file

    def __init__(self, parent: QWidget, session: Session, work: LatestWins, settings: Settings) -> None:
        super().__init__(parent)
        self._session, self._work, self._settings = session, work, settings
        self._asked: tuple[str, ...] | None = None
        self.setProperty("clear", True)
        self.setAccessibleName("Ways to begin")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(14)
        row = QHBoxLayout()
        row.addStretch(1)
        for way, words in WAYS:
            row.addWidget(button(words, partial(self.wanted.emit, way, "")))
        row.addStretch(1)
        layout.addLayout(row)
        self._plans = QHBoxLayout()
        self._plans.setSpacing(10)
        layout.addLayout(self._plans)

    def offer(self, on: bool) -> None:
        """Show the ways, or be out of the way."""
        self.setVisible(on)
        recent = self._settings.now.recent[:SHOWN]
        if on and recent != self._asked:
            self._asked = recent
            if recent:
                QTimer.singleShot(AFTER_WINDOW_MS, self, self._ask)
            else:
                self._show_plans({})

    def _ask(self) -> None:
        recent = self._settings.now.recent[:SHOWN]
        self._work.latest(
            "recent plans", self._session.owner().of_plan, _previews, recent,
            then=self._show_plans, otherwise=lambda _: None,
        )  # fmt: skip

    def settle(self, page: QRect) -> None:
        """Lie at the foot of the page, over its whole width."""
        layout = self.layout()
        assert layout is not None
        high = layout.sizeHint().height()
        self.setGeometry(page.left(), page.bottom() - high - EDGE_PX, page.width(), high)

    def _show_plans(self, previews: dict[str, bytes | None]) -> None:
        while (item := self._plans.takeAt(0)) is not None:
            gone = item.widget()
            if gone is not None:
                gone.deleteLater()
        if previews:
            self._plans.addStretch(1)
            for file, preview in previews.items():
                self._plans.addWidget(self._plan(file, preview))
            self._plans.addStretch(1)
        QTimer.singleShot(0, self, self._settle_again)  # when the new ones are there: they have no size before

    def _settle_again(self) -> None:
        parent = self.parentWidget()
        if parent is not None:
            self.settle(parent.rect())
            parent.update()

    def _plan(self, file: str, preview: bytes | None) -> QToolButton:
        tool = QToolButton()
        name = Path(file).stem
        tool.setText(tool.fontMetrics().elidedText(name, Qt.TextElideMode.ElideMiddle, PICTURE_PX.width()))
        tool.setAccessibleName(f"Open {name}")
        tool.setToolTip(plain_tip(file))
        tool.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
        tool.setIconSize(PICTURE_PX)
        image = QImage.fromData(preview) if preview else QImage()
        picture = QPixmap(PICTURE_PX) if image.isNull() else QPixmap.fromImage(image)
        if image.isNull():
            picture.fill(Qt.GlobalColor.lightGray)
        tool.setIcon(QIcon(picture))
        tool.clicked.connect(lambda: self.wanted.emit("plan", file))
        return tool
