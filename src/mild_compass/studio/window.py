"""The window: header, route, bench, board, companion, readings, margin line, and what happens between them."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtWidgets import QHBoxLayout, QInputDialog, QMainWindow, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from mild_compass.craft.stations import STATIONS, readings_of, silenced_at, station, summary
from mild_compass.plan.edits.logbook import add_note
from mild_compass.plan.edits.studies import choose_study, delete_study, keep_study, neighbour, rename_plan, rename_study
from mild_compass.plan.edits.viewfinder import let_speak, silence
from mild_compass.plan.model import Silenced
from mild_compass.studio.bench import Bench
from mild_compass.studio.computed import Computed
from mild_compass.studio.files import SUFFIX, Files
from mild_compass.studio.header import Header
from mild_compass.studio.keyboard import Keyboard, window_actions
from mild_compass.studio.margin_line import MarginLine
from mild_compass.studio.notice import Notice
from mild_compass.studio.pages.contact_sheet import ContactSheet
from mild_compass.studio.pages.rows import PictureRows
from mild_compass.studio.readings_panel import ReadingsPanel
from mild_compass.studio.route import Route
from mild_compass.studio.session import Session, now
from mild_compass.studio.stations.instrument import Desk, Instrument
from mild_compass.studio.stations.table import Page, station_view
from mild_compass.studio.theme.palette import SURROUNDS, Palette
from mild_compass.studio.work import Work

if TYPE_CHECKING:
    from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QResizeEvent

    from mild_compass.craft.reading import Place, Reading
    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.model import StationName
    from mild_compass.studio.board.board import Board
    from mild_compass.studio.board.pair import BoardPair
    from mild_compass.studio.board.view import Hold
    from mild_compass.studio.companion import Companion
    from mild_compass.studio.preferences import Preferences

READINGS_PAUSE_MS, TURN_MS = 70, 20
SIDE_WIDTH = 276
PLAN_MENU = (
    *("new", "open", "save", "save as", ""),
    *("add photos", "add folder", "paste", "", "print", "pdf", "logbook", ""),
    *("rename plan", "preferences", "keys", "", "quit"),
)
STUDY_MENU = ("keep study", "rename study", "delete study")


class Window(QMainWindow):
    """The studio's one window."""

    def __init__(self, root: Path, preferences: Preferences, palette: Palette) -> None:
        super().__init__()
        self.setWindowTitle("Mild Compass")
        self.setAcceptDrops(True)
        self.preferences, self.colours = preferences, palette
        self.work = Work(self)
        self.session = Session(root, self.work, self)
        self.computed = Computed(self.session, self.work, preferences.unit, self)
        self.computed.printer = preferences.printer
        self.files = Files(self, self.session, self.computed, self.work)
        self.files.folder = preferences.folder
        self.station: StationName = "references"
        self._said: dict[StationName, tuple[str, list[Reading]]] = {}
        self.keyboard = Keyboard(self)
        self._build()
        self._connect()
        self.go_to("references")

    # -- building ---------------------------------------------------------------------------------------------

    def _build(self) -> None:
        self.actions_by_name = window_actions(self, self.colours)
        named = self.actions_by_name
        self.header = Header(
            self.colours,
            [named[key] if key else None for key in PLAN_MENU],
            [named[key] for key in STUDY_MENU],
        )
        for key in ("undo", "redo"):
            self.header.add_button(named[key])
        self.route, self.bench = Route(self.colours), Bench(self.colours)
        self.contact_sheet = ContactSheet(self.session, self.computed, self.work)
        self._shown: dict[Page, QWidget] = {"contact sheet": self.contact_sheet.in_scroll()}
        self._pages: dict[Page, QWidget] = {"contact sheet": self.contact_sheet}
        self._at: Page = "contact sheet"
        self.readings = ReadingsPanel(self.colours)
        self.margin_line = MarginLine(self.colours)
        self.desk = Desk(
            self.session,
            self.computed,
            self.contact_sheet,
            self.files,
            self.work,
            lambda: self.board,
            self.page,
            lambda name: self.bench.take(name),
            self.go_to,
        )
        self.middle = QStackedWidget()
        self.middle.addWidget(self._shown["contact sheet"])
        self.notice = Notice(self.middle)
        self._show_surround()
        self._lay_out()

    def _lay_out(self) -> None:
        self.side = QSplitter()
        self.side.setOrientation(Qt.Orientation.Vertical)
        self.side.addWidget(self.readings)
        self.side.setFixedWidth(SIDE_WIDTH)
        row = QHBoxLayout()
        row.setSpacing(0)
        row.addWidget(self.bench)
        row.addWidget(self.middle, 1)
        row.addWidget(self.side)
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.header)
        layout.addWidget(self.route)
        layout.addLayout(row, 1)
        layout.addWidget(self.margin_line)
        self.setCentralWidget(page)
        self.setMinimumSize(900, 620)

    def _connect(self) -> None:
        self._readings_pause = QTimer(self, singleShot=True, interval=READINGS_PAUSE_MS)
        self._readings_pause.timeout.connect(self._read)
        self.computed.changed.connect(self._follow)
        self.session.saved_changed.connect(self._show_header)
        self.session.said.connect(self.notice.say)
        self.route.chosen.connect(self.go_to)
        self.bench.taken.connect(self._take_up)
        self.contact_sheet.wants_photos.connect(self.files.choose_photos)
        self.readings.shown.connect(self._show_place)
        self.readings.tried.connect(self._try)
        self.readings.silenced.connect(self._silence)
        self.readings.speak_again.connect(self._speak_again)
        self.margin_line.noted.connect(self._note)
        self.margin_line.held.connect(self.hold)
        self.margin_line.fit.connect(self.fit)
        self.header.study_chosen.connect(lambda key: self.session.apply(choose_study(key)))

    @cached_property
    def pair(self) -> BoardPair:
        """Board and companion, made at the first visit to a station that has a board."""
        from mild_compass.studio.board.pair import BoardPair

        pair = BoardPair(self.computed, self.colours, self)
        pair.show_surround(SURROUNDS[self.preferences.surround])
        pair.board.pointed.connect(self._pointed_on_board)
        pair.board.wants_photos.connect(self.files.choose_photos)
        self.middle.addWidget(pair.board)
        self.side.insertWidget(0, pair.companion)
        self.side.setSizes([230, 400])
        return pair

    @property
    def board(self) -> Board:
        """The board."""
        return self.pair.board

    @property
    def companion(self) -> Companion:
        """The companion."""
        return self.pair.companion

    @property
    def at_a_board(self) -> bool:
        """Whether the board is in view."""
        return self._at == "board"

    # -- going about ------------------------------------------------------------------------------------------

    def go_to(self, name: str, instrument: str = "") -> None:
        """Visit a station; any order will do. An instrument may be taken up on arrival."""
        view = station_view(cast("StationName", name))
        self.session.cancel()
        self.readings.clear_place()
        self.station = view.name
        if view.page == "board":
            self.pair.show_station(view)
        if not self.bench.has(view.name):
            self.bench.lay_out(view.name, view.instruments(self.desk), view.first)
        self.bench.turn_to(view.name, instrument)
        self.margin_line.show_question(station(view.name).question)

    def page(self, name: Page) -> QWidget:
        """What can stand in the middle; made at the first visit."""
        if name == "board":
            return self.board
        if name not in self._pages:
            from mild_compass.studio.pages.table import make_page

            page = self._pages[name] = make_page(name, self)
            self._shown[name] = page.in_scroll() if isinstance(page, PictureRows) else page
            self.middle.addWidget(self._shown[name])
            self._show_surround()
        return self._pages[name]

    def _turn_to(self, name: Page) -> None:
        """Put a page in the middle."""
        page = self.page(name)
        self._at = name
        shown = self._shown.get(name, page)
        if self.middle.currentWidget() is not shown:
            self.middle.setCurrentWidget(shown)
        page.setFocus(Qt.FocusReason.OtherFocusReason)
        if "pair" in self.__dict__:
            self.companion.setVisible(name == "board")
        self.margin_line.show_looks(name != "logbook", name == "board")

    def hold(self, name: Hold, on: bool) -> None:
        """Look through squint, values, mirror or step back while it is held."""
        if self.at_a_board:
            self.pair.hold(name, on)
            return
        page = self._pages[self._at]
        if hasattr(page, "hold"):
            page.hold(name, on)

    def fit(self) -> None:
        """Show all of it."""
        if self.at_a_board:
            self.board.fit()
            self._show_zoom()
        elif hasattr(self._pages[self._at], "fit"):
            self._pages[self._at].fit()  # type: ignore[attr-defined]

    def _take_up(self, instrument: Instrument) -> None:
        self._turn_to(instrument.page or station_view(self.station).page)
        if self.at_a_board:
            self.board.take_up(instrument)
            if instrument.fill is not None:
                self.board.fill = instrument.fill
        self._follow()

    # -- following the plan -----------------------------------------------------------------------------------

    def _follow(self) -> None:
        """Something has changed: options at once, readings when the hand rests."""
        if self.at_a_board:
            self.pair.show_layers()
        self.bench.refresh(self.session.plan.study is not None)
        if not self._readings_pause.isActive():
            self._readings_pause.start(READINGS_PAUSE_MS)
        if not self.session.in_gesture:
            self._show_header()

    def _show_header(self) -> None:
        self.header.show_plan(self.session.plan, self.session.unsaved, self.computed.unit)
        self.setWindowTitle(f"{self.session.plan.name}[*]")
        self.setWindowModified(self.session.unsaved)
        named, study = self.actions_by_name, self.session.plan.study
        for key, label in (("undo", self.session.undo_label), ("redo", self.session.redo_label)):
            named[key].setEnabled(label is not None)
            named[key].setText(f"{key.capitalize()} {label}" if label else key.capitalize())
        for key in ("keep study", "rename study", "print", "pdf"):
            named[key].setEnabled(study is not None)
        named["delete study"].setEnabled(len(self.session.plan.studies) > 1)

    def _read(self) -> None:
        if not self.computed.in_turn(self._show_readings):
            self._readings_pause.start(TURN_MS)

    def _show_readings(self) -> None:
        """Readings of this station, and the route; during a drag the other stations wait."""
        worked = self.computed.worked()
        self._show_zoom()
        if worked is None:
            self._said.clear()
            self.route.show_state(self.station, {}, set())
            self.readings.show_readings([], "Add a photo, and its readings stand here.")
            return
        for each in STATIONS:
            if each.name == self.station or not self.session.in_gesture:
                self._said[each.name] = (each.headline(worked), readings_of(each.name, worked))
        headlines = {name: headline for name, (headline, _) in self._said.items()}
        warned = {name for name, (_, rows) in self._said.items() if any(row.verdict == "act" for row in rows)}
        self.route.show_state(self.station, headlines, warned)
        if station(self.station).needs_masses and worked.masses is None:
            return  # the cards stay as they are until the masses are there
        rows = self._said[self.station][1]
        self.readings.show_readings(rows, summary(rows), silenced_at(self.station, worked))

    def _show_zoom(self) -> None:
        if not self.at_a_board:
            return
        sheet = self.board.sheet_sight()
        dots_per_mm = self.logicalDpiX() / 25.4
        self.margin_line.show_zoom(None if sheet is None else 100 * sheet.scale / dots_per_mm)

    def _show_place(self, place: Place | None) -> None:
        if self.at_a_board:
            self.board.shown_place = place
            self.board.update()

    def _try(self, edit: Edit) -> None:
        self.readings.clear_place()
        if self.session.apply(edit):
            self.notice.say(f"Tried: {edit.label}. Ctrl+Z takes it back.")

    def _silence(self, reading: Reading, reason: str) -> None:
        self.readings.clear_place()
        if self.session.apply(silence(Silenced(self.station, reading.key, reason), reading.label)):
            self.notice.say(f"“{reading.label}” is silent in this study. Ctrl+Z lets it speak again.")

    def _speak_again(self) -> None:
        self.session.apply(let_speak(self.station))

    def _note(self, text: str) -> None:
        if self.session.apply(add_note(text, self.station, now())):
            self.notice.say("Written into the logbook.")
        (self.middle.currentWidget() or self).setFocus()

    def _pointed_on_board(self, point_mm: tuple[float, float] | None) -> None:
        self.margin_line.show_pointer(point_mm, self.computed.unit)
        self.companion.view.show_cross(point_mm)

    # -- studies and names ------------------------------------------------------------------------------------

    def keep_study(self) -> None:
        """Keep the study and go on with a copy."""
        if self.session.apply(keep_study()):
            study = self.session.plan.study
            self.notice.say(f"Kept. You are now working on study {study.name if study else ''}, a copy.")

    def step_study(self, step: int) -> None:
        """Go to the previous or next study."""
        key = neighbour(self.session.plan, step)
        if key is not None:
            self.session.apply(choose_study(key))

    def delete_study(self) -> None:
        """Delete the study; undo brings it back."""
        if self.session.apply(delete_study()):
            self.notice.say("The study is deleted. Ctrl+Z brings it back.")

    def rename_study(self) -> None:
        """Ask for the study's name."""
        study = self.session.plan.study
        if study is not None:
            name, ok = QInputDialog.getText(self, "Rename study", "Name of the study", text=study.name)
            if ok:
                self.session.apply(rename_study(name))

    def rename_plan(self) -> None:
        """Ask for the plan's name."""
        name, ok = QInputDialog.getText(self, "Rename plan", "Name of the plan", text=self.session.plan.name)
        if ok:
            self.session.apply(rename_plan(name))

    # -- preferences ------------------------------------------------------------------------------------------

    def ask_preferences(self) -> None:
        """Show the preferences."""
        from mild_compass.studio.preferences_page import ask_preferences

        ask_preferences(self)

    def show_keys(self) -> None:
        """Show all keys on one page."""
        from mild_compass.studio.keys_page import keys_dialog

        keys_dialog(self).exec()

    def use_preferences(self, preferences: Preferences) -> None:
        """Take over changed preferences at once."""
        self.preferences = preferences
        self.computed.unit, self.computed.printer = preferences.unit, preferences.printer
        self._show_surround()
        self._show_header()
        self._follow()

    def _show_surround(self) -> None:
        colour = SURROUNDS[self.preferences.surround]
        for page in self._pages.values():
            if hasattr(page, "surround"):
                page.surround = colour
                page.update()
        if "pair" in self.__dict__:
            self.pair.show_surround(colour)

    # -- coming and going -------------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.notice.settle()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keyboard.pressed(event):
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if not self.keyboard.released(event):
            super().keyReleaseEvent(event)

    def changeEvent(self, event: QEvent) -> None:
        if event.type() == QEvent.Type.ActivationChange and not self.isActiveWindow():
            self.keyboard.let_go()
        super().changeEvent(event)

    @property
    def idle(self) -> bool:
        """Whether everything on the window is as it will stay."""
        page = self._pages.get(self._at)
        thumbs = bool(getattr(page, "settled", True))
        searching = self.work.busy("find frames")
        return self.computed.settled and thumbs and not searching and not self._readings_pause.isActive()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self.take_files([Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()])
        event.acceptProposedAction()

    def progress_changed(self) -> None:
        """Photos are being read, one more is there, or all are: say so in place."""
        self.notice.show_progress(self.files.progress, "Reading photos", self.files.call_off)

    def take_files(self, paths: list[Path]) -> None:
        """Open a plan, or add photos, whichever the files are."""
        plans = [path for path in paths if path.suffix.lower() == SUFFIX]
        photos = [path for path in paths if path.suffix.lower() != SUFFIX]
        if plans and self.files.may_leave():
            self.files.open(plans[0])
        if photos:
            self.files.add_photos(photos)

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.files.may_leave():
            event.ignore()
            return
        self.close_down()
        event.accept()

    def close_down(self) -> None:
        """Let go of threads and the working folder."""
        self._readings_pause.stop()
        self.work.close()
        self.session.close()
