"""Numbers as they are told and marked on the sheet, each against the arithmetic done by hand."""

from __future__ import annotations

import io
import re
from dataclasses import replace
from math import hypot, sqrt

import numpy as np
import pytest
from PIL import Image
from tests.craft.test_value_work import grey
from tests.craft.test_viewfinder_readings import said, worked_with

from mild_compass.craft.armature.constructions import lines_of, titled
from mild_compass.craft.armature.steps import construction_steps
from mild_compass.craft.armature.themes import PHI, Rectangle
from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.geometry.lines import Box, parts_inside
from mild_compass.craft.picture.load import focal_35mm_of, size_of
from mild_compass.craft.sheet.squared import column_name, grid_marks, squared_grid
from mild_compass.craft.sheet_sizes.sharpness import dots_per_inch, dpi_at_widest, said_of_dpi
from mild_compass.craft.values.masses import find_masses
from mild_compass.craft.values.medium import medium_work
from mild_compass.craft.values.spot import WORST, traps
from mild_compass.craft.viewfinder.moves import shifted
from mild_compass.craft.viewfinder.rules import RULES
from mild_compass.craft.viewfinder.scores import placement_score
from mild_compass.craft.viewfinder.wishes import conflict, wishes_of
from mild_compass.plan.framing import corners
from mild_compass.plan.paper import Paper
from mild_compass.plan.perspective import Horizon
from mild_compass.plan.pictures import Reference
from mild_compass.plan.study import Frame, KeepArea, Ring
from mild_compass.plan.tones import MediumPlan, ValuePlan

PHOTO = Reference("p", "p", "ab" * 32, 600, 400)
UPRIGHT = Box(10, 20, 110, 220)


# -- the viewfinder -------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("dpi", "verdict"), [(300, "fine"), (150, "fine"), (149.9, "look"), (72, "look"), (100, "look"), (71.9, "act")]
)
def test_sharpness_changes_its_word_at_its_bounds(dpi, verdict):
    assert said_of_dpi(dpi)[0] == verdict
    assert ("fine print" in said_of_dpi(dpi)[1]) == (dpi >= 300)


def test_dots_per_inch_are_pixels_over_inches():
    assert dots_per_inch(25.4) == 1
    assert dpi_at_widest(PHOTO, Paper("x", 284, 284, 15)) == pytest.approx(400 / 10)


@pytest.mark.parametrize(("x", "goes_to"), [(0.49, 1 / 3), (0.51, 2 / 3)])
def test_a_subject_dead_centre_is_put_on_the_nearer_third(plan, x, goes_to):
    frame = Frame(100, 50, 300, 300 / plan.paper.ratio)
    worked = worked_with(plan, frame=frame, rings=(Ring(100 + 300 * x, 130, 10, 10, "boat"),))
    reading = said(worked, "placement")
    assert reading.verdict == "look"
    assert reading.number == pytest.approx(100 * x, abs=0.05)
    assert reading.shown == f"{100 * x:.0f} %"
    moved = reading.remedy.change(worked.plan)
    reached = FrameMap.of(moved.study.frame, plan.paper).to_share((100 + 300 * x, 130))[0]
    assert float(reached) == pytest.approx(goes_to, abs=1e-6)


def test_where_one_third_has_no_room_the_other_is_tried_and_where_neither_has_none(plan):
    """The frame has room of 1/5 of its width to the left only: moving left puts the subject further right."""
    frame = Frame(75, 0, 525, 525 / plan.paper.ratio)
    at = replace(frame, x_px=75).x_px + 525 * 0.49
    reading = said(worked_with(plan, frame=frame, rings=(Ring(at, 150, 10, 10, "boat"),)), "placement")
    moved = reading.remedy.change(plan).study.frame
    assert float(FrameMap.of(moved, plan.paper).to_share((at, 150))[0]) > 0.5
    full = (
        Frame(0, 0, 600, 600 / plan.paper.ratio)
        if plan.paper.ratio >= 1.5
        else Frame(0, 0, 400 * plan.paper.ratio, 400)
    )
    middle = full.x_px + full.width_px / 2
    if full.width_px > 595:
        assert (
            said(worked_with(plan, frame=full, rings=(Ring(middle, 150, 10, 10, "boat"),)), "placement").remedy is None
        )


def test_a_subject_outside_is_told_so(plan):
    frame = Frame(100, 50, 300, 300 / plan.paper.ratio)
    reading = said(worked_with(plan, frame=frame, rings=(Ring(80, 130, 10, 10, "boat"),)), "placement")
    assert (reading.verdict, reading.shown) == ("act", "outside")


def test_a_horizon_at_half_height_is_told_in_per_cent_down(plan):
    frame = Frame(100, 50, 300, 300 / plan.paper.ratio)
    at = frame.y_px + 0.51 * frame.height_px
    reading = said(worked_with(plan, frame=frame, perspective=replace(plan.study.perspective, horizon=Horizon(at))),
                   "horizon_half")  # fmt: skip
    assert reading.number == pytest.approx(51, abs=0.05)
    assert reading.shown == "51 %"
    assert "51 % down" in reading.text


@pytest.mark.parametrize(("factor", "shown", "word"), [(1.05, "+5.0 %", "stouter"), (0.96, "−4.0 %", "slimmer")])
def test_a_stretch_is_told_with_its_sign_and_keeps_the_area_of_a_circle(plan, factor, shown, word):
    frame = Frame(100, 50, 300, 300 / plan.paper.ratio * factor, proportion="stretched")
    reading = said(worked_with(plan, frame=frame), "stretch")
    assert reading.shown == shown
    assert word in reading.text
    wide, high = (float(size) for size in re.search(r"becomes ([\d.]+)(?: mm)? × ([\d.]+) mm", reading.text).groups())
    assert wide / high == pytest.approx(factor, rel=0.02)
    assert wide * high == pytest.approx(2500, rel=0.02)


@pytest.mark.parametrize("flipped", [False, True])
@pytest.mark.parametrize("turn_deg", [0, 5])
def test_a_shift_is_by_shares_of_the_sheet_as_it_lies(flipped, turn_deg):
    frame = Frame(200, 120, 200, 100, turn_deg=turn_deg, flipped=flipped)
    paper = Paper("x", 430, 230)
    before = FrameMap.of(frame, paper).to_share((300, 170))
    after = FrameMap.of(shifted(frame, 0.2, -0.1, PHOTO), paper).to_share((300, 170))
    assert np.subtract(before, after) == pytest.approx([0.2, -0.1])


def test_thirds_score_most_on_a_third_nothing_in_the_middle_and_fall_off_evenly():
    across = np.array([1 / 3, 2 / 3, 0.5, 0.25, 0.75, 0.0, 5 / 12])
    score = placement_score("thirds", across, np.full(7, 0.5), RULES, Box(0, 0, 3, 2))
    assert score == pytest.approx([1, 1, 0, 0.5, 0.5, 0, 0.5])
    quarters = placement_score(
        "quarters and cross", np.array([0.25, 0.75, 0.375, 0.0]), np.zeros(4), RULES, Box(0, 0, 3, 2)
    )
    assert quarters == pytest.approx([1, 1, 0.5, 0])
    free = placement_score("no grid", np.array([0.5, 0.35, 0.575, 0.9]), np.zeros(4), RULES, Box(0, 0, 3, 2))
    assert free == pytest.approx([0, 1, 0.5, 1])


@pytest.mark.parametrize(
    ("x", "y", "fits"), [(30, 200, True), (29.9, 200, False), (570, 200, True), (570.1, 200, False), (300, 30, True),
                         (300, 29.9, False), (300, 370, True), (300, 370.1, False)],
)  # fmt: skip
def test_what_must_be_whole_may_touch_the_photos_edge_and_not_cross_it(plan, x, y, fits):
    study = replace(plan.study, rings=(Ring(x, y, 30, 30, "boat"),))
    words = conflict(wishes_of(study), PHOTO, 1.4)
    assert (words is None) == fits
    assert fits or "oat reaches beyond the photo" in words


def test_what_is_larger_than_any_frame_is_named(plan):
    study = replace(plan.study, keep=(KeepArea(10, 10, 590, 100, "the row of boats"),))
    assert conflict(wishes_of(study), PHOTO, 0.5) is not None
    assert conflict(wishes_of(study), PHOTO, 1.5) is None


# -- constructions --------------------------------------------------------------------------------------------


@pytest.mark.parametrize("ratio", [1.4, 1 / 1.4])
def test_reciprocals_cut_the_long_side_at_the_square_of_the_short(ratio):
    """J. Hambidge, 1920: the reciprocal of 1.4 is 1/1.4, 1/1.96 of the long side."""
    share = 1 / 1.96
    lines = lines_of("reciprocals", ratio)
    lines = lines if ratio > 1 else lines[..., ::-1]
    uprights = sorted({round(float(line[0, 0]), 9) for line in lines if line[0, 0] == line[1, 0]})
    assert uprights == pytest.approx(sorted({round(share, 9), round(1 - share, 9)}), abs=1e-8)
    ends = {tuple(sorted(tuple(np.round(end, 9)) for end in line)) for line in lines}
    assert tuple(sorted([(0.0, 0.0), (round(share, 9), 1.0)])) in ends
    assert tuple(sorted([(1.0, 1.0), (round(1 - share, 9), 0.0)])) in ends
    assert len(lines) == 8


def test_the_golden_section_marks_both_sides_at_382_and_618():
    lines = lines_of("golden section", 1.5)
    uprights = sorted(float(line[0, 0]) for line in lines if line[0, 0] == line[1, 0])
    levels = sorted(float(line[0, 1]) for line in lines if line[0, 1] == line[1, 1])
    assert uprights == pytest.approx([0.381966, 0.618034], abs=1e-6)
    assert levels == pytest.approx(uprights)


def test_a_name_at_the_start_of_a_line_begins_large_but_phi_stays():
    assert titled("golden section")[0].isupper()
    assert titled("phi").startswith("φ")


@pytest.mark.parametrize(
    ("construction", "figures"),
    [
        ("halves", [200, 100]),
        ("quarters", [200, 100, 100, 50]),
        ("thirds", [133.3, 66.7]),
        ("fourteen", [200, 100]),
        ("reciprocals", [100, 100]),
        ("rabatment", [200, 200]),
        ("golden section", [200, 400 / PHI, 200 / PHI]),
        ("reading Z", [hypot(400, 200)]),
    ],
)
def test_the_steps_tell_the_lengths_to_set_the_compass_to(construction, figures):
    """On 400 × 200 mm; the first step is the rectangle with its diagonal, √(400² + 200²)."""
    steps = construction_steps(construction, Box(0, 0, 400, 200))
    told = [[float(each) for each in re.findall(r"(\d+(?:\.\d+)?)(?= mm)", step.replace(" ", " "))] for step in steps]
    assert told[0] == pytest.approx([400, 200, hypot(400, 200)], abs=0.5)
    rest = [number for step in told[1:] for number in step]
    for figure in figures:
        assert any(abs(number - figure) <= 0.5 for number in rest), (figure, rest)


def test_parts_and_cuts_of_a_rectangle_lie_along_its_long_side():
    wide, high, square = Rectangle(10, 20, 40, 30), Rectangle(10, 20, 30, 40), Rectangle(0, 0, 10, 10)
    assert wide.part(0.25, 0.75) == Rectangle(20, 20, 20, 30)
    assert high.part(0.25, 0.75) == Rectangle(10, 30, 30, 20)
    assert square.part(0, 0.5) == Rectangle(0, 0, 5, 10)
    assert wide.cut(0.25) == [[20, 20], [20, 50]]
    assert high.cut(0.25) == [[10, 30], [40, 30]]
    assert square.cut(0.5) == [[5, 0], [5, 10]]


def test_a_level_line_beside_the_box_has_no_part_inside_and_one_on_its_rim_has():
    box = Box(0, 0, 100, 50)
    lines = np.array([[[-10.0, 60], [110, 60]], [[-10, 50], [110, 50]], [[-10, 25], [40, 25]], [[30, -5], [30, 20]],
                      [[120, -5], [120, 20]]])  # fmt: skip
    parts, inside = parts_inside(lines, box)
    assert inside.tolist() == [False, True, True, True, False]
    assert parts[1] == pytest.approx(np.array([[0, 50], [100, 50]]))
    assert parts[2] == pytest.approx(np.array([[0, 25], [40, 25]]))
    assert parts[3] == pytest.approx(np.array([[30, 0], [30, 20]]))


# -- the squared sheet ----------------------------------------------------------------------------------------


def test_columns_are_lettered_as_in_a_table():
    assert [column_name(k) for k in (0, 25, 26, 51, 52, 701, 702)] == ["A", "Z", "AA", "AZ", "BA", "ZZ", "AAA"]


def test_inner_lines_only_and_a_last_cut_square():
    assert grid_marks(100, 25).tolist() == [25, 50, 75]
    assert grid_marks(110, 25).tolist() == [25, 50, 75, 100]


@pytest.mark.parametrize("margin", [15, 2])
def test_names_of_squares_stand_over_their_middles_outside_where_the_margin_has_room(margin):
    paper = Paper("x", 110 + 2 * margin, 60 + 2 * margin, margin)
    box = Box(margin, margin, margin + 110, margin + 60)
    labels = {label.text: label for label in squared_grid(box, paper, 25).labels}
    assert list(labels) == ["A", "B", "C", "D", "E", "1", "2", "3"]
    assert [labels[name].x_mm - margin for name in "ABCDE"] == pytest.approx([12.5, 37.5, 62.5, 87.5, 105])
    size = labels["A"].size_mm
    assert size == pytest.approx(4)
    assert [labels[name].y_mm - margin - 0.36 * size for name in "123"] == pytest.approx([12.5, 37.5, 55])
    outside = margin == 15
    assert (labels["A"].y_mm < margin) == outside
    assert (labels["1"].x_mm < margin) == outside
    assert labels["1"].anchor == ("right" if outside else "left")


# -- values ---------------------------------------------------------------------------------------------------


def bars(*values: float) -> np.ndarray:
    """Upright bars of equal width and these L*."""
    return np.repeat(np.repeat([np.asarray(values, float)], 24, 1), 160, 0)


def masses_of(values: np.ndarray, count: int):
    sheet = Paper("x", 230, 230 * 200 / 260)
    photo = grey(values)
    ratio = sheet.ratio
    width = min(photo.width_px, photo.height_px * ratio)
    return find_masses(photo, Frame(0, 0, width, width / ratio), sheet, ValuePlan(count=count))


def test_toned_paper_warns_with_the_shares_it_measured():
    masses = masses_of(bars(10, 12, 11, 10, 12, 11, 11, 90), 2)
    work = medium_work(masses, MediumPlan("toned paper", 88.0))
    dark = next(line for line in work.warnings if "dark work covers" in line)
    assert f"{100 * work.dark_share:.0f} %" in dark
    assert f"the paper {100 * work.paper_share:.0f} %" in dark
    assert work.dark_share > 0.5
    assert work.paper_share + work.dark_share + work.light_share == pytest.approx(1)
    little = [line for line in work.warnings if "left to speak" in line]
    assert bool(little) == (work.paper_share < 0.2)


def test_charcoal_is_drawn_from_the_middle_down_and_lifted_to_the_light_with_the_clean_edge_last():
    work = medium_work(masses_of(bars(5, 30, 60, 92), 4), MediumPlan("charcoal"))
    assert [step.title.split()[0] for step in work.steps] == ["Tone", "Draw", "Draw", "Lift", "Lift"]
    assert "kneaded" in work.steps[3].words
    assert "clean edge" in work.steps[4].words
    assert [step.share for step in work.steps] == pytest.approx([1, 0.25, 0.25, 0.25, 0.25], abs=0.08)
    drawn = [float(step.after[step.mask].mean()) for step in work.steps]
    assert drawn[1] > drawn[2]
    assert drawn[3] < drawn[4]


def test_traps_come_with_the_largest_area_times_amount_first():
    rgb = np.full((120, 300, 3), 128, np.uint8)
    rgb[10:110, 10:60] = (250, 220, 0)
    rgb[10:110, 100:190] = (120, 0, 0)
    rgb[40:70, 220:250] = (140, 0, 10)
    found = traps(rgb)
    weight = [trap.share * abs(trap.lightness - trap.suggested) for trap in found]
    assert weight == sorted(weight, reverse=True)
    assert 2 <= len(found) <= WORST
    largest = max(found, key=lambda trap: trap.share)
    assert (largest.x, largest.y) == pytest.approx((145 / 300, 0.5), abs=0.02)


# -- photos ---------------------------------------------------------------------------------------------------


def packed(width: int, height: int, kind: str, orientation: int = 1, focal: int | None = None) -> bytes:
    exif = Image.Exif()
    exif[0x0112] = orientation
    if focal is not None:
        exif.get_ifd(0x8769)[0xA405] = focal
    out = io.BytesIO()
    Image.new("RGB", (width, height)).save(out, kind, exif=exif)
    return out.getvalue()


@pytest.mark.parametrize("orientation", range(1, 9))
def test_the_size_is_that_of_the_upright_photo(orientation):
    upright = (30, 50) if orientation >= 5 else (50, 30)
    assert size_of(packed(50, 30, "JPEG", orientation), "a") == upright
    assert size_of(packed(50, 30, "PNG", orientation), "a") == upright


@pytest.mark.parametrize(("told", "taken"), [(28, 28), (1, 1), (0, 0), (5000, 5000), (5001, 0)])
def test_a_focal_length_no_lens_has_is_not_taken(told, taken):
    assert focal_35mm_of(packed(40, 30, "JPEG", focal=told), "a") == taken


def test_the_corners_of_a_turned_frame_go_round_by_the_clock():
    got = corners(Frame(0, 0, 2 * sqrt(2), 2 * sqrt(2), turn_deg=45))
    assert np.array(got) - sqrt(2) == pytest.approx(np.array([[0, -2], [2, 0], [0, 2], [-2, 0]]), abs=1e-9)
