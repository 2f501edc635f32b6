"""Sheets and lengths against the standards and the trade's own arithmetic."""

from __future__ import annotations

import itertools
from dataclasses import replace
from math import sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.sheet_sizes.lengths import format_length, least_told, parse_length_mm
from mild_compass.craft.sheet_sizes.papers import UPRIGHT_SIZES_MM, largest_area_mm, paper, parse_paper, turned
from mild_compass.craft.sheet_sizes.scaling import paper_for_factor, scale_factor, sight_size_factor
from mild_compass.plan.errors import PlanError
from mild_compass.plan.paper import Paper
from mild_compass.plan.study import Frame, Measured


@pytest.mark.parametrize(
    ("name", "size"),
    [  # ISO 216
        ("A3", (297, 420)),
        ("A4", (210, 297)),
        ("A5", (148, 210)),
        ("A6", (105, 148)),
        ("Letter", (215.9, 279.4)),  # ANSI/ASME Y14.1
        ("Half imperial", (381, 558.8)),  # common practice, no published source
        ("Quarter imperial", (279.4, 381)),
        ("Eighth imperial", (190.5, 279.4)),
        ("A0", (841, 1189)),
        ("B2", (500, 707)),
        ("Tabloid", (279.4, 431.8)),
        ("ANSI E", (863.6, 1117.6)),  # ANSI/ASME Y14.1
        ("Arch D", (609.6, 914.4)),  # common practice, no published source
    ],
)
def test_sizes_of_sheets(name, size):
    assert UPRIGHT_SIZES_MM[name] == pytest.approx(size)


def test_a_sizes_have_the_ratio_of_the_square_root_of_two_and_halve_into_each_other():
    """ISO 216: 1:√2 to the rounded millimetre; the long side of one is the short side of the one before."""
    for name in ("A0", "A1", "A2", "A3", "A4", "A5", "A6", "B1", "B2", "B3", "B4", "B5"):
        short, long = UPRIGHT_SIZES_MM[name]
        assert long / short == pytest.approx(sqrt(2), abs=1.5 / short)
    for larger, smaller in (("A0", "A1"), ("A1", "A2"), ("A2", "A3"), ("A3", "A4"), ("A4", "A5"), ("A5", "A6")):
        assert UPRIGHT_SIZES_MM[larger][0] == UPRIGHT_SIZES_MM[smaller][1]


def test_ansi_sizes_halve_into_each_other_and_imperial_into_its_fractions():
    """ANSI/ASME Y14.1: two of one make the next. Imperial fractions: common practice, no published source."""
    families = (
        ("Letter", "Tabloid", "ANSI C", "ANSI D", "ANSI E"),
        ("Eighth imperial", "Quarter imperial", "Half imperial", "Imperial"),
    )
    for family in families:
        for smaller, larger in itertools.pairwise(family):
            short, long = UPRIGHT_SIZES_MM[smaller]
            assert UPRIGHT_SIZES_MM[larger] == pytest.approx((long, 2 * short))


def test_the_largest_3_to_4_area_upright_on_a4_with_15_mm_margins():
    sheet = paper("A4", margin_mm=15)
    assert largest_area_mm(sheet.picture_width_mm, sheet.picture_height_mm, 3 / 4) == pytest.approx((180, 240))


def test_a_3_to_4_photo_and_a_drawing_of_6_by_8_inches_are_of_one_ratio():
    """Common practice, no published source."""
    sheet = Paper("x", 6 * 25.4, 8 * 25.4, 0)
    assert sheet.ratio == pytest.approx(3 / 4)


def test_a_length_of_165_drawn_at_twice_the_size_is_330():
    """Common practice, no published source."""
    frame_map = FrameMap.of(Frame(10, 20, 100, 100), Paper("x", 230, 230, 15))
    a, b = frame_map.to_sheet([[0, 0], [165, 0]])
    assert b[0] - a[0] == pytest.approx(330)


@given(st.floats(-1e4, 1e4), st.floats(-1e4, 1e4), st.floats(1, 5000), st.floats(-100, 100))
def test_photo_to_sheet_and_back_is_where_one_began(x, y, width, left):
    frame_map = FrameMap.of(Frame(left, 5, width, width * 0.7), Paper("x", 300, 217, 12))
    assert frame_map.to_photo(frame_map.to_sheet((x, y))) == pytest.approx((x, y), abs=1e-6)


@pytest.mark.parametrize(
    ("text", "unit", "mm"),
    [
        ("12.5", "mm", 12.5),
        ("12,5 mm", "in", 12.5),
        ("2 cm", "mm", 20),
        ("3 1/2 in", "mm", 88.9),
        ('3/8"', "mm", 9.525),
        ("1-1/4 in", "mm", 31.75),
        ("3", "in", 76.2),
        ("−4", "mm", -4),
        (".5 in", "mm", 12.7),
    ],
)
def test_lengths_as_people_type_them(text, unit, mm):
    assert parse_length_mm(text, unit) == pytest.approx(mm)


@pytest.mark.parametrize("text", ["", "wide", "3 1/0 in", "12 miles", "1e999", "--3", "nan", "inf", "3 4", "9" * 400])
def test_nonsense_is_not_a_length(text):
    with pytest.raises(PlanError):
        parse_length_mm(text)


@pytest.mark.parametrize(
    ("mm", "words"),
    [(25.4, "1 in"), (88.9, "3 1/2 in"), (9.525, "3/8 in"), (0.1, "0 in"), (-31.75, "−1 1/4 in"), (25.3, "1 in")],
)
def test_inches_are_told_to_the_sixteenth(mm, words):
    assert format_length(mm, "in") == words


@pytest.mark.parametrize(("unit", "nothing"), [("mm", "0.0 mm"), ("in", "0 in")])
def test_a_length_just_too_short_to_be_told_is_told_as_nothing(unit, nothing):
    assert format_length(0.99 * least_told(unit), unit) == nothing
    assert format_length(1.01 * least_told(unit), unit) != nothing


@given(st.floats(-3000, 3000))
def test_a_length_told_in_inches_reads_back_to_half_a_sixteenth(mm):
    assert parse_length_mm(format_length(mm, "in")) == pytest.approx(mm, abs=25.4 / 32 + 1e-9)


@pytest.mark.parametrize(
    ("words", "name", "size"),
    [
        ("A3 across", "A3", (420, 297)),
        ("a4", "A4", (210, 297)),
        ("half imperial upright", "Half imperial", (381, 558.8)),
        ("300 x 400 mm", "Custom", (300, 400)),
        ("9x12in", "Custom", (228.6, 304.8)),
        ("300×200", "Custom", (300, 200)),
    ],
)
def test_sheets_as_people_name_them(words, name, size):
    sheet = parse_paper(words)
    assert sheet.name == name
    assert (sheet.width_mm, sheet.height_mm) == pytest.approx(size)


@pytest.mark.parametrize(("words", "meant"), [("half imperal", "Half imperial"), ("A33", "A3"), ("leter", "Letter")])
def test_an_unknown_sheet_names_the_nearest_one(words, meant):
    with pytest.raises(PlanError, match=f"Did you mean {meant}"):
        parse_paper(words)


def test_words_like_no_sheet_at_all_give_examples():
    with pytest.raises(PlanError, match="for instance A3, Half imperial"):
        parse_paper("zzz")


@pytest.mark.parametrize("name", UPRIGHT_SIZES_MM)
@pytest.mark.parametrize("lies", ["across", "upright"])
def test_the_very_words_on_screen_name_the_sheet(name, lies):
    sheet = paper(name, lies == "across")
    size = f"{sheet.width_mm:.0f} × {sheet.height_mm:.0f} mm"
    for words in (f"{name} {lies}", f"{name}, {lies}", f"{name}, {lies}, {size}", f"{name}, {lies} {size}"):
        assert parse_paper(words) == sheet, words


def test_a_sheet_of_which_nothing_is_said_lies_as_the_photo_will():
    assert parse_paper("A3").lay == "as the photo"
    assert {parse_paper(words).lay for words in ("A3 across", "A3, upright", "300 x 400 mm")} == {"by hand"}


def test_turning_a_sheet_twice_gives_it_back():
    sheet = paper("A5")
    assert turned(turned(sheet, True), False) == sheet
    assert turned(sheet, False) == sheet


def test_a_wanted_factor_sets_the_picture_area_exactly(plan):
    """A print 165 mm wide drawn exactly twice as large is 330 mm wide on the sheet (methods: common practice)."""
    study = replace(plan.study, measured=Measured("frame width", 165.0))
    before = FrameMap.of(study.frame, plan.paper)
    now = scale_factor(study.measured, plan.ground(study), study.frame, before)
    sheet = paper_for_factor(plan.paper, now, 2.0)
    after = FrameMap.of(study.frame, sheet)
    assert scale_factor(study.measured, plan.ground(study), study.frame, after) == pytest.approx(2.0)
    assert sheet.picture_width_mm == pytest.approx(330.0)
    assert sheet.ratio == pytest.approx(plan.paper.ratio)
    assert sheet.borders_mm[0] == pytest.approx(sheet.borders_mm[2])
    with pytest.raises(PlanError, match="times at most"):
        paper_for_factor(plan.paper, now, 40.0)
    for wrong in (0.0, -1.0, float("nan"), 1e9):
        with pytest.raises(PlanError):
            paper_for_factor(plan.paper, now, wrong)


def test_sight_size_is_as_the_distances():
    """Similar triangles, Euclid VI.4: the sheet twice as far as the stick, lengths twice as long."""
    assert sight_size_factor(600.0, 1200.0) == 2.0
    for arm, sheet in ((0.0, 900.0), (600.0, 0.0), (float("nan"), 900.0)):
        with pytest.raises(PlanError):
            sight_size_factor(arm, sheet)
