"""The studies wall: every study as a small picture, in colour, values or masses, near or from across the room."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from mild_compass.plan.framing import picture_area
from mild_compass.studio.derived.looks import study_thumbs
from mild_compass.studio.derived.thumbs import Thumbs
from mild_compass.studio.pages.rows import PictureRows, Tile

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan
    from mild_compass.plan.study import Study
    from mild_compass.studio.pages.parts import Parts
    from mild_compass.studio.words import Hold

WallWay = Literal["colour", "values", "masses"]
WAYS: tuple[WallWay, ...] = ("colour", "values", "masses")
MOST_STUDIES = 200


class StudiesWall(PictureRows):
    """Double click works on a study."""

    def __init__(self, parts: Parts) -> None:
        session, computed, work = parts.session, parts.computed, parts.work
        super().__init__("Studies wall")
        self._session = session
        self.way: WallWay = "colour"
        self.thumbs = Thumbs("study", session, work, MOST_STUDIES, self)
        self.thumbs.changed.connect(self._show)
        computed.changed.connect(self.refresh)

    @property
    def plan(self) -> Plan:
        """The plan as it is shown."""
        return self._session.plan

    @property
    def settled(self) -> bool:
        """Whether every small picture is there."""
        return self.thumbs.settled

    def refresh(self) -> None:
        """Follow the plan while the page is seen."""
        if not self.isVisible():
            return
        plan, photos = self.plan, self._session.workspace.photos
        self.thumbs.want({self._key(study): (study_thumbs, (plan, study, photos)) for study in plan.studies})
        self._show()

    def showEvent(self, event: object) -> None:
        self.chosen = self.plan.current_study
        self.refresh()

    def _key(self, study: Study) -> tuple[object, ...]:
        """All that a study's small picture depends on."""
        sources = tuple(self.plan.reference(each.source).sha256 for each in study.departures if each.source)
        seen = self.plan.picture_of(study)
        return seen, sources, study.frame, study.departures, study.values, study.perspective.lens, self.plan.paper

    def _show(self) -> None:
        self.sheet_height_mm = self.plan.paper.height_mm
        self.show_tiles([self._tile(study) for study in self.plan.studies], lines=2)

    def _tile(self, study: Study) -> Tile:
        made = self.thumbs.get(self._key(study))
        _, _, width, height = picture_area(self.plan.paper, study.frame)
        words = [self.plan.ground(study).name]
        if study.chosen_because:
            words.insert(0, f"chosen: {study.chosen_because}")
        elif study.id == self.plan.current_study:
            words.insert(0, "on the board")
        image = made[WAYS.index(self.way)] if made else None
        return Tile(study.id, width / height, image, f"Study {study.name}", tuple(words))

    def look(self, way: WallWay | None = None, back_m: float | None = None) -> None:
        """Look in another way, or from so many metres (0: close by)."""
        self.way = way or self.way
        self.back_m = self.back_m if back_m is None else back_m
        self._show()

    def hold(self, name: Hold, on: bool) -> None:
        if name == "values":
            self.look("values" if on else "colour")
        elif name == "step back":
            self.look(back_m=3.0 if on else 0.0)
        else:
            super().hold(name, on)
