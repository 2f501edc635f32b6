"""Loops over pixels and borders, made machine code when they are first called and kept on the disk for the next time.

For what no library does and NumPy would do in dozens of passes. While they run the interpreter is free for the window.
"""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar, cast

import llvmlite.binding
import numba

if TYPE_CHECKING:
    from collections.abc import Callable

    Loop = TypeVar("Loop", bound=Callable[..., Any])

HOST = f"{numba.__version__} {llvmlite.binding.get_host_cpu_name()}"  # machine code holds for these only


def compiled(loop: Loop) -> Loop:
    """A function of numbers and arrays as machine code; ``py_func`` of what comes back is the function itself."""
    try:
        return cast("Loop", numba.njit(cache=True, nogil=True, error_model="numpy")(loop))
    except RuntimeError:  # no folder that can be written in
        return cast("Loop", numba.njit(nogil=True, error_model="numpy")(loop))


def kept_in(loop: Callable[..., Any]) -> Path | None:
    """The folder on the disk in which a compiled loop, and those of its own folder, are kept, if there is one."""
    folder = cast("Any", loop).stats.cache_path
    return Path(folder) if folder else None
