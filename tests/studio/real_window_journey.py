"""Run by test_real_window: opens the studio on a real screen and goes from a photo to a PDF and a saved plan."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from mild_compass.studio.application import application, make_window
from mild_compass.studio.settings import preferences as store


def wait(app, ready: Callable[[], bool], seconds: float = 30) -> None:
    """Let the window work until it is ready."""
    end = time.monotonic() + seconds
    while not ready():
        app.processEvents()
        assert time.monotonic() < end, "the window did not get ready"
        QTest.qWait(5)


def main(photo: Path, out: Path) -> None:
    """The journey."""
    app = application()
    window = make_window(app, store.state_folder())
    window.resize(1280, 800)
    window.show()
    assert QTest.qWaitForWindowExposed(window)
    window.take_files([photo])
    wait(app, lambda: window.session.plan.study is not None and window.idle)

    QTest.keyClick(window, Qt.Key.Key_2)
    board = window.board
    board.setFocus()

    def at(x: float, y: float) -> QPoint:
        return QPoint(*(round(v) for v in board.photo_sight().to_widget((x, y)).tolist()))

    def drag(start: QPoint, end: QPoint) -> None:
        QTest.mousePress(board, Qt.MouseButton.LeftButton, pos=start)
        for k in (1, 2, 3):
            QTest.mouseMove(board, start + (end - start) * k / 3)
            app.processEvents()
        QTest.mouseRelease(board, Qt.MouseButton.LeftButton, pos=end)
        app.processEvents()

    frame = window.session.plan.study.frame
    drag(at(frame.x_px + frame.width_px, frame.y_px + frame.height_px), at(frame.x_px + 200, frame.y_px + 300))
    assert window.session.plan.study.frame.width_px < frame.width_px
    QTest.keyClick(board, Qt.Key.Key_4)
    drag(at(50, 50), at(200, 125))
    drag(at(50, 350), at(200, 275))
    assert window.computed.perspective().horizon is not None
    QTest.keyClick(board, Qt.Key.Key_5)
    wait(app, lambda: window.idle)
    assert window.computed.masses is not None
    QTest.keyClick(board, Qt.Key.Key_6)
    wait(app, lambda: window.idle)
    pdf = out.with_suffix(".pdf")
    window.files.exports.write_sheet(pdf)
    wait(app, pdf.exists)
    window.files.plans.write(out.with_suffix(".mildplan"))
    wait(app, lambda: not window.session.unsaved)
    picture = window.grab()
    assert picture.width() >= 1280
    window.close()
    print("journey done on", app.platformName())


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
