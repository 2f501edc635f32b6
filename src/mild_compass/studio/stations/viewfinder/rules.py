"""Whose eye judges: the school, and the thresholds of the readings."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.viewfinder.rules import ADJUSTABLE, SCHOOL_WORDS, rules_of
from mild_compass.plan.edits.viewfinder import choose_school, school_rules, set_rule
from mild_compass.plan.study import SCHOOLS
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Entry, button, form, number_entry, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

SIGNS = {"%": "%", "L*": "L*", "times": "×"}
PER_CENT = 100.0


class RulesInstrument(Instrument):
    """Chooses the school and sets thresholds."""

    name = "rules"
    words = "School and rules"
    icon = "rules"
    tells = ("placement", "balance", "asymmetry")
    hint = "Choose whose eye judges, and how strictly. Only the readings change, never the picture."

    def options(self) -> QWidget:
        self._school = Choice([(name.capitalize(), name) for name in SCHOOLS], "School")
        self._school.chosen.connect(lambda school: self.commit(choose_school(school)))
        self._words = soft("")
        self._entries: dict[str, Entry] = {}
        for name, (words, measure) in ADJUSTABLE.items():
            entry = self._entries[name] = number_entry(words, SIGNS[measure])
            entry.chosen.connect(lambda value, name=name: self._set(name, value))
        self._own = button(
            "Take the school's own", lambda: self.commit(school_rules()), tip="Forget the thresholds set by hand"
        )
        rows = [(ADJUSTABLE[name][0], entry) for name, entry in self._entries.items()]
        return form(self._school, self._words, *rows, self._own)

    def refresh(self) -> None:
        study = self.desk.study
        rules = rules_of(study)
        self._school.show_value(study.school)
        self._words.setText(SCHOOL_WORDS[study.school])
        for name, entry in self._entries.items():
            entry.show_value(round(getattr(rules, name) * self._factor(name), 3))
        self._own.setEnabled(bool(study.rules))

    def _factor(self, name: str) -> float:
        return PER_CENT if ADJUSTABLE[name][1] == "%" else 1.0

    def _set(self, name: str, value: float) -> None:
        if not 0 <= value <= (PER_CENT if ADJUSTABLE[name][1] != "times" else 10):
            self._entries[name].refuse("That is out of range. The threshold stays as it was.")
            return
        self.commit(set_rule(name, value / self._factor(name)))
