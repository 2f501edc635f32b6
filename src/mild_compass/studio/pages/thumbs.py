"""Small pictures made in the background, one after the other, each kept under what it was made from."""

from __future__ import annotations

from collections import OrderedDict
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.plan.errors import PlanError
    from mild_compass.studio.work import Work


class Thumbs(QObject):
    """``changed`` is sent when one more is there. A picture that cannot be made is kept as None and not asked again."""

    changed = Signal()

    def __init__(self, work: Work, kind: str, most: int, parent: QObject) -> None:
        super().__init__(parent)
        self._work, self._kind, self._most = work, kind, most
        self._made: OrderedDict[Any, Any] = OrderedDict()
        self._wanted: dict[Any, tuple[Callable[..., Any], tuple[Any, ...]]] = {}
        self._asked: Any = None

    def get(self, key: Any) -> Any:
        """What has been made for a key, or None."""
        return self._made.get(key)

    def has(self, key: Any) -> bool:
        """Whether it has been made, or cannot be."""
        return key in self._made

    def put(self, key: Any, made: Any) -> None:
        """Keep something made elsewhere."""
        self._made[key] = made
        while len(self._made) > self._most:
            self._made.popitem(last=False)

    def want(self, wanted: dict[Any, tuple[Callable[..., Any], tuple[Any, ...]]]) -> None:
        """Say what is to be seen now: what is missing is made, in this order; the rest is not waited for."""
        self._wanted = {key: how for key, how in wanted.items() if key not in self._made}
        if self._asked not in self._wanted:
            self._next()

    def forget(self) -> None:
        """Drop everything, as when another plan is opened."""
        self._made.clear()
        self._wanted.clear()
        self._asked = None
        self._work.drop(self._kind)

    @property
    def settled(self) -> bool:
        """Whether nothing is missing."""
        return not self._wanted

    def _next(self) -> None:
        self._asked = next(iter(self._wanted), None)
        if self._asked is None:
            return
        function, arguments = self._wanted[self._asked]
        key = self._asked
        self._work.ask(
            self._kind,
            function,
            *arguments,
            then=lambda made: self._take(key, made),
            otherwise=lambda error: self._refuse(key, error),
        )

    def _take(self, key: Any, made: Any) -> None:
        self.put(key, made)
        self._wanted.pop(key, None)
        self._next()
        self.changed.emit()

    def _refuse(self, key: Any, _: PlanError) -> None:
        self._take(key, None)
