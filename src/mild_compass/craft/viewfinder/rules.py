"""Thresholds of the viewfinder's readings, in one place: the schools' own, and what the artist has set otherwise."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from typing import TYPE_CHECKING, Literal

if TYPE_CHECKING:
    from mild_compass.plan.study import School, Study

Measure = Literal["%", "L*", "times"]


@dataclass(frozen=True, slots=True)
class Rules:
    """Shares are of the frame's width, height, short side or area, as said; common practice, no published source."""

    dead_centre: float = 0.05  # of the width either side of the upright middle
    on_a_place: float = 0.03  # of the width: near enough to a third, a quarter or a crossing
    lead_room: float = 1.0  # free length ahead over free length behind
    edge_band: float = 0.04  # of the short side
    edge_step: float = 28.0  # L* from the frame's median that makes a patch at the edge pull
    edge_least: float = 0.0015  # of the frame's area: smaller patches do not pull
    edge_longest: float = 0.30  # of the side: longer ones are part of the picture, not a patch
    bright_weight: float = 1.3  # a bright patch pulls harder than a dark one
    tangent: float = 0.015  # of the short side
    spare_energy: float = 0.02  # of the frame's contrast energy
    spare_least: float = 0.03  # of the side: thinner strips are not worth a cut
    balance: float = 0.25  # of the largest possible moment
    equal_halves: float = 0.05  # of an even split of dark and light
    horizon_half: float = 0.05  # of the height


RULES = Rules()

SCHOOL_RULES: dict[School, dict[str, float]] = {
    "thirds": {"on_a_place": 0.04},
    "armature": {},
    "dynamic symmetry": {},
    "quarters and cross": {"dead_centre": 0.02},  # the cross is theirs: only what stands right on it is called still
    "no grid": {},
}

SCHOOL_WORDS: dict[School, str] = {
    "thirds": "Thirds: the subject on a line one third in. Frames are chosen through a grid of thirds.",
    "armature": "Armature: frame freely, then see what lands on a crossing of the 14 lines.",
    "dynamic symmetry": "Dynamic symmetry: the eyes of the rectangle, where a reciprocal meets its diagonal.",
    "quarters and cross": "Quarters and cross: the sheet quartered, with a cross through it, to find the big lines.",
    "no grid": "No grid: no lines while framing; only the plain measures speak.",
}

# What may be set by hand, in words, and how it is shown.
ADJUSTABLE: dict[str, tuple[str, Measure]] = {
    "dead_centre": ("Dead centre within", "%"),
    "on_a_place": ("On a line within", "%"),
    "lead_room": ("Room ahead, times", "times"),
    "edge_step": ("Edge patch off by", "L*"),
    "tangent": ("Touching within", "%"),
    "spare_energy": ("Spare holds at most", "%"),
    "balance": ("Level within", "%"),
    "equal_halves": ("Equal halves within", "%"),
    "horizon_half": ("Half height within", "%"),
}


def school_rules(school: School) -> Rules:
    """The thresholds a school goes by."""
    return replace(RULES, **SCHOOL_RULES[school])


def rules_of(study: Study) -> Rules:
    """The thresholds of a study: its school's, with the artist's own; names that are not known are passed over."""
    known = {field.name for field in fields(Rules)}
    own = {rule.name: rule.value for rule in study.rules if rule.name in known}
    return replace(school_rules(study.school), **own)
