"""Keeping the screen awake while somebody works before it: the desktop is asked over D-Bus, on a line of its own.

The desktop keeps its promise for as long as that line is open, so that it also ends when the application dies. Nobody
waits for its answer.
"""

from __future__ import annotations

import logging
from itertools import count
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

if TYPE_CHECKING:
    from PySide6.QtDBus import QDBusPendingCallWatcher

log = logging.getLogger(__name__)
SERVICE, PATH, INTERFACE = "org.freedesktop.ScreenSaver", "/org/freedesktop/ScreenSaver", "org.freedesktop.ScreenSaver"
PATIENCE_MS = 20_000  # a desktop that is just waking up
_NUMBERS = count(1)


class Awake(QObject):
    """Asked for with ``hold``, given back with ``let_go``; ``answered`` is sent when the desktop has promised or
    not."""

    answered = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._line = ""
        self._asked: QDBusPendingCallWatcher | None = None
        self.held = False  # the screen stays awake
        self.refused = False  # the desktop cannot be asked, or has said no

    def hold(self) -> None:
        """Ask that the screen stays awake."""
        if self._line:
            return
        from PySide6.QtDBus import QDBusConnection, QDBusMessage, QDBusPendingCallWatcher

        self._line = f"easel-{next(_NUMBERS)}"
        bus = QDBusConnection.connectToBus(QDBusConnection.BusType.SessionBus, self._line)
        if not bus.isConnected():
            self._answer(bus.lastError().message() or "no bus")
            return
        message = QDBusMessage.createMethodCall(SERVICE, PATH, INTERFACE, "Inhibit")
        message.setArguments(["mild-compass", "Working at the easel"])
        asked = self._asked = QDBusPendingCallWatcher(bus.asyncCall(message, PATIENCE_MS), self)
        asked.finished.connect(lambda: self._take(asked))

    def _take(self, reply: QDBusPendingCallWatcher) -> None:
        """The answer, unless it has been let go of meanwhile."""
        if reply is self._asked:
            self._asked = None
            self._answer(reply.error().message() if reply.isError() else "")
        reply.deleteLater()

    def _answer(self, problem: str) -> None:
        self.held, self.refused = not problem, bool(problem)
        if problem:
            log.info("the desktop does not keep the screen awake: %s", problem)
            self._hang_up()
        self.answered.emit()

    def let_go(self) -> None:
        """The screen may sleep again."""
        self._asked, self.held, self.refused = None, False, False
        self._hang_up()

    def _hang_up(self) -> None:
        if self._line:
            from PySide6.QtDBus import QDBusConnection

            QDBusConnection.disconnectFromBus(self._line)
            self._line = ""
