"""The working order with its pictures, made in the background when somebody looks."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from mild_compass.studio.derived.derived import Derived, Key
from mild_compass.studio.derived.looks import image_of

if TYPE_CHECKING:
    from collections.abc import Callable

    import numpy as np
    from numpy.typing import NDArray
    from PySide6.QtGui import QImage

    from mild_compass.craft.values.masses import Masses
    from mild_compass.craft.work.planned import WorkingOrder
    from mild_compass.craft.work.step import WorkStep
    from mild_compass.craft.worked import Worked
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session

LONGEST_PX, THUMB_PX = 1100, 260
PAPER, LINE, BOARD = 244, 70, 128  # grey levels
DIM = 0.62  # of the contrast that is taken from what is not worked on


@dataclass(frozen=True, eq=False, slots=True)
class DrawnOrder:
    """The order, and for each step by its mark a picture: how it looks afterwards, what is worked on standing out;
    and a small one."""

    order: WorkingOrder
    pictures: dict[str, QImage]
    thumbs: dict[str, QImage]


def made_order(worked: Worked) -> DrawnOrder:
    """In a worker."""
    from mild_compass.craft.work.working_order import order_of

    order = order_of(worked)
    cache: dict[tuple[str, int | None], NDArray[np.uint8]] = {}
    pictures, thumbs = {}, {}
    for step in order.steps:
        key = (step.shows, step.place)
        if key not in cache:
            cache[key] = _grey(step, order, worked)
        pictures[step.key] = image_of(cache[key])
        thumbs[step.key] = image_of(_shrunk(cache[key], THUMB_PX))
    return DrawnOrder(order, pictures, thumbs)


def _grey(step: WorkStep, order: WorkingOrder, worked: Worked) -> NDArray[np.uint8]:
    """How a step leaves the picture, in grey."""
    import numpy as np

    work = order.work
    if step.shows == "paper":
        return _paper(worked)
    if step.shows == "lines" or work is None:
        return _lines(worked, worked.masses)
    from mild_compass.craft.picture.tone import grey_of_lightness

    if step.shows == "done" or step.place is None:
        return grey_of_lightness(_shrunk(work.steps[-1].after, LONGEST_PX))
    found = work.steps[step.place]
    grey = grey_of_lightness(_shrunk(found.after, LONGEST_PX)).astype(np.float32)
    shown = _shrunk(found.mask.astype(np.float32), LONGEST_PX)
    return np.asarray(grey + (1 - shown) * DIM * (PAPER - grey), np.uint8)


def _paper(worked: Worked) -> NDArray[np.uint8]:
    """The bare sheet on its board, the picture's frame on it."""
    import cv2
    import numpy as np

    paper, box = worked.plan.paper, worked.frame_map.box
    scale = 0.9 * LONGEST_PX / max(paper.width_mm, paper.height_mm)
    rim = round(0.05 * LONGEST_PX)
    size = (round(paper.height_mm * scale) + 2 * rim, round(paper.width_mm * scale) + 2 * rim)
    canvas = np.full(size, BOARD, np.uint8)
    canvas[rim:-rim, rim:-rim] = PAPER
    left, top, right, bottom = (round(rim + mm * scale) for mm in (box.left, box.top, box.right, box.bottom))
    corners = np.array([[left, top], [right, top], [right, bottom], [left, bottom]], np.int32).reshape(-1, 1, 2)
    cv2.polylines(canvas, [corners], True, LINE, 2)
    return canvas


def _size(worked: Worked) -> tuple[int, int]:
    box = worked.frame_map.box
    scale = LONGEST_PX / max(box.width, box.height)
    return max(1, round(box.height * scale)), max(1, round(box.width * scale))


def _lines(worked: Worked, masses: Masses | None) -> NDArray[np.uint8]:
    """The outlines carried over, on bare paper."""
    import cv2
    import numpy as np

    canvas = np.full(_size(worked), PAPER, np.uint8)
    if masses is None:
        return canvas
    box = worked.frame_map.box
    scale = canvas.shape[1] / box.width
    for line in masses.borders_mm:
        points = np.round((line - (box.left, box.top)) * scale * 16).astype(np.int32)
        cv2.polylines(canvas, [points.reshape(-1, 1, 2)], False, LINE, 1, cv2.LINE_AA, 4)
    return canvas


def _shrunk(picture: NDArray[Any], longest: int) -> NDArray[Any]:
    import cv2
    import numpy as np

    shrink = min(1.0, longest / max(picture.shape))
    size = (max(1, round(picture.shape[1] * shrink)), max(1, round(picture.shape[0] * shrink)))
    return np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA)).reshape(size[::-1])


class StudyOrder:
    """The working order of the current study; nothing is made before somebody looks."""

    def __init__(
        self, session: Session, work: LatestWins, worked: Callable[[], Worked | None], own: Callable[[], Any]
    ) -> None:
        self._session, self._worked, self._own = session, worked, own
        self.made: Derived[DrawnOrder] = Derived(
            "working order", session, work, self._key, made_order, arguments=lambda: (self._worked(),)
        )

    def look(self) -> DrawnOrder | None:
        """The order, the last one of the same picture until it is there; asking has it made."""
        self.made.refresh()
        last = self.made.last
        study = self._session.plan.study
        if self.made.value is None and last is not None and study is not None and last[0][0] == study.id:
            return last[1]
        return self.made.value

    def _key(self) -> Key | None:
        plan, worked = self._session.plan, self._worked()
        if plan.study is None or worked is None or (worked.has_picture and worked.masses is None):
            return None
        study = plan.study
        return (
            *(study.id, worked.masses, worked.measured, study.medium, study.values.edges, study.frame, study.rings),
            *(study.sheet.method, plan.paper, plan.work, self._own().steps),
        )
