"""A few results kept by the identity of what they were made from, so that an unchanged part is not computed twice."""

from __future__ import annotations

from collections import OrderedDict
from threading import Lock
from typing import TYPE_CHECKING, Any, Generic, TypeVar

if TYPE_CHECKING:
    from collections.abc import Callable, Hashable

Made = TypeVar("Made")


class Kept(Generic[Made]):
    """Keeps so many results; safe to use from several threads."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._results: OrderedDict[Hashable, tuple[Any, Made]] = OrderedDict()
        self._lock = Lock()

    def has(self, thing: object, rest: Hashable) -> bool:
        """Whether that has been made."""
        with self._lock:
            kept = self._results.get((id(thing), rest))
        return kept is not None and kept[0] is thing

    def of(self, thing: object, rest: Hashable, make: Callable[[], Made]) -> Made:
        """What was made of this very thing and these values, or is made now."""
        key = (id(thing), rest)
        with self._lock:
            kept = self._results.get(key)
        if kept is not None and kept[0] is thing:
            return kept[1]
        made = make()
        with self._lock:
            self._results[key] = (thing, made)
            while len(self._results) > self._most:
                self._results.popitem(last=False)
        return made
