"""The eye as a camera, heights, focal lengths, and what stands on the ground, against published figures and renders."""

from __future__ import annotations

from math import cos, radians, sin, tan

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from tests.craft.test_perspective import scipy_point
from tests.craft.true_ellipse import ellipse_of_circle

from mild_compass.craft.perspective.camera import (
    Camera,
    Focal,
    camera_of,
    focal_of_two,
    focal_of_uprights,
    guessed_focal,
)
from mild_compass.craft.perspective.guide_lines import circle_m, lines_of_guides
from mild_compass.craft.perspective.horizon import HorizonLine
from mild_compass.craft.perspective.light import reflected_points, shadow_points, sun_direction
from mild_compass.craft.perspective.spacing import (
    edge_ticks,
    equally_spaced,
    parted_points,
    spaced_by_three,
    spaced_points,
)
from mild_compass.craft.perspective.standing import image_height_px, made_to_stand
from mild_compass.craft.perspective.things import USUAL_M, silhouette
from mild_compass.craft.perspective.two_heights import KnownThing, horizon_and_eye
from mild_compass.craft.perspective.vanishing import vanishing_point
from mild_compass.craft.perspective.worked import work_out
from mild_compass.demo.glasshouse import camera as rendered_camera
from mild_compass.demo.pumping_station import facts, house_edges, house_point
from mild_compass.plan.errors import PlanError
from mild_compass.plan.guides import GUIDE_KINDS, Guide, Lens, Light
from mild_compass.plan.perspective import EdgeSet, Horizon, PerspectivePlan, TracedEdge
from mild_compass.plan.pictures import Reference
from mild_compass.plan.study import Departure

PHOTO = Reference("p", "p", "ab" * 32, 1800, 1200, focal_35mm=28)
CENTRE = (900.0, 600.0)


def camera(pitch_deg: float = 0.0, roll_deg: float = 0.0, focal: float = 1400.0, eye: float = 1.6) -> Camera:
    """A camera of known turn, made from the horizon it sees."""
    pitch, roll = radians(pitch_deg), radians(roll_deg)
    # The horizon lies f·tan(pitch) below the middle (for a camera tipped up), turned by the roll.
    off = focal * tan(pitch)
    a, b = -sin(roll), cos(roll)
    at = np.array(CENTRE) + off * np.array([a, b])
    return camera_of(HorizonLine(np.array([a, b, -(a * at[0] + b * at[1])]), "hand"), Focal(focal, "hand"), CENTRE, eye)


# -- published figures ----------------------------------------------------------------------------------------


def test_points_1000_left_and_2000_right_of_the_centre_give_a_focal_length_of_1414():
    """f² = −(v1 − p)·(v2 − p) (B. Caprile & V. Torre, IJCV 4, 1990)."""
    assert focal_of_two(np.array([-100.0, 600.0]), np.array([2900.0, 600.0]), CENTRE) == pytest.approx(
        1414.21, abs=0.01
    )
    assert focal_of_two(np.array([1000.0, 600.0]), np.array([2900.0, 600.0]), CENTRE) is None


def test_a_door_of_203_m_whose_foot_is_160_px_below_the_horizon_is_203_px_tall():
    """Level camera, eye 1.60 m: (y_foot − y_horizon)·H / E."""
    eye = camera(0.0)
    assert image_height_px(eye, (500.0, 760.0), 2.03) == pytest.approx(203)
    assert eye.height_of((500.0, 760.0), (500.0, 557.0)) == pytest.approx(2.03)


def test_equal_spacing_is_12_6_4_3_24_2():
    assert equally_spaced(0, 12, 6, 6) == pytest.approx([12, 6, 4, 3, 2.4, 2])


@given(st.floats(-500, 2300), st.floats(650, 1150), st.floats(0.02, 0.7), st.integers(4, 12))
def test_equal_steps_keep_the_cross_ratio(x, y, share, count):
    """(p0 p2 : p1 p3) of four equal steps is 4 / 3, wherever they are seen from; to 1e-9."""
    vanishing = np.array([900.0, 600.0, 1.0])
    first = np.array([x, y])
    second = first + share * (vanishing[:2] - first)
    points = spaced_points(first, second, vanishing, count)
    way = (vanishing[:2] - first) / np.hypot(*(vanishing[:2] - first))
    t = (points - first) @ way
    ratio = (t[2] - t[0]) * (t[3] - t[1]) / ((t[2] - t[1]) * (t[3] - t[0]))
    assert ratio == pytest.approx(4 / 3, abs=1e-9)
    middle = parted_points(points[0], points[2], vanishing, 2)[0]
    assert middle == pytest.approx(points[1], abs=1e-6)
    assert spaced_by_three(*points[:3], count) == pytest.approx(points, abs=1e-6)  # the horizon is not needed


def test_three_that_cannot_be_of_one_row_have_no_others():
    assert np.isnan(spaced_by_three((0.0, 0.0), (10.0, 0.0), (5.0, 0.0), 4)).all()
    assert np.isnan(spaced_by_three((3.0, 3.0), (10.0, 0.0), (3.0, 3.0), 4)).all()


def test_posts_at_a_plan_distance_stand_that_far_apart():
    eye = camera()
    feet = eye.seen([[-1.0, 4.0, 0.0], [-1.0, 5.5, 0.0]])
    row = Guide("a", "row", tuple(map(tuple, feet.tolist())), count=5, height_m=1.0, spacing_m=2.5)
    (drawn,) = lines_of_guides(PerspectivePlan(guides=(row,)), HorizonLine(np.array([0.0, 1.0, -600.0]), "hand"), eye)
    ground = eye.on_ground(drawn.lines[5])
    assert ground[:, 1] == pytest.approx([4.0, 6.5, 9.0, 11.5, 14.0])
    assert ground[:, 0] == pytest.approx([-1.0] * 5)


def test_equal_steps_across_the_picture_are_equal():
    points = spaced_points((100.0, 900.0), (250.0, 900.0), (1.0, 0.0, 0.0), 5)
    assert points[:, 0] == pytest.approx([100, 250, 400, 550, 700])
    assert np.isnan(spaced_points((900.0, 700.0), (900.0, 900.0), (900.0, 600.0, 1.0), 8)[-1]).all()  # behind the eye


def test_a_shadow_is_height_over_the_tangent_of_the_altitude_long():
    eye = camera()
    for altitude in (20.0, 45.0, 70.0):
        light = Light("sun", 90.0, altitude)
        fallen = shadow_points([[2.0, 6.0, 1.75]], light, eye)[0]
        assert np.hypot(*(fallen[:2] - (2, 6))) == pytest.approx(1.75 / tan(radians(altitude)))
        assert fallen[0] < 2  # the light is on the right, the shadow falls to the left


def test_the_suns_and_the_shadows_points_share_one_upright_line():
    eye = camera(0.0)
    for azimuth, altitude in ((150.0, 30.0), (200.0, 12.0)):
        way = sun_direction(azimuth, altitude)
        sun, shade = eye.direction_px(-way), eye.direction_px([way[0], way[1], 0.0])
        assert sun[0] / sun[2] == pytest.approx(shade[0] / shade[2])
        assert shade[1] / shade[2] == pytest.approx(600)
        assert sun[1] / sun[2] < 600  # ahead of the artist: above the horizon


def test_what_is_as_high_as_the_lamp_throws_no_shadow_that_ends():
    eye = camera()
    foot = tuple(eye.seen([[1.0, 5.0, 0.0]])[0])
    light = Light("lamp", foot=foot, height_m=3.0)
    fallen = shadow_points([[2.0, 5.0, 1.5], [2.0, 5.0, 3.0]], light, eye)
    assert fallen[0] == pytest.approx((3.0, 5.0, 0.0), abs=1e-6)  # halfway up: the shadow's end is as far again
    assert np.isnan(fallen[1]).all()


def test_a_reflection_lies_as_far_below_the_water_as_the_thing_above_it():
    mirrored = reflected_points([[1.0, 4.0, 1.2]], -0.3)
    assert mirrored[0] == pytest.approx((1.0, 4.0, -1.8))
    eye = camera()
    top, low, water = (eye.seen([[1.0, 4.0, z]])[0, 1] for z in (1.2, -1.8, -0.3))
    assert top - water == pytest.approx(water - low)  # level camera: the same distance in the picture too


# -- the camera -----------------------------------------------------------------------------------------------

turns = st.tuples(st.floats(-25, 25), st.floats(-15, 15))


@given(turns, st.floats(-4, 4), st.floats(3, 40), st.floats(0.3, 3))
def test_ground_and_picture_are_each_others_way_back(turn, x, y, height):
    eye = camera(*turn)
    foot = eye.seen([[x, y, 0.0]])
    top = eye.seen([[x, y, height]])
    assume(np.isfinite(foot).all() and np.isfinite(top).all())
    assert eye.on_ground(foot)[0] == pytest.approx((x, y, 0.0), abs=1e-6 * y * y)
    assert eye.height_of(foot[0], top[0]) == pytest.approx(height, rel=1e-6)


@given(turns)
def test_the_horizon_it_was_made_from_is_where_level_directions_vanish(turn):
    eye = camera(*turn)
    for angle in (-0.3, 0.0, 0.25):
        x, y, w = eye.direction_px([sin(angle), cos(angle), 0.0])
        off = radians(turn[1])
        line = np.array([-sin(off), cos(off)])
        at = np.array(CENTRE) + 1400 * tan(radians(turn[0])) * line
        assert line @ (np.array([x / w, y / w]) - at) == pytest.approx(0, abs=1e-6)


@given(st.floats(2, 25), st.floats(600, 3000))
def test_uprights_and_horizon_tell_the_focal_length(pitch, focal):
    eye = camera(pitch, 3.0, focal)
    x, y, w = eye.direction_px([0, 0, 1])
    horizon = HorizonLine(_line_of(eye), "points")
    assert focal_of_uprights(horizon, np.array([x / w, y / w]), CENTRE) == pytest.approx(focal, rel=1e-6)


def _line_of(eye: Camera) -> np.ndarray:
    first, second = (eye.direction_px([sin(a), cos(a), 0.0]) for a in (-0.4, 0.4))
    line = np.cross(first, second)
    return line / np.hypot(line[0], line[1]) * np.sign(line[1])


def test_nothing_stands_above_the_horizon_and_nothing_behind_is_seen():
    eye = camera()
    assert np.isnan(eye.on_ground([(900.0, 500.0)])).all()
    assert np.isnan(eye.height_of((900.0, 500.0), (900.0, 400.0)))
    assert np.isnan(eye.seen([[0.0, -3.0, 0.0]])).all()


@given(st.floats(-2, 2), st.floats(4, 12), st.floats(0.2, 1.5), turns)
def test_a_circle_is_seen_as_its_true_ellipse(x, y, radius, turn):
    eye = camera(*turn)
    ellipse = ellipse_of_circle(eye, (x, y, 0.0), radius)
    assert ellipse is not None
    points = eye.seen(circle_m(np.array([x, y, 0.0]), 2 * radius))
    off = points - ellipse.middle
    a, b = ellipse.half_axes
    along = off @ ellipse.along
    aside = off @ np.array([-ellipse.along[1], ellipse.along[0]])
    assert (along / a) ** 2 + (aside / b) ** 2 == pytest.approx(np.ones(len(points)), abs=1e-6)
    assert a >= b
    # Its middle is nearer to the artist than the circle's own.
    assert ellipse_of_circle(eye, (0.0, 0.3, 0.0), 2.0) is None


# -- edge ticks -----------------------------------------------------------------------------------------------


@given(st.floats(-3000, -50), st.floats(50, 250), st.floats(5, 30))
def test_lines_through_ticks_of_one_number_meet_at_the_point(x, y, spacing):
    left, right = edge_ticks(15, 405, y, y, (x, y, 1.0), spacing, 15, 282)
    for a, b in zip(left, right, strict=True):
        slope = (b - a) / (405 - 15)
        assert a + slope * (x - 15) == pytest.approx(y, abs=1e-6)
    assert len(left) >= 1


# -- what follows from a plan ---------------------------------------------------------------------------------


def traced(name: str, wobble: float = 0.0, seed: int = 1) -> PerspectivePlan:
    """The house's edges as the level render's camera shows them."""
    known, view = facts(name), rendered_camera(name)
    hand = np.random.default_rng(seed)
    sets = []
    for letter, kind, way in (("A", "level", "along"), ("B", "level", "across"), ("C", "upright", "upright")):
        edges = [view.seen(np.stack(ends)) + hand.normal(0, wobble, (2, 2)) if wobble else view.seen(np.stack(ends))
                 for ends in house_edges(known)[way]]  # fmt: skip
        sets.append(EdgeSet(letter, kind, tuple(TracedEdge(*each.ravel().tolist()) for each in edges)))
    return PerspectivePlan(tuple(sets), eye_m=known["eye_height_m"])


@pytest.mark.parametrize("name", ["pumping-station-level", "pumping-station-low"])
def test_poles_and_people_of_rendered_scenes_measure_what_they_are(name):
    """Within 2 %, tipped camera included."""
    known, view = facts(name), rendered_camera(name)
    worked = work_out(traced(name), PHOTO)
    assert worked.camera is not None
    for thing in (*known["poles_m"], *known["people_m"]):
        foot = np.array(thing["foot"])
        ends = view.seen(np.stack([foot, foot + np.array([0, 0, thing["height"]])]))
        assert worked.camera.height_of(ends[0], ends[1]) == pytest.approx(thing["height"], rel=0.02)


def test_two_known_heights_of_a_level_photo_tell_horizon_and_eye():
    """Two poles of the render, whatever pair of them."""
    known, view = facts("pumping-station-level"), rendered_camera("pumping-station-level")
    things = []
    for thing in (*known["poles_m"], *known["people_m"]):
        foot = np.array(thing["foot"])
        ends = view.seen(np.stack([foot, foot + np.array([0, 0, thing["height"]])]))
        things.append(KnownThing(tuple(ends[0]), tuple(ends[1]), thing["height"]))
    near, far = max(things, key=lambda each: each.foot[1]), min(things, key=lambda each: each.foot[1])
    y, eye_m = horizon_and_eye(near, far)
    assert y == pytest.approx(known["horizon_y_px"], abs=2)
    assert eye_m == pytest.approx(known["eye_height_m"], rel=0.02)
    with pytest.raises(PlanError, match="same distance"):
        horizon_and_eye(near, near)
    with pytest.raises(PlanError, match="check the heights"):
        horizon_and_eye(KnownThing(near.foot, near.top, 9 * near.height_m), far)


@pytest.mark.parametrize("name", ["pumping-station-level", "pumping-station-low"])
def test_focal_length_horizon_and_points_are_those_of_the_render(name):
    known, view = facts(name), rendered_camera(name)
    worked = work_out(traced(name), PHOTO)
    assert worked.horizon.y_at(900) == pytest.approx(known["horizon_y_px"], abs=1)
    sources = {focal.source: focal.px for focal in worked.focals}
    assert sources["two sets"] == pytest.approx(view.focal_px, rel=0.01)
    assert sources["photo"] == pytest.approx(28 / 36 * 1800)
    assert worked.focals[0].source == "two sets"


def test_the_row_of_bollards_and_the_shadows_fall_on_those_of_the_render():
    """Within one pixel of the scene's own geometry."""
    name = "pumping-station-level"
    known, view = facts(name), rendered_camera(name)
    plan = traced(name)
    feet = np.array(known["bollards_m"])
    posts = tuple(map(tuple, view.seen(feet[:2]).tolist()))
    row = Guide("g", "row", posts, count=len(feet), height_m=known["bollard_height_m"])
    worked = work_out(plan, PHOTO)
    (drawn,) = lines_of_guides(
        PerspectivePlan(plan.sets, eye_m=plan.eye_m, guides=(row,)), worked.horizon, worked.camera
    )
    for line, foot in zip(drawn.lines, feet, strict=False):
        true = view.seen(np.stack([foot, foot + np.array([0, 0, known["bollard_height_m"]])]))
        assert line == pytest.approx(true, abs=1.0)
    sun = np.array(known["sun_direction"])
    azimuth = float(np.degrees(np.arctan2(-sun[0], sun[1])))
    yaw = float(np.degrees(np.arctan2(view.axes[2][0], view.axes[2][1])))
    light = Light("sun", azimuth + yaw, float(np.degrees(np.arcsin(-sun[2] / np.linalg.norm(sun)))))
    top = house_point(known, 0, 0, known["house_m"]["eaves"])
    fallen = top - sun * top[2] / sun[2]
    mine = worked.camera.on_ground(view.seen([house_point(known, 0, 0, 0)]))[0] + (0, 0, top[2])
    assert worked.camera.seen(shadow_points([mine], light, worked.camera))[0] == pytest.approx(
        view.seen([fallen])[0], abs=1.0
    )
    mirrored = worked.camera.seen(reflected_points([mine], 0.0))[0]
    assert mirrored == pytest.approx(view.seen([top * (1, 1, -1)])[0], abs=1.0)


def test_an_image_focal_by_hand_or_by_the_photo_is_preferred_when_chosen():
    plan = traced("pumping-station-level")
    by_hand = work_out(PerspectivePlan(plan.sets, focal="hand", focal_px=2000.0), PHOTO)
    assert by_hand.focals[0] == Focal(2000.0, "hand")
    by_photo = work_out(PerspectivePlan(plan.sets, focal="photo"), PHOTO)
    assert by_photo.focals[0].source == "photo"
    bare = work_out(PerspectivePlan(horizon=Horizon(600.0)), Reference("p", "p", "ab" * 32, 1800, 1200))
    assert bare.focals == (guessed_focal(1800, 1200),)


@given(st.floats(-20, 20), st.floats(0, 1800))
def test_a_tilted_horizon_by_hand_goes_through_its_place(tilt, x):
    worked = work_out(PerspectivePlan(horizon=Horizon(500.0, tilt, x)), PHOTO)
    assert worked.horizon.y_at(x) == pytest.approx(500)
    assert worked.horizon.tilt_deg == pytest.approx(tilt, abs=1e-9)


# -- guides ---------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("kind", GUIDE_KINDS)
@pytest.mark.parametrize(
    "points", [((800.0, 900.0), (900.0, 780.0), (1200.0, 850.0)), ((800.0, 300.0), (820.0, 200.0))]
)
def test_every_guide_is_drawn_on_the_ground_and_says_so_above_the_horizon(kind, points):
    guide = Guide("g", kind, points, gable=True, shadow=True, reflected=True, turn_deg=20)
    plan = PerspectivePlan(horizon=Horizon(600.0), guides=(guide,), light=Light("sun", 40, 50), water_m=-0.2)
    worked = work_out(plan, PHOTO)
    (drawn,) = lines_of_guides(plan, worked.horizon, worked.camera)
    if points[0][1] > 600:
        assert drawn.lines
        assert all(np.isfinite(line).all() for line in (*drawn.lines, *drawn.shadow, *drawn.reflection))
        assert drawn.reflection
        if kind != "floor":
            assert drawn.shadow
    else:
        assert drawn.lines == ()
        assert "horizon" in drawn.words


def test_a_person_as_tall_as_the_eye_has_the_head_on_the_horizon_wherever_it_stands():
    """Common practice, no published source."""
    plan = PerspectivePlan(horizon=Horizon(500.0), eye_m=1.63, guides=tuple(
        Guide(f"g{k}", "figure", (place,), thing="man", height_m=1.63)
        for k, place in enumerate(((300.0, 1100.0), (900.0, 700.0), (1500.0, 560.0)))
    ))  # fmt: skip
    worked = work_out(plan, PHOTO)
    for drawn in lines_of_guides(plan, worked.horizon, worked.camera):
        assert drawn.lines[0][:, 1].min() == pytest.approx(500, abs=1e-6)


def test_guides_move_as_one_with_the_horizon_and_hidden_ones_are_not_drawn():
    guide = Guide("g", "figure", ((900.0, 900.0),), height_m=1.75)
    tall = []
    for y in (500.0, 600.0):
        plan = PerspectivePlan(horizon=Horizon(y), guides=(guide,))
        worked = work_out(plan, PHOTO)
        (drawn,) = lines_of_guides(plan, worked.horizon, worked.camera)
        tall.append(np.ptp(drawn.lines[0][:, 1]))
    assert tall[0] / tall[1] == pytest.approx(4 / 3, rel=0.03)
    hidden = PerspectivePlan(horizon=Horizon(500.0), guides=(Guide("g", "figure", ((900.0, 900.0),), shown=False),))
    assert lines_of_guides(hidden, work_out(hidden, PHOTO).horizon, work_out(hidden, PHOTO).camera) == []
    assert lines_of_guides(hidden, None, None) == []


def test_a_borrowed_figure_is_as_large_as_where_it_stands_makes_it():
    eye = camera()
    lent = Departure(
        "d", "borrow", ((0.0, 0.0), (50.0, 0.0), (50.0, 200.0)), source="p", x_px=900, y_px=700, height_m=1.6
    )
    near, far = (made_to_stand(Departure(**{**_fields(lent), "y_px": y}), eye) for y in (900.0, 640.0))
    for placed in (near, far):
        foot = placed.y_px + 200 * placed.size / 2
        assert 200 * placed.size == pytest.approx(foot - 600)  # eye 1.6 m, figure 1.6 m: head on the horizon
    assert near.size > far.size
    assert made_to_stand(lent, None) is lent


def _fields(departure: Departure) -> dict:
    return {name: getattr(departure, name) for name in departure.__dataclass_fields__}


def test_silhouettes_are_one_height_tall_and_stand_on_the_ground():
    for thing in USUAL_M:
        outline = silhouette(thing)
        assert (outline[:, 1].min(), outline[:, 1].max()) == (0, 1)
        assert outline[0] == pytest.approx(outline[-1])


@pytest.mark.parametrize(
    "make",
    [
        lambda: Guide("g", "row", ((1.0, 1.0),)),
        lambda: Guide("g", "row", ((1.0, 1.0), (1.0, 1.0))),
        lambda: Guide("g", "box", ((float("nan"), 0.0),)),
        lambda: Guide("g", "figure", ((1.0, 1.0),), height_m=0),
        lambda: Guide("g", "figure", ((1.0, 1.0),), count=1),
        lambda: Light("sun", altitude_deg=0),
        lambda: Light("lamp", height_m=-1),
        lambda: Lens(k1=2),
        lambda: Lens(turn=(9.0, 0.0, 0.0)),
        lambda: PerspectivePlan(eye_m=0),
        lambda: PerspectivePlan(water_m=float("nan")),
        lambda: Horizon(0, 80),
        lambda: PerspectivePlan(guides=(Guide("g", "floor"), Guide("g", "floor"))),
    ],
)
def test_what_makes_no_sense_cannot_be_made(make):
    with pytest.raises(PlanError) as caught:
        make()
    assert str(caught.value).endswith(".")


def test_directions_from_noisy_edges_of_a_render_are_no_worse_than_a_plain_solvers():
    """Six edges a set, 1 px of noise: the median angle to the true direction, against SciPy's least squares."""
    known, view = facts("pumping-station-level"), rendered_camera("pumping-station-level")
    heights, long = (0.3, 0.9, 1.5, 2.1, 2.7, 3.3), known["house_m"]["along"]
    clean = np.array(
        [view.seen(np.stack([house_point(known, 0, 0, z), house_point(known, long, 0, z)])) for z in heights]
    )
    true = view.axes @ np.array(known["house_along"])
    rng, mine, theirs = np.random.default_rng(3), [], []
    for _ in range(60):
        noisy = clean + rng.normal(0, 1.0, clean.shape)
        found = vanishing_point(EdgeSet("A", edges=tuple(TracedEdge(*each.ravel()) for each in noisy)), 1.0)
        mine.append(_angle(found.homogeneous, true, view))
        theirs.append(_angle(np.array([*scipy_point(noisy), 1.0]), true, view))
    assert np.median(mine) <= np.median(theirs) * 1.02 + 1e-6


def _angle(point: np.ndarray, true: np.ndarray, view) -> float:
    """Degrees between a direction given by its point (x, y, w) and the true one."""
    ray = np.array([(point[0] - 900 * point[2]) / view.focal_px, (point[1] - 600 * point[2]) / view.focal_px, point[2]])
    return float(np.degrees(np.arccos(min(1.0, abs(ray @ true) / np.linalg.norm(ray)))))
