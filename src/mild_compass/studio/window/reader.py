"""Readings when the hand rests: cards of the station in hand, headlines and warnings of all on the route."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from mild_compass.craft.stations import STATIONS, readings_of, silenced_at, station, summary
from mild_compass.plan.edits.viewfinder import let_speak, silence
from mild_compass.plan.model import Silenced

if TYPE_CHECKING:
    from mild_compass.craft.reading import Reading
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.model import StationName
    from mild_compass.studio.derived.computed import Computed
    from mild_compass.studio.session import Session
    from mild_compass.studio.window.readings_panel import ReadingsPanel
    from mild_compass.studio.window.route import Route

PAUSE_MS = 70


class Reader(QObject):
    """Reads the computed study, shows what it says, and makes the edits the cards offer."""

    read = Signal()
    said = Signal(str)

    def __init__(
        self, session: Session, computed: Computed, route: Route, panel: ReadingsPanel, parent: QObject
    ) -> None:
        super().__init__(parent)
        self._session, self._computed, self._route, self._panel = session, computed, route, panel
        self.station: StationName = "references"
        self._told: dict[StationName, tuple[str, list[Reading]]] = {}
        self._shown_at: StationName | None = None
        self._pause = QTimer(self, singleShot=True, interval=PAUSE_MS)
        self._pause.timeout.connect(self._read)
        session.replaced.connect(self._told.clear)
        panel.tried.connect(self._try)
        panel.silenced.connect(self._silence)
        panel.speak_again.connect(lambda: self._session.apply(let_speak(self.station)))

    @property
    def settled(self) -> bool:
        """Whether what is shown is what there is to say."""
        return not self._pause.isActive()

    def follow(self) -> None:
        """Read as soon as the hand rests."""
        if not self._pause.isActive():
            self._pause.start(PAUSE_MS)

    def stop(self) -> None:
        """Read no more."""
        self._pause.stop()

    def _read(self) -> None:
        turns = self._computed.turns
        if not turns.run(self._show):
            self._pause.start(turns.wait_ms)

    def _show(self) -> None:
        """Readings of this station, and the route; during a drag the other stations wait."""
        worked = self._computed.worked()
        self.read.emit()
        if worked is None:
            self._told.clear()
            self._shown_at = None
            self._route.show_state(self.station, {}, set())
            self._panel.show_readings([], "Add a photo, or begin with a blank sheet; its readings stand here.")
            return
        for each in STATIONS:
            if each.name == self.station or not self._session.in_gesture:
                self._told[each.name] = (each.headline(worked), readings_of(each.name, worked))
        headlines = {name: headline for name, (headline, _) in self._told.items()}
        warned = {name for name, (_, rows) in self._told.items() if any(row.verdict == "act" for row in rows)}
        self._route.show_state(self.station, headlines, warned)
        self._show_cards(worked)

    def _show_cards(self, worked: Worked) -> None:
        here = station(self.station)
        waits = here.needs_masses and worked.ground.is_photo and worked.masses is None
        if waits and self._computed.problem:
            self._panel.show_readings([], self._computed.problem)
        elif waits and self._shown_at != self.station:
            self._panel.show_readings([], "The masses are being found …")
        elif not waits:
            rows = self._told[self.station][1]
            words = here.without_photo if not worked.ground.is_photo and here.without_photo else summary(rows)
            self._panel.show_readings(rows, words, silenced_at(self.station, worked))
        # While masses are made anew, the cards of the last ones stay.
        self._shown_at = self.station

    def _try(self, edit: Edit) -> None:
        self._panel.clear_place()
        if self._session.apply(edit):
            self.said.emit(f"Tried: {edit.label}. Ctrl+Z takes it back.")

    def _silence(self, reading: Reading, reason: str) -> None:
        self._panel.clear_place()
        if self._session.apply(silence(Silenced(self.station, reading.key, reason), reading.label)):
            self.said.emit(f"“{reading.label}” is silent in this study. Ctrl+Z lets it speak again.")
