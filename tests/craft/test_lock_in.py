"""Lock-in, the chance model, the nudge, engagement and the eye's path."""

from __future__ import annotations

from dataclasses import replace
from math import hypot

import numpy as np
import pytest
from scipy import stats
from tests.conftest import NOON

from mild_compass.craft.armature.chance import Bench, Moves, holm, trials
from mild_compass.craft.armature.constructions import in_box, lines_of
from mild_compass.craft.armature.engagement import engagement
from mild_compass.craft.armature.eye_path import along_share, nearest_mm, outside_share, smoothed_path
from mild_compass.craft.armature.lock_in import Marks, Tolerance, locked
from mild_compass.craft.armature.marks import armatures
from mild_compass.craft.armature.nudge import nudge
from mild_compass.craft.armature.report import lock_report, times_in_100, verdict_words
from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.geometry.lines import Box, clipped, parts_inside
from mild_compass.craft.stations import readings_of, station
from mild_compass.craft.worked import worked_study
from mild_compass.plan.edits.armature import (
    add_big_line,
    add_key_point,
    add_own_lines,
    change_big_line,
    choose_armature,
    draw_eye_path,
    follow_school,
    place_themes,
    remove_own_line,
    set_tolerance,
    style_construction,
    take_found_lines,
)
from mild_compass.plan.edits.base import with_study
from mild_compass.plan.edits.references import add_reference, use_reference
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import is_beyond
from mild_compass.plan.pictures import Reference
from mild_compass.plan.structure import CONSTRUCTION_NAMES, MOST_LINES, BigLine, KeyPoint, LineStyle, OwnLine, Structure
from mild_compass.plan.study import Frame, KeepArea, Ring

BOX = Box(15, 15, 405, 282)
DIAGONAL = hypot(BOX.width, BOX.height)
NEAR = Tolerance(0.01 * DIAGONAL, 3.0)


def fourteen(box: Box = BOX) -> np.ndarray:
    return in_box(lines_of("fourteen", box.width / box.height), box)


def marks(lines, contrast=None, points=()) -> Marks:
    lines = np.asarray(lines, np.float64).reshape(-1, 2, 2)
    return Marks(
        lines, np.full(len(lines), 20.0) if contrast is None else np.asarray(contrast), np.reshape(points, (-1, 2))
    )


def random_lines(seed: int, count: int) -> Marks:
    """Lines that know nothing of the frame: places, directions and lengths by chance."""
    rng = np.random.default_rng(seed)
    middle = rng.uniform(-0.4, 1.4, (count, 2)) * (BOX.width, BOX.height) + BOX[:2]
    angle, length = rng.uniform(0, np.pi, count), rng.uniform(0.05, 0.5, count) * DIAGONAL
    half = np.stack([np.cos(angle), np.sin(angle)], 1) * length[:, None] / 2
    return marks(np.stack([middle - half, middle + half], 1), rng.uniform(5, 40, count))


# -- one frame ------------------------------------------------------------------------------------------------


def test_a_line_on_the_armature_locks_and_its_distance_and_angle_are_told():
    diagonal = np.array([[15.0, 15.0], [405.0, 282.0]])
    way = (diagonal[1] - diagonal[0]) / DIAGONAL
    off = np.array([-way[1], way[0]])
    part = diagonal[0] + np.array([[0.2], [0.7]]) * (diagonal[1] - diagonal[0])
    held = locked(marks([part, part + 3 * off, part + 6 * off]), fourteen(), BOX, NEAR)
    assert held.off_mm[:2] == pytest.approx([0, 3], abs=1e-9)
    assert held.locks.tolist() == [True, True, False]  # 1 % of the diagonal is 4.7 mm
    assert held.angle_deg[0] == pytest.approx(0, abs=1e-6)
    assert (held.locked, held.counted) == (2, 3)
    assert held.score == pytest.approx(2 / 3, abs=0.01)


def test_the_mean_distance_of_a_line_that_crosses_is_that_of_its_points():
    line = np.array([[100.0, 148.5 - 4], [300.0, 148.5 + 6]])
    level = np.array([[[15.0, 148.5], [405.0, 148.5]]])
    wanted = np.abs(np.linspace(-4, 6, 100_001)).mean()
    assert locked(marks([line]), level, BOX, NEAR).off_mm[0] == pytest.approx(wanted, abs=1e-3)


def test_only_the_part_inside_the_frame_counts_and_length_times_contrast_weighs():
    level = [[-200.0, 148.5], [210.0, 148.5]]
    upright = [[300.0, 30.0], [300.0, 130.0]]
    halves = in_box(lines_of("halves", 1.46), BOX)
    held = locked(marks([level, upright], [10.0, 30.0]), halves, BOX, NEAR)
    assert held.inside_mm == pytest.approx([195, 100])
    assert held.score == pytest.approx(195 * 10 / (195 * 10 + 100 * 30))


def test_lines_outside_points_and_nothing_at_all():
    outside = [[-50.0, 500.0], [300.0, 600.0]]
    held = locked(marks([outside]), fourteen(), BOX, NEAR)
    assert (held.counted, held.locked, held.score) == (0, 0, 0)
    middle = ((BOX.left + BOX.right) / 2, (BOX.top + BOX.bottom) / 2)
    held = locked(marks([], points=[middle, (60.0, 140.0), (900.0, 0.0)]), fourteen(), BOX, NEAR)
    assert held.point_locks.tolist() == [True, False, False]
    assert locked(marks([]), np.zeros((0, 2, 2)), BOX, NEAR).counted == 0
    assert locked(marks([outside]), np.zeros((0, 2, 2)), BOX, NEAR).locked == 0


def test_clipping_many_is_clipping_each():
    found = random_lines(4, 200).lines
    parts, inside = parts_inside(found, BOX)
    for line, part, within in zip(found, parts, inside, strict=True):
        one = clipped(line[0], line[1], BOX)
        assert (one is not None and np.ptp(one, axis=0).max() > 1e-9) == within
        if within:
            assert part == pytest.approx(one)


# -- chance ---------------------------------------------------------------------------------------------------


def test_the_scores_of_many_frames_are_those_of_each_judged_alone():
    """Moving the frame one way is moving the lines the other way."""
    found = random_lines(11, 40)
    found = Marks(found.lines, found.contrast, np.array([[100.0, 100.0], [220.0, 160.0]]))
    lines = {name: in_box(lines_of(name, BOX.width / BOX.height), BOX) for name in ("fourteen", "phi", "thirds")}
    wide = Tolerance(0.03 * DIAGONAL, 8.0)
    moves = Moves.random(25, 3)
    scores = Bench(found, lines, BOX, wide).scores(moves)
    for k in range(25):
        seen = Marks(moves.seen(found.lines, BOX)[k], found.contrast, moves.seen(found.points, BOX)[k])
        inside = [BOX.left <= x <= BOX.right and BOX.top <= y <= BOX.bottom for x, y in seen.points]
        for column, name in enumerate(lines):
            held = locked(Marks(seen.lines, seen.contrast, seen.points[inside]), lines[name], BOX, wide)
            assert scores[k, column] == pytest.approx(held.score, abs=1e-9)


def test_on_pictures_made_of_random_lines_p_is_uniform():
    """With so many lines and so wide a tolerance that ties are rare; Kolmogorov-Smirnov over 150 pictures."""
    wide, lines = Tolerance(0.03 * DIAGONAL, 8.0), {"fourteen": fourteen()}
    ps = [trials(random_lines(100 + k, 60), lines, BOX, wide, 199)[0].p for k in range(150)]
    assert stats.kstest(ps, "uniform").pvalue > 0.05


def test_at_the_usual_tolerance_chance_is_never_mistaken_for_design_too_often():
    """Ties make p larger, never smaller: at most 5 in 100 random pictures come out at 0.05 or less, with slack."""
    lines = {"fourteen": fourteen()}
    ps = np.array([trials(random_lines(500 + k, 30), lines, BOX, NEAR, 199)[0].p for k in range(150)])
    assert (ps <= 0.05).mean() <= 0.09


def test_a_picture_built_on_an_armature_is_hardly_chance():
    rng, box = np.random.default_rng(8), Box(0, 0, 300, 220)
    lines = fourteen(box)
    share = np.sort(rng.uniform(0, 1, (14, 2)), 1)[..., None]
    built = lines[:, :1] + share * (lines[:, 1:] - lines[:, :1]) + rng.normal(0, 0.6, (14, 2, 2))
    found = trials(marks(built), armatures(Structure(), box), box, Tolerance(3.7, 3.0))
    assert found[0].construction == "fourteen"
    assert found[0].p < 0.01
    assert found[0].evidence
    assert "hardly chance" in verdict_words(found[0], len(found))


def test_the_same_lines_give_the_same_numbers():
    names = {"fourteen": fourteen()}
    one, two = (trials(random_lines(1, 20), names, BOX, NEAR)[0] for _ in range(2))
    assert (one.p, one.chance_mean) == (two.p, two.chance_mean)


def test_holms_correction():
    """S. Holm, 1979: the smallest of m times m, the next times m - 1, never falling, at most 1."""
    assert holm(np.array([0.01, 0.04, 0.03, 0.005])) == pytest.approx([0.03, 0.06, 0.06, 0.02])
    assert holm(np.array([0.6, 0.9])) == pytest.approx([1, 1])


@pytest.mark.parametrize(
    ("p", "words"), [(0.31, "31 times in 100"), (0.01, "once in 100"), (0.002, "less than once in 100")]
)
def test_a_share_is_told_as_people_say_it(p, words):
    assert times_in_100(p) == words


# -- in a plan ------------------------------------------------------------------------------------------------


def with_lines(plan, *lines: BigLine, **changes):
    study = replace(plan.study, structure=replace(plan.study.structure, lines=lines), **changes)
    return with_study(plan, study)


def on_diagonal(plan, dx: float = 0.0, dy: float = 0.0) -> BigLine:
    """A line along the frame's falling diagonal, shifted by so many photo pixels."""
    frame = plan.study.frame
    x, y, w, h = frame.x_px + dx, frame.y_px + dy, frame.width_px, frame.height_px
    return BigLine(x + 0.1 * w, y + 0.1 * h, x + 0.9 * w, y + 0.9 * h, "the ramp")


def said(plan, key: str):
    report = lock_report(plan.study, plan.references[0], plan.paper)
    worked = worked_study(plan, locks=report)
    return next((each for each in readings_of("armature", worked) if each.key == key), None)


def small(plan):
    """The plan with a frame that has room about it."""
    width = 300.0
    return with_study(plan, replace(plan.study, frame=Frame(150, 100, width, width / plan.paper.ratio)))


def test_nudging_locks_a_line_that_lies_just_beside_the_diagonal(plan):
    near = small(plan)
    near = with_lines(near, on_diagonal(near, 0.0, 12.0))
    found = nudge(near.study, near.references[0], near.paper)
    assert found is not None
    assert (found.before, found.after) == (0, 1)
    assert not is_beyond(found.frame, near.references[0])
    reading = said(near, "nudge")
    after = reading.remedy.change(near)
    assert lock_report(after.study, near.references[0], near.paper).trial("diagonals").locked.score == 1


def test_a_nudge_keeps_what_must_be_inside(plan):
    near = small(plan)
    frame = near.study.frame
    near = with_lines(near, on_diagonal(near, 0.0, 12.0), rings=(Ring(160, 110, 9, 9),))
    kept = KeepArea(frame.x_px + 1, frame.y_px + 1, frame.x_px + frame.width_px - 1, frame.y_px + frame.height_px - 1)
    held = with_study(near, replace(near.study, keep=(kept,)))
    found = nudge(held.study, near.references[0], near.paper)
    if found is not None:
        assert found.frame.x_px <= kept.left_px
        assert found.frame.y_px <= kept.top_px
        assert found.frame.x_px + found.frame.width_px >= kept.right_px
    assert nudge(small(plan).study, plan.references[0], plan.paper) is None  # nothing to lock


def test_the_verdict_counts_and_names_and_the_headline_too(plan):
    locked_plan = with_lines(small(plan), on_diagonal(small(plan)))
    assert "1 of 1" in said(locked_plan, "lock_in").text
    assert said(locked_plan, "chance_fourteen").unit == "p"
    assert station("armature").headline(worked_study(locked_plan)) == "1 of 1 lock"
    assert said(plan, "lock_in").text.startswith("No big lines yet")
    outside = with_lines(small(plan), BigLine(0, 0, 20, 5))
    assert "outside the viewfinder" in said(outside, "lock_in").text


def test_without_a_grid_the_fourteen_lines_judge_afterwards(plan):
    free = follow_school("no grid").apply(with_lines(small(plan), on_diagonal(small(plan))), NOON)
    assert free.study.armature == ()
    assert said(free, "lock_in") is None
    assert said(free, "chance_fourteen") is not None


def test_engagement_names_the_weak_line_and_extends_it(plan):
    """A level line through the whole frame and a post of a third of its height."""
    near = small(plan)
    frame = near.study.frame
    bottom = frame.y_px + frame.height_px
    wall = BigLine(100, 200, 500, 202, "the wall")
    post = BigLine(260, bottom - 10, 261, bottom - 10 - frame.height_px / 3, "the post")
    both = with_lines(near, wall, post)
    assert said(both, "engaged_level").verdict == "fine"
    weak = said(both, "engaged_upright")
    assert weak.verdict == "look"
    assert "The post covers only 33 %" in weak.text
    extended = weak.remedy.change(both).study.departures[0]
    assert (extended.kind, extended.name) == ("extend a line", "the post")
    assert extended.points[1][1] == pytest.approx(frame.y_px, abs=0.5)  # up to the top edge, the far one
    assert said(with_lines(near, post), "engaged_level").shown == "none"


def test_pieces_of_one_line_engage_together():
    pieces = [[[15, 100], [120, 101]], [[100, 100], [200, 100]], [[300, 101], [405, 101]], [[15, 200], [200, 200]]]
    (level,) = [each for each in engagement(marks(pieces), BOX) if each.way == "level"]
    assert level.share == pytest.approx(290 / 390, abs=0.002)
    assert level.members == (0, 1, 2)


# -- the eye's path -------------------------------------------------------------------------------------------


def test_a_path_keeps_its_ends_is_softened_and_its_turns_are_found():
    corner = np.array([[50.0, 250.0], [200.0, 250.0], [200.0, 60.0]])
    wobble = np.random.default_rng(2).normal(0, 1.0, (3, 2))
    path = smoothed_path(corner + wobble, DIAGONAL)
    assert path.points[0] == pytest.approx(corner[0] + wobble[0])
    assert path.points[-1] == pytest.approx(corner[2] + wobble[2])
    assert len(path.turns) == 1
    assert np.hypot(*(path.points[path.turns[0]] - (200, 250))) < 25
    assert smoothed_path([[50.0, 250.0], [390.0, 30.0]], DIAGONAL).turns == ()


def test_whether_a_path_leaves_and_what_it_comes_by():
    inside = smoothed_path([[30.0, 250.0], [200.0, 148.0], [390.0, 40.0]], DIAGONAL)
    assert outside_share(inside, BOX) == 0
    leaving = smoothed_path([[210.0, 150.0], [600.0, 150.0]], DIAGONAL)
    assert outside_share(leaving, BOX) == pytest.approx(195 / 390, abs=0.02)
    assert nearest_mm(inside, (200.0, 148.0)) < 8


def test_a_path_along_the_diagonal_follows_the_armature_and_one_across_it_does_not():
    diagonal = in_box(lines_of("diagonals", BOX.width / BOX.height), BOX)
    along = smoothed_path(diagonal[0], DIAGONAL)
    assert along_share(along, diagonal, NEAR) == pytest.approx(1.0)
    square = smoothed_path([[100.0, 40.0], [320.0, 40.0]], DIAGONAL)
    assert along_share(square, diagonal, NEAR) < 0.1
    assert along_share(square, np.zeros((0, 2, 2)), NEAR) == 0
    assert smoothed_path([[5.0, 5.0], [5.0, 5.0]], DIAGONAL) is None


def test_readings_of_a_path_that_leaves(plan):
    drawn = draw_eye_path(((300.0, 200.0), (590.0, 210.0))).apply(small(plan), NOON)
    assert said(drawn, "path_leaves").verdict == "look"
    assert said(drawn, "path_along").unit == "% along"
    assert said(draw_eye_path(()).apply(drawn, NOON), "path_leaves") is None


# -- edits ----------------------------------------------------------------------------------------------------


def test_a_school_brings_its_constructions_and_styles_are_kept_by_name(plan):
    thirds = follow_school("thirds").apply(plan, NOON)
    assert (thirds.study.school, thirds.study.armature) == ("thirds", ("thirds",))
    style = LineStyle("thirds", "chalk white", 0.5)
    styled = style_construction(style).apply(thirds, NOON)
    assert styled.study.structure.style("thirds") == style
    assert styled.study.structure.style("fourteen") == LineStyle("fourteen")
    layer_plan = choose_armature(("thirds", "root 2")).apply(place_themes("first", 2).apply(styled, NOON), NOON)
    from mild_compass.craft.sheet.layers import armature_layer

    layer = armature_layer(
        FrameMap.of(plan.study.frame, plan.paper).box, layer_plan.study.armature, layer_plan.study.structure
    )
    assert [stroke.ink for stroke in layer.strokes[:4]] == ["chalk"] * 4
    assert layer.strokes[0].width_mm == 0.5
    assert all(stroke.ink == "armature" for stroke in layer.strokes[4:])


def test_own_lines_are_added_once_and_removed(plan):
    upright = OwnLine(0.25, 0, 0.25, 1, "upright")
    twice = add_own_lines((upright, upright)).apply(add_own_lines((upright,)).apply(plan, NOON), NOON)
    assert twice.study.structure.own == (upright,)
    assert remove_own_line(0).apply(twice, NOON).study.structure.own == ()


def test_found_lines_replace_those_without_a_name(plan):
    named, plain, fresh = BigLine(0, 0, 100, 5, "the quay"), BigLine(0, 50, 100, 50), BigLine(0, 90, 300, 95)
    drawn = add_big_line(plain).apply(add_big_line(named).apply(plan, NOON), NOON)
    found = take_found_lines((fresh,)).apply(drawn, NOON)
    assert found.study.structure.lines == (named, fresh)
    with pytest.raises(PlanError, match="No long straight edge"):
        take_found_lines(()).apply(plan, NOON)
    assert change_big_line(0, None).apply(found, NOON).study.structure.lines == (fresh,)


def test_another_photo_takes_its_lines_along(plan):
    drawn = add_key_point(KeyPoint(5, 5)).apply(add_big_line(BigLine(0, 0, 100, 5)).apply(plan, NOON), NOON)
    other = add_reference(Reference("photo-2", "shed.jpg", "cd" * 32, 600, 400)).apply(drawn, NOON)
    moved = use_reference("photo-2").apply(other, NOON)
    assert (moved.study.structure.lines, moved.study.structure.points) == ((), ())


@pytest.mark.parametrize(
    "make",
    [
        lambda: BigLine(1, 1, 1, 1),
        lambda: BigLine(0, 0, float("nan"), 1),
        lambda: BigLine(0, 0, 1, 1, "", 200),
        lambda: OwnLine(0.5, 0.5, 0.5, 0.5),
        lambda: OwnLine(0, 0, 9, 9),
        lambda: KeyPoint(float("inf"), 0),
        lambda: LineStyle("thirds", "iron oxide", 9),
        lambda: Structure(near_share=0.2),
        lambda: Structure(angle_deg=0),
        lambda: Structure(nested=9),
        lambda: Structure(eye_path=((1.0, 1.0),)),
        lambda: Structure(lines=tuple(BigLine(0, k, 9, k) for k in range(MOST_LINES + 1))),
    ],
)
def test_what_makes_no_sense_cannot_be_made(make):
    with pytest.raises(PlanError) as caught:
        make()
    assert str(caught.value).endswith(".")


def test_a_wrong_tolerance_is_refused_and_the_old_one_stays(plan):
    with pytest.raises(PlanError):
        set_tolerance(0.5, 3).apply(plan, NOON)
    assert set_tolerance(0.02, 5).apply(plan, NOON).study.structure.near_share == 0.02


def test_all_armatures_that_have_lines_are_looked_at():
    assert set(armatures(Structure(), BOX)) == set(CONSTRUCTION_NAMES)
    assert "rabatment" not in armatures(Structure(), Box(0, 0, 100, 100))
