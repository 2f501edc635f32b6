"""The one table of stations as far as computation goes: name, question, headline, readings."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from mild_compass.craft.armature import readings as armature
from mild_compass.craft.logbook import readings as logbook
from mild_compass.craft.perspective import readings as perspective
from mild_compass.craft.reading import Reading, worst_first
from mild_compass.craft.references import readings as references
from mild_compass.craft.sheet import readings as sheet
from mild_compass.craft.values import readings as values
from mild_compass.craft.viewfinder import readings as viewfinder
from mild_compass.craft.worked import Worked
from mild_compass.plan.model import StationName


@dataclass(frozen=True, slots=True)
class StationCraft:
    """A station: its title, the question its margin line asks, what it says."""

    name: StationName
    title: str
    question: str
    headline: Callable[[Worked], str]
    readings: Callable[[Worked], list[Reading]]
    needs_masses: bool = False


STATIONS: tuple[StationCraft, ...] = (
    StationCraft("references", "References", "What drew you to this?", references.headline, references.readings),
    StationCraft("viewfinder", "Viewfinder", "What made you stop here?", viewfinder.headline, viewfinder.readings),
    StationCraft("armature", "Armature", "Which line carries the picture?", armature.headline, armature.readings),
    StationCraft("perspective", "Perspective", "Where is your eye level?", perspective.headline, perspective.readings),
    StationCraft("values", "Values", "Where should the eye end?", values.headline, values.readings, True),
    StationCraft("sheet", "Sheet", "What goes down first?", sheet.headline, sheet.readings, True),
    StationCraft("logbook", "Logbook", "What did you decide, and why?", logbook.headline, logbook.readings),
)


def station(name: StationName) -> StationCraft:
    """The station of this name."""
    return next(each for each in STATIONS if each.name == name)


def readings_of(name: StationName, worked: Worked) -> list[Reading]:
    """A station's readings, worst first."""
    return worst_first(station(name).readings(worked))


def summary(readings: list[Reading]) -> str:
    """The state of a station in one breath."""
    act = sum(reading.verdict == "act" for reading in readings)
    look = sum(reading.verdict == "look" for reading in readings)
    if not readings:
        return "Nothing to say yet."
    if not act and not look:
        return "Nothing stands in the way."
    parts = [f"{act} to act on"] * bool(act) + [f"{look} to look at"] * bool(look)
    return f"{' and '.join(parts)}, {len(readings) - act - look} fine."
