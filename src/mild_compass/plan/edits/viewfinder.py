"""Edits of the paper and of the viewfinder."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.plan.edits.base import Edit, current, named, with_study
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import fitted, largest_frame, require_fitting
from mild_compass.plan.study import KeepArea, RuleChange, Silenced

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.stations import StationName
    from mild_compass.plan.study import Frame, Measured, Ring, School, Study, Thread


def _paper_words(plan: Plan, *_: object) -> str:
    paper = plan.paper
    left, top, right, bottom = paper.sides_mm or (paper.margin_mm,) * 4
    even = left == top == right == bottom
    margin = f"margin {left:g} mm" if even else f"margins {left:g}, {top:g}, {right:g}, {bottom:g} mm"
    tape = f", tape {paper.tape_mm:g} mm" if paper.tape_mm else ""
    mat = f", mat over {paper.mat_overlap_mm:g} mm" if paper.mat_overlap_mm else ""
    return f"Paper: {paper.name}, {paper.width_mm:g} × {paper.height_mm:g} mm, {margin}{tape}{mat}."


def _frame_words(plan: Plan, *_: object) -> str:
    study = current(plan)
    photo = plan.ground(study)
    frame = study.frame
    share = frame.width_px * frame.height_px / (photo.width_px * photo.height_px)
    turned = f", turned {abs(frame.turn_deg):.1f}°" if frame.turn_deg else ""
    how = {"locked": "", "free": ", of free proportion", "stretched": ", stretched"}[frame.proportion]
    return f"Framed {photo.name}: {100 * share:.0f} % of the photo{turned}{', flipped' * frame.flipped}{how}."


@named("choose paper", "viewfinder", _paper_words)
def choose_paper(plan: Plan, paper: Paper) -> Plan:
    """Change the sheet; frames are fitted to the new proportion, on a blank sheet to all of it."""
    changed = replace(plan, paper=paper)

    def refitted(study: Study) -> Frame:
        ground = changed.ground(study)
        return fitted(study.frame, ground, paper) if ground.is_photo else largest_frame(ground, paper)

    return replace(changed, studies=tuple(replace(study, frame=refitted(study)) for study in plan.studies))


@named("move viewfinder", "viewfinder", _frame_words)
def move_frame(plan: Plan, frame: Frame) -> Plan:
    """Place the viewfinder; locked it keeps the picture area's ratio, and its middle stays on the photo."""
    study = current(plan)
    return with_study(plan, replace(study, frame=require_fitting(frame, plan.ground(study), plan.paper)))


@named("choose threads")
def choose_threads(plan: Plan, threads: tuple[Thread, ...]) -> Plan:
    """Choose the threads stretched across the viewfinder."""
    return with_study(plan, replace(current(plan), threads=threads))


@named("ring the subject", "viewfinder", lambda _, ring, *__: f"Ringed the {ring.name}.")
def ring_subject(plan: Plan, ring: Ring, index: int = 0) -> Plan:
    """Put a ring in the place of the one at ``index``, or behind the last; its centre must lie on the photo.

    Raises:
        PlanError: the ring's centre lies off the photo.
    """
    study = current(plan)
    photo = plan.ground(study)
    if not (0 <= ring.x_px <= photo.width_px and 0 <= ring.y_px <= photo.height_px):
        raise PlanError("The ring lies off the photo. Nothing was changed; draw it on the photo.")
    return with_study(plan, replace(study, rings=(*study.rings[:index], ring, *study.rings[index + 1 :])))


@named("remove the ring")
def remove_ring(plan: Plan, index: int = 0) -> Plan:
    """Take a ring off."""
    study = current(plan)
    return with_study(plan, replace(study, rings=(*study.rings[:index], *study.rings[index + 1 :])))


@named("put the ring first")
def put_ring_first(plan: Plan, index: int) -> Plan:
    """Make a ringed subject the most important one."""
    study = current(plan)
    rest = (*study.rings[:index], *study.rings[index + 1 :])
    return with_study(plan, replace(study, rings=(study.rings[index], *rest)))


@named("keep an area", "viewfinder", lambda _, area: f"To be kept inside: {area.name}.", merges=False)
def add_keep(plan: Plan, area: KeepArea) -> Plan:
    """Mark an area that must be inside the viewfinder; it is cut to the photo.

    Raises:
        PlanError: the area lies off the photo.
    """
    study = current(plan)
    photo = plan.ground(study)
    try:
        inside = replace(
            area,
            left_px=max(0.0, area.left_px),
            top_px=max(0.0, area.top_px),
            right_px=min(float(photo.width_px), area.right_px),
            bottom_px=min(float(photo.height_px), area.bottom_px),
        )
    except PlanError as error:
        raise PlanError("The area lies off the photo. Nothing was changed; draw it on the photo.") from error
    return with_study(plan, replace(study, keep=(*study.keep, inside)))


@named("change an area to keep")
def change_keep(plan: Plan, index: int, area: KeepArea | None) -> Plan:
    """Replace an area to keep, or with None take it off."""
    study = current(plan)
    put = () if area is None else (area,)
    return with_study(plan, replace(study, keep=(*study.keep[:index], *put, *study.keep[index + 1 :])))


@named("choose a school", "viewfinder", lambda plan, *_: f"Judged by the school: {current(plan).school}.")
def choose_school(plan: Plan, school: School) -> Plan:
    """Choose which readings speak, and how strictly."""
    return with_study(plan, replace(current(plan), school=school))


@named("set a threshold")
def set_rule(plan: Plan, name: str, value: float | None) -> Plan:
    """Set one threshold of the readings, or with None take the school's own again."""
    study = current(plan)
    rest = tuple(rule for rule in study.rules if rule.name != name)
    put = () if value is None else (RuleChange(name, value),)
    return with_study(plan, replace(study, rules=(*rest, *put)))


@named("take the school's own thresholds")
def school_rules(plan: Plan) -> Plan:
    """Forget the thresholds set by hand."""
    return with_study(plan, replace(current(plan), rules=()))


def silence(silenced: Silenced, label: str) -> Edit:
    """Let a reading be silent in the current study; the log takes its label and the reason."""

    def change(plan: Plan) -> Plan:
        study = current(plan)
        rest = tuple(each for each in study.silenced if (each.station, each.key) != (silenced.station, silenced.key))
        return with_study(plan, replace(study, silenced=(*rest, silenced)))

    reason = f", because {silenced.reason}" if silenced.reason else ""
    words = f"Not here: {label}{reason}."
    return Edit("silence", "silence a reading", change, silenced.station, lambda _: words, merges=False)


@named("let silenced readings speak again")
def let_speak(plan: Plan, station: StationName) -> Plan:
    """Let all silenced readings of a station speak again."""
    study = current(plan)
    rest = tuple(each for each in study.silenced if each.station != station)
    return with_study(plan, replace(study, silenced=rest))


def _measured_words(_: Plan, measured: Measured) -> str:
    return f"Measured on the print: the {measured.span} is {measured.length_mm:g} mm."


@named("measure the print", "viewfinder", _measured_words)
def measure_once(plan: Plan, measured: Measured) -> Plan:
    """Note one length measured on a print or screen, from which all others are converted."""
    return with_study(plan, replace(current(plan), measured=measured))
