"""The references station: the contact sheet, photos side by side, elements cut out."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.stations.references.compare import CompareInstrument
from mild_compass.studio.stations.references.cut_out import CutOutInstrument
from mild_compass.studio.stations.references.photos import PhotosInstrument

if TYPE_CHECKING:
    from mild_compass.studio.desk import Desk
    from mild_compass.studio.stations.instrument import Instrument


def instruments(desk: Desk) -> list[Instrument]:
    """The instruments of this station."""
    return [PhotosInstrument(desk), CompareInstrument(desk), CutOutInstrument(desk)]
