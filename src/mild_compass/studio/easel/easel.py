"""The easel: a quiet window over the whole screen, readable from two metres, one step at a time."""

from __future__ import annotations

import time
from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QImage, QKeyEvent
from PySide6.QtWidgets import QApplication, QHBoxLayout, QLayout, QPushButton, QVBoxLayout, QWidget

from mild_compass.plan.edits.departures import settle_departure
from mild_compass.plan.edits.work import next_sitting_id, with_sitting
from mild_compass.plan.work import clock_minutes
from mild_compass.studio.easel.awake import Awake
from mild_compass.studio.easel.departures import DepartureBox
from mild_compass.studio.easel.picture import StepPicture
from mild_compass.studio.easel.run import Clocks, Run, done_before
from mild_compass.studio.widgets import Wrapped, plain_label

if TYPE_CHECKING:
    from collections.abc import Callable

    from PySide6.QtCore import QEvent
    from PySide6.QtGui import QCloseEvent, QResizeEvent

    from mild_compass.plan.study import Departure
    from mild_compass.studio.derived.work_order import DrawnOrder
    from mild_compass.studio.memory import Memory
    from mild_compass.studio.session import Session
    from mild_compass.studio.settings.settings import Settings
    from mild_compass.studio.words import Hold

BEAT_MS, WRITES_EVERY_S = 250, 10.0
CLOCKS = Clocks(time.monotonic, lambda: time.clock_gettime(time.CLOCK_BOOTTIME))
FLASH_MS = 700
GROUND, WORDS, QUIET, ACCENT, FLASH = "#262626", "#f2f2f0", "#b4b4b2", "#e0785c", "#6a6a68"
HELD: dict[Qt.Key, Hold] = {
    Qt.Key.Key_Q: "squint",
    Qt.Key.Key_W: "values",
    Qt.Key.Key_E: "mirror",
    Qt.Key.Key_T: "as taken",
}
HOLD_WORDS: dict[Hold, str] = {"as taken": "Photo", "squint": "Squint", "values": "Values", "mirror": "Mirror"}
DONE_WORDS = "Photograph the finished work and check it; then say what held, at Planned and done."


class Easel(QWidget):
    """Space goes on, Backspace goes back, Esc leaves; what is done is written down at once."""

    left = Signal(str)  # where to go: nothing, "check" or "done"

    def __init__(
        self, session: Session, settings: Settings, memory: Memory, made: DrawnOrder, photo: QImage | None,
        at: dict[str, tuple[str, ...]], clocks: Clocks = CLOCKS,
    ) -> None:  # fmt: skip
        super().__init__()
        study = session.plan.study
        assert study is not None
        self.setWindowTitle("At the easel")
        self.setAccessibleName("At the easel")
        self._session, self._settings, self._memory = session, settings, memory
        self._made, self._photo, self._at, self._clock = made, photo, at, clocks.work
        self._workspace, self._study = session.workspace, study.id  # whose sitting it is, whatever else is opened
        steps, before = made.order.in_order, done_before(session.plan, study.id, clocks.moment())
        before |= memory.still_drying(session.workspace, study.id, clocks.drying())
        self.run = Run(
            next_sitting_id(session.plan), study.id, study.medium.medium, clocks.moment(), steps, before, clocks
        )
        self._clocks = clocks
        self._begun = self._written = clocks.work()
        self._dried: set[str] = set()
        self._awake, self._at_work = Awake(self), False
        self._awake.answered.connect(self._show)
        self._lay_out()
        self._beat = QTimer(self, interval=BEAT_MS)
        self._beat.timeout.connect(self._tick)
        self._flash = QTimer(self, singleShot=True, interval=FLASH_MS)
        self._flash.timeout.connect(self._show_ground)
        session.changed.connect(self._show_departure)
        session.leaving.connect(self._write_where_it_stands)
        session.replaced.connect(self.close)

    def begin(self) -> None:
        """Take over the screen and start the clock."""
        self.showFullScreen()
        self.activateWindow()
        self._awake.hold()
        self._at_work = True
        self._beat.start()
        self._show()
        self.setFocus()

    @property
    def asks(self) -> bool:
        """Whether something planned comes up at the step in hand."""
        return self._open_departure() is not None

    # -- how it lies ------------------------------------------------------------------------------------------

    def _lay_out(self) -> None:
        self.picture = StepPicture()
        self._count, self._title, self._words, self._look = plain_label(), Wrapped(), Wrapped(), Wrapped()
        self._cautions, self._clock_label, self._of = Wrapped(), plain_label(), Wrapped()
        self._drying, self._next = Wrapped(), Wrapped()
        self.departure = DepartureBox()
        self.departure.settled.connect(self._settle)
        self.departure.left.connect(self.setFocus)
        self._check = self._button("Open Check", lambda: self._leave("check"))
        column = QVBoxLayout()
        column.setSpacing(10)
        for widget in (self._count, self._title, self._words, self._look, self._cautions, self._check):
            column.addWidget(widget)
        column.addStretch(1)
        for widget in (self._clock_label, self._of, self._drying, self._next):
            column.addWidget(widget)
        left = QVBoxLayout()
        left.setSpacing(14)
        left.addWidget(self.picture, 1)
        left.addWidget(self.departure)
        middle = QHBoxLayout()
        middle.setSpacing(32)
        middle.addLayout(left, 3)
        middle.addLayout(column, 2)
        layout = QVBoxLayout(self)
        layout.setSizeConstraint(QLayout.SizeConstraint.SetNoConstraint)  # it has the screen's size, whatever is on it
        layout.setContentsMargins(28, 24, 28, 20)
        layout.setSpacing(18)
        layout.addLayout(middle, 1)
        layout.addLayout(self._foot())
        self._show_ground()

    def _foot(self) -> QHBoxLayout:
        """Large touch targets: what is pressed often is at the right, under the hand."""
        row = QHBoxLayout()
        row.setSpacing(12)
        self._back = self._button("Back", self.go_back)
        self._pause = self._button("Pause", self._toggle_pause)
        leave = self._button("Leave", self.close)
        self._on = self._button("Done, next", self.go_on)
        self._on.setObjectName("on")
        for widget in (leave, self._back, self._pause):
            row.addWidget(widget)
        row.addStretch(1)
        for name, words in HOLD_WORDS.items():
            held = self._button(words, lambda: None)
            held.pressed.connect(lambda name=name: self.picture.hold(name, True))
            held.released.connect(lambda name=name: self.picture.hold(name, False))
            row.addWidget(held)
        row.addStretch(1)
        row.addWidget(self._on, 1)
        return row

    def _button(self, words: str, action: Callable[[], object]) -> QPushButton:
        made = QPushButton(words)
        made.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # Space belongs to the easel, not to the button pressed last
        made.clicked.connect(lambda: action())
        return made

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._show_ground()

    def _show_ground(self, ground: str = GROUND) -> None:
        """Words as large as the screen lets them be: at two metres a letter needs about eight millimetres."""
        unit = max(10, min(self.height() / 40, self.width() / 62))
        sizes = {"title": 2.0, "words": 1.15, "quiet": 0.95, "clock": 3.6}
        px = {name: round(size * unit) for name, size in sizes.items()}
        for name, labels in (
            ("title", (self._title,)),
            ("words", (self._words, self._next, self._of, self._drying)),
            ("quiet", (self._count, self._look, self._cautions)),
            ("clock", (self._clock_label,)),
        ):
            for label in labels:
                label.setObjectName(name)
        self.setStyleSheet(
            f"Easel, QWidget {{ background: {ground}; color: {WORDS}; font-size: {px['words']}px; }}"
            f"QLabel#title {{ font-size: {px['title']}px; font-weight: 600; }}"
            f"QLabel#words {{ font-size: {px['words']}px; }}"
            f"QLabel#quiet {{ font-size: {px['quiet']}px; color: {QUIET}; }}"
            f"QLabel#clock {{ font-size: {px['clock']}px; }}"
            f"QPushButton {{ background: #3c3c3c; border: 1px solid #5a5a5a; border-radius: 6px; "
            f"padding: {round(0.7 * unit)}px {round(0.9 * unit)}px; }}"
            f"QPushButton:pressed {{ background: {ACCENT}; color: #1b1b1b; }}"
            f"QPushButton#on {{ background: {ACCENT}; color: #1b1b1b; border-color: {ACCENT}; font-weight: 600; }}"
            f"QLineEdit {{ background: #3c3c3c; border: 1px solid #5a5a5a; padding: 6px; }}"
        )
        for label in self.findChildren(Wrapped):
            label.setText(label.text())  # measured anew

    # -- what is shown ----------------------------------------------------------------------------------------

    def _show(self) -> None:
        """The step in hand; the clock is shown by the beat."""
        step, steps = self.run.step, self.run.steps
        self._back.setEnabled(self.run.at > 0)
        self._on.setText("Done, next" if step is not None and self.run.following is not None else "Done")
        self._on.setEnabled(step is not None)
        self._pause.setEnabled(step is not None)
        self._check.setVisible(step is None or step.kind == "check")
        if step is None:
            self._show_end()
        else:
            some = f"{self.run.at + 1} of {len(steps)}"
            self._count.setText(f"{some}   The screen may sleep on this desktop." if self._awake.refused else some)
            self._title.setText(step.title)
            self._words.setText(step.words)
            self._look.setText(step.look_for)
            self._cautions.setText(" ".join(step.cautions))
            self._cautions.setVisible(bool(step.cautions))
            self.picture.show_image(self._made.pictures[step.key], self._photo)
        self._show_departure()
        self._tick()

    def _show_end(self) -> None:
        last = self.run.steps[-1].key if self.run.steps else ""
        self._count.setText("All done")
        self._title.setText("It is done")
        self._words.setText(DONE_WORDS)
        for label in (self._look, self._cautions):
            label.setText("")
        self.picture.show_image(self._made.pictures.get(last), self._photo)

    def _show_departure(self) -> None:
        self.departure.show_departure(self._open_departure())

    def _open_departure(self) -> Departure | None:
        """The first planned here, or before, of which nothing has been said; at the end all that are left."""
        plan, step = self._session.plan, self.run.step
        study = plan.study
        if study is None or study.id != self._study:
            return None
        until = self.run.steps[: self.run.at + 1] if step is not None else self.run.steps
        ids = {each for before in until for each in self._at.get(before.key, ())}
        return next((each for each in study.departures if each.id in ids and each.outcome == "open"), None)

    def _tick(self) -> None:
        """A quarter of a second has gone: clocks, what has dried, and now and then the plan."""
        step = self.run.step
        elapsed = self.run.elapsed()
        self._clock_label.setText(_clock(elapsed) if step is not None else "")
        waiting = self.run.wait(step) > 0
        self._pause.setText("It is dry" if waiting else "Go on" if self.run.paused else "Pause")
        self._of.setText(self._said_of_time())
        drying = self.run.drying()
        words = ", ".join(f"{each.title.lower()} {_clock(each.seconds)}" for each in drying)
        self._drying.setText(f"Drying: {words}" if words else "")
        self._next.setText(self._said_of_next())
        self._tell_dried({each.title for each in drying})
        if self._clock() - self._written >= WRITES_EVERY_S:
            self.write_down()

    def _said_of_time(self) -> str:
        step = self.run.step
        if step is None:
            return ""
        wait = self.run.wait(step)
        if wait > 0:
            return f"Wait: it is dry in {_clock(wait)}."
        return f"of about {step.minutes:.0f} min. {datetime.now():%H:%M} now{self._ends()}."

    def _ends(self) -> str:
        """When this sitting was to end, and the light on the motif."""
        work = self._session.plan.work
        end = datetime.now() + timedelta(seconds=60 * work.sitting_min - (self._clock() - self._begun))
        words = f", until {end:%H:%M}"
        if work.light_until:
            minutes = clock_minutes(work.light_until)
            words += f", light until {minutes // 60}:{minutes % 60:02d}"
        return words

    def _said_of_next(self) -> str:
        after = self.run.following
        if after is None:
            return ""
        wait = self.run.wait(after)
        return f"Then: {after.title}" + (f", dry in {_clock(wait)}" if wait > 0 else "")

    def _tell_dried(self, drying: set[str]) -> None:
        """By a sound or a flash, where the artist wants that."""
        dried, self._dried = self._dried - drying, drying
        if dried and self._settings.now.signal == "sound":
            QApplication.beep()
        elif dried and self._settings.now.signal == "flash":
            self._show_ground(FLASH)
            self._flash.start()

    # -- what the artist does ---------------------------------------------------------------------------------

    def go_on(self) -> None:
        """The step is done: tick it, keep its time, take up the next."""
        step = self.run.go_on()
        if step is not None:
            self._memory.keep_time(self.run.mark(step), self.run.timed(step))
            self.write_down()
        self._show()

    def go_back(self) -> None:
        """The step before is not done after all."""
        step = self.run.go_back()
        if step is not None:
            self._memory.keep_time(self.run.mark(step), None)
            self.write_down()
        self._show()

    def write_down(self, ended: str = "") -> None:
        """Write the sitting as it stands into the plan, whose journal is on disk at once."""
        self._written = self._clock()
        sitting = self.run.sitting(ended)
        if sitting.steps and self._is_here:
            self._session.record(lambda plan: with_sitting(plan, sitting))

    @property
    def _is_here(self) -> bool:
        """Whether the plan whose sitting it is, is the one on the board, with its study still in it."""
        session = self._session
        return session.workspace is self._workspace and any(each.id == self._study for each in session.plan.studies)

    def _write_where_it_stands(self) -> None:
        """Before the plan is put away, so that what is saved of it has this sitting whole."""
        if self._at_work:
            self.write_down()

    def _toggle_pause(self) -> None:
        """Let the clock stand or go on; while something dries, say that it is dry already."""
        if self.run.wait(self.run.step) > 0:
            self.run.say_dry()
        else:
            self.run.pause(not self.run.paused)
        self._tick()

    def _settle(self, departure_id: str, outcome: str, why: str) -> None:
        self._session.apply(settle_departure(departure_id, outcome, why))  # type: ignore[arg-type]

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in HELD:
            if not event.isAutoRepeat():
                self.picture.hold(HELD[key], True)
        elif key in (Qt.Key.Key_Space, Qt.Key.Key_Right) and not event.isAutoRepeat():
            self.go_on()
        elif key in (Qt.Key.Key_Backspace, Qt.Key.Key_Left) and not event.isAutoRepeat():
            self.go_back()
        elif key == Qt.Key.Key_P:
            self._toggle_pause()
        elif key == Qt.Key.Key_Escape:
            self.close()
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in HELD and not event.isAutoRepeat():
            self.picture.hold(HELD[key], False)
        else:
            super().keyReleaseEvent(event)

    def changeEvent(self, event: QEvent) -> None:
        if event.type() == event.Type.ActivationChange and not self.isActiveWindow():
            self.picture.let_go()
        super().changeEvent(event)

    def _leave(self, to: str) -> None:
        self.close()
        self.left.emit(to)

    def closeEvent(self, event: QCloseEvent) -> None:
        """The sitting ends; what was in hand keeps its time and is not ticked."""
        self._beat.stop()
        if self._at_work:
            self._at_work = False
            self.run.pause(True)
            self.write_down(self._clocks.moment())
            self._memory.keep_drying(self._workspace, self._study, self.run.laid)
            self._awake.let_go()
            self.left.emit("")
        self.deleteLater()
        event.accept()


def _clock(seconds: float) -> str:
    """Minutes and seconds, or hours."""
    whole = round(max(0.0, seconds))
    hours, rest = divmod(whole, 3600)
    return f"{hours}:{rest // 60:02d}:{rest % 60:02d}" if hours else f"{rest // 60}:{rest % 60:02d}"
