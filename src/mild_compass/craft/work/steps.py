"""The steps of the work on this sheet, from the way of working, the masses and the transfer method.

What follows what in each medium is common practice, no published source.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from math import pi
from typing import TYPE_CHECKING

from mild_compass.craft.cautions import AT_FIRST_COLOUR, AT_STEP
from mild_compass.craft.sheet.transfer import METHOD_WORDS, PENCILS
from mild_compass.craft.values.medium import masking_line_mm
from mild_compass.craft.values.names import names_of
from mild_compass.craft.work.order import Need
from mild_compass.craft.work.own_times import OwnTimes
from mild_compass.craft.work.rates import PACE, RATES, Kind, drying_min
from mild_compass.craft.work.step import Shows, WorkStep
from mild_compass.craft.work.words import ASKS, MEDIUM_KINDS, METHOD_PACE, PENCIL_OF_HAND, PREPARES, materials_of

if TYPE_CHECKING:
    from mild_compass.craft.values.masses import Masses
    from mild_compass.craft.values.medium import MediumWork, Step
    from mild_compass.craft.worked import Worked

SUBJECT_SHARE = 0.1  # of the picture where nothing is ringed
WET_LIFT_CM = 3.0  # of soft edges: less is done within the wash


@dataclass(slots=True)
class _Draft:
    """A step before its times are known."""

    key: str
    kind: Kind
    title: str
    words: str
    needs: list[Need] = field(default_factory=list)
    area_mm2: float = 0.0
    border_mm: float = 0.0
    shapes: int = 0
    shows: Shows = "paper"
    place: int | None = None
    pace: float = 1.0
    first_colour: bool = False


def work_steps(worked: Worked, work: MediumWork | None, own: OwnTimes | None = None) -> tuple[WorkStep, ...]:
    """The steps in the order they are thought of, without those left out; with no masses only those of the drawing."""
    drafts = _drafts(worked, work)
    left_out = {each.step for each in worked.plan.work.changes if each.left_out}
    drafts = _without(drafts, left_out)
    return tuple(_timed(draft, worked, own or OwnTimes()) for draft in drafts)


def _drafts(worked: Worked, work: MediumWork | None) -> list[_Draft]:
    drawing = _until_drawn(worked, work)
    masses = worked.masses
    if work is None or masses is None:
        return [*drawing, *_at_the_end(worked, "check", False)]
    colour, last = _with_the_medium(worked, work, masses)
    return [*drawing, *colour, *_at_the_end(worked, last, True)]


def _until_drawn(worked: Worked, work: MediumWork | None) -> list[_Draft]:
    """The paper made ready, the transfer prepared, the lines carried over and checked."""
    study, plan = worked.study, worked.plan
    medium, method = study.medium.medium, study.sheet.method
    paper_mm2 = plan.paper.width_mm * plan.paper.height_mm
    around = 2 * (plan.paper.width_mm + plan.paper.height_mm)
    lines = _lines_mm(worked)
    drafts: list[_Draft] = []
    if medium == "washes" and plan.work.support == "light paper":
        words = "Wet it on both sides, lay it on the board, tape it down with gummed paper. It must dry flat."
        drafts.append(_Draft("stretch", "stretch", "Stretch the paper", words, area_mm2=paper_mm2))
    else:
        drafts.append(_Draft("tape", "tape", "Tape the sheet to the board", "All four sides, flat.", border_mm=around))
    ready = drafts[-1].key
    if work is not None and medium in ("charcoal", "opaque"):
        step = work.steps[0]
        drafts.append(_Draft("tone", "tone", step.title, step.words, [Need(ready)], paper_mm2, shows="step", place=0))
        ready = "tone"
    title, words = PREPARES[method]
    prepared = _Draft("prepare", "prepare", title, words, border_mm=lines, shows="lines", pace=_preparing(method))
    drafts.append(prepared)
    words = f"{METHOD_WORDS[method]}: see Transfer for each move. Pencil: {_pencil(worked)}."
    carried = _Draft("transfer", "transfer", "Carry the lines over", words, [Need(ready), Need("prepare")])
    carried.area_mm2, carried.border_mm, carried.shows = _frame_mm2(worked), lines, "lines"
    carried.shapes, carried.pace = _shape_count(worked.masses), METHOD_PACE[method]
    drafts.append(carried)
    words = "Take a photo of the sheet and check it at Check, while the lines can still be moved."
    drafts.append(_Draft("check", "check", "Photograph it now", words, [Need("transfer")], shows="lines"))
    return drafts


def _preparing(method: str) -> float:
    """Only where a tracing is made does preparing take as long as there are lines."""
    return 1.0 if method == "graphite tracing" else 0.25


def _with_the_medium(worked: Worked, work: MediumWork, masses: Masses) -> tuple[list[_Draft], str]:
    """Mask, layers with their mixing, lights; the details; what is wet last."""
    medium, drafts = worked.study.medium.medium, list[_Draft]()
    before, masked = [Need("check")], False
    for place, step in enumerate(work.steps):
        kind = MEDIUM_KINDS[medium](place, step)
        if kind is None:
            continue
        key = "mask" if kind == "mask" else f"layer {place}"
        draft = _Draft(key, kind, step.title, step.words, list(before), shows="step", place=place)
        draft.first_colour = kind != "mask" and all(each.kind in ("mix", "mask") for each in drafts)
        _measure(draft, step, worked, masses)
        if (medium == "washes" and kind == "wash") or medium == "opaque":
            title = f"Mix for {step.title[0].lower()}{step.title[1:]}"
            mix = _Draft(f"mix {place}", "mix", title, "Try it on a scrap, dry, beside the scale.")
            drafts.append(mix)
            draft.needs.append(Need(mix.key, dry=False))
        drafts.append(draft)
        masked = masked or kind == "mask"
        before = [Need(key)]
    last = before[0].step
    if masked:
        words = "When the last wash is dry to the back of the hand. Rub toward the middle of each shape."
        border = work.masking_mm
        drafts.append(_Draft("unmask", "unmask", "Take the masking off", words, [Need(last)], border_mm=border,
                             shows="done"))  # fmt: skip
        last = "unmask"
    soft = work.soft_mm
    if medium == "washes" and soft > WET_LIFT_CM * 10:
        words = "With a damp, clean brush and a cloth: the soft edges, and the lights that were lost."
        drafts.append(_Draft("lift", "lift", "Lift and soften", words, [Need(last)], border_mm=soft, shows="done"))
        last = "lift"
    subject = _subject_mm2(worked)
    words = "Only where the eye should end; leave the rest as it stands."
    details = _Draft("details", "details", "Details at the focus", words, [Need(last)], subject, shows="done")
    details.shapes = max(1, round(_shape_count(masses) * subject / max(_frame_mm2(worked), 1.0)))
    return [*drafts, details], "details"


def _at_the_end(worked: Worked, last: str, coloured: bool) -> list[_Draft]:
    """Construction lifted, fixed where it smudges, the tape off."""
    medium, paper = worked.study.medium.medium, worked.plan.paper
    shows: Shows = "done" if coloured else "lines"
    area, around = _frame_mm2(worked), 2 * (paper.width_mm + paper.height_mm)
    drafts = []
    if medium != "opaque":
        words = "With a kneaded rubber, dabbing: horizon, squares, construction. Lines that stay are told at Layers."
        drafts.append(_Draft("lift lines", "lift lines", "Lift the construction lines", words, [Need(last)], area,
                             _lines_mm(worked), shows=shows))  # fmt: skip
        last = "lift lines"
    if coloured and medium in ("toned paper", "charcoal", "hatching"):
        words = "Two thin coats rather than one."
        drafts.append(_Draft("fix", "fix", "Fix it", words, [Need(last)], area, shows=shows))
        last = "fix"
    words = "When the paper is cool and dry. Pull slowly, away from the picture, at a flat angle."
    drafts.append(_Draft("untape", "untape", "Take the tape off", words, [Need(last)], 0.0, around, shows=shows))
    return drafts


def _without(drafts: list[_Draft], left_out: set[str]) -> list[_Draft]:
    """What waited for a step that is left out waits for what that waited for."""
    instead: dict[str, list[Need]] = {}
    kept = []
    for draft in drafts:
        needs = [other for need in draft.needs for other in instead.get(need.step, [need])]
        draft.needs = list(dict.fromkeys(needs))
        if draft.key in left_out:
            instead[draft.key] = draft.needs
        else:
            kept.append(draft)
    return kept


def _timed(draft: _Draft, worked: Worked, own: OwnTimes) -> WorkStep:
    plan, medium = worked.plan.work, worked.study.medium.medium
    change = plan.change_of(draft.key)
    rate = RATES[draft.kind].minutes(draft.area_mm2 / 1e4, draft.border_mm / 1e3, draft.shapes)
    given = max(1.0, round(rate * PACE.get((medium, draft.kind), 1.0) * draft.pace))
    pace = own.pace(medium, draft.kind)
    minutes, low, high = (max(1.0, round(given * share)) for share in (pace.middle, pace.low, pace.high))
    if change.minutes is not None:
        minutes = low = high = change.minutes
    dries = drying_min(draft.kind, medium, plan.weather, plan.wetness, plan.support)
    cautions = AT_STEP.get(draft.kind, ()) + (AT_FIRST_COLOUR[medium] if draft.first_colour else ())
    if draft.kind == "tone" and medium == "charcoal":
        cautions = AT_FIRST_COLOUR[medium]
    return WorkStep(
        draft.key, draft.kind, draft.title, draft.words, minutes, low, high,
        dries if change.drying_min is None else change.drying_min,
        given, pace.count if change.minutes is None else 0, tuple(draft.needs), ASKS[draft.kind],
        materials_of(draft.kind, medium, plan.support), cautions,
        draft.area_mm2 / 100, draft.shapes,
        draft.shows, draft.place,
    )  # fmt: skip


def _measure(draft: _Draft, step: Step, worked: Worked, masses: Masses) -> None:
    """How much of the sheet a step covers, how long its outline is, in how many shapes."""
    draft.area_mm2 = step.share * _frame_mm2(worked)
    if draft.kind == "mask":
        values = {len(masses.shown) - 1}
    else:
        name = names_of(len(masses.shown))
        values = {k for k in range(len(masses.shown)) if k == step.value} or {
            k for k, word in enumerate(name) if step.title.endswith(word)
        }
    if step.value is not None and draft.kind in ("wash", "hatch"):
        values = set(range(step.value + 1))  # it covers all that is darker, too
    draft.border_mm = masking_line_mm(masses, values)
    draft.shapes = sum(masses.counts[k] for k in values)


def _pencil(worked: Worked) -> str:
    medium, hand = worked.study.medium.medium, worked.plan.work.hand
    return PENCIL_OF_HAND.get((medium, hand), PENCILS[medium])


def _frame_mm2(worked: Worked) -> float:
    return float(worked.frame_map.box.width * worked.frame_map.box.height)


def _subject_mm2(worked: Worked) -> float:
    frame, mm = _frame_mm2(worked), worked.frame_map.mm_per_px
    ringed = sum(pi * ring.radius_x_px * ring.radius_y_px * mm * mm for ring in worked.study.rings)
    return min(ringed, 0.5 * frame) if ringed else SUBJECT_SHARE * frame


def _lines_mm(worked: Worked) -> float:
    """Of what is carried over: the outlines of the masses; without them the rectangle and its halves."""
    box = worked.frame_map.box
    bare = 3.0 * float(box.width + box.height)
    if worked.masses is None:
        return bare
    return bare + worked.masses.border_mm


def _shape_count(masses: Masses | None) -> int:
    return sum(masses.counts) if masses is not None else 0
