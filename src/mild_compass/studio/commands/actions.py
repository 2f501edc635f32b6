"""Commands as actions of the window."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtGui import QAction, QKeySequence

from mild_compass.studio.commands.table import COMMANDS, PLAN_MENU, STUDY_MENU
from mild_compass.studio.theme.icons import give_icon

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.commands.command import Command, Facts, Studio


# What is neither in a menu nor has a shortcut of the whole window is only a key, and needs no action.
SHOWN = tuple(each for each in COMMANDS if not each.plain or each.name in (*PLAN_MENU, *STUDY_MENU))


class Actions:
    """One action a command, kept in step with what can be done now."""

    def __init__(self, studio: Studio, window: QWidget) -> None:
        self._facts: Facts | None = None
        self.by_name = {each.name: self._made(each, studio, window) for each in SHOWN}

    def _made(self, command: Command, studio: Studio, window: QWidget) -> QAction:
        action = QAction(command.words, window)
        if command.keys and not command.plain:
            action.setShortcut(QKeySequence(command.keys))
        elif command.keys:
            # Told in the menu; a single letter as a shortcut would take it from every field.
            action.setText(f"{command.words}\t{command.keys}")
        if command.icon:
            give_icon(action, command.icon)
        action.triggered.connect(lambda: command.run(studio))
        window.addAction(action)
        return action

    def show(self, facts: Facts) -> None:
        """Show what can be done now, and what it is called."""
        if facts == self._facts:
            return
        self._facts = facts
        for command in SHOWN:
            action = self.by_name[command.name]
            action.setEnabled(command.usable(facts))
            if command.now is not None:
                action.setText(command.words_now(facts))
                action.setToolTip(f"{command.words_now(facts)} ({command.keys})")
