"""A careless hand in the window: every station and instrument, anything dragged, typed, chosen, pressed and taken back.

    python -m tools.campaign.walk FOLDER SEED SECONDS

Tells as JSON how many actions it came to, the memory by minute and after the plan is closed, and every stop of the
window by its cause: a second thread looks at what the interface's thread is in whenever it has not come round.
"""

from __future__ import annotations

import json
import random
import sys
import threading
import time
from collections import defaultdict
from pathlib import Path
from typing import TYPE_CHECKING

import psutil
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QInputDialog

from mild_compass.demo import SCENES
from mild_compass.studio.application import application, load_demo, make_window
from mild_compass.studio.requests.heap import REST_S
from mild_compass.studio.settings.preferences import Preferences
from mild_compass.studio.widgets import Choice, Entry, Tick
from mild_compass.studio.words import STATION_VIEWS

if TYPE_CHECKING:
    from collections.abc import Callable
    from types import FrameType

    from mild_compass.studio.window.window import Window

LONG_STOP_S = 0.1
LOOK_S = 0.02
PATIENCE_S = 5
WORDS = ("lots", "-7", "1e99", "nan", "12", "0", "½", "250 mm", "3/4", "   ")
KEYS = (Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Delete, Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Tab)
MB = 1e6
IDLE = ("studio/requests/threads.py: _run", "studio/requests/journal.py", "the library")  # what resting threads are in


class Watch(threading.Thread):
    """Looks at the thread that made it, and tells what it was in whenever it has not come round for too long."""

    def __init__(self) -> None:
        super().__init__(daemon=True)
        self.beat = time.monotonic()
        self.stops: dict[str, list[float]] = defaultdict(list)
        self._of, self._over = threading.get_ident(), threading.Event()

    def come_round(self) -> None:
        """The thread is not stopped."""
        self.beat = time.monotonic()

    def run(self) -> None:
        """Until it is called off."""
        cause, since, looked = "", 0.0, time.monotonic()
        while not self._over.wait(LOOK_S):
            beat, now = self.beat, time.monotonic()
            late, looked = now - looked > LONG_STOP_S, now
            if cause and beat != since:
                self.stops[cause][-1] = beat - since
                cause = ""
            if not cause and now - beat > LONG_STOP_S:
                cause, since = self._cause(late), beat
                self.stops[cause].append(now - beat)

    def _cause(self, late: bool) -> str:
        """Where the thread is; where this one could not look either, who holds the interpreter meanwhile."""
        frames = sys._current_frames()
        if not late:
            return cause_of(frames.get(self._of))
        others = [cause_of(frame) for one, frame in frames.items() if one not in (self._of, self.ident)]
        at_work = sorted(each for each in others if not each.startswith(IDLE))
        return f"no thread comes round, while one is in {' and '.join(at_work) or cause_of(frames.get(self._of))}"

    def call_off(self) -> None:
        """It looks no longer."""
        self._over.set()
        self.join()


def cause_of(frame: FrameType | None) -> str:
    """The innermost place of the application that a thread is in."""
    while frame is not None:
        name = frame.f_code.co_filename
        if "mild_compass" in name:
            return f"{name.rsplit('mild_compass/', 1)[-1]}: {frame.f_code.co_name}"
        frame = frame.f_back
    return "the library of the window"


class Hand:
    """Does one careless thing after another."""

    def __init__(self, window: Window, hand: random.Random) -> None:
        self.window, self.hand = window, hand
        usual: tuple[Callable[[], object], ...] = (
            self._wander, self._drag, self._drag, self._choose, self._tick, self._type_in, self._press, self._take_back,
        )  # fmt: skip
        self._deeds = (*usual, *usual, *usual, self._open_another)

    def act(self) -> None:
        """One of all it can do."""
        self.hand.choice(self._deeds)()

    def _wander(self) -> None:
        self.window.go_to(self.hand.choice(STATION_VIEWS).name)
        self.window.bench.take_up(self.hand.choice(self.window.bench.instruments).name)

    def _drag(self) -> None:
        if not self.window.middle.at_a_board:
            return self._wander()
        board = self.window.board
        start, end = (
            QPointF(self.hand.random() * board.width(), self.hand.random() * board.height()) for _ in range(2)
        )
        self._mouse(QEvent.Type.MouseMove, start)
        self._mouse(QEvent.Type.MouseButtonPress, start)
        for share in (0.2, 0.4, 0.6, 0.8, 1.0):
            self._mouse(QEvent.Type.MouseMove, start + (end - start) * share)
            QApplication.processEvents()
        if self.hand.random() < 0.2:
            self._key(Qt.Key.Key_Escape)
        self._mouse(QEvent.Type.MouseButtonRelease, end)
        board.close_entry()
        return None

    def _choose(self) -> None:
        for each in self._controls(Choice):
            if each._values:
                each.pick(self.hand.choice(list(each._values)))

    def _tick(self) -> None:
        for each in self._controls(Tick):
            each.click()

    def _type_in(self) -> None:
        for each in self._controls(Entry):
            each.type_in(self.hand.choice(WORDS))

    def _press(self) -> None:
        if self.window.middle.at_a_board:
            self._key(self.hand.choice(KEYS))
            self.window.board.close_entry()

    def _take_back(self) -> None:
        for _ in range(self.hand.randint(1, 6)):
            self.window.session.undo()

    def _open_another(self) -> None:
        if self.hand.random() < 0.3:
            load_demo(self.window, self.hand.choice(SCENES))

    def _controls(self, kind: type) -> list:
        page = self.window.bench.page
        found = [
            each for each in page.options[page.chosen].findChildren(kind) if each.isEnabled() and each.isVisibleTo(page)
        ]
        return self.hand.sample(found, 1) if found else []

    def _mouse(self, kind: QEvent.Type, at: QPointF) -> None:
        board = self.window.board
        held = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseButtonRelease else Qt.MouseButton.LeftButton
        button = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseMove else Qt.MouseButton.LeftButton
        event = QMouseEvent(kind, at, board.mapToGlobal(at), button, held, Qt.KeyboardModifier.NoModifier)
        QApplication.sendEvent(board, event)

    def _key(self, key: Qt.Key) -> None:
        for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
            QApplication.sendEvent(self.window.board, QKeyEvent(kind, key, Qt.KeyboardModifier.NoModifier))


def ask_nobody() -> None:
    """Whatever dialog comes up is closed at once."""
    nothing: dict[str, object] = {
        "getOpenFileName": ("", ""),
        "getOpenFileNames": ([], ""),
        "getSaveFileName": ("", ""),
        "getExistingDirectory": "",
    }
    for name, answer in nothing.items():
        setattr(QFileDialog, name, staticmethod(lambda *_, answer=answer, **__: answer))
    QInputDialog.getText = staticmethod(lambda *_, **__: ("", False))
    QDialog.exec = lambda *_: 0


def settle(window: Window, app: QApplication, watch: Watch) -> None:
    """Until the window rests, or for some seconds."""
    until = time.monotonic() + PATIENCE_S
    while True:
        watch.come_round()
        app.processEvents()
        if window.idle or time.monotonic() > until:
            return
        time.sleep(0.001)


def walk(folder: Path, seed: int, seconds: float) -> dict:
    """Walk for so long; what it came to."""
    app = application()
    ask_nobody()
    window = make_window(app, folder / "open", Preferences(chrome="light"))
    window.resize(1280, 800)
    window.show()
    load_demo(window, SCENES[0])
    hand, watch, process = Hand(window, random.Random(seed)), Watch(), psutil.Process()
    settle(window, app, watch)
    watch.start()
    begun, actions, memory = time.monotonic(), 0, []
    while time.monotonic() - begun < seconds:
        watch.come_round()
        hand.act()
        actions += 1
        settle(window, app, watch)
        if time.monotonic() - begun > 60 * len(memory):
            memory.append(round(process.memory_info().rss / MB))
    watch.call_off()
    window.session.new()
    settle(window, app, watch)
    time.sleep(2 * REST_S)
    closed = round(process.memory_info().rss / MB)
    window.close_down()
    stops = {cause: sorted(round(1000 * each) for each in took) for cause, took in watch.stops.items()}
    return {"actions": actions, "memory_mb": memory, "closed_mb": closed, "stops_ms": stops}


if __name__ == "__main__":
    print(json.dumps(walk(Path(sys.argv[1]), int(sys.argv[2]), float(sys.argv[3]))), flush=True)
