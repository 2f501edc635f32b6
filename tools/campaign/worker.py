"""The window that is killed, or worked on for long: … worker FOLDER SEED idle|busy|"soak SECONDS"."""

from __future__ import annotations

import json
import random
import sys
import time
from pathlib import Path

import psutil
from PySide6.QtCore import QTimer

from mild_compass.plan.edits.studies import rename_plan
from mild_compass.plan.edits.values import change_values
from mild_compass.plan.tones import ValuePlan
from mild_compass.studio.application import application, load_demo, make_window
from mild_compass.studio.settings.preferences import Preferences
from mild_compass.studio.words import STATION_VIEWS


def main(folder: Path, seed: int, how: str) -> None:
    """Work until killed, or until the time is over."""
    hand, app = random.Random(seed), application()
    window = make_window(app, folder / "open", Preferences(chrome="light"))
    load_demo(window, hand.choice(("glasshouse", "pumping-station", "lantern-bench")))
    window.show()
    if how.startswith("soak"):
        soak(window, app, hand, float(how.split()[1]))
        return
    number = 0

    def edit() -> None:
        nonlocal number
        number += 1
        window.session.apply(rename_plan(f"edit {number}"))
        print(number, time.time(), flush=True)
        timer.start(round(1000 * hand.uniform(0.1, 0.3)))

    def spin(*_: object) -> int:
        return sum(range(300_000))

    if how == "busy":
        again = QTimer(window, interval=20)
        owner = window.session.owner().of_plan
        for k in range(2):
            again.timeout.connect(
                lambda k=k: (
                    window.work.busy(f"spin {k}")
                    or window.work.latest(f"spin {k}", owner, spin, then=lambda _: None, otherwise=lambda _: None)
                )
            )
        again.timeout.connect(lambda: window.jobs.idle and window.jobs.do("Spinning", spin, done=lambda _: None))
        again.start()
    timer = QTimer(window, singleShot=True)
    timer.timeout.connect(edit)
    timer.start(100)
    print("begun", flush=True)
    app.exec()


def soak(window, app, hand: random.Random, seconds: float) -> None:
    """Visit stations and instruments, change things, take them back; tell what memory it came to."""
    begun, early, visits = time.monotonic(), 0.0, 0
    process = psutil.Process()
    while time.monotonic() - begun < seconds:
        visits += 1
        window.go_to(hand.choice(STATION_VIEWS).name)
        window.bench.take_up(hand.choice(window.bench.instruments).name)
        if hand.random() < 0.3:
            window.session.apply(change_values(ValuePlan(count=hand.randint(2, 7))))
        if hand.random() < 0.3:
            window.session.undo()
        if hand.random() < 0.02:
            load_demo(window, hand.choice(("glasshouse", "pumping-station", "lantern-bench")))
        until = time.monotonic() + 5
        while not window.idle and time.monotonic() < until:
            app.processEvents()
            time.sleep(0.001)
        if not early and time.monotonic() - begun > seconds / 2:
            early = process.memory_info().rss / 1e6
    late = process.memory_info().rss / 1e6
    window.close_down()
    print(json.dumps({"visits": visits, "early_mb": early, "late_mb": late}), flush=True)


if __name__ == "__main__":
    main(Path(sys.argv[1]), int(sys.argv[2]), sys.argv[3])
