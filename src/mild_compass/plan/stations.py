"""The stations of the way from photo to checked drawing, in order."""

from __future__ import annotations

from typing import Literal, get_args

StationName = Literal["references", "viewfinder", "armature", "perspective", "values", "sheet", "check", "logbook"]
STATION_NAMES: tuple[StationName, ...] = get_args(StationName)
