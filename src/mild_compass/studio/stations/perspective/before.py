"""Outlines of what stands in the picture before the stage: things of the stage further away go behind them."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.plan.edits.stage import change_screen, next_screen, put_before, take_screen_away
from mild_compass.plan.errors import PlanError
from mild_compass.plan.stage import SIDE_M, Screen, Stage
from mild_compass.studio.board.marks import paint_word
from mild_compass.studio.board.strokes import cased_line, pen
from mild_compass.studio.stations.outlining import OutliningInstrument, points_of
from mild_compass.studio.widgets import Names, Sentence, button, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint
    from mild_compass.studio.desk import Desk

STEP_PX = 3.0
HANGING_M = 3.0  # where something stands whose foot does not tell it
NO_EYE = "This needs an eye level first: set the horizon, or trace edges."


class BeforeInstrument(OutliningInstrument):
    """Draw round something; how far off it stands is told by its foot, and may be said otherwise."""

    name = "before"
    words = "Stands in front"
    icon = "before"
    hint = "Draw round something in the picture. Things of the stage that stand further away go behind it."

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._chosen = ""

    def options(self) -> QWidget:
        self._told = soft("")
        self._list = Names("What stands in front", 4)
        self._list.chosen.connect(self._choose_row)
        self._name = Sentence("What it is")
        self._name.chosen.connect(lambda name: self._change(name=name[:60]))
        self._away = number_entry("How far off it stands, straight ahead", "m")
        self._away.chosen.connect(self._set_away)
        self._remove = button("Take it away", self.delete)
        self._of_chosen = form(("It is", self._name), ("Stands", self._away), self._remove)
        return form(self._told, rule(), self._list, self._of_chosen)

    @property
    def _stage(self) -> Stage:
        return self.desk.study.stage or Stage()

    @property
    def _screen(self) -> Screen | None:
        return next((each for each in self._stage.screens if each.id == self._chosen), None)

    def refresh(self) -> None:
        screens = self._stage.screens
        if self._chosen not in [each.id for each in screens]:
            self._chosen = screens[-1].id if screens else ""
        self._told.setText(self._lacking())
        self._told.setVisible(bool(self._told.text()))
        row = next((k for k, each in enumerate(screens) if each.id == self._chosen), -1)
        self._list.show_names([f"{_words(each)}, {each.away_m:.1f} m off" for each in screens], row)
        self._list.setVisible(bool(screens))
        self._of_chosen.setVisible(bool(screens))
        if self._screen is not None:
            self._name.show_value(self._screen.name)
            self._away.show_value(round(self._screen.away_m, 2))

    def _lacking(self) -> str:
        worked = self.desk.computed.perspective()
        if worked is None or worked.camera is None:
            return NO_EYE
        return "" if self._stage.things else "Nothing is on the stage yet. Set something down with Stage."

    def _choose_row(self, row: int) -> None:
        if 0 <= row < len(self._stage.screens):
            self._chosen = self._stage.screens[row].id
            self.refresh()
            self.desk.board.update()

    def _change(self, **changes: object) -> None:
        if self._screen is not None:
            self.commit(change_screen(self._chosen, **changes))

    def _set_away(self, away_m: float) -> None:
        if not SIDE_M[0] <= away_m <= SIDE_M[1]:
            self._away.refuse(f"Between {SIDE_M[0]:g} and {SIDE_M[1]:g} m. It stays as it was.")
            return
        self._change(away_m=away_m)

    # -- on the board -----------------------------------------------------------------------------------------

    def clicked(self, at: BoardPoint) -> None:
        hit = [
            each
            for each in self._stage.screens
            if shapely.contains_xy(shapely.make_valid(shapely.Polygon(each.points)), *at.photo_px)
        ]
        if hit:
            self._chosen = hit[-1].id
            self.refresh()
            self.desk.board.update()
        else:
            self.desk.say(self.hint)

    def drawn(self, trail: list[BoardPoint]) -> None:
        from mild_compass.craft.stage.screens import away_of

        worked = self.desk.computed.perspective()
        if worked is None or worked.camera is None:
            self.desk.say(NO_EYE)
            return
        points = points_of(trail)
        away = away_of(np.array(points), worked.camera)
        try:
            made = Screen(next_screen(self._stage), points, min(away or HANGING_M, SIDE_M[1]))
        except PlanError as error:
            self.desk.say(str(error))
            return
        if not self.commit(put_before(made)):
            return
        self._chosen = made.id
        self.refresh()
        by = "by its foot" if away else "as its foot does not tell: say how far it is"
        self.desk.say(f"It stands {made.away_m:.1f} m off, {by}. What is further away goes behind it.")
        self._name.line.setFocus()

    def delete(self) -> None:
        if self._screen is not None:
            self.commit(take_screen_away(self._chosen))

    def typed_value(self) -> str | None:
        return f"{self._screen.away_m:.2f} m" if self._screen is not None else None

    def set_typed(self, text: str) -> bool:
        return self.accepted(self._away.type_in(text))

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        for each in self._stage.screens:
            spots = np.asarray(photo.to_widget([*each.points, each.points[0]]))
            chosen = each.id == self._chosen
            cased_line(painter, spots, pen("subject", 1.8 if chosen else 1.0, "solid" if chosen else "dashed"))
            if chosen:
                left, top = spots[spots[:, 1].argmin()].tolist()
                paint_word(painter, f"{_words(each)}, {each.away_m:.1f} m off", left + 6, top - 8)
        self.paint_trail(painter, photo)


def _words(screen: Screen) -> str:
    return screen.name or "an outline"
