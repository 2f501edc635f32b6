"""Several studies or photos under one armature, as when the best of twenty frames is chosen."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.plan.edits.references import use_reference
from mild_compass.plan.edits.studies import choose_study
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Tick, form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.one_armature import OneArmature

SHOWN = [("studies", "studies"), ("kept photos", "photos"), ("all photos", "all photos")]


class OneArmatureInstrument(Instrument):
    """Lays the drawn armature over all of them, with what locks and how likely that is by chance."""

    name = "one armature"
    words = "Compare under it"
    icon = "wall"
    tells = ("lock_in", "chance", "best_armature", "ratio", "nearest_ratio")
    needs = "a photo"
    page = "one armature"
    hint = "The armature that is drawn, laid over every study or photo. Big lines are found where none are traced."

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._connected = False

    def options(self) -> QWidget:
        self._what = Choice(SHOWN, "What is compared")
        self._what.chosen.connect(lambda what: self._page.look(what=what))
        self._values = Tick("Values only")
        self._values.chosen.connect(lambda on: self._page.look(values_only=on))
        return form(("Over", self._what), self._values, soft("Double click works on a study or from a photo."))

    @property
    def _page(self) -> OneArmature:
        page: OneArmature = self.desk.page("one armature")  # type: ignore[assignment]
        if not self._connected:
            self._connected = True
            page.activated.connect(self._work_on)
        return page

    def refresh(self) -> None:
        self._what.show_value(self._page.what)

    def _work_on(self, key: str) -> None:
        self.commit(choose_study(key) if self._page.what == "studies" else use_reference(key))
        self.desk.take_up("constructions")
