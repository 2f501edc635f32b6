"""The ground plan: the scene from above, and where the artist stands in it."""

from __future__ import annotations

from typing import TYPE_CHECKING, cast

from mild_compass.plan.edits.stage import raise_eye, widen
from mild_compass.plan.edits.studies import duplicate_study
from mild_compass.plan.errors import PlanError
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.stations.perspective.stage_options import ThingOptions
from mild_compass.studio.widgets import button, form, number_entry, rule

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.plan.edits.base import Edit
    from mild_compass.studio.pages.ground_plan import GroundPlan
    from mild_compass.studio.widgets import Entry

EYES = (("Sit", 1.2), ("Stand", 1.6), ("First floor", 4.5))


class GroundPlanInstrument(Instrument):
    """Things and the eye are moved on the plan; the drawing beside it follows."""

    name = "ground plan"
    words = "Ground plan"
    icon = "ground"
    tells = ("stretched", "overlaps", "out_of_sight")
    hint = "Drag things and yourself; the round knobs turn. Click an empty place to set a thing down."
    page = "ground plan"

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._things = ThingOptions(desk, self.commit)
        self._linked = False

    @property
    def plan_page(self) -> GroundPlan:
        """The page, which tells what is taken in hand on it and where a thing is to be set down."""
        page = cast("GroundPlan", self.desk.page("ground plan"))
        if not self._linked:
            self._linked = True
            self._things.taken = page.show_chosen
            page.taken.connect(self._things.choose)
            page.pressed_empty.connect(self._things.set_down)
            page.removed.connect(self._things.take_away)
        return page

    def options(self) -> QWidget:
        self._eye = number_entry("Height of your eye", "m")
        self._eye.chosen.connect(lambda value: self._try(self._eye, raise_eye(value)))
        self._view = number_entry("How wide the view is across the picture", "°")
        self._view.chosen.connect(lambda value: self._try(self._view, widen(value)))
        self._heading = number_entry("Which way you look, clockwise off straight up the plan", "°")
        self._heading.chosen.connect(self._turn)
        eyes = [self._eye_at(words, eye_m) for words, eye_m in EYES]
        keep = button("Keep this view as a study", self._keep)
        return form(
            *self._things.rows(),
            rule(),
            ("Your eye", self._eye),
            (eyes[0], eyes[1]),
            eyes[2],
            ("View", self._view),
            ("Looking", self._heading),
            keep,
        )

    def refresh(self) -> None:
        study = self.desk.study
        self._things.refresh()
        self._eye.show_value(round(study.perspective.eye_m, 3))
        self._view.show_value(round(self.plan_page.view_deg, 1))
        self._heading.show_value(round(self._things.stage.heading_deg, 1))
        self.plan_page.show_chosen(self._things.chosen)

    def _eye_at(self, words: str, eye_m: float) -> QWidget:
        return button(f"{words} {eye_m:g} m", lambda: self.commit(raise_eye(eye_m)))

    def _turn(self, value: float) -> None:
        from mild_compass.craft.stage.standing import stood_at

        stage = self._things.stage
        self.commit(stood_at(self.desk.study, self.desk.ground, stage.eye_x_m, stage.eye_y_m, value))

    def _try(self, entry: Entry, edit: Edit) -> None:
        """Send an edit that may be out of its bounds; the field says so then."""
        try:
            edit.change(self.desk.plan)
        except PlanError as error:
            entry.refuse(f"{error} It stays as it was.")
            return
        self.commit(edit)

    def _keep(self) -> None:
        self.commit(duplicate_study(self.desk.study.id))

    def delete(self) -> None:
        self._things.take_away()
