"""The one table of stations as far as computation goes: name, question, headline, readings."""

from __future__ import annotations

from dataclasses import dataclass
from importlib import import_module
from typing import TYPE_CHECKING, cast

from mild_compass.craft.reading import Reading, worst_first

if TYPE_CHECKING:
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.stations import StationName


@dataclass(frozen=True, slots=True)
class StationCraft:
    """A station: its title, the question its margin line asks, what it says.

    What it says is in ``craft/<name>/readings.py``, loaded when first asked for, so that the window is there sooner.
    """

    name: StationName
    title: str
    question: str
    needs_masses: bool = False
    without_photo: str = ""  # what it says where a study has no photo and the station can do little without

    def headline(self, worked: Worked) -> str:
        """A few words for the route."""
        return cast("str", import_module(f"mild_compass.craft.{self.name}.readings").headline(worked))

    def readings(self, worked: Worked) -> list[Reading]:
        """All readings of the station."""
        return cast("list[Reading]", import_module(f"mild_compass.craft.{self.name}.readings").readings(worked))


STATIONS: tuple[StationCraft, ...] = (
    StationCraft("references", "References", "What drew you to this?"),
    StationCraft(
        "viewfinder",
        "Viewfinder",
        "What made you stop here?",
        without_photo="On a blank sheet the viewfinder is the picture area. What is judged in a photo is silent here.",
    ),
    StationCraft(
        "armature",
        "Armature",
        "Which line carries the picture?",
        without_photo="Lines of the rectangle work on a blank sheet too. Big lines are traced or found on a photo.",
    ),
    StationCraft("perspective", "Perspective", "Where is your eye level?"),
    StationCraft(
        "values",
        "Values",
        "Where should the eye end?",
        needs_masses=True,
        without_photo="This study stands on a blank sheet: there are no values to find yet. They need a photo.",
    ),
    StationCraft("sheet", "Sheet", "What goes down first?", needs_masses=True),
    StationCraft("check", "Check", "What did the hand do otherwise?"),
    StationCraft("logbook", "Logbook", "What did you decide, and why?", needs_masses=True),
)


def station(name: StationName) -> StationCraft:
    """The station of this name."""
    return next(each for each in STATIONS if each.name == name)


def readings_of(name: StationName, worked: Worked) -> list[Reading]:
    """A station's readings, worst first, without those the artist has silenced in this study."""
    silent = {each.key for each in worked.study.silenced if each.station == name}
    return worst_first([reading for reading in station(name).readings(worked) if reading.key not in silent])


def silenced_at(name: StationName, worked: Worked) -> int:
    """How many readings of a station the artist has silenced in this study."""
    return sum(each.station == name for each in worked.study.silenced)


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
