"""Freed memory given back to the system: the C library keeps what workers have let go of, some hundred megabytes.

``malloc_trim`` of the GNU C library (malloc_trim(3)) takes some ten milliseconds and holds up whoever asks for memory
meanwhile: it is done at the side, now and then after something was worked on. Elsewhere nothing is done.
"""

from __future__ import annotations

import ctypes
from threading import Lock, Timer

REST_S = 2.0
_TRIM = getattr(ctypes.CDLL(None), "malloc_trim", None)


class _Trimmer:
    """Trims once, a moment after it was first asked, and can be asked again then."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._timer: Timer | None = None

    def ask(self) -> None:
        with self._lock:
            if self._timer is not None:
                return
            self._timer = Timer(REST_S, self._trim)
            self._timer.daemon = True
            self._timer.start()

    def _trim(self) -> None:
        with self._lock:
            self._timer = None
        if _TRIM is not None:
            _TRIM(0)


_TRIMMER = _Trimmer()


def give_back_soon() -> None:
    """Give back what is free, in a moment."""
    _TRIMMER.ask()
