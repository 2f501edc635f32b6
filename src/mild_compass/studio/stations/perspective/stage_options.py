"""The options of a thing on the stage, the same for the board and for the ground plan."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from mild_compass.plan.edits.stage import change_thing, copy_thing, next_mark, set_down, take_away
from mild_compass.plan.errors import PlanError
from mild_compass.plan.stage import ROOFS, THING_KINDS, Opening, Stage, Thing, ThingKind, new_thing, row_of
from mild_compass.studio.widgets import Choice, Names, Sentence, Tick, button, form, number_entry, rule

if TYPE_CHECKING:
    from collections.abc import Callable

    from PySide6.QtWidgets import QWidget

    from mild_compass.plan.edits.base import Edit
    from mild_compass.studio.desk import Desk

SET_DOWN: list[tuple[str, ThingKind]] = [(kind, kind) for kind in THING_KINDS if not row_of(kind).pictured]
ROOF_WORDS = [(roof, roof) for roof in ROOFS]
NUMBERS = {
    "width_m": ("Wide", "How wide", "m"),
    "depth_m": ("Deep", "How deep", "m"),
    "height_m": ("Tall", "How tall; of a house to its eaves", "m"),
    "turn_deg": ("Turned", "Turned clockwise on the plan", "°"),
    "base_m": ("Stands", "Height above the ground on which it stands", "m"),
    "pitch_deg": ("Pitch", "Pitch of the roof", "°"),
    "porch_m": ("Porch", "Depth of a porch before its front; 0 for none", "m"),
    "count": ("In a row", "How many stand in a row", ""),
    "gap_m": ("Every", "From one to the next in the row", "m"),
    "row_deg": ("Row runs", "The row's direction, clockwise off the thing's own width", "°"),
    "parts": ("Parts", "Steps, joints, posts of the fence, or ovals of the crown", ""),
    "tone": ("Value", "Its own value, L*", ""),
}
WHOLE = ("count", "parts")
COPY_M = 1.0


class ThingOptions:
    """Which thing is in hand, its measures, and what is set down next."""

    def __init__(self, desk: Desk, commit: Callable[[Edit], bool]) -> None:
        self._desk, self._commit = desk, commit
        self.chosen = ""
        self.taken: Callable[[str], None] = lambda _: None  # told which thing is in hand

    @property
    def stage(self) -> Stage:
        """The study's stage, an empty one where it has none."""
        return self._desk.study.stage or Stage()

    @property
    def thing(self) -> Thing | None:
        """The thing in hand."""
        return next((each for each in self.stage.things if each.id == self.chosen), None)

    @property
    def kind(self) -> ThingKind:
        """What is set down next."""
        kind: ThingKind = self._kind.value
        return kind

    def rows(self) -> tuple[tuple[str, QWidget] | QWidget, ...]:
        """The controls, as rows of an instrument's options."""
        self._kind = Choice(SET_DOWN, "What is set down next")
        self._names = Names("Things on the stage", 5)
        self._names.chosen.connect(self._choose_row)
        self._name = Sentence("Name of the thing")
        self._name.chosen.connect(lambda name: self.change(name=name[:60]))
        self._numbers = {field: number_entry(words[1], words[2]) for field, words in NUMBERS.items()}
        for field, entry in self._numbers.items():
            entry.chosen.connect(lambda value, field=field: self._measure(field, value))
        self._roof = Choice(ROOF_WORDS, "Kind of roof")
        self._roof.chosen.connect(lambda roof: self.change(roof=roof))
        self._door = Tick("Door and windows on its front")
        self._door.chosen.connect(self._open)
        self._clear = Tick("Its paper is clear")
        self._clear.setToolTip("Of a scanned sketch only the marks show; what stands behind is seen through its paper")
        self._clear.chosen.connect(lambda on: self.change(clear_paper=on))
        copy = button("Another like it", lambda: self._commit(copy_thing(self.chosen, COPY_M, 0.0)))
        away = button("Take it away", self.take_away)
        self._of_chosen = form(
            ("It is", self._name),
            *((NUMBERS[field][0], self._numbers[field]) for field in ("width_m", "depth_m", "height_m", "turn_deg")),
            ("Roof", self._roof),
            *((NUMBERS[field][0], self._numbers[field]) for field in list(NUMBERS)[5:]),
            (NUMBERS["base_m"][0], self._numbers["base_m"]),
            self._door,
            self._clear,
            copy,
            away,
        )
        return (("Set down", self._kind), rule(), self._names, self._of_chosen)

    def refresh(self) -> None:
        """Show what is on the stage and the thing in hand."""
        things = self.stage.things
        if self.chosen not in [thing.id for thing in things]:
            self.chosen = things[-1].id if things else ""
        row = next((k for k, thing in enumerate(things) if thing.id == self.chosen), -1)
        self._names.show_names([thing.words.removeprefix("the ") for thing in things], row)
        self._names.setVisible(bool(things))
        thing = self.thing
        self._of_chosen.setVisible(thing is not None)
        if thing is not None:
            self._show(thing)

    def _show(self, thing: Thing) -> None:
        layout, row = self._of_chosen.layout(), row_of(thing.kind)
        self._name.show_value(thing.name)
        self._roof.show_value(thing.roof)
        absent = {
            "depth_m": row.round,
            "height_m": row.flat,
            "pitch_deg": not row.roofed or thing.roof == "flat",
            "porch_m": not row.roofed,
            "gap_m": thing.count < 2,
            "row_deg": thing.count < 2,
            "parts": not row.parted,
        }
        for field, entry in self._numbers.items():
            entry.show_value(round(float(getattr(thing, field)), 3))
            layout.setRowVisible(entry, not absent.get(field, False))  # type: ignore[union-attr]
        layout.setRowVisible(self._roof, row.roofed)  # type: ignore[union-attr]
        self._door.setVisible(row.roofed)
        self._clear.setVisible(row.pictured)
        self._clear.show_value(thing.clear_paper)
        self._door.show_value(any(each.side == "front" for each in thing.openings))

    def choose(self, key: str) -> None:
        """Take a thing in hand."""
        self.chosen = key
        self.refresh()
        self.taken(key)

    def _choose_row(self, row: int) -> None:
        if 0 <= row < len(self.stage.things):
            self.choose(self.stage.things[row].id)
            self._desk.board.update()

    def change(self, **changes: Any) -> None:
        """Change the thing in hand."""
        if self.thing is not None:
            self._commit(change_thing(self.chosen, **changes))

    def _measure(self, field: str, value: float) -> None:
        thing = self.thing
        changes: dict[str, Any] = {field: round(value) if field in WHOLE else value}
        if thing is not None and field == "width_m" and row_of(thing.kind).round:
            changes["depth_m"] = value
        if thing is not None and field == "count" and value > 1 and thing.gap_m == 0:
            changes["gap_m"] = 2 * max(thing.width_m, 0.5)
        try:
            edit = change_thing(self.chosen, **changes)
            edit.change(self._desk.plan)
        except PlanError as error:
            self._numbers[field].refuse(f"{error} It stays as it was.")
            return
        self._commit(edit)

    def _open(self, on: bool) -> None:
        thing = self.thing
        if thing is None:
            return
        rest = tuple(each for each in thing.openings if each.side != "front")
        self.change(openings=(*rest, *_front(thing)) if on else rest)

    def set_down(self, x_m: float, y_m: float) -> None:
        """Set the next thing down at a place of the plan and take it in hand."""
        key = next_mark(self.stage)
        if self._commit(set_down(new_thing(self.kind, key, round(x_m, 2), round(y_m, 2)))):
            self.choose(key)

    def take_away(self) -> None:
        """Take the thing in hand off the stage."""
        if self.thing is not None:
            self._commit(take_away(self.chosen))


def _front(thing: Thing) -> tuple[Opening, ...]:
    """A door and as many windows as there is room for on the front: common practice, no published source."""
    door = Opening("front", min(0.8, 0.1 * thing.width_m), 0.0, min(0.95, 0.3 * thing.width_m), 2.05, "door")
    windows = []
    left = door.left_m + door.width_m + 0.7
    while left + 1.2 < thing.width_m:
        windows.append(Opening("front", left, 0.9, 1.1, 1.3))
        left += 1.9
    return (door, *windows)
