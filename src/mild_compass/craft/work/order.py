"""In which order steps are done by one pair of hands, so that the last is done soonest: waiting is filled.

One machine with precedences and delays between steps. List scheduling, longest remaining chain first, gives a first
order; branch and bound over all orders improves it until it is known to be the shortest (standard method; checked
against all orders on small cases).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

NEARLY = 1e-9  # minutes: rounding
MOST_LOOKED_AT = 4_000  # branches; beyond that the best so far is taken


@dataclass(frozen=True, slots=True)
class Need:
    """A step that must be done before, and whether what it laid must be dry."""

    step: str
    dry: bool = True


@dataclass(frozen=True, slots=True)
class Task:
    """A step as far as order goes: hands are on it for ``minutes``, then it dries for ``drying``."""

    key: str
    minutes: float
    drying: float = 0.0
    needs: tuple[Need, ...] = ()


@dataclass(frozen=True, slots=True)
class Placed:
    """When the hands are on a step, in minutes from the beginning."""

    key: str
    start: float
    end: float


def in_order(tasks: Sequence[Task]) -> tuple[Placed, ...]:
    """All tasks in the order that is done soonest; the same for the same tasks. Earlier ones first where it is equal.

    Raises:
        PlanError: two tasks wait for one another, or one waits for a task that is not there.
    """
    known = {task.key: task for task in tasks}
    if any(need.step not in known for task in tasks for need in task.needs):
        raise PlanError("A step of the working order waits for one that is not in it.")
    search = _Search(tasks, known)
    return _placed(search.best(), known)


def timed(order: Sequence[str], tasks: Sequence[Task]) -> tuple[Placed, ...]:
    """When each task begins and ends if they are done in this order."""
    return _placed(order, {task.key: task for task in tasks})


def _placed(order: Sequence[str], known: Mapping[str, Task]) -> tuple[Placed, ...]:
    ends: dict[str, float] = {}
    placed, now = [], 0.0
    for key in order:
        task = known[key]
        start = max([now, *(ready_at(need, ends, known) for need in task.needs)])
        now = ends[key] = start + task.minutes
        placed.append(Placed(key, start, now))
    return tuple(placed)


def ready_at(need: Need, ends: Mapping[str, float], known: Mapping[str, Task]) -> float:
    """When a step that is done lets another begin."""
    return ends[need.step] + (known[need.step].drying if need.dry else 0.0)


class _Search:
    """Depth first over the orders, the likeliest first, without those that cannot become better."""

    def __init__(self, tasks: Sequence[Task], known: dict[str, Task]) -> None:
        self._known = known
        self._places = {task.key: place for place, task in enumerate(tasks)}
        self._tails = _tails(tasks)
        self._best: list[str] = []
        self._length = float("inf")
        self._looked_at = 0
        self._least = self._bound(set(), {}, 0.0)

    def best(self) -> list[str]:
        self._go_on([], {}, 0.0)
        return self._best

    def _go_on(self, order: list[str], ends: dict[str, float], now: float) -> None:
        if len(order) == len(self._known):
            if now < self._length - NEARLY:
                self._best, self._length = list(order), now
            return
        if self._best and self._looked_at > MOST_LOOKED_AT:
            return
        self._looked_at += 1
        starts = self._starts(ends, now)
        for key in sorted(starts, key=lambda key: (starts[key], -self._tails[key], self._places[key])):
            after = {**ends, key: starts[key] + self._known[key].minutes}
            if self._bound(set(after), after, after[key]) < self._length - NEARLY:
                self._go_on([*order, key], after, after[key])
            if self._length <= self._least + NEARLY:
                return  # nothing can be shorter

    def _starts(self, ends: dict[str, float], now: float) -> dict[str, float]:
        """When each task could begin whose needs are met."""
        return {
            key: max([now, *(ready_at(need, ends, self._known) for need in task.needs)])
            for key, task in self._known.items()
            if key not in ends and all(need.step in ends for need in task.needs)
        }

    def _bound(self, done: set[str], ends: dict[str, float], now: float) -> float:
        """No order that goes on from here is shorter: neither than all work left, nor than the longest chain left."""
        left = [key for key in self._places if key not in done]
        if not left:
            return now
        earliest: dict[str, float] = {}
        chains = [self._earliest(key, ends, now, earliest) + self._tails[key] for key in left]
        return max(now + sum(self._known[key].minutes for key in left), *chains)

    def _earliest(self, key: str, ends: dict[str, float], now: float, known: dict[str, float]) -> float:
        if key not in known:
            starts = [now]
            for need in self._known[key].needs:
                before = self._known[need.step]
                begun = ends.get(need.step)
                end = self._earliest(need.step, ends, now, known) + before.minutes if begun is None else begun
                starts.append(end + (before.drying if need.dry else 0.0))
            known[key] = max(starts)
        return known[key]


def _tails(tasks: Sequence[Task]) -> dict[str, float]:
    """The longest chain of work and waiting from the beginning of each task to the end of all."""
    known = {task.key: task for task in tasks}
    followers: dict[str, list[tuple[str, bool]]] = {task.key: [] for task in tasks}
    for task in tasks:
        for need in task.needs:
            followers[need.step].append((task.key, need.dry))
    tails: dict[str, float] = {}
    on_the_way: set[str] = set()

    def tail(key: str) -> float:
        if key in on_the_way:
            raise PlanError("Two steps of the working order wait for one another.")
        if key not in tails:
            on_the_way.add(key)
            task = known[key]
            after = [(task.drying if dry else 0.0) + tail(follower) for follower, dry in followers[key]]
            tails[key] = task.minutes + max(after, default=0.0)
            on_the_way.discard(key)
        return tails[key]

    for task in tasks:
        tail(task.key)
    return tails
