"""The shared library of C loops and the types of what it takes: ctypes, so the interpreter's lock is free while they
run.

Plain C needs nothing of Python to be built, and one build serves every Python 3 of the machine's kind.
"""

from __future__ import annotations

import ctypes
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Callable

STEM = "_kernels"
MISSING = (
    "The compiled part of Mild Compass is missing. Install the package again: from a wheel, or with a C compiler "
    "(Debian: apt install gcc libc6-dev) from its source."
)

BYTES, LABELS, NUMBERS, FLOATS, DOUBLES, FLAGS = (
    np.ctypeslib.ndpointer(kind, flags="C_CONTIGUOUS")
    for kind in (np.uint8, np.int32, np.int64, np.float32, np.float64, np.bool_)
)
COUNT, REAL = ctypes.c_int64, ctypes.c_double


class OrNone:
    """An array of a kind, or NULL for None."""

    def __init__(self, kind: Any) -> None:
        self._kind = kind

    def from_param(self, value: object) -> object:
        """What ctypes hands on."""
        return None if value is None else self._kind.from_param(value)


def _loaded() -> ctypes.CDLL:
    built = sorted(Path(__file__).parent.glob(f"{STEM}*.so"))
    if not built:
        raise ImportError(MISSING)
    return ctypes.CDLL(str(built[-1]))


_LIBRARY = _loaded()


def kernel(name: str, *takes: Any, returns: Any = None) -> Callable[..., Any]:
    """A function of the library.

    It raises ctypes.ArgumentError when an array is of another kind or not contiguous, and MemoryError when it answers
    with a number below nought.
    """
    found: Any = _LIBRARY[name]
    found.argtypes, found.restype = takes, returns
    if returns is not None:
        found.errcheck = _there_was_room
    checked: Callable[..., Any] = found
    return checked


def _there_was_room(answer: int, *_: object) -> int:
    if answer < 0:
        raise MemoryError
    return answer
