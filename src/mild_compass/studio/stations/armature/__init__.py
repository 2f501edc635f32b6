"""The armature station: constructions, own lines, big lines, lock-in, the eye's path, steps, the rectangle."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.armature.big_lines import BigLinesInstrument
from mild_compass.studio.stations.armature.compare import OneArmatureInstrument
from mild_compass.studio.stations.armature.constructions import ConstructionsInstrument
from mild_compass.studio.stations.armature.eye_path import EyePathInstrument
from mild_compass.studio.stations.armature.lock_in import LockInInstrument
from mild_compass.studio.stations.armature.own_lines import OwnLinesInstrument
from mild_compass.studio.stations.armature.rectangle import RectangleInstrument
from mild_compass.studio.stations.armature.steps import StepsInstrument
from mild_compass.studio.stations.instrument import Instrument

if TYPE_CHECKING:
    from collections.abc import Callable

ORDER: tuple[Callable[[Desk], Instrument], ...] = (
    Instrument,
    ConstructionsInstrument,
    OwnLinesInstrument,
    BigLinesInstrument,
    LockInInstrument,
    EyePathInstrument,
    OneArmatureInstrument,
    StepsInstrument,
    RectangleInstrument,
)


def instruments(desk: Desk) -> list[Instrument]:
    """The instruments of this station."""
    return [make(desk) for make in ORDER]
