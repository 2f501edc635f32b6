"""How long steps take and how long things dry.

All figures here are common practice, no published source: they say where to begin, the artist changes them, and after a
few pictures the own times take their place (``own_times``).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

if TYPE_CHECKING:
    from mild_compass.plan.tones import Medium
    from mild_compass.plan.work import Support, Weather, Wetness

Kind = Literal[
    "stretch",
    "tape",
    "tone",
    "prepare",
    "transfer",
    "check",
    "mix",
    "mask",
    "wash",
    "unmask",
    "lift",
    "dark",
    "light",
    "paint",
    "hatch",
    "details",
    "lift lines",
    "fix",
    "untape",
]


@dataclass(frozen=True, slots=True)
class Rate:
    """Minutes to set out, for a square decimetre, for a metre of outline, and for each shape."""

    set_out: float
    per_dm2: float = 0.0
    per_m: float = 0.0
    per_shape: float = 0.0

    def minutes(self, area_dm2: float, border_m: float, shapes: int) -> float:
        """For so much of the sheet."""
        return self.set_out + self.per_dm2 * area_dm2 + self.per_m * border_m + self.per_shape * shapes


RATES: dict[Kind, Rate] = {
    "stretch": Rate(15, 0.3),
    "tape": Rate(6, 0, 1.5),
    "tone": Rate(5, 1.0),
    "prepare": Rate(10, 0, 4.0),
    "transfer": Rate(8, 0.4, 4.0, 0.2),
    "check": Rate(5),
    "mix": Rate(5),
    "mask": Rate(4, 0, 9.0, 0.4),
    "wash": Rate(5, 1.0, 5.0, 0.3),
    "unmask": Rate(2, 0, 2.0),
    "lift": Rate(4, 0, 4.0, 0.5),
    "dark": Rate(4, 2.0, 4.0, 0.4),
    "light": Rate(4, 1.6, 4.0, 0.4),
    "paint": Rate(6, 1.6, 5.0, 0.5),
    "hatch": Rate(3, 4.5, 4.0, 0.4),
    "details": Rate(10, 0.6, 3.0, 0.4),
    "lift lines": Rate(3, 0.2, 0.8),
    "fix": Rate(4, 0.1),
    "untape": Rate(4, 0, 0.8),
}
# A medium that goes slower or faster at a step than usual.
PACE: dict[tuple[Medium, Kind], float] = {("charcoal", "dark"): 0.7, ("opaque", "details"): 1.4}

# Until the next layer may touch it, in minutes, in usual weather, laid as wetly as usual.
DRYING: dict[Kind, float] = {"stretch": 240, "tone": 0, "mask": 15, "wash": 25, "lift": 10, "paint": 15, "fix": 10}
TONE_DRYING: dict[Medium, float] = {"opaque": 30}
WEATHER: dict[Weather, float] = {"warm and dry": 0.6, "usual": 1.0, "cool and damp": 2.0}
WETNESS: dict[Wetness, float] = {"sparing": 0.5, "usual": 1.0, "flooded": 1.8}
SUPPORT: dict[Support, float] = {"light paper": 0.9, "heavy paper": 1.0, "board or canvas": 0.8}
BY_HAND_WET: tuple[Kind, ...] = ("wash", "paint", "tone")  # what the artist lays wetter or drier


def drying_min(kind: Kind, medium: Medium, weather: Weather, wetness: Wetness, support: Support) -> float:
    """Until what a step has laid is dry, in minutes."""
    usual = TONE_DRYING.get(medium, 0.0) if kind == "tone" else DRYING.get(kind, 0.0)
    wet = WETNESS[wetness] if kind in BY_HAND_WET else 1.0
    return round(usual * WEATHER[weather] * SUPPORT[support] * wet)
