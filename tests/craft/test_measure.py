"""Measures, alignments, the two sides of a thing: affine checks, brute force, and a rendered scene of known lengths."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations
from math import cos, hypot, radians, sin

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.sheet.alignments import NEAR_MM, alignments
from mild_compass.craft.sheet.measure import lean_words, measures, side_words, study_measures
from mild_compass.craft.sheet.symmetry import compared_sides
from mild_compass.demo.glasshouse import camera
from mild_compass.demo.pumping_station import facts, house_point
from mild_compass.plan.errors import PlanError
from mild_compass.plan.paper import Paper
from mild_compass.plan.sheet import Datum, MeasuredLength, MeasuredPoint, MeasurePlan, NegativeShape, Symmetry
from mild_compass.plan.study import Frame, Measured

SHEET = Paper("A3", 420.0, 297.0, 15.0)
MAP = FrameMap.of(Frame(100, 50, 1560, 1068), SHEET)  # a quarter of a millimetre to a pixel


def length(x0: float, y0: float, x1: float, y1: float, name: str = "") -> MeasuredLength:
    return MeasuredLength(x0, y0, x1, y1, name)


def test_lengths_are_those_of_the_sheet_and_doubling_the_frame_halves_them():
    plan = MeasurePlan(lengths=(length(100, 50, 500, 350),))
    (row,) = measures(plan, MAP).lengths
    assert row.length_mm == pytest.approx(500 * 0.25)
    assert (row.across_mm, row.down_mm) == pytest.approx((100, 75))
    (half,) = measures(plan, FrameMap.of(Frame(0, 0, 3120, 2136), SHEET)).lengths
    assert half.length_mm == pytest.approx(row.length_mm / 2)


@given(st.floats(-30, 30), st.booleans(), st.floats(400, 3000), st.floats(-200, 900))
def test_ratios_do_not_depend_on_how_the_frame_lies(turn, flipped, width, x):
    frame = Frame(x, 40, width, width * 267 / 390, turn, flipped)
    plan = MeasurePlan(lengths=(length(0, 0, 300, 400), length(10, 20, 70, -60, "other")), unit=1)
    unit, other = measures(plan, FrameMap.of(frame, SHEET)).lengths
    assert unit.units == pytest.approx(1)
    assert other.units == pytest.approx(100 / 500)


def test_the_door_as_the_unit_gives_the_true_heights_at_one_depth():
    """In the rendered photo with a level camera heights on one wall are to each other as they are in metres."""
    known, view = facts("pumping-station-level"), camera("pumping-station-level")
    assert known["k1"] == 0
    bottom = house_point(known, 3.6, 0, 0.04)

    def upright(height_m: float, name: str) -> MeasuredLength:
        (x0, y0), (x1, y1) = view.seen(np.stack([bottom, bottom + np.array([0, 0, height_m])])).tolist()
        return length(x0, y0, x1, y1, name)

    plan = MeasurePlan(lengths=(upright(1.99, "door"), upright(3.26, "eave"), upright(0.28, "plinth")), unit=1)
    rows = measures(plan, FrameMap.of(Frame(0, 0, 1800, 1200), Paper("x", 600, 400, 0))).lengths
    # The camera of this photo looks level: pictures of uprights keep their ratios.
    level = abs(np.array(view.axes)[2, 2]) < 1e-9
    assert level
    assert [row.units for row in rows] == pytest.approx([1, 3.26 / 1.99, 0.28 / 1.99], rel=1e-9)


@pytest.mark.parametrize(
    ("across", "down", "words"),
    [
        (0, -10, "upright"),
        (0, 10, "upright"),
        (10, 0, "level"),
        (-10, 0, "level"),
        (sin(radians(4)), -cos(radians(4)), "4.0° clockwise of upright"),
        (-sin(radians(4)), cos(radians(4)), "4.0° clockwise of upright"),
        (-sin(radians(7)), -cos(radians(7)), "7.0° anticlockwise of upright"),
        (cos(radians(12)), sin(radians(12)), "12.0° clockwise of level"),
        (-cos(radians(12)), sin(radians(12)), "12.0° anticlockwise of level"),
    ],
)
def test_angles_are_told_from_the_nearer_of_upright_and_level(across, down, words):
    assert lean_words(across, down) == words


def test_places_are_told_from_every_datum_with_their_side():
    datums = (Datum("upright", 880, 0, "middle"), Datum("level", 0, 584, "half"))
    plan = MeasurePlan(datums=datums, points=(MeasuredPoint(480, 784, "lamp"),))
    found = measures(plan, MAP)
    (row,) = found.points
    assert row.from_datums_mm == pytest.approx((-100, 50))
    told = [
        side_words(d.kind, off, f"{abs(off):.0f} mm") for d, off in zip(found.datums, row.from_datums_mm, strict=True)
    ]
    assert told == ["100 mm left of", "50 mm below"]


@given(st.lists(st.tuples(st.integers(0, 60), st.integers(0, 60)), max_size=14), st.floats(0.1, 6))
def test_alignments_are_those_that_brute_force_finds(places, tolerance):
    points = tuple(MeasuredPoint(100 + 4 * x, 50 + 4 * y, f"p{k}") for k, (x, y) in enumerate(places))
    ends = tuple(length(100, 50, 104 + 4 * x, 50 + 4 * y, f"l{k}") for k, (x, y) in enumerate(places))
    plan = MeasurePlan(points=points, lengths=ends, tolerance_mm=tolerance)
    found = {(each.relation, each.first, each.second) for each in alignments(plan, MAP)}
    wanted = set()
    for (a, (ax, ay)), (b, (bx, by)) in combinations(enumerate(places), 2):
        if hypot(ax - bx, ay - by) > NEAR_MM:
            if abs(ax - bx) <= tolerance:
                wanted.add(("plumb", f"p{a}", f"p{b}"))
            if abs(ay - by) <= tolerance:
                wanted.add(("level", f"p{a}", f"p{b}"))
        if abs(hypot(ax + 1, ay) - hypot(bx + 1, by)) <= tolerance - 1e-9:
            wanted.add(("equal", f"l{a}", f"l{b}"))
    close = {each for each in found if each[0] == "equal"} - wanted
    assert found - close == wanted
    for _, a, b in close:  # exactly at the tolerance rounding may decide
        one, other = (hypot(places[int(n[1:])][0] + 1, places[int(n[1:])][1]) for n in (a, b))
        assert abs(one - other) == pytest.approx(tolerance, abs=1e-6)


def test_a_symmetrical_thing_has_equal_sides_and_a_bulge_is_found_where_it_is():
    angle = np.linspace(0, 2 * np.pi, 200, endpoint=False)
    oval = np.stack([900 + 120 * np.cos(angle), 600 + 300 * np.sin(angle)], 1)
    axis = ((900.0, 300.0), (900.0, 900.0))
    even = compared_sides(Symmetry(axis, tuple(map(tuple, oval.tolist()))), MAP)
    assert even.lean == "upright"
    assert len(even.rows) == 9
    assert max(abs(row.off_mm) for row in even.rows) < 0.05
    assert even.rows[4].left_mm == pytest.approx(30, abs=0.1)
    bulged = oval.copy()
    bulged[(oval[:, 0] > 900) & (abs(oval[:, 1] - 600) < 80), 0] += 40
    worst = compared_sides(Symmetry(axis, tuple(map(tuple, bulged.tolist()))), MAP).worst
    assert worst is not None
    assert worst.off_mm == pytest.approx(10, abs=0.2)
    assert worst.along_mm == pytest.approx(75, abs=20)


def test_the_sides_of_a_leaning_thing_are_measured_square_to_its_axis():
    turn = radians(20)
    way, right = np.array([sin(turn), -cos(turn)]), np.array([cos(turn), sin(turn)])
    foot = np.array([900.0, 900.0])
    box = [foot + s * right + t * way for s, t in ((-60, 0), (100, 0), (100, 400), (-60, 400))]
    sides = compared_sides(Symmetry((tuple(foot), tuple(foot + 400 * way)), tuple(map(tuple, box))), MAP)
    assert sides.lean == "20.0° clockwise of upright"
    assert [row.left_mm for row in sides.rows] == pytest.approx([15] * 9)
    assert [row.right_mm for row in sides.rows] == pytest.approx([25] * 9)


def test_a_length_measured_on_a_print_is_doubled_onto_the_sheet(plan):
    """A 165 mm length on a reference drawn at twice the size is 330 mm (common practice, no published source)."""
    frame = plan.study.frame
    half = Measured("frame width", 195.0)  # the print shows half of the 390 mm on the sheet
    lengths = (length(100, 100, 100 + 330 / 390 * frame.width_px, 100, "wall"),)
    study = replace(plan.study, measured=half, measures=MeasurePlan(lengths=lengths))
    (row,) = study_measures(study, plan.ground(study), plan.paper).lengths
    assert (row.print_mm, row.length_mm) == pytest.approx((165, 330))


def test_a_shape_between_things_has_its_area_and_size():
    plan = MeasurePlan(negatives=(NegativeShape(((100, 50), (500, 50), (100, 450)), "gap"),))
    (row,) = measures(plan, MAP).negatives
    assert row.area_mm2 == pytest.approx(100 * 100 / 2)
    assert (row.width_mm, row.height_mm) == pytest.approx((100, 100))
    assert row.share == pytest.approx(5000 / (390 * 267))


@pytest.mark.parametrize(
    "make",
    [
        lambda: MeasuredLength(5, 5, 5, 5),
        lambda: MeasuredPoint(float("nan"), 1),
        lambda: Datum("level", 1, float("inf")),
        lambda: NegativeShape(((0, 0), (1, 1))),
        lambda: Symmetry(((1, 1), (1, 1))),
        lambda: MeasurePlan(unit=1),
        lambda: MeasurePlan(tolerance_mm=0),
        lambda: replace(MeasurePlan(), points=tuple(MeasuredPoint(k, 0) for k in range(201))),
    ],
)
def test_what_makes_no_sense_is_refused_with_a_sentence(make):
    with pytest.raises(PlanError, match=r"\.$"):
        make()
