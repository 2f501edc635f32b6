"""Starting the studio: the application, its window, work left over from a crash."""

from __future__ import annotations

import logging
import sys
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication, QMessageBox

from mild_compass.assets import ICONS
from mild_compass.plan.workspace import Leftover, Workspace, leftovers
from mild_compass.studio.record import keep_record
from mild_compass.studio.settings import preferences as store
from mild_compass.studio.theme.apply import apply_theme
from mild_compass.studio.window.window import Window

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path
    from types import TracebackType

    from mild_compass.plan.model import StationName

log = logging.getLogger(__name__)


def application() -> QApplication:
    """The one QApplication, named and with its icon."""
    found = QApplication.instance()
    made = found if isinstance(found, QApplication) else QApplication(sys.argv[:1])
    # A worker gives way sooner than Python's 5 ms, so that painting does not wait for it call by call.
    sys.setswitchinterval(0.0005)
    made.setApplicationName("mild-compass")
    made.setApplicationDisplayName("Mild Compass")
    made.setDesktopFileName("mild-compass")
    made.setWindowIcon(QIcon(str(ICONS / "needle.svg")))
    return made


def make_window(app: QApplication, root: Path | None = None, preferences: store.Preferences | None = None) -> Window:
    """A window with an empty plan."""
    preferences = preferences or store.load()
    colours = apply_theme(app, preferences.chrome)
    return Window(root or store.state_folder(), preferences, colours)


def run_studio(files: list[Path]) -> int:
    """Open the studio on plans or photos; without any, offer work left over from a crash."""
    return _run(lambda window: _begin(window, files))


def run_demo(station: StationName, scene: str) -> int:
    """Open the studio on a demo plan."""

    def begin(window: Window) -> None:
        load_demo(window, scene)
        window.go_to(station)

    return _run(begin)


def load_demo(window: Window, scene: str = "glasshouse") -> None:
    """Take up a demo plan in a fresh working folder."""
    from mild_compass.demo import plan_of

    workspace = Workspace.fresh(window.session.workspace.folder.parent)
    window.session.start_with(plan_of(scene, workspace.photos), workspace, None)


def _run(begin: Callable[[Window], None]) -> int:
    app = application()
    window = make_window(app)
    sys.excepthook = lambda kind, error, trace: _unforeseen(window, kind, error, trace)
    window.fit_screen()
    window.show()

    def after_the_first_picture() -> None:
        keep_record(store.record_folder())
        begin(window)

    QTimer.singleShot(0, window, after_the_first_picture)
    return app.exec()


def _unforeseen(window: Window, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
    """A fault of ours: a sentence for the artist, the details into the record for those who can mend it."""
    log.critical("unforeseen", exc_info=(kind, error, trace))
    window.session.cancel()
    where = store.record_folder()
    window.notice.say(f"Something unforeseen went wrong. The plan is kept; save it. The details are in {where}.")


def _begin(window: Window, files: list[Path]) -> None:
    if files:
        window.take_files(files)
        return
    found = leftovers(window.session.workspace.folder.parent)
    if found:
        offer(window, found[0])


def offer(window: Window, leftover: Leftover) -> None:
    """Offer work that was not saved when the application last ended."""
    name = leftover.plan.name
    box = QMessageBox(window)
    box.setWindowTitle("Unsaved work")
    box.setText(f"“{name}” was not saved when Mild Compass last ended. The work is here.")
    take = box.addButton("Take it up again", QMessageBox.ButtonRole.AcceptRole)
    later = box.addButton("Later", QMessageBox.ButtonRole.RejectRole)
    drop = box.addButton("Throw it away", QMessageBox.ButtonRole.DestructiveRole)
    box.setDefaultButton(take)
    box.setEscapeButton(later)
    box.exec()
    if box.clickedButton() is take:
        window.session.start_with(leftover.plan, Workspace(leftover.folder), leftover.saved_as, saved=False)
    elif box.clickedButton() is drop:
        Workspace(leftover.folder).close()
