"""The plan of work for the medium: steps, shares, paper tone, warnings, cautions; and its printed sheets."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from mild_compass.craft.cautions import cautions_for
from mild_compass.craft.values.scale import STRIP_STEPS, strip_values
from mild_compass.plan.edits.values import change_medium
from mild_compass.plan.errors import PlanError
from mild_compass.plan.tones import MEDIA, Medium
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Tick, button, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.medium import MediumPage

WORDS: dict[Medium, str] = {
    "toned paper": "toned paper",
    "charcoal": "charcoal, lifted",
    "washes": "transparent washes",
    "opaque": "opaque paint",
    "hatching": "graphite, hatching",
}


class MediumInstrument(Instrument):
    """Chooses the way of working; the page in the middle shows the steps."""

    name = "medium"
    words = "Way of working"
    icon = "brush"
    needs = "a photo"
    page = "medium"
    hint = "What the ground does and what the hand does, in order, and how much of the sheet each step covers."

    def options(self) -> QWidget:
        self._medium = Choice([(WORDS[medium], medium) for medium in MEDIA], "Way of working")
        self._medium.chosen.connect(lambda medium: self._send(medium=medium))
        self._best = Tick("The paper that does most")
        self._best.chosen.connect(self._choose_best)
        self._paper = number_entry("Value of the paper", "L*")
        self._paper.chosen.connect(lambda value: self._try(self._paper, paper_value=value))
        self._tolerance = number_entry("How far off still counts as the paper's", "L*")
        self._tolerance.chosen.connect(lambda value: self._try(self._tolerance, tolerance=value))
        self._toned = form(self._best, ("Paper", self._paper), ("Within", self._tolerance))
        self._steps = number_entry("Steps of the printed value scale", "steps")
        self._steps.chosen.connect(self._steps.show_value)
        self._steps.show_value(STRIP_STEPS)
        self._cautions = soft("")
        self._page.followed.connect(self.refresh)
        files = self.desk.files
        return form(
            self._medium,
            self._toned,
            button("Save the steps as PDF…", files.exports.choose_medium, main=True),
            rule(),
            ("Scale of", self._steps),
            button("Save a value scale…", self._save_strip, tip="Patches with their L*, to match with"),
            rule(),
            self._cautions,
        )

    @property
    def _page(self) -> MediumPage:
        return self.desk.page("medium")  # type: ignore[return-value]

    def refresh(self) -> None:
        plan, page = self.desk.study.medium, self._page
        page.refresh()
        self._medium.show_value(plan.medium)
        self._toned.setVisible(plan.medium == "toned paper")
        self._best.show_value(plan.paper_value is None)
        value = plan.paper_value if plan.paper_value is not None else (page.work.paper_value if page.work else 0.0)
        self._paper.show_value(round(value, 1))
        self._paper.setEnabled(plan.paper_value is not None)
        self._tolerance.show_value(plan.tolerance)
        self._cautions.setText("\n".join(cautions_for(plan.medium)))

    def _save_strip(self) -> None:
        try:
            steps = round(float(self._steps.line.text().replace("steps", "")))
            strip_values(steps)
        except (ValueError, OverflowError):
            self._steps.refuse("That is not a number of steps.")
        except PlanError as error:
            self._steps.refuse(str(error))
        else:
            self.desk.files.exports.choose_value_strip(steps)

    def _choose_best(self, on: bool) -> None:
        work = self._page.work
        self._send(paper_value=None if on or work is None else round(work.paper_value, 1))

    def _try(self, entry: Any, **changes: Any) -> None:
        try:
            self._send(**changes)
        except PlanError as error:
            entry.refuse(f"{error} It stays as it was.")

    def _send(self, **changes: Any) -> None:
        self.commit(change_medium(replace(self.desk.study.medium, **changes)))
