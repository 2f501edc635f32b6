"""The window: header, route, bench, board, companion, readings, margin line, and how they lie."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QEvent, QSize, Qt, QTimer
from PySide6.QtWidgets import QApplication, QHBoxLayout, QInputDialog, QMainWindow, QSplitter, QVBoxLayout, QWidget

from mild_compass.craft.stations import station
from mild_compass.plan.edits.logbook import add_note
from mild_compass.plan.edits.studies import choose_study
from mild_compass.plan.times import now
from mild_compass.studio.commands.actions import Actions
from mild_compass.studio.commands.command import Facts
from mild_compass.studio.commands.keyboard import Keyboard
from mild_compass.studio.commands.studies import blank_sheet
from mild_compass.studio.commands.table import PLAN_MENU, STUDY_MENU
from mild_compass.studio.derived.computed import Computed
from mild_compass.studio.desk import Desk
from mild_compass.studio.files.files import Files
from mild_compass.studio.memory import Memory
from mild_compass.studio.requests.jobs import Jobs
from mild_compass.studio.requests.superseding import LatestWins
from mild_compass.studio.session import Session
from mild_compass.studio.settings.settings import Settings
from mild_compass.studio.stations.table import instruments_of
from mild_compass.studio.taking_out import as_picture, as_text, copy, picture_of, words_of_table
from mild_compass.studio.theme.apply import apply_theme, text_times
from mild_compass.studio.window.bench import Bench
from mild_compass.studio.window.header import Header
from mild_compass.studio.window.in_use import InUse
from mild_compass.studio.window.margin_line import MarginLine
from mild_compass.studio.window.middle import Middle
from mild_compass.studio.window.notice import Notice
from mild_compass.studio.window.progress import Progress
from mild_compass.studio.window.reader import Reader
from mild_compass.studio.window.readings_panel import ReadingsPanel
from mild_compass.studio.window.regions import enter_region
from mild_compass.studio.window.route import Route
from mild_compass.studio.words import station_view

if TYPE_CHECKING:
    from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QResizeEvent

    from mild_compass.craft.reading import Place
    from mild_compass.plan.stations import StationName
    from mild_compass.studio.board.board import Board
    from mild_compass.studio.board.companion import Companion
    from mild_compass.studio.easel.easel import Easel
    from mild_compass.studio.settings.preferences import Preferences
    from mild_compass.studio.stations.instrument import Instrument
    from mild_compass.studio.window.guide import GuideWindow
    from mild_compass.studio.words import Hold

SIDE_WIDTH = 276
MOST_SIDE_TIMES = 1.1  # with large words, so that a card's buttons have room and the tables keep theirs
USUAL_SIZE, LEAST_SIZE = QSize(1280, 800), QSize(900, 560)
CLOSING_S = 5.0
STEPS_LISTED = 50
PHOTO_PX = 2000


class Window(QMainWindow):
    """The studio's one window."""

    def __init__(self, root: Path, preferences: Preferences) -> None:
        super().__init__()
        self.setWindowTitle("Mild Compass")
        self.setAcceptDrops(True)
        self.settings = Settings(preferences, self)
        self.session = Session(root, self)
        self.work = LatestWins(self.session.owner, self)
        self.jobs = Jobs(self.session.owner, self)
        self.memory = Memory(self.session, self.work, self.settings, self)
        self.computed = Computed(self.session, self.work, self.settings, self.memory, self)
        self.files = Files(self, self.session, self.computed, self.work, self.jobs, self.settings, self.memory)
        self.keyboard = Keyboard(self)
        self._may_close = False
        self.easel: Easel | None = None
        self._guide: GuideWindow | None = None
        self._build()
        self._connect()
        self.go_to("references")

    def _build(self) -> None:
        self.actions_by_command = Actions(self, self)
        named = self.actions_by_command.by_name
        self.header = Header([named[key] if key else None for key in PLAN_MENU], [named[key] for key in STUDY_MENU])
        undo, _ = (self.header.add_button(named[key]) for key in ("undo", "redo"))
        self.header.add_steps(undo, lambda: self.session.steps_back(STEPS_LISTED))
        self.header.jumped_back.connect(self.session.jump_back)
        self.route, self.bench = Route(), Bench()
        self.readings, self.margin_line = ReadingsPanel(), MarginLine()
        self.middle = Middle(self.session, self.computed, self.work, self.settings, self.memory)
        self.reader = Reader(self.session, self.computed, self.work, self.route, self.readings, self)
        self.notice = Notice(self.middle)
        self.in_use = InUse(self, self.session)
        self.desk = Desk(
            *(self.session, self.computed, self.middle.contact_sheet, self.files, self.work, self.jobs, self.settings),
            lambda: self.board,
            self.middle.page,
            self.bench.take_up,
            self.go_to,
            self.memory,
            self.go_to_easel,
            self.show_on_screen,
        )
        self._lay_out()

    def _lay_out(self) -> None:
        self.side = QSplitter()
        self.side.setOrientation(Qt.Orientation.Vertical)
        self.side.addWidget(self.readings)
        self.side.setFixedWidth(round(SIDE_WIDTH * min(text_times(), MOST_SIDE_TIMES)))
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
        self.setMinimumSize(LEAST_SIZE)

    def _connect(self) -> None:
        self.computed.changed.connect(self._follow)
        self.session.saved_changed.connect(self._show_header)
        for speaker in (self.session, self.jobs, self.reader):
            speaker.said.connect(self.notice.say)
        self._progress = Progress(self.notice, self.files.photos, self.jobs, self.computed, self.reader)
        self.jobs.changed.connect(self._refresh_bench)
        self.files.photos.read.connect(self.middle.contact_sheet.offer)
        self.middle.contact_sheet.wants_photos.connect(self.files.photos.choose)
        self.middle.contact_sheet.beginnings.wanted.connect(self._begin)
        self.middle.board_made.connect(self._connect_board)
        self.reader.read.connect(self._show_zoom)
        self.route.chosen.connect(self.go_to)
        self.bench.taken.connect(self._take_up)
        self.readings.shown.connect(self._show_place)
        self.readings.asked_why.connect(self.open_guide)
        self.margin_line.noted.connect(self._note)
        self.margin_line.held.connect(self.hold)
        self.margin_line.fit.connect(self.fit)
        self.header.study_chosen.connect(lambda key: self.session.apply(choose_study(key)))

    def _connect_board(self) -> None:
        pair = self.middle.pair
        pair.board.pointed.connect(self._pointed_on_board)
        pair.board.wants_photos.connect(self.files.photos.choose)
        self.side.insertWidget(0, pair.companion)
        self.side.setSizes([230, 400])

    @property
    def board(self) -> Board:
        """The board."""
        return self.middle.board

    @property
    def companion(self) -> Companion:
        """The companion."""
        return self.middle.pair.companion

    @property
    def station(self) -> StationName:
        """The station in hand."""
        return self.reader.station

    # -- going about ------------------------------------------------------------------------------------------

    def go_to(self, name: str, instrument: str = "") -> None:
        """Visit a station; any order will do. An instrument may be taken up on arrival."""
        view = station_view(cast("StationName", name))
        self.session.cancel()
        self.readings.clear_place()
        self.computed.work_on_masses(station(view.name).needs_masses)
        self.in_use.visit(view.name)
        self.reader.visit(view.name)
        if view.page == "board":
            self.middle.pair.show_station(view)
        if not self.bench.has(view.name):
            self.bench.lay_out(view.name, instruments_of(view.name, self.desk), view.first)
        self.bench.turn_to(view.name, instrument)
        self.margin_line.show_question(station(view.name).question)

    def _take_up(self, instrument: Instrument) -> None:
        self.readings.be_about(instrument.tells)
        self.middle.turn_to(instrument.page or station_view(self.station).page)
        self.margin_line.show_looks(self.middle.can_be_looked_at, self.middle.at_a_board)
        if self.middle.at_a_board:
            self.board.take_up(instrument)
            if instrument.fill is not None:
                self.board.fill = instrument.fill
        self._follow()

    def _begin(self, way: str, file: str) -> None:
        """One of the ways to begin was chosen on the first page."""
        if way == "photos":
            self.files.photos.choose()
        elif way == "blank sheet":
            blank_sheet(self)
        elif way == "demo":
            self.files.open_demo()
        else:
            self.files.plans.leave_then(lambda: self.files.plans.open(Path(file)))

    def follow_desktop(self) -> None:
        """The desktop has changed between light and dark."""
        application = QApplication.instance()
        if isinstance(application, QApplication):
            apply_theme(application, self.settings.now.chrome)

    def open_guide(self, key: str = "") -> None:
        """Open the guide at the station in hand, or where a reading of it is explained."""
        from mild_compass.craft.guide.book import why

        if self._guide is None:
            from mild_compass.studio.window.guide import GuideWindow

            self._guide = GuideWindow(self)
        self._guide.open_at(why(self.station, key))
        self._guide.show()
        self._guide.raise_()

    def go_to_easel(self) -> None:
        """Take over the screen with one step of the work at a time."""
        made, study = self.computed.work_order.look(), self.session.committed.study
        looks = self.computed.looks
        if made is None or study is None:
            self.notice.say("The working order is still being made. Try again in a moment.")
            return
        from mild_compass.studio.easel.begin import easel_of

        self.easel = easel_of(self.session, self.settings, self.memory, made, looks)
        self.easel.left.connect(self._left_easel)
        self.easel.begin()

    def show_on_screen(self, how: str, with_photo: bool) -> None:
        """What is printed over the whole screen: at "true size", or on a "wall"."""
        drawing, looks, plan = self.board.drawing(), self.computed.looks, self.session.committed
        study = plan.study
        if drawing is None or study is None:
            self.notice.say("There is nothing on the sheet to show yet.")
            return
        from mild_compass.craft.geometry.frame_map import FrameMap
        from mild_compass.craft.picture.framed import framed_colour
        from mild_compass.studio.derived.looks import image_of
        from mild_compass.studio.screens.on_screen import OnScreen
        from mild_compass.studio.settings.screens import px_per_mm

        frame_map = FrameMap.of(study.frame, plan.paper)
        photo = None
        if with_photo and looks is not None:
            photo = image_of(framed_colour(looks.picture, study.frame, frame_map, PHOTO_PX))
        scale = px_per_mm(self.screen(), self.settings.now.screens) if how == "true size" else None
        OnScreen(self, drawing, frame_map.box, photo, scale).begin()

    def _left_easel(self, to: str) -> None:
        self.easel = None
        if self.isHidden():
            return
        self.activateWindow()
        if to == "check":
            self.go_to("check", "drawing")

    def hold(self, name: Hold, on: bool) -> None:
        """Look through squint, values, mirror or step back while it is held."""
        self.middle.hold(name, on)

    def fold(self) -> None:
        """Fold the columns at both sides away, or back: the board has all the room."""
        away = not self.bench.isHidden()
        for column in (self.bench, self.side):
            column.setHidden(away)
        if away:
            self.middle.take_focus()
            self.notice.say("The side columns are folded away. B brings them back.")
        QTimer.singleShot(0, self, self.fit)  # once the board has its new size

    def fit(self) -> None:
        """Show all of it."""
        self.middle.fit()
        self._show_zoom()

    def zoom(self, factor: float) -> None:
        """Zoom about the middle of the board."""
        if self.middle.at_a_board:
            self.board.zoom(factor)

    def write_note(self) -> None:
        """Put the cursor into the line for notes."""
        self.margin_line.note.setFocus()

    def escape(self) -> None:
        """Drop what is held, leave what is open, end the instrument."""
        if self.middle.at_a_board and self.board.close_entry():
            return
        if self.margin_line.note.hasFocus():
            self.middle.take_focus()
        elif self.middle.at_a_board and self.board.shown_place is not None:
            self.readings.clear_place()
        else:
            self.bench.put_down()

    def go_round(self, step: int) -> None:
        """Move between the five regions."""
        middle = self.middle.currentWidget() or self.middle
        regions: list[QWidget] = [self.route, self.bench, middle, self.readings, self.margin_line]
        focus = QApplication.focusWidget()
        here = next((k for k, each in enumerate(regions) if focus and (each is focus or each.isAncestorOf(focus))), 1)
        target = regions[(here + step) % len(regions)]
        enter_region(target, whole=target not in (self.bench, self.readings))

    # -- following the plan -----------------------------------------------------------------------------------

    def _follow(self) -> None:
        """Something has changed: options at once, readings when the hand rests."""
        if self.middle.at_a_board:
            self.middle.pair.show_layers()
        self._refresh_bench()
        self.reader.follow()
        if not self.session.in_gesture:
            self._show_header()

    def _refresh_bench(self) -> None:
        study = self.session.plan.study
        self.bench.refresh(study is not None, study is not None and self.session.plan.has_picture(study))

    def facts(self) -> Facts:
        """What decides which commands can be used."""
        plan, session = self.session.plan, self.session
        return Facts(plan.study is not None, len(plan.studies), session.undo_label, session.redo_label)

    def _show_header(self) -> None:
        self.header.show_plan(self.session.plan, self.session.unsaved, self.computed.unit)
        self.setWindowTitle(f"{self.session.plan.name}[*]")
        self.setWindowModified(self.session.unsaved)
        self.actions_by_command.show(self.facts())

    def _show_zoom(self) -> None:
        if not self.middle.at_a_board:
            return
        sheet = self.board.sheet_sight()
        dots_per_mm = self.logicalDpiX() / 25.4
        self.margin_line.show_zoom(None if sheet is None else 100 * sheet.scale / dots_per_mm)

    def _show_place(self, place: Place | None) -> None:
        if self.middle.at_a_board:
            self.board.shown_place = place
            self.board.update()

    def _note(self, text: str) -> None:
        if self.session.apply(add_note(text, self.station, now())):
            self.notice.say("Written into the logbook.")
        self.middle.take_focus()

    def _pointed_on_board(self, point_mm: tuple[float, float] | None) -> None:
        self.margin_line.show_pointer(point_mm, self.computed.unit)
        self.companion.view.show_cross(point_mm)

    # -- asking -----------------------------------------------------------------------------------------------

    def say(self, sentence: str) -> None:
        """Tell the artist something in place."""
        self.notice.say(sentence)

    def ask_text(self, title: str, label: str, text: str) -> str | None:
        """Ask for a line of text; None when it is called off."""
        answer, ok = QInputDialog.getText(self, title, label, text=text)
        return answer if ok else None

    def show_dialog(self, name: str) -> None:
        """Show the preferences, the keys, or what the application is."""
        if name == "preferences":
            from mild_compass.studio.window.preferences_page import ask_preferences

            ask_preferences(self, self.settings)
        elif name == "keys":
            from mild_compass.studio.commands.keys_page import keys_dialog

            keys_dialog(self).exec()
        else:
            from mild_compass.studio.window.about import about_dialog

            about_dialog(self).exec()

    # -- coming and going -------------------------------------------------------------------------------------

    def fit_screen(self) -> None:
        """As large as it was last, or 1280 x 800, and never larger than the screen leaves it with its title bar."""
        screen = self.screen().availableGeometry()
        frame = self.frameGeometry().size() - self.size() if self.isVisible() else QSize(2, 40)
        room = screen.size() - QSize(max(frame.width(), 2), max(frame.height(), 40))
        last = self.settings.now.window
        self.resize((QSize(*last) if last else USUAL_SIZE).boundedTo(room))
        self.move(screen.topLeft())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.notice.settle()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.keyboard.pressed(event, self.facts()):
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
        return self.computed.settled and self.middle.settled and self.jobs.idle and self.reader.settled

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self.take_files([Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()])
        event.acceptProposedAction()

    def copy(self) -> None:
        """Put the table in hand, or the picture that is looked at, on the clipboard."""
        table = self.middle.table_in_hand
        copy(as_text(words_of_table(table)) if table is not None else as_picture(picture_of(self.middle)))
        self.say("The table is on the clipboard." if table is not None else "The picture is on the clipboard.")

    def copy_readings(self) -> None:
        """Put all readings of the station on the clipboard."""
        copy(as_text(self.readings.words))
        self.say("The readings are on the clipboard.")

    def paste(self) -> None:
        """Add the picture on the clipboard: at Check as one of the drawing."""
        files = self.files
        (files.drawings if self.station == "check" else files.photos).paste()

    def take_files(self, paths: list[Path]) -> None:
        """Open a plan, or add photos, whichever the files are."""
        self.files.open_or_add(paths, self.station == "check")

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._may_close:
            self.files.plans.leave_then(self._leave, late=lambda: self._leave(keep=True))
        if self._may_close:
            event.accept()
        else:
            event.ignore()

    def _leave(self, keep: bool = False) -> None:
        self._may_close = True
        self.settings.remember(window=(self.width(), self.height()))
        self.close_down(keep)
        QTimer.singleShot(0, self, self.close)

    def close_down(self, keep: bool = False) -> None:
        """Let go of threads and the working folder, which is kept where work in it is not saved yet."""
        self.reader.stop()
        if self.easel is not None:
            self.easel.close()
        self.in_use.write()
        if not self.jobs.idle:
            self.notice.say("Finishing what is being written, then closing …")
            self.setEnabled(False)
        done = self.jobs.close(0.0 if keep else CLOSING_S)
        self.work.close()
        self.session.close(keep or (not done and self.session.unsaved))
