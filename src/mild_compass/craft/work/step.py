"""A step of the work: what is done, what it waits for, how long it takes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

if TYPE_CHECKING:
    from mild_compass.craft.work.order import Need
    from mild_compass.craft.work.rates import Kind

Shows = Literal["paper", "lines", "step", "done"]
DIVISIBLE: tuple[Kind, ...] = ("prepare", "transfer", "dark", "light", "hatch", "details", "mask", "paint")
FROM_MOTIF: tuple[Kind, ...] = ("transfer", "wash", "dark", "light", "paint", "hatch", "lift", "details")


@dataclass(frozen=True, slots=True)
class WorkStep:
    """One step: what is done, what is needed, what it waits for, how long it takes and dries.

    ``low_min`` and ``high_min`` are the artist's own spread, equal to ``minutes`` where the time is given. ``place`` is
    the step of the way of working whose picture it has, where ``shows`` says so.
    """

    key: str
    kind: Kind
    title: str
    words: str
    minutes: float
    low_min: float
    high_min: float
    drying_min: float
    given_min: float
    own_count: int
    needs: tuple[Need, ...] = ()
    look_for: str = ""
    materials: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    area_cm2: float = 0.0
    shapes: int = 0
    shows: Shows = "paper"
    place: int | None = None

    @property
    def divisible(self) -> bool:
        """Whether it may be left off half-way and taken up another time."""
        return self.kind in DIVISIBLE

    @property
    def from_motif(self) -> bool:
        """Whether the motif must be seen for it."""
        return self.kind in FROM_MOTIF
