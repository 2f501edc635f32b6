"""The viewfinder station: the paper, the frame, rings and areas, planned changes, frames found, the studies wall."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.stations.viewfinder.areas import KeepInstrument
from mild_compass.studio.stations.viewfinder.changes import ChangesInstrument
from mild_compass.studio.stations.viewfinder.find import FindInstrument
from mild_compass.studio.stations.viewfinder.frame import FrameInstrument
from mild_compass.studio.stations.viewfinder.measure import MeasureInstrument
from mild_compass.studio.stations.viewfinder.paper import PaperInstrument
from mild_compass.studio.stations.viewfinder.rings import RingInstrument
from mild_compass.studio.stations.viewfinder.rules import RulesInstrument
from mild_compass.studio.stations.viewfinder.wall import WallInstrument

if TYPE_CHECKING:
    from collections.abc import Callable

ORDER: tuple[Callable[[Desk], Instrument], ...] = (
    Instrument,
    PaperInstrument,
    FrameInstrument,
    RingInstrument,
    KeepInstrument,
    ChangesInstrument,
    FindInstrument,
    WallInstrument,
    MeasureInstrument,
    RulesInstrument,
)


def instruments(desk: Desk) -> list[Instrument]:
    """The instruments of this station."""
    return [make(desk) for make in ORDER]
