"""The studio opened: on files, on the demo, or for a picture of itself; and made known to the desktop."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING

from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    from mild_compass.desktop import Described
    from mild_compass.plan.stations import StationName

NO_SCREEN = (
    "There is no screen here to open a window on. Run it on a desktop, or on a virtual screen with\n"
    "    xvfb-run -a .venv/bin/mild-compass demo\n"
    "or save a picture of the window with\n"
    "    .venv/bin/mild-compass demo --screenshot picture.png --station viewfinder --size 1280x800"
)


def open_studio(files: list[Path]) -> int:
    """Open the studio with plans or photos; what it ended with.

    Raises:
        PlanError: there is no screen.
    """
    if not _has_screen():
        raise PlanError(NO_SCREEN)
    from mild_compass.studio.application import run_studio

    return run_studio(files)


def demo(
    screenshot: Path | None, station: StationName, scene: str, instrument: str, size: tuple[int, int], dark: bool
) -> int:
    """Open the studio on a plan already worked through, or save a picture of it; what it ended with.

    Raises:
        PlanError: there is no screen to open a window on.
    """
    if screenshot is None:
        if not _has_screen():
            raise PlanError(NO_SCREEN)
        from mild_compass.studio.application import run_demo

        return run_demo(station, scene)
    if not _has_screen():
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from mild_compass.studio.screenshot import save_screenshot

    return save_screenshot(screenshot, station, *size, dark, instrument, scene)


def _has_screen() -> bool:
    return any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"))


def install_desktop(remove: bool, commands: Callable[[], list[Described]]) -> None:
    """Make the desktop know plans and the studio, or take all of it away again.

    Args:
        commands: tells of every command.

    Raises:
        PlanError: the program's own file cannot be found.
    """
    from mild_compass import desktop

    files = desktop.remove() if remove else desktop.install(commands())
    for file in files:
        print(f"{'Removed' if remove else 'Wrote'} {file}")
    if not files:
        print("There was nothing to remove.")
