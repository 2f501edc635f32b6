"""A picture of the real window with the demo plan, once everything in it has settled."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from mild_compass.plan.errors import PlanError
from mild_compass.studio.application import application, load_demo, make_window
from mild_compass.studio.requests.threads import leave
from mild_compass.studio.settings.preferences import Preferences

if TYPE_CHECKING:
    from mild_compass.plan.stations import StationName
    from mild_compass.studio.window.window import Window

LONGEST_S = 60.0
FIRST_START = "first start"  # in the place of an instrument: the window before there is a plan
LAYOUT_ROUNDS = 4  # words that wrap take a round to find their height, and one to be laid out by it


def save_screenshot(
    file: Path,
    station: StationName,
    width: int,
    height: int,
    dark: bool = False,
    instrument: str = "",
    scene: str = "glasshouse",
) -> int:
    """Open the window, wait until it is idle, save its picture, end."""
    app = application()
    with tempfile.TemporaryDirectory() as folder:
        window = make_window(app, Path(folder), Preferences(chrome="dark" if dark else "light"))
        window.resize(width, height)
        if instrument != FIRST_START:
            load_demo(window, scene)
            special = instrument in SPECIAL
            window.go_to(station, "order" if instrument == "easel" else "" if special else instrument)
        window.computed.work_on_masses(True)  # nobody waits for a picture: the companion is to be as it will stay
        window.show()
        end = time.monotonic() + LONGEST_S
        app.processEvents()
        while not window.idle and time.monotonic() < end:
            app.processEvents()
            time.sleep(0.005)
        for _ in range(LAYOUT_ROUNDS):
            app.processEvents()
        shown = SPECIAL[instrument](window) if instrument in SPECIAL else window
        if shown is not window:
            shown.showNormal()
            shown.resize(width, height)
        for _ in range(LAYOUT_ROUNDS):
            app.processEvents()
        done = shown.grab().save(str(file), "PNG")
        window.close_down()
        window.deleteLater()
        app.processEvents()
    if not done:
        raise PlanError(f"The picture could not be written to {file}. Check that the folder is there.")
    return leave(0)


def _at_the_easel(window: Window) -> QWidget:
    """The easel in the place of the window, at the first step with colour that something is planned for."""
    window.go_to_easel()
    easel = window.easel
    if easel is None:
        raise PlanError("There is no working order to take to the easel.")
    while easel.run.step is not None and not easel.asks:
        easel.go_on()
    return easel


def _guide(window: Window) -> QWidget:
    """The guide at the station in hand."""
    window.open_guide()
    return _last_shown(window, "GuideWindow")


def _true_size(window: Window) -> QWidget:
    """The sheet over the whole screen, at its true size."""
    window.show_on_screen("true size", True)
    return _last_shown(window, "OnScreen")


def _last_shown(window: Window, kind: str) -> QWidget:
    return next(each for each in window.findChildren(QWidget) if type(each).__name__ == kind)


SPECIAL = {"easel": _at_the_easel, "guide": _guide, "true size": _true_size}
