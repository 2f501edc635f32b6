"""The ladder: the framed picture in two to five values."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.plan.framing import picture_area
from mild_compass.studio.derived.looks import rung_of
from mild_compass.studio.derived.masses import counts_of
from mild_compass.studio.derived.thumbs import Thumbs
from mild_compass.studio.pages.rows import PictureRows, Tile

if TYPE_CHECKING:
    from mild_compass.plan.study import Study
    from mild_compass.plan.tones import ValuePlan
    from mild_compass.studio.pages.parts import Parts

RUNGS = (2, 3, 4, 5)
MOST = 8
WORDS = {2: "two values", 3: "three values", 4: "four values", 5: "five values"}


class LadderPage(PictureRows):
    """Each rung with what it takes: how many shapes, how much dark."""

    def __init__(self, parts: Parts) -> None:
        session, computed, work = parts.session, parts.computed, parts.work
        super().__init__("Ladder of values")
        self.say_when_empty(
            "How few values will do?", "Add a photo, and it hangs here in two, three, four and five values."
        )
        self._session, self._computed = session, computed
        self.thumbs = Thumbs("ladder", session, work, MOST, self)
        self.thumbs.changed.connect(self._show)
        computed.changed.connect(self.refresh)

    @property
    def settled(self) -> bool:
        """Whether every rung is there."""
        return self.thumbs.settled

    @property
    def count(self) -> int | None:
        """The number of values of the chosen picture."""
        return int(self.chosen) if self.chosen else None

    def _values(self, study: Study, count: int) -> ValuePlan:
        old = study.values
        if count == old.count:
            return old
        method = "found" if old.method == "by hand" else old.method
        return replace(old, count=count, method=method, thresholds=())

    def refresh(self) -> None:
        """Follow the plan while the page is seen."""
        study, looks = self._session.plan.study, self._computed.looks
        if study is None:
            self.show_tiles([])
        if not self.isVisible() or study is None or looks is None:
            return
        wanted = {self._key(study, count): (rung_of, self._key(study, count)) for count in RUNGS}
        self.thumbs.want(wanted)
        self._show()

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _key(self, study: Study, count: int) -> tuple[object, ...]:
        looks = self._computed.looks
        picture = looks.picture if looks else None
        return picture, study.frame, self._session.plan.paper, self._values(study, count), counts_of(study)

    def _show(self) -> None:
        study = self._session.plan.study
        if study is None:
            return
        _, _, width, height = picture_area(self._session.plan.paper, study.frame)
        tiles = []
        for count in RUNGS:
            made = self.thumbs.get(self._key(study, count))
            title = WORDS[count].capitalize() + (" (now)" if count == study.values.count else "")
            tiles.append(Tile(str(count), width / height, made[0] if made else None, title, made[1] if made else ()))
        self.show_tiles(tiles, lines=3)
