"""Planned and done: a row for each thing, what came out beside it, and what was learned in a line."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QScrollArea, QVBoxLayout, QWidget

from mild_compass.plan.edits.departures import settle_departure
from mild_compass.plan.edits.logbook import say_what_came
from mild_compass.plan.record import OUTCOMES
from mild_compass.studio.widgets import Choice, Wrapped, Writing, plain_label

if TYPE_CHECKING:
    from mild_compass.craft.logbook.planned_done import DoneRow
    from mild_compass.plan.record import Outcome
    from mild_compass.studio.pages.parts import Parts

EMPTY = (
    "Nothing is planned yet. Changes planned at Viewfinder, readings you act on and the settings of the plan stand "
    "here, each beside what came out."
)
HEADS = ("Planned", "What came out", "", "Learned")
COLUMNS = (5, 5, 2, 5)
WORDS = {"open": "open", "kept": "kept", "changed": "changed", "dropped": "dropped"}


class _Row(QFrame):
    """One thing; what is typed is sent when it is finished."""

    def __init__(self, row: DoneRow, page: PlannedDonePage) -> None:
        super().__init__()
        self._page = page
        self.row = row
        self.setProperty("card", True)
        grid = QGridLayout(self)
        grid.setContentsMargins(12, 8, 10, 8)
        grid.setHorizontalSpacing(12)
        for column, share in enumerate(COLUMNS):
            grid.setColumnStretch(column, share)
        self.planned = Wrapped()
        self.measured = Wrapped()
        self.measured.setProperty("soft", True)
        self.done = Writing("What came out", "in words")
        self.outcome = Choice([(WORDS[each], each) for each in OUTCOMES], "Kept, changed or dropped")
        self.outcome.setMinimumContentsLength(max(map(len, WORDS.values())) + 1)
        self.learned = Writing("What was learned", "in a line")
        for column, control in enumerate((self.planned, self._came(), self.outcome, self.learned)):
            grid.addWidget(control, 0, column, Qt.AlignmentFlag.AlignTop)
        self.done.chosen.connect(lambda words: self._say(done=words))
        self.outcome.chosen.connect(lambda outcome: self._say(outcome=outcome))
        self.learned.chosen.connect(lambda words: self._say(learned=words))
        self.show_row(row)

    def _came(self) -> QWidget:
        """What was measured, and a line for what the artist says of it."""
        page = QWidget()
        page.setProperty("clear", True)
        layout = QVBoxLayout(page)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        layout.addWidget(self.measured)
        layout.addWidget(self.done)
        return page

    def show_row(self, row: DoneRow) -> None:
        """Show a row as it stands now; what is being typed is left alone."""
        self.row = row
        self.planned.setText(row.planned[:1].upper() + row.planned[1:])
        self.measured.setVisible(row.measured)
        self.measured.setText(f"Measured: {row.done}." if row.measured else "")
        self.done.show_value("" if row.measured else row.done)
        self.outcome.show_value(row.outcome)
        self.learned.show_value(row.learned)

    def _say(self, done: str | None = None, outcome: Outcome | None = None, learned: str | None = None) -> None:
        row = self.row
        words = row.done if done is None else done
        what = row.outcome if outcome is None else outcome
        self._page.say(row, what, words, row.learned if learned is None else learned)


class PlannedDonePage(QScrollArea):
    """Groups of rows: departures, readings acted on, settings."""

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        self._session, self._computed = parts.session, parts.computed
        self._rows: dict[str, _Row] = {}
        self._layout_of: tuple[tuple[str, str], ...] = ()
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setAccessibleName("Planned and done")
        parts.computed.changed.connect(self.refresh)
        self._lay_out(())

    @property
    def told(self) -> tuple[int, int]:
        """Of how many things is something said or measured, and how many there are."""
        rows = [each.row for each in self._rows.values()]
        return sum(row.measured or row.outcome != "open" or bool(row.done) for row in rows), len(rows)

    def refresh(self) -> None:
        """Follow the plan while the page is seen; rows that are there stay."""
        if not self.isVisible():
            return
        if self._session.plan.drawings:
            _ = self._computed.drawing_check
        worked = self._computed.worked()
        if worked is None:
            self._lay_out(())
            return
        from mild_compass.craft.logbook.planned_done import planned_and_done

        rows = planned_and_done(worked)
        if tuple((row.group, row.key) for row in rows) != self._layout_of:
            self._lay_out(rows)
        for row in rows:
            self._rows[row.key].show_row(row)

    def showEvent(self, event: object) -> None:
        self.refresh()

    def say(self, row: DoneRow, outcome: Outcome, done: str, learned: str) -> None:
        """Keep what the artist says of a row."""
        study = self._session.plan.study
        if study is None:
            return
        came = row.came(study.id, outcome, done, learned)
        if not row.departure:
            self._session.apply(say_what_came(came))
        elif (outcome, done) != (row.outcome, row.done):
            self._session.apply(settle_departure(row.departure, outcome, done))
        else:
            self._session.apply(say_what_came(came))

    def _lay_out(self, rows: tuple[DoneRow, ...]) -> None:
        self._layout_of = tuple((row.group, row.key) for row in rows)
        self._rows = {}
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.setContentsMargins(24, 16, 24, 20)
        layout.setSpacing(6)
        group = ""
        for row in rows:
            if row.group != group:
                group = row.group
                layout.addWidget(_heads(group))
            self._rows[row.key] = _Row(row, self)
            layout.addWidget(self._rows[row.key])
        if not rows:
            layout.addWidget(Wrapped(EMPTY))
        layout.addStretch(1)
        self.setWidget(page)


def _heads(group: str) -> QWidget:
    """The heads of the columns, the first one the group's own."""
    heads = QWidget()
    grid = QGridLayout(heads)
    grid.setContentsMargins(12, 8, 10, 0)
    grid.setHorizontalSpacing(12)
    for column, (share, words) in enumerate(zip(COLUMNS, (group, *HEADS[1:]), strict=True)):
        grid.setColumnStretch(column, share)
        label = plain_label(words)
        label.setProperty("head", column == 0)
        label.setProperty("soft", column > 0)
        grid.addWidget(label, 0, column)
    return heads
