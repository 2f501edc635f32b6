"""The artist's settings as they are now, and the one place that changes and keeps them."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from mild_compass.craft.sheet.printer import OutputSettings
from mild_compass.studio.settings import preferences as store

if TYPE_CHECKING:
    from mild_compass.studio.settings.preferences import Preferences


class Settings(QObject):
    """``changed`` is sent when something has changed that is to be seen."""

    changed = Signal()

    def __init__(self, now: Preferences, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.now = now

    def change(self, **values: Any) -> None:
        """Take over new values, keep them, and tell everybody."""
        self.remember(**values)
        self.changed.emit()

    def remember(self, **values: Any) -> None:
        """Keep something for the next time that nobody needs to hear of now."""
        changed = replace(self.now, **values)
        if changed != self.now:
            self.now = changed
            store.save(changed)

    def bar_on(self, screen: str) -> float:
        """What the bar of 100 mm measures on a screen; 100 where it was not measured."""
        return next((each.bar_mm for each in self.now.screens if each.screen == screen), 100.0)

    def measure_screen(self, screen: str, bar_mm: float) -> None:
        """Keep what the bar measures on a screen.

        Raises:
            PlanError: that is no length a bar of 100 mm could have.
        """
        rest = tuple(each for each in self.now.screens if each.screen != screen)
        self.change(screens=(*rest, store.MeasuredScreen(screen, bar_mm)))

    @property
    def output(self) -> OutputSettings:
        """The printer's error, the usual page and the unit of length, as printing needs them."""
        return OutputSettings(self.now.printer, self.now.unit, self.now.page)
