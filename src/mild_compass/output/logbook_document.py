"""The logbook as a document: what was decided, the work, what came out, what was learned, with its pictures."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.check.study_check import TONED, study_check
from mild_compass.craft.logbook.planned_done import DoneRow, planned_and_done
from mild_compass.craft.logbook.questions import questions
from mild_compass.craft.logbook.timeline import Item, timeline, when
from mild_compass.craft.logbook.used import cautions, materials, pencil_for, times, way_of_working
from mild_compass.craft.picture.framed import framed_colour
from mild_compass.craft.picture.load import read_full, read_proxy
from mild_compass.craft.picture.study_picture import study_picture
from mild_compass.craft.picture.tone import grey_of_lightness
from mild_compass.craft.values.masses import study_masses
from mild_compass.craft.work.planned import hours
from mild_compass.craft.work.working_order import order_of, with_order
from mild_compass.craft.worked import worked_study
from mild_compass.output.document import Block, Entry, Figure, Heading, Table, Text, as_markdown, writer_of
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from mild_compass.craft.worked import Worked
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder
    from mild_compass.plan.record import AskedWhen

LONGEST_PX = 900
KINDS = {"check": "Check", "sitting": "Easel"}
ASKED: tuple[tuple[AskedWhen, str], ...] = (("before", "Before the first mark"), ("after", "After the last"))


def worked_out(plan: Plan, photos: PhotoFolder, check: Callable[[], None] = lambda: None) -> Worked | None:
    """The current study with its masses, and the drawing checked; None while there is no study.

    ``check`` is called between and may raise to call it off.
    """
    study = plan.study
    if study is None:
        return None
    picture = study_picture(plan, study, photos) if plan.has_picture(study) else None
    check()
    masses = study_masses(picture, study, plan.paper) if picture is not None else None
    check()
    drawing = plan.drawing
    if drawing is None:
        return with_order(worked_study(plan, masses=masses, picture=picture))
    rgb = read_full(photos.read(drawing.sha256, drawing.name), drawing.name)
    found = study_check(rgb, plan, drawing, picture, drawing.stage in TONED)
    return with_order(worked_study(plan, masses=masses, picture=picture, check=found.checked, tones=found.tones))


def logbook_blocks(plan: Plan, worked: Worked | None, photos: PhotoFolder, pictures: bool = True) -> list[Block]:
    """The whole document; ``pictures`` are left out where they cannot be shown."""
    blocks = _head(plan)
    if worked is not None:
        if pictures and worked.picture is not None:
            blocks.append(Figure(_framed(worked), f"Study {worked.study.name} as framed"))
        blocks += _done(worked)
    blocks += _answers(plan)
    if worked is not None:
        blocks += _work(plan, worked)
    return [*blocks, *_record(plan, worked, photos, pictures)]


def _head(plan: Plan) -> list[Block]:
    paper = plan.paper
    size = f"{paper.name}, {paper.width_mm:g} × {paper.height_mm:g} mm, margin {paper.margin_mm:g} mm."
    return [Heading(plan.name, 1), Text(size)]


def _framed(worked: Worked) -> np.ndarray:
    assert worked.picture is not None
    return framed_colour(worked.picture, worked.study.frame, worked.frame_map, LONGEST_PX)


def _done(worked: Worked) -> Iterator[Block]:
    rows = [row for row in planned_and_done(worked) if row.done or row.outcome != "open" or row.learned]
    if rows:
        yield Heading("Planned and done")
        yield Table(("Planned", "Came out", "Learned"), tuple(map(_row, rows)))


def _row(row: DoneRow) -> tuple[str, str, str]:
    outcome = "" if row.outcome == "open" else row.outcome.capitalize()
    came = ": ".join(part for part in (outcome, row.done) if part)
    return row.planned, came, row.learned


def _answers(plan: Plan) -> Iterator[Block]:
    for asked, title in ASKED:
        told = [each for each in questions(plan, asked) if each.text]
        if told:
            yield Heading(title)
            for each in told:
                yield Entry("", f"{each.question} {each.text}")


def _work(plan: Plan, worked: Worked) -> Iterator[Block]:
    order = worked.order or order_of(worked)
    yield Heading("The work")
    yield Text(f"{way_of_working(worked.study).capitalize()}. Pencil: {pencil_for(plan, worked.study)}.")
    if plan.sittings:
        rows = []
        for sitting in plan.sittings:
            done = ", ".join(step.title for step in sitting.steps if step.done)
            rows.append((" ".join(when(sitting.started)), hours(sitting.minutes), done))
        yield Table(("Sitting", "Hands on it", "Done"), tuple(rows))
    spent = times(plan)
    if spent:
        yield Text("Time: " + ", ".join(f"{name} {time}" for name, time in spent) + ".")
    yield Text("Used: " + "; ".join(materials(plan, order)) + ".")
    for each in cautions(plan, worked.study):
        yield Entry("", each)


def _record(plan: Plan, worked: Worked | None, photos: PhotoFolder | None, pictures: bool) -> Iterator[Block]:
    yield Heading("In order")
    day = ""
    for item in timeline(plan):
        date, clock = when(item.time)
        if date != day:
            day = date
            yield Heading(date or "No date", 3)
        study = f", study {item.study}" if item.study else ""
        where = KINDS.get(item.kind, item.station.capitalize())
        words = f"“{item.text}”" if item.kind == "note" else item.text
        yield Entry(clock, f"{where}{study} · {words}")
        if pictures and photos is not None:
            yield from _picture(item, plan, worked, photos)


def _picture(item: Item, plan: Plan, worked: Worked | None, photos: PhotoFolder) -> Iterator[Block]:
    """The picture beside a line, where it can still be made."""
    if item.picture is None:
        return
    if item.picture.kind == "drawing":
        drawing = next(each for each in plan.drawings if each.id == item.picture.name)
        try:
            rgb = read_proxy(photos.read(drawing.sha256, drawing.name), drawing.name, LONGEST_PX).rgb
        except PlanError:
            return
        yield Figure(rgb, f"The drawing, {drawing.stage}")
    elif worked is not None and item.picture.name == worked.study.name:
        if item.picture.kind == "frame" and worked.picture is not None:
            yield Figure(_framed(worked), "The frame as it is now")
        elif item.picture.kind == "masses" and worked.masses is not None:
            grey = grey_of_lightness(worked.masses.painted(LONGEST_PX))
            yield Figure(np.repeat(grey[..., None], 3, 2), "The masses as they are now")


def logbook_markdown(plan: Plan, worked: Worked | None = None, photos: PhotoFolder | None = None) -> str:
    """The document as text; without a worked study what is on record alone."""
    if worked is None or photos is None:
        return as_markdown([*_head(plan), *_answers(plan), *_record(plan, None, None, False)])
    return as_markdown(logbook_blocks(plan, worked, photos, pictures=False))


def logbook_file(suffix: str, plan: Plan, photos: PhotoFolder, check: Callable[[], None] = lambda: None) -> bytes:
    """The document in the kind a suffix names.

    Raises:
        PlanError: it cannot be written in that kind.
    """
    writer = writer_of(suffix)
    if writer is None:
        raise PlanError(f"A logbook cannot be written as “{suffix}”. Known are .md, .html and .pdf.")
    worked = worked_out(plan, photos, check)
    return writer(plan.name, logbook_blocks(plan, worked, photos, pictures=suffix != ".md"))
