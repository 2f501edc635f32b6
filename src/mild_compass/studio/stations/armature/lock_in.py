"""Lock-in: the table of all armatures with the sceptics' number; tolerance; the nudge, with before and after."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.plan.edits.armature import choose_armature, set_tolerance
from mild_compass.plan.edits.viewfinder import move_frame
from mild_compass.plan.errors import PlanError
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import button, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.lock_table import LockTable


class LockInInstrument(Instrument):
    """Shows what locks onto which armature, and how well a random frame does."""

    name = "lock-in"
    words = "Lock-in"
    icon = "lock"
    tells = ("lock_in", "chance", "best_armature", "nudge")
    page = "lock-in"
    hint = (
        "Which big lines lie on which armature, and how often a random frame does as well. Enough lines fit anything."
    )

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._connected = False

    def options(self) -> QWidget:
        self._near = number_entry("Locks within, of the diagonal", "%")
        self._near.chosen.connect(lambda value: self._set(near=value))
        self._angle = number_entry("Locks within, degrees", "°")
        self._angle.chosen.connect(lambda value: self._set(angle=value))
        self._state = soft("")
        self._draw = button("Draw this armature", self._draw_chosen)
        self._nudge = button("Nudge the viewfinder", self._take_nudge, main=True)
        self._nudged = soft("")
        lines = button("Go to the big lines", lambda: self.desk.take_up("big lines"))
        return form(
            ("Within", self._near),
            ("Angle", self._angle),
            self._state,
            rule(),
            self._draw,
            self._nudge,
            self._nudged,
            rule(),
            lines,
        )

    @property
    def _page(self) -> LockTable:
        page: LockTable = self.desk.page("lock-in")  # type: ignore[assignment]
        if not self._connected:
            self._connected = True
            page.chosen_changed.connect(self.refresh)
            page.activated.connect(lambda _: self._draw_chosen())
        return page

    def refresh(self) -> None:
        structure, report = self.desk.study.structure, self.desk.computed.locks
        self._near.show_value(round(100 * structure.near_share, 2))
        self._angle.show_value(structure.angle_deg)
        box = self.desk.frame_map.box
        near = structure.near_share * (box.width**2 + box.height**2) ** 0.5
        self._state.setText(f"{self.desk.length(near)} on this sheet.")
        self._draw.setEnabled(self._page.chosen is not None)
        nudged = report.nudged if report else None
        self._nudge.setEnabled(nudged is not None)
        if nudged is not None:
            self._nudged.setText(f"{100 * nudged.before:.0f} % locked now, {100 * nudged.after:.0f} % after.")
        else:
            self._nudged.setText("No small shift locks more." if report and report.trials else "")

    def _set(self, near: float | None = None, angle: float | None = None) -> None:
        structure = self.desk.study.structure
        share = structure.near_share if near is None else near / 100
        lean = structure.angle_deg if angle is None else angle
        try:
            replace(structure, near_share=share, angle_deg=lean)  # refused here, its sentence stands by the field
        except PlanError as error:
            (self._near if angle is None else self._angle).refuse(f"{error} It stays as it was.")
            return
        self.commit(set_tolerance(share, lean))

    def _draw_chosen(self) -> None:
        chosen = self._page.chosen
        if chosen is not None:
            self.commit(choose_armature((chosen,)))

    def _take_nudge(self) -> None:
        report = self.desk.computed.locks
        if report is None or report.nudged is None:
            return
        before, after = 100 * report.nudged.before, 100 * report.nudged.after
        if self.commit(move_frame(report.nudged.frame)):
            self.desk.say(f"{after:.0f} % locked, before {before:.0f} %. Ctrl+Z takes it back.")
