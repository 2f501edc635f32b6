"""How to draw the scene on the stage: numbered steps with every mark in mm."""

from __future__ import annotations

from typing import TYPE_CHECKING, cast

from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, button, form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.craft.stage.how_to_draw import Way
    from mild_compass.studio.pages.scene_steps import SceneSteps

WAYS: list[tuple[str, Way]] = [("points on a board", "points"), ("marks on the frame", "edge marks")]
ABOUT: dict[Way, str] = {
    "points": "The points lie on the horizon, on a board large enough or on paper taped on at the sides.",
    "edge marks": "No point is needed: each line goes through its corner and a mark on the frame's edge.",
}


class SceneStepsInstrument(Instrument):
    """The steps on screen and as PDF, in either of two ways."""

    name = "scene steps"
    words = "How to draw it"
    icon = "compass"
    hint = "The scene on the stage, step by step, with ruler and pencil."
    page = "scene steps"

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)

    @property
    def _page(self) -> SceneSteps:
        return cast("SceneSteps", self.desk.page("scene steps"))

    def options(self) -> QWidget:
        self._way = Choice(WAYS, "How lines are led to their points")
        self._way.chosen.connect(self._choose)
        self._about = soft("")
        self._save = button(
            "Save the steps as PDF…", lambda: self.desk.files.exports.choose_scene_steps(self._page.steps), main=True
        )
        return form(("With", self._way), self._about, self._save)

    def refresh(self) -> None:
        self._about.setText(ABOUT[self._way.value])
        self._page.refresh()
        self._save.setEnabled(bool(self._page.steps))

    def _choose(self, way: Way) -> None:
        self._page.show_way(way)
        self.refresh()
