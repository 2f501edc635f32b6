"""The observatory court: no photo, a scene set down on the stage and worked through all stations."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.demo.telling import Clock, Note
from mild_compass.plan.edits import armature, perspective, references, stage, studies, values, viewfinder
from mild_compass.plan.guides import Light
from mild_compass.plan.model import Plan
from mild_compass.plan.perspective import Horizon
from mild_compass.plan.stage import Opening, new_thing
from mild_compass.plan.tones import MediumPlan, ValuePlan

if TYPE_CHECKING:
    from collections.abc import Iterator

    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.photos import PhotoFolder
    from mild_compass.plan.stage import Thing

EYE_M, SITTING_M, VIEW_DEG = 1.6, 1.2, 54.0
HORIZON = Horizon(0.56 * 4000 * 267 / 390, x_px=2000.0)  # of the picture area of an A3 sheet with its usual margins
SHED_TURN = 26.0


def court_plan(photos: PhotoFolder) -> Plan:
    """The plan as the application would have recorded it; it needs no photo."""
    del photos
    clock = Clock("2026-04-18T09:30:00+02:00", 3)
    return clock.told(Plan(name="Observatory court"), _edits())


def _edits() -> Iterator[Edit | Note]:
    yield viewfinder.choose_paper(paper("A3", across=True))
    yield references.begin_blank()
    yield Note("No photo: the court as I remember it, the dome against the sky.", "references")
    for thing in things():
        yield stage.set_down(thing)
    yield perspective.set_horizon(HORIZON)
    yield stage.raise_eye(EYE_M)
    yield stage.widen(VIEW_DEG)
    yield Note("Standing: the figures' heads share the horizon with mine.", "perspective")
    yield perspective.set_light(Light("sun", 62.0, 34.0))
    yield studies.duplicate_study("study-1")
    yield studies.choose_study("study-2")
    yield stage.raise_eye(SITTING_M)
    yield Note("The same from a chair: the dome gains, the path is lost.", "perspective")
    yield studies.choose_for_sheet("study-1", "the path leads in")
    yield studies.choose_study("study-1")
    yield armature.choose_armature(("fourteen",))
    yield values.change_values(ValuePlan(count=4))
    yield values.change_medium(MediumPlan("washes"))
    yield Note("The shadow side of the sheds and the cast shadows are one dark.", "values")


def things() -> tuple[Thing, ...]:
    """A domed hut as a cylinder with a half ball, two gabled sheds at a turn, steps, lamp posts, a wall, figures."""
    door = Opening("front", 1.2, 0.0, 0.95, 2.05, "door")
    windows = (Opening("right", 1.2, 0.9, 1.0, 1.1), Opening("right", 3.4, 0.9, 1.0, 1.1))
    return (
        new_thing("road", "thing-1", 0.6, 15.0, name="path", width_m=2.4, depth_m=26.0, turn_deg=-4.0, tone=72.0),
        new_thing("cylinder", "thing-2", -1.2, 24.0, name="hut", width_m=5.2, depth_m=5.2, height_m=3.4, tone=84.0),
        new_thing("half ball", "thing-3", -1.2, 24.0, name="dome", width_m=5.2, depth_m=5.2, height_m=2.6, base_m=3.4,
                  tone=62.0),
        new_thing("steps", "thing-4", -0.9, 20.9, name="steps", width_m=1.6, depth_m=1.0, height_m=0.54, parts=3),
        new_thing("house", "thing-5", 7.4, 21.5, name="tool shed", width_m=4.4, depth_m=6.4, height_m=2.6,
                  turn_deg=SHED_TURN, pitch_deg=38.0, openings=(door,)),
        new_thing("house", "thing-6", -8.6, 18.6, name="clock shed", width_m=3.8, depth_m=5.6, height_m=2.8,
                  turn_deg=SHED_TURN, pitch_deg=42.0, openings=windows),
        new_thing("lamp", "thing-7", 2.7, 10.0, name="lamp posts", height_m=3.6, width_m=0.3, count=4, gap_m=4.4,
                  row_deg=-86.0),
        new_thing("wall", "thing-8", -6.4, 12.4, name="low wall", width_m=8.0, depth_m=0.35, height_m=0.85,
                  turn_deg=SHED_TURN - 90.0),
        new_thing("standing figure", "thing-9", 0.2, 17.4, name="the observer", height_m=1.72),
        new_thing("standing figure", "thing-10", -3.4, 12.0, name="the visitor", height_m=1.7),
    )  # fmt: skip
