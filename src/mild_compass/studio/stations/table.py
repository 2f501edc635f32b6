"""The one table of stations as far as the interface goes: instruments, and how board and companion look."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from mild_compass.plan.model import StationName
from mild_compass.studio.board.sight import Mode
from mild_compass.studio.board.view import Fill
from mild_compass.studio.stations.armature import ConstructionsInstrument
from mild_compass.studio.stations.contact_sheet import ContactSheet
from mild_compass.studio.stations.instrument import Desk, Instrument
from mild_compass.studio.stations.logbook import RecordInstrument
from mild_compass.studio.stations.perspective import HorizonInstrument, TraceInstrument
from mild_compass.studio.stations.references import PhotosInstrument
from mild_compass.studio.stations.sheet import PrintInstrument
from mild_compass.studio.stations.values import MassesInstrument
from mild_compass.studio.stations.viewfinder import FrameInstrument, PaperInstrument, RingInstrument

Page = Literal["board", "contact sheet", "logbook"]
SHEET_LAYERS = "as printed"


@dataclass(frozen=True, slots=True)
class StationView:
    """How a station is shown; ``first`` is the instrument in hand on arrival."""

    name: StationName
    instruments: Callable[[Desk, ContactSheet], list[Instrument]]
    first: str
    page: Page = "board"
    mode: Mode = "photo"
    fill: Fill = "colour"
    layers: tuple[str, ...] = ("frame",)


STATION_VIEWS: tuple[StationView, ...] = (
    StationView("references", lambda desk, sheet: [PhotosInstrument(desk, sheet)], "photos", "contact sheet"),
    StationView(
        "viewfinder",
        lambda desk, _: [Instrument(desk), PaperInstrument(desk), FrameInstrument(desk), RingInstrument(desk)],
        "frame",
        layers=("threads", "frame"),
    ),
    StationView(
        "armature",
        lambda desk, _: [Instrument(desk), ConstructionsInstrument(desk)],
        "constructions",
        layers=("armature", "frame"),
    ),
    StationView(
        "perspective",
        lambda desk, _: [Instrument(desk), TraceInstrument(desk), HorizonInstrument(desk)],
        "trace",
        layers=("horizon", "frame"),
    ),
    StationView(
        "values",
        lambda desk, _: [Instrument(desk), MassesInstrument(desk)],
        "masses",
        mode="sheet",
        fill="masses",
        layers=("frame",),
    ),
    StationView(
        "sheet",
        lambda desk, _: [Instrument(desk), PrintInstrument(desk)],
        "print",
        mode="sheet",
        fill="paper",
        layers=(SHEET_LAYERS,),
    ),
    StationView("logbook", lambda desk, _: [RecordInstrument(desk)], "record", "logbook"),
)


def station_view(name: StationName) -> StationView:
    """How the station of this name is shown."""
    return next(view for view in STATION_VIEWS if view.name == name)
