"""The bounded memo: what has been made is remembered by the identity of what it was made from, the last used longest.

One store for all of it, bounded in bytes; each memo is a room of it for one kind of thing, bounded in number. It is
emptied when another plan is taken up."""

from __future__ import annotations

import sys
from collections import OrderedDict
from dataclasses import dataclass, fields, is_dataclass
from threading import Lock, RLock
from typing import TYPE_CHECKING, Any, Generic, TypeVar

if TYPE_CHECKING:
    from collections.abc import Callable, Hashable

Made = TypeVar("Made")
Key = tuple[object, "Hashable"]  # the room, and the key in it
MOST_BYTES = 192 << 20  # of a photo with its looks, masses, lines and a check there are some 90 MB
DEEPEST, COUNTED = 5, 32  # how far into a thing its bytes are counted, and of how many of its parts; the rest alike


def size_of(made: object, depth: int = 0) -> int:
    """About how many bytes a thing holds: its arrays and images, and those of its parts."""
    held = getattr(made, "nbytes", None)
    if isinstance(held, int):
        return held
    image = getattr(made, "sizeInBytes", None)
    if callable(image):
        return int(image())
    own = sys.getsizeof(made)
    if depth == DEEPEST or isinstance(made, str | bytes | int | float | bool | type(None)):
        return own
    if isinstance(made, dict):
        parts: list[Any] = list(made.values())
    elif isinstance(made, tuple | list):
        parts = list(made)
    elif is_dataclass(made):
        parts = [getattr(made, each.name, None) for each in fields(made)]
    else:
        parts = list(getattr(made, "__dict__", {}).values())
    if not parts:
        return own
    some = parts[:: max(1, len(parts) // COUNTED)]
    return own + sum(size_of(each, depth + 1) for each in some) * len(parts) // len(some)


@dataclass(eq=False, slots=True)
class _Entry:
    made: Any
    size: int
    thing: object = None  # held, so that its identity is not given to another


class Store:
    """All that is remembered, in the order of its use; safe to use from several threads."""

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self.most_bytes = most_bytes
        self.lock = RLock()
        self.held_bytes = 0
        self._entries: OrderedDict[Key, _Entry] = OrderedDict()
        self._counts: dict[object, int] = {}

    def find(self, room: object, key: Hashable, use: bool = True) -> _Entry | None:
        """What is remembered in a room under a key, from now on the last used where it is for ``use``."""
        with self.lock:
            found = self._entries.get((room, key))
            if found is not None and use:
                self._entries.move_to_end((room, key))
            return found

    def put(self, room: object, key: Hashable, entry: _Entry, most: int) -> None:
        """Remember a thing: of its room at most so many, and over all at most so many bytes; itself in any case."""
        with self.lock:
            self._drop((room, key))
            self._entries[room, key] = entry
            self._counts[room] = self._counts.get(room, 0) + 1
            self.held_bytes += entry.size
            if self._counts[room] > most:
                self._drop(next(each for each in self._entries if each[0] is room))
            while self.held_bytes > self.most_bytes and len(self._entries) > 1:
                self._drop(next(iter(self._entries)))

    def forget(self) -> None:
        """Forget everything."""
        with self.lock:
            self._entries.clear()
            self._counts.clear()
            self.held_bytes = 0

    def _drop(self, key: Key) -> None:
        gone = self._entries.pop(key, None)
        if gone is not None:
            self.held_bytes -= gone.size
            self._counts[key[0]] -= 1

    def __len__(self) -> int:
        return len(self._entries)


STORE = Store()


class Memo(Generic[Made]):
    """What is made of a very thing and of values that are compared, made once however many threads ask for it."""

    def __init__(self, most: int, store: Store = STORE) -> None:
        self.most, self._store = most, store
        self._making: dict[Hashable, Lock] = {}

    def has(self, thing: object, rest: Hashable) -> bool:
        """Whether that has been made."""
        return self._found((id(thing), rest), thing, use=False) is not None

    def of(self, thing: object, rest: Hashable, make: Callable[[], Made]) -> Made:
        """What was made of this very thing and these values, or is made now."""
        key = (id(thing), rest)
        found = self._found(key, thing)
        if found is not None:
            made: Made = found.made
            return made
        with self._store.lock:
            making = self._making.setdefault(key, Lock())
        with making:
            found = self._found(key, thing)  # by whoever came first
            return found.made if found is not None else self._made(key, thing, make)

    def _found(self, key: Hashable, thing: object, use: bool = True) -> _Entry | None:
        found = self._store.find(self, key, use)
        return found if found is not None and found.thing is thing else None

    def _made(self, key: Hashable, thing: object, make: Callable[[], Made]) -> Made:
        try:
            made = make()
            self._store.put(self, key, _Entry(made, size_of(made), thing), self.most)
        finally:
            with self._store.lock:
                self._making.pop(key, None)
        return made
