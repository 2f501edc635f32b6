"""The values station: masses, shapes by hand, edges, planes, ladder, the value at a spot, reads, light, the medium."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.stations.values.afar import AfarInstrument
from mild_compass.studio.stations.values.edges import EdgesInstrument
from mild_compass.studio.stations.values.ladder import LadderInstrument
from mild_compass.studio.stations.values.light import LightInstrument
from mild_compass.studio.stations.values.masses import MassesInstrument
from mild_compass.studio.stations.values.medium import MediumInstrument
from mild_compass.studio.stations.values.planes import PlanesInstrument
from mild_compass.studio.stations.values.reads import ReadsInstrument
from mild_compass.studio.stations.values.shapes import ShapesInstrument
from mild_compass.studio.stations.values.spot import SpotInstrument

if TYPE_CHECKING:
    from collections.abc import Callable

ORDER: tuple[Callable[[Desk], Instrument], ...] = (
    Instrument,
    MassesInstrument,
    ShapesInstrument,
    EdgesInstrument,
    PlanesInstrument,
    LadderInstrument,
    SpotInstrument,
    ReadsInstrument,
    LightInstrument,
    AfarInstrument,
    MediumInstrument,
)


def instruments(desk: Desk) -> list[Instrument]:
    """The instruments of this station."""
    return [make(desk) for make in ORDER]
