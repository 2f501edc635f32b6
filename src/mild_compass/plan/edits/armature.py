"""Edits of the armature."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.plan.edits.base import current, named, with_study

if TYPE_CHECKING:
    from mild_compass.plan.model import Construction, Plan

CONSTRUCTION_WORDS: dict[Construction, str] = {
    "fourteen": "14-line armature",
    "diagonals": "diagonals",
    "thirds": "thirds",
    "quarters": "quarters",
}


def _words(plan: Plan, *_: object) -> str:
    chosen = current(plan).armature
    return "Armature: " + (", ".join(CONSTRUCTION_WORDS[name] for name in chosen) if chosen else "none") + "."


@named("choose armature", "armature", _words)
def choose_armature(plan: Plan, constructions: tuple[Construction, ...]) -> Plan:
    """Choose the constructions drawn in the frame."""
    return with_study(plan, replace(current(plan), armature=constructions))
