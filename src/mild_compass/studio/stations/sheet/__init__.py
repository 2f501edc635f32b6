"""The sheet station: what is drawn on it, measures, simple shapes, order of drawing, motif, transfer, print."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.stations.sheet.block_in import BlockInInstrument
from mild_compass.studio.stations.sheet.layers import LayersInstrument
from mild_compass.studio.stations.sheet.measure import MeasureInstrument
from mild_compass.studio.stations.sheet.motif import MotifInstrument
from mild_compass.studio.stations.sheet.on_screen import OnScreenInstrument
from mild_compass.studio.stations.sheet.print_out import PrintInstrument
from mild_compass.studio.stations.sheet.simple_shapes import SimpleShapesInstrument
from mild_compass.studio.stations.sheet.table import TableInstrument
from mild_compass.studio.stations.sheet.transfer import TransferInstrument

if TYPE_CHECKING:
    from collections.abc import Callable

ORDER: tuple[Callable[[Desk], Instrument], ...] = (
    Instrument,
    LayersInstrument,
    PrintInstrument,
    OnScreenInstrument,
    TransferInstrument,
    MeasureInstrument,
    TableInstrument,
    SimpleShapesInstrument,
    BlockInInstrument,
    MotifInstrument,
)


def instruments(desk: Desk) -> list[Instrument]:
    """The instruments of this station."""
    return [make(desk) for make in ORDER]
