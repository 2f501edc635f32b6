"""What four plans tell and draw, to the word and to the hundredth: as it was looked at and found right.

A change that is meant is written anew with ``python -m tests.output.test_told`` and read in the difference.
"""

from __future__ import annotations

import re
import tempfile
from collections.abc import Callable, Iterator
from dataclasses import replace
from itertools import zip_longest
from pathlib import Path
from typing import get_args

import pytest

from mild_compass.craft.armature.report import lock_report
from mild_compass.craft.armature.steps import construction_steps
from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.perspective.string_table import string_rows
from mild_compass.craft.perspective.worked import work_out
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


def opened(name: str, photos: PhotoFolder) -> Plan:
    if name in SCENES:
        return plan_of(name, photos)
    return archive.read(HERE / "plan" / "saved" / f"{name}-1.mildplan", photos)


def masses_of(plan: Plan, photos: PhotoFolder) -> Masses:
    assert plan.study is not None
    return find_masses(study_picture(plan, plan.study, photos), plan.study.frame, plan.paper, plan.study.values)


def worked_without(plan: Plan) -> Worked:
    worked = worked_study(plan, None)
    assert worked is not None
    return worked


def readings(plan: Plan, photos: PhotoFolder) -> Iterator[str]:
    study = plan.study
    assert study is not None
    picture, locks = study_picture(plan, study, photos), lock_report(study, plan.ground(study), plan.paper)
    worked = worked_study(plan, masses_of(plan, photos), picture=picture, locks=locks)
    assert worked is not None
    for station in STATIONS:
        yield f"= {station.headline(worked)}"
        for row in readings_of(station.name, worked):
            remedy = row.remedy.label if row.remedy else "none"
            yield f"{row.verdict}: {row.text} [{row.key} {row.number} {row.unit}; {row.shown}; remedy: {remedy}]"
            for line in row.place.lines_mm if row.place else ():
                yield "  " + " ".join(f"{x:.1f},{y:.1f}" for x, y in line[:6])


def drawing(plan: Plan, _: PhotoFolder) -> Iterator[str]:
    study = plan.study
    assert study is not None
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


def words(plan: Plan, _: PhotoFolder) -> Iterator[str]:
    study, worked = plan.study, worked_without(plan)
    assert study is not None
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


def media(plan: Plan, photos: PhotoFolder) -> Iterator[str]:
    masses = masses_of(plan, photos)
    assert plan.study is not None
    for medium in get_args(Medium):
        work = medium_work(masses, replace(plan.study.medium, medium=medium))
        yield f"= {medium}"
        for step in work.steps:
            yield f"{step.title}: {step.words} [{100 * step.mask.mean():.1f} %, then {step.after.mean():.1f}]"
        yield from work.warnings
    for step in block_in(plan.study, FrameMap.of(plan.study.frame, plan.paper), masses, None):
        yield f"{step.title}: {step.words}"


def frames(plan: Plan, photos: PhotoFolder) -> Iterator[str]:
    study = plan.study
    assert study is not None
    box = worked_without(plan).frame_map.box
    ratio = box.width / box.height
    for found in find_frames(
        study_picture(plan, study, photos), study, plan.ground(study), ratio, Ask(leave_out=False)
    ):
        frame = found.frame
        yield f"{frame.x_px:.0f},{frame.y_px:.0f} {frame.width_px:.0f} x {frame.height_px:.0f}: {found.score:.3f}"
        yield from found.reasons


TOPICS: dict[str, Callable[[Plan, PhotoFolder], Iterator[str]]] = {
    "readings": readings,
    "drawing": drawing,
    "words": words,
    "media": media,
    "frames": frames,
}


def told(name: str, topic: str) -> list[str]:
    with tempfile.TemporaryDirectory() as folder:
        photos = PhotoFolder(Path(folder))
        return "\n".join(TOPICS[topic](opened(name, photos), photos)).splitlines()


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
