"""Which constructions are drawn, in which ink and weight; the frame can be moved under them."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.craft.armature.constructions import EXPLAINED, ROOTS, titled
from mild_compass.craft.viewfinder.rules import SCHOOL_WORDS
from mild_compass.plan.edits.armature import choose_armature, follow_school, place_themes, style_construction
from mild_compass.plan.errors import PlanError
from mild_compass.plan.structure import CONSTRUCTION_NAMES, MOST_NESTED, LineInk, ThemeEnd
from mild_compass.plan.study import SCHOOLS
from mild_compass.studio.stations.viewfinder.frame import FrameInstrument
from mild_compass.studio.widgets import Choice, Names, Tick, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.plan.structure import Construction
    from mild_compass.studio.desk import Desk

INKS: list[tuple[str, LineInk]] = [(name, name) for name in ("iron oxide", "ultramarine", "ink black", "chalk white")]
ENDS: list[tuple[str, ThemeEnd]] = [("at both ends", "both"), ("left or top", "first"), ("right or foot", "second")]
PLACED = (*ROOTS, "rabatment")


class ConstructionsInstrument(FrameInstrument):
    """Chooses the constructions; on the board the frame can be moved under them."""

    name = "constructions"
    words = "Constructions"
    icon = "armature"
    hint = "Tick what is drawn inside the frame. Drag the frame to try how the picture sits in it."

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._chosen: Construction = "fourteen"

    def options(self) -> QWidget:
        self._school = Choice([(name.capitalize(), name) for name in SCHOOLS], "School")
        self._school.chosen.connect(lambda school: self.commit(follow_school(school)))
        self._school_words = soft("")
        self._list = Names("Constructions", 8, ticked=True)
        self._list.chosen.connect(self._choose_row)
        self._list.ticked.connect(self._tick_row)
        self._words = soft("")
        self._ink = Choice(INKS, "Ink")
        self._ink.chosen.connect(lambda ink: self._restyle(ink=ink))
        self._weight = number_entry("Weight on paper", "mm")
        self._weight.chosen.connect(lambda weight: self._restyle(weight_mm=weight))
        self._end = Choice(ENDS, "Where it lies")
        self._end.chosen.connect(lambda end: self.commit(place_themes(end, self.desk.study.structure.nested)))
        self._nested = Choice([("no", 0), *((f"{k} deep", k) for k in range(1, MOST_NESTED + 1))], "Nested")
        self._nested.chosen.connect(lambda deep: self.commit(place_themes(self.desk.study.structure.theme_end, deep)))
        self._only = Tick("Nothing else")
        self._only.chosen.connect(self._show_only)
        self._form = form(
            self._school,
            self._school_words,
            rule(),
            self._list,
            self._only,
            self._words,
            ("Ink", self._ink),
            ("Weight", self._weight),
            ("Lies", self._end),
            ("Nested", self._nested),
        )
        return self._form

    def refresh(self) -> None:
        study = self.desk.study
        self._school.show_value(study.school)
        self._school_words.setText(SCHOOL_WORDS[study.school])
        names = [titled(name) for name in CONSTRUCTION_NAMES]
        drawn = [name in study.armature for name in CONSTRUCTION_NAMES]
        self._list.show_names(names, CONSTRUCTION_NAMES.index(self._chosen), drawn)
        self._only.show_value(study.armature == (self._chosen,))
        self._words.setText(EXPLAINED[self._chosen])
        style = study.structure.style(self._chosen)
        self._ink.show_value(style.ink)
        self._weight.show_value(style.weight_mm)
        self._end.show_value(study.structure.theme_end)
        self._nested.show_value(study.structure.nested)
        for control, seen in ((self._end, self._chosen in PLACED), (self._nested, self._chosen in ROOTS)):
            self._form.layout().setRowVisible(control, seen)  # type: ignore[union-attr]

    def _choose_row(self, row: int) -> None:
        if row >= 0:
            self._chosen = CONSTRUCTION_NAMES[row]
            self.refresh()

    def _tick_row(self, row: int, on: bool) -> None:
        self._chosen = name = CONSTRUCTION_NAMES[row]
        rest = tuple(each for each in self.desk.study.armature if each != name)
        self.commit(choose_armature((*rest, name) if on else rest))

    def _show_only(self, on: bool) -> None:
        self.commit(choose_armature((self._chosen,) if on else ()))

    def _restyle(self, **changes: object) -> None:
        style = self.desk.study.structure.style(self._chosen)
        try:
            self.commit(style_construction(replace(style, **changes)))  # type: ignore[arg-type]
        except PlanError as error:
            self._weight.refuse(f"{error} It stays as it was.")

    def typed_value(self) -> None:  # type: ignore[override]
        return None
