"""The thresholds of the viewfinder's readings, in one place. Rules of thumb, offered as such."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Rules:
    """Shares are of the frame's width, height, short side or area, as said; common practice, no published source."""

    dead_centre: float = 0.05  # of the width either side of the upright middle
    on_a_third: float = 0.03  # of the width
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
