"""The work on the pumping station as it was done: three sittings at the easel, and what came out; all invented."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.plan.edits.logbook import answer, say_what_came
from mild_compass.plan.edits.work import with_time
from mild_compass.plan.model import Acted
from mild_compass.plan.record import CameOut
from mild_compass.plan.work import Sitting, SittingStep

if TYPE_CHECKING:
    from collections.abc import Iterator

    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.model import Plan
    from mild_compass.plan.stations import StationName

STUDY = "study-1"
# Each step: its mark, title and kind, the minutes it took, and those that were given.
SITTINGS: tuple[tuple[str, str, tuple[tuple[str, str, str, float, float], ...]], ...] = (
    (
        "2026-04-03T09:05:00+02:00",
        "2026-04-03T10:31:00+02:00",
        (
            ("prepare", "Print the lines", "prepare", 14.0, 10.0),
            ("tape", "Tape the sheet to the board", "tape", 7.5, 9.0),
            ("transfer", "Carry the lines over", "transfer", 57.0, 48.0),
            ("check", "Photograph it now", "check", 4.0, 5.0),
        ),
    ),
    (
        "2026-04-05T14:40:00+02:00",
        "2026-04-05T16:35:00+02:00",
        (
            ("mask", "Reserve the light", "mask", 21.0, 18.0),
            ("mix 1", "Mix for wash 1", "mix", 6.0, 5.0),
            ("mix 2", "Mix for wash 2", "mix", 4.5, 5.0),
            ("layer 1", "Wash 1", "wash", 31.0, 27.0),
            ("layer 2", "Wash 2", "wash", 42.0, 29.0),
        ),
    ),
    (
        "2026-04-06T11:10:00+02:00",
        "2026-04-06T12:02:00+02:00",
        (
            ("unmask", "Take the masking off", "unmask", 6.0, 5.0),
            ("lift", "Lift and soften", "lift", 9.0, 6.0),
            ("details", "Details at the focus", "details", 22.0, 11.0),
            ("lift lines", "Lift the construction lines", "lift lines", 8.0, 12.0),
            ("untape", "Take the tape off", "untape", 4.0, 6.0),
        ),
    ),
)
SPENT: tuple[tuple[StationName, float], ...] = (
    *(("references", 660.0), ("viewfinder", 1380.0), ("perspective", 2460.0), ("values", 840.0)),
    *(("sheet", 1500.0), ("check", 1080.0)),
)


def with_sittings(plan: Plan) -> Plan:
    """The plan with its sittings, the time at each station, and a reading that was acted on."""
    sittings = tuple(
        Sitting(f"sitting-{n}", STUDY, started, ended, tuple(SittingStep(*step, True) for step in steps), "washes")
        for n, (started, ended, steps) in enumerate(SITTINGS, 1)
    )
    acted = Acted(
        "2026-04-02T12:40:00+02:00", "perspective", STUDY, "uprights", "The uprights lean: straighten, or mean it."
    )
    plan = replace(plan, sittings=sittings, acted=(acted,))
    for station, seconds in SPENT:
        plan = with_time(plan, station, seconds)
    return plan


def what_came() -> Iterator[Edit]:
    """What the artist said of it afterwards."""
    yield say_what_came(
        CameOut(STUDY, "darks", "darks", "the dark takes 20 % of the picture", "", "changed", "more",
                "Leave the ground one step lighter than it looks.")
    )  # fmt: skip
    yield say_what_came(
        CameOut(STUDY, "acted perspective uprights", "reading uprights", "The uprights lean: straighten, or mean it.",
                "straightened, and the house stands", "kept")
    )  # fmt: skip
    yield say_what_came(
        CameOut(STUDY, "time", "time", "3 h of work", "", "changed", "more", "The second wash wants half an hour more.")
    )
    yield answer(
        "What is it about, in one sentence?", "before", "The house turning its dark side.", "2026-04-02T12:50:00+02:00"
    )
    yield answer("What held from the plan?", "after", "The lines, and the light gable.", "2026-04-06T12:25:00+02:00")
