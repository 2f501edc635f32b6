"""A derived value: a bounded memo keyed by its inputs, made at once or in a worker, when the hand rests or always.

A key is a tuple of the inputs. Plans and pictures never change, so comparing keys is mostly comparing identities
(Python's tuples look at identity first), and what has not changed is never made twice.
"""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from time import monotonic
from typing import TYPE_CHECKING, Any, Generic, Literal, TypeVar, cast

from PySide6.QtCore import QObject, QTimer, Signal

if TYPE_CHECKING:
    from collections.abc import Callable, Hashable

    from mild_compass.plan.errors import PlanError
    from mild_compass.studio.derived.loop_scheduler import LoopScheduler
    from mild_compass.studio.requests.owner import Owner
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session

Made = TypeVar("Made")
Key = tuple[Any, ...]  # the inputs; other shelves may have a plain name or number as key
State = Literal["none", "being made", "there", "failed"]
When = Literal["at once", "at rest", "always"]
MOST_FAILED = 1000
SLOW_S = 0.02  # a hand that moves in larger steps of time than that is about to stop


@dataclass(frozen=True, eq=False, slots=True)
class Wanted:
    """What is to be made next: under which key, how, of what, and for whom."""

    key: Hashable
    make: Callable[..., Any]
    arguments: tuple[Any, ...]
    owner: Owner


class AsyncMemo(QObject, Generic[Made]):
    """What has been made, by key, the ``most`` used last; what is missing is made one at a time in the background.

    ``changed`` is sent when one more is there or cannot be made. The shelf is empty again when another plan is open.
    """

    changed = Signal()

    def __init__(self, kind: str, session: Session, work: LatestWins, most: int, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.kind = kind
        self._session, self._work, self._most = session, work, most
        self._made: OrderedDict[Hashable, Made] = OrderedDict()
        self._failed: OrderedDict[Hashable, str] = OrderedDict()
        self._asked: Hashable = None
        session.replaced.connect(self.forget)
        session.photos_back.connect(self._try_again)

    def wanted(self) -> Wanted | None:
        """What is to be made next, or None; each kind of shelf has its own answer."""
        raise NotImplementedError

    def state_of(self, key: Hashable) -> State:
        """How far the value under a key has come."""
        if key in self._made:
            return "there"
        if key in self._failed:
            return "failed"
        return "being made" if key == self._asked and self._work.busy(self.kind) else "none"

    def get(self, key: Hashable) -> Made | None:
        """What has been made under a key, or None."""
        made = self._made.get(key)
        if made is not None:
            self._made.move_to_end(key)
        return made

    def problem_of(self, key: Hashable) -> str:
        """Why it could not be made, in a sentence; empty otherwise."""
        return self._failed.get(key, "")

    def put(self, key: Hashable, made: Made) -> None:
        """Keep something made elsewhere."""
        self._made[key] = made
        self._made.move_to_end(key)
        while len(self._made) > self._most:
            self._made.popitem(last=False)

    def forget(self) -> None:
        """Drop everything, also what is on its way."""
        self._made.clear()
        self._failed.clear()
        self._asked = None
        self._work.drop(self.kind)

    def _try_again(self) -> None:
        self._failed.clear()
        self.ask()

    def call_off(self, sentence: str) -> None:
        """Wait no longer for what is on its way: until it is asked for anew it cannot be had, as the sentence says."""
        if self._asked is None or not self._work.busy(self.kind):
            return
        self._failed[self._asked], self._asked = sentence, None
        self._work.drop(self.kind)
        self.changed.emit()

    def ask_anew(self, key: Hashable) -> None:
        """Have made after all what was called off, or could not be made."""
        self._failed.pop(key, None)
        self.ask()

    def ask(self) -> None:
        """Have made what is wanted next, unless that is on its way."""
        wanted = self.wanted()
        if wanted is None:
            self._asked = None
            self._work.drop(self.kind)
        elif self.state_of(wanted.key) == "none":
            self._asked = wanted.key
            self._work.latest(
                self.kind,
                wanted.owner,
                wanted.make,
                *wanted.arguments,
                then=lambda made: self._take(wanted.key, made),
                otherwise=lambda error: self._fail(wanted.key, error),
            )

    def say_failure(self, error: PlanError) -> None:
        """Tell the artist that something could not be made."""
        self._session.said.emit(str(error))

    def _take(self, key: Hashable, made: Made) -> None:
        self.put(key, made)
        self._asked = None
        self.ask()
        self.changed.emit()

    def _fail(self, key: Hashable, error: PlanError) -> None:
        self._failed[key] = str(error)
        while len(self._failed) > MOST_FAILED:
            self._failed.popitem(last=False)
        self._asked = None
        self.say_failure(error)
        self.ask()
        self.changed.emit()


class Derived(AsyncMemo[Made]):
    """A value that follows from the plan: of the inputs as they are now, kept for the ``most`` inputs used last.

    ``inputs`` gives its key, or None while there is nothing to make it from; ``make`` gets those inputs, or what
    ``arguments`` gives in their place. It is made at once on the interface's thread when it is cheap, else in a worker:
    when the hand rests, or always. During a drag ``rough`` may give a first idea, in some milliseconds, on the
    interface's thread and in turn with other such things: a worker would take turns with the painting and make the
    hand wait longer than that. Where ``still_ms`` gives a time, it is also made when the hand has held still for that
    long in the middle of a drag, or moves slowly as before it lets go: then it is there soon after.
    """

    def __init__(
        self,
        kind: str,
        session: Session,
        work: LatestWins,
        inputs: Callable[[], Key | None],
        make: Callable[..., Made],
        *,
        arguments: Callable[[], tuple[Any, ...]] | None = None,
        when: When = "at rest",
        most: int = 1,
        rough: Callable[..., Made] | None = None,
        turns: LoopScheduler | None = None,
        still_ms: Callable[[], int] = lambda: 0,
    ) -> None:
        super().__init__(kind, session, work, most, session)
        self._inputs, self._make, self._arguments, self._when = inputs, make, arguments, when
        self._front: tuple[Key, Made] | None = None  # made last: found by identity, without hashing the whole key
        self._last: tuple[Key, Made] | None = None  # the same, or a first idea of the inputs during a drag
        self._rough, self._turns = rough, turns
        self._rough_pause = QTimer(self, singleShot=True)
        self._rough_pause.timeout.connect(self._make_roughly)
        self._rough_key: Key | None = None
        self._still_ms = still_ms
        self._still = QTimer(self, singleShot=True)
        self._still.timeout.connect(self._has_held_still)
        self._still_key: Key | None = None
        self._moved_s = 0.0

    @property
    def state(self) -> State:
        """How far the value of the present inputs has come."""
        key = self._inputs()
        return "none" if key is None else self.state_of(key)

    @property
    def settled(self) -> bool:
        """Whether there is nothing to wait for: it is there, it cannot be made, or there is nothing to make it from."""
        key = self._inputs()
        return key is None or self.state_of(key) in ("there", "failed")

    @property
    def value(self) -> Made | None:
        """The value of the present inputs, or None."""
        key = self._inputs()
        if key is None:
            return None
        if self._when == "at once" and self.state_of(key) == "none":
            self.put(key, self._make(*self._made_from(key)))
        return self.get(key)

    @property
    def problem(self) -> str:
        """Why the value of the present inputs cannot be made; empty otherwise."""
        key = self._inputs()
        return "" if key is None else self.problem_of(key)

    @property
    def shown(self) -> Made | None:
        """The value, or until it is there what was made last of the same first input: the same picture."""
        key = self._inputs()
        if key is None:
            return None
        made = self.get(key)
        return self.last_of(key[0]) if made is None else made

    @property
    def last(self) -> tuple[Key, Made] | None:
        """What was made last, and of what."""
        return self._last

    def last_of(self, first: object) -> Made | None:
        """What was made last with this very first input, whatever the others were."""
        return self._last[1] if self._last is not None and self._last[0][0] is first else None

    def look(self) -> Made | None:
        """What is shown; asks for the value where that is missing."""
        self.refresh()
        return self.shown

    def wanted(self) -> Wanted | None:
        """The value of the present inputs, where it is missing."""
        key = self._inputs()
        if key is None or self.state_of(key) in ("there", "failed"):
            return None
        return Wanted(key, self._make, self._made_from(key), self._session.owner().of_ground)

    def refresh(self) -> None:
        """Look whether the present value is missing, and ask for it as soon as its time has come."""
        if self._when == "at rest" and self._session.in_gesture:
            self._follow_hand()
            if self._rough is not None and self._turns is not None and not self._rough_pause.isActive():
                self._rough_pause.start(self._turns.pace_ms)
        elif self._when != "at once":
            self._still_key = None
            self.ask()

    def state_of(self, key: Hashable) -> State:
        return "there" if self._front is not None and self._front[0] == key else super().state_of(key)

    def get(self, key: Hashable) -> Made | None:
        return self._front[1] if self._front is not None and self._front[0] == key else super().get(key)

    def put(self, key: Hashable, made: Made) -> None:
        super().put(key, made)
        self._front = self._last = (cast("Key", key), made)

    def forget(self) -> None:
        super().forget()
        self._front = self._last = self._rough_key = self._still_key = None

    def _made_from(self, key: Key) -> tuple[Any, ...]:
        return key if self._arguments is None else self._arguments()

    def _follow_hand(self) -> None:
        """What is on its way in the middle of a drag is for inputs that have not moved on."""
        key = self._inputs()
        if key is not None and key == self._still_key:
            return
        self._still_key, self._asked = key, None
        self._work.drop(self.kind)
        self._still.stop()
        slowly, self._moved_s = monotonic() - self._moved_s > SLOW_S, monotonic()
        if key is None or not (still_ms := self._still_ms()):
            return
        if slowly:
            self.ask()
        else:
            self._still.start(still_ms)

    def _has_held_still(self) -> None:
        if self._session.in_gesture and self._inputs() == self._still_key:
            self.ask()

    def _make_roughly(self) -> None:
        assert self._rough is not None
        assert self._turns is not None
        key = self._inputs()
        if key is None or not self._session.in_gesture or key in (self._rough_key, self._last and self._last[0]):
            return
        if not self._turns.run(lambda: self._keep_rough(key)):
            self._rough_pause.start(self._turns.wait_ms)

    def _keep_rough(self, key: Key) -> None:
        assert self._rough is not None
        self._rough_key = key
        self._last = (key, self._rough(*self._made_from(key)))
        self.changed.emit()
