"""A job queue with cooperative cancellation: never replaced, serialised by the file it touches, reported once."""

from __future__ import annotations

import logging
from collections import deque
from contextlib import suppress
from dataclasses import dataclass, field
from threading import Event, Lock
from time import monotonic
from typing import TYPE_CHECKING, Any, Literal

from PySide6.QtCore import QEventLoop, QObject, QTimer, Signal, Slot

from mild_compass.plan.errors import CalledOff, PlanError
from mild_compass.studio.requests.superseding import tried
from mild_compass.studio.requests.threads import Threads

if TYPE_CHECKING:
    from collections.abc import Callable, Hashable

    from mild_compass.studio.requests.owner import Owner

log = logging.getLogger(__name__)
AT_ONCE = 2
SHOWN_AFTER_MS = 500

JobState = Literal["waiting", "running", "ended"]


class CancelToken:
    """Asked by the work at places where it is safe to end."""

    def __init__(self) -> None:
        self._asked = Event()

    def ask(self) -> None:
        """End at the next safe place."""
        self._asked.set()

    @property
    def asked(self) -> bool:
        """Whether the end has been asked for."""
        return self._asked.is_set()

    def check(self) -> None:
        """Here it is safe to end: raises CalledOff when that has been asked for."""
        if self.asked:
            raise CalledOff("Called off.")


@dataclass(eq=False, slots=True)
class Job:
    """One thing the artist asked for.

    ``words`` say what is being done ("Writing sheet.pdf"). ``touches`` is what must not be worked on twice at a time.
    With an ``owner`` the answer is only taken while that is in hand. ``stoppable`` work gets a Stop as its last
    argument. Exactly one of ``done``, ``failed`` and ``called_off`` is called, once.
    """

    words: str
    function: Callable[..., Any]
    arguments: tuple[Any, ...]
    done: Callable[[Any], None]
    failed: Callable[[PlanError], None]
    called_off: Callable[[], None]
    touches: Hashable = None
    owner: Owner | None = None
    stoppable: bool = False
    state: JobState = "waiting"
    stop: CancelToken = field(default_factory=CancelToken)
    begun: float = field(default_factory=monotonic)

    @property
    def can_be_called_off(self) -> bool:
        """Whether it has not begun, or can end safely on the way."""
        return self.state == "waiting" or (self.state == "running" and self.stoppable)


class Jobs(QObject):
    """Two threads for jobs alone, so that no view ever keeps them waiting."""

    changed = Signal()  # something has begun, ended, or lasted long enough to be shown
    said = Signal(str)
    _ended = Signal(object, object, object)

    def __init__(self, present: Callable[[], Owner], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._present = present
        self._threads = Threads("job", AT_ONCE)
        self._lock = Lock()  # a job is either begun by a worker or called off, never both
        self._open: list[Job] = []
        self._queues: dict[Hashable, deque[Job]] = {}
        self._ended.connect(self._take)
        self._shown = QTimer(self, singleShot=True, interval=SHOWN_AFTER_MS)
        self._shown.timeout.connect(self.changed)

    @property
    def idle(self) -> bool:
        """Whether everything asked for has been reported."""
        return not self._open

    @property
    def lasting(self) -> Job | None:
        """The oldest job that has lasted long enough to be shown."""
        old = monotonic() - 0.9 * SHOWN_AFTER_MS / 1000
        return next((job for job in self._open if job.begun <= old), None)

    def do(
        self,
        words: str,
        function: Callable[..., Any],
        *arguments: Any,
        done: Callable[[Any], None],
        failed: Callable[[PlanError], None] | None = None,
        called_off: Callable[[], None] | None = None,
        touches: Hashable = None,
        owner: Owner | None = None,
        stoppable: bool = False,
    ) -> Job:
        """Do something in the background; unless told otherwise its failure is said in a sentence."""
        job = Job(
            words,
            function,
            arguments,
            done,
            failed or (lambda error: self.said.emit(str(error))),
            called_off or (lambda: self.said.emit(f"{words}: called off. Nothing was changed.")),
            touches,
            owner,
            stoppable,
        )
        self._open.append(job)
        if touches is None:
            self._start(job)
        else:
            queue = self._queues.setdefault(touches, deque())
            queue.append(job)
            if len(queue) == 1:
                self._start(job)
        self._shown.start()
        self.changed.emit()
        return job

    def call_off(self, job: Job) -> bool:
        """End a job where that is safe; False where it has gone too far, and will be reported as done or failed."""
        with self._lock:
            if not job.can_be_called_off:
                return False
            waiting = job.state == "waiting"
            job.stop.ask()
            job.state = "ended" if waiting else job.state
        if waiting:
            self._report(job, None, CalledOff("Called off."))
        return True

    def close(self, seconds: float) -> bool:
        """Wait for what is under way, the event loop going on meanwhile; False when some of it is not done in time."""
        if not self.idle:
            loop = QEventLoop()
            self.changed.connect(lambda: loop.quit() if self.idle else None)
            QTimer.singleShot(round(1000 * seconds), loop, loop.quit)
            loop.exec()
        left = [job.words for job in self._open]
        for job in self._open:
            job.stop.ask()
        if left:
            log.warning("closed before this was done: %s", "; ".join(left))
        self._threads.end(0.0, self)
        return not left

    def _start(self, job: Job) -> None:
        self._threads.start(lambda: self._run(job))

    def _run(self, job: Job) -> None:
        """In a worker."""
        with self._lock:
            if job.state == "ended":
                return
            job.state = "running"
        more = (job.stop,) if job.stoppable else ()
        answer, error = tried(job.function, *job.arguments, *more)
        with suppress(RuntimeError):  # the window has been closed meanwhile
            self._ended.emit(job, answer, error)

    @Slot(object, object, object)
    def _take(self, job: Job, answer: Any, error: PlanError | None) -> None:
        if error is None and job.owner is not None and not job.owner.in_hand(self._present()):
            error = CalledOff("What it was for is not in hand any more.")
        self._report(job, answer, error)

    def _report(self, job: Job, answer: Any, error: PlanError | None) -> None:
        """Take the job off the list, let the next one for the same file begin, and report."""
        job.state = "ended"
        self._open.remove(job)
        self._begin_next(job)
        try:
            if isinstance(error, CalledOff):
                job.called_off()
            elif error is not None:
                job.failed(error)
            else:
                job.done(answer)
        finally:
            self.changed.emit()

    def _begin_next(self, job: Job) -> None:
        queue = self._queues.get(job.touches) if job.touches is not None else None
        if queue is None:
            return
        first = queue[0] is job
        queue.remove(job)
        if not queue:
            del self._queues[job.touches]
        elif first:
            self._start(queue[0])
