"""Cropped photos, rolled and tipped cameras, sets that are not square, rows and snapped edges, from made cameras."""

from __future__ import annotations

from itertools import combinations

import numpy as np
import pytest
from tests.conftest import THOROUGH
from tools.accuracy.cameras import camera, random_camera
from tools.accuracy.scenes import scene
from tools.accuracy.tracing import seen_edges, traced

from mild_compass.craft.perspective.certainty import CALIBRATED, SURE, SURE_IN_CLUTTER, certainty_of
from mild_compass.craft.perspective.chosen_edges import MOST, chosen_edges
from mild_compass.craft.perspective.guide_lines import lines_of_guides
from mild_compass.craft.perspective.joint import joint_camera
from mild_compass.craft.perspective.joint_model import BOW, CENTRE_X, CENTRE_Y, FIRST
from mild_compass.craft.perspective.spacing import posts_toward
from mild_compass.craft.perspective.suggest import suggested_sets
from mild_compass.craft.perspective.two_heights import KnownThing, known_eye
from mild_compass.craft.perspective.worked import work_out
from mild_compass.craft.picture.edges import edge_under, sharpened
from mild_compass.craft.picture.load import Picture
from mild_compass.plan.errors import PlanError
from mild_compass.plan.guides import Guide
from mild_compass.plan.perspective import EdgeSet, PerspectivePlan, TracedEdge
from mild_compass.plan.pictures import Reference

# -- a cropped photo, a rolled camera, sets that are not square ----------------------------------------------------


def edges_toward(view, ways, hand, count=5):
    """Edges of so many ways before a known camera, each end off by half a pixel."""
    found = []
    for way in ways:
        mine = []
        while len(mine) < count:
            start = np.array([hand.uniform(-4, 4), hand.uniform(6, 14), hand.uniform(0, 4)])
            ends = view.straight(np.stack([start, start + np.array(way) * hand.uniform(2, 5)]))
            inside = (ends > 0).all() and (ends[:, 0] < 1500).all() and (ends[:, 1] < 1000).all()
            if np.isfinite(ends).all() and inside and np.hypot(*(ends[1] - ends[0])) > 120:
                mine.append(TracedEdge(*(ends + hand.normal(0, 0.5, (2, 2))).ravel()))
        found.append(tuple(mine))
    return found


def test_a_cropped_photo_with_parallel_uprights_is_not_taken_for_a_tipped_camera():
    view = camera(28.0, pitch_deg=0.5, crop=(0.0, 0.14))
    level, across, up = edges_toward(view, ([0.6, 0.8, 0], [0.8, -0.6, 0], [0, 0, 1.0]), np.random.default_rng(3))
    sets = (EdgeSet("A", edges=level), EdgeSet("B", edges=across), EdgeSet("C", kind="upright", edges=up))
    ground = Reference("p", "p", "ab" * 32, 1500, 1000, focal_35mm=28.0)
    plan = PerspectivePlan(sets=sets, focal="photo")
    worked = work_out(plan, ground)
    pitch = np.degrees(np.arcsin(worked.camera.axes[2, 2]))
    assert pitch == pytest.approx(0.5, abs=1.0)  # about the middle it would be 7 degrees
    assert worked.camera.centre_px[1] == pytest.approx(500 + 140, abs=25)


def test_the_pair_of_sets_that_is_square_tells_the_lens():
    """Three level sets, of which only A and C are square: the lens is theirs, whichever is traced first."""
    view, hand = camera(28.0), np.random.default_rng(5)
    ways = ([0.6, 0.8, 0], [-0.2, 0.98, 0], [0.8, -0.6, 0])
    found = edges_toward(view, ways, hand)
    sets = tuple(EdgeSet(letter, edges=each) for letter, each in zip("ABC", found, strict=True))
    worked = work_out(PerspectivePlan(sets=sets), Reference("p", "p", "ab" * 32, 1500, 1000))
    assert worked.focals[0].source == "two sets"
    assert worked.focals[0].px == pytest.approx(view.focal_px, rel=0.06)


@pytest.mark.parametrize(("pitch_deg", "roll_deg"), [(0, 0), (14, 0), (-9, 0), (3, 7), (6, -10)])
def test_two_known_heights_tell_horizon_tilt_and_eye_of_any_camera(pitch_deg, roll_deg):
    view = camera(30.0, pitch_deg, roll_deg, eye_m=1.7)
    ends = [view.straight(np.array([[x, y, 0.0], [x, y, 1.8]])) for x, y in ((-0.8, 5.0), (1.9, 12.0))]
    things = [KnownThing(tuple(foot), tuple(top), 1.8) for foot, top in ends]
    found = known_eye(*things, Reference("p", "p", "ab" * 32, 1500, 1000), view.focal_px)
    y, tilt = view.horizon
    assert found.eye_m == pytest.approx(1.7, rel=0.03)
    assert found.horizon.y_px + np.tan(np.radians(found.horizon.tilt_deg)) * (
        750 - found.horizon.x_px
    ) == pytest.approx(y, abs=8)
    assert found.horizon.tilt_deg == pytest.approx(tilt, abs=0.8)


def test_two_things_that_contradict_each_other_are_refused_with_a_sentence():
    view = camera(30.0)
    ends = [
        view.straight(np.array([[x, y, 0.0], [x + lean, y, 1.8]]))
        for x, y, lean in ((-2.0, 5.0, 0.5), (2.0, 9.0, -0.9))
    ]
    things = [KnownThing(tuple(foot), tuple(top), 1.8) for foot, top in ends]
    with pytest.raises(PlanError, match="do not go together"):
        known_eye(*things, Reference("p", "p", "ab" * 32, 1500, 1000), view.focal_px)


# -- rows, edges, suggestions --------------------------------------------------------------------------------------


def test_posts_toward_a_known_point_are_those_of_the_cross_ratio_and_no_foot_is_taken_as_exact():
    vanishing = (400.0, 300.0, 1.0)
    places = np.array([300 + 600 / (1 + 0.4 * k) for k in range(6)])
    feet = np.column_stack([400 + 0.5 * (places - 300), places])  # on one line to the point
    assert posts_toward(feet[:2], vanishing, 6) == pytest.approx(feet)
    assert posts_toward(feet[:3], (0.5, 1.0, 0.0), 4) != pytest.approx(feet[:4])
    hand = np.random.default_rng(1)
    misses = []
    for _ in range(200):
        off = feet[:3] + hand.normal(0, 1.0, (3, 2))
        misses.append([np.hypot(*(posts_toward(off, vanishing, 6) - feet)[0]), np.hypot(*(off - feet[:3])[0])])
    ours, given = np.mean(misses, 0)
    assert ours < given


def test_a_row_runs_to_the_traced_point_its_feet_point_at():
    view = camera(28.0, 2.0)
    way = np.array([0.3, 0.95, 0])
    posts = view.straight(np.array([[-1.0, 5.0, 0]]) + np.arange(7)[:, None] * 2.0 * way / np.linalg.norm(way))
    hand = np.random.default_rng(2)
    (level,) = edges_toward(view, (way / np.linalg.norm(way),), hand)
    feet = tuple(map(tuple, posts[:2] + np.array([[0.8, -0.6], [-0.9, 0.7]])))
    plan = PerspectivePlan(sets=(EdgeSet("A", edges=level),), guides=(Guide("g", "row", feet, count=7),))
    worked = work_out(plan, Reference("p", "p", "ab" * 32, 1500, 1000))
    (row,) = lines_of_guides(plan, worked.horizon, worked.camera)
    ends = np.concatenate(row.lines)
    far = min(np.hypot(*(ends - posts[6]).T))
    assert far < 8


@pytest.mark.parametrize("seed", [0, 2, 6, 10])
def test_a_traced_edge_is_laid_onto_the_edge_that_was_meant(seed):
    """Traced 3 px off, in pictures with other edges beside; the point is better told, or the hand's line is left."""
    made = scene(seed)
    picture = Picture(made.picture(), *made.camera.size_px)
    hand = np.random.default_rng(seed)
    before, after = [], []
    for turn in (made.world.turns_deg[0], made.world.turns_deg[0] + 90):
        for edge in seen_edges(made, picture.lightness, turn)[:12]:
            drawn = traced(edge[None], 3.0, hand)[0]
            found = edge_under(picture.lightness, drawn, 10.0)
            before.append(_across(drawn, edge))
            after.append(_across(drawn if found is None else found, edge))
    assert len(after) >= 4
    assert np.median(after) < 0.5 * np.median(before)
    assert np.percentile(after, 90) <= np.percentile(before, 90)


def _across(line: np.ndarray, edge: np.ndarray) -> float:
    """How far the ends of a line lie off an edge, at most."""
    way = (edge[1] - edge[0]) / np.linalg.norm(edge[1] - edge[0])
    return float(np.abs((line - edge[0]) @ np.array([-way[1], way[0]])).max())


def test_of_two_edges_as_likely_the_hands_line_is_left():
    values = np.full((120, 200), 40.0, np.float32)
    values[52:68] = 70.0  # two edges of one band, 8 px either side of the traced line
    assert edge_under(values, np.array([[20.0, 60.0], [180.0, 60.0]]), 14.0) is None
    near = edge_under(values, np.array([[20.0, 54.0], [180.0, 54.0]]), 14.0)
    assert near is not None
    assert near[:, 1] == pytest.approx(52.0, abs=0.2)


def test_found_lines_are_laid_onto_their_edges_to_a_part_of_a_pixel():
    x, y = np.meshgrid(np.arange(300) + 0.5, np.arange(200) + 0.5)
    off = (y - 60.3 - 0.21 * x) / np.hypot(1, 0.21)
    values = (40 + 40 / (1 + np.exp(-2 * off))).astype(np.float32)
    lines, miss = sharpened(values, np.array([[[20.0, 65.5], [280.0, 118.0]], [[20.0, 20.0], [20.0, 50.0]]]))
    assert lines[0, :, 1] == pytest.approx(60.3 + 0.21 * lines[0, :, 0], abs=0.08)
    assert miss[0] < 0.2
    assert np.isinf(miss[1])  # nothing there: it stays as it was


def lines_of(view, ways, hand, count):
    """Segments (n, 2, 2) of so many edges of each way."""
    found = edges_toward(view, ways, hand, count)
    return np.array([[[e.x0_px, e.y0_px], [e.x1_px, e.y1_px]] for edges in found for e in edges])


@pytest.mark.parametrize("roll_deg", [-9.0, 0.0, 6.0])
def test_edges_of_a_known_camera_give_its_horizon_and_tilt(roll_deg):
    view, hand = camera(30.0, 5.0, roll_deg), np.random.default_rng(8)
    lines = lines_of(view, ([0.5, 0.866, 0], [0.866, -0.5, 0], [0, 0, 1.0]), hand, 8)
    stray = hand.uniform(0, 1, (8, 2, 2)) * (1500, 1000)
    best = joint_camera(np.concatenate([lines, stray]), (1500, 1000))[0]
    y, tilt = view.horizon
    assert best.horizon_at(750) == pytest.approx(y, abs=8)
    assert best.tilt_deg == pytest.approx(tilt, abs=0.4)
    assert best.focal_px == pytest.approx(view.focal_px, rel=0.08)
    assert best.height_spread_px < 12


@pytest.mark.parametrize("seed", range(3))
def test_a_whole_picture_of_a_true_lens_is_not_bent_to_fit_its_noise(seed):
    """A free centre and bow would take up half a pixel's noise; both are mostly nothing, and come out as nothing."""
    hand = np.random.default_rng(seed)
    view = camera(28.0, pitch_deg=4.0, roll_deg=1.0)
    lines = lines_of(view, ([0.6, 0.8, 0], [0.8, -0.6, 0], [0, 0, 1.0]), hand, 8)
    best = joint_camera(lines, (1500, 1000), error_px=np.full(len(lines), 0.5))[0]
    assert np.abs(best.row[[CENTRE_X, CENTRE_Y, BOW]]).max() < 0.006
    assert best.horizon_at(750) == pytest.approx(view.horizon[0], abs=12)


def test_a_cropped_picture_and_a_bowed_one_are_still_told_as_such():
    hand = np.random.default_rng(4)
    ways = ([0.6, 0.8, 0], [0.8, -0.6, 0], [0, 0, 1.0])
    cropped = camera(28.0, pitch_deg=15.0, crop=(0.15, 0.0))
    best = joint_camera(lines_of(cropped, ways, hand, 25), (1500, 1000), error_px=np.full(75, 0.5))[0]
    assert best.row[CENTRE_X] == pytest.approx(0.15, abs=0.03)
    straight = camera(24.0, pitch_deg=4.0)
    lines = lines_of(straight, ways, hand, 10)
    bowed = (lines - (750, 500)) * (1 - 0.1 * (((lines - (750, 500)) / 1500) ** 2).sum(-1, keepdims=True)) + (750, 500)
    best = joint_camera(bowed, (1500, 1000), error_px=np.full(30, 0.5))[0]
    assert best.row[BOW] == pytest.approx(-0.1, abs=0.05)


def test_no_direction_is_told_twice():
    """A family counted twice would seem likelier than a third direction that is there."""
    hand = np.random.default_rng(6)
    lines = lines_of(camera(28.0, pitch_deg=4.0), ([0.6, 0.8, 0], [0.8, -0.6, 0], [0, 0, 1.0]), hand, 12)
    for found in joint_camera(lines, (1500, 1000), error_px=np.full(len(lines), 0.5)):
        angles = np.degrees(found.row[FIRST:])
        apart = [abs((a - b + 90) % 180 - 90) for a, b in combinations(angles, 2)]
        assert all(each > 3 for each in apart)


@pytest.mark.parametrize("seed", range(3))
def test_the_few_edges_of_a_set_tell_the_horizon_that_all_edges_tell(seed):
    """The longest ones alone would tell another, off by their own chance."""
    hand = np.random.default_rng(seed)
    lines = lines_of(camera(35.0, pitch_deg=3.0), ([0.6, 0.8, 0], [0.8, -0.6, 0], [0, 0, 1.0]), hand, 20)
    lines += hand.normal(0, 1.0, lines.shape)
    error = np.full(len(lines), 1.0)
    best = joint_camera(lines, (1500, 1000), error_px=error)[0]
    level = [family for family in (1, 2) if best.counts[family] > MOST]
    assert len(level) == 2

    def off_px(taken):
        sets = tuple(EdgeSet("AB"[k], edges=tuple(TracedEdge(*line.ravel()) for line in lines[some]))
                     for k, some in enumerate(taken))  # fmt: skip
        horizon = work_out(PerspectivePlan(sets), Reference("p", "p", "ab" * 32, 1500, 1000)).horizon
        return max(abs(horizon.y_at(x) - best.horizon_at(x)) for x in (0, 1500))

    def longest(family):
        members = np.flatnonzero(best.families == family)
        return members[np.argsort(-np.hypot(*(lines[members, 1] - lines[members, 0]).T))][:MOST]

    chosen = off_px([chosen_edges(lines, error, best, family) for family in level])
    assert chosen < 2
    assert off_px([longest(family) for family in level]) > 2 * chosen


def test_in_leaves_an_answer_must_be_more_certain_to_be_called_sure():
    clear, leaves = (suggested_sets(Picture(scene(1, each).picture(), 1500, 1000)).told for each in (False, True))
    assert clear[-1] < 0.3
    assert leaves[-1] > 0.9
    for told in (clear, leaves):  # the same but for one feature, which makes it just so certain as is asked for
        least = SURE_IN_CLUTTER if told is leaves else SURE
        short_of = np.log(least / (1 - least)) - CALIBRATED[0] - np.dot(CALIBRATED[1:], told)
        for more, called in ((0.01, "sure"), (-0.01, "likely")):
            changed = (told[0] + (short_of + more) / CALIBRATED[1], *told[1:])
            assert certainty_of(changed)[1] == called


def test_suggestions_are_right_where_they_are_sure_and_say_what_would_help_where_not():
    """A few of the made pictures, of every kind; all of them are in docs/accuracy.md."""
    right = wrong = 0
    for seed in (0, 2, 11, 16, 28, 32) if THOROUGH else (0, 16, 28):
        made = scene(seed)
        found = suggested_sets(Picture(made.picture(), *made.camera.size_px))
        if not found.sure:
            assert "Trace" in found.reason or "Look" in found.reason
            assert found.probability < SURE_IN_CLUTTER
            continue
        sets = tuple(EdgeSet("ABCDEF"[k], kind=each.kind, edges=each.edges) for k, each in enumerate(found.sets))
        horizon = work_out(PerspectivePlan(sets), Reference("p", "p", "ab" * 32, 1500, 1000)).horizon
        y, tilt = made.camera.horizon
        close = abs(horizon.y_at(750) - y) <= 10 and abs(horizon.tilt_deg - tilt) <= 1
        right, wrong = right + close, wrong + (not close)
    assert right >= (3 if THOROUGH else 1)
    assert wrong == 0


def test_random_cameras_are_what_they_say():
    """Points on the ground at the eye's own height come to lie on the horizon, wherever they are."""
    for seed, kind in enumerate(("plain", "tilted", "rolled", "cropped")):
        view = random_camera(np.random.default_rng(seed), kind)
        spots = view.straight(np.array([[-300.0, 5000.0, view.eye_m], [900.0, 4000.0, view.eye_m]]))
        y, tilt = view.horizon
        assert spots[:, 1] == pytest.approx(y + np.tan(np.radians(tilt)) * (spots[:, 0] - 750), abs=1e-6)


def test_edges_traced_by_hand_decide_where_the_picture_alone_does_not():
    """Two edges along the scene's own direction are added to a picture that alone says "not sure"."""
    made = scene(33, True)
    picture = Picture(made.picture(), *made.camera.size_px)
    alone = suggested_sets(picture)
    ways = [
        np.array([np.sin(a), np.cos(a), 0.0]) for a in np.radians([made.world.turns_deg[0] + k for k in (0.0, 90.0)])
    ]
    sets = []
    for letter, way in zip("AB", ways, strict=True):
        ends = [made.camera.straight(np.stack([a, a + 6 * way])) for a in
                (np.array([-3.0, 12.0, 0.5]), np.array([3.0, 14.0, 5.0]), np.array([0.0, 11.0, 3.0]))]  # fmt: skip
        sets.append(EdgeSet(letter, edges=tuple(TracedEdge(*each.ravel()) for each in ends)))
    with_hand = suggested_sets(picture, traced=tuple(sets))
    y = made.camera.horizon[0]

    def off(found) -> float:
        return abs(np.mean(found.horizon_px) - y) if found.horizon_px else np.inf

    assert not alone.sure
    assert with_hand.probability > alone.probability
    assert off(with_hand) <= min(off(alone), 12)
