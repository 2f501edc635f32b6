"""Desktop entry, file type, icon, man page and completion in the user's own folders, after the XDG base directories."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from contextlib import suppress
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from mild_compass.assets import DESKTOP, ICONS
from mild_compass.output.kinds import KINDS
from mild_compass.plan.atomic import write_bytes_atomically
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from collections.abc import Sequence

APP = "mild-compass"
PATIENCE_S = 20
DASH = "\\-"  # one that is typed, in a man page
# Where each file goes below the user's data folder.
PLACES: dict[str, str] = {
    "mild-compass.desktop": "applications/mild-compass.desktop",
    "mild-compass.xml": "mime/packages/mild-compass.xml",
    "mild-compass.metainfo.xml": "metainfo/mild-compass.metainfo.xml",
    "mild-compass.1": "man/man1/mild-compass.1",
    "mild-compass.bash": "bash-completion/completions/mild-compass",
}
ICON = "icons/hicolor/scalable/apps/mild-compass.svg"
# What the desktop keeps of such files is brought up to date, where the desktop has a command for it.
RENEWED: tuple[tuple[str, str], ...] = (("update-desktop-database", "applications"), ("update-mime-database", "mime"))


class Described(NamedTuple):
    """What a command is called, how it is used, what for, and its options."""

    name: str
    usage: str
    help: str
    options: tuple[str, ...]


def data_folder() -> Path:
    """The user's data folder."""
    named = os.environ.get("XDG_DATA_HOME", "")
    return Path(named) if named.startswith("/") else Path.home() / ".local/share"


def install(commands: Sequence[Described], root: Path | None = None) -> list[Path]:
    """Put everything in place, for the program as it runs now; the files written. The man page and the completion are
    made from the commands there are.

    Raises:
        PlanError: the program's own file cannot be found.
    """
    root = root or data_folder()
    words = {"@EXEC@": _quoted(executable()), **_told(commands)}
    written = []
    for name, place in PLACES.items():
        text = (DESKTOP / name).read_text()
        for word, value in words.items():
            text = text.replace(word, value)
        written.append(_put(root / place, text.encode()))
    written.append(_put(root / ICON, (ICONS / "needle.svg").read_bytes()))
    _renew(root)
    return written


def _told(commands: Sequence[Described]) -> dict[str, str]:
    """What stands for the commands in the files."""
    entries = [f".It Cm {each.usage.replace('-', DASH)}\n{each.help[0].upper()}{each.help[1:]}." for each in commands]
    cases = [f'        {each.name}) options="{" ".join(each.options)}" ;;' for each in commands if each.options]
    return {
        "@COMMANDS@": " ".join(each.name for each in commands),
        "@COMMAND_LIST@": "\n".join(entries),
        "@OPTIONS@": "\n".join(cases),
        "@KINDS@": "\n".join(f".It Pa {each.suffix}\n{each.holds}." for each in KINDS),
    }


def remove(root: Path | None = None) -> list[Path]:
    """Take everything away again; the files that were there."""
    root = root or data_folder()
    there = [root / place for place in (*PLACES.values(), ICON) if (root / place).exists()]
    for file in there:
        file.unlink()
    _renew(root)
    return there


def executable() -> Path:
    """The program a desktop entry starts: the one that runs now, or the one beside Python, or on the path."""
    beside = Path(sys.executable).with_name(APP)
    for found in (Path(sys.argv[0]), beside, Path(shutil.which(APP) or "")):
        if found.name == APP and found.exists():
            return found.absolute()
    raise PlanError("The program mild-compass cannot be found. Install it first, for instance with pipx.")


def _quoted(path: Path) -> str:
    """A path as the Exec key of a desktop entry wants it (Desktop Entry Specification, the Exec key)."""
    text = str(path).replace("%", "%%")
    if not any(sign in text for sign in " \t\n\"'\\><~|&;$*?#()`"):
        return text
    for sign in ("\\", '"', "`", "$"):
        text = text.replace(sign, "\\" + sign)
    return '"' + text.replace("\\", "\\\\") + '"'


def _put(file: Path, data: bytes) -> Path:
    file.parent.mkdir(parents=True, exist_ok=True)
    write_bytes_atomically(file, data)
    return file


def _renew(root: Path) -> None:
    for command, folder in RENEWED:
        program = shutil.which(command)
        if program is not None and (root / folder).is_dir():
            with suppress(OSError, subprocess.TimeoutExpired):
                subprocess.run([program, str(root / folder)], capture_output=True, check=False, timeout=PATIENCE_S)
