"""The way from the window to the easel."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.picture.framed import framed_colour
from mild_compass.craft.work.where import departures_at
from mild_compass.studio.derived.looks import image_of
from mild_compass.studio.easel.easel import Easel

if TYPE_CHECKING:
    from mild_compass.studio.derived.looks import Looks
    from mild_compass.studio.derived.work_order import DrawnOrder
    from mild_compass.studio.memory import Memory
    from mild_compass.studio.session import Session
    from mild_compass.studio.settings.settings import Settings

PHOTO_PX = 1400


def easel_of(session: Session, settings: Settings, memory: Memory, made: DrawnOrder, looks: Looks | None) -> Easel:
    """An easel for the current study, with its photo to be looked at, and where its departures come up."""
    plan = session.committed
    study = plan.study
    assert study is not None
    frame_map = FrameMap.of(study.frame, plan.paper)
    photo = None
    if looks is not None:
        photo = image_of(framed_colour(looks.picture, study.frame, frame_map, PHOTO_PX))
    return Easel(session, settings, memory, made, photo, departures_at(made.order, study, frame_map))
