"""Studies or photos side by side under one armature."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Literal

from PySide6.QtCore import QLineF
from PySide6.QtGui import QColor, QPen

from mild_compass.plan.framing import largest_frame, picture_area
from mild_compass.plan.structure import Structure
from mild_compass.studio.derived.looks import armature_thumbs
from mild_compass.studio.derived.thumbs import Thumbs
from mild_compass.studio.pages.rows import PictureRows, Tile

if TYPE_CHECKING:
    from PySide6.QtCore import QRect
    from PySide6.QtGui import QPainter

    from mild_compass.craft.armature.judged import UnderArmature
    from mild_compass.plan.model import Plan
    from mild_compass.plan.pictures import Reference
    from mild_compass.plan.study import Study
    from mild_compass.studio.pages.parts import Parts
    from mild_compass.studio.words import Hold

Compared = Literal["studies", "photos", "all photos"]
MOST = 200


class OneArmature(PictureRows):
    """Every picture with the drawn armature over it, and what locks."""

    def __init__(self, parts: Parts) -> None:
        session, computed, work = parts.session, parts.computed, parts.work
        super().__init__("Under one armature")
        self._session = session
        self.what: Compared = "studies"
        self.values_only = False
        self.thumbs = Thumbs("one armature", session, work, MOST, self)
        self.thumbs.changed.connect(self._show)
        computed.changed.connect(self.refresh)

    @property
    def plan(self) -> Plan:
        """The plan as it is shown."""
        return self._session.plan

    @property
    def settled(self) -> bool:
        """Whether every picture is there."""
        return self.thumbs.settled

    def studies(self) -> list[Study]:
        """What is compared: the studies, or every photo in its largest frame, all under the drawn armature."""
        plan, own = self.plan, self.plan.study
        if own is None:
            return []
        if self.what == "studies":
            return [
                replace(study, armature=own.armature, structure=self._as_drawn(study, own)) for study in plan.studies
            ]
        photos = [photo for photo in plan.references if self.what == "all photos" or photo.standing == "kept"]
        return [self._study_of(photo, own) for photo in photos]

    @staticmethod
    def _as_drawn(study: Study, own: Study) -> Structure:
        """A study's own lines under the drawn armature."""
        return replace(own.structure, lines=study.structure.lines, points=study.structure.points, eye_path=())

    def _study_of(self, photo: Reference, own: Study) -> Study:
        bare = replace(own.structure, lines=(), points=(), eye_path=())
        frame = largest_frame(photo, self.plan.paper)
        return replace(own, id=photo.id, name=photo.name, ground=photo.id, frame=frame, departures=(), structure=bare)

    def refresh(self) -> None:
        """Follow the plan while the page is seen."""
        if not self.isVisible():
            return
        plan, photos = self.plan, self._session.workspace.photos
        wanted = {self._key(study): (armature_thumbs, (plan, study, photos)) for study in self.studies()}
        self.thumbs.want(wanted)
        self._show()

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _key(self, study: Study) -> tuple[object, ...]:
        return (
            self.plan.picture_of(study),
            study.frame,
            study.departures,
            study.perspective.lens,
            study.armature,
            study.structure,
            self.plan.paper,
        )

    def _show(self) -> None:
        tiles = []
        for study in self.studies():
            made = self.thumbs.get(self._key(study))
            _, _, width, height = picture_area(self.plan.paper, study.frame)
            image = made[1 if self.values_only else 0] if made else None
            title = study.name if self.what != "studies" else f"Study {study.name}"
            tiles.append(Tile(study.id, width / height, image, title, _words(made[2]) if made else ()))
        self.show_tiles(tiles, lines=3)

    def look(self, what: Compared | None = None, values_only: bool | None = None) -> None:
        """Compare something else, or look in another way."""
        self.what = what or self.what
        self.values_only = self.values_only if values_only is None else values_only
        self.refresh()

    def hold(self, name: Hold, on: bool) -> None:
        if name == "values":
            self.look(values_only=on)
        else:
            super().hold(name, on)

    def paint_over(self, painter: QPainter, tile: Tile, place: QRect) -> None:
        own = self.plan.study
        if own is None or tile.image is None:
            return
        from mild_compass.craft.armature.marks import drawn_lines
        from mild_compass.craft.geometry.lines import Box

        box = Box(place.left(), place.top(), place.left() + place.width(), place.top() + place.height())
        lines = [QLineF(*line.ravel().tolist()) for line in drawn_lines(own, box)]
        for colour, width in (("#f6f4ee", 2.4), ("#a83c22", 1.1)):
            painter.setPen(QPen(QColor(colour), width))
            painter.drawLines(lines)


def _words(under: UnderArmature) -> tuple[str, ...]:
    lines = f"{under.locked} of {under.counted} {'found' if under.found else 'traced'} lines lock"
    share = f"{100 * under.score:.0f} % of their weight"
    chance = f"as good by chance: {100 * under.p:.0f} in 100" if under.p is not None else "no armature drawn"
    return lines, share, chance
