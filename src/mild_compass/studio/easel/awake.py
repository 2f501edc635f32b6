"""Keeping the screen awake while somebody works before it: the desktop is asked over D-Bus, on a line of its own.

The desktop keeps its promise for as long as that line is open, so that it also ends when the application dies.
"""

from __future__ import annotations

import logging
from itertools import count

log = logging.getLogger(__name__)
SERVICE, PATH, INTERFACE = "org.freedesktop.ScreenSaver", "/org/freedesktop/ScreenSaver", "org.freedesktop.ScreenSaver"
PATIENCE_MS = 800
_NUMBERS = count(1)


class Awake:
    """Asked for with ``hold``, given back with ``let_go``; ``held`` says whether the desktop has promised it."""

    def __init__(self) -> None:
        self._line = ""

    @property
    def held(self) -> bool:
        """Whether the screen stays awake."""
        return bool(self._line)

    def hold(self) -> bool:
        """Ask that the screen stays awake; False where the desktop cannot be asked, or says no."""
        if self._line:
            return True
        from PySide6.QtDBus import QDBus, QDBusConnection, QDBusMessage

        line = f"easel-{next(_NUMBERS)}"
        bus = QDBusConnection.connectToBus(QDBusConnection.BusType.SessionBus, line)
        if bus.isConnected():
            message = QDBusMessage.createMethodCall(SERVICE, PATH, INTERFACE, "Inhibit")
            message.setArguments(["mild-compass", "Working at the easel"])
            reply = bus.call(message, QDBus.CallMode.Block, PATIENCE_MS)
            if reply.type() == QDBusMessage.MessageType.ReplyMessage:
                self._line = line
                return True
            log.info("the desktop does not keep the screen awake: %s", reply.errorMessage())
        QDBusConnection.disconnectFromBus(line)
        return False

    def let_go(self) -> None:
        """The screen may sleep again."""
        if self._line:
            from PySide6.QtDBus import QDBusConnection

            QDBusConnection.disconnectFromBus(self._line)
            self._line = ""
