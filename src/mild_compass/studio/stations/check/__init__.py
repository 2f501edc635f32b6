"""The check station: the drawing against the plan."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.stations.check.corners import CornersInstrument
from mild_compass.studio.stations.check.drawing import DrawingInstrument
from mild_compass.studio.stations.check.drawn_values import DrawnValuesInstrument
from mild_compass.studio.stations.check.off import OffInstrument
from mild_compass.studio.stations.check.over_it import OverItInstrument
from mild_compass.studio.stations.check.over_time import OverTimeInstrument

if TYPE_CHECKING:
    from mild_compass.studio.desk import Desk
    from mild_compass.studio.stations.instrument import Instrument


def instruments(desk: Desk) -> list[Instrument]:
    """The instruments of this station."""
    return [
        DrawingInstrument(desk),
        CornersInstrument(desk),
        OffInstrument(desk),
        OverItInstrument(desk),
        DrawnValuesInstrument(desk),
        OverTimeInstrument(desk),
    ]
