"""The bounded memo: what is remembered by the identity of what it was made from."""

from __future__ import annotations

import weakref
from dataclasses import dataclass
from threading import Barrier, Thread
from time import sleep

import numpy as np
import pytest

from mild_compass.craft.memo import Memo, Store, size_of


class Thing:
    """Something that results are made of."""


def test_the_same_thing_is_worked_out_once_and_another_one_anew():
    kept: Memo[int] = Memo(2)
    made: list[int] = []
    one, other = Thing(), Thing()

    def make() -> int:
        made.append(len(made))
        return made[-1]

    assert [kept.of(one, "a", make), kept.of(one, "a", make), kept.of(other, "a", make)] == [0, 0, 1]
    assert kept.has(one, "a")
    assert kept.of(one, "b", make) == 2
    assert not kept.has(one, "a"), "only the last two are kept"


def test_two_threads_that_ask_at_once_wait_for_one_answer():
    kept: Memo[object] = Memo(2)
    thing, begin, found, made = Thing(), Barrier(4), [], []

    def make() -> object:
        sleep(0.05)
        made.append(object())
        return made[-1]

    def ask() -> None:
        begin.wait()
        found.append(kept.of(thing, 1, make))

    threads = [Thread(target=ask) for _ in range(4)]
    for each in threads:
        each.start()
    for each in threads:
        each.join()
    assert len(made) == 1
    assert found == made * 4


def test_what_could_not_be_made_is_tried_again():
    kept: Memo[int] = Memo(2)
    thing = Thing()

    def fail() -> int:
        raise ZeroDivisionError

    for _ in range(2):
        with pytest.raises(ZeroDivisionError):
            kept.of(thing, 1, fail)
    assert kept.of(thing, 1, lambda: 7) == 7


@dataclass
class Made:
    picture: np.ndarray
    parts: tuple[np.ndarray, ...]


def test_bytes_are_those_of_arrays_wherever_they_lie_in_a_thing():
    megabyte = np.zeros(1 << 20, np.uint8)
    for thing in (megabyte, [megabyte], {"a": (megabyte,)}, Made(megabyte, ()), Made(megabyte[:0], (megabyte,))):
        assert 1 << 20 <= size_of(thing) < (1 << 20) + 1000
    assert size_of([megabyte] * 1000) == pytest.approx(1000 << 20, rel=0.01)


def test_all_rooms_together_are_bounded_and_what_was_used_last_stays():
    store = Store(most_bytes=5 << 20)
    pictures, masses = Memo[np.ndarray](9, store), Memo[np.ndarray](9, store)
    things = [Thing() for _ in range(4)]
    for thing in things:
        pictures.of(thing, 0, lambda: np.zeros(1 << 20, np.uint8))
    pictures.of(things[0], 0, lambda: pytest.fail("it is there"))
    masses.of(things[0], 0, lambda: np.zeros(2 << 20, np.uint8))
    assert pictures.has(things[0], 0)
    assert [pictures.has(each, 0) for each in things] == [True, False, True, True]
    assert store.held_bytes <= 5 << 20
    masses.of(things[1], 0, lambda: np.zeros(9 << 20, np.uint8))
    assert len(store) == 1, "itself in any case"


def test_nothing_is_held_once_it_has_been_forgotten():
    store = Store()
    memo, thing = Memo[np.ndarray](3, store), Thing()
    made = memo.of(thing, 0, lambda: np.zeros(9))
    there = weakref.ref(made), weakref.ref(thing)
    store.forget()
    assert (len(store), store.held_bytes) == (0, 0)
    del made, thing
    assert [each() for each in there] == [None, None]
