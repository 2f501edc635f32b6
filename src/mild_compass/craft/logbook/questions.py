"""Questions worth answering before the first mark and after the last: each comes up once, and is never asked again."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from mild_compass.plan.record import AskedWhen

if TYPE_CHECKING:
    from collections.abc import Sequence

    from mild_compass.plan.model import Plan

# Common practice, no published source.
BEFORE: tuple[str, ...] = (
    "What is it about, in one sentence?",
    "What would you leave out?",
    "Where should the eye end, and how does it get there?",
    "Which is the largest shape, and is it the right one?",
    "What is the darkest thing, and what the lightest?",
    "What could go wrong, and what will you do then?",
)
AFTER: tuple[str, ...] = (
    "What held from the plan?",
    "What did you do otherwise, and was it better?",
    "Where does your eye go first now?",
    "Which part was a struggle?",
    "What would you do first another time?",
    "When did you want to stop?",
)
GIVEN: dict[AskedWhen, tuple[str, ...]] = {"before": BEFORE, "after": AFTER}


@dataclass(frozen=True, slots=True)
class Asked:
    """A question, when it is asked, and what has been answered; ``aside`` where it was put aside."""

    question: str
    asked: AskedWhen
    text: str = ""
    aside: bool = False

    @property
    def open(self) -> bool:
        """Whether it is still to come up."""
        return not self.text and not self.aside


def questions(plan: Plan, asked: AskedWhen, own: Sequence[str] = ()) -> tuple[Asked, ...]:
    """All questions of before or after, given ones and then the artist's own, with their answers."""
    told = {each.question: each.text for each in plan.answers if each.asked == asked}
    every = dict.fromkeys((*GIVEN[asked], *own, *told))
    return tuple(Asked(each, asked, told.get(each, ""), told.get(each) == "") for each in every)


def next_question(plan: Plan, asked: AskedWhen, own: Sequence[str] = ()) -> Asked | None:
    """The first that has neither been answered nor put aside."""
    return next((each for each in questions(plan, asked, own) if each.open), None)


def is_after(plan: Plan) -> bool:
    """Whether the last mark is made: there is a photo of the finished work."""
    return any(drawing.stage == "finished" for drawing in plan.drawings)
