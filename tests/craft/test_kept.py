"""What is kept by the identity of what it was made from."""

from __future__ import annotations

from threading import Barrier, Thread
from time import sleep

import pytest

from mild_compass.craft.kept import Kept


class Thing:
    """Something that results are made of."""


def test_the_same_thing_is_worked_out_once_and_another_one_anew():
    kept: Kept[int] = Kept(2)
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
    kept: Kept[object] = Kept(2)
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
    kept: Kept[int] = Kept(2)
    thing = Thing()

    def fail() -> int:
        raise ZeroDivisionError

    for _ in range(2):
        with pytest.raises(ZeroDivisionError):
            kept.of(thing, 1, fail)
    assert kept.of(thing, 1, lambda: 7) == 7
