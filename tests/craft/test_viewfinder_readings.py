"""What the viewfinder says of paper, rings, schools and silence, on frames where the answer is known."""

from __future__ import annotations

from dataclasses import replace

import pytest
from tests.conftest import NOON

from mild_compass.craft.sheet_sizes.papers import paper, with_picture_ratio
from mild_compass.craft.sheet_sizes.ratios import parse_ratio
from mild_compass.craft.sheet_sizes.scaling import HEADS_TALL, both_ways, figure_mm
from mild_compass.craft.stations import readings_of, silenced_at
from mild_compass.craft.viewfinder.rules import RULES, SCHOOL_RULES, rules_of
from mild_compass.craft.worked import Worked, worked_study
from mild_compass.plan.edits.base import with_study
from mild_compass.plan.edits.viewfinder import (
    add_keep,
    change_keep,
    choose_paper,
    choose_school,
    let_speak,
    measure_once,
    put_ring_first,
    ring_subject,
    school_rules,
    set_rule,
    silence,
)
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Plan
from mild_compass.plan.paper import Paper
from mild_compass.plan.study import SCHOOLS, Frame, KeepArea, Measured, Ring, Silenced


def worked_with(plan: Plan, **changes) -> Worked:
    assert plan.study is not None
    worked = worked_study(with_study(plan, replace(plan.study, **changes)))
    assert worked is not None
    return worked


def said(worked: Worked, key: str):
    return next((each for each in readings_of("viewfinder", worked) if each.key == key), None)


# -- the paper ------------------------------------------------------------------------------------------------


def test_margins_of_each_side_and_tape_leave_the_picture_area():
    sheet = Paper("x", 300, 400, 15, (10, 20, 30, 40), tape_mm=5)
    assert sheet.borders_mm == (15, 25, 35, 45)
    assert (sheet.picture_width_mm, sheet.picture_height_mm) == (250, 330)


@pytest.mark.parametrize(
    "wrong",
    [
        {"margin_mm": -1.0},
        {"margin_mm": 200.0},
        {"tape_mm": -2.0},
        {"sides_mm": (280.0, 0.0, 30.0, 0.0)},
        {"mat_overlap_mm": 200.0},
        {"width_mm": 0.0},
        {"height_mm": float("nan")},
        {"width_mm": 3e6},
    ],
)
def test_paper_that_leaves_no_picture_is_refused_with_a_sentence(wrong):
    with pytest.raises(PlanError) as caught:
        Paper(**{"name": "x", "width_mm": 297.0, "height_mm": 420.0, **wrong})
    assert str(caught.value).endswith(".")


def test_margins_are_widened_to_the_largest_area_of_a_ratio():
    """3:4 upright inside A4 with 15 mm margins is 180 x 240; laid across it is 180 x 135."""
    upright = with_picture_ratio(paper("A4"), 3 / 4)
    assert (upright.picture_width_mm, upright.picture_height_mm) == pytest.approx((180, 240))
    across = with_picture_ratio(upright, 4 / 3)
    assert (across.picture_width_mm, across.picture_height_mm) == pytest.approx((180, 135))
    assert both_ways(4 / 3) == both_ways(3 / 4) == pytest.approx((3 / 4, 4 / 3))


def test_a_standing_figure_is_eight_heads():
    """Vitruvius, De architectura III.1: the head is an eighth of the body's height."""
    assert HEADS_TALL == 8
    assert figure_mm(25) == 200


@pytest.mark.parametrize(("words", "pair"), [("3:4", (3, 4)), ("1.5", (1.5, 1)), ("2 x 3", (2, 3)), ("4/5", (4, 5))])
def test_ratios_as_people_type_them(words, pair):
    found = parse_ratio(words)
    assert found[0] / found[1] == pytest.approx(pair[0] / pair[1])


@pytest.mark.parametrize("words", ["", "0:4", "3:0", "-3:4", "nan", "1000:1", "three to four", "1:2:3"])
def test_nonsense_is_not_a_ratio(words):
    with pytest.raises(PlanError):
        parse_ratio(words)


def test_a_mat_says_what_is_seen_and_whom_it_touches(plan):
    matted = choose_paper(replace(plan.paper, mat_overlap_mm=10.0)).apply(plan, NOON)
    frame = matted.study.frame
    assert said(worked_with(matted), "mat").verdict == "fine"
    ring = Ring(frame.x_px + 20, 200, 15, 40, "buoy")  # five pixels from the left edge: under the mat
    touched = said(worked_with(matted, rings=(ring,)), "mat")
    assert touched.verdict == "look"
    assert "buoy" in touched.text


def test_bare_paper_is_told_side_by_side_in_millimetres(plan):
    """390 mm across 400 pixels; 40 of them lie left of the photo: 39 mm. Try it brings the frame back."""
    height = 400 / plan.paper.ratio
    worked = worked_with(plan, frame=Frame(-40, 50, 400, height))
    bare = said(worked, "bare_left")
    assert bare.number == pytest.approx(39.0)
    assert said(worked, "bare_right") is None
    back = bare.remedy.change(worked.plan).study.frame
    assert back.x_px == pytest.approx(0)
    turned = worked_with(plan, frame=Frame(-40, 50, 400, height, 0.001))
    assert said(turned, "bare_left").number == pytest.approx(39.0, abs=1.5)


def test_a_stretch_says_what_becomes_of_a_circle(plan):
    frame = Frame(100, 50, 300, 300 / plan.paper.ratio * 1.05, proportion="stretched")
    stretch = said(worked_with(plan, frame=frame), "stretch")
    assert stretch.number == pytest.approx(5.0)
    assert "stouter" in stretch.text
    assert said(worked_with(plan), "stretch") is None


def test_a_length_measured_once_gives_the_factor_for_all(plan):
    """A length of 165 on a reference drawn at twice the size is 330: common practice, no published source."""
    measured = measure_once(Measured("frame width", plan.paper.picture_width_mm / 2)).apply(plan, NOON)
    assert said(worked_study(measured), "measured").number * 165 == pytest.approx(330)
    with pytest.raises(PlanError):
        Measured("frame width", 0.0)


# -- rings ----------------------------------------------------------------------------------------------------


def test_several_rings_are_told_in_their_order_and_only_the_first_is_the_subject(plan):
    frame = Frame(100, 0, 400, 400 / plan.paper.ratio)
    rings = (Ring(300, 120, 20, 30, "ferry"), Ring(200, 150, 20, 30, "pier"))
    worked = worked_with(plan, frame=frame, rings=rings)
    assert said(worked, "placement").verdict == "look"  # dead centre
    assert "pier" in said(worked, "placement_2").text
    other = put_ring_first(1).apply(worked.plan, NOON)
    assert [ring.name for ring in other.study.rings] == ["pier", "ferry"]
    assert said(worked_study(other), "placement").verdict == "fine"


def test_a_flip_turns_the_way_a_subject_faces(plan):
    frame = Frame(100, 0, 400, 400 / plan.paper.ratio)
    ring = Ring(420, 140, 20, 30, "ferry", "right")
    plain = said(worked_with(plan, frame=frame, rings=(ring,)), "lead_room")
    flipped = said(worked_with(plan, frame=replace(frame, flipped=True), rings=(ring,)), "lead_room")
    assert "to the right" in plain.text
    assert "to the left" in flipped.text
    assert plain.number == flipped.number


def test_where_the_photo_has_no_room_ahead_try_it_reaches_onto_bare_paper(plan):
    frame = Frame(200, 0, 400, 400 / plan.paper.ratio)
    worked = worked_with(plan, frame=frame, rings=(Ring(540, 140, 20, 30, "ferry", "right"),))
    lead = said(worked, "lead_room")
    assert "bare paper" in lead.text
    after = worked_study(lead.remedy.change(worked.plan))
    assert said(after, "lead_room").number > 1
    assert said(after, "bare_right").number > 0


def test_a_figure_fits_by_heads_or_is_cut_after_so_many(plan):
    frame = Frame(100, 0, 400, 400 / plan.paper.ratio)  # 0.975 mm to the pixel
    head = Ring(300, 40, 12, 16, "porter", heads=8)
    fits = said(worked_with(plan, frame=frame, rings=(head,)), "heads")
    assert fits.number == pytest.approx(8 * 32 * 0.975, abs=0.1)
    assert fits.verdict == "look"  # 249.6 mm needed, 243.6 mm from the top of the head to the foot of the picture
    tall = said(worked_with(plan, frame=frame, rings=(replace(head, radius_y_px=10.0),)), "heads")
    assert tall.verdict == "fine"


def test_areas_to_keep_are_cut_to_the_photo_and_those_off_it_are_refused(plan):
    kept = add_keep(KeepArea(-50, 10, 90, 100, "mast")).apply(plan, NOON)
    assert kept.study.keep[0].left_px == 0
    with pytest.raises(PlanError, match="off the photo"):
        add_keep(KeepArea(700, 500, 900, 800, "cloud")).apply(plan, NOON)
    with pytest.raises(PlanError):
        KeepArea(10, 10, 10, 40)
    assert change_keep(0, None).apply(kept, NOON).study.keep == ()


def test_a_ring_off_the_photo_or_of_no_size_is_refused(plan):
    with pytest.raises(PlanError):
        ring_subject(Ring(900, 100, 10, 10)).apply(plan, NOON)
    for wrong in ({"radius_x_px": 0.0}, {"x_px": float("inf")}, {"heads": 40.0}):
        with pytest.raises(PlanError):
            Ring(**{"x_px": 100.0, "y_px": 100.0, "radius_x_px": 5.0, "radius_y_px": 5.0, **wrong})


# -- schools, thresholds, silence -----------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("school", "across", "words"),
    [
        ("thirds", 1 / 3, "on the left third"),
        ("quarters and cross", 0.75, "on the right quarter"),
        ("armature", 1 / 3, "crossing of the armature"),
        ("dynamic symmetry", 0.3, "eye of the rectangle"),
    ],
)
def test_each_school_names_its_own_place(plan, school, across, words):
    frame = Frame(60, 0, 400, 400 / plan.paper.ratio)
    ring = Ring(60 + 400 * across, frame.height_px / 3, 20, 40)
    assert words in said(worked_with(plan, frame=frame, rings=(ring,), school=school), "placement").text


def test_without_a_grid_only_the_plain_measures_speak(plan):
    frame = Frame(60, 0, 400, 400 / plan.paper.ratio)
    text = said(worked_with(plan, frame=frame, rings=(Ring(160, 90, 20, 40),), school="no grid"), "placement").text
    assert text == f"The subject is 25 % across and {100 * 90 / frame.height_px:.0f} % down."


def test_every_school_has_rules_and_the_artists_own_come_on_top(plan):
    assert set(SCHOOL_RULES) == set(SCHOOLS)
    own = set_rule("dead_centre", 0.2).apply(choose_school("thirds").apply(plan, NOON), NOON)
    assert rules_of(own.study).dead_centre == 0.2
    assert rules_of(own.study).on_a_place == SCHOOL_RULES["thirds"]["on_a_place"]
    assert rules_of(school_rules().apply(own, NOON).study).dead_centre == RULES.dead_centre
    frame = Frame(100, 0, 400, 400 / plan.paper.ratio)
    ring = Ring(360, 120, 20, 30)  # 65 % across
    assert said(worked_with(own, frame=frame, rings=(ring,)), "placement").verdict == "look"
    assert said(worked_with(plan, frame=frame, rings=(ring,)), "placement").verdict == "fine"


def test_a_silenced_reading_is_gone_from_this_study_only_until_it_speaks_again(plan):
    quiet = silence(Silenced("viewfinder", "sharpness", "I draw from life"), "Printed sharpness").apply(plan, NOON)
    assert said(worked_study(quiet), "sharpness") is None
    assert silenced_at("viewfinder", worked_study(quiet)) == 1
    assert silenced_at("values", worked_study(quiet)) == 0
    assert "I draw from life" in quiet.log[-1].text
    again = let_speak("viewfinder").apply(quiet, NOON)
    assert said(worked_study(again), "sharpness") is not None
