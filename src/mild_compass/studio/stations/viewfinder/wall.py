"""The studies wall: look at all studies, choose one and say why."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.plan.edits.studies import (
    choose_for_sheet,
    choose_study,
    delete_study,
    duplicate_study,
    rename_study,
)
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Sentence, Tick, button, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.plan.study import Study
    from mild_compass.studio.pages.studies_wall import StudiesWall, WallWay

SHOWN: list[tuple[str, WallWay]] = [("colour", "colour"), ("values", "values"), ("masses", "masses")]
NEAREST_M, FARTHEST_M = 1.0, 10.0


class WallInstrument(Instrument):
    """Shows all studies side by side."""

    name = "wall"
    words = "Studies wall"
    icon = "wall"
    page = "studies wall"
    hint = "All studies at once. What works as a small picture works on the sheet: step back, mirror, turn it over."

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._connected = False

    def options(self) -> QWidget:
        self._way = Choice(SHOWN, "What the wall shows")
        self._way.chosen.connect(lambda way: self._page.look(way))
        self._far = Tick("Stepped back")
        self._far.chosen.connect(lambda _: self._step_back())
        self._metres = number_entry("Distance in metres", "m")
        self._metres.show_value(3.0)
        self._metres.chosen.connect(self._set_metres)
        self._distance = 3.0
        self._mirrored, self._over = Tick("Mirrored"), Tick("Upside down")
        self._mirrored.chosen.connect(lambda on: self._turn("mirrored", on))
        self._over.chosen.connect(lambda on: self._turn("upside_down", on))
        self._name = Sentence("Name of the study")
        self._name.chosen.connect(lambda name: self.commit(rename_study(name, self._page.chosen)))
        self._work = button("Work on it", lambda: self._work_on(self._page.chosen))
        self._copy = button("Duplicate", lambda: self.commit(duplicate_study(self._page.chosen)))
        self._delete = button("Delete", lambda: self.commit(delete_study(self._page.chosen)))
        self._why = Sentence("Why this one")
        self._why.chosen.connect(lambda _: self._choose())
        self._why.line.setPlaceholderText("Why this one?")
        self._choose_it = button("Choose it for the sheet", self._choose, main=True)
        return form(
            ("Shown in", self._way),
            self._far,
            ("From", self._metres),
            self._mirrored,
            self._over,
            rule(),
            ("Study", self._name),
            self._work,
            self._copy,
            self._delete,
            rule(),
            self._why,
            self._choose_it,
            soft("The reason goes into the logbook."),
        )

    @property
    def _page(self) -> StudiesWall:
        page: StudiesWall = self.desk.page("studies wall")  # type: ignore[assignment]
        if not self._connected:
            self._connected = True
            page.selected.connect(lambda _: self.refresh())
            page.activated.connect(self._work_on)
        return page

    def _study(self) -> Study:
        chosen = self._page.chosen
        return next((study for study in self.desk.plan.studies if study.id == chosen), self.desk.study)

    def refresh(self) -> None:
        study = self._study()
        self._way.show_value(self._page.way)
        self._name.show_value(study.name)
        self._why.show_value(study.chosen_because)
        self._delete.setEnabled(len(self.desk.plan.studies) > 1)

    def _turn(self, which: str, on: bool) -> None:
        setattr(self._page, which, on)
        self._page.update()

    def _set_metres(self, metres: float) -> None:
        if not NEAREST_M <= metres <= FARTHEST_M:
            self._metres.refuse("Between 1 and 10 metres. It stays as it was.")
            return
        self._distance = metres
        self._metres.show_value(metres)
        self._far.show_value(True)
        self._step_back()

    def _step_back(self) -> None:
        self._page.look(back_m=self._distance if self._far.isChecked() else 0.0)

    def _work_on(self, key: str) -> None:
        self.commit(choose_study(key))
        self.desk.take_up("frame")

    def _choose(self) -> None:
        study, reason = self._study(), self._why.line.text().strip()
        if reason and reason != study.chosen_because and self.commit(choose_for_sheet(study.id, reason)):
            self.desk.say(f"Study {study.name} is chosen for the sheet: {reason}.")
        elif not reason:
            self._why.refuse("Say in a few words why this one; nothing is chosen yet.")
