"""The logbook as one line of time: notes, decisions, checks and sittings with their pictures; what is looked for."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import TYPE_CHECKING, Literal, get_args

if TYPE_CHECKING:
    from collections.abc import Iterable

    from mild_compass.plan.model import LogEntry, Plan
    from mild_compass.plan.pictures import OwnDrawing
    from mild_compass.plan.stations import StationName
    from mild_compass.plan.work import Sitting

ItemKind = Literal["note", "decision", "check", "sitting"]
ITEM_KINDS: tuple[ItemKind, ...] = get_args(ItemKind)
PictureKind = Literal["frame", "masses", "drawing"]
# Decisions beside which the frame, or the masses, are shown: the last of each in a study.
SHOWS_FRAME = ("move_frame", "choose_for_sheet", "use_reference", "add_reference", "begin_blank")
SHOWS_MASSES = ("change_values", "change_medium", "set_focus")


@dataclass(frozen=True, slots=True)
class PictureOf:
    """A picture beside a line: of the frame or the masses of a study (by name), or a photo of the drawing (by id)."""

    kind: PictureKind
    name: str


@dataclass(frozen=True, slots=True)
class Item:
    """One line: when, of which kind, at which station, of which study, its words, and where it stands in the log, so
    that it can be changed there; sittings and photos of the drawing have their own mark in ``key``."""

    time: str
    kind: ItemKind
    station: StationName
    study: str
    text: str
    index: int = -1
    key: str = ""
    picture: PictureOf | None = None


@dataclass(frozen=True, slots=True)
class Wanted:
    """What of the timeline is looked at; nothing chosen means all."""

    kinds: tuple[ItemKind, ...] = ()
    station: str = ""
    study: str = ""
    words: str = ""

    def takes(self, item: Item) -> bool:
        """Whether an item is among it; all words must be found, in any order, as beginnings of words."""
        if self.kinds and item.kind not in self.kinds:
            return False
        if self.station and item.station != self.station:
            return False
        if self.study and item.study != self.study:
            return False
        return has_words(item.text, self.words)


def has_words(text: str, words: str) -> bool:
    """Whether every word looked for begins a word of the text."""
    there = _plain(text).split()
    return all(any(word.startswith(wanted) for word in there) for wanted in _plain(words).split())


def _plain(text: str) -> str:
    return "".join(sign if sign.isalnum() else " " for sign in text.casefold())


def timeline(plan: Plan) -> tuple[Item, ...]:
    """All there is, in order of time; what carries the same time stays as it stands in the log."""
    pictures = _pictures(plan)
    items = [_line(entry, index, pictures.get(index)) for index, entry in enumerate(plan.log)]
    items += [_drawing(drawing) for drawing in plan.drawings]
    names = {study.id: study.name for study in plan.studies}
    items += [_sitting(sitting, names.get(sitting.study, "")) for sitting in plan.sittings]
    return tuple(sorted(items, key=lambda item: _moment(item.time)))


def chosen(items: Iterable[Item], wanted: Wanted) -> tuple[Item, ...]:
    """Those that are looked for."""
    return tuple(item for item in items if wanted.takes(item))


def _line(entry: LogEntry, index: int, picture: PictureOf | None) -> Item:
    kind: ItemKind = "note" if entry.kind == "note" else "check" if entry.station == "check" else "decision"
    return Item(entry.time, kind, entry.station, entry.study, entry.text, index, picture=picture)


def _pictures(plan: Plan) -> dict[int, PictureOf]:
    """Beside the last decision on frame and on masses of each study that is still there."""
    found: dict[tuple[str, PictureKind], int] = {}
    there = {study.name for study in plan.studies}
    for index, entry in enumerate(plan.log):
        if entry.kind != "decision" or entry.study not in there:
            continue
        if entry.topic in SHOWS_FRAME:
            found[entry.study, "frame"] = index
        elif entry.topic in SHOWS_MASSES:
            found[entry.study, "masses"] = index
    return {index: PictureOf(kind, study) for (study, kind), index in found.items()}


def _drawing(drawing: OwnDrawing) -> Item:
    words = "A photo of the finished work." if drawing.stage == "finished" else f"A photo of the {drawing.stage}."
    return Item(drawing.taken, "check", "check", "", words, key=drawing.id, picture=PictureOf("drawing", drawing.id))


def _sitting(sitting: Sitting, study: str) -> Item:
    done = [step.title for step in sitting.steps if step.done]
    told = f": {', '.join(done)}" if done else ""
    words = f"At the easel {round(sitting.minutes)} min{told}."
    return Item(sitting.started, "sitting", "logbook", study, words, key=sitting.id)


def _moment(time: str) -> tuple[int, float]:
    """What cannot be read as a time stands first."""
    try:
        moment = datetime.fromisoformat(time)
        return 1, (moment if moment.tzinfo else moment.astimezone()).timestamp()
    except (ValueError, OverflowError):  # no time at all, or one before there were zones
        return 0, 0.0


def when(time: str) -> tuple[str, str]:
    """Date and time of a line as they are written, in the zone they were noted in."""
    try:
        moment = datetime.fromisoformat(time)
    except ValueError:
        return time, ""
    return f"{moment:%Y-%m-%d}", f"{moment:%H:%M}"
