"""The perspective station: edges, horizon, eye and lens, straightening, guides, stage, light and water, strings."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.stations.perspective.before import BeforeInstrument
from mild_compass.studio.stations.perspective.eye import EyeInstrument
from mild_compass.studio.stations.perspective.ground_plan import GroundPlanInstrument
from mild_compass.studio.stations.perspective.guides import GuidesInstrument
from mild_compass.studio.stations.perspective.horizon import HorizonInstrument
from mild_compass.studio.stations.perspective.light import LightInstrument
from mild_compass.studio.stations.perspective.scene_steps import SceneStepsInstrument
from mild_compass.studio.stations.perspective.stage import StageInstrument
from mild_compass.studio.stations.perspective.straighten import StraightenInstrument
from mild_compass.studio.stations.perspective.string_table import StringsInstrument
from mild_compass.studio.stations.perspective.trace import TraceInstrument

if TYPE_CHECKING:
    from collections.abc import Callable

ORDER: tuple[Callable[[Desk], Instrument], ...] = (
    Instrument,
    TraceInstrument,
    HorizonInstrument,
    EyeInstrument,
    StraightenInstrument,
    GuidesInstrument,
    StageInstrument,
    BeforeInstrument,
    GroundPlanInstrument,
    SceneStepsInstrument,
    LightInstrument,
    StringsInstrument,
)


def instruments(desk: Desk) -> list[Instrument]:
    """The instruments of this station."""
    return [make(desk) for make in ORDER]
