"""Instruments of the logbook: the record, the working order, planned and done, practice and its trend."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.stations.logbook.done import DoneInstrument
from mild_compass.studio.stations.logbook.order import OrderInstrument
from mild_compass.studio.stations.logbook.practice import PracticeInstrument
from mild_compass.studio.stations.logbook.record import RecordInstrument
from mild_compass.studio.stations.logbook.trend import TrendInstrument

if TYPE_CHECKING:
    from mild_compass.studio.desk import Desk
    from mild_compass.studio.stations.instrument import Instrument


def instruments(desk: Desk) -> list[Instrument]:
    """The instruments of this station."""
    kinds = (RecordInstrument, OrderInstrument, DoneInstrument, PracticeInstrument, TrendInstrument)
    return [kind(desk) for kind in kinds]
