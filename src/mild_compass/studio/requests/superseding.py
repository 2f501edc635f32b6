"""Latest-wins requests: computed off the interface's thread, an answer superseded by a newer request of its kind is
dropped.

What the artist has asked for goes to ``jobs`` instead, where nothing is ever replaced.
"""

from __future__ import annotations

import logging
from contextlib import suppress
from dataclasses import dataclass
from itertools import count
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal, Slot

from mild_compass.craft.checkpoint import OvertakenError, stopped_when
from mild_compass.plan.errors import PlanError
from mild_compass.studio.requests.owner import Owner
from mild_compass.studio.requests.threads import Threads

if TYPE_CHECKING:
    from collections.abc import Callable

log = logging.getLogger(__name__)
AT_ONCE, ASIDE_AT_ONCE = 2, 1
PATIENCE_S = 1.0


@dataclass(frozen=True, eq=False, slots=True)
class Request:
    """One piece of work with its number and its owner; only the newest number of a kind counts."""

    kind: str
    number: int
    owner: Owner
    function: Callable[..., Any]
    arguments: tuple[Any, ...]
    then: Callable[[Any], None]
    otherwise: Callable[[PlanError], None]


def tried(function: Callable[..., Any], *arguments: Any) -> tuple[Any, PlanError | None]:
    """The answer, or the error as a sentence; what was not foreseen goes into the record with its traceback."""
    try:
        return function(*arguments), None
    except PlanError as problem:
        if problem.__cause__ is not None:
            log.info("%s", problem, exc_info=True)
        return None, problem
    except OvertakenError:
        raise
    except Exception as problem:
        log.exception("%s failed", getattr(function, "__name__", function))
        sentence = PlanError(f"Something unforeseen went wrong ({problem}). The plan is kept.")
        sentence.__cause__ = problem
        return None, sentence


class LatestWins(QObject):
    """Hands requests to two threads and takes the answers back on the interface's thread."""

    answered = Signal(object, object, object)
    idle_reached = Signal()

    def __init__(self, present: Callable[[], Owner], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._present = present
        self._threads, self._aside = Threads("view", AT_ONCE), Threads("aside", ASIDE_AT_ONCE)
        self._numbers = count(1)
        self._newest: dict[str, Request] = {}
        self.answered.connect(self._take)

    @property
    def idle(self) -> bool:
        """Whether nothing is on its way."""
        return not self._newest

    def busy(self, kind: str) -> bool:
        """Whether a request of this kind is on its way."""
        return kind in self._newest

    def latest(
        self,
        kind: str,
        owner: Owner,
        function: Callable[..., Any],
        *arguments: Any,
        then: Callable[[Any], None],
        otherwise: Callable[[PlanError], None],
        aside: bool = False,
    ) -> None:
        """Compute in the background; a newer request of the same kind replaces this one.

        The answer is dropped when its owner is not in hand any more. What takes minutes goes ``aside``, so that no view
        waits for it.
        """
        request = Request(kind, next(self._numbers), owner, function, arguments, then, otherwise)
        self._newest[kind] = request
        (self._aside if aside else self._threads).start(lambda: self._do(request))

    def drop(self, kind: str) -> None:
        """Forget a request of this kind, if there is one."""
        self._newest.pop(kind, None)

    def close(self) -> None:
        """Forget everything; what the threads hold is waited for, but not for long."""
        self._newest.clear()
        self._threads.end(PATIENCE_S, self)
        self._aside.end(PATIENCE_S, self)

    def _do(self, request: Request) -> None:
        """In a worker: skip what has been overtaken, or is so on the way."""

        def overtaken() -> bool:
            return self._newest.get(request.kind) is not request

        if overtaken():
            return
        try:
            with stopped_when(overtaken):
                answer, error = tried(request.function, *request.arguments)
        except OvertakenError:
            return
        with suppress(RuntimeError):  # the window has been closed meanwhile
            self.answered.emit(request, answer, error)

    @Slot(object, object, object)
    def _take(self, request: Request, answer: Any, error: PlanError | None) -> None:
        if self._newest.get(request.kind) is not request:
            return
        del self._newest[request.kind]
        try:
            if request.owner.in_hand(self._present()):
                request.otherwise(error) if error is not None else request.then(answer)
        finally:
            if self.idle:
                self.idle_reached.emit()
