"""Photos of the drawing against the plan: made when looked at, in the background, kept for the drawings seen last."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from mild_compass.studio.derived.derived import AsyncMemo, Derived, Key, Wanted
from mild_compass.studio.derived.looks import image_of

if TYPE_CHECKING:
    from collections.abc import Callable, Hashable

    import numpy as np
    from numpy.typing import NDArray
    from PySide6.QtGui import QImage

    from mild_compass.craft.check.checked import Checked
    from mild_compass.craft.check.pieces import PlanLine
    from mild_compass.craft.check.tones import DrawnTones
    from mild_compass.craft.geometry.lines import Box
    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder
    from mild_compass.plan.pictures import OwnDrawing
    from mild_compass.studio.derived.looks import Looks, Way
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session

SHOWN_PX, PHOTO_PX = 2200, 2000
MOST_KEPT = 8
CALLED_OFF = "Looking at this drawing was called off. It is kept; “Look at it again” goes on."


@dataclass(frozen=True, eq=False, slots=True)
class DrawnCheck:
    """A check, the drawing laid flat in all ways of looking, the plan's lines, and the photo as it was taken."""

    checked: Checked
    tones: DrawnTones | None
    flat: dict[Way, QImage]
    lines: tuple[PlanLine, ...]
    photo: QImage
    photo_px: tuple[int, int]


def made_check(plan: Plan, drawing: OwnDrawing, photos: PhotoFolder, picture: Picture | None) -> DrawnCheck:
    """A photo of the drawing against the plan's current study; slow libraries are loaded here, in a worker."""
    from mild_compass.craft.check.study_check import TONED, study_check
    from mild_compass.craft.geometry.lines import picture_box
    from mild_compass.craft.picture.load import read_full

    study = plan.study
    assert study is not None
    rgb = read_full(photos.read(drawing.sha256, drawing.name), drawing.name)
    found = study_check(rgb, plan, drawing, picture, drawing.stage in TONED)
    ways = _ways(found.checked, picture_box(plan.paper, study.frame))
    return DrawnCheck(found.checked, found.tones, ways, found.lines, _small(rgb), (rgb.shape[1], rgb.shape[0]))


def _ways(checked: Checked, box: Box) -> dict[Way, QImage]:
    """The flat sheet in even light, in values, and squinted; nothing where there is no sheet."""
    if checked.flat is None:
        return {}
    from mild_compass.craft.check.tones import in_even_light
    from mild_compass.craft.picture.squint import blurred, squint_sigma_px
    from mild_compass.craft.picture.tone import grey_of_lightness, lightness

    even = _fitted(in_even_light(checked.flat, box), SHOWN_PX)
    small = _fitted(even, 900)
    squint = blurred(small, squint_sigma_px(small.shape[1], small.shape[0]))
    return {
        "colour": image_of(even),
        "values": image_of(grey_of_lightness(lightness(even))),
        "squint": image_of(squint),
    }


def _fitted(rgb: NDArray[np.uint8], longest: int) -> NDArray[np.uint8]:
    import cv2
    import numpy as np

    shrink = min(1.0, longest / max(rgb.shape[:2]))
    if shrink == 1.0:
        return rgb
    size = (max(1, round(rgb.shape[1] * shrink)), max(1, round(rgb.shape[0] * shrink)))
    return np.asarray(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA), np.uint8)


def _small(rgb: NDArray[np.uint8]) -> QImage:
    return image_of(_fitted(rgb, PHOTO_PX))


def key_of(plan: Plan, drawing: OwnDrawing, picture: Picture | None) -> Key:
    """What a check follows from; ticks, names and the time of the photo are not among it."""
    marks = (drawing.corners_px, drawing.pairs, drawing.refused, drawing.stage)
    return picture, plan.study, plan.paper, drawing.sha256, marks


class StudyChecks:
    """The check of the drawing that is chosen, and those of all drawings one after the other where they are wanted.

    Nothing is made before somebody looks: ``look`` is asked at the station.
    """

    def __init__(self, session: Session, work: LatestWins, looks: Callable[[], Looks | None]) -> None:
        self._session, self._looks = session, looks
        self.looked_at = False
        self.now: Derived[DrawnCheck] = Derived(
            "drawing", session, work, self._key, made_check, arguments=self._inputs, most=MOST_KEPT
        )
        self.earlier = EarlierChecks(session, work, self)
        session.replaced.connect(self._forget)

    def look(self) -> DrawnCheck | None:
        """The check, which is begun by asking; None until it is there."""
        self.looked_at = True
        self.now.refresh()
        return self.now.value

    @property
    def under_way(self) -> bool:
        """Whether the drawing that is chosen is being looked at."""
        return self.now.state == "being made"

    @property
    def called_off(self) -> bool:
        """Whether there is no check of the drawing because the artist, or something else, has ended it."""
        return self.now.state == "failed"

    def call_off(self) -> None:
        """Stop looking at the drawing; it stays in the plan."""
        self.now.call_off(CALLED_OFF)

    def look_again(self) -> None:
        """Look at the drawing after all."""
        key = self._key()
        if key is not None:
            self.now.ask_anew(key)
            self.now.changed.emit()

    @property
    def shown(self) -> DrawnCheck | None:
        """The same; until it is there the last one of the same drawing."""
        value, drawing = self.now.value, self._session.plan.drawing
        last = self.now.last
        if value is None and drawing is not None and last is not None and last[0][3] == drawing.sha256:
            return last[1]
        return value

    def told(self) -> tuple[Checked | None, DrawnTones | None]:
        """What readings are made from."""
        made = self.now.value if self.looked_at else None
        return (made.checked, made.tones) if made is not None else (None, None)

    def picture(self) -> tuple[bool, Picture | None]:
        """Whether the study's picture is known, and it; a blank sheet without light has none."""
        plan = self._session.committed
        if plan.study is None:
            return False, None
        if not plan.has_picture(plan.study):
            return True, None
        looks = self._looks()
        return looks is not None and looks.complete, looks.picture if looks is not None else None

    def _key(self) -> Key | None:
        plan = self._session.committed
        known, picture = self.picture()
        if not self.looked_at or plan.drawing is None or plan.study is None or not known:
            return None
        return key_of(plan, plan.drawing, picture)

    def _inputs(self) -> tuple[Any, ...]:
        plan = self._session.committed
        return plan, plan.drawing, self._session.workspace.photos, self.picture()[1]

    def _forget(self) -> None:
        self.looked_at = False


class EarlierChecks(AsyncMemo[DrawnCheck]):
    """The checks of all drawings of the plan, for the comparison over time."""

    def __init__(self, session: Session, work: LatestWins, checks: StudyChecks) -> None:
        super().__init__("earlier drawings", session, work, 60, session)
        self._checks = checks
        self.wanted_now = False

    def of(self, drawing: OwnDrawing) -> DrawnCheck | None:
        """The check of a drawing, or None until it is there."""
        known, picture = self._checks.picture()
        if not known:
            return None
        current = self._checks.now.value
        plan = self._session.committed
        if current is not None and plan.drawing is not None and plan.drawing.id == drawing.id:
            return current
        return self.get(self._key(drawing, picture))

    def _key(self, drawing: OwnDrawing, picture: Picture | None) -> Hashable:
        return key_of(self._session.committed, drawing, picture)

    def wanted(self) -> Wanted | None:
        plan = self._session.committed
        known, picture = self._checks.picture()
        if not self.wanted_now or not known or plan.study is None:
            return None
        for drawing in plan.drawings:
            key = self._key(drawing, picture)
            if self.of(drawing) is None and self.state_of(key) in ("none", "being made"):
                inputs = (plan, drawing, self._session.workspace.photos, picture)
                return Wanted(key, made_check, inputs, self._session.owner().of_ground)
        return None
