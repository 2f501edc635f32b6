"""The work on the sheet: under what conditions it is done, and the sittings as they were held."""

from __future__ import annotations

import re
from dataclasses import dataclass
from math import isfinite
from typing import Literal, get_args

from mild_compass.plan.errors import PlanError, require_within

Weather = Literal["warm and dry", "usual", "cool and damp"]
WEATHERS: tuple[Weather, ...] = get_args(Weather)
Wetness = Literal["sparing", "usual", "flooded"]
WETNESSES: tuple[Wetness, ...] = get_args(Wetness)
Support = Literal["light paper", "heavy paper", "board or canvas"]
SUPPORTS: tuple[Support, ...] = get_args(Support)
HandWeight = Literal["light", "usual", "heavy"]
HAND_WEIGHTS: tuple[HandWeight, ...] = get_args(HandWeight)
CLOCK = re.compile(r"([01]?\d|2[0-3])[:.]([0-5]\d)")
SITTING_MIN = (10.0, 720.0)
STEP_MIN = (0.0, 6000.0)


def clock_minutes(words: str) -> int:
    """Minutes since midnight of a time such as 9:30.

    Raises:
        PlanError: it is no time of day.
    """
    found = CLOCK.fullmatch(words.strip())
    if found is None:
        raise PlanError(f"“{words.strip()[:20]}” is not a time of day. Type for instance 9:30.")
    return 60 * int(found[1]) + int(found[2])


@dataclass(frozen=True, slots=True)
class StepChange:
    """What the artist has set otherwise for a step of the working order; None leaves what is given."""

    step: str
    minutes: float | None = None
    drying_min: float | None = None
    left_out: bool = False

    def __post_init__(self) -> None:
        for value, what in ((self.minutes, "The time of a step"), (self.drying_min, "The drying of a step")):
            if value is not None:
                require_within(what, value, *STEP_MIN, "minutes")


@dataclass(frozen=True, slots=True)
class WorkPlan:
    """What the working order is reckoned with.

    ``start`` is when a sitting begins, ``light_until`` how long the light on the motif lasts outdoors; both are times
    of day, or empty. ``hand`` is how heavily the artist draws. ``materials`` are the artist's own list.
    """

    support: Support = "heavy paper"
    weather: Weather = "usual"
    wetness: Wetness = "usual"
    sitting_min: float = 120.0
    start: str = "9:30"
    light_until: str = ""
    hand: HandWeight = "usual"
    materials: tuple[str, ...] = ()
    changes: tuple[StepChange, ...] = ()

    def __post_init__(self) -> None:
        require_within("The length of a sitting", self.sitting_min, *SITTING_MIN, "minutes")
        start = clock_minutes(self.start)
        if self.light_until and clock_minutes(self.light_until) <= start:
            raise PlanError(f"The light cannot be gone before the sitting begins, at {self.start}.")
        if len({each.step for each in self.changes}) != len(self.changes):
            raise PlanError("One step of the working order is changed twice.")

    def change_of(self, step: str) -> StepChange:
        """What is set otherwise for a step; an empty change where nothing is."""
        return next((each for each in self.changes if each.step == step), StepChange(step))


@dataclass(frozen=True, slots=True)
class SittingStep:
    """A step as it was worked on: its time with the hands on it, and the time that was given for it.

    ``laid`` is the moment at which it was done (ISO 8601, empty where it is not, or nobody noted it); ``said_dry`` that
    the artist has found it dry since, sooner than reckoned.
    """

    step: str
    title: str
    kind: str
    minutes: float
    given_min: float
    done: bool = False
    laid: str = ""
    said_dry: bool = False

    def __post_init__(self) -> None:
        if not (isfinite(self.minutes) and isfinite(self.given_min)) or min(self.minutes, self.given_min) < 0:
            raise PlanError("The time of a step is not a number of minutes.")


@dataclass(frozen=True, slots=True)
class Sitting:
    """One sitting at the easel: of which study, from when to when (ISO 8601, ``ended`` empty while it lasts)."""

    id: str
    study: str
    started: str
    ended: str = ""
    steps: tuple[SittingStep, ...] = ()
    medium: str = ""

    @property
    def minutes(self) -> float:
        """With the hands on the work."""
        return sum(step.minutes for step in self.steps)
