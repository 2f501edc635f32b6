"""A few threads that end with the program.

Neither QThreadPool nor concurrent.futures will do: both hold the program back until the last of their threads has
finished, however long that takes, and closing must not wait longer than it says.
"""

from __future__ import annotations

import logging
import os
import sys
from collections import deque
from threading import Condition, Thread
from time import monotonic
from typing import TYPE_CHECKING

from mild_compass.studio.requests.heap import give_back_soon

if TYPE_CHECKING:
    from collections.abc import Callable

# What a thread was still working for when its owner was closed. It must not be thrown away by that thread: objects of
# the interface may only end on the interface's own.
STILL_AT_WORK: list[object] = []


def leave(code: int) -> int:
    """End the program: at once where a thread is still at work for a view, for Python would pull the ground from under
    it while it is inside a library, and the program would end with a crash. All that is written is written by now."""
    if STILL_AT_WORK:
        logging.shutdown()
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(code)
    return code


class Threads:
    """Runs tasks in the order given, so many at a time; a task must not raise."""

    def __init__(self, name: str, count: int) -> None:
        self._name, self._count = name, count
        self._lock = Condition()
        self._tasks: deque[Callable[[], None]] = deque()
        self._threads: list[Thread] = []
        self._running = 0
        self._ended = False

    def start(self, task: Callable[[], None]) -> None:
        """Run a task as soon as a thread is free; after the end nothing is begun any more."""
        with self._lock:
            if self._ended:
                return
            self._tasks.append(task)
            if len(self._threads) < min(self._count, self._running + len(self._tasks)):
                thread = Thread(target=self._run, name=f"{self._name}-{len(self._threads) + 1}", daemon=True)
                self._threads.append(thread)
                thread.start()
            self._lock.notify()

    def end(self, seconds: float, owner: object) -> bool:
        """Begin nothing more and wait for what is being done for the owner; False when that takes longer."""
        until = monotonic() + seconds
        with self._lock:
            self._ended = True
            self._tasks.clear()
            self._lock.notify_all()
            while self._running and monotonic() < until:
                self._lock.wait(max(0.0, until - monotonic()))
            if self._running:
                STILL_AT_WORK.append(owner)
            return not self._running

    def _run(self) -> None:
        while True:
            with self._lock:
                while not self._tasks and not self._ended:
                    self._lock.wait()
                if not self._tasks:
                    return
                task: Callable[[], None] | None = self._tasks.popleft()
                self._running += 1
            try:
                assert task is not None
                task()
            finally:
                task = None  # a waiting thread holds on to nothing
                with self._lock:
                    self._running -= 1
                    self._lock.notify_all()
                    rests = not self._running and not self._tasks and not self._ended
                if rests:
                    give_back_soon()
