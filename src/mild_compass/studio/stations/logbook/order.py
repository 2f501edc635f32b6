"""The working order: conditions, sittings, a step's own time; its print; and the way to the easel."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from mild_compass.plan.edits.work import change_step, change_work
from mild_compass.plan.errors import PlanError
from mild_compass.plan.work import HAND_WEIGHTS, SUPPORTS, WEATHERS, WETNESSES, WorkPlan
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Entry, Sentence, Tick, button, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.working_order import WorkingOrderPage

WET_WORDS = {"sparing": "laid sparingly", "usual": "as usual", "flooded": "flooded"}
HAND_WORDS = {"light": "a light hand", "usual": "a usual hand", "heavy": "a heavy hand"}
GIVEN = "Times and drying are common practice; after three of a kind at the easel your own take their place."


class OrderInstrument(Instrument):
    """The page in the middle shows the steps; one of them is chosen there and changed here."""

    name = "order"
    words = "Working order"
    icon = "steps"
    tells = ("work", "over", "light")
    page = "working order"
    hint = "What is done after what, how long it takes, what dries meanwhile, and where a sitting may end."

    def options(self) -> QWidget:
        self._easel = button("Go to the easel", self.desk.go_to_easel, main=True)
        self._support = Choice([(word, word) for word in SUPPORTS], "What is worked on")
        self._weather = Choice([(word, word) for word in WEATHERS], "Weather")
        self._wetness = Choice([(WET_WORDS[word], word) for word in WETNESSES], "How wet")
        self._hand = Choice([(HAND_WORDS[word], word) for word in HAND_WEIGHTS], "How heavily you draw")
        self._sitting = number_entry("Length of a sitting", "min")
        self._start = Entry("Beginning of a sitting", str.strip, str)
        self._light = Entry("Light on the motif until", str.strip, str)
        self._light.line.setPlaceholderText("indoors")
        self._materials = Sentence("Own materials")
        for control, field in (
            *((self._support, "support"), (self._weather, "weather"), (self._wetness, "wetness"), (self._hand, "hand")),
            *((self._sitting, "sitting_min"), (self._start, "start"), (self._light, "light_until")),
        ):
            control.chosen.connect(lambda value, field=field, control=control: self._send(control, field, value))
        self._materials.chosen.connect(self._set_materials)
        self._lay_out_step()
        self._page.chosen.connect(self.refresh)
        return form(
            self._easel, ("Sittings of", self._sitting), ("From", self._start), ("Light until", self._light),
            rule(), self._step_title, self._step, rule(),
            ("On", self._support), ("Weather", self._weather), ("Water", self._wetness), ("Hand", self._hand),
            ("Own materials, by commas", self._materials), rule(),
            button("Save as PDF…", self.desk.files.exports.choose_working_order), soft(GIVEN),
        )  # fmt: skip

    def _lay_out_step(self) -> None:
        self._step_title = soft("")
        self._minutes = number_entry("Minutes for this step", "min")
        self._drying = number_entry("Minutes it dries", "min")
        self._minutes.chosen.connect(lambda value: self._change(self._minutes, minutes=value))
        self._drying.chosen.connect(lambda value: self._change(self._drying, drying_min=value))
        self._out = Tick("Leave it out")
        self._out.chosen.connect(self._leave_out)
        self._back = button("All steps as given", self._as_given)
        self._step = form(("Takes", self._minutes), ("Dries", self._drying), self._out, self._back)

    @property
    def _page(self) -> WorkingOrderPage:
        return self.desk.page("working order")  # type: ignore[return-value]

    def refresh(self) -> None:
        work, page = self.desk.plan.work, self._page
        page.refresh()
        for choice, value in (
            *((self._support, work.support), (self._weather, work.weather), (self._wetness, work.wetness)),
            *((self._hand, work.hand), (self._sitting, work.sitting_min), (self._start, work.start)),
            *((self._light, work.light_until), (self._materials, ", ".join(work.materials))),
        ):
            choice.show_value(value)
        step = page.chosen_step
        self._easel.setEnabled(page.order is not None)
        self._back.setVisible(bool(work.changes))
        for control in (self._minutes, self._drying, self._out):
            control.setEnabled(step is not None)
        self._step_title.setText(f"{step.title}:" if step is not None else "Choose a step to set its time.")
        if step is not None:
            self._minutes.show_value(round(step.minutes))
            self._drying.show_value(round(step.drying_min))
            self._out.show_value(False)

    def _send(self, control: Choice | Entry, field: str, value: Any) -> None:
        try:
            changed: WorkPlan = replace(self.desk.plan.work, **{field: value})
        except PlanError as error:
            if isinstance(control, Entry):
                control.refuse(str(error))
            else:
                self.desk.say(str(error))
            return
        self.commit(change_work(changed))

    def _set_materials(self, words: str) -> None:
        found = tuple(dict.fromkeys(part.strip() for part in words.split(",") if part.strip()))
        self.commit(change_work(replace(self.desk.plan.work, materials=found)))

    def _change(self, control: Entry, **values: Any) -> None:
        step = self._page.chosen_step
        if step is None:
            return
        try:
            change = replace(self.desk.plan.work.change_of(step.key), **values)
        except PlanError as error:
            control.refuse(str(error))
            return
        self.commit(change_step(change))

    def _leave_out(self, on: bool) -> None:
        step = self._page.chosen_step
        if step is not None and on:
            self.commit(change_step(replace(self.desk.plan.work.change_of(step.key), left_out=True)))

    def _as_given(self) -> None:
        self.commit(change_work(replace(self.desk.plan.work, changes=())))
