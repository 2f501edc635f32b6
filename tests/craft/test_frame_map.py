"""The map from photo to sheet with the viewfinder turned, flipped, stretched and beyond the photo."""

from __future__ import annotations

from math import cos, radians, sin

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.picture.framed import bare_paper, framed_lightness, laid_on_sheet
from mild_compass.craft.picture.load import Picture
from mild_compass.craft.viewfinder.moves import flipped, handle_points, moved, resized, turned_to, with_proportion
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import corners, fitted, is_beyond, on_photo, picture_area, require_fitting, stretch_of
from mild_compass.plan.paper import Paper
from mild_compass.plan.pictures import Reference
from mild_compass.plan.study import Frame

SHEET = Paper("x", 230, 180, 15)  # picture area 200 x 150
PHOTO = Reference("p", "p", "ab" * 32, 600, 400)
proportions = st.sampled_from(["locked", "free", "stretched"])


@given(
    st.floats(-45, 45), st.booleans(), proportions, st.floats(0.92, 1.08), st.floats(-900, 900), st.floats(-900, 900)
)
def test_photo_to_sheet_and_back_is_where_one_began(turn, flip, proportion, squeeze, x, y):
    width = 240 * (1 if proportion == "locked" else squeeze)
    frame_map = FrameMap.of(Frame(130, 90, width, 180, turn, flip, proportion), SHEET)
    assert frame_map.to_photo(frame_map.to_sheet((x, y))) == pytest.approx((x, y), abs=1e-9)
    assert frame_map.unturned(frame_map.turned([(x, y)]))[0] == pytest.approx((x, y), abs=1e-9)
    homogeneous = frame_map.matrix() @ (x, y, 1)
    assert homogeneous[:2] == pytest.approx(frame_map.to_sheet((x, y)), abs=1e-9)


@given(st.floats(-45, 45), st.booleans(), proportions)
def test_the_frames_corners_are_the_corners_of_what_it_fills_on_the_sheet(turn, flip, proportion):
    frame = Frame(130, 90, 240, 180 if proportion == "locked" else 172, turn, flip, proportion)
    left, top, width, height = picture_area(SHEET, frame)
    wanted = [(left, top), (left + width, top), (left + width, top + height), (left, top + height)]
    found = FrameMap.of(frame, SHEET).to_sheet(corners(frame))
    if flip:
        found = found[[1, 0, 3, 2]]
    assert found == pytest.approx(np.array(wanted), abs=1e-9)


def test_a_frame_turned_clockwise_turns_the_picture_the_other_way():
    """The middle stays; a point right of it on the photo rises on the sheet by the sine of the angle."""
    frame = Frame(200, 125, 200, 150, 10.0)
    frame_map = FrameMap.of(frame, SHEET)
    middle, right = frame_map.to_sheet([(300.0, 200.0), (340.0, 200.0)])
    assert middle == pytest.approx((115, 90))
    assert right - middle == pytest.approx((40 * cos(radians(10)), -40 * sin(radians(10))))


def test_a_flip_changes_left_and_right_over_and_nothing_else():
    frame = Frame(200, 125, 200, 150)
    plain, other = FrameMap.of(frame, SHEET), FrameMap.of(flipped(frame), SHEET)
    x, y = plain.to_sheet((230, 140)).tolist()
    assert other.to_sheet((230, 140)) == pytest.approx((230 - x, y))
    assert flipped(flipped(frame)) == frame


def test_a_stretch_of_five_per_cent_makes_a_circle_an_ellipse_of_that_ratio():
    frame = Frame(100, 100, 200 / 1.05, 150, proportion="stretched")
    assert stretch_of(frame, SHEET) == pytest.approx(0.05)
    bounds = FrameMap.of(frame, SHEET).ellipse_bounds(200, 170, 20, 20)
    assert bounds.width / bounds.height == pytest.approx(1.05)
    assert bounds.width * bounds.height == pytest.approx(40 * 40 * (200 * 150) / (200 / 1.05 * 150))


@given(st.floats(-45, 45), st.floats(5, 60), st.floats(5, 60))
def test_bounds_of_a_ring_are_those_of_its_points(turn, radius_x, radius_y):
    frame_map = FrameMap.of(Frame(130, 90, 240, 180, turn), SHEET)
    angle = np.linspace(0, 2 * np.pi, 20_001)
    ring = frame_map.to_sheet(np.stack([250 + radius_x * np.cos(angle), 180 + radius_y * np.sin(angle)], 1))
    bounds = frame_map.ellipse_bounds(250, 180, radius_x, radius_y)
    assert tuple(bounds) == pytest.approx((*ring.min(0), *ring.max(0)), abs=1e-5)


# -- how it moves ---------------------------------------------------------------------------------------------


@given(st.floats(-45, 45), st.floats(-500, 1100), st.floats(-500, 900), st.floats(0.2, 1))
def test_a_turned_frame_that_is_moved_stays_on_the_photo(turn, x, y, share):
    start = on_photo(Frame(100, 100, 400 * share, 300 * share, turn), PHOTO)
    frame = moved(start, x, y, PHOTO)
    assert not is_beyond(frame, PHOTO)
    assert frame.turn_deg == turn
    assert frame.width_px / frame.height_px == pytest.approx(4 / 3)


@given(st.floats(-45, 45), st.sampled_from(sorted(handle_points(Frame(0, 0, 1, 1)))), st.floats(0, 600))
def test_a_handle_of_a_turned_frame_leaves_the_far_side_where_it_is(turn, handle, x):
    start = on_photo(Frame(220, 140, 160, 120, turn), PHOTO)
    frame = resized(start, handle, x, 200.0, PHOTO, SHEET)
    assert not is_beyond(frame, PHOTO)
    opposite = {"left": "right", "right": "left", "top": "bottom", "bottom": "top"}
    far = " ".join(opposite[word] for word in handle.split())
    smallest = frame.width_px <= 0.0501 * 400 * 4 / 3
    if not smallest:
        assert handle_points(frame)[far] == pytest.approx(handle_points(start)[far], abs=1e-6)


def test_turning_makes_a_frame_smaller_only_where_its_corners_would_leave_the_photo():
    small, large = Frame(250, 160, 100, 75), Frame(0, 0, 533, 400)
    assert turned_to(small, 30, PHOTO).width_px == 100
    turned = turned_to(large, 10, PHOTO)
    assert turned.width_px < 533
    assert not is_beyond(turned, PHOTO)
    assert turned_to(large, 10, PHOTO, beyond=True).width_px == 533


def test_only_a_frame_that_may_reach_beyond_does_and_its_middle_stays_on_the_photo():
    frame = Frame(100, 100, 200, 150)
    assert not is_beyond(moved(frame, 1000, 0, PHOTO), PHOTO)
    beyond = moved(frame, 1000, 0, PHOTO, beyond=True)
    assert beyond.middle == (600, 175)
    assert moved(beyond, -20, 0, PHOTO).middle == (580, 175)  # one that is beyond is not pulled back


def test_a_free_frame_takes_any_shape_and_a_stretched_one_up_to_ten_per_cent():
    free = with_proportion(Frame(100, 100, 200, 150), "free", PHOTO, SHEET)
    assert resized(free, "right", 550, 0, PHOTO, SHEET).width_px == pytest.approx(450)
    stretched = with_proportion(Frame(100, 100, 200, 150), "stretched", PHOTO, SHEET)
    wide = resized(stretched, "right", 550, 0, PHOTO, SHEET)
    assert stretch_of(wide, SHEET) == pytest.approx(-0.10)
    assert with_proportion(wide, "locked", PHOTO, SHEET).width_px / 150 != wide.width_px / wide.height_px


@pytest.mark.parametrize(
    ("frame", "words"),
    [
        (Frame(0, 0, 300, 150), "proportion of the picture area"),
        (Frame(0, 0, 300, 150, proportion="stretched"), "more than 10 %"),
        (Frame(550, 300, 200, 150), "left the photo"),
        (Frame(-1000, -700, 2400, 1800), "far larger"),
    ],
)
def test_frames_the_sheet_does_not_allow_are_refused_with_a_sentence(frame, words):
    with pytest.raises(PlanError, match=words):
        require_fitting(frame, PHOTO, SHEET)


@pytest.mark.parametrize(
    "wrong", [{"width_px": 0.0}, {"x_px": float("nan")}, {"turn_deg": 46.0}, {"height_px": float("inf")}]
)
def test_bad_numbers_never_make_a_frame(wrong):
    with pytest.raises(PlanError):
        Frame(**{"x_px": 0.0, "y_px": 0.0, "width_px": 10.0, "height_px": 10.0, **wrong})


def test_a_stretched_frame_goes_back_to_locked_when_another_sheet_would_stretch_it_too_far():
    frame = Frame(100, 100, 200, 150, proportion="stretched")
    assert fitted(frame, PHOTO, Paper("y", 230, 330, 15)).proportion == "locked"
    assert fitted(frame, PHOTO, Paper("y", 240, 180, 15)).proportion == "stretched"


# -- the picture in it ----------------------------------------------------------------------------------------


def ramp() -> Picture:
    """A photo of 600 x 400 whose red is its place across and green its place down, in steps of four pixels."""
    x, y = np.meshgrid(np.arange(600) // 4, np.arange(400) // 4)
    return Picture(np.stack([x, y, np.zeros_like(x)], -1).astype(np.uint8), 600, 400)


@pytest.mark.parametrize(
    "frame", [Frame(80, 60, 400, 300), Frame(150, 100, 200, 150, 20.0), Frame(80, 60, 400, 300, -7.0, True)]
)
def test_every_pixel_of_the_framed_picture_shows_its_place_of_the_photo(frame):
    frame_map = FrameMap.of(frame, SHEET)
    laid = laid_on_sheet(ramp().rgb, (600, 400), frame_map, 400, 300)
    rng = np.random.default_rng(3)
    columns, rows = rng.integers(0, 400, 200), rng.integers(0, 300, 200)
    box = frame_map.box
    mm = np.stack([box.left + (columns + 0.5) / 400 * box.width, box.top + (rows + 0.5) / 300 * box.height], 1)
    wanted = frame_map.to_photo(mm) / 4
    assert laid[rows, columns, 0] == pytest.approx(wanted[:, 0], abs=1.0)
    assert laid[rows, columns, 1] == pytest.approx(wanted[:, 1], abs=1.0)


def test_bare_paper_is_what_the_photo_does_not_cover_and_is_left_out_of_the_judging():
    frame = Frame(-100, 100, 200, 150)  # half of it left of the photo
    bare = bare_paper((600, 400), FrameMap.of(frame, SHEET), 200, 150)
    assert bare[:, :100].all()
    assert not bare[:, 100:].any()
    framed = framed_lightness(ramp(), frame, SHEET, 200)
    assert framed.bare is not None
    assert framed.values[framed.bare].min() == pytest.approx(97)
    assert framed.covered.size == framed.values.size - framed.bare.sum()
