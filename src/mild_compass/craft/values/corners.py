"""Corners darkened, so that the eye is led inward (common practice, no published source)."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.plan.framing import corners
from mild_compass.plan.study import Departure

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan

DARKER, REACH = 18.0, 0.36  # L*; of the way to the middle


def corner_gradations(plan: Plan) -> tuple[Departure, ...]:
    """A gradation from each corner of the frame toward the middle."""
    study = plan.study
    assert study is not None
    frame = corners(study.frame)
    middle = (sum(x for x, _ in frame) / 4, sum(y for _, y in frame) / 4)
    taken = {each.id for each in study.departures}
    free = (f"departure-{k}" for k in range(1, len(taken) + 6) if f"departure-{k}" not in taken)
    names = ("top left corner", "top right corner", "bottom right corner", "bottom left corner")
    return tuple(
        Departure(
            next(free),
            "gradation",
            ((x, y), (x + REACH * (middle[0] - x), y + REACH * (middle[1] - y))),
            name,
            "leads inward",
            DARKER,
        )
        for (x, y), name in zip(frame, names, strict=True)
    )
