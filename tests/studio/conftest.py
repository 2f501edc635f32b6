"""The real window, driven by mouse and keys as a person would."""

from __future__ import annotations

import gc
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication, QLabel, QPushButton, QWidget
from pytestqt.qtbot import QtBot
from tests.conftest import jpeg

from mild_compass.craft.memo import STORE, Memo, Store
from mild_compass.craft.picture import load, study_picture
from mild_compass.craft.picture.load import Picture
from mild_compass.plan.guides import Lens
from mild_compass.plan.model import Plan
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.pictures import OwnDrawing
from mild_compass.studio.application import make_window
from mild_compass.studio.derived import checks, masses, pictures, views
from mild_compass.studio.derived.computed import Computed
from mild_compass.studio.settings.preferences import Preferences
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.window.window import Window

# Longest side in pixels, half of what it is: what is looked at here is the window, and it waits a quarter as long.
PROXY = {"px": 750}


class Hand:
    """A person's hand on the window."""

    def __init__(self, window: Window, bot: QtBot) -> None:
        self.window, self.bot = window, bot

    def settle(self) -> None:
        """Wait until everything on the window is as it will stay."""
        self.bot.waitUntil(lambda: self.window.idle, timeout=60_000)

    def rest(self) -> None:
        """Let what is laid out be laid out, without waiting for answers."""
        for _ in range(3):
            QApplication.processEvents()

    def add_photo(self, path: Path) -> None:
        """Drop a photo onto the window."""
        count = len(self.window.session.plan.references)
        self.window.take_files([path])
        self.bot.waitUntil(lambda: len(self.window.session.plan.references) > count, timeout=10_000)
        self.settle()

    def key(self, key: Qt.Key, modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        """Press a key where the focus is."""
        target = QApplication.focusWidget() or self.window
        self.bot.keyClick(target, key, modifier)

    def type_into(self, widget: QWidget, text: str) -> None:
        """Replace what a field holds and finish with Enter."""
        widget.setFocus()
        self.bot.keyClick(widget, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
        self.bot.keyClicks(widget, text)
        self.bot.keyClick(widget, Qt.Key.Key_Return)

    def place(self, photo_px: tuple[float, float]) -> QPointF:
        """Where a point of the photo is on the board."""
        sight = self.window.board.photo_sight()
        assert sight is not None
        return QPointF(*sight.to_widget(photo_px).tolist())

    def mouse(self, kind: QEvent.Type, at: QPointF, target: QWidget | None = None) -> None:
        """One mouse event on the board."""
        widget = target or self.window.board
        held = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseButtonRelease else Qt.MouseButton.LeftButton
        button = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseMove else Qt.MouseButton.LeftButton
        event = QMouseEvent(kind, at, widget.mapToGlobal(at), button, held, Qt.KeyboardModifier.NoModifier)
        QApplication.sendEvent(widget, event)

    def drag(self, start: tuple[float, float], end: tuple[float, float], let_go: bool = True) -> None:
        """Drag on the board from one point of the photo to another, by way of the middle."""
        a, b = self.place(start), self.place(end)
        self.mouse(QEvent.Type.MouseButtonPress, a)
        for share in (0.3, 0.7, 1.0):
            self.mouse(QEvent.Type.MouseMove, a + (b - a) * share)
        if let_go:
            self.mouse(QEvent.Type.MouseButtonRelease, b)

    def click(self, text: str) -> None:
        """Click the visible button with this text."""
        found = [each for each in self.window.findChildren(QPushButton) if each.text() == text and each.isVisible()]
        assert found, f"no button “{text}” to be seen"
        self.bot.mouseClick(found[0], Qt.MouseButton.LeftButton)

    def go(self, number: int) -> None:
        """Go to a station by its digit key."""
        self.window.board.setFocus()
        self.bot.keyClick(self.window, Qt.Key(Qt.Key.Key_0.value + number))
        self.settle()

    def click_at(self, widget: QWidget, x: int, y: int) -> None:
        """Click a place of a widget."""
        self.bot.mouseClick(widget, Qt.MouseButton.LeftButton, pos=QPoint(x, y))


@pytest.fixture(autouse=True, scope="session")
def _made_once() -> Iterator[None]:
    """The same photo is the same picture in every test of a process, and what is made of it is made once: what a window
    forgets with its plan is remembered from test to test."""
    read: dict[object, Picture] = {}

    def read_once(data: bytes, name: str, longest_px: int = load.PROXY_PX) -> Picture:
        key = (data, name, min(longest_px, PROXY["px"]))
        if key not in read:
            read[key] = real(*key)
        return read[key]

    real = load.read_proxy
    with pytest.MonkeyPatch.context() as patch:
        for each in (load, study_picture):
            patch.setattr(each, "read_proxy", read_once)
        patch.setattr(pictures, "colour_looks_of", once(pictures.colour_looks_of, _ground_key))
        patch.setattr(pictures, "all_looks", once(pictures.all_looks, lambda looks: (looks.picture,)))
        patch.setattr(pictures, "departed_looks", once(pictures.departed_looks, _departed_key))
        patch.setattr(checks, "made_check", once(checks.made_check, _check_key))
        for room, name in ((masses, "_drawn"), (masses, "_quick"), (views, "_lines"), (views, "_reads")):
            patch.setattr(room, name, once(getattr(room, name), lambda *inputs: inputs))
        patch.setattr(Computed, "_freeze", lambda computed: setattr(computed, "_frozen", True))  # for long sittings
        patch.setattr(Store, "forget", lambda _: None)
        patch.setattr(STORE, "most_bytes", 1 << 30)
        for memo in [each for each in gc.get_objects() if isinstance(each, Memo)]:
            patch.setattr(memo, "most", 8 * memo.most)
        yield


@pytest.fixture
def large_photos(monkeypatch) -> None:
    """Photos as large as the application has them, for what is found in their finest detail."""
    monkeypatch.setitem(PROXY, "px", load.PROXY_PX)


def once(make: Callable[..., Any], key_of: Callable[..., tuple[Any, ...] | None]) -> Callable[..., Any]:
    """What is made of equal things, from one test to the next; without a key it is made each time."""
    made: list[tuple[tuple[Any, ...], Any]] = []

    def answer(*inputs: Any) -> Any:
        key = key_of(*inputs)
        found = [each for before, each in made if before == key]
        if key is not None and found:
            return found[0]
        new = make(*inputs)
        if key is not None:
            made.append((key, new))
        return new

    return answer


def _ground_key(plan: Plan, photos: PhotoFolder) -> tuple[Any, ...] | None:
    key = plan.picture_of(plan.study)
    return key if all(photos.file(each).exists() for each in key if isinstance(each, str) and len(each) == 64) else None


def _departed_key(picture: Picture, lens: Lens, departures: object, files: dict[str, Any]) -> tuple[Any, ...] | None:
    whole = all(path.exists() for path, _ in files.values())
    return (picture, lens, departures, [path.name for path, _ in files.values()]) if whole else None


def _check_key(plan: Plan, drawing: OwnDrawing, photos: PhotoFolder, picture: Picture | None) -> tuple[Any, ...] | None:
    there = photos.file(drawing.sha256).exists()
    return (plan.study, plan.paper, drawing, picture) if there else None


def options(tool: Instrument) -> QWidget:
    """The options of an instrument as they lie on the bench."""
    window = tool.desk.contact_sheet.window()
    assert isinstance(window, Window)
    return window.bench.page.options[tool.name]


def control(tool: Instrument, name: str) -> Any:
    """The control of an instrument with this accessible name, or these words on it."""
    for each in options(tool).findChildren(QWidget):
        if isinstance(each, QLabel):
            continue
        line, text = getattr(each, "line", each), getattr(each, "text", str)
        if name in (line.accessibleName(), text() if callable(text) else ""):
            return each
    raise AssertionError(f"{tool.name} has no control “{name}”")


def words_of(tool: Instrument) -> str:
    """All that stands in an instrument's options in words."""
    return " ".join(each.text() for each in options(tool).findChildren(QLabel) if each.isVisible())


@pytest.fixture
def photo_file(tmp_path: Path) -> Path:
    path = tmp_path / "quay.jpg"
    path.write_bytes(jpeg())
    return path


@pytest.fixture
def empty(qtbot: QtBot, qapp: QApplication, tmp_path: Path, monkeypatch) -> Iterator[Hand]:
    """The window as it is at first start."""
    for kind in ("CONFIG", "STATE", "DATA", "CACHE"):
        monkeypatch.setenv(f"XDG_{kind}_HOME", str(tmp_path / kind.lower()))
    window = make_window(qapp, tmp_path / "open", Preferences(chrome="light"))
    window.resize(1280, 800)
    window.show()
    qtbot.waitExposed(window)
    yield Hand(window, qtbot)
    window.close_down()
    window.hide()
    window.deleteLater()
    qapp.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    gc.unfreeze()  # a window freezes what lives with its first picture, itself too: here it is not the only one


@pytest.fixture
def hand(empty: Hand, photo_file: Path) -> Hand:
    """The window with one photo of 600 x 400 pixels, at the viewfinder."""
    empty.add_photo(photo_file)
    empty.go(2)
    return empty
