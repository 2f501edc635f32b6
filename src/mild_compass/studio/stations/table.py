"""The one table of stations as far as the interface goes: instruments, and how board and companion look."""

from __future__ import annotations

from dataclasses import dataclass
from importlib import import_module
from typing import TYPE_CHECKING, Literal, cast

if TYPE_CHECKING:
    from mild_compass.plan.model import StationName
    from mild_compass.studio.board.sight import Mode
    from mild_compass.studio.board.view import Fill
    from mild_compass.studio.stations.instrument import Desk, Instrument

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
]
SHEET_LAYERS = "as printed"


@dataclass(frozen=True, slots=True)
class StationView:
    """How a station is shown; ``first`` is the instrument in hand on arrival.

    Its instruments are in ``studio/stations/<name>.py``, loaded at the first visit.
    """

    name: StationName
    first: str
    page: Page = "board"
    mode: Mode = "photo"
    fill: Fill = "colour"
    layers: tuple[str, ...] = ("frame",)

    def instruments(self, desk: Desk) -> list[Instrument]:
        """The station's instruments, in the order of the bench."""
        module = import_module(f"mild_compass.studio.stations.{self.name}")
        return cast("list[Instrument]", module.instruments(desk))


STATION_VIEWS: tuple[StationView, ...] = (
    StationView("references", "photos", "contact sheet"),
    StationView("viewfinder", "frame", layers=("threads", "frame")),
    StationView("armature", "constructions", layers=("armature", "frame")),
    StationView("perspective", "trace", layers=("horizon", "ticks", "frame")),
    StationView("values", "masses", mode="sheet", fill="masses"),
    StationView("sheet", "layers", mode="sheet", fill="paper", layers=(SHEET_LAYERS,)),
    StationView("logbook", "record", "logbook"),
)


def station_view(name: StationName) -> StationView:
    """How the station of this name is shown."""
    return next(view for view in STATION_VIEWS if view.name == name)
