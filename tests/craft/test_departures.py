"""Planned departures: what each does to the picture, and that everything computed from it follows."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import skimage.data
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import NOON, jpeg

from mild_compass.craft.picture.departed import departed
from mild_compass.craft.picture.flatten import flattened
from mild_compass.craft.picture.load import Picture
from mild_compass.craft.picture.study_picture import study_picture
from mild_compass.craft.picture.tone import lightness
from mild_compass.craft.sheet.layers import sheet_drawing
from mild_compass.craft.values.masses import find_masses
from mild_compass.craft.worked import worked_study
from mild_compass.plan.edits.departures import (
    add_departure,
    change_departure,
    next_id,
    remove_departure,
    settle_departure,
)
from mild_compass.plan.errors import PlanError
from mild_compass.plan.paper import Paper
from mild_compass.plan.pictures import Reference
from mild_compass.plan.study import Departure, Frame
from mild_compass.plan.tones import ValuePlan

SQUARE = ((100.0, 60.0), (160.0, 60.0), (160.0, 120.0), (100.0, 120.0))


def grey_photo(value: int = 128) -> Picture:
    return Picture(np.full((200, 300, 3), value, np.uint8), 300, 200)


def made(picture: Picture, kind: str, points=SQUARE, sources=None, **more) -> np.ndarray:
    """The pixels with one departure made."""
    return departed(picture, [Departure("d", kind, points, **more)], sources or {}).rgb


def outside(rgb: np.ndarray, room: int = 4) -> np.ndarray:
    """Everything that lies off the square and its rim, in a row."""
    mask = np.ones(rgb.shape[:2], bool)
    mask[60 - room : 120 + room, 100 - room : 160 + room] = False
    return rgb[mask]


def test_what_is_left_out_of_an_even_ground_is_gone_without_a_trace():
    picture = grey_photo()
    picture.rgb[70:110, 110:150] = 20
    assert abs(made(picture, "leave out").astype(int) - 128).max() <= 1


def test_what_is_left_out_takes_on_the_slope_of_its_surroundings():
    """On a ramp from dark to light the flattened part goes on with the ramp; a flat patch would be off by 30."""
    ramp = np.repeat(np.repeat(np.arange(300)[None, :, None] * 0.8, 200, 0), 3, 2).astype(np.uint8)
    picture = Picture(ramp.copy(), 300, 200)
    picture.rgb[70:110, 110:150] = 255
    rgb = made(picture, "leave out")
    assert abs(rgb.astype(int) - ramp.astype(int))[60:120, 100:160].max() < 14
    assert (outside(rgb, 6) == outside(ramp, 6)).all()


@given(st.integers(0, 10_000), st.integers(1, 40), st.integers(1, 40))
def test_flattening_never_leaves_the_range_of_what_is_known(seed, height, width):
    rng = np.random.default_rng(seed)
    colours = rng.uniform(0, 255, (height, width, 3)).astype(np.float32)
    known = (rng.uniform(size=(height, width)) > 0.5).astype(np.float32)
    filled = flattened(colours, known)
    assert np.isfinite(filled).all()
    assert filled[known > 0] == pytest.approx(colours[known > 0])
    if known.any():
        assert filled.min() >= colours[known > 0].min() - 0.01
        assert filled.max() <= colours[known > 0].max() + 0.01


@pytest.mark.parametrize(("kind", "value"), [("black out", 12.0), ("add a mass", 65.0)])
def test_a_covered_part_becomes_one_plain_value_in_its_own_hue(kind, value):
    picture = Picture(skimage.data.astronaut()[:200, :300].copy(), 300, 200)
    rgb = made(picture, kind, value=value)
    inner = rgb[64:116, 104:156]
    assert np.ptp(inner.reshape(-1, 3), axis=0).max() <= 1
    assert float(lightness(inner[:1, :1])[0, 0]) == pytest.approx(value, abs=0.6)
    assert (outside(rgb) == outside(picture.rgb)).all()


def test_darkening_takes_off_what_was_asked_in_the_middle_and_fades_toward_the_rim():
    values = lightness(made(grey_photo(180), "darken", value=20.0))
    before = float(lightness(grey_photo(180).rgb)[0, 0])
    assert values[90, 130] == pytest.approx(before - 20, abs=1.0)
    assert before - 20 < values[90, 160] < before
    assert values[20, 20] == pytest.approx(before)


def test_detail_is_lost_inside_and_kept_outside():
    rng = np.random.default_rng(1)
    picture = Picture(rng.integers(60, 200, (200, 300, 3), np.uint8), 300, 200)
    rgb = made(picture, "lose detail")
    assert rgb[80:100, 120:140].std() < 0.6 * picture.rgb[80:100, 120:140].std()
    assert (rgb[:20] == picture.rgb[:20]).all()


def test_a_line_is_carried_on_in_its_own_tone():
    picture = grey_photo(200)
    picture.rgb[50:80, 148:153] = 30
    rgb = made(picture, "extend a line", ((150.5, 78.0), (150.5, 160.0)))
    assert rgb[120, 150].max() < 60
    assert rgb[120, 140].tolist() == [200, 200, 200]
    assert rgb[170, 150].tolist() == [200, 200, 200]


def test_a_bowed_edge_traced_is_drawn_straight():
    """An edge bowed by eight pixels in the middle lies within a pixel of its chord afterwards."""
    x = np.arange(300)
    bow = 100 + 8 * np.sin(np.pi * x / 299)
    values = np.where(np.arange(200)[:, None] + 0.5 < bow[None, :], 220, 40).astype(np.uint8)
    picture = Picture(np.repeat(values[..., None], 3, 2), 300, 200)
    rgb = made(picture, "straighten", tuple((float(k), float(bow[k])) for k in range(0, 300, 13)))
    edge = (rgb[:, 20:280, 0] > 130).sum(0)
    chord = np.interp(np.arange(20, 280), [0, 299], [bow[0], bow[286]])
    assert abs(edge - chord).max() <= 1.5
    assert (rgb[:20] == picture.rgb[:20]).all()


def test_what_is_moved_stands_at_its_new_place_and_its_old_place_is_flattened():
    picture = grey_photo()
    picture.rgb[70:110, 110:150] = 240
    rgb = made(picture, "move", x_px=230.0, y_px=90.0)
    assert rgb[72:108, 212:248].min() > 235
    assert abs(rgb[62:118, 102:158].astype(int) - 128).max() <= 2


def test_what_is_borrowed_is_sized_and_mirrored():
    source = Picture(np.full((200, 300, 3), 90, np.uint8), 300, 200)
    source.rgb[60:120, 100:130] = (250, 0, 0)  # its left half is red
    rgb = made(
        grey_photo(),
        "borrow",
        source="other",
        x_px=150.0,
        y_px=100.0,
        size=0.5,
        mirrored=True,
        sources={"other": source},
    )
    assert rgb[100, 160].tolist() == pytest.approx([250, 0, 0], abs=2)  # and comes to lie on the right
    assert rgb[100, 140].tolist() == pytest.approx([90, 90, 90], abs=2)
    assert rgb[100, 170].tolist() == [128, 128, 128]


def test_a_borrowed_element_from_a_photo_that_is_gone_leaves_the_picture_as_it_is():
    picture = grey_photo()
    assert (made(picture, "borrow", source="other", x_px=150.0, y_px=100.0) == picture.rgb).all()


def test_dropped_departures_are_not_drawn_and_the_photo_is_never_touched():
    picture = Picture(skimage.data.astronaut()[:200, :300].copy(), 300, 200)
    before = picture.rgb.copy()
    departure = Departure("d", "black out", SQUARE)
    assert (departed(picture, [replace(departure, outcome="dropped")], {}).rgb == before).all()
    assert (departed(picture, [departure], {}).rgb != before).any()
    assert (picture.rgb == before).all()


@pytest.mark.parametrize(
    "kind", ["leave out", "black out", "darken", "lose detail", "move", "straighten", "extend a line"]
)
def test_an_area_off_the_photo_changes_nothing_and_breaks_nothing(kind):
    far = tuple((x + 5000.0, y + 5000.0) for x, y in SQUARE)
    rgb = made(grey_photo(), kind, far, x_px=9000.0, y_px=9000.0)
    assert rgb.shape == (200, 300, 3)
    assert (rgb == 128).all()


def test_the_same_departure_on_a_smaller_copy_of_the_photo_looks_the_same():
    big = Picture(skimage.data.astronaut()[:400, :480].copy(), 480, 400)
    small = Picture(np.ascontiguousarray(big.rgb.reshape(200, 2, 240, 2, 3).mean((1, 3))).astype(np.uint8), 480, 400)
    for kind in ("leave out", "black out", "darken"):
        at_once = made(small, kind).astype(float)
        later = made(big, kind).reshape(200, 2, 240, 2, 3).mean((1, 3))
        assert abs(at_once - later)[40:50, 60:70].mean() < 0.05 * 255


# -- in the plan ----------------------------------------------------------------------------------------------


def planned(plan, **changes):
    departure = Departure("d1", "black out", ((0, 0), (300, 0), (300, 400), (0, 400)), "left half", value=5.0)
    return add_departure(replace(departure, **changes)).apply(plan, NOON)


def test_masses_and_their_outlines_follow_a_departure(plan, photos):
    """The left half of the photo becomes one dark: the masses count it as one shape of half the sheet."""
    study = planned(plan).study
    picture = study_picture(planned(plan), study, photos)
    frame, paper = Frame(0, 0, 600, 400), Paper("x", 330, 230, 15)
    masses = find_masses(picture, frame, paper, ValuePlan(2, "by hand", (8.0,), 40.0))
    assert masses.shares[0] == pytest.approx(0.5, abs=0.03)
    assert masses.counts[0] == 1


def test_the_sheet_lists_departures_as_a_layer_in_millimetres(plan):
    changed = planned(plan)
    worked = worked_study(changed)
    layer = sheet_drawing(changed.study, changed.paper, worked.perspective, None, ("departures",)).layer("departures")
    points = np.concatenate([np.asarray(stroke.points_mm) for stroke in layer.strokes])
    box = worked.frame_map.box
    assert points[:, 0].max() <= box.right + 1e-9
    assert points[:, 0].max() == pytest.approx(worked.frame_map.to_sheet((300, 0))[0], abs=0.01)


def test_each_departure_is_written_into_the_logbook_with_its_reason_and_its_outcome(plan):
    changed = planned(plan, reason="too busy")
    assert "left half" in changed.log[-1].text
    assert "too busy" in changed.log[-1].text
    settled = settle_departure("d1", "changed", "only half as dark").apply(changed, NOON)
    assert settled.study.departures[0].outcome == "changed"
    assert "only half as dark" in settled.log[-1].text


def test_departures_are_changed_and_removed_by_their_id(plan):
    changed = planned(plan)
    assert next_id(changed) != "d1"
    darker = change_departure(replace(changed.study.departures[0], value=2.0)).apply(changed, NOON)
    assert darker.study.departures[0].value == 2.0
    assert remove_departure("d1").apply(darker, NOON).study.departures == ()
    with pytest.raises(PlanError):
        remove_departure("d9").apply(changed, NOON)


@pytest.mark.parametrize(
    "wrong",
    [
        {"points": ((0.0, 0.0), (1.0, 1.0))},
        {"points": ((0.0, 0.0), (0.0, 0.0), (0.0, 0.0))},
        {"points": ((0.0, 0.0), (1.0, float("nan")), (2.0, 0.0))},
        {"value": 101.0},
        {"size": 0.0},
        {"kind": "borrow"},
        {"source": "somewhere"},
    ],
)
def test_departures_that_make_no_sense_cannot_be_made(wrong):
    with pytest.raises(PlanError):
        Departure(**{"id": "d", "kind": "leave out", "points": SQUARE, **wrong})


def test_borrowing_needs_a_photo_of_the_plan(plan, photos):
    digest = photos.add(jpeg(seed=9))
    other = Reference("photo-2", "shed.jpg", digest, 600, 400)
    borrowed = Departure("d1", "borrow", SQUARE, source=other.id, x_px=300.0, y_px=200.0)
    with pytest.raises(PlanError):
        add_departure(borrowed).apply(plan, NOON)
    from mild_compass.plan.edits.references import add_reference, remove_reference

    grown = add_departure(borrowed).apply(add_reference(other).apply(plan, NOON), NOON)
    with pytest.raises(PlanError):
        remove_reference(other.id).apply(grown, NOON)
