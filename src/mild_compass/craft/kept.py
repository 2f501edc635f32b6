"""A few results kept by the identity of what they were made from, so that an unchanged part is not computed twice."""

from __future__ import annotations

from collections import OrderedDict
from threading import Lock
from typing import TYPE_CHECKING, Any, Generic, TypeVar

if TYPE_CHECKING:
    from collections.abc import Callable, Hashable

Made = TypeVar("Made")


class Kept(Generic[Made]):
    """Keeps so many results; safe to use from several threads, of which only one makes each."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._results: OrderedDict[Hashable, tuple[Any, Made]] = OrderedDict()
        self._making: dict[Hashable, Lock] = {}
        self._lock = Lock()

    def has(self, thing: object, rest: Hashable) -> bool:
        """Whether that has been made."""
        with self._lock:
            return self._found((id(thing), rest), thing) is not None

    def of(self, thing: object, rest: Hashable, make: Callable[[], Made]) -> Made:
        """What was made of this very thing and these values, or is made now."""
        key = (id(thing), rest)
        with self._lock:
            found = self._found(key, thing)
            if found is not None:
                return found[1]
            making = self._making.setdefault(key, Lock())
        with making:
            with self._lock:
                found = self._found(key, thing)  # by whoever came first
            return found[1] if found is not None else self._made(key, thing, make)

    def _found(self, key: Hashable, thing: object) -> tuple[Any, Made] | None:
        kept = self._results.get(key)
        return kept if kept is not None and kept[0] is thing else None

    def _made(self, key: Hashable, thing: object, make: Callable[[], Made]) -> Made:
        try:
            made = make()
            with self._lock:
                self._results[key] = (thing, made)
                while len(self._results) > self._most:
                    self._results.popitem(last=False)
        finally:
            with self._lock:
                self._making.pop(key, None)
        return made
