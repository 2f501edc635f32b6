"""The answers of the drills, kept as lines of JSON."""

from __future__ import annotations

import csv
import io
from dataclasses import asdict, fields
from math import isfinite
from typing import TYPE_CHECKING, Any

from mild_compass.craft.practice.drills import drill, names
from mild_compass.craft.practice.history import Answered, History
from mild_compass.memory.lines import LineFile

if TYPE_CHECKING:
    from pathlib import Path

TYPES: dict[str, tuple[type, ...]] = {
    "id": (str,),
    "time": (str,),
    "drill": (str,),
    "error": (int, float, type(None)),
    "right": (bool,),
    "allowed": (int, float),
    "seconds": (int, float),
    "own": (bool,),
}


class PracticeFile:
    """Answers are added, and struck out by a line of their own; nothing in the file is ever changed."""

    def __init__(self, path: Path) -> None:
        self._lines = LineFile(path)

    def add(self, answer: Answered) -> None:
        """Keep an answer."""
        self._lines.add(asdict(answer))

    def strike(self, answer_id: str) -> None:
        """Have an answer not count: a slip of the hand."""
        self._lines.add({"strike": answer_id})

    def history(self) -> History:
        """All answers that count."""
        records = self._lines.records()
        struck = {record["strike"] for record in records if isinstance(record.get("strike"), str)}
        return History(each for each in map(_answer, records) if each is not None and each.id not in struck)


def _answer(record: dict[str, Any]) -> Answered | None:
    """A record as an answer; None where it is something else, or makes no sense."""
    known = {field.name for field in fields(Answered)}
    values = {name: value for name, value in record.items() if name in known}
    if set(values) < known - {"own"} or not all(isinstance(value, TYPES[name]) for name, value in values.items()):
        return None
    numbers = [value for value in values.values() if isinstance(value, float)]
    if values["drill"] not in names() or not all(map(isfinite, numbers)):
        return None
    return Answered(**values)


def as_csv(history: History) -> str:
    """All answers for a spreadsheet, one in a row."""
    target = io.StringIO()
    writer = csv.writer(target)
    writer.writerow(["time", "drill", "unit", "error", "right", "allowed", "seconds", "own reference"])
    for each in history.answers:
        row = drill(each.drill)
        error = "" if each.error is None else f"{each.error:.3f}"
        writer.writerow(
            [each.time, row.title, row.unit, error, "yes" if each.right else "no", f"{each.allowed:.3f}",
             f"{each.seconds:.1f}", "yes" if each.own else "no"]
        )  # fmt: skip
    return target.getvalue()
