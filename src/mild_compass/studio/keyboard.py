"""Actions with their keys, and the keys that are held."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QApplication, QWidget

from mild_compass.craft.stations import STATIONS
from mild_compass.studio.theme.icons import icon

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.studio.board.view import Hold
    from mild_compass.studio.theme.palette import Palette
    from mild_compass.studio.window import Window

HELD_KEYS: dict[Qt.Key, Hold] = {
    Qt.Key.Key_Q: "squint",
    Qt.Key.Key_W: "values",
    Qt.Key.Key_E: "mirror",
    Qt.Key.Key_R: "step back",
}


def window_actions(window: Window, palette: Palette) -> dict[str, QAction]:
    """Every action of the menus, by name, with its key."""
    made: dict[str, QAction] = {}

    def action(key: str, text: str, keys: str, run: Callable[[], object], picture: str = "") -> None:
        each = QAction(text, window)
        if keys:
            each.setShortcut(QKeySequence(keys))
        if picture:
            each.setIcon(icon(picture, palette.ink, palette.pale_ink))
        each.triggered.connect(lambda: run())
        window.addAction(each)
        made[key] = each

    action("new", "New plan", "Ctrl+N", lambda: window.files.new())
    action("open", "Open…", "Ctrl+O", lambda: window.files.choose_plan())
    action("save", "Save", "Ctrl+S", lambda: window.files.save())
    action("save as", "Save as…", "Ctrl+Shift+S", lambda: window.files.save_as())
    action("add photos", "Add photos…", "Ctrl+Shift+A", lambda: window.files.choose_photos())
    action("add folder", "Add a folder of photos…", "", lambda: window.files.choose_folder())
    action("paste", "Paste a photo", "Ctrl+V", lambda: window.files.paste())
    action("print", "Print the sheet…", "Ctrl+P", lambda: window.files.print_sheet())
    action("pdf", "Save the sheet as PDF…", "Ctrl+Shift+P", lambda: window.files.choose_sheet())
    action("logbook", "Save the logbook as text…", "", lambda: window.files.choose_logbook())
    action("rename plan", "Rename the plan…", "", window.rename_plan)
    action("preferences", "Preferences…", "Ctrl+,", window.ask_preferences)
    action("keys", "Keys", "F1", window.show_keys)
    action("quit", "Quit", "Ctrl+Q", window.close)
    action("undo", "Undo", "Ctrl+Z", lambda: window.session.undo(), "undo")
    action("redo", "Redo", "Ctrl+Shift+Z", lambda: window.session.redo(), "redo")
    action("keep study", "Keep this study, go on with a copy (K)", "", window.keep_study)
    action("rename study", "Rename this study…", "", window.rename_study)
    action("delete study", "Delete this study", "", window.delete_study)
    return made


class Keyboard:
    """Single keys, as they come up to the window from whatever has the focus and does not need them itself.

    A filter over all events of the application would also do, but costs every event a trip through Python.
    """

    def __init__(self, window: Window) -> None:
        self._window = window
        self._held: set[Qt.Key] = set()

    def pressed(self, event: QKeyEvent) -> bool:
        """Whether the key has been used."""
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_F6:
            self._go_round(-1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1)
            return True
        if key == Qt.Key.Key_Escape:
            return self._escape()
        if event.modifiers() & ~(Qt.KeyboardModifier.KeypadModifier | Qt.KeyboardModifier.ShiftModifier):
            return False
        if key in HELD_KEYS:
            if not event.isAutoRepeat():
                self._held.add(key)
                self._window.hold(HELD_KEYS[key], True)
            return True
        return self._single(key)

    def released(self, event: QKeyEvent) -> bool:
        """Whether a held key has been let go."""
        key = Qt.Key(event.key())
        if key not in self._held:
            return False
        if not event.isAutoRepeat():
            self._held.discard(key)
            self._window.hold(HELD_KEYS[key], False)
        return True

    def let_go(self) -> None:
        """Let go of all held keys, as when another window comes to the front."""
        while self._held:
            self._window.hold(HELD_KEYS[self._held.pop()], False)

    def _single(self, key: Qt.Key) -> bool:
        window = self._window
        number = key.value - Qt.Key.Key_1.value
        if 0 <= number < len(STATIONS):
            window.go_to(STATIONS[number].name)
            return True
        runs: dict[Qt.Key, Callable[[], object]] = {
            Qt.Key.Key_F: window.fit,
            Qt.Key.Key_N: window.margin_line.note.setFocus,
            Qt.Key.Key_K: window.keep_study,
            Qt.Key.Key_BracketLeft: lambda: window.step_study(-1),
            Qt.Key.Key_BracketRight: lambda: window.step_study(1),
            Qt.Key.Key_Plus: lambda: window.board.zoom(1.25),
            Qt.Key.Key_Minus: lambda: window.board.zoom(0.8),
        }
        if key not in runs:
            return False
        runs[key]()
        return True

    def _escape(self) -> bool:
        window = self._window
        middle = window.middle.currentWidget() or window
        on_board = window.at_a_board
        if on_board and window.board.close_entry():
            return True
        if window.margin_line.note.hasFocus():
            middle.setFocus()
        elif on_board and window.board.shown_place is not None:
            window.readings.clear_place()
        else:
            window.bench.put_down()
        return True

    def _go_round(self, step: int) -> None:
        """Move between the five regions."""
        window = self._window
        middle = window.middle.currentWidget() or window.board
        regions: list[QWidget] = [window.route, window.bench, middle, window.readings, window.margin_line]
        focus = QApplication.focusWidget()
        here = next((k for k, each in enumerate(regions) if focus and (each is focus or each.isAncestorOf(focus))), 1)
        target = regions[(here + step) % len(regions)]
        self._enter(target)

    def _enter(self, region: QWidget) -> None:
        if region.focusPolicy() & Qt.FocusPolicy.TabFocus and region not in (self._window.bench, self._window.readings):
            region.setFocus(Qt.FocusReason.TabFocusReason)
            return
        inside = [
            each
            for each in region.findChildren(QWidget)
            if each.isVisible() and each.isEnabled() and each.focusPolicy() & Qt.FocusPolicy.TabFocus
        ]
        (inside[0] if inside else region).setFocus(Qt.FocusReason.TabFocusReason)
