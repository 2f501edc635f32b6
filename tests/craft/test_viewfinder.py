"""How the viewfinder moves and what it says."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mild_compass.craft.stations import readings_of
from mild_compass.craft.viewfinder.moves import handle_points, moved, resized, scaled_about_centre
from mild_compass.craft.worked import Worked, worked_study
from mild_compass.plan.edits.base import with_study
from mild_compass.plan.framing import largest_frame
from mild_compass.plan.model import Plan
from mild_compass.plan.paper import Paper
from mild_compass.plan.pictures import Reference
from mild_compass.plan.study import Frame, Ring

PHOTO = Reference("p", "p", "ab" * 32, 600, 400)
SHEET = Paper("x", 230, 180, 15)  # picture area 200 x 150
HANDLES = sorted(handle_points(Frame(0, 0, 1, 1)))


@given(
    st.sampled_from(HANDLES),
    st.floats(-300, 900),
    st.floats(-300, 700),
    st.floats(0, 1),
    st.floats(0, 1),
    st.floats(0.1, 1),
)
def test_a_dragged_handle_keeps_the_ratio_the_far_side_and_the_photo(handle, x, y, across, down, share):
    width = 400 * SHEET.ratio * share
    start = Frame(across * (600 - width), down * (400 - width / SHEET.ratio), width, width / SHEET.ratio)
    frame = resized(start, handle, x, y, PHOTO, SHEET)
    assert frame.width_px / frame.height_px == pytest.approx(SHEET.ratio)
    assert frame.x_px >= -1e-9
    assert frame.y_px >= -1e-9
    assert frame.x_px + frame.width_px <= 600 + 1e-9
    assert frame.y_px + frame.height_px <= 400 + 1e-9
    # With the photo's edge out of the way the opposite side or corner has not moved.
    if frame.width_px > 0.06 * 400 * SHEET.ratio:
        if "left" in handle:
            assert frame.x_px + frame.width_px == pytest.approx(start.x_px + start.width_px)
        if "top" in handle:
            assert frame.y_px + frame.height_px == pytest.approx(start.y_px + start.height_px)
        if "right" in handle:
            assert frame.x_px == pytest.approx(start.x_px)
        if "bottom" in handle:
            assert frame.y_px == pytest.approx(start.y_px)


def test_a_corner_follows_the_pointer_along_the_diagonal():
    frame = resized(Frame(100, 100, 200, 150), "bottom right", 340, 280, PHOTO, SHEET)
    assert (frame.x_px, frame.y_px, frame.width_px, frame.height_px) == pytest.approx((100, 100, 240, 180))


def test_the_frame_stops_at_the_photos_edge():
    frame = moved(Frame(100, 100, 200, 150), 1000, -1000, PHOTO)
    assert (frame.x_px, frame.y_px) == (400, 0)


def test_scaling_about_the_centre_keeps_the_centre_where_there_is_room():
    frame = scaled_about_centre(Frame(200, 125, 200, 150), 100, PHOTO, SHEET)
    assert (frame.x_px, frame.y_px) == pytest.approx((250, 162.5))
    assert scaled_about_centre(frame, 10_000, PHOTO, SHEET) == largest_frame(PHOTO, SHEET)


def worked_with(plan: Plan, frame: Frame | None = None, ring: Ring | None = None) -> Worked:
    assert plan.study is not None
    study = replace(plan.study, frame=frame or plan.study.frame, rings=(ring,) if ring else ())
    worked = worked_study(with_study(plan, study))
    assert worked is not None
    return worked


def reading(worked: Worked, key: str):
    return next(each for each in readings_of("viewfinder", worked) if each.key == key)


def test_share_scale_and_sharpness_of_a_known_frame(plan):
    """390 mm of picture from 300 pixels: 130 mm per 100 pixels, 300 / (390 / 25.4) dots per inch."""
    height = 300 / plan.paper.ratio
    worked = worked_with(plan, Frame(10, 20, 300, height))
    assert reading(worked, "share_kept").number == pytest.approx(100 * 300 * height / 240_000, abs=0.01)
    assert reading(worked, "scale").number == pytest.approx(130)
    assert reading(worked, "sharpness").number == pytest.approx(300 / 390 * 25.4, abs=0.05)
    assert reading(worked, "sharpness").verdict == "act"


@pytest.mark.parametrize(("across", "verdict"), [(0.5, "look"), (0.46, "look"), (0.44, "fine"), (1 / 3, "fine")])
def test_within_five_percent_of_the_upright_middle_is_dead_centre(plan, across, verdict):
    frame = Frame(60, 0, 400, 400 / plan.paper.ratio)
    worked = worked_with(plan, frame, Ring(60 + 400 * across, 140, 20, 40))
    assert reading(worked, "placement").verdict == verdict


def test_try_it_puts_a_centred_subject_on_a_third(plan):
    frame = Frame(100, 20, 400, 400 / plan.paper.ratio)
    worked = worked_with(plan, frame, Ring(300, 140, 20, 40))
    remedy = reading(worked, "placement").remedy
    assert remedy is not None
    study = remedy.change(worked.plan).study
    assert study is not None
    share = (300 - study.frame.x_px) / study.frame.width_px
    assert min(abs(share - 1 / 3), abs(share - 2 / 3)) < 1e-6


def test_a_subject_outside_the_frame_is_called_out(plan):
    worked = worked_with(plan, Frame(0, 0, 200, 200 / plan.paper.ratio), Ring(500, 300, 10, 10))
    found = reading(worked, "placement")
    assert found.verdict == "act"
    assert found.remedy is not None


def test_without_a_ring_nothing_is_said_of_the_subject(plan):
    assert all(each.key != "placement" for each in readings_of("viewfinder", worked_with(plan)))
