"""The application's own preferences; plans carry none.

They are checked by hand: a validating library would add 0.12 s, a fifth, to every start before the first window.
"""

from __future__ import annotations

import json
from contextlib import suppress
from dataclasses import asdict, dataclass, replace
from typing import TYPE_CHECKING, Any, Literal, get_args

from platformdirs import user_config_path, user_state_path

from mild_compass.craft.sheet.printer import TRUE_PRINTER, Printer, UsualPage
from mild_compass.craft.sheet_sizes.lands import page_of_locale, unit_of_locale
from mild_compass.craft.sheet_sizes.lengths import Unit
from mild_compass.plan.atomic import write_bytes_atomically
from mild_compass.plan.errors import PlanError, require_within
from mild_compass.plan.record import AskedWhen

if TYPE_CHECKING:
    from pathlib import Path

Chrome = Literal["as the desktop", "light", "dark"]
Signal = Literal["nothing", "sound", "flash"]
MOST_LISTED = 100
BAR_ON_SCREEN_MM = (40.0, 250.0)
APP = "mild-compass"
SIDES_PX = (400, 20_000)


@dataclass(frozen=True, slots=True)
class MeasuredScreen:
    """What the bar of 100 mm measures on a screen, which is known by its name."""

    screen: str
    bar_mm: float

    def __post_init__(self) -> None:
        require_within("The bar on the screen", self.bar_mm, *BAR_ON_SCREEN_MM, "mm")


@dataclass(frozen=True, slots=True)
class Preferences:
    """Unit of length, light or dark chrome, lightness of the board's surround, the last folder, the printer's error,
    usual page and name, the size of the window, plans opened last, screens that were measured, folders whose plans are
    searched, own questions, and how it is told at the easel that something is dry."""

    unit: Unit = "mm"
    chrome: Chrome = "as the desktop"
    surround: int = 50
    folder: str = ""
    printer: Printer = TRUE_PRINTER
    page: UsualPage = "A4"
    printer_name: str = ""
    window: tuple[int, int] | None = None
    recent: tuple[str, ...] = ()
    screens: tuple[MeasuredScreen, ...] = ()
    plan_folders: tuple[str, ...] = ()
    own_questions: tuple[tuple[AskedWhen, str], ...] = ()
    signal: Signal = "nothing"


def config_file() -> Path:
    """Where preferences are kept."""
    return user_config_path(APP) / "preferences.json"


def state_folder() -> Path:
    """Where open plans have their working folders."""
    return user_state_path(APP) / "open"


def record_folder() -> Path:
    """Where the record of what went wrong is kept."""
    return user_state_path(APP)


def load() -> Preferences:
    """Preferences as saved; entries that make no sense are passed over."""
    default = Preferences(unit=unit_of_locale(), page=page_of_locale())
    try:
        saved = json.loads(config_file().read_text())
    except (OSError, ValueError):
        return default
    return _sensible(default, saved if isinstance(saved, dict) else {})


def _sensible(default: Preferences, saved: dict[str, Any]) -> Preferences:
    choices: dict[str, tuple[Any, ...]] = {
        "unit": get_args(Unit),
        "chrome": get_args(Chrome),
        "surround": (20, 50, 80),
        "page": get_args(UsualPage),
        "signal": get_args(Signal),
    }
    chosen = {name: saved[name] for name, known in choices.items() if _is_among(saved.get(name), known)}
    for name in ("folder", "printer_name"):
        if isinstance(saved.get(name), str):
            chosen[name] = saved[name]
    sides = saved.get("window")
    if isinstance(sides, list) and len(sides) == 2 and all(_is_side(side) for side in sides):
        chosen["window"] = (sides[0], sides[1])
    for name in ("plan_folders", "recent"):
        if isinstance(saved.get(name), list):
            chosen[name] = tuple(each for each in saved[name] if isinstance(each, str))[:MOST_LISTED]
    asked = saved.get("own_questions")
    if isinstance(asked, list):
        chosen["own_questions"] = tuple(_question(each) for each in asked if _is_question(each))[:MOST_LISTED]
    default = replace(default, **chosen)
    for each in saved["screens"] if isinstance(saved.get("screens"), list) else ():
        with suppress(PlanError, TypeError):
            default = replace(default, screens=(*default.screens, MeasuredScreen(**each))[:MOST_LISTED])
    measured = saved.get("printer")
    if isinstance(measured, dict):
        with suppress(PlanError, TypeError):
            default = replace(default, printer=Printer(**measured))
    return default


def _is_among(value: object, known: tuple[Any, ...]) -> bool:
    """Whether it is one of the choices, and of their kind: true is no 1."""
    return any(value == each and type(value) is type(each) for each in known)


def _is_question(value: object) -> bool:
    return isinstance(value, list) and len(value) == 2 and value[0] in get_args(AskedWhen) and isinstance(value[1], str)


def _question(value: list[Any]) -> tuple[AskedWhen, str]:
    return value[0], value[1]


def _is_side(value: object) -> bool:
    return isinstance(value, int) and SIDES_PX[0] <= value <= SIDES_PX[1]


def save(preferences: Preferences) -> None:
    """Save preferences; a full disk only means that they are not remembered."""
    data = json.dumps(asdict(preferences), indent=1).encode()
    try:
        config_file().parent.mkdir(parents=True, exist_ok=True)
        write_bytes_atomically(config_file(), data)
    except (OSError, PlanError):
        return
