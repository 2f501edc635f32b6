"""The plan as frozen values.

Photo points are in pixels of the upright photo, x right, y down; lengths on the paper are in millimetres.
Each value checks itself when it is made, so a plan that exists is a plan that makes sense.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from mild_compass.plan.errors import PlanError
from mild_compass.plan.paper import Paper
from mild_compass.plan.pictures import BLANK, BLANK_PX, Ground, OwnDrawing, Reference
from mild_compass.plan.record import Answer, CameOut
from mild_compass.plan.stations import StationName
from mild_compass.plan.study import Study
from mild_compass.plan.work import Sitting, WorkPlan

LogKind = Literal["note", "decision"]


@dataclass(frozen=True, slots=True)
class LogEntry:
    """A line of the logbook; topic lets a later decision on the same thing replace an earlier one."""

    time: str
    station: StationName
    study: str
    kind: LogKind
    text: str
    topic: str = ""


@dataclass(frozen=True, slots=True)
class Acted:
    """A reading the artist acted on: what it said, and when its remedy was taken."""

    time: str
    station: StationName
    study: str
    key: str
    text: str


@dataclass(frozen=True, slots=True)
class StationTime:
    """How long a station has been in use."""

    station: StationName
    seconds: float


@dataclass(frozen=True, slots=True)
class Plan:
    """Everything decided for one sheet of paper: photos to work from, photos of the own drawing, studies, the log."""

    name: str = "Untitled"
    paper: Paper = field(default_factory=lambda: Paper("A3", 297.0, 420.0, lay="as the photo"))
    references: tuple[Reference, ...] = ()
    studies: tuple[Study, ...] = ()
    current_study: str = ""
    log: tuple[LogEntry, ...] = ()
    drawings: tuple[OwnDrawing, ...] = ()
    current_drawing: str = ""  # the one that is checked; empty for the last
    work: WorkPlan = field(default_factory=WorkPlan)
    sittings: tuple[Sitting, ...] = ()
    came_out: tuple[CameOut, ...] = ()
    acted: tuple[Acted, ...] = ()
    answers: tuple[Answer, ...] = ()
    spent: tuple[StationTime, ...] = ()  # at each station, while it was in use
    id: str = ""  # tells this plan from all others, a copy under another name too; empty until it is first taken up
    copy_of: str = ""  # the id of the plan that this one was saved from under another name

    def __post_init__(self) -> None:
        known = {reference.id for reference in self.references}
        for study in self.studies:
            if study.ground != BLANK and study.ground not in known:
                raise PlanError(f"The study {study.name} uses a photo that is not in the plan.")
            if any(departure.source and departure.source not in known for departure in study.departures):
                raise PlanError(f"The study {study.name} borrows from a photo that is not in the plan.")
            if study.stage and any(each.source and each.source not in known for each in study.stage.things):
                raise PlanError(f"On the stage of {study.name} stands a cut-out of a photo that is not in the plan.")
        ids = [study.id for study in self.studies]
        drawn = {drawing.id for drawing in self.drawings}
        twice = len(known) != len(self.references) or len(drawn) != len(self.drawings)
        if len(set(ids)) != len(ids) or twice:
            raise PlanError("Two parts of the plan carry the same mark.")
        if ids and self.current_study not in ids:
            raise PlanError("The plan points to a study that is not in it.")

    @property
    def study(self) -> Study | None:
        """The study being worked on, or None while the plan has no photo."""
        return next((study for study in self.studies if study.id == self.current_study), None)

    @property
    def drawing(self) -> OwnDrawing | None:
        """The drawing that is checked: the chosen one, or the last; None while there is none."""
        last = self.drawings[-1] if self.drawings else None
        return next((each for each in self.drawings if each.id == self.current_drawing), last)

    def reference(self, reference_id: str) -> Reference:
        """The reference with this id."""
        return next(reference for reference in self.references if reference.id == reference_id)

    def ground(self, study: Study) -> Ground:
        """What a study stands on: its photo, or a blank sheet of the picture area's size."""
        if study.ground != BLANK:
            return self.reference(study.ground)
        width, height = self.paper.picture_width_mm, self.paper.picture_height_mm
        px_per_mm = BLANK_PX / max(width, height)
        return Ground(BLANK, "blank sheet", "", round(width * px_per_mm), max(1, round(height * px_per_mm)))

    def has_picture(self, study: Study) -> bool:
        """Whether there are values to be seen: a photo, or a stage with a light on it."""
        return self.ground(study).is_photo or (study.staged and study.perspective.light.kind != "none")

    def picture_of(self, study: Study) -> tuple[object, ...]:
        """All that a study's picture as taken depends on: the photo's bytes, or stage, eye and sheet."""
        ground = self.ground(study)
        return (ground.sha256,) if ground.is_photo else (study.stage, study.perspective, ground)

    def stored(self) -> dict[str, str]:
        """Every picture whose bytes belong to the plan: its SHA-256, and the name it is known by."""
        return {picture.sha256: picture.name for picture in (*self.references, *self.drawings)}
