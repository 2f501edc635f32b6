"""The window that is killed: … worker FOLDER SEED idle|busy."""

from __future__ import annotations

import random
import sys
import time
from pathlib import Path

from PySide6.QtCore import QTimer

from mild_compass.plan.edits.studies import rename_plan
from mild_compass.studio.application import application, load_demo, make_window
from mild_compass.studio.settings.preferences import Preferences


def main(folder: Path, seed: int, how: str) -> None:
    """Work until killed, or until the time is over."""
    hand, app = random.Random(seed), application()
    window = make_window(app, folder / "open", Preferences(chrome="light"))
    load_demo(window, hand.choice(("glasshouse", "pumping-station", "lantern-bench")))
    window.show()
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


if __name__ == "__main__":
    main(Path(sys.argv[1]), int(sys.argv[2]), sys.argv[3])
