"""The artist's own times, from all plans, kept as lines of JSON."""

from __future__ import annotations

from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from mild_compass.craft.work.own_times import OwnTimes, TimedStep
from mild_compass.memory.lines import LineFile

if TYPE_CHECKING:
    from pathlib import Path


class TimesFile:
    """A step that is done is written with a mark of its own; the last line of a mark counts."""

    def __init__(self, path: Path) -> None:
        self._lines = LineFile(path)

    def add(self, mark: str, step: TimedStep) -> None:
        """Keep the time of a step."""
        self._lines.add({"mark": mark, **asdict(step)})

    def strike(self, mark: str) -> None:
        """It was not done after all."""
        self._lines.add({"mark": mark, "struck": True})

    def own_times(self) -> OwnTimes:
        """The paces behind all steps that count."""
        last: dict[str, TimedStep | None] = {}
        for record in self._lines.records():
            mark = record.get("mark")
            if isinstance(mark, str):
                last.pop(mark, None)
                last[mark] = None if record.get("struck") else _step(record)
        return OwnTimes(step for step in last.values() if step is not None)


def _step(record: dict[str, Any]) -> TimedStep | None:
    words = [record.get(name) for name in ("medium", "kind")]
    numbers = [record.get(name) for name in ("minutes", "given_min")]
    if not all(isinstance(each, str) for each in words):
        return None
    if not all(isinstance(each, int | float) and 0 <= each < 1e6 for each in numbers):
        return None
    medium, kind = map(str, words)
    minutes, given = (float(each) for each in numbers if each is not None)
    return TimedStep(medium, kind, minutes, given)
