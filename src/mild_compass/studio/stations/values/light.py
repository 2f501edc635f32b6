"""Light changes: areas darkened or lightened, contrast taken away or given, gradations; planned departures all."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.values.corners import corner_gradations
from mild_compass.plan.edits.departures import add_departures
from mild_compass.studio.stations.values.seen import seen_choice
from mild_compass.studio.stations.viewfinder.changes import ChangesInstrument
from mild_compass.studio.widgets import button, form

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.plan.departure_kinds import DepartureKind


class LightInstrument(ChangesInstrument):
    """Draws soft areas and gradations; masses and reads follow, and the photo as it was stays beside."""

    name = "light"
    words = "Light changes"
    icon = "gradation"
    tells = ("light",)
    needs = "a photo"
    hint = "You are in charge of the light: knock a competitor down, let a beam fall, darken the corners."
    fill = "values"
    beside_before = True
    kinds: tuple[tuple[str, DepartureKind], ...] = (
        ("darken", "darken"),
        ("lighten", "lighten"),
        ("less contrast", "less contrast"),
        ("more contrast", "more contrast"),
        ("gradation", "gradation"),
    )

    def options(self) -> QWidget:
        drawn = super().options()
        self._seen = seen_choice(self.desk, [("Values only", "values"), ("Colour", "colour"), ("Masses", "masses")])
        corners = button("Darken the corners", self._darken_corners, tip="Four gradations toward the corners")
        return form(("Board shows", self._seen), corners, drawn)

    def refresh(self) -> None:
        super().refresh()
        self._seen.show_value(self.desk.board.fill)

    def _darken_corners(self) -> None:
        self.commit(add_departures(corner_gradations(self.desk.plan)))
