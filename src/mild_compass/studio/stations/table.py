"""The instruments of every station, loaded at the first visit."""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, cast

if TYPE_CHECKING:
    from mild_compass.plan.stations import StationName
    from mild_compass.studio.desk import Desk
    from mild_compass.studio.stations.instrument import Instrument


def instruments_of(name: StationName, desk: Desk) -> list[Instrument]:
    """A station's instruments, in the order of the bench; they are in ``studio/stations/<name>``."""
    module = import_module(f"mild_compass.studio.stations.{name}")
    return cast("list[Instrument]", module.instruments(desk))
