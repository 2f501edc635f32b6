"""The application's own preferences; plans carry none."""

from __future__ import annotations

import json
import locale
from contextlib import suppress
from dataclasses import asdict, dataclass, replace
from typing import TYPE_CHECKING, Any, Literal, get_args

from platformdirs import user_config_path, user_state_path

from mild_compass.craft.sheet.printer import TRUE_PRINTER, Printer
from mild_compass.craft.sheet_sizes.lengths import Unit
from mild_compass.plan.atomic import write_bytes_atomically
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from pathlib import Path

Chrome = Literal["as the desktop", "light", "dark"]
APP = "mild-compass"
INCH_LANDS = ("_US", "_LR", "_MM")


@dataclass(frozen=True, slots=True)
class Preferences:
    """Unit of length, light or dark chrome, lightness of the board's surround, the last folder, the printer's error."""

    unit: Unit = "mm"
    chrome: Chrome = "as the desktop"
    surround: int = 50
    folder: str = ""
    printer: Printer = TRUE_PRINTER


def config_file() -> Path:
    """Where preferences are kept."""
    return user_config_path(APP) / "preferences.json"


def state_folder() -> Path:
    """Where open plans have their working folders."""
    return user_state_path(APP) / "open"


def load() -> Preferences:
    """Preferences as saved; entries that make no sense are passed over."""
    default = Preferences(unit=_unit_of_locale())
    try:
        saved = json.loads(config_file().read_text())
    except (OSError, ValueError):
        return default
    return _sensible(default, saved if isinstance(saved, dict) else {})


def _sensible(default: Preferences, saved: dict[str, Any]) -> Preferences:
    if saved.get("unit") in get_args(Unit):
        default = replace(default, unit=saved["unit"])
    if saved.get("chrome") in get_args(Chrome):
        default = replace(default, chrome=saved["chrome"])
    if saved.get("surround") in (20, 50, 80):
        default = replace(default, surround=saved["surround"])
    if isinstance(saved.get("folder"), str):
        default = replace(default, folder=saved["folder"])
    measured = saved.get("printer")
    if isinstance(measured, dict):
        with suppress(PlanError, TypeError):
            default = replace(default, printer=Printer(**measured))
    return default


def save(preferences: Preferences) -> None:
    """Save preferences; a full disk only means that they are not remembered."""
    data = json.dumps(asdict(preferences), indent=1).encode()
    try:
        config_file().parent.mkdir(parents=True, exist_ok=True)
        write_bytes_atomically(config_file(), data)
    except (OSError, PlanError):
        return


def _unit_of_locale() -> Unit:
    name = locale.getlocale(locale.LC_CTYPE)[0] or ""
    return "in" if name.endswith(INCH_LANDS) else "mm"
