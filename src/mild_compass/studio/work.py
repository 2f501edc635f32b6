"""Requests to worker threads: computed off the interface's thread, stale answers dropped."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import count
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal, Slot

from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from collections.abc import Callable


@dataclass(frozen=True, slots=True)
class Request:
    """One piece of work with its number; only the newest number of a kind counts."""

    kind: str
    number: int
    function: Callable[..., Any]
    arguments: tuple[Any, ...]


class _Task(QRunnable):
    def __init__(self, request: Request, desk: Work) -> None:
        super().__init__()
        self._request = request
        self._desk = desk

    def run(self) -> None:
        request = self._request
        if not self._desk.is_current(request):
            return
        try:
            answer, error = request.function(*request.arguments), None
        except PlanError as problem:
            answer, error = None, problem
        except Exception as problem:  # whatever it is, it must reach the interface as a sentence
            answer, error = None, PlanError(f"Something unforeseen went wrong ({problem}). The plan is kept.")
        self._desk.answered.emit(request, answer, error)


class Work(QObject):
    """Hands requests to two threads and takes the answers back on the interface's thread."""

    answered = Signal(object, object, object)
    idle_reached = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(2)
        self._numbers = count(1)
        self._current: dict[str, int] = {}
        self._waiting: dict[str, tuple[Callable[[Any], None], Callable[[PlanError], None]]] = {}
        self.answered.connect(self._take)

    @property
    def idle(self) -> bool:
        """Whether nothing is on its way."""
        return not self._waiting

    def busy(self, kind: str) -> bool:
        """Whether a request of this kind is on its way."""
        return kind in self._waiting

    def is_current(self, request: Request) -> bool:
        """Whether the request has not been overtaken."""
        return self._current.get(request.kind) == request.number

    def ask(
        self,
        kind: str,
        function: Callable[..., Any],
        *arguments: Any,
        then: Callable[[Any], None],
        otherwise: Callable[[PlanError], None],
    ) -> None:
        """Compute in the background; a newer request of the same kind replaces this one."""
        request = Request(kind, next(self._numbers), function, arguments)
        self._current[kind] = request.number
        self._waiting[kind] = (then, otherwise)
        self._pool.start(_Task(request, self))

    def drop(self, kind: str) -> None:
        """Forget a request of this kind, if there is one."""
        self._current.pop(kind, None)
        self._waiting.pop(kind, None)

    def close(self) -> None:
        """Forget everything and wait for the threads to finish what they hold."""
        self._current.clear()
        self._waiting.clear()
        self._pool.clear()
        self._pool.waitForDone()

    @Slot(object, object, object)
    def _take(self, request: Request, answer: Any, error: PlanError | None) -> None:
        if not self.is_current(request):
            return
        then, otherwise = self._waiting.pop(request.kind)
        del self._current[request.kind]
        if error is not None:
            otherwise(error)
        else:
            then(answer)
        if self.idle:
            self.idle_reached.emit()
