"""Names that all rooms of the studio share: pages, fills, ways of looking, and how each station is shown."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

if TYPE_CHECKING:
    from mild_compass.plan.stations import StationName

Page = Literal[
    "board",
    "contact sheet",
    "logbook",
    "compare",
    "cut out",
    "found frames",
    "studies wall",
    "lock-in",
    "one armature",
    "steps",
    "strings",
    "ladder",
    "medium",
    "measures",
    "block-in",
    "transfer",
    "pages",
    "ground plan",
    "scene steps",
    "corners",
    "over it",
    "drawn values",
    "over time",
    "working order",
    "planned and done",
    "practice",
    "trend",
]
Mode = Literal["photo", "sheet"]
Fill = Literal["colour", "values", "masses", "paper", "contrast", "traps", "drawing"]
Hold = Literal["squint", "values", "mirror", "step back", "as taken"]
Needs = Literal["nothing", "a study", "a photo"]
SHEET_LAYERS = "as printed"


@dataclass(frozen=True, slots=True)
class StationView:
    """How a station is shown; ``first`` is the instrument in hand on arrival."""

    name: StationName
    first: str
    page: Page = "board"
    mode: Mode = "photo"
    fill: Fill = "colour"
    layers: tuple[str, ...] = ("frame",)


STATION_VIEWS: tuple[StationView, ...] = (
    StationView("references", "photos", "contact sheet"),
    StationView("viewfinder", "frame", layers=("threads", "stage", "frame")),
    StationView("armature", "constructions", layers=("armature", "stage", "frame")),
    StationView("perspective", "trace", layers=("horizon", "ticks", "stage", "frame")),
    StationView("values", "masses", mode="sheet", fill="masses"),
    StationView("sheet", "layers", mode="sheet", fill="paper", layers=(SHEET_LAYERS,)),
    StationView("check", "off", mode="sheet", fill="drawing", layers=()),
    StationView("logbook", "record", "logbook"),
)


def station_view(name: StationName) -> StationView:
    """How the station of this name is shown."""
    return next(view for view in STATION_VIEWS if view.name == name)
