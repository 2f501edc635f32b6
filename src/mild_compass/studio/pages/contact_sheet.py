"""The contact sheet: all photos at equal height, kept or set aside, in order of preference."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Signal

from mild_compass.studio.board.empty import paint_first_page
from mild_compass.studio.derived.looks import thumbnail
from mild_compass.studio.derived.thumbs import Thumbs
from mild_compass.studio.pages.beginnings import Beginnings
from mild_compass.studio.pages.rows import PictureRows, Tile

if TYPE_CHECKING:
    from PySide6.QtCore import QRect
    from PySide6.QtGui import QImage, QPainter, QResizeEvent

    from mild_compass.plan.model import Plan
    from mild_compass.plan.pictures import Reference
    from mild_compass.studio.derived.computed import Computed
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session
    from mild_compass.studio.settings.settings import Settings
    from mild_compass.studio.words import Hold

MOST_THUMBS = 600


class ContactSheet(PictureRows):
    """Rows of photos; click chooses one, Ctrl+click picks several to compare, double click works from it."""

    wants_photos = Signal()

    def __init__(self, session: Session, computed: Computed, work: LatestWins, settings: Settings) -> None:
        super().__init__("Contact sheet")
        self._session = session
        self.beginnings = Beginnings(self, session, work, settings)
        self.values_only = False
        self.picked: tuple[str, ...] = ()
        self._followed: tuple[Any, ...] | None = None
        self.thumbs = Thumbs("thumbnail", session, work, MOST_THUMBS, self)
        self.thumbs.changed.connect(self._show)
        self.empty = self._paint_beginning
        self.pressed_empty = self.wants_photos.emit
        computed.changed.connect(self.refresh)

    @property
    def settled(self) -> bool:
        """Whether every thumbnail is there."""
        return self.thumbs.settled

    @property
    def plan(self) -> Plan:
        """The plan as it is shown."""
        return self._session.plan

    def offer(self, digest: str, thumbs: tuple[QImage, QImage]) -> None:
        """Take over small pictures that were made when the photo was read."""
        self.thumbs.put(digest, thumbs)

    def refresh(self) -> None:
        """Follow the plan; asks for the thumbnails that are missing while the page is seen."""
        if not self.isVisible():
            return
        study = self.plan.study
        follows = (self.plan.references, study.ground if study else "", self._session.workspace)
        if self._followed is not None and all(a is b or a == b for a, b in zip(self._followed, follows, strict=True)):
            return  # whatever has changed is not to be seen here
        self._followed = follows
        folder = self._session.workspace.photos
        self.thumbs.want(
            {photo.sha256: (thumbnail, (folder.file(photo.sha256), photo.name)) for photo in self.plan.references}
        )
        self._show()

    def showEvent(self, event: object) -> None:
        self._followed = None
        self.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.beginnings.settle(self.rect())

    def _paint_beginning(self, painter: QPainter, area: QRect) -> None:
        """The invitation, above the ways to begin."""
        paint_first_page(painter, area.adjusted(0, 0, 0, -self.beginnings.height()))

    def _show(self) -> None:
        self.beginnings.offer(not self.plan.references and not self.plan.studies)
        self.beginnings.settle(self.rect())
        ids = [photo.id for photo in self.plan.references]
        self.picked = tuple(key for key in self.picked if key in ids)
        study = self.plan.study
        if self.chosen not in ids and study is not None:
            self.chosen = study.ground
        self.show_tiles([self._tile(photo) for photo in self.plan.references], lines=2)

    def _tile(self, photo: Reference) -> Tile:
        study, made = self.plan.study, self.thumbs.get(photo.sha256)
        image = made[1 if self.values_only else 0] if made else None
        words = "kept" if photo.standing == "kept" else "set aside"
        if photo.reason:
            words += f": {photo.reason}"
        if study is not None and study.ground == photo.id:
            words += " · in use"
        return Tile(
            photo.id,
            photo.width_px / photo.height_px,
            image,
            photo.name,
            (words, photo.drew_me),
            photo.standing == "set aside",
            photo.id in self.picked,
        )

    def pick(self, key: str) -> None:
        """Pick a photo to be compared, or let go of it."""
        rest = tuple(each for each in self.picked if each != key)
        self.picked = rest if key in self.picked else (*self.picked, key)
        self._show()
        self.selected.emit(key)

    def look(self, values_only: bool | None = None, back_m: float | None = None) -> None:
        """Look in values only, or from so many metres (0: close by)."""
        if values_only is not None:
            self.values_only = values_only
        if back_m is not None:
            self.back_m = back_m
        self._show()

    def hold(self, name: Hold, on: bool) -> None:
        if name == "values":
            self.look(values_only=on)
        elif name == "step back":
            self.look(back_m=3.0 if on else 0.0)
        else:
            super().hold(name, on)
