"""Guides on the ground, each against its measures written out in metres and seen by the same camera."""

from __future__ import annotations

from math import cos, radians, sin

import numpy as np
import pytest
from tests.craft.test_camera import PHOTO

from mild_compass.craft.perspective.guide_lines import lines_of_guides, quick_lines
from mild_compass.craft.perspective.guide_readings import guide_readings
from mild_compass.craft.perspective.worked import work_out
from mild_compass.craft.reading import Reading
from mild_compass.craft.worked import worked_study
from mild_compass.plan.edits.perspective import add_guide, set_horizon
from mild_compass.plan.edits.references import begin_blank
from mild_compass.plan.guides import Guide
from mild_compass.plan.model import Plan
from mild_compass.plan.perspective import Horizon, PerspectivePlan

PLACE = (700.0, 900.0)
TURN = 25.0
ACROSS, BACK = (
    np.array([cos(radians(TURN)), sin(radians(TURN)), 0]),
    np.array([-sin(radians(TURN)), cos(radians(TURN)), 0]),
)
UP = np.array([0.0, 0.0, 1.0])


def drawn(guide: Guide):
    """The guide as it is drawn, the camera, and its first place on the ground."""
    plan = PerspectivePlan(horizon=Horizon(600.0), eye_m=1.6, guides=(guide,))
    worked = work_out(plan, PHOTO)
    (lines,) = lines_of_guides(plan, worked.horizon, worked.camera)
    return lines, worked.camera, worked.camera.on_ground([guide.points[0]])[0]


def segments(lines) -> np.ndarray:
    return np.concatenate([np.stack([line[:-1], line[1:]], 1) for line in lines])


def has(lines, camera, first, last) -> bool:
    """Whether a straight piece between two places of the scene is drawn, either way round."""
    wanted = camera.seen(np.array([first, last]))
    found = segments(lines)
    return bool(((np.abs(found - wanted).max((1, 2)) < 1e-6) | (np.abs(found - wanted[::-1]).max((1, 2)) < 1e-6)).any())


def test_a_box_has_its_twelve_edges_at_its_width_depth_and_height():
    lines, camera, at = drawn(Guide("g", "box", (PLACE,), width_m=2, depth_m=3, height_m=1.2, turn_deg=TURN))
    base = [at, at + 2 * ACROSS, at + 2 * ACROSS + 3 * BACK, at + 3 * BACK]
    for k in range(4):
        nxt = base[(k + 1) % 4]
        assert has(lines.lines, camera, base[k], nxt)
        assert has(lines.lines, camera, base[k] + 1.2 * UP, nxt + 1.2 * UP)
        assert has(lines.lines, camera, base[k], base[k] + 1.2 * UP)
    assert len(segments(lines.lines)) == 12


def test_a_gable_stands_over_the_middle_of_the_front_and_the_back():
    guide = Guide("g", "box", (PLACE,), width_m=2, depth_m=3, height_m=1.2, turn_deg=TURN, gable=True, rise_m=0.7)
    lines, camera, at = drawn(guide)
    front = at + ACROSS + 1.9 * UP
    assert has(lines.lines, camera, front, front + 3 * BACK)
    assert has(lines.lines, camera, at + 1.2 * UP, front)
    assert has(lines.lines, camera, at + 2 * ACROSS + 1.2 * UP, front)
    assert has(lines.lines, camera, at + ACROSS, front)
    assert has(lines.lines, camera, at + 3 * BACK + 1.2 * UP, front + 3 * BACK)


def test_a_floor_is_squares_of_its_width_centred_on_its_place():
    lines, camera, at = drawn(Guide("g", "floor", (PLACE,), width_m=0.5, count=4, turn_deg=TURN))
    for k in range(5):
        side = (k * 0.5 - 1) * ACROSS
        assert has(lines.lines, camera, at + side, at + side + 2 * BACK)
        assert has(lines.lines, camera, at - ACROSS + k * 0.5 * BACK, at + ACROSS + k * 0.5 * BACK)
    assert len(lines.lines) == 10
    assert lines.words == "squares of 0.5 m"


def test_a_row_at_a_distance_stands_that_far_apart_and_is_tied_above_and_below():
    guide = Guide("g", "row", (PLACE, (1100.0, 760.0)), count=4, height_m=0.9, spacing_m=1.3)
    lines, camera, at = drawn(guide)
    second = camera.on_ground([guide.points[1]])[0]
    step = 1.3 * (second - at) / np.linalg.norm(second - at)
    for k in range(4):
        assert has(lines.lines, camera, at + k * step, at + k * step + 0.9 * UP)
    for k in range(3):
        assert has(lines.lines, camera, at + k * step, at + (k + 1) * step)
        assert has(lines.lines, camera, at + k * step + 0.9 * UP, at + (k + 1) * step + 0.9 * UP)
    assert lines.words == "4 posts"


@pytest.mark.parametrize("points", [(PLACE, (1000.0, 780.0)), (PLACE, (1000.0, 780.0), (1133.3, 726.7))])
def test_a_row_by_its_first_posts_is_evenly_spaced_on_the_ground(points):
    guide = Guide("g", "row", points, count=3, height_m=0.9)
    lines, camera, at = drawn(guide)
    feet = camera.on_ground([line[0] for line in lines.lines if len(line) == 2])[:3]
    assert feet[0] == pytest.approx(at, abs=1e-6)
    assert feet[1] == pytest.approx(camera.on_ground([points[1]])[0], abs=2e-3)
    if len(points) == 2:
        assert feet[2] - feet[1] == pytest.approx(feet[1] - feet[0], rel=1e-5, abs=1e-6)


def test_a_line_is_divided_into_equal_parts_of_the_ground():
    guide = Guide("g", "division", (PLACE, (1200.0, 740.0)), count=4, height_m=1)
    lines, camera, at = drawn(guide)
    last = camera.on_ground([guide.points[1]])[0]
    for k in range(5):
        foot = at + (last - at) * k / 4
        assert has(lines.lines, camera, foot, foot + UP)


def test_an_arch_is_two_posts_and_a_half_circle_over_them():
    lines, camera, at = drawn(Guide("g", "arch", (PLACE,), width_m=2, height_m=1.5, turn_deg=TURN))
    assert has(lines.lines, camera, at + ACROSS, at + ACROSS + 1.5 * UP)
    assert has(lines.lines, camera, at - ACROSS, at - ACROSS + 1.5 * UP)
    crown = camera.seen([at + 2.5 * UP])[0]
    assert np.abs(lines.lines[0] - crown).max(1).min() < 1e-6
    assert lines.lines[0][:, 1].min() == pytest.approx(crown[1], abs=25)


def test_a_round_thing_has_its_width_and_the_same_circle_at_its_height():
    lines, camera, at = drawn(Guide("g", "circle", (PLACE,), width_m=1.4, height_m=0.8))
    ground, top = lines.lines[:2]
    around = camera.on_ground(ground)
    assert np.hypot(*(around - at)[:, :2].T) == pytest.approx(0.7)
    above = camera.on_ground(top, 0.8)
    assert np.hypot(*(above - at)[:, :2].T) == pytest.approx(0.7)
    for side in (0.7 * np.array([1.0, 0, 0]), 0.7 * np.array([0, 1.0, 0])):
        assert has(lines.lines, camera, at + side, at + side + 0.8 * UP)
        assert has(lines.lines, camera, at - side, at - side + 0.8 * UP)


def test_a_height_is_carried_to_another_place_and_told():
    eye = 1.6
    foot, other = (700.0, 900.0), (1100.0, 760.0)
    guide = Guide("g", "level line", (foot, (700.0, 675.0), other))
    lines, camera, at = drawn(guide)
    height = eye * (900 - 675) / 300  # by similar triangles: the eye is as high as the horizon over the foot
    there = camera.on_ground([other])[0]
    assert has(lines.lines, camera, at, at + height * UP)
    assert has(lines.lines, camera, there, there + height * UP)
    assert has(lines.lines, camera, at + height * UP, there + height * UP)
    assert lines.words == f"{height:.2f} m"


def test_a_rectangle_round_a_thing_keeps_its_size_where_it_is_carried():
    guide = Guide("g", "rectangle", ((600.0, 675.0), (800.0, 900.0), (1200.0, 760.0)))
    lines, camera, _ = drawn(guide)
    width = float(np.linalg.norm(np.subtract(*camera.on_ground([(800.0, 900.0), (600.0, 900.0)]))))
    here, there = lines.lines[:2]
    for frame in (here, there):
        corners = camera.on_ground(frame[:2])
        assert np.linalg.norm(corners[1] - corners[0]) == pytest.approx(width)
        assert camera.height_of(frame[1], frame[2]) == pytest.approx(1.6 * 225 / 300)
    assert camera.on_ground(there[:2]).mean(0) == pytest.approx(camera.on_ground([(1200.0, 760.0)])[0])


@pytest.mark.parametrize("kind", ["box", "floor", "row", "division", "arch", "circle"])
def test_the_quick_drawing_is_the_same_lines(kind):
    guide = Guide("g", kind, (PLACE, (1100.0, 760.0)), turn_deg=TURN, count=4)
    plan = PerspectivePlan(horizon=Horizon(600.0), guides=(guide,))
    worked = work_out(plan, PHOTO)
    (full,) = lines_of_guides(plan, worked.horizon, worked.camera)
    quick = quick_lines(plan, worked.horizon, worked.camera)
    points = np.concatenate(full.lines)
    for place in quick.reshape(-1, 2):
        assert np.abs(points - place).max(1).min() < 1e-6
    if kind not in ("arch", "circle"):
        assert len(quick) == len(segments(full.lines))


def told(*guides: Guide) -> dict[str, Reading]:
    """What is said of guides by hand, on a blank sheet whose horizon lies a third down."""
    plan = begin_blank().change(Plan())
    ground = plan.ground(plan.study)
    plan = set_horizon(Horizon(ground.height_px / 3)).change(plan)
    for each in guides:
        plan = add_guide(each).change(plan)
    TRIED[:] = [plan]
    return {each.label: each for each in guide_readings(worked_study(plan))}


TRIED: list[Plan] = []


def test_a_wall_built_on_the_horizon_is_told_and_brought_down_to_the_ground():
    plan = begin_blank().change(Plan())
    y = plan.ground(plan.study).height_px / 3
    said = told(Guide("g", "box", ((1500.0, y + 2.0),), name="barn wall"))
    assert "on the horizon instead of on the ground" in said["Built on the horizon"].text
    better = said["Built on the horizon"].remedy.change(TRIED[-1])
    assert [each.label for each in guide_readings(worked_study(better))] == []
    assert "Built on the horizon" not in told(Guide("g", "box", ((1500.0, y + 300.0),)))


def test_a_row_whose_gaps_stay_equal_is_told_and_closes_up():
    feet = ((900.0, 2400.0), (1300.0, 2100.0), (1700.0, 1800.0))
    said = told(Guide("g", "row", feet, name="poplars"))
    assert "do not close up" in said["Gaps"].text
    better = said["Gaps"].remedy.change(TRIED[-1])
    assert guide_readings(worked_study(better)) == []
    third = better.study.perspective.guides[0].points[2]
    # On the ground the second post stands midway between the two others.
    worked = work_out(better.study.perspective, better.ground(better.study))
    on_ground = worked.camera.on_ground([*feet[:2], third])
    assert on_ground[1] == pytest.approx((on_ground[0] + on_ground[2]) / 2, rel=1e-6)
    assert "Gaps" not in told(Guide("g", "row", (*feet[:2], third)))
