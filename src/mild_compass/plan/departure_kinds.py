"""The kinds of planned departure, one row each: words, hint, shape, value with its range, how it is painted.

``painted`` names the way of painting that ``craft/picture/departed.py`` knows; ``since`` is the version of the file
format that first had the kind, so that a step from an older version knows what it cannot meet.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from mild_compass.plan.errors import PlanError

DepartureKind = Literal[
    "leave out",
    "black out",
    "add a mass",
    "darken",
    "lighten",
    "less contrast",
    "more contrast",
    "gradation",
    "lose detail",
    "extend a line",
    "straighten",
    "move",
    "borrow",
]
Shape = Literal["area", "line", "path"]  # an outline; two ends; a bent line from end to end
LEAST_POINTS: dict[Shape, int] = {"area": 3, "line": 2, "path": 2}


@dataclass(frozen=True, slots=True)
class ValueOf:
    """The number a kind carries: what it is called, its unit, what it usually is, and within which bounds."""

    words: str
    usual: float
    low: float = 0.0
    high: float = 100.0


@dataclass(frozen=True, slots=True)
class KindOfDeparture:
    """One row; ``verb`` goes before the name of the thing, ``hint`` says how it is drawn."""

    name: DepartureKind
    verb: str
    hint: str
    painted: str
    shape: Shape = "area"
    value: ValueOf | None = None
    moves: bool = False
    since: int = 1

    @property
    def is_line(self) -> bool:
        """Whether it is drawn as a line and not as an area."""
        return self.shape != "area"


ROWS: tuple[KindOfDeparture, ...] = (
    KindOfDeparture(
        "leave out", "leave out", "Draw round what is to go; it is flattened into its surroundings.", "flatten"
    ),
    KindOfDeparture(
        "black out",
        "turn into one plain dark:",
        "Draw round a busy part that becomes one plain dark.",
        "cover",
        value=ValueOf("Its value, L*", 10.0),
    ),
    KindOfDeparture(
        "add a mass",
        "cover with a plain mass:",
        "Draw round a dull part to be covered with one plain value.",
        "cover",
        value=ValueOf("Its value, L*", 50.0),
    ),
    KindOfDeparture(
        "darken",
        "darken",
        "Draw round what is to step back; the edge is soft.",
        "darken",
        value=ValueOf("Darker by, L*", 15.0),
    ),
    KindOfDeparture(
        "lighten",
        "lighten",
        "Draw round what is to come forward; the edge is soft.",
        "lighten",
        value=ValueOf("Lighter by, L*", 15.0),
    ),
    KindOfDeparture(
        "less contrast",
        "quieten",
        "Draw round what shouts too loud; the edge is soft.",
        "quieten",
        value=ValueOf("Contrast less, %", 50.0),
    ),
    KindOfDeparture(
        "more contrast",
        "sharpen the contrast of",
        "Draw round what should speak up; the edge is soft.",
        "sharpen",
        value=ValueOf("Contrast more, %", 40.0),
    ),
    KindOfDeparture(
        "gradation",
        "let it darken towards",
        "Drag from where it is darkest to where the light is left as it is.",
        "grade",
        "line",
        value=ValueOf("Darker by, L*", 20.0),
    ),
    KindOfDeparture("lose detail", "lose detail in", "Draw round what should say less; the edge is soft.", "blur"),
    KindOfDeparture(
        "extend a line", "extend", "Drag from the end of the line to where it should reach.", "carry on", "line"
    ),
    KindOfDeparture("straighten", "straighten", "Draw along the bent edge, from end to end.", "straighten", "path"),
    KindOfDeparture("move", "move", "Draw round it, then drag it to its new place.", "move", moves=True),
    KindOfDeparture("borrow", "borrow", "Drag it to its place.", "lay in", moves=True),
)
KINDS: dict[str, KindOfDeparture] = {row.name: row for row in ROWS}


def kind_of(name: str) -> KindOfDeparture:
    """The row of a kind.

    Raises:
        PlanError: there is no such kind.
    """
    row = KINDS.get(name)
    if row is None:
        raise PlanError(f"There is no planned change of the kind “{name}”. Known are {', '.join(KINDS)}.")
    return row
