"""Practice: which drill, on made pictures or on the own reference; the week's plan."""

from __future__ import annotations

from datetime import date
from typing import TYPE_CHECKING

from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Names, Tick, button, form, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.craft.practice.drills import Drill
    from mild_compass.studio.desk import Desk
    from mild_compass.studio.pages.practice import PracticePage

INVENTED = "These six weeks are invented, for the demo. Your own practice begins with a plan of your own."
DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


class PracticeInstrument(Instrument):
    """The drill in need comes first; the page in the middle asks."""

    name = "practice"
    words = "Practice"
    icon = "target"
    page = "practice"
    needs = "nothing"
    hint = "Drills of a minute or two that train the eye. Each answer is told at once, with its direction."

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._drills: tuple[Drill, ...] = ()

    def options(self) -> QWidget:
        from mild_compass.craft.practice.drills import DRILLS

        self._drill = Choice([(row.title, row.name) for row in DRILLS], "Drill")
        self._drill.chosen.connect(self._choose)
        self._next = button("What I need most", self._take_next, main=True)
        self._own = Tick("On my own reference")
        self._own.chosen.connect(self._choose_own)
        self._said = soft("")
        self._day = Choice([("today", 0)], "Which day of the week's plan")
        self._day.chosen.connect(lambda _: self.refresh())
        self._of_day = Names("Drills of that day; choosing one takes it up", 5)
        self._of_day.chosen.connect(self._take_of_day)
        self._strike = button("Strike the last answer", self._strike_last, tip="A slip of the hand does not count")
        return form(
            self._next, self._drill, self._own, self._said, self._strike, rule(),
            soft("Five minutes a day, weakest and longest ago first:"), self._day, self._of_day,
        )  # fmt: skip

    @property
    def _page(self) -> PracticePage:
        return self.desk.page("practice")  # type: ignore[return-value]

    def refresh(self) -> None:
        page, memory = self._page, self.desk.memory
        page.refresh()
        self._drill.show_value(page.drill.name)
        self._own.setEnabled(page.can_use_own)
        self._own.show_value(page.own)
        self._strike.setEnabled(page.last_answer is not None)
        level = memory.history.level(page.drill.name) + 1
        allowed = memory.history.allowed(page.drill.name)
        unit = page.drill.unit
        what = "right within" if page.drill.signed else "differences of"
        space = "" if unit == "°" else " "
        words = f"Level {level}: {what} {allowed:.1f}{space}{unit}."
        self._said.setText(f"{words} {INVENTED}" if memory.is_invented else words)
        week = memory.history.week(date.today())
        shown = self._day.value or 0
        self._day.set_items([(_day_words(day, place), place) for place, (day, _) in enumerate(week)])
        self._day.show_value(shown)
        self._drills = week[shown][1]
        self._of_day.show_names([row.title for row in self._drills], -1)

    def _take_of_day(self, row: int) -> None:
        if 0 <= row < len(self._drills):
            self._choose(self._drills[row].name)

    def _choose(self, name: str) -> None:
        self._page.take(name)
        self.refresh()

    def _take_next(self) -> None:
        self._choose(self.desk.memory.history.in_need(date.today())[0].name)

    def _choose_own(self, on: bool) -> None:
        self._page.use_own(on)
        self.refresh()

    def _strike_last(self) -> None:
        self._page.strike_last()
        self.refresh()


def _day_words(day: date, place: int) -> str:
    return "today" if place == 0 else DAYS[day.weekday()]
