"""The journal: every edit on disk within half a second, whatever else is being done.

One thread of its own takes the steps in order: keep the newest plan of a working folder, take its journal away, let go
of the folder. A step replaces only those of the same folder that are still waiting, so an older plan never comes
after a newer one, and nothing is written into a folder that has been let go.
"""

from __future__ import annotations

import logging
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from itertools import count
from threading import Condition, Thread
from time import monotonic
from typing import TYPE_CHECKING, Literal

from PySide6.QtCore import QObject, Signal

from mild_compass.plan.coding import warm
from mild_compass.plan.errors import PlanError
from mild_compass.studio.requests.threads import STILL_AT_WORK

if TYPE_CHECKING:
    from pathlib import Path

    from mild_compass.plan.model import Plan
    from mild_compass.plan.workspace import Workspace

log = logging.getLogger(__name__)
REST_S = 0.1  # between two writes: half a second is promised, and a write takes some hundredths
AFTER_PAINTING_S = 0.05  # before the first: the board shows the edit meanwhile, and need not share the processor

StepKind = Literal["keep", "forget", "let go"]


@dataclass(frozen=True, eq=False, slots=True)
class Step:
    """One thing to be done to a working folder; a later one has a higher number."""

    number: int
    kind: StepKind
    workspace: Workspace
    do: Callable[[], None]


def _warm() -> None:
    try:
        warm()
    except Exception:  # who needs it tries again, and reports
        log.exception("journal: the checker could not be loaded")


class Journal(QObject):
    """Keeps the plan in hand safe; ``failed`` says once, in a sentence, that it cannot."""

    failed = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._numbers = count(1)
        self._lock = Condition()
        self._steps: list[Step] = []
        self._doing = False
        self._ended = False
        self._hurry = False
        self._rest_until = 0.0
        self._failing = False
        self._thread: Thread | None = None

    @property
    def idle(self) -> bool:
        """Whether everything is on disk."""
        with self._lock:
            return not self._steps and not self._doing

    def warm(self) -> None:
        """Load what writing a plan needs, so that the next write is as quick as can be; no write waits for it."""
        Thread(target=_warm, name="journal-warm", daemon=True).start()

    def keep(self, workspace: Workspace, plan: Plan, saved_as: Path | None) -> None:
        """Have a plan on disk within half a second."""
        number = next(self._numbers)
        self._add(Step(number, "keep", workspace, lambda: workspace.keep(plan, saved_as, number)))

    def forget(self, workspace: Workspace) -> None:
        """Take the journal away, as after a save."""
        self._add(Step(next(self._numbers), "forget", workspace, workspace.forget_journal))

    def let_go(self, workspace: Workspace) -> None:
        """Let go of a working folder and remove it."""
        self._add(Step(next(self._numbers), "let go", workspace, workspace.close))

    def wait(self, seconds: float) -> bool:
        """Wait until everything is on disk; False when that takes longer."""
        until = monotonic() + seconds
        with self._lock:
            self._hurry = True
            self._lock.notify_all()
            while (self._steps or self._doing) and monotonic() < until:
                self._lock.wait(max(0.0, until - monotonic()))
            self._hurry = False
            return not self._steps and not self._doing

    def close(self, seconds: float) -> bool:
        """Do what is left, then end."""
        done = self.wait(seconds)
        with self._lock:
            self._ended = True
            self._lock.notify_all()
        if not done:
            STILL_AT_WORK.append(self)
        elif self._thread is not None:
            self._thread.join(seconds)
        return done

    def _add(self, step: Step) -> None:
        with self._lock:
            gone = any(each.workspace is step.workspace and each.kind == "let go" for each in self._steps)
            if gone or self._ended:
                return
            if not self._steps:
                self._rest_until = max(self._rest_until, monotonic() + AFTER_PAINTING_S)
            self._steps = [each for each in self._steps if each.workspace is not step.workspace]
            self._steps.append(step)
            self._lock.notify_all()
        self._begin()

    def _begin(self) -> None:
        with self._lock:
            if self._thread is None and not self._ended:
                self._thread = Thread(target=self._run, name="journal", daemon=True)
                self._thread.start()

    def _run(self) -> None:
        while True:
            step = self._next()
            if step is None:
                return
            self._do(step)
            with self._lock:
                self._doing = False
                if step.kind == "keep":
                    self._rest_until = monotonic() + REST_S
                self._lock.notify_all()

    def _next(self) -> Step | None:
        """Wait for the next step, and after a write for a short rest, in which newer plans replace older ones."""
        with self._lock:
            while True:
                rest = self._rest_until - monotonic() if self._steps and self._steps[0].kind == "keep" else 0.0
                if self._steps and (rest <= 0 or self._hurry):
                    self._doing = True
                    return self._steps.pop(0)
                if self._ended:
                    return None
                self._lock.wait(rest if self._steps else None)

    def _do(self, step: Step) -> None:
        try:
            step.do()
        except (PlanError, OSError) as error:
            log.warning("journal: %s", error, exc_info=True)
            if not self._failing:
                with suppress(RuntimeError):  # the window has been closed meanwhile
                    self.failed.emit(f"The safety copy could not be written: {error}")
            self._failing = True
        except Exception:
            log.exception("journal: step %d failed", step.number)
        else:
            self._failing = False
