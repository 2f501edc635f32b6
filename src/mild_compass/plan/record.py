"""What became of the plan, in the artist's own words: what came out, and answers to questions."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

Outcome = Literal["open", "kept", "changed", "dropped"]
OUTCOMES: tuple[Outcome, ...] = get_args(Outcome)
Way = Literal["", "more", "less"]
AskedWhen = Literal["before", "after"]


@dataclass(frozen=True, slots=True)
class CameOut:
    """What one thing planned came to: planned and done in words, whether that held, and what was learned in a line.

    ``key`` names the thing within its ``study``, ``topic`` what it is about, the same in every plan; ``way`` says
    whether it became more or less than planned.
    """

    study: str
    key: str
    topic: str
    planned: str
    done: str
    outcome: Outcome = "open"
    way: Way = ""
    learned: str = ""


@dataclass(frozen=True, slots=True)
class Answer:
    """A question that came up, and what was answered; an empty answer puts it aside for good."""

    question: str
    asked: AskedWhen
    text: str
    time: str
