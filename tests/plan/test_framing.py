"""The frame on the photo: what fitting, moving back on and stretching keep, with figures worked out by hand."""

from __future__ import annotations

from dataclasses import replace
from math import sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import (
    LARGEST_SHARE,
    SMALLEST_SHARE,
    STRETCH,
    fitted,
    is_beyond,
    largest_frame,
    on_photo,
    require_fitting,
    stretch_of,
)
from mild_compass.plan.paper import Paper
from mild_compass.plan.pictures import Reference
from mild_compass.plan.study import Frame

PHOTO = Reference("p", "p", "ab" * 32, 800, 600)
SQUARE = Paper("x", 230, 230)  # 200 x 200 mm inside margins of 15
WIDE = Paper("x", 430, 230)  # 400 x 200 mm


def sides(frame: Frame) -> tuple[float, float, float, float]:
    return frame.x_px, frame.y_px, frame.width_px, frame.height_px


def test_a_locked_frame_keeps_its_area_and_its_middle():
    frame = fitted(Frame(300, 200, 100, 200), PHOTO, WIDE)
    assert frame.width_px * frame.height_px == pytest.approx(20_000)
    assert frame.middle == pytest.approx((350, 300))
    assert frame.width_px == pytest.approx(200)


def test_a_frame_that_is_allowed_stays_as_it_is():
    assert sides(fitted(Frame(10, 20, 300, 150), PHOTO, WIDE)) == pytest.approx((10, 20, 300, 150))
    free = Frame(10, 20, 300, 77, proportion="free")
    assert fitted(free, PHOTO, WIDE) == free


def test_a_frame_that_grows_past_the_edge_is_moved_back_and_one_too_large_is_made_smaller():
    assert sides(fitted(Frame(700, 0, 100, 400), PHOTO, SQUARE)) == pytest.approx((600, 100, 200, 200))
    assert sides(fitted(Frame(0, 0, 800, 600), PHOTO, SQUARE)) == pytest.approx((100, 0, 600, 600))


def test_a_frame_is_never_smaller_than_its_least_share_of_the_photo():
    frame = fitted(Frame(399, 299, 2, 2), PHOTO, SQUARE)
    assert frame.width_px == pytest.approx(SMALLEST_SHARE * 600)
    assert frame.middle == pytest.approx((400, 300))


def test_a_frame_beyond_the_photo_stays_beyond_up_to_its_largest_share():
    beyond = Frame(-100, -50, 700, 700)
    assert is_beyond(beyond, PHOTO)
    assert sides(fitted(beyond, PHOTO, SQUARE)) == pytest.approx(sides(beyond))
    huge = fitted(Frame(-9000, -9000, 18_800, 18_600), PHOTO, SQUARE)
    assert huge.width_px == pytest.approx(LARGEST_SHARE * 600)
    assert huge.middle == pytest.approx((400, 300))


def test_a_stretch_within_ten_in_a_hundred_stays_and_more_is_locked():
    slight = Frame(100, 100, 210, 200, proportion="stretched")
    assert fitted(slight, PHOTO, SQUARE) == slight
    assert stretch_of(slight, SQUARE) == pytest.approx(200 / 210 - 1)
    strong = fitted(replace(slight, width_px=300), PHOTO, SQUARE)
    assert strong.proportion == "locked"
    assert (strong.width_px, strong.height_px) == pytest.approx((sqrt(60_000), sqrt(60_000)))
    assert stretch_of(replace(slight, proportion="free"), SQUARE) == 0


def test_a_stretch_either_way_is_bounded_alike():
    for ratio in (1 / (1 + STRETCH) + 0.001, 1 / (1 - STRETCH) - 0.001):
        kept = Frame(100, 100, 200 * ratio, 200, proportion="stretched")
        assert fitted(kept, PHOTO, SQUARE).proportion == "stretched"
        assert require_fitting(kept, PHOTO, SQUARE) is kept
    for ratio in (1 / (1 + STRETCH) - 0.01, 1 / (1 - STRETCH) + 0.01):
        with pytest.raises(PlanError, match="10 %"):
            require_fitting(Frame(100, 100, 200 * ratio, 200, proportion="stretched"), PHOTO, SQUARE)


@pytest.mark.parametrize("turn_deg", [0, 7, -20, 45])
@given(x=st.floats(-600, 1400), y=st.floats(-600, 1200), size=st.floats(20, 2000))
def test_a_frame_put_on_the_photo_has_all_its_corners_there_and_moves_no_further_than_it_must(turn_deg, x, y, size):
    frame = Frame(x - size / 2, y - size / 2, size, size, turn_deg=turn_deg)
    kept = on_photo(frame, PHOTO)
    assert not is_beyond(kept, PHOTO)
    assert kept.width_px == pytest.approx(kept.height_px)
    if kept.width_px == pytest.approx(size):
        wanted_x = x if kept.middle[0] == pytest.approx(x) else None
        at_edge = replace(kept, x_px=kept.x_px + (1 if x > kept.middle[0] else -1))
        assert wanted_x is not None or is_beyond(at_edge, PHOTO)
    else:
        assert kept.width_px < size
        assert is_beyond(replace(kept, x_px=kept.x_px - 1, width_px=kept.width_px + 2, y_px=kept.y_px - 1,
                                 height_px=kept.height_px + 2), PHOTO)  # fmt: skip


def test_the_largest_frame_fills_one_side_and_lies_in_the_middle():
    assert sides(largest_frame(PHOTO, SQUARE)) == pytest.approx((100, 0, 600, 600))
    assert sides(largest_frame(PHOTO, WIDE)) == pytest.approx((0, 100, 800, 400))


@pytest.mark.parametrize(
    ("frame", "words"),
    [
        (Frame(0, 0, 300, 200), "must keep the proportion"),
        (Frame(790, 100, 200, 200), "left the photo"),
        (Frame(100, -150, 200, 200), "left the photo"),
        (Frame(-1100, -1200, 3000, 3000), "far larger"),
    ],
)
def test_a_frame_the_sheet_does_not_allow_is_refused_with_the_reason(frame, words):
    with pytest.raises(PlanError, match=words):
        require_fitting(frame, PHOTO, SQUARE)
