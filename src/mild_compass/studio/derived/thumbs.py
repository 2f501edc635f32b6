"""Small pictures made in the background, one after the other, each kept under what it was made from."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from mild_compass.studio.derived.derived import AsyncMemo, Wanted

if TYPE_CHECKING:
    from collections.abc import Callable, Hashable, Mapping

    from PySide6.QtCore import QObject

    from mild_compass.plan.errors import PlanError
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session


SPARE = 24  # pictures kept that are not to be seen at present


class Thumbs(AsyncMemo[Any]):
    """What is to be seen now is made in order; a picture that cannot be made stays empty and is not asked for again."""

    def __init__(self, kind: str, session: Session, work: LatestWins, most: int, parent: QObject) -> None:
        super().__init__(kind, session, work, most, parent)
        self._wanted: dict[Hashable, tuple[Callable[..., Any], tuple[Any, ...]]] = {}

    def put(self, key: Hashable, made: Any) -> None:
        """Keep a picture; of those that are not to be seen any more only a few, for undo."""
        super().put(key, made)
        unseen = [each for each in self._made if each not in self._wanted]
        for each in unseen[: max(0, len(unseen) - SPARE)] if self._wanted else ():
            del self._made[each]

    def want(self, wanted: Mapping[Any, tuple[Callable[..., Any], tuple[Any, ...]]]) -> None:
        """Say what is to be seen now: what is missing is made, in this order; the rest is not waited for."""
        self._wanted = dict(wanted)
        self.ask()

    def wanted(self) -> Wanted | None:
        for key, (make, arguments) in self._wanted.items():
            if self.state_of(key) not in ("there", "failed"):
                return Wanted(key, make, arguments, self._session.owner().of_plan)
        return None

    @property
    def settled(self) -> bool:
        """Whether nothing is missing."""
        return self.wanted() is None

    def forget(self) -> None:
        super().forget()
        self._wanted = {}

    def say_failure(self, error: PlanError) -> None:
        """An empty picture in its place says enough."""
