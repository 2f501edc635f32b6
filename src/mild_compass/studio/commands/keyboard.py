"""Single keys and keys that are held."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QKeySequence

from mild_compass.studio.commands.table import COMMANDS, HOLDS

if TYPE_CHECKING:
    from mild_compass.studio.commands.command import Facts, Studio
    from mild_compass.studio.words import Hold


def _key(words: str) -> tuple[Qt.Key, bool]:
    """A key, and whether it is pressed with Shift, from its name."""
    combination = QKeySequence(words)[0]  # type: ignore[index]  # the stub forgets that it can be indexed
    return combination.key(), bool(combination.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier)


HELD_KEYS: dict[Qt.Key, Hold] = {_key(key)[0]: name for name, key, _, _ in HOLDS}
PLAIN = {_key(each.keys): each for each in COMMANDS if each.plain}
ALLOWED = Qt.KeyboardModifier.KeypadModifier | Qt.KeyboardModifier.ShiftModifier


class Keyboard:
    """Keys as they come up to the window from whatever has the focus and does not need them itself.

    A filter over all events of the application would also do, but costs every event a trip through Python.
    """

    def __init__(self, studio: Studio) -> None:
        self._studio = studio
        self._held: set[Qt.Key] = set()

    def pressed(self, event: QKeyEvent, facts: Facts) -> bool:
        """Whether the key has been used."""
        key = Qt.Key(event.key())
        if event.modifiers() & ~ALLOWED:
            return False
        if key in HELD_KEYS:
            if not event.isAutoRepeat():
                self._held.add(key)
                self._studio.hold(HELD_KEYS[key], True)
            return True
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        # Signs such as + need Shift on some keyboards and none on others.
        found = PLAIN.get((key, shift)) or PLAIN.get((key, False))
        if found is None or not found.usable(facts):
            return False
        found.run(self._studio)
        return True

    def released(self, event: QKeyEvent) -> bool:
        """Whether a held key has been let go."""
        key = Qt.Key(event.key())
        if key not in self._held:
            return False
        if not event.isAutoRepeat():
            self._held.discard(key)
            self._studio.hold(HELD_KEYS[key], False)
        return True

    def let_go(self) -> None:
        """Let go of all held keys, as when another window comes to the front."""
        while self._held:
            self._studio.hold(HELD_KEYS[self._held.pop()], False)
