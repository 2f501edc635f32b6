"""Lending an element: cut it out of another photo by its outline."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.plan.edits.departures import add_departure, next_id
from mild_compass.plan.edits.stage import next_mark, set_down
from mild_compass.plan.errors import PlanError
from mild_compass.plan.pictures import Point
from mild_compass.plan.stage import SIDE_M, Stage, new_thing, row_of
from mild_compass.plan.study import Departure
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Entry, Tick, form, number_entry, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.cut_out import CutOutPage

AHEAD_M = 6.0
USUAL_HEIGHT = 1 / 3  # of the frame, where no ring tells how large the subject is


class CutOutInstrument(Instrument):
    """Draws an outline on the chosen photo; what is inside comes into the study as a planned change."""

    name = "cut out"
    words = "Lend an element"
    icon = "cut"
    page = "cut out"
    hint = "Draw round a better figure in another photo; it is placed into the study and can be moved and sized there."

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._connected = False
        self._tall_m = row_of("cut-out").height_m

    def options(self) -> QWidget:
        self._name = Entry("What it is", lambda text: text.strip()[:40], str)
        self._name.show_value("figure")
        self._name.chosen.connect(lambda name: self._name.show_value(name))
        self._source = Choice([], "Photo to cut from")
        self._source.chosen.connect(lambda reference_id: self._page.cut_from(reference_id))
        self._onto = Tick("Stand it on the stage")
        self._onto.chosen.connect(lambda _: self.refresh())
        self._tall = number_entry("How tall it is in the scene", "m")
        self._tall.show_value(self._tall_m)
        self._tall.chosen.connect(self._set_tall)
        return form(soft("From"), self._source, ("It is a", self._name), self._onto, ("Tall", self._tall))

    @property
    def _page(self) -> CutOutPage:
        page: CutOutPage = self.desk.page("cut out")  # type: ignore[assignment]
        if not self._connected:
            self._connected = True
            page.outlined.connect(self._place)
        return page

    def refresh(self) -> None:
        photo = self._page.photo
        self._source.set_items([(each.name, each.id) for each in self.desk.plan.references])
        self._source.show_value(photo.id if photo else None)
        on_photo = self.desk.ground.is_photo
        self._onto.setEnabled(on_photo)
        if not on_photo:
            self._onto.show_value(True)
        self._tall.setEnabled(self._onto.isChecked())

    def _set_tall(self, value: float) -> None:
        if not SIDE_M[0] <= value <= SIDE_M[1]:
            self._tall.refuse(f"Between {SIDE_M[0]:g} and {SIDE_M[1]:g} m. It stays as it was.")
            return
        self._tall_m = value
        self._tall.show_value(value)

    def _place(self, reference_id: str, outline: tuple[Point, ...]) -> None:
        """Put it in the middle of the frame, as tall as the ringed subject or a third of the frame."""
        study = self.desk.study
        if self._onto.isChecked():
            self._stand_up(reference_id, outline)
            return
        ys = [y for _, y in outline]
        tall = max(max(ys) - min(ys), 1e-6)
        wanted = 2 * study.rings[0].radius_y_px if study.rings else USUAL_HEIGHT * study.frame.height_px
        x, y = study.frame.middle
        try:
            made = Departure(
                next_id(self.desk.plan),
                "borrow",
                outline,
                self._name.line.text().strip(),
                source=reference_id,
                x_px=x,
                y_px=y,
                size=wanted / tall,
            )
        except PlanError as error:
            self.desk.say(str(error))
            return
        if self.commit(add_departure(made)):
            self.desk.go_to("viewfinder", "changes")
            self.desk.say("Placed in the middle of the frame. Drag it where it should stand.")

    def _stand_up(self, reference_id: str, outline: tuple[Point, ...]) -> None:
        """Put it on the stage, upright on its feet, ahead of the artist and as tall as it is said to be."""
        from mild_compass.craft.stage.scene import on_plan  # not with the first window, which does without numbers

        stage = self.desk.study.stage or Stage()
        x, y = on_plan(stage, [[0.0, AHEAD_M]])[0].tolist()
        try:
            made = new_thing(
                "cut-out",
                next_mark(stage),
                round(x, 2),
                round(y, 2),
                name=self._name.line.text().strip(),
                source=reference_id,
                points=outline,
                height_m=self._tall_m,
                turn_deg=round(stage.heading_deg, 1),
            )
        except PlanError as error:
            self.desk.say(str(error))
            return
        if self.commit(set_down(made)):
            self.desk.go_to("perspective", "stage")
            self.desk.say("It stands ahead of you on the stage. Drag it where it should stand.")
