"""The steps for drawing a scene: every mark they tell is where the drawing has it, in either way."""

from __future__ import annotations

import re
from dataclasses import replace

import numpy as np
import pytest

from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.craft.stage.how_to_draw import Way, how_to_draw
from mild_compass.craft.worked import Worked, worked_study
from mild_compass.output.sheet_pages import block_in_pdf
from mild_compass.plan.edits.references import begin_blank
from mild_compass.plan.edits.stage import begin_scene, set_down
from mild_compass.plan.edits.viewfinder import choose_paper
from mild_compass.plan.model import Plan
from mild_compass.plan.stage import ROWS, KindOfThing, Thing, new_thing
from mild_compass.plan.stage_beginnings import BEGINNINGS


def worked(*things: Thing) -> Worked:
    plan = begin_blank().change(choose_paper(paper("A3", across=True)).change(Plan()))
    for thing in things:
        plan = set_down(thing).change(plan)
    found = worked_study(plan)
    assert found is not None
    return found


def on_frame(found: Worked, *points_m: tuple[float, float, float]) -> np.ndarray:
    """Scene points in mm from the frame's top left corner."""
    assert found.perspective.camera is not None
    box = found.frame_map.box
    return found.frame_map.to_sheet(found.perspective.camera.seen(points_m)) - (box.left, box.top)


def numbers(words: str) -> list[float]:
    return [float(each) for each in re.findall(r"\d+(?:\.\d+)?", words)]


HOUSE = new_thing("house", "h", -2.0, 14.0, turn_deg=30.0, width_m=4.0, depth_m=6.0, height_m=3.0, pitch_deg=20.0)


def test_horizon_points_and_first_upright_are_told_where_they_are():
    found = worked(HOUSE)
    steps = how_to_draw(found, "points")
    assert [step.title for step in steps[:4]] == ["The horizon", "The points", "The house", "The house: the rest"]
    height = found.frame_map.box.height
    assert numbers(steps[0].words)[:2] == pytest.approx([0.4 * height] * 2, abs=0.06)
    camera = found.perspective.camera
    assert camera is not None
    focal_mm = camera.focal.px * found.frame_map.mm_per_px
    middle = found.frame_map.box.width / 2
    # A house turned by 30 degrees: its points lie d·tan 30° and d / tan 30° from the middle of the horizon.
    left, right = focal_mm / np.tan(np.radians(30)) - middle, focal_mm * np.tan(np.radians(30)) - middle
    told = {word: value for value, word in re.findall(r"([\d.]+) mm (left|right) of the frame", steps[1].words)}
    inside = re.findall(r"([\d.]+) mm from the left on the horizon", steps[1].words)
    found_mm = sorted([*(float(value) for value in told.values()), *(float(value) for value in inside)])
    wanted = sorted([abs(left), right if right > 0 else right + 2 * middle])
    assert found_mm == pytest.approx(wanted, abs=0.2)
    # The nearest corner of the turned house is its front right one.
    t = np.radians(30.0)
    corner = (-2.0 + 2 * np.cos(t) - 3 * np.sin(t), 14.0 - 2 * np.sin(t) - 3 * np.cos(t))
    foot, top = on_frame(found, (*corner, 0.0), (*corner, 3.0))
    assert numbers(steps[2].words)[:3] == pytest.approx([foot[0], foot[1], top[1]], abs=0.06)


def test_the_ridge_stands_over_the_crossing_of_the_gables_diagonals():
    found = worked(HOUSE)
    words = how_to_draw(found, "points")[3].words
    t = np.radians(30.0)
    front = (-2.0 - 3 * np.sin(t), 14.0 - 3 * np.cos(t))
    ridge = on_frame(found, (*front, 3.0 + 2 * np.tan(np.radians(20))))[0]
    assert numbers(words)[:2] == pytest.approx(ridge.tolist(), abs=0.06)


def test_with_marks_on_the_frame_each_line_goes_through_its_corner():
    """A ruler from the foot of the nearest upright to the told mark passes through the other upright's foot."""
    found = worked(HOUSE)
    words = how_to_draw(found, "edge marks")[1].words
    box = found.frame_map.box
    t = np.radians(30.0)
    at = lambda x, y: (-2.0 + x * np.cos(t) + y * np.sin(t), 14.0 - x * np.sin(t) + y * np.cos(t))  # noqa: E731
    start = on_frame(found, (*at(2, -3), 0.0))[0]
    others = [on_frame(found, (*at(2, 3), 0.0))[0], on_frame(found, (*at(-2, -3), 0.0))[0]]
    marks = []
    for what, side, value in re.findall(
        r"From its (foot|top) to the (left edge|right edge|top|foot)[^,]*, ([\d.]+)", words
    ):
        if what == "foot":
            length = float(value)
            marks.append({"left edge": (0.0, length), "right edge": (box.width, length),
                          "top": (length, 0.0), "foot": (length, box.height)}[side])  # fmt: skip
    assert len(marks) == 2
    for mark, other in zip(marks, others, strict=True):
        way = np.array(mark) - start
        off = abs(way[0] * (other - start)[1] - way[1] * (other - start)[0]) / np.hypot(*way)
        assert off < 0.1


def test_a_row_is_told_post_by_post():
    found = worked(new_thing("post", "p", 1.0, 5.0, count=5, gap_m=2.0, row_deg=-90.0))
    words = next(step.words for step in how_to_draw(found, "points") if step.title == "The post")
    feet = on_frame(found, *((1.0, 5.0 + 2 * k, 0.0) for k in range(5)))
    assert numbers(words.rsplit("from the left:")[-1]) == pytest.approx(feet[:, 0].tolist(), abs=0.06)


@pytest.mark.parametrize("row", [row for row in ROWS if not row.pictured], ids=lambda row: row.name)
def test_every_kind_of_thing_is_told_by_what_its_row_says(row: KindOfThing):
    found = worked(new_thing(row.name, "it", -1.0, 16.0 + row.depth_m, name="it", count=1, turn_deg=30.0))
    told = " ".join(step.words for step in how_to_draw(found, "points") if step.title.startswith("It"))
    asked = {
        "Its edges run": row.flat,
        "nearest upright": row.square,
        "middle line": not row.flat and not row.square,
        "ellipses": row.rimmed,
        "ridge": row.roofed,
    }
    assert {words: words in told for words in asked} == asked
    assert bool(found.perspective.of_stage) == row.square


@pytest.mark.parametrize("way", ["points", "edge marks"])
@pytest.mark.parametrize("name", BEGINNINGS)
def test_every_beginning_has_steps_that_end_in_the_whole_drawing_and_a_pdf(name, way: Way):
    plan = begin_scene(name).change(Plan())
    found = worked_study(plan)
    assert found is not None
    steps = how_to_draw(found, way, "in")
    assert steps[0].title == "The horizon"
    assert steps[-1].title == "Lift"
    assert len(steps[-1].before) == sum(len(step.new) for step in steps)
    assert all(step.words.endswith(".") for step in steps)
    assert block_in_pdf(plan, steps, "how to draw it").startswith(b"%PDF")


def test_without_anything_on_the_stage_there_are_no_steps():
    assert how_to_draw(worked(), "points") == ()
    gone = worked(replace(HOUSE, y_m=-30.0))
    assert [step.title for step in how_to_draw(gone, "points")] == ["The horizon", "The points", "Lift"]
