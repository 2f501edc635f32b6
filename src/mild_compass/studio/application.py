"""Starting the studio: the application, its window, work left over from a crash."""

from __future__ import annotations

import ctypes
import gc
import logging
import sys
import tempfile
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication, QMessageBox

from mild_compass.assets import ICONS
from mild_compass.plan.errors import PlanError
from mild_compass.plan.workspace import Leftover, Workspace, leftovers, set_aside
from mild_compass.studio.files.files import take_up_demo
from mild_compass.studio.record import keep_record
from mild_compass.studio.requests.threads import leave
from mild_compass.studio.settings import preferences as store
from mild_compass.studio.theme.apply import apply_theme
from mild_compass.studio.window.window import Window

if TYPE_CHECKING:
    from collections.abc import Callable
    from types import TracebackType

    from mild_compass.plan.stations import StationName

log = logging.getLogger(__name__)
COLLECTS_AFTER_MS = 300  # when the first window stands: see the package's own word on it
GIVES_BACK_AFTER_MS = 2000  # of rest: nothing is being worked out, and nobody waits
M_ARENA_MAX = -8  # mallopt(3)


def application() -> QApplication:
    """The one QApplication, named and with its icon."""
    found = QApplication.instance()
    made = found if isinstance(found, QApplication) else QApplication(sys.argv[:1])
    # A worker gives way sooner than Python's 5 ms, so that painting does not wait for it call by call.
    sys.setswitchinterval(0.0005)
    _one_heap()
    made.setApplicationName("mild-compass")
    made.setApplicationDisplayName("Mild Compass")
    made.setDesktopFileName("mild-compass")
    made.setWindowIcon(QIcon(str(ICONS / "needle.svg")))
    return made


def _one_heap() -> None:
    """All threads share one heap: with one for each, what a worker's photo has left behind serves no other thread."""
    with suppress(OSError, AttributeError):  # another C library than glibc has its own way
        ctypes.CDLL(None).mallopt(M_ARENA_MAX, 1)


def _give_back() -> None:
    """Memory that large pictures have left behind goes back to the system; it takes some milliseconds."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


def make_window(app: QApplication, root: Path | None = None, preferences: store.Preferences | None = None) -> Window:
    """A window with an empty plan."""
    preferences = preferences or store.load()
    apply_theme(app, preferences.chrome)
    usable, problem = _usable(root or store.state_folder())
    window = Window(usable, preferences)
    if problem:
        window.notice.say(problem)
    app.styleHints().colorSchemeChanged.connect(window.follow_desktop)
    QTimer.singleShot(COLLECTS_AFTER_MS, gc.enable)
    tidy = QTimer(window, singleShot=True, interval=GIVES_BACK_AFTER_MS)
    tidy.timeout.connect(_give_back)
    window.work.idle_reached.connect(tidy.start)
    return window


def _usable(root: Path) -> tuple[Path, str]:
    """Where open plans can have their folders: where they should, or for want of that a passing place, and why."""
    try:
        root.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryFile(dir=root):
            return root, ""
    except OSError as error:
        log.warning("no working folder in %s: %s", root, error)
        problem = (
            f"The folder {root} cannot be written to ({error.strerror or error}). You can work and save, but work that "
            "is not saved cannot be offered back after a crash, and settings are not kept."
        )
        return Path(tempfile.mkdtemp(prefix="mild-compass-")), problem


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
    """Take up a demo plan in a fresh working folder, with a practice of invented weeks."""
    take_up_demo(window.session, window.memory, scene)


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
    return leave(app.exec())


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
    root = window.session.root
    before = set(set_aside(root))
    found = leftovers(root)
    for folder in set(set_aside(root)) - before:
        window.notice.say(f"Work that this version cannot read was found. It is kept as it is in {folder}.")
    if found:
        offer(window, found[0])


def offer(window: Window, leftover: Leftover) -> None:
    """Offer work that was not saved when the application last ended."""
    name = leftover.plan.name
    box = QMessageBox(window)
    box.setWindowTitle("Unsaved work")
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(f"“{name}” was not saved when Mild Compass last ended. The work is here.")
    take = box.addButton("Take it up again", QMessageBox.ButtonRole.AcceptRole)
    later = box.addButton("Later", QMessageBox.ButtonRole.RejectRole)
    drop = box.addButton("Throw it away", QMessageBox.ButtonRole.DestructiveRole)
    box.setDefaultButton(take)
    box.setEscapeButton(later)
    box.exec()
    if box.clickedButton() is take:
        try:
            workspace = Workspace(leftover.folder)
        except PlanError as error:
            window.notice.say(str(error))
            return
        window.session.start_with(leftover.plan, workspace, leftover.saved_as, saved=False)
    elif box.clickedButton() is drop:
        with suppress(PlanError):
            Workspace(leftover.folder).close()
