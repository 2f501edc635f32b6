"""What four plans tell and draw, to the word and to the hundredth: as it was looked at and found right.

A change that is meant is written anew with ``python -m tests.output.test_told`` and read in the difference.
"""

from __future__ import annotations

import re
import tempfile
from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import cache, cached_property
from itertools import zip_longest
from pathlib import Path
from typing import get_args

import pytest

from mild_compass.craft.armature.report import lock_report
from mild_compass.craft.armature.steps import construction_steps
from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.perspective.string_table import string_rows
from mild_compass.craft.perspective.worked import work_out
from mild_compass.craft.picture.load import Picture
from mild_compass.craft.picture.study_picture import study_picture
from mild_compass.craft.sheet.block_in import block_in
from mild_compass.craft.sheet.layers import sheet_drawing
from mild_compass.craft.sheet.lifting import to_lift
from mild_compass.craft.sheet.transfer import transfer_guide
from mild_compass.craft.stations import STATIONS, readings_of
from mild_compass.craft.values.masses import Masses, find_masses
from mild_compass.craft.values.medium import medium_work
from mild_compass.craft.viewfinder.search import Ask, find_frames
from mild_compass.craft.worked import Worked, worked_study
from mild_compass.demo import SCENES, plan_of
from mild_compass.output.logbook_document import logbook_markdown
from mild_compass.output.measures_csv import measures_csv
from mild_compass.plan import archive
from mild_compass.plan.model import Plan
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.sheet import METHODS, SHEET_LAYERS
from mild_compass.plan.structure import Construction
from mild_compass.plan.tones import Medium

HERE = Path(__file__).parent.parent
PLANS = (*SCENES, "every-mark")
NUMBER = re.compile(r"-?\d+(?:\.\d+)?")
DRAWN = tuple(layer for layer in SHEET_LAYERS if layer not in ("picture", "masses", "lines"))


class Opened:
    """A plan with all that is made of it, made once for every topic."""

    def __init__(self, name: str) -> None:
        self._folder = tempfile.TemporaryDirectory()
        self.photos = PhotoFolder(Path(self._folder.name))
        saved = HERE / "plan" / "saved" / f"{name}-1.mildplan"
        self.plan = plan_of(name, self.photos) if name in SCENES else archive.read(saved, self.photos)
        assert self.plan.study is not None
        self.study = self.plan.study

    @cached_property
    def picture(self) -> Picture:
        return study_picture(self.plan, self.study, self.photos)

    @cached_property
    def masses(self) -> Masses:
        return find_masses(self.picture, self.study.frame, self.plan.paper, self.study.values)


opened = cache(Opened)


def worked_without(plan: Plan) -> Worked:
    worked = worked_study(plan)
    assert worked is not None
    return worked


def readings(one: Opened) -> Iterator[str]:
    plan, study = one.plan, one.study
    locks = lock_report(study, plan.ground(study), plan.paper)
    worked = worked_study(plan, masses=one.masses, picture=one.picture, locks=locks)
    assert worked is not None
    for station in STATIONS:
        yield f"= {station.headline(worked)}"
        for row in readings_of(station.name, worked):
            remedy = row.remedy.label if row.remedy else "none"
            yield f"{row.verdict}: {row.text} [{row.key} {row.number} {row.unit}; {row.shown}; remedy: {remedy}]"
            for line in row.place.lines_mm if row.place else ():
                yield "  " + " ".join(f"{x:.1f},{y:.1f}" for x, y in line[:6])


def drawing(one: Opened) -> Iterator[str]:
    plan, study = one.plan, one.study
    drawn = sheet_drawing(study, plan.paper, work_out(study.perspective, plan.ground(study)), None, DRAWN)
    for layer in drawn.layers:
        yield f"= {layer.name} {layer.title}"
        for mark in layer.strokes:
            points = mark.points_mm if len(mark.points_mm) <= 4 else mark.points_mm[:: len(mark.points_mm) // 3]
            where = " ".join(f"{x:.2f},{y:.2f}" for x, y in points.tolist())
            yield f"{mark.ink} {mark.width_mm} {mark.dash} {len(mark.points_mm)}: {where}"
        for label in layer.labels:
            yield f"{label.text} {label.x_mm:.2f},{label.y_mm:.2f} {label.size_mm} {label.anchor}"
    yield from map(str, to_lift(drawn, study.sheet))


def words(one: Opened) -> Iterator[str]:
    plan, study = one.plan, one.study
    worked = worked_without(plan)
    for construction in get_args(Construction):
        yield f"= {construction}"
        yield from construction_steps(construction, worked.frame_map.box, "mm")
    for method in METHODS:
        guide = transfer_guide(worked, method)
        yield f"= {guide.title}"
        yield from (*guide.to_print, *guide.steps)
    yield from map(str, string_rows(study, worked.perspective, FrameMap.of(study.frame, plan.paper)))
    yield measures_csv(plan)
    yield logbook_markdown(plan)


def media(one: Opened) -> Iterator[str]:
    plan, masses = one.plan, one.masses
    for medium in get_args(Medium):
        work = medium_work(masses, replace(one.study.medium, medium=medium))
        yield f"= {medium}"
        for step in work.steps:
            yield f"{step.title}: {step.words} [{100 * step.mask.mean():.1f} %, then {step.after.mean():.1f}]"
        yield from work.warnings
    for step in block_in(one.study, FrameMap.of(one.study.frame, plan.paper), masses, None):
        yield f"{step.title}: {step.words}"


def frames(one: Opened) -> Iterator[str]:
    plan, study = one.plan, one.study
    box = worked_without(plan).frame_map.box
    ratio = box.width / box.height
    for found in find_frames(one.picture, study, plan.ground(study), ratio, Ask(leave_out=False)):
        frame = found.frame
        yield f"{frame.x_px:.0f},{frame.y_px:.0f} {frame.width_px:.0f} x {frame.height_px:.0f}: {found.score:.3f}"
        yield from found.reasons


TOPICS: dict[str, Callable[[Opened], Iterator[str]]] = {
    "readings": readings,
    "drawing": drawing,
    "words": words,
    "media": media,
    "frames": frames,
}


def told(name: str, topic: str) -> list[str]:
    return "\n".join(TOPICS[topic](opened(name))).splitlines()


def record(name: str, topic: str) -> Path:
    return HERE / "data" / "told" / f"{name}-{topic}.txt"


def same(line: str, before: str) -> bool:
    """The same words, and numbers that differ by no more than another machine's rounding."""
    if NUMBER.sub("#", line) != NUMBER.sub("#", before):
        return False
    pairs = zip(map(float, NUMBER.findall(line)), map(float, NUMBER.findall(before)), strict=True)
    return all(abs(a - b) <= 0.011 + 1e-4 * abs(b) for a, b in pairs)


@pytest.mark.parametrize("topic", TOPICS)
@pytest.mark.parametrize("name", PLANS)
def test_the_plan_tells_what_was_found_right(name, topic):
    before = record(name, topic).read_text().splitlines()
    for line, kept in zip_longest(told(name, topic), before, fillvalue=""):
        assert same(line, kept), f"now: {line}\nthen: {kept}"


if __name__ == "__main__":
    for each in PLANS:
        for part in TOPICS:
            record(each, part).write_text("\n".join(told(each, part)) + "\n")
