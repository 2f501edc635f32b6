"""The stage: points, hidden lines, light and shadow against other ways to the same answer; scenes from seeds."""

from __future__ import annotations

import io
import itertools
from dataclasses import replace
from typing import Any

import cv2
import numpy as np
import pytest
import shapely
from PIL import Image
from tests.conftest import cases
from tests.craft.true_ellipse import ellipse_of_circle

from mild_compass.craft.perspective.camera import Camera, Focal, camera_of
from mild_compass.craft.perspective.horizon import horizon_line
from mild_compass.craft.perspective.sheet_marks import points_on_sheet, ticks_on_sheet
from mild_compass.craft.perspective.spacing import equally_spaced
from mild_compass.craft.perspective.stage_readings import stage_readings
from mild_compass.craft.perspective.string_table import string_rows
from mild_compass.craft.perspective.worked import work_out
from mild_compass.craft.picture.load import Picture
from mild_compass.craft.picture.study_picture import study_picture
from mild_compass.craft.reading import Reading
from mild_compass.craft.sheet.artist_layers import pins_layer
from mild_compass.craft.sheet.layers import sheet_drawing
from mild_compass.craft.sheet.lifting import stays
from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.craft.stage.construction import construction
from mild_compass.craft.stage.hidden import before_the_eye, faces_before_the_eye, meetings, seen_parts
from mild_compass.craft.stage.light import GROUND, Lit, light_up
from mild_compass.craft.stage.scene import Faces, Scene, from_eye, on_plan, places_of, scene_of
from mild_compass.craft.stage.screens import away_of
from mild_compass.craft.stage.staged import Staged, ground_of, reflections, shadow_lines, staged
from mild_compass.craft.stage.standing import stood_at
from mild_compass.craft.stage.tones import HALF_LIGHT, SHADOW, factors, seen_faces, stage_picture
from mild_compass.craft.stage.visibility_update import forget
from mild_compass.craft.worked import worked_study
from mild_compass.plan.edits.perspective import set_horizon, set_light
from mild_compass.plan.edits.references import begin_blank, remove_reference
from mild_compass.plan.edits.stage import raise_eye, set_down, stand, widen
from mild_compass.plan.edits.viewfinder import choose_paper
from mild_compass.plan.errors import PlanError
from mild_compass.plan.guides import Guide, Light
from mild_compass.plan.model import Plan
from mild_compass.plan.perspective import Horizon
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.pictures import Reference
from mild_compass.plan.stage import ROOFS, THING_KINDS, Opening, Screen, Stage, Thing, ThingKind, new_thing, row_of
from mild_compass.plan.stage_beginnings import BEGINNINGS
from mild_compass.plan.structure import BigLine

WIDTH, HEIGHT, FOCAL = 1500, 1000, 1100.0  # the camera is level unless its horizon is laid elsewhere
SUN = Light("sun", -60.0, 35.0)
SMALL = ("cup", "bottle", "bowl", "ball")


def camera(eye_m: float = 1.6, y_px: float = HEIGHT / 2, tilt_deg: float = 0.0) -> Camera:
    horizon = horizon_line([], Horizon(y_px, tilt_deg, WIDTH / 2))
    assert horizon is not None
    return camera_of(horizon, Focal(FOCAL, "hand"), (WIDTH / 2, HEIGHT / 2), eye_m)


def random_stage(seed: int, count: int = 7) -> Stage:
    """Things anywhere, also behind and right at the eye, through one another and through the ground."""
    hand = np.random.default_rng(seed)
    kinds = [kind for kind in THING_KINDS if kind != "cut-out"]
    things = []
    for number in range(count):
        kind = kinds[hand.integers(len(kinds))]
        row = row_of(kind)
        more: dict[str, Any] = {"turn_deg": float(hand.uniform(-180, 180)), "count": int(hand.integers(1, 4))}
        more |= {"gap_m": float(hand.uniform(0.3, 4)), "base_m": float(hand.choice([0.0, 0.0, -0.4, 1.0]))}
        if kind == "house":
            more |= {"roof": ROOFS[hand.integers(4)], "porch_m": float(hand.choice([0, 1.5]))}
            more["openings"] = (Opening("front", 1, 0, 1, 2.1, "door"),)
        if kind in SMALL:
            times = float(hand.uniform(3, 20))
            more |= {"width_m": row.width_m * times, "depth_m": row.depth_m * times, "height_m": row.height_m * times}
        place = (float(hand.uniform(-8, 8)), float(hand.uniform(-3, 25)))
        things.append(new_thing(kind, f"t{number}", *place, **more))
    heading = float(hand.uniform(-20, 20))
    return Stage(tuple(things), eye_x_m=float(hand.uniform(-1, 1)), heading_deg=heading)


def one(kind: ThingKind, x_m: float = 0.0, y_m: float = 10.0, **more: Any) -> Thing:
    return new_thing(kind, "one", x_m, y_m, **{"count": 1, **more})


# -- points -----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("tilt_deg", [0.0, 4.0])
def test_points_come_where_opencv_projects_them(tilt_deg):
    stage, cam = random_stage(3), camera(2.2, 380.0, tilt_deg)
    scene = scene_of(stage, cam)
    inner = np.array([[FOCAL, 0, WIDTH / 2], [0, FOCAL, HEIGHT / 2], [0, 0, 1]])
    world = from_eye(stage, on_plan(stage, (scene.faces.corners @ cam.axes + (0, 0, cam.eye_m)).reshape(-1, 3)))
    turn, _ = cv2.Rodrigues(cam.axes)
    shift = -cam.axes @ np.array([0, 0, cam.eye_m])
    found, _ = cv2.projectPoints(world, turn, shift, inner, None)
    ahead = scene.faces.corners.reshape(-1, 3)
    ours = ahead[:, :2] / ahead[:, 2:] * FOCAL + cam.centre_px
    shown = ahead[:, 2] > 0.5
    assert shown.sum() > 100
    assert np.abs(found[:, 0] - ours)[shown].max() < 1e-6


def test_what_is_set_down_on_the_plan_is_where_the_artist_sees_it():
    """Standing at 3, 4 and looking east, a thing 10 m to the east is straight ahead, one to the south at the right."""
    stage = Stage(eye_x_m=3.0, eye_y_m=4.0, heading_deg=90.0)
    assert from_eye(stage, [[13.0, 4.0], [3.0, -1.0]]) == pytest.approx(np.array([[0, 10], [5, 0]]), abs=1e-12)
    assert on_plan(stage, from_eye(stage, [[2.0, 7.0]])) == pytest.approx(np.array([[2.0, 7.0]]))


def test_a_row_is_spaced_as_the_cross_ratio_says():
    """A row of posts going straight away: its feet on the picture against the spacing of the perspective station."""
    row = one("post", 2.0, 5.0, count=6, gap_m=3.0, row_deg=-90.0)
    assert places_of(row)[:, 1] == pytest.approx(5.0 + 3.0 * np.arange(6))
    feet = np.column_stack([places_of(row), np.zeros(6)])
    cam = camera()
    x, y = cam.seen(feet).T
    assert equally_spaced(500.0, y[0], y[1], 6) == pytest.approx(y, rel=1e-9)
    assert x - WIDTH / 2 == pytest.approx((y - 500.0) * 2.0 / 1.6, rel=1e-9)  # all on the line to the point


def test_floor_depths_are_those_of_the_distance_point():
    """Joints of a floor from Alberti's section: a line to the distance point cuts the depths (De pictura, 1435)."""
    cam = camera()
    x0, x1 = -1.0, 1.0
    near, square = 4.0, 1.0
    corners = cam.seen([[x0, near, 0], [x1, near, 0]])
    distance_point = np.array([WIDTH / 2 - FOCAL, 500.0])  # on the horizon, as far from the middle as the eye is away
    vanishing = np.array([WIDTH / 2, 500.0])
    for k in (1, 2):
        # The diagonal from the right front corner to the distance point meets the line to the vanishing point.
        start = corners[1] + 0 * square
        along = cam.seen([[x1 - k * square, near, 0]])[0]
        way, back = distance_point - start, vanishing - along
        share = np.linalg.solve(np.column_stack([way, -back]), along - start)[0]
        assert (start + share * way)[1] == pytest.approx(cam.seen([[0, near + k * square, 0]])[0, 1], abs=1e-9)


# -- hidden lines -------------------------------------------------------------------------------------------------


def mismatches(seed: int) -> tuple[int, int, float]:
    """Places along all lines, each by the lines' own word and by rays against every triangle; and lengths in px.

    Places nearer than a pixel to where a line changes are left out, as is what a hollow round part does to its own
    outline.
    """
    stage, cam = random_stage(seed), camera()
    scene = scene_of(stage, cam)
    edges, faces = before_the_eye(scene.edges), faces_before_the_eye(scene.faces)
    parts = seen_parts(edges, faces, scene.up, cam.eye_m)
    ends = edges.ends[parts.edges]
    ends = ends[:, :1] + parts.shares[..., None] * (ends[:, 1:] - ends[:, :1])
    spots = ends[..., :2] / ends[..., 2:] * FOCAL
    length = np.linalg.norm(spots[:, 1] - spots[:, 0], axis=1)
    long = np.flatnonzero(length > 3)
    hand = np.random.default_rng(seed)
    share = hand.uniform(1 / length[long], 1 - 1 / length[long])
    at = spots[long, 0] + share[:, None] * (spots[long, 1] - spots[long, 0])
    depth = 1 / ((1 - share) / ends[long, 0, 2] + share / ends[long, 1, 2])
    points = np.column_stack([at / FOCAL * depth[:, None], depth])
    own = edges.rounds[parts.edges][long]
    hidden = behind_something(points, faces, own) | (points @ scene.up + cam.eye_m < -1e-5)
    return int((hidden == parts.seen[long]).sum()), len(long), float(length.sum())


def behind_something(points: np.ndarray, faces: Faces, own: np.ndarray) -> np.ndarray:
    """By rays from the eye against triangles (T. Moeller & B. Trumbore, J. Graphics Tools 2, 1997)."""
    solid = faces.part(~faces.laid_on)
    corners = solid.corners
    triangles = np.concatenate([np.stack([corners[:, 0], corners[:, k], corners[:, k + 1]], 1) for k in range(1, 7)])
    rounds = np.tile(solid.rounds, 6)
    one_side, other = triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]
    sound = np.linalg.norm(np.cross(one_side, other), axis=1) > 1e-12
    first, one_side, other, rounds = triangles[sound, 0], one_side[sound], other[sound], rounds[sound]
    hidden = np.zeros(len(points), bool)
    for start in range(0, len(points), 200):
        rays = points[start : start + 200]
        across = np.cross(rays[:, None], other[None])
        with np.errstate(divide="ignore", invalid="ignore"):
            scale = 1 / (across * one_side).sum(2)
            u = -(first * across).sum(2) * scale
            turned = np.cross(-first, one_side)
            v = (rays[:, None] * turned).sum(2) * scale
            times = (other * turned).sum(1) * scale
        away = np.linalg.norm(rays, axis=1)[:, None]
        hit = (u >= 0) & (v >= 0) & (u + v <= 1) & (times > 0) & (times < 1 - 2e-5 / away)
        mine = own[start : start + 200, None]
        hidden[start : start + 200] = (hit & ~((mine >= 0) & (mine == rounds))).any(1)
    return hidden


@pytest.mark.parametrize("seed", cases(12, 4))
def test_no_hidden_line_is_shown_and_no_seen_one_hidden(seed):
    wrong, tried, _ = mismatches(seed)
    assert tried > 50
    assert wrong == 0


def test_a_block_before_another_hides_the_exact_part_of_its_edge():
    """One-point view: a block's front covers a known stretch of a wall's top edge behind it."""
    wall = new_thing("wall", "wall", 0.0, 20.0, width_m=16.0, height_m=1.2, depth_m=0.4)
    block = new_thing("block", "block", 0.0, 9.0, width_m=2.0, depth_m=2.0, height_m=3.0)
    cam = camera()
    found = staged(Stage((wall, block)), cam)
    tops = [line for line in found.things[0].seen if np.ptp(line[:, 1]) < 1e-6 and line[0, 1] > 500]
    # Nearest edges: the wall's front top at 19.8 m, hidden by the block's front at 8 m, 1 m to either side.
    y = cam.seen([[0, 19.8, 1.2]])[0, 1]
    ends = sorted(float(x) for line in tops for x in line[:, 0] if abs(line[0, 1] - y) < 1e-6)
    left, right = cam.seen([[-8, 19.8, 1.2], [8, 19.8, 1.2]])[:, 0]
    inner = FOCAL * 1.0 / 8.0
    assert ends == pytest.approx([left, WIDTH / 2 - inner, WIDTH / 2 + inner, right], abs=1e-6)


def test_a_cylinders_rim_is_the_true_ellipse():
    cam = camera(2.5)
    found = staged(Stage((one("cylinder", 1.0, 6.0),)), cam).things[0].seen
    ellipse = ellipse_of_circle(cam, (1.0, 6.0, 1.0), 0.5)
    assert ellipse is not None
    across = np.array([-ellipse.along[1], ellipse.along[0]])
    rims = [line for line in found if len(line) > 100]
    on_top = [line for line in rims if abs(line[:, 1].min() - cam.seen([[1.0, 6.5, 1.0]])[0, 1]) < 2]
    assert len(on_top) == 1
    off = on_top[0] - ellipse.middle
    form = (off @ ellipse.along / ellipse.half_axes[0]) ** 2 + (off @ across / ellipse.half_axes[1]) ** 2
    assert np.abs(form - 1).max() < 1e-6


def test_a_balls_outline_is_the_ellipse_in_which_it_is_seen():
    """The cone that touches a ball (middle c, radius r) as seen along d: (c·d)² = d² (c² - r²)."""
    cam = camera()
    ball = one("ball", 1.5, 5.0, width_m=1.0, depth_m=1.0, height_m=1.0)
    lines = staged(Stage((ball,)), cam).things[0].seen
    rays = np.concatenate(lines)
    rays = np.column_stack([(rays - cam.centre_px) / FOCAL, np.ones(len(rays))])
    middle = (np.array([1.5, 5.0, 0.5]) - (0, 0, cam.eye_m)) @ cam.axes.T
    spread = (rays @ middle) / np.linalg.norm(rays, axis=1)
    touching = np.sqrt(middle @ middle - 0.25)
    # The grid of the surface is 48 by 20: a hair of a pixel on this ball of 220 pixels.
    off_px = np.abs(
        np.arccos(np.clip(spread / np.linalg.norm(middle), -1, 1)) - np.arcsin(0.5 / np.linalg.norm(middle))
    )
    assert touching > 0
    assert (off_px * FOCAL).max() < 1.0


# -- light ----------------------------------------------------------------------------------------------------------


def lit_scene(stage: Stage, cam: Camera, light: Light) -> tuple[Scene, Faces, Lit]:
    scene = scene_of(stage, cam)
    faces = faces_before_the_eye(scene.faces)
    return scene, faces, light_up(scene, faces, ground_of(scene), light)


def test_a_post_throws_a_shadow_as_long_as_its_height_over_the_tangent():
    _, _, lit = lit_scene(Stage((one("block", 0.0, 12.0, width_m=0.02, depth_m=0.02, height_m=2.0),)), camera(), SUN)
    ground = next(cast for cast in lit.shadows if cast.face == GROUND)
    box = shapely.get_coordinates(shapely.minimum_rotated_rectangle(ground.area))
    sides = np.linalg.norm(np.diff(box, axis=0), axis=1)
    assert sides.max() == pytest.approx(2.0 / np.tan(np.radians(35.0)), abs=0.05)


@pytest.mark.parametrize("light", [SUN, Light("sun", 150.0, 20.0), Light("lamp", foot=(700.0, 800.0), height_m=6.0)])
@pytest.mark.parametrize("seed", cases(3, 1))
def test_cast_shadows_are_where_rays_to_the_light_are_stopped(seed, light):
    """Places on lit flat faces and on the ground, by the shadows' outlines and by rays against every triangle."""
    stage, cam = random_stage(seed + 40, 5), camera()
    scene, faces, lit = lit_scene(stage, cam, light)
    assert lit.source is not None
    hand = np.random.default_rng(seed)
    casts = {cast.face: cast for cast in lit.shadows}
    solid = scene.faces.part(~scene.faces.laid_on)
    wrong = tried = 0
    flat = [
        k
        for k in np.flatnonzero(lit.turned > 0.02)
        if not faces.laid_on[k] and faces.rounds[k] < 0 and faces.corners[k, 0] @ faces.normals[k] < 0
    ]
    for number in [GROUND, *flat[:40]]:
        if number == GROUND:
            spots = from_eye(Stage(), np.column_stack([hand.uniform(-12, 12, 300), hand.uniform(1, 30, 300)]))
            points = (np.column_stack([spots, np.zeros(300)]) - (0, 0, cam.eye_m)) @ cam.axes.T
            points = points[points[:, 2] > 0.1]
        else:
            weights = hand.dirichlet(np.ones(8), 12)
            points = weights @ faces.corners[number]
        way = lit.source.at - points if lit.source.near else np.broadcast_to(lit.source.at * 500, points.shape)
        stopped = blocked(points + 1e-5 * way / np.linalg.norm(way, axis=1, keepdims=True), way, solid)
        cast = casts.get(int(number))
        inside = np.zeros(len(points), bool)
        near_edge = np.zeros(len(points), bool)
        if cast is not None:
            off = points - cast.plane.origin
            at = shapely.points(off @ cast.plane.across, off @ cast.plane.along)
            inside = shapely.contains(cast.area, at)
            near_edge = shapely.distance(shapely.boundary(cast.area), at) < 2e-3
        wrong += int(((inside != stopped) & ~near_edge).sum())
        tried += len(points)
    assert tried > 200
    assert wrong <= 0.001 * tried


def blocked(points: np.ndarray, ways: np.ndarray, faces: Faces) -> np.ndarray:
    """Whether something stands between each point and the end of its way."""
    corners = faces.corners
    triangles = np.concatenate([np.stack([corners[:, 0], corners[:, k], corners[:, k + 1]], 1) for k in range(1, 7)])
    one_side, other = triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]
    sound = np.linalg.norm(np.cross(one_side, other), axis=1) > 1e-12
    first, one_side, other = triangles[sound, 0], one_side[sound], other[sound]
    found = np.zeros(len(points), bool)
    for k, (point, way) in enumerate(zip(points, ways, strict=True)):
        across = np.cross(way, other)
        with np.errstate(divide="ignore", invalid="ignore"):
            scale = 1 / (across * one_side).sum(1)
            u = ((point - first) * across).sum(1) * scale
            turned = np.cross(point - first, one_side)
            v = (turned @ way) * scale
            times = (other * turned).sum(1) * scale
        found[k] = bool(((u >= 0) & (v >= 0) & (u + v <= 1) & (times > 1e-7) & (times < 1 - 1e-7)).any())
    return found


def test_light_half_light_and_shadow_by_the_turn_of_a_face():
    assert factors(np.array([0.9, 0.5, 0.2, 0.0, -0.4])).tolist() == [1.0, 1.0, HALF_LIGHT, SHADOW, SHADOW]


def test_a_block_lit_from_the_side_shows_its_three_values_in_the_shares_of_its_faces():
    """The shares of light and shadow against the areas of the block's faces as they are projected."""
    cam, light = camera(3.0), Light("sun", 100.0, 20.0)
    stage = Stage((one("block", 0.0, 9.0, turn_deg=35.0, tone=80.0),), ground_tone=20.0, sky_tone=10.0)
    scene, faces, lit = lit_scene(stage, cam, light)
    seen = seen_faces(faces, lit.ground, scene, (HEIGHT, WIDTH), 1.0)
    for number in range(len(faces)):
        spots = faces.corners[number][:, :2] / faces.corners[number][:, 2:] * FOCAL + cam.centre_px
        faces_us = float(faces.corners[number, 0] @ faces.normals[number]) < 0
        area = shapely.convex_hull(shapely.multipoints(spots)).area if faces_us else 0.0
        assert (seen.faces == number).sum() == pytest.approx(area, rel=0.004, abs=30)
    picture = stage_picture(stage, scene, faces, lit, (WIDTH, HEIGHT), WIDTH)
    found = {float(factors(lit.turned[[k]])[0]) for k in range(len(faces)) if (seen.faces == k).any()}
    shown = np.unique(picture.rgb[seen.faces >= 0])
    assert len(found) >= 2
    assert len(shown) == len(found)


# -- odd things -------------------------------------------------------------------------------------------------------


def test_things_below_the_ground_are_not_seen():
    sunk = staged(Stage((one("block", 0.0, 8.0, base_m=-3.0, height_m=2.0),)), camera())
    assert sunk.things[0].seen == ()


def test_the_eye_inside_a_house_sees_its_walls_from_inside():
    house = one("house", 0.0, 0.5, width_m=6.0, depth_m=10.0)
    tree = new_thing("tree", "tree", 0.0, 20.0)
    found = staged(Stage((house, tree)), camera())
    assert found.things[0].seen
    assert found.things[1].seen == ()


@pytest.mark.parametrize("kind", [kind for kind in THING_KINDS if kind != "cut-out"])
def test_a_thing_right_on_the_eye_and_one_of_hardly_any_size_do_no_harm(kind):
    at_eye = new_thing(kind, "a", 0.0, 0.0)
    thin = new_thing(kind, "b", 1.0, 4.0, width_m=0.01, depth_m=0.01)
    stage, cam = Stage((at_eye, thin)), camera()
    found, shadows = staged(stage, cam), shadow_lines(stage, cam, SUN)
    assert all(np.isfinite(line).all() for each in found.things for line in (*each.seen, *each.behind))
    assert all(np.isfinite(line).all() for line in shadows)


def test_too_many_posts_and_a_sun_below_the_horizon_are_refused_with_a_sentence():
    with pytest.raises(PlanError, match="number in the row"):
        one("post", count=10_000)
    fences = tuple(new_thing("post", f"p{k}", 0.0, 5.0 + k, count=200) for k in range(8))
    with pytest.raises(PlanError, match="set down a fence"):
        Stage(fences)
    with pytest.raises(PlanError, match="height of the sun"):
        Light("sun", 0.0, -5.0)


def test_a_cut_out_stands_as_tall_as_it_is_said_to_be():
    outline = ((100.0, 100.0), (300.0, 100.0), (300.0, 500.0), (200.0, 350.0), (100.0, 500.0))
    thing = one("cut-out", 0.0, 8.0, height_m=2.0, source="photo-1", points=outline)
    cam = camera()
    lines = np.concatenate(staged(Stage((thing,)), cam).things[0].seen)
    foot, top = cam.seen([[0, 8, 0], [0, 8, 2.0]])[:, 1]
    assert (lines[:, 1].max(), lines[:, 1].min()) == pytest.approx((foot, top), abs=1e-6)
    assert np.ptp(lines[:, 0]) == pytest.approx(FOCAL * 1.0 / 8.0, abs=1e-6)  # half as wide as tall


@pytest.mark.parametrize("name", BEGINNINGS)
def test_a_beginning_shows_all_its_things(name):
    beginning = BEGINNINGS[name]
    found = staged(beginning.stage, camera(beginning.eye_m))
    hidden = [thing.words for thing, lines in zip(beginning.stage.things, found.things, strict=True) if not lines.seen]
    assert hidden == []
    assert shadow_lines(beginning.stage, camera(beginning.eye_m), beginning.light)


def test_standing_elsewhere_moves_the_picture_as_moving_the_things_would():
    stage = random_stage(9)
    there = replace(stage, eye_x_m=stage.eye_x_m + 2.0, eye_y_m=stage.eye_y_m - 1.0)
    moved = replace(stage, things=tuple(replace(t, x_m=t.x_m - 2.0, y_m=t.y_m + 1.0) for t in stage.things))
    one_way, other = scene_of(there, camera()), scene_of(moved, camera())
    assert one_way.faces.corners == pytest.approx(other.faces.corners, abs=1e-9)


# -- what the stage says -----------------------------------------------------------------------------------------------


def told(*things: Thing, eye_m: float = 1.6, **where: float) -> dict[str, Reading]:
    """The stage's readings by key, on a blank A3 across with the usual view."""
    plan = begin_blank().change(choose_paper(paper("A3", across=True)).change(Plan()))
    for thing in things:
        plan = set_down(thing).change(plan)
    assert plan.study is not None
    plan = widen(where.get("view", 60.0)).change(plan)
    plan = raise_eye(eye_m).change(stand(where.get("x", 0.0), where.get("y", 0.0), 0.0).change(plan))
    worked = worked_study(plan)
    assert worked is not None
    assert plan.study is not None
    found = {row.key: row for row in stage_readings(worked)}
    for row in found.values():
        if row.remedy is not None:
            assert row.remedy.change(plan) != plan
    TRIED.append(plan)
    return found


TRIED: list[Plan] = []


def again(row: Reading) -> dict[str, Reading]:
    """The readings once its remedy has been tried."""
    assert row.remedy is not None
    worked = worked_study(row.remedy.change(TRIED[-1]))
    assert worked is not None
    return {each.key: each for each in stage_readings(worked)}


def test_a_ball_far_off_the_line_of_sight_is_said_to_be_stretched_and_a_step_back_helps():
    at = 10.0 * np.tan(np.radians(33.0))
    row = told(one("ball", at, 10.0, width_m=1.0, depth_m=1.0, height_m=1.0), view=90.0)["stretched"]
    assert row.number == pytest.approx(1 / np.cos(np.radians(33.0)), abs=1e-3)
    assert "33° off the line of sight" in row.text
    after = again(row).get("stretched")
    assert after is None or (after.number or 0) < (row.number or 0)
    assert "stretched" not in told(one("ball", 1.0, 10.0))


def test_things_turned_many_ways_are_told_and_laid_alike_by_trying_it():
    turned = [
        new_thing("block", f"b{k}", -3.0 + 2 * k, 12.0 + k, turn_deg=15.0 * k, height_m=1.0 + k) for k in range(4)
    ]
    row = told(*turned)["turns"]
    assert row.number == 4
    assert "turns" not in again(row)
    assert "turns" not in told(*turned[:3])


def test_three_things_of_one_height_are_told_and_one_is_made_taller():
    blocks = [new_thing("block", f"b{k}", -4.0 + 3 * k, 12.0, height_m=2.0) for k in range(3)]
    row = told(*blocks)["heights"]
    assert row.number == pytest.approx(2.0)
    assert "heights" not in again(row)


def test_where_nothing_overlaps_it_is_told_and_trying_it_makes_something_overlap():
    blocks = [new_thing("block", f"b{k}", -4.0 + 4 * k, 12.0 + 3 * k, height_m=2.0 + k) for k in range(3)]
    row = told(*blocks)["overlaps"]
    assert "overlaps" not in again(row)


def test_heads_share_the_eye_level_unless_a_figure_stands_higher():
    figures = [new_thing("standing figure", f"f{k}", k - 1.0, 6.0 + 5 * k, height_m=1.72) for k in range(3)]
    assert "3 of 3" in told(*figures)["heads"].text
    higher = replace(figures[1], base_m=0.8)
    row = told(figures[0], higher, figures[2])["heads"]
    assert row.verdict == "look"
    assert "3 of 3" in again(row)["heads"].text
    assert "look down on them" in told(*figures, eye_m=4.5)["heads"].text


def test_what_is_not_to_be_seen_is_named():
    row = told(one("block", 0.0, -8.0))["out_of_sight"]
    assert "the block" in row.text


def test_kinds_nobody_knows_are_refused_with_a_sentence():
    with pytest.raises(PlanError, match="no thing that is known"):
        replace(one("block"), kind="x" * 400)  # type: ignore[arg-type]
    with pytest.raises(PlanError, match="no part of a house"):
        replace(one("house"), roof="onion")  # type: ignore[arg-type]
    with pytest.raises(PlanError, match="no guide that is known"):
        Guide("g", "spiral", ((0.0, 0.0),))  # type: ignore[arg-type]


def test_where_things_go_through_one_another_the_line_is_drawn_and_where_they_touch_it_is_not():
    """A wall through a block: the line on the block's front side, 1 m from its middle; a block on a block has none."""
    block = new_thing("block", "block", 0.0, 10.0, width_m=2.0, depth_m=2.0, height_m=2.0)
    beam = new_thing("block", "beam", 0.0, 8.5, width_m=0.5, depth_m=3.0, height_m=0.4, base_m=0.8)
    cam = camera()
    faces = faces_before_the_eye(scene_of(Stage((block, beam)), cam).faces)
    ends = meetings(faces).ends
    space = ends @ cam.axes + (0, 0, cam.eye_m)
    assert space[..., 1] == pytest.approx(np.full(space.shape[:2], 9.0), abs=1e-9)  # all on the block's front
    lengths = sorted(np.linalg.norm(space[:, 1] - space[:, 0], axis=1))
    assert lengths == pytest.approx([0.4, 0.4, 0.5, 0.5], abs=1e-9)
    on_top = replace(beam, base_m=2.0, y_m=10.0, depth_m=1.0)
    assert len(meetings(faces_before_the_eye(scene_of(Stage((block, on_top)), cam).faces)).ends) == 0


def test_a_cut_out_shows_its_photo_within_its_outline_in_the_stages_values(tmp_path):
    photos = PhotoFolder(tmp_path)
    packed = io.BytesIO()
    pixels = np.full((400, 300, 3), 250, np.uint8)
    pixels[100:300, 100:200] = 20
    Image.fromarray(pixels).save(packed, "PNG")
    plan = begin_blank().change(choose_paper(paper("A3", across=True)).change(Plan()))
    photo = Reference("photo-1", "sketch.png", photos.add(packed.getvalue()), 300, 400)
    plan = replace(plan, references=(photo,))
    outline = ((50.0, 50.0), (250.0, 50.0), (250.0, 350.0), (50.0, 350.0))
    figure = new_thing("cut-out", "one", 0.0, 6.0, height_m=3.0, source="photo-1", points=outline)
    plan = set_light(Light("sun", 0.0, 30.0)).change(set_down(figure).change(plan))
    assert plan.study is not None
    picture = study_picture(plan, plan.study, photos)
    worked = worked_study(plan)
    assert worked is not None
    assert worked.perspective.camera is not None
    spots = worked.perspective.camera.seen([[0, 6, 1.5], [0.9, 6, 1.5], [1.4, 6, 1.5]]) * picture.scale
    dark, light, beside = (int(picture.rgb[int(y), int(x), 0]) for x, y in spots)
    assert dark < 60
    assert light > 200
    assert abs(beside - light) > 10
    with pytest.raises(PlanError, match="is used by study"):
        remove_reference("photo-1").change(plan)


def test_a_post_in_still_water_is_seen_as_far_below_it_and_values_are_a_little_nearer_to_the_waters_own():
    water = new_thing("water", "w", 0.0, 10.0, width_m=12.0, depth_m=12.0)
    post = new_thing("block", "p", 1.0, 9.0, width_m=0.4, depth_m=0.4, height_m=1.2, tone=20.0)
    cam, stage = camera(), Stage((water, post))
    lines = np.concatenate(reflections(stage, cam))
    lowest = cam.seen([[1.0, 8.8, -1.2]])[0, 1]
    assert lines[:, 1].max() == pytest.approx(lowest, abs=1e-6)
    left, right = cam.seen([[0.8, 9.2, -1.0], [1.2, 8.8, -1.0]])[:, 0]
    assert (lines[:, 0].min(), lines[:, 0].max()) == pytest.approx((left, right), abs=1e-6)
    scene, faces, lit = lit_scene(stage, cam, Light("sun", 0.0, 40.0))
    picture = stage_picture(stage, scene, faces, lit, (WIDTH, HEIGHT), WIDTH)
    (ix, iy), (wx, wy) = cam.seen([[1.0, 8.8, -0.6], [-2.0, 8.8, 0.0]]).round().astype(int)
    (px, py) = cam.seen([[1.0, 8.8, 0.6]])[0].round().astype(int)
    post_value, image, open_water = (int(picture.rgb[y, x, 0]) for x, y in ((px, py), (ix, iy), (wx, wy)))
    assert post_value < image < open_water
    assert reflections(Stage((water, replace(post, y_m=30.0))), cam) == ()  # too far behind the water to be seen in it


# -- before the stage, construction, sketches -------------------------------------------------------------------


def star(hand: np.random.Generator, x: float, y: float, size: float) -> tuple[tuple[float, float], ...]:
    """An outline with chance bays and points."""
    angles, far = np.linspace(0, 2 * np.pi, 14, endpoint=False), hand.uniform(0.35, 1.0, 14) * size
    return tuple((float(x + r * np.cos(a)), float(y + r * np.sin(a))) for a, r in zip(angles, far, strict=True))


def drawn_lines(lines: tuple[np.ndarray, ...]) -> shapely.Geometry:
    return shapely.union_all([shapely.LineString(line) for line in lines])


@pytest.mark.parametrize("seed", range(12))
def test_what_is_further_away_goes_behind_an_outline_in_the_picture_and_nothing_else_does(seed):
    hand = np.random.default_rng(seed)
    far = replace(one("house", *hand.uniform((-3, 14), (3, 25)), turn_deg=float(hand.uniform(0, 90))), id="far")
    near = replace(one("block", float(hand.uniform(-1, 1)), 6.5, turn_deg=20.0, height_m=1.0), id="near")
    outline = star(hand, *hand.uniform((500, 300), (1000, 600)), size=float(hand.uniform(80, 350)))
    stage, cam = Stage((near, far)), camera()
    plain = staged(stage, cam)
    found = staged(replace(stage, screens=(Screen("s", outline, 9.0),)), cam)
    area = shapely.make_valid(shapely.Polygon(outline))
    assert found.things[0].seen[0] == pytest.approx(plain.things[0].seen[0])
    assert drawn_lines(found.things[0].seen).length == pytest.approx(drawn_lines(plain.things[0].seen).length)
    outside = shapely.difference(drawn_lines(plain.things[1].seen), area)
    assert drawn_lines(found.things[1].seen).length == pytest.approx(outside.length, abs=1.0)
    assert shapely.difference(drawn_lines(found.things[1].seen), shapely.buffer(outside, 0.01)).length < 1.0


def test_a_road_is_cut_where_the_outlined_thing_stands():
    """An outline over all of the picture, 10 m away: of a road what is nearer is seen, and nothing beyond."""
    everything = ((-10.0, -10.0), (WIDTH + 10.0, -10.0), (WIDTH + 10.0, HEIGHT + 10.0), (-10.0, HEIGHT + 10.0))
    cam = camera()
    road = Stage((one("road", 0.0, 31.0),), screens=(Screen("s", everything, 10.0),))
    rows = np.concatenate(staged(road, cam).things[0].seen)[:, 1]
    assert rows.min() == pytest.approx(cam.seen([[0, 10.0, 0]])[0, 1], abs=1e-3)


def test_how_far_off_an_outline_stands_is_told_by_its_foot():
    cam = camera()
    foot = cam.seen([[0.4, 7.0, 0.0]])[0]
    assert away_of(np.array([[700, 100], foot, [650, 300]]), cam) == pytest.approx(7.0)
    assert away_of(np.array([[700, 100], [720, 80], [650, 90]]), cam) is None


def test_construction_runs_on_to_the_points_and_crosses_in_the_middles():
    house = one("house", 1.0, 12.0, turn_deg=25.0)
    stage, cam = Stage((house,)), camera()
    lines = construction(stage, cam)[0]
    ways = [np.array([np.cos(np.radians(a)), -np.sin(np.radians(a)), 0.0]) for a in (25.0, 115.0)]
    points = [v[:2] / v[2] for v in map(cam.direction_px, ways)]
    ends = np.array([line[1] for line in lines[:4]])
    for point in points:
        assert (np.hypot(*(ends - point).T) < 0.5).sum() == 2
    # The diagonals of the gable's wall and the upright under its ridge go through one place.
    first, second, upright = (shapely.LineString(line) for line in lines[4:7])
    crossing = shapely.intersection(first, second)
    assert shapely.distance(crossing, upright) < 1e-6


def test_a_row_is_spaced_by_diagonals_through_middles():
    row = one("post", 1.0, 6.0, count=5, gap_m=2.0, row_deg=-90.0)
    stage, cam = Stage((row,)), camera()
    *levels, middle = (shapely.LineString(line) for line in construction(stage, cam)[0][:3])
    diagonals = [shapely.LineString(line) for line in construction(stage, cam)[0][3:]]
    assert len(diagonals) == 3
    for k, diagonal in enumerate(diagonals):
        y = places_of(row)[k + 1, 1]
        assert shapely.distance(shapely.intersection(diagonal, middle),
                                shapely.Point(cam.seen([[1.0, y, 0.6]])[0])) < 1e-6  # fmt: skip
    assert all(line.length > 0 for line in levels)


def test_construction_is_a_layer_to_lift_in_the_drawing():
    plan = set_down(one("house", 0.0, 12.0, turn_deg=30.0, name="the barn")).change(begin_blank().change(Plan()))
    plan = set_horizon(Horizon(0.4 * plan.ground(plan.study).height_px)).change(plan)
    worked = worked_study(plan)
    layers = ("stage", "stage construction")
    drawing = sheet_drawing(plan.study, plan.paper, worked.perspective, None, layers)
    named = [(layer.name, layer.title) for layer in drawing.layers]
    assert ("stage construction", "the barn") in named
    lift = next(layer for layer in drawing.layers if layer.name == "stage construction")
    assert not any(stays(lift, mark, plan.study.sheet) for mark in lift.strokes)


def test_a_sketch_with_clear_paper_shows_its_marks_and_what_is_behind_its_paper():
    paper_l, ink = 235, 30
    scan = np.full((200, 100, 3), paper_l, np.uint8)
    scan[60:140, 40:60] = ink
    source = Picture(scan, 100, 200)
    outline = ((2.0, 2.0), (98.0, 2.0), (98.0, 198.0), (2.0, 198.0))
    wall = replace(one("wall", 0.0, 8.0, width_m=30.0, height_m=6.0, tone=50.0), id="wall")
    sketch = replace(one("block", 0.0, 5.0), id="s", kind="cut-out", source="r", points=outline, height_m=2.0)
    shown = {}
    for clear in (False, True):
        stage = Stage((wall, replace(sketch, clear_paper=clear)))
        scene = scene_of(stage, camera())
        faces = faces_before_the_eye(scene.faces)
        lit = light_up(scene, faces, ground_of(scene), Light())
        shown[clear] = stage_picture(stage, scene, faces, lit, (WIDTH, HEIGHT), WIDTH, {"r": source}).lightness
    middle, margin = camera().seen([[0.0, 5.0, 1.0], [0.35, 5.0, 1.0]]).round().astype(int)
    assert shown[True][middle[1], middle[0]] == pytest.approx(shown[False][middle[1], middle[0]], abs=1.0)
    assert shown[False][margin[1], margin[0]] > 85
    assert shown[True][margin[1], margin[0]] == pytest.approx(50, abs=1.0)


# -- worked out again -------------------------------------------------------------------------------------------


def changed_stages(stage: Stage, hand: np.random.Generator) -> list[Stage]:
    """One thing moved, one taken away, one more, two in another order, an outline before it all."""
    things = stage.things
    at = int(hand.integers(len(things)))
    moved = replace(things[at], x_m=things[at].x_m + 0.7, turn_deg=(things[at].turn_deg + 20) % 180)
    more = replace(one("house", *hand.uniform((-4, 5), (4, 20))), id="more")
    outline = Screen("s", star(hand, 700, 500, 250), 9.0)
    return [
        replace(stage, things=(*things[:at], moved, *things[at + 1 :])),
        replace(stage, things=(*things[:at], *things[at + 1 :])),
        replace(stage, things=(*things, more)),
        replace(stage, things=(things[-1], *things[1:-1], things[0])),
        replace(stage, screens=(outline,)),
    ]


def as_drawn(found: Staged) -> list[list[tuple[tuple[float, ...], ...]]]:
    """All that is seen and all that is behind, thing by thing, as segments whichever way and in whatever order."""
    return [
        sorted(
            tuple(sorted((tuple(start), tuple(end))))
            for line in lines
            for spots in [np.round(line, 4).tolist()]
            for start, end in itertools.pairwise(spots)
        )
        for each in found.things
        for lines in (each.seen, each.behind)
    ]


def test_the_stages_own_points_have_pins_ticks_and_strings():
    """As traced sets have; a block turned by 30 degrees runs to points at f·tan 30 and f/tan 30 from the middle."""
    plan = set_down(one("block", 0.0, 12.0, turn_deg=30.0)).change(begin_blank().change(Plan()))
    plan = set_horizon(Horizon(0.4 * plan.ground(plan.study).height_px)).change(plan)
    plan = widen(60.0).change(plan)
    worked = worked_study(plan)
    perspective, frame_map = worked.perspective, worked.frame_map
    focal = perspective.camera.focal.px
    found = points_on_sheet(perspective, frame_map)
    middle = frame_map.to_sheet(perspective.camera.centre_px)
    offs = sorted(abs(x - middle[0]) / frame_map.mm_per_px for x, _ in found.values())
    assert offs == pytest.approx([focal * np.tan(np.radians(30)), focal / np.tan(np.radians(30))], rel=1e-9)
    assert set(ticks_on_sheet(perspective, frame_map)) <= {"A", "B"}
    assert pins_layer(perspective, frame_map, plan.paper).strokes
    edge = perspective.camera.seen([[0.0, 9.0, 1.0], [np.cos(np.radians(30)), 9.0 - np.sin(np.radians(30)), 1.0]])
    line = BigLine(*edge[0].tolist(), *edge[1].tolist(), name="eaves")
    study = replace(plan.study, structure=replace(plan.study.structure, lines=(line,)))
    (row,) = string_rows(study, perspective, frame_map)
    assert row.worst_mm < 1e-6


def test_a_lamp_stays_where_it_stands_when_the_artist_goes_elsewhere():
    plan = set_horizon(Horizon(1000.0)).change(begin_blank().change(Plan()))
    plan = set_down(one("block", 0.0, 8.0)).change(plan)
    ground, study = plan.ground(plan.study), plan.study
    plan = set_light(Light("lamp", foot=(ground.width_px * 0.6, 1500.0), height_m=3.0)).change(plan)

    def place(plan: Plan) -> np.ndarray:
        seen_by = work_out(plan.study.perspective, ground).camera
        return on_plan(plan.study.stage, seen_by.on_ground([plan.study.perspective.light.foot])[:, :2])

    moved = stood_at(plan.study, ground, 1.5, -2.0, 12.0).change(plan)
    assert place(moved) == pytest.approx(place(plan), abs=1e-9)
    assert moved.study.stage.heading_deg == 12.0
    assert stood_at(study, ground, 1.5, -2.0, 12.0).change(plan).study.perspective.light.kind == "lamp"


@pytest.mark.parametrize("seed", cases(7, 2))
def test_a_change_is_drawn_as_if_all_were_worked_out_anew(seed):
    hand, cam = np.random.default_rng(seed), camera()
    stage = random_stage(300 + seed, 9)
    for step in changed_stages(stage, hand):
        forget()
        whole = as_drawn(staged(replace(step), cam))
        forget()
        staged(replace(stage), cam)
        assert as_drawn(staged(replace(step), cam)) == whole
        back = as_drawn(staged(replace(stage), cam))
        forget()
        assert as_drawn(staged(replace(stage), cam)) == back


@pytest.mark.parametrize("kind", ["cylinder", "post", "bottle"])
def test_the_rims_of_round_things_are_drawn_without_a_break(kind):
    """The near half of the foot is one line, whatever facets the body is made of; so is the rim below a dome."""
    stage = Stage((one(kind, 0.7, 8.0, width_m=3.0, depth_m=3.0, height_m=3.4),))
    lines = staged(stage, camera()).things[0].seen
    foot = [line for line in lines if np.abs(camera().on_ground(line[1:-1])[:, 1] - 8.0).max(initial=0) < 1.6]
    lowest = max(foot, key=lambda line: float(line[:, 1].max()))
    wide = camera().seen([[0.7 - 1.5, 8.0, 0.0], [0.7 + 1.5, 8.0, 0.0]])[:, 0]
    assert np.ptp(lowest[:, 0]) > 0.9 * np.ptp(wide)


def test_the_rim_below_a_dome_is_one_line():
    hut = one("cylinder", 0.7, 12.0, width_m=3.0, depth_m=3.0, height_m=3.4)
    dome = replace(one("half ball", 0.7, 12.0, width_m=3.0, depth_m=3.0, height_m=1.5), id="dome", base_m=3.4)
    found = staged(Stage((hut, dome)), camera())
    rim = camera().seen([[0.7, 10.5, 3.4]])[0]
    through = [
        line for line in (*found.things[0].seen, *found.things[1].seen)
        if shapely.distance(shapely.LineString(line), shapely.Point(rim)) < 1.0
    ]  # fmt: skip
    wide = camera().seen([[-0.8, 12.0, 3.4], [2.2, 12.0, 3.4]])[:, 0]
    assert max(np.ptp(line[:, 0]) for line in through) > 0.98 * np.ptp(wide)
