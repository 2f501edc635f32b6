"""Readings when the hand rests: cards of the station in hand, headlines and warnings of all on the route."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from mild_compass.craft.stations import STATIONS, readings_of, silenced_at, station, summary
from mild_compass.plan.edits.logbook import acted_on
from mild_compass.plan.edits.viewfinder import let_speak, silence
from mild_compass.plan.study import Silenced
from mild_compass.plan.times import now

if TYPE_CHECKING:
    from mild_compass.craft.reading import Reading
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.stations import StationName
    from mild_compass.studio.derived.computed import Computed
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session
    from mild_compass.studio.window.readings_panel import ReadingsPanel
    from mild_compass.studio.window.route import Route

PAUSE_MS, REST_MS = 70, 10  # while the hand moves; when it rests
FINDING = "The masses are being found …"
Told = dict["StationName", tuple[str, "list[Reading]"]]


def _told_of(worked: Worked) -> Told:
    """What every station says; in a worker, for some of it takes a tenth of a second."""
    return {each.name: (each.headline(worked), readings_of(each.name, worked)) for each in STATIONS}


class Reader(QObject):
    """Reads the computed study, shows what it says, and makes the edits the cards offer."""

    read = Signal()
    said = Signal(str)

    def __init__(
        self,
        session: Session,
        computed: Computed,
        work: LatestWins,
        route: Route,
        panel: ReadingsPanel,
        parent: QObject,
    ) -> None:
        super().__init__(parent)
        self._session, self._computed, self._work, self._route, self._panel = session, computed, work, route, panel
        self.station: StationName = "references"
        self._told: Told = {}
        self._worked: Worked | None = None  # what was told of
        self._shown_at: StationName | None = None
        self._pause = QTimer(self, singleShot=True)
        self._pause.timeout.connect(self._read)
        session.replaced.connect(self._forget)
        panel.tried.connect(self._try)
        panel.silenced.connect(self._silence)
        panel.speak_again.connect(lambda: self._session.apply(let_speak(self.station)))

    @property
    def settled(self) -> bool:
        """Whether what is shown is what there is to say."""
        return not self._pause.isActive() and not self._work.busy("readings")

    def visit(self, name: StationName) -> None:
        """Go to a station: what is known of it is shown at once."""
        self.station = name
        self._ask_for_edges()
        if self._worked is not None and name in self._told:
            self._show(self._worked)

    def follow(self) -> None:
        """Read as soon as the hand rests; while it moves, now and then what this station says."""
        if not self._pause.isActive():
            self._pause.start(PAUSE_MS if self._session.in_gesture else REST_MS)

    def stop(self) -> None:
        """Read no more."""
        self._pause.stop()

    def _forget(self) -> None:
        self._told, self._worked = {}, None
        self._work.drop("readings")

    def _read(self) -> None:
        if self._session.in_gesture:
            self._work.drop("readings")
            if not self._computed.turns.run(self._read_here):
                self._pause.start(self._computed.turns.wait_ms)
            return
        self._ask_for_edges()
        told = self._worked is not None
        if told and station(self.station).needs_masses and self._computed.masses_on_their_way:
            return  # they send word when they are there; until then what is shown stays
        worked = self._computed.worked()
        if worked is None:
            self._forget()
            self._show_nothing()
            return
        self._work.latest(
            "readings",
            self._session.owner(),
            _told_of,
            worked,
            then=lambda told: self._take(worked, told),
            otherwise=lambda error: self.said.emit(str(error)),
        )

    def _ask_for_edges(self) -> None:
        """What is only needed at one station is worked out there: edges, the drawing's check, the working order."""
        if self.station == "values":
            _ = self._computed.measured_masses
        if self.station == "check":
            _ = self._computed.drawing_check
        if self.station == "logbook":
            _ = self._computed.measured_masses
            self._computed.work_order.look()

    def _read_here(self) -> None:
        """During a drag the other stations wait."""
        worked, here = self._computed.worked(), station(self.station)
        if worked is not None:
            self._told[here.name] = (here.headline(worked), readings_of(here.name, worked))
            self._show(worked)

    def _take(self, worked: Worked, told: Told) -> None:
        self._told, self._worked = told, worked
        self._show(worked)

    def _show_nothing(self) -> None:
        self.read.emit()
        self._shown_at = None
        self._route.show_state(self.station, {}, set())
        self._panel.show_readings([], "Add a photo, or begin with a blank sheet; its readings stand here.")

    def _show(self, worked: Worked) -> None:
        """The cards of this station, and all stations on the route."""
        self.read.emit()
        headlines = {name: headline for name, (headline, _) in self._told.items()}
        warned = {name for name, (_, rows) in self._told.items() if any(row.verdict == "act" for row in rows)}
        self._route.show_state(self.station, headlines, warned)
        self._show_cards(worked)

    def _show_cards(self, worked: Worked) -> None:
        here = station(self.station)
        waits = here.needs_masses and worked.has_picture and worked.masses is None
        looking = here.name == "check" and worked.plan.drawing is not None and worked.check is None
        if waits and self._computed.problem:
            self._panel.show_readings([], self._computed.problem)
        elif waits and self._shown_at != self.station:
            self._panel.show_readings([], FINDING)
        elif looking:
            problem = self._computed.checks.now.problem
            self._panel.show_readings([], problem or "The drawing is being looked at …")
        elif not waits:
            rows = self._told[self.station][1]
            words = here.without_photo if not worked.has_picture and here.without_photo else summary(rows)
            self._panel.show_readings(rows, words, silenced_at(self.station, worked))
        # While masses are made anew, the cards of the last ones stay.
        self._shown_at = self.station

    def _try(self, reading: Reading) -> None:
        self._panel.clear_place()
        remedy = reading.remedy
        if remedy is not None and self._session.apply(acted_on(remedy, self.station, reading.key, reading.text, now())):
            self.said.emit(f"Tried: {remedy.label}. Ctrl+Z takes it back.")

    def _silence(self, reading: Reading, reason: str) -> None:
        self._panel.clear_place()
        if self._session.apply(silence(Silenced(self.station, reading.key, reason), reading.label)):
            self.said.emit(f"“{reading.label}” is silent in this study. Ctrl+Z lets it speak again.")
