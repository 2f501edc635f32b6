"""Find frames: ticks what should count, searches, shows ten suggestions to choose from."""

from __future__ import annotations

from dataclasses import replace
from threading import Event
from typing import TYPE_CHECKING

from mild_compass.craft.viewfinder.scores import CRITERION_WORDS, USUAL, WANTED, Criterion
from mild_compass.plan.edits.viewfinder import move_frame
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Tick, button, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QImage
    from PySide6.QtWidgets import QWidget

    from mild_compass.craft.picture.load import Picture
    from mild_compass.craft.viewfinder.search import Ask, Found
    from mild_compass.plan.errors import PlanError
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.pictures import Reference
    from mild_compass.plan.study import Study
    from mild_compass.studio.pages.found_frames import FoundFrames

OPPOSED: dict[Criterion, Criterion] = {"level": "one side", "one side": "level"}


def _search(
    picture: Picture,
    study: Study,
    photo: Reference,
    paper: Paper,
    ratio: float,
    ask: Ask,
    horizon_px: float | None,
    off: Event,
) -> tuple[list[Found], list[QImage]]:
    """The search and its small pictures; nothing at all when it has been called off."""
    from mild_compass.craft.viewfinder.search import SearchCancelledError, find_frames
    from mild_compass.studio.derived.looks import frame_images

    try:
        found = find_frames(picture, study, photo, ratio, ask, horizon_px, off.is_set)
    except SearchCancelledError:
        return [], []
    return found, frame_images(picture, [each.frame for each in found], paper)


class FindInstrument(Instrument):
    """Searches for frames; the page shows them, a double click takes one."""

    name = "find"
    words = "Find frames"
    icon = "find"
    needs = "a photo"
    page = "found frames"
    hint = "Let thousands of frames be judged by what you tick, and look at ten clearly different ones."

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._off = Event()
        self._searched: tuple[object, ...] | None = None
        self._called_off: tuple[object, ...] | None = None
        self._answered = True
        self._connected = False

    def options(self) -> QWidget:
        self._ticks = {name: Tick(words) for name, words in CRITERION_WORDS.items()}
        for name, tick in self._ticks.items():
            tick.show_value(name in USUAL)
            tick.chosen.connect(lambda on, name=name: self._tick(name, on))
        self._smallest = number_entry("Smallest frame, of the widest", "%")
        self._smallest.show_value(40.0)
        self._smallest.chosen.connect(self._set_smallest)
        self._smallest_share = 0.4
        self._outside = Tick("Left-out areas stay outside")
        self._outside.show_value(True)
        self._outside.chosen.connect(lambda _: self.refresh())
        self._find = button("Find frames", self.find, main=True)
        self._stop = button("Call it off", self._call_off)
        self._use = button("Take this frame", self._take_chosen)
        self._keep = button("Keep it as a study", lambda: self._take_chosen(as_study=True))
        self._state = soft("")
        return form(
            self._state,
            self._find,
            self._stop,
            self._use,
            self._keep,
            rule(),
            soft("What should count"),
            *self._ticks.values(),
            ("Not below", self._smallest),
            self._outside,
        )

    @property
    def _page(self) -> FoundFrames:
        page: FoundFrames = self.desk.page("found frames")  # type: ignore[assignment]
        if not self._connected:
            self._connected = True
            page.selected.connect(lambda _: self.refresh())
            page.activated.connect(lambda _: self._take_chosen())
        return page

    def refresh(self) -> None:
        """Search again whenever something that counts has changed; the answer is there before the hand is."""
        study, looks = self.desk.study, self.desk.computed.looks
        wanted = self._wanted()
        searching = self.desk.work.busy("find frames")
        # An answer that came while another study was in hand has been dropped.
        lost = wanted == self._searched and not searching and not self._answered
        if wanted != self._called_off and (wanted != self._searched or lost) and looks is not None and looks.complete:
            self.find()
            searching = self.desk.work.busy("find frames")
        found = self._page.found
        self._find.setVisible(wanted == self._called_off)
        self._stop.setVisible(searching)
        for each in (self._use, self._keep):
            each.setVisible(bool(found) and not searching)
        self._state.setText("Searching …" if searching else self._say(study, len(found)))

    def _say(self, study: Study, found: int) -> str:
        rings = "" if study.rings else "Ring the subject first, and its place counts too. "
        if 0 < found < WANTED:
            rings += f"Only {found} clearly different frame{'s' * (found > 1)} can hold all that must be inside. "
        return rings + "Double click takes a frame." * (found > 0)

    def _wanted(self) -> tuple[object, ...]:
        """All that an answer depends on."""
        study = self.desk.study
        wishes = (study.rings, study.keep, study.departures, study.school, study.rules, study.perspective)
        return self.desk.plan.picture_of(study), self._ratio(), wishes, self._ask()

    def _ask(self) -> tuple[tuple[Criterion, ...], float, bool]:
        criteria = tuple(name for name, tick in self._ticks.items() if tick.isChecked())
        return criteria, self._smallest_share, self._outside.isChecked()

    def _ratio(self) -> float:
        """Width over height of the frames looked for: the sheet's, or the present one's where that is its own."""
        frame = self.desk.study.frame
        return self.desk.plan.paper.ratio if frame.proportion == "locked" else frame.width_px / frame.height_px

    def _tick(self, name: Criterion, on: bool) -> None:
        if on and name in OPPOSED:
            self._ticks[OPPOSED[name]].show_value(False)
        self.refresh()

    def _set_smallest(self, percent: float) -> None:
        if not 5 <= percent <= 100:
            self._smallest.refuse("Between 5 and 100 %. It stays as it was.")
            return
        self._smallest_share = percent / 100
        self._smallest.show_value(percent)
        self.refresh()

    def find(self) -> None:
        """Search in the background."""
        from mild_compass.craft.viewfinder.search import Ask

        looks, study = self.desk.computed.looks, self.desk.study
        self._off.set()
        self._searched, self._called_off = self._wanted(), None
        ask = Ask(*self._ask())
        self._page.clear()
        self._answered = looks is None or not ask.criteria
        if looks is None or not ask.criteria:
            self.desk.work.drop("find frames")
            self._page.say("Nothing is ticked", "Tick on the left at least one thing that should count.")
            return
        photo = self.desk.plan.ground(study)
        worked = self.desk.computed.perspective()
        level = worked is not None and worked.horizon is not None and abs(worked.horizon.tilt_deg) < 3
        horizon = worked.horizon.y_at(photo.width_px / 2) if level and worked and worked.horizon else None
        self._off = Event()
        self._page.say("Searching …", "")
        self.desk.work.latest(
            "find frames",
            self.desk.session.owner(),
            _search,
            *(looks.picture, study, photo, self.desk.plan.paper, self._ratio(), ask, horizon, self._off),
            then=lambda answer: self._show(*answer),
            otherwise=self._refuse,
        )

    def _call_off(self) -> None:
        self._off.set()
        self.desk.work.drop("find frames")
        self._called_off = self._wanted()
        self._page.clear()
        self.refresh()

    def _show(self, found: list[Found], images: list[QImage]) -> None:
        self._answered = True
        stretched = self.desk.study.frame.proportion == "stretched"
        self._page.show_found(found, images, self.desk.plan.paper.ratio if stretched else self._ratio())
        self.refresh()

    def _refuse(self, error: PlanError) -> None:
        self._answered = True
        self._page.clear()
        self._page.say("No frame can do that", str(error))
        self.refresh()

    def _take_chosen(self, as_study: bool = False) -> None:
        from mild_compass.plan.edits.studies import keep_study

        found = self._page.frame_of(self._page.chosen)
        if found is None:
            return
        if as_study and not self.commit(keep_study()):
            return
        frame = replace(found.frame, turn_deg=0.0)
        self.commit(move_frame(frame))
        why = ", ".join(found.reasons)
        if as_study:
            self.desk.say(f"Kept as study {self.desk.study.name}: {why}.")
            return
        self.desk.take_up("frame")
        self.desk.say(f"Taken: {why}. Ctrl+Z takes it back.")
