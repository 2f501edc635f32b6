"""The record: what of it is looked at, search over all plans, own questions, export."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.logbook.timeline import ITEM_KINDS, Wanted
from mild_compass.craft.logbook.used import times
from mild_compass.plan.stations import STATION_NAMES
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Line, Names, Sentence, Tick, button, form, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.logbook import LogbookPage

KIND_WORDS = {"note": "Notes", "decision": "Decisions", "check": "Checks", "sitting": "Sittings"}
KINDS_OF_FILE = ((".pdf", "PDF"), (".html", "HTML, one file with pictures"), (".md", "Markdown, text"))


class RecordInstrument(Instrument):
    """Filters and searches the logbook, names the folders of all plans, and exports it."""

    name = "record"
    words = "Record"
    icon = "book"
    tells = ("steps done", "notes")
    page = "logbook"
    needs = "nothing"
    hint = "Decisions are written by themselves. Add your own notes in the line at the bottom of any station."

    def options(self) -> QWidget:
        self._search = Line()
        self._search.setAccessibleName("Look for words")
        self._search.setPlaceholderText("Look for words")
        self._search.textChanged.connect(self._look)
        self._all = Tick("In all my plans")
        self._all.chosen.connect(self._choose_all)
        self._kinds = {kind: Tick(words) for kind, words in KIND_WORDS.items()}
        for tick in self._kinds.values():
            tick.show_value(True)
            tick.chosen.connect(lambda _: self._look())
        kinds = list(self._kinds.values())
        self._station = Choice(
            [("all stations", ""), *((name.capitalize(), name) for name in STATION_NAMES)], "Only this station"
        )
        self._study = Choice([("all studies", "")], "Only this study")
        for choice in (self._station, self._study):
            choice.show_value("")
            choice.chosen.connect(lambda _: self._look())
        self._lay_out_folders()
        self._times = soft("")
        self._kind_of_file = Choice([(words, suffix) for suffix, words in KINDS_OF_FILE], "Kind of file")
        self._kind_of_file.show_value(".pdf")
        self._export = button("Save the logbook…", self._save, main=True)
        return form(
            self._search, self._all, (kinds[0], kinds[1]), (kinds[2], kinds[3]), self._station, self._study,
            rule(), self._folder_words, self._folders, self._folder_buttons,
            rule(), ("Ask yourself", self._own), self._asked, self._own_list, self._drop_own,
            rule(), self._kind_of_file, self._export, self._times,
        )  # fmt: skip

    def _lay_out_folders(self) -> None:
        self._folder_words = soft("")
        self._folders = Names("Folders of my plans", 2)
        self._add_folder = button("Name a folder…", self._name_folder)
        self._drop_folder = button("Forget it", self._forget_folder)
        self._folder_buttons = form((self._add_folder, self._drop_folder))
        self._own = Sentence("A question of your own")
        self._own.chosen.connect(self._add_question)
        self._asked = Choice([("before the first mark", "before"), ("after the last", "after")], "When it is asked")
        self._asked.show_value("before")
        self._own_list = Names("Own questions", 2)
        self._drop_own = button("Take it away", self._drop_question)

    @property
    def _page(self) -> LogbookPage:
        return self.desk.page("logbook")  # type: ignore[return-value]

    @property
    def wanted(self) -> Wanted:
        """What of the record is looked at."""
        kinds = tuple(kind for kind in ITEM_KINDS if self._kinds[kind].isChecked())
        every = len(kinds) in (0, len(ITEM_KINDS))
        return Wanted(() if every else kinds, self._station.value or "", self._study.value or "", self._search.text())

    def refresh(self) -> None:
        settings, plan = self.desk.settings.now, self.desk.plan
        names = [study.name for study in plan.studies]
        shown = self._study.value if self._study.value in names else ""
        self._study.set_items([("all studies", ""), *((f"Study {name}", name) for name in names)])
        self._study.show_value(shown)
        self._export.setEnabled(bool(plan.log))
        self._folders.show_names(settings.plan_folders, max(0, self._folders.currentRow()))
        self._drop_folder.setEnabled(bool(settings.plan_folders))
        self._folder_words.setText(self._said_of_folders())
        spent = ", ".join(f"{name} {time}" for name, time in times(plan))
        self._times.setText(f"Time so far: {spent}." if spent else "")
        self._own_list.show_names([words for _, words in settings.own_questions], self._own_list.currentRow())
        for control in (self._own_list, self._drop_own):
            control.setVisible(bool(settings.own_questions))
        self.desk.memory.look_round()

    def _said_of_folders(self) -> str:
        renewed = self.desk.memory.renewed
        if not self.desk.settings.now.plan_folders:
            return "Name the folders your plans are in, to look through all of them and to hear what keeps going wrong."
        if renewed is None:
            return "Your plans are being looked through …"
        unread = f"; {len(renewed.problems)} cannot be read" if renewed.problems else ""
        return f"{renewed.plans} plan{'s' * (renewed.plans != 1)} in your folders{unread}."

    def _look(self) -> None:
        if self._all.isChecked() and self._search.text().strip():
            self.desk.memory.search(self._search.text(), self._page.show_hits)
        else:
            self._page.show_wanted(self.wanted)

    def _choose_all(self, on: bool) -> None:
        if on and not self.desk.settings.now.plan_folders:
            self._all.show_value(False)
            self.desk.say("Name a folder of plans first; what is in it is looked through then.")
            return
        for control in (*self._kinds.values(), self._station, self._study):
            control.setEnabled(not on)
        self._look()

    def _name_folder(self) -> None:
        folder = self.desk.files.plan_folder()
        if folder is not None and str(folder) not in self.desk.settings.now.plan_folders:
            self.desk.settings.change(plan_folders=(*self.desk.settings.now.plan_folders, str(folder)))
            self.desk.memory.look_round(anew=True)

    def _forget_folder(self) -> None:
        row, named = self._folders.currentRow(), self.desk.settings.now.plan_folders
        if 0 <= row < len(named):
            self.desk.settings.change(plan_folders=(*named[:row], *named[row + 1 :]))
            self.desk.memory.look_round(anew=True)

    def _add_question(self, words: str) -> None:
        own = self.desk.settings.now.own_questions
        if words and (self._asked.value, words) not in own:
            self.desk.settings.change(own_questions=(*own, (self._asked.value, words)))
        self._own.show_value("")

    def _drop_question(self) -> None:
        row, own = self._own_list.currentRow(), self.desk.settings.now.own_questions
        if 0 <= row < len(own):
            self.desk.settings.change(own_questions=(*own[:row], *own[row + 1 :]))

    def _save(self) -> None:
        self.desk.files.exports.choose_logbook(self._kind_of_file.value)
