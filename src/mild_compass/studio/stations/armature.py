"""Instruments of the armature: which constructions are drawn."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.armature.constructions import CONSTRUCTIONS
from mild_compass.plan.edits.armature import CONSTRUCTION_WORDS, choose_armature
from mild_compass.studio.stations.instrument import Desk, Instrument
from mild_compass.studio.stations.viewfinder.frame import FrameInstrument
from mild_compass.studio.widgets import Tick, form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.plan.model import Construction

EXPLAINED: dict[Construction, str] = {
    "fourteen": "Corners to corners and to the middles of the far sides, and the middles joined.",
    "diagonals": "From corner to corner.",
    "thirds": "Two lines each way.",
    "quarters": "Halved, and halved again.",
}


class ConstructionsInstrument(FrameInstrument):
    """Chooses the constructions; on the board the frame can be moved under them."""

    name = "constructions"
    words = "Constructions"
    icon = "armature"
    hint = "Tick what is drawn inside the frame. Drag the frame to try how the picture sits in it."

    def options(self) -> QWidget:
        self._ticks = {name: Tick(CONSTRUCTION_WORDS[name].capitalize()) for name in CONSTRUCTIONS}
        rows: list[QWidget] = []
        for name, tick in self._ticks.items():
            tick.chosen.connect(lambda on, name=name: self._choose(name, on))
            tick.setToolTip(EXPLAINED[name])
            rows += [tick, soft(EXPLAINED[name])]
        return form(*rows)

    def refresh(self) -> None:
        for name, tick in self._ticks.items():
            tick.show_value(name in self.desk.study.armature)

    def _choose(self, name: Construction, on: bool) -> None:
        rest = tuple(each for each in self.desk.study.armature if each != name)
        self.commit(choose_armature((*rest, name) if on else rest))

    def typed_value(self) -> None:  # type: ignore[override]
        return None


def instruments(desk: Desk) -> list[Instrument]:
    """The instruments of this station."""
    return [Instrument(desk), ConstructionsInstrument(desk)]
