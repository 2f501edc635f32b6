"""At the easel: one step after the other, clocks, drying, ticks that outlive a crash, departures, the screen awake."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import textwrap
from dataclasses import replace

import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtWidgets import QApplication, QPushButton
from tests.studio.conftest import Hand

from mild_compass.craft.work.order import Need
from mild_compass.craft.work.step import WorkStep
from mild_compass.memory.folders import times_file
from mild_compass.plan.edits.departures import add_departure
from mild_compass.plan.edits.studies import rename_plan
from mild_compass.plan.edits.work import change_work, with_sitting
from mild_compass.plan.study import Departure
from mild_compass.plan.times import now
from mild_compass.plan.work import WorkPlan
from mild_compass.plan.workspace import Workspace, leftovers
from mild_compass.studio.easel.easel import Easel
from mild_compass.studio.easel.run import Clocks, Run, done_before


class Clock:
    """Seconds that go on when they are told to."""

    def __init__(self) -> None:
        self.now = 1000.0

    def __call__(self) -> float:
        return self.now

    def minutes(self, count: float) -> None:
        self.now += 60 * count


def step(key: str, minutes: float = 10, drying: float = 0, *needs: str) -> WorkStep:
    return WorkStep(
        key, "wash", key.capitalize(), "Do it.", minutes, minutes, minutes, drying, minutes, 0,
        tuple(Need(need) for need in needs), "Look.",
    )  # fmt: skip


STEPS = (step("print"), step("wash", 20, 30), step("second", 20, 0, "wash"), step("tape", 5, 0, "second"))


@pytest.fixture
def clock() -> Clock:
    return Clock()


@pytest.fixture
def run(clock: Clock) -> Run:
    return begun(clock, {})


def begun(clock: Clock, before: dict[str, float], awake: Clock | None = None) -> Run:
    """A sitting; ``awake`` tells the seconds that the computer does not sleep."""
    clocks = Clocks(awake or clock, clock, lambda: "2026-05-01T13:00:00+02:00")
    return Run("sitting-1", "study-1", "washes", "2026-05-01T12:00:00+02:00", STEPS, before, clocks)


# -- the run of a sitting -------------------------------------------------------------------------------------


def test_each_step_has_its_time_and_the_next_is_taken_up(run: Run, clock: Clock):
    clock.minutes(7)
    assert run.elapsed() == 420
    assert run.go_on().key == "print"
    assert (run.step.key, run.elapsed()) == ("wash", 0)
    clock.minutes(21)
    run.go_on()
    sitting = run.sitting()
    assert [(each.step, each.minutes, each.given_min, each.done) for each in sitting.steps] == [
        ("print", 7.0, 10, True),
        ("wash", 21.0, 20, True),
    ]
    assert run.timed(STEPS[1]).minutes == 21


def test_what_dries_is_told_until_it_is_dry_and_the_next_waits_for_it(run: Run, clock: Clock):
    run.go_on()
    run.go_on()
    clock.minutes(10)
    assert [(each.title, each.seconds) for each in run.drying()] == [("Wash", 1200)]
    assert run.wait(run.step) == 1200
    clock.minutes(21)
    assert run.drying() == ()
    assert run.wait(run.step) == 0


def test_waiting_is_no_work_and_what_is_dry_sooner_is_said(run: Run, clock: Clock):
    run.go_on()
    run.go_on()
    clock.minutes(10)
    assert run.elapsed() == 0
    clock.minutes(24)
    assert run.elapsed() == 240, "30 minutes of it were drying"
    run.go_back()
    run.go_on()
    clock.minutes(5)
    run.say_dry()
    assert (run.wait(run.step), run.drying()) == (0, ())
    clock.minutes(2)
    assert run.elapsed() == 240 + 120


def test_back_takes_the_tick_away_and_the_time_goes_on_where_it_was(run: Run, clock: Clock):
    clock.minutes(7)
    run.go_on()
    clock.minutes(2)
    assert run.go_back().key == "print"
    clock.minutes(1)
    assert run.elapsed() == 480
    steps = {each.step: each for each in run.sitting().steps}
    assert not steps["print"].done
    assert steps["wash"].minutes == 2
    assert run.go_back() is None


def test_a_pause_stands_still_and_a_night_is_no_work(run: Run, clock: Clock):
    clock.minutes(3)
    run.pause(True)
    clock.minutes(60)
    assert (run.elapsed(), run.paused) == (180, True)
    run.pause(False)
    clock.minutes(24 * 60)
    assert run.elapsed() == 180 + 6 * 3600


def test_what_is_laid_anew_has_to_dry_anew_though_it_was_found_dry_before(run: Run, clock: Clock):
    run.go_on()
    run.go_on()
    run.say_dry()
    run.go_back()
    clock.minutes(20)
    run.go_on()
    assert run.wait(run.step) == 1800


def test_paper_dries_while_the_computer_sleeps_and_sleep_is_no_work(clock: Clock):
    awake = Clock()
    run = begun(clock, {}, awake)
    awake.minutes(5)
    clock.minutes(5)
    run.go_on()
    run.go_on()
    run.elapsed()  # the last look before the lid is shut
    clock.minutes(29)
    assert run.wait(run.step) == 60
    assert run.elapsed() == 0
    clock.minutes(10)
    assert run.wait(run.step) == 0
    assert run.elapsed() == 0, "the lid is still shut"
    awake.minutes(4)
    clock.minutes(4)
    assert run.elapsed() == 240


def test_a_sitting_tells_the_next_when_things_were_laid(run: Run, clock: Clock, plan):
    run.go_on()
    run.go_on()
    wet = with_sitting(plan, run.sitting())
    at = "2026-05-01T12:10:00+01:00"  # another zone: ten minutes after
    assert done_before(wet, "study-1", at) == {"print": 600.0, "wash": 600.0}
    assert done_before(wet, "study-1", "2026-05-01T09:00:00+02:00")["wash"] == 0, "the clock was set back"
    assert done_before(wet, "study-1", "then")["wash"] == float("inf")
    assert done_before(wet, "study-2", at) == {}
    run.say_dry()
    assert done_before(with_sitting(plan, run.sitting()), "study-1", at)["wash"] == float("inf")


def test_a_later_sitting_goes_on_with_what_is_open_and_the_last_step_ends_it(clock: Clock):
    run = begun(clock, {"print": 9000.0, "wash": 600.0})
    assert run.step.key == "second"
    assert run.wait(run.step) == 20 * 60, "of half an hour ten minutes have gone"
    assert [(each.title, each.seconds) for each in run.drying()] == [("Wash", 1200)]
    assert begun(clock, {"print": 9000.0, "wash": float("inf")}).wait(STEPS[2]) == 0, "laid nobody knows when"
    clock.minutes(25)
    assert (run.wait(run.step), run.elapsed()) == (0, 300)
    run.go_on()
    run.go_on()
    assert run.step is None
    assert run.go_on() is None
    assert run.go_back().key == "tape"


# -- the window -----------------------------------------------------------------------------------------------


@pytest.fixture
def easel(hand: Hand, clock: Clock, monkeypatch) -> Easel:
    """A small photo, on paper to be stretched, with two departures, at the easel."""
    monkeypatch.setenv("DBUS_SESSION_BUS_ADDRESS", "unix:path=/nonexistent")
    window = hand.window
    for edit in (
        change_work(WorkPlan(support="light paper", start="8:30", light_until="11:20")),
        add_departure(Departure("departure-1", "leave out", ((60, 60), (240, 60), (150, 200)), "the post", "dull")),
        add_departure(Departure("departure-2", "darken", ((360, 240), (520, 240), (450, 360)), "the wall")),
    ):
        window.session.apply(edit)
    hand.go(8)
    window.bench.take_up("order")
    hand.settle()
    hand.bot.waitUntil(lambda: window.computed.work_order.made.value is not None, timeout=20_000)
    window.go_to_easel()
    easel = window.easel
    assert easel is not None
    easel._clock, easel.run._clocks = clock, Clocks(clock, clock)
    easel.run._seen = (clock.now, clock.now)
    easel._begun = easel._written = clock.now
    easel._beat.stop()
    return easel


def press(easel: Easel, key: Qt.Key, hand: Hand) -> None:
    hand.bot.keyClick(easel, key)


def test_space_goes_on_backspace_goes_back_and_every_tick_is_in_the_plan(hand: Hand, easel: Easel, clock: Clock):
    session = hand.window.session
    first = easel.run.step
    assert easel._title.text() == first.title
    clock.minutes(12)
    press(easel, Qt.Key.Key_Space, hand)
    assert easel.run.step is not first
    sitting = session.committed.sittings[-1]
    assert (sitting.steps[0].step, sitting.steps[0].minutes, sitting.steps[0].done) == (first.key, 12.0, True)
    assert session.undo_label != "sitting", "it happened, so it is no step of undo"
    assert times_file().read_text().count("\n") == 1
    press(easel, Qt.Key.Key_Backspace, hand)
    assert easel.run.step is first
    assert not session.committed.sittings[-1].steps[0].done
    assert "struck" in times_file().read_text()
    easel.close()
    assert session.committed.sittings[-1].ended


def test_time_and_ticks_are_there_after_the_application_has_died(hand: Hand, easel: Easel, clock: Clock):
    """The journal holds them within its half second; a next start finds them in the folder left over."""
    clock.minutes(9)
    press(easel, Qt.Key.Key_Space, hand)
    clock.minutes(4)
    easel._tick()  # more than ten seconds have gone: what is in hand is written too
    session = hand.window.session
    journal = session.workspace.folder / "journal.json"
    hand.bot.waitUntil(
        lambda: journal.exists() and '"minutes":4.0' in journal.read_text().replace("\\", ""), timeout=5000
    )
    copy = session.workspace.folder.parent.parent / "after-the-crash" / "plan-x"
    shutil.copytree(session.workspace.folder, copy)
    found = leftovers(copy.parent)
    assert [(each.minutes, each.done) for each in found[0].plan.sittings[-1].steps] == [(9.0, True), (4.0, False)]
    assert len(done_before(found[0].plan, "study-1", now())) == 1
    easel.close()


def test_clock_drying_and_the_next_step_are_told(hand: Hand, easel: Easel, clock: Clock):
    while easel.run.step.kind != "stretch":
        press(easel, Qt.Key.Key_Space, hand)
    clock.minutes(5.5)
    easel._tick()
    assert easel._clock_label.text() == "5:30"
    assert "light until 11:20" in easel._of.text()
    press(easel, Qt.Key.Key_Space, hand)
    assert easel._drying.text().startswith("Drying: stretch the paper 3:")
    assert easel._next.text().startswith("Then: ")
    easel.grab()
    easel.close()


def test_a_flash_or_nothing_when_something_is_dry(hand: Hand, easel: Easel, clock: Clock):
    hand.window.settings.remember(signal="flash")
    easel._dried = {"Wash 1"}
    easel._tell_dried(set())
    assert easel._flash.isActive()
    easel._flash.stop()
    hand.window.settings.remember(signal="nothing")
    easel._dried = {"Wash 1"}
    easel._tell_dried(set())
    assert not easel._flash.isActive()
    easel.close()


def test_squint_values_mirror_and_photo_while_held(hand: Hand, easel: Easel):
    picture = easel.picture
    usual = picture.shown
    for key, name in ((Qt.Key.Key_T, "as taken"), (Qt.Key.Key_Q, "squint"), (Qt.Key.Key_W, "values")):
        hand.bot.keyPress(easel, key)
        assert name in picture._held
        assert picture.shown is not usual
        picture.grab()
        hand.bot.keyRelease(easel, key)
        assert picture.shown is usual
    hand.bot.keyPress(easel, Qt.Key.Key_E)
    picture.grab()
    hand.bot.keyRelease(easel, Qt.Key.Key_E)
    easel.close()


def test_departures_come_up_where_they_are_worked_on_and_are_settled(hand: Hand, easel: Easel):
    study = hand.window.session.plan.study
    assert study.departures
    asked = []
    while easel.run.step is not None:
        shown = easel.departure._shown
        if shown is not None and shown.id not in asked:
            asked.append(shown.id)
            hand.bot.keyClicks(easel.departure._why, "it was fine ")
            easel.departure._settle("kept")
        else:
            press(easel, Qt.Key.Key_Space, hand)
    while easel.departure._shown is not None:
        asked.append(easel.departure._shown.id)
        easel.departure._settle("dropped")
    after = {each.id: each for each in hand.window.session.plan.study.departures}
    assert set(asked) == set(after)
    assert {each.outcome for each in after.values()} <= {"kept", "dropped"}
    assert easel._title.text() == "It is done"
    easel.close()


def test_all_on_it_can_be_pressed_and_nothing_is_cut(hand: Hand, easel: Easel):
    for size in ((1280, 800), (1920, 1080), (1024, 700)):
        easel.resize(*size)
        for _ in range(3):
            QApplication.processEvents()
        for each in easel.findChildren(QPushButton):
            if each.isVisible():
                assert each.width() >= each.sizeHint().width()
                assert each.height() >= 36
    easel.close()


def test_the_reminder_to_photograph_leads_to_check(hand: Hand, easel: Easel):
    while easel.run.step.kind != "check":
        press(easel, Qt.Key.Key_Space, hand)
    assert easel._check.isVisible()
    hand.bot.mouseClick(easel._check, Qt.MouseButton.LeftButton)
    assert hand.window.station == "check"


def test_another_plan_or_closing_the_window_ends_the_sitting(hand: Hand, easel: Easel, clock: Clock):
    """Though every plan begins with a study of the same mark."""
    session, left = hand.window.session, []
    session.leaving.connect(lambda: left.append(session.committed))
    other = replace(session.committed, name="Another", sittings=(), id="", log=())
    clock.minutes(2)
    session.start_with(other, Workspace.fresh(session.root), None)
    easel.write_down()  # a beat on its way
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert session.plan.study.id == "study-1"
    assert session.committed.sittings == (), "nothing of it goes into another plan"
    (mine,) = left[-1].sittings
    assert [each.minutes for each in mine.steps] == [2.0], "and all of it in its own"


def test_to_leave_and_come_back_does_not_dry_a_wash(hand: Hand, easel: Easel, clock: Clock):
    """By the clock that only goes on, though the day's is set otherwise meanwhile."""
    while not easel.run.drying():
        press(easel, Qt.Key.Key_Space, hand)
    (wet,) = easel.run.drying()
    session, memory, made = hand.window.session, easel._memory, easel._made
    press(easel, Qt.Key.Key_Escape, hand)
    clock.minutes(1)
    later = Clocks(clock, clock, lambda: "2031-01-01T12:00:00+02:00")
    again = Easel(session, hand.window.settings, memory, made, None, {}, later)
    assert [(each.title, each.seconds) for each in again.run.drying()] == [(wet.title, wet.seconds - 60)]
    again.close()


def test_what_is_written_down_meanwhile_does_not_drop_a_drag(hand: Hand, easel: Easel, clock: Clock):
    session = hand.window.session
    session.preview(rename_plan("In the hand"))
    clock.minutes(1)
    easel.write_down()
    assert session.in_gesture
    assert session.plan.name == "In the hand"
    assert session.plan.sittings == session.committed.sittings != ()
    session.cancel()
    assert session.plan.name != "In the hand"


def test_esc_leaves_and_what_was_in_hand_keeps_its_time(hand: Hand, easel: Easel, clock: Clock):
    clock.minutes(6)
    press(easel, Qt.Key.Key_Escape, hand)
    sitting = hand.window.session.committed.sittings[-1]
    assert [(each.minutes, each.done) for each in sitting.steps] == [(6.0, False)]
    assert sitting.ended
    assert hand.window.session.unsaved


# -- the screen awake -----------------------------------------------------------------------------------------

SERVICE = """
    import sys
    from PySide6.QtCore import ClassInfo, QCoreApplication, QObject, QTimer, Slot
    from PySide6.QtDBus import QDBusConnection, QDBusServiceWatcher

    @ClassInfo({"D-Bus Interface": "org.freedesktop.ScreenSaver"})
    class Saver(QObject):
        @Slot(str, str, result="uint")
        def Inhibit(self, name, why):
            print("asked by", name, flush=True)
            return 7

    app = QCoreApplication([])
    saver, bus = Saver(), QDBusConnection.sessionBus()
    assert bus.registerService("org.freedesktop.ScreenSaver")
    assert bus.registerObject("/org/freedesktop/ScreenSaver", saver, QDBusConnection.RegisterOption.ExportAllSlots)
    print("ready", flush=True)
    QTimer.singleShot(20000, app.quit)
    app.exec()
"""
CLIENT = """
    import subprocess, sys, time
    service = subprocess.Popen([sys.executable, "-c", sys.argv[1]], stdout=subprocess.PIPE, text=True)
    assert service.stdout.readline().strip() == "ready"
    from PySide6.QtCore import QCoreApplication
    from PySide6.QtDBus import QDBusConnection
    app = QCoreApplication([])
    from mild_compass.studio.easel.awake import Awake
    awake = Awake()
    def lines():
        return len(QDBusConnection.sessionBus().interface().registeredServiceNames().value())
    before = lines()
    awake.answered.connect(app.quit)
    awake.hold()
    assert not awake.held, "nobody waits for the answer"
    app.exec()
    assert awake.held and not awake.refused
    assert service.stdout.readline().strip() == "asked by mild-compass"
    during = lines()
    awake.let_go()
    assert not awake.held
    end = time.monotonic() + 20  # the bus hears of the end when it gets its turn
    while lines() > before and time.monotonic() < end:
        time.sleep(0.05)
    after = lines()
    assert (during, after) == (before + 1, before), (before, during, after)  # the line is there, and is closed
    service.kill()
    service.wait()
    print("kept awake")
"""


def on_a_bus(code: str, *arguments: str) -> str:
    """Run Python on a session bus of its own."""
    runner = shutil.which("dbus-run-session")
    if runner is None:
        pytest.skip("there is no dbus-run-session here")
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(
        [runner, "--", sys.executable, "-c", textwrap.dedent(code), *arguments],
        capture_output=True, text=True, env=environment, timeout=60, check=False,
    )  # fmt: skip
    return done.stdout + done.stderr


def test_the_desktop_is_asked_to_keep_the_screen_awake_and_told_when_it_is_over():
    assert "kept awake" in on_a_bus(CLIENT, textwrap.dedent(SERVICE))


def test_a_desktop_that_cannot_be_asked_is_no_fault():
    code = """
        from PySide6.QtCore import QCoreApplication, QTimer
        app = QCoreApplication([])
        from mild_compass.studio.easel.awake import Awake
        awake = Awake()
        QTimer.singleShot(20000, app.quit)
        awake.answered.connect(app.quit)
        awake.hold()
        awake.refused or app.exec()
        print("held:", awake.held, "refused:", awake.refused)
        awake.let_go()
    """
    assert "held: False refused: True" in on_a_bus(code)


def test_the_easel_says_when_the_screen_may_sleep(easel: Easel):
    assert "may sleep" in easel._count.text()
    easel.close()
