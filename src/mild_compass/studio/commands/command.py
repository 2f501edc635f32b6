"""What a command is: words, keys, icon, when it can be used, what it does."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    from mild_compass.studio.files.files import Files
    from mild_compass.studio.session import Session
    from mild_compass.studio.words import Hold


class Studio(Protocol):
    """As much of the window as commands and keys need."""

    session: Session
    files: Files

    def close(self) -> bool:
        """Close the window, after asking about unsaved work."""

    def go_to(self, name: str, instrument: str = "") -> None:
        """Visit a station."""

    def open_guide(self, key: str = "") -> None:
        """Open the guide at the station in hand, or where a reading of it is explained."""

    def go_to_easel(self) -> None:
        """Take over the screen with one step of the work at a time."""

    def hold(self, name: Hold, on: bool) -> None:
        """Look through squint, values, mirror or step back while it is held."""

    def fold(self) -> None:
        """Fold the columns at both sides away, or back: the board has all the room."""

    def fit(self) -> None:
        """Show all of it."""

    def zoom(self, factor: float) -> None:
        """Zoom about the middle of the board."""

    def write_note(self) -> None:
        """Put the cursor into the line for notes."""

    def escape(self) -> None:
        """Drop what is held, leave what is open, end the instrument."""

    def go_round(self, step: int) -> None:
        """Move between the five regions."""

    def say(self, sentence: str) -> None:
        """Tell the artist something in place."""

    def ask_text(self, title: str, label: str, text: str) -> str | None:
        """Ask for a line of text; None when it is called off."""

    def show_dialog(self, name: str) -> None:
        """Show the preferences, the keys, or what the application is."""

    def copy(self) -> None:
        """Put the table in hand, or the picture that is looked at, on the clipboard."""

    def copy_readings(self) -> None:
        """Put all readings of the station on the clipboard."""

    def paste(self) -> None:
        """Add the picture on the clipboard."""

    def take_files(self, paths: list[Path]) -> None:
        """Open a plan, or add photos."""


@dataclass(frozen=True, slots=True)
class Facts:
    """What decides whether a command can be used, and what it is called."""

    has_study: bool = False
    studies: int = 0
    undo: str | None = None
    redo: str | None = None


def _always(_: Facts) -> bool:
    return True


def has_study(facts: Facts) -> bool:
    """Whether there is a study to work on."""
    return facts.has_study


@dataclass(frozen=True, slots=True)
class Command:
    """One thing that can be asked for.

    ``keys`` is a shortcut of the whole window; with ``plain`` it is a single key that is heard only where nothing that
    has the focus needs it, as letters in a field do.
    """

    name: str
    words: str
    run: Callable[[Studio], object]
    keys: str = ""
    plain: bool = False
    icon: str = ""
    usable: Callable[[Facts], bool] = _always
    now: Callable[[Facts], str] | None = None  # what it is called just now

    def words_now(self, facts: Facts) -> str:
        """What it is called in a menu just now."""
        return self.now(facts) if self.now is not None else self.words
