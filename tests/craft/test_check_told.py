"""What a check tells: values, strings, measures, words; the stand-in that draws badly; the checks over time."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from tests.craft.made_drawing import A4, SMALL, asked, lines

from mild_compass.craft.check.check import check, followed_by_chance
from mild_compass.craft.check.checked import Checked, NotDrawn, PartFound, PlaceFound, WholeFound
from mild_compass.craft.check.correction import correction, lone_places
from mild_compass.craft.check.flat import flattened
from mild_compass.craft.check.over_time import check_row, mean_and_worst, summary_words
from mild_compass.craft.check.pieces import PlanLine
from mild_compass.craft.check.planned import without_doubles
from mild_compass.craft.check.readings import headline, off_parts, readings
from mild_compass.craft.check.sides import by_hand
from mild_compass.craft.check.stand_in import HANDS, drawn_badly
from mild_compass.craft.check.tones import DrawnTones, DrawnValue, drawn_tones
from mild_compass.craft.check.where import drawn_lengths, drawn_strings
from mild_compass.craft.picture.load import Picture
from mild_compass.craft.values.masses import study_masses
from mild_compass.craft.worked import Worked, worked_study
from mild_compass.plan.edits.base import with_study
from mild_compass.plan.perspective import EdgeSet, TracedEdge
from mild_compass.plan.pictures import OwnDrawing
from mild_compass.plan.sheet import MeasuredLength, MeasurePlan
from mild_compass.plan.study import Ring
from mild_compass.plan.tones import ValuePlan

STILL = np.column_stack([np.eye(2), np.zeros(2)])
TRUE = WholeFound((0.0, 0.0), 0.0, 0.0, 0.0, (0.05, 0.02, 0.02))
DRAWING = OwnDrawing("drawing-1", "sheet.jpg", "a" * 64, 2600, 1950, stage="values")


def part(
    name: str = "cart", shift: tuple[float, float] = (3.0, 0.0), at: tuple[float, float] = (100.0, 80.0), **more
) -> PartFound:
    """A part that is off."""
    told = {
        "scale_percent": 0.0,
        "turn_deg": 0.0,
        "sure": True,
        "sigma_mm": 0.05,
        "lines_mm": (((90.0, 80.0), (110.0, 80.0)),),
    }
    return PartFound(name, at, shift, **{**told, **more})


def checked(*parts: PartFound, whole: WholeFound = TRUE, places: tuple[PlaceFound, ...] = (), **more) -> Checked:
    """A check with these parts."""
    return Checked(True, whole=whole, matrix=STILL, parts=parts, places=places, drawn_share=1.0, **more)


@pytest.fixture
def worked(plan) -> Worked:
    """A study on A3 with a drawing of it."""
    found = worked_study(replace(plan, drawings=(DRAWING,)))
    assert found is not None
    return found


def told(worked: Worked, check: Checked | None, tones: DrawnTones | None = None) -> dict[str, str]:
    """The sentences by their keys."""
    return {each.key: each.text for each in readings(replace(worked, check=check, tones=tones))}


# -- words -----------------------------------------------------------------------------------------------------


def test_without_a_drawing_it_says_how_to_begin_and_while_it_looks_nothing(plan, worked):
    bare = worked_study(plan)
    assert headline(bare) == "no photo yet"
    assert "any phone" in told(bare, None)["no_drawing"]
    assert headline(worked) == "looking …"
    assert not told(worked, None)
    problem = Checked(False, problem="It is dark.")
    assert (headline(replace(worked, check=problem)), told(worked, problem)["problem"]) == ("not told", "It is dark.")


def test_parts_are_told_in_millimetres_with_what_to_do_the_furthest_first(worked):
    both = checked(part(), part("post", (0.5, -4.0), (300.0, 200.0), scale_percent=5.0, turn_deg=-2.0))
    found = replace(worked, check=both)
    assert headline(found) == "2 off, 4.0 mm"
    sentences = told(worked, both)
    assert sentences["part 1"] == (
        "Post: 0.5 mm too far right and 4.0 mm too high; move it 0.5 mm left and 4.0 mm down, 5 % too large, turned "
        "2.0° anticlockwise."
    )
    assert sentences["part 2"] == "Cart: 3.0 mm too far right; move it 3.0 mm left."
    assert sentences["whole"].startswith("The whole sits where it belongs")


def test_what_is_merely_shifted_needs_only_the_frame_moved(worked):
    shifted = checked(whole=replace(TRUE, shift_mm=(2.0, 0.0)), frame=TRUE)
    assert told(worked, shifted)["whole"] == (
        "The whole lies 2.0 mm too far right. Nothing inside is wrong by that, and the drawn frame is where it was "
        "planned: move the frame or the tape 2.0 mm right instead of the picture."
    )
    along = checked(whole=replace(TRUE, shift_mm=(2.0, 0.0)), frame=replace(TRUE, shift_mm=(2.0, 0.1)))
    assert "leave both" in told(worked, along)["whole"]
    larger = checked(whole=replace(TRUE, scale_percent=1.0, turn_deg=0.5, shear_percent=1.2))
    assert (
        "1.0 % too large (3.9 mm over its width), is turned 0.5° clockwise, leans by 1.2 %"
        in told(worked, larger)["whole"]
    )


def test_a_ticked_part_is_off_no_more_and_a_doubtful_one_only_perhaps(worked):
    ticked = replace(DRAWING, mended=((100.5, 80.0),))
    assert off_parts(checked(part()), DRAWING)
    assert not off_parts(checked(part()), ticked)
    assert (
        "too few lines tell: the part in the middle"
        in told(worked, checked(part("", at=(210.0, 150.0), sure=False)))["doubtful"]
    )
    missing = (NotDrawn("door", (50.0, 50.0), 60.0, ()), NotDrawn("", (90.0, 50.0), 40.0, ()))
    assert (
        told(worked, checked(missing=missing))["missing"]
        == "Not drawn yet, which is not wrong: door and 1 more places, 100 mm of line."
    )


def test_values_are_told_in_steps_and_the_first_read_against_the_focus(worked):
    light = DrawnValue("dark 1", 30.0, 52.0, 1.1, 400.0, (100.0, 80.0), ((90.0, 70.0), (110.0, 90.0)))
    tones = DrawnTones((light,), np.zeros((4, 4), np.float32), (30.0, 30.0))
    assert told(worked, checked(), tones)["value dark 1"] == "The dark 1: one step too light (L* 52, planned 30)."
    fine = DrawnTones((replace(light, drawn=31.0, steps_off=0.05),), np.zeros((4, 4), np.float32), None)
    assert (
        told(worked, checked(), fine)["values_drawn"] == "All 1 masses are within half a step of their planned value."
    )
    aimed = replace(worked, study=replace(worked.study, reads=replace(worked.study.reads, focus=(400.0, 300.0))))
    assert "away from the focus" in told(aimed, checked(), tones)["drawn_read"]


# -- where things were drawn -----------------------------------------------------------------------------------


def across(x: float, y: float, off: float, sigma: float = 0.05) -> PlaceFound:
    """A place on a level line that was drawn so much too low."""
    return PlaceFound((x, y), (x, y + off), (0.0, 1.0), sigma, abs(off) > 0.6, (0.0, off))


def test_a_drawn_edge_is_held_against_the_string_to_its_point(worked):
    """Raising the right end by what was drawn too low makes it run to its point."""
    to_photo = worked.frame_map.to_photo
    a, b = to_photo([[60.0, 100.0], [180.0, 100.0]]).tolist()
    c, d = to_photo([[60.0, 180.0], [180.0, 160.0]]).tolist()
    sets = (EdgeSet("A", "level", (TracedEdge(*a, *b), TracedEdge(*c, *d))),)
    study = replace(worked.study, perspective=replace(worked.study.perspective, sets=sets))
    again = worked_study(with_study(replace(worked.plan, drawings=(DRAWING,)), study))
    low = tuple(across(x, 100.0, 2.5 * (x - 60) / 120) for x in np.linspace(64, 176, 9))
    true = tuple(across(x, 100.0, 0.0) for x in np.linspace(64, 176, 9))
    (off,) = drawn_strings(checked(places=low), again)
    assert off.is_off
    assert abs(off.check.off_mm) == pytest.approx(2.5, abs=0.4)
    assert off.check.words == "raise its right end 2.5 mm"
    (fine,) = drawn_strings(checked(places=true), again)
    assert not fine.is_off
    assert "run to their points" in told(again, checked(places=true))["drawn_strings"]
    assert "as drawn" in told(again, checked(places=low))["string edge 1 of A"]


def test_a_measured_length_is_told_as_drawn(worked):
    a, b = worked.frame_map.to_photo([[100.0, 100.0], [150.0, 100.0]]).tolist()
    measures = MeasurePlan(lengths=(MeasuredLength(*a, *b, "door"), MeasuredLength(*b, *a, "other")))
    again = replace(worked, study=replace(worked.study, measures=measures))

    def corner(x: float, off: float) -> PlaceFound:
        return PlaceFound((x, 100.0), (x + off, 100.0), None, 0.1, abs(off) > 0.6, (off, 0.0))

    wide = checked(places=(corner(100.0, 0.0), corner(150.0, 2.0)))
    door, _ = drawn_lengths(wide, again)
    assert door.drawn_mm == pytest.approx(52.0, abs=0.1)
    assert door.off_percent == pytest.approx(4.0, abs=0.2)
    assert told(again, wide)["length door"].startswith("door: drawn 52.0 mm, planned 50.0 mm: 4 % too long.")
    assert drawn_lengths(checked(), again)[0].drawn_mm is None


def test_a_ringed_head_is_held_against_the_eye_level(worked):
    x, y = worked.frame_map.to_photo([100.0, 90.0]).tolist()
    ring = Ring(x, y + 20, 15.0, 20.0, "woman", heads=8.0)
    again = replace(worked, study=replace(worked.study, rings=(ring,)))
    low = PlaceFound((100.0, 90.0), (100.0, 92.5), None, 0.1, True, (0.0, 2.5))
    assert told(again, checked(places=(low,)))["head woman"].endswith("2.5 mm too low against the eye level.")
    assert "head woman" not in told(again, checked(places=(replace(low, rest_mm=(0.0, 0.2)),)))


def test_arrows_point_to_where_it_belongs_five_times_as_long(worked):
    drawing = correction(checked(part()), DRAWING, worked.plan.paper)
    shafts = [
        stroke.points_mm
        for stroke in drawing.layers[0].strokes
        if stroke.ink == "armature" and len(stroke.points_mm) == 2
    ]
    assert shafts[0].tolist() == [[103.0, 80.0], [88.0, 80.0]]
    assert [label.text for label in drawing.layers[0].labels] == ["1  3.0 mm"]
    lone = across(40.0, 40.0, 1.5)
    assert lone_places(checked(part(), places=(lone, across(41.0, 40.0, 1.2))), DRAWING) == [lone]


# -- over time -------------------------------------------------------------------------------------------------


def test_checks_over_time_tell_what_was_mended_and_what_is_still_off(worked):
    first = checked(part(), part("post", (0.0, 4.0), (300.0, 200.0)), places=(across(10, 10, 2.0), across(20, 20, 0.0)))
    second = checked(part("post", (0.0, 2.0), (301.0, 200.0)), places=(across(10, 10, 1.0),))
    row = check_row(DRAWING, second, worked, first)
    assert (row.mended, row.still, row.off) == (("cart",), ("post",), 1)
    assert mean_and_worst(first) == pytest.approx((1.0, 1.96))
    assert mean_and_worst(checked()) is None
    now = replace(worked, check=second)
    assert summary_words(now) == "Checked sheet.jpg: 1 off (post 2.0 mm), 1.0 mm in the mean."
    assert summary_words(replace(worked, check=checked())) == "Checked sheet.jpg: nothing off."


# -- values ----------------------------------------------------------------------------------------------------


def test_drawn_values_are_told_within_half_a_step_in_slanting_light(plan):
    """Flat tones of known L* on paper of L* 95, under a lamp that leaves the far corner two thirds as light."""
    levels = np.array([24.0, 50.0, 76.0])
    shape = (400, 600)
    picture = np.zeros(shape, np.float32)
    picture[:, :200], picture[:, 200:400], picture[:, 400:] = levels
    grey = np.round(255 * _srgb(picture)).astype(np.uint8)
    study = replace(plan.study, values=ValuePlan(count=3, method="by hand", thresholds=(37.0, 63.0)))
    masses = study_masses(Picture(np.repeat(grey[..., None], 3, 2), 600, 400), study, plan.paper)
    worked = worked_study(plan)
    box = worked.frame_map.box
    paper = plan.paper
    wrong = {24.0: 38.0, 50.0: 50.0, 76.0: 62.0}
    sheet = np.full((round(paper.height_mm * 4), round(paper.width_mm * 4)), 95.0, np.float32)
    left, top, right, bottom = (round(side * 4) for side in box)
    for n, level in enumerate(levels):
        a, b = left + (right - left) * n // 3, left + (right - left) * (n + 1) // 3
        sheet[top:bottom, a:b] = wrong[float(level)]
    y, x = np.mgrid[0 : sheet.shape[0], 0 : sheet.shape[1]]
    lamp = 1 - 0.33 * (x / sheet.shape[1] + y / sheet.shape[0]) / 2
    linear = np.where(sheet > 8, ((sheet + 16) / 116) ** 3, sheet / 903.3) * lamp
    seen = np.where(linear > 0.0031308, 1.055 * linear ** (1 / 2.4) - 0.055, 12.92 * linear)
    rgb = np.repeat(np.round(255 * seen).astype(np.uint8)[..., None], 3, 2)
    h, w = sheet.shape
    flat = flattened(
        rgb, by_hand(np.array([[0.0, 0], [w, 0], [w, h], [0, h]]), (w, h)), paper.width_mm, paper.height_mm
    )
    found = drawn_tones(flat, masses, box, None)
    assert found is not None
    for value in found.values:
        planned = min(levels, key=lambda level: abs(level - value.planned))
        assert value.drawn == pytest.approx(wrong[float(planned)], abs=3)
        assert value.steps_off == pytest.approx((wrong[float(planned)] - value.planned) / 26, abs=0.25)
    bare = flattened(np.full_like(rgb, 240), by_hand(np.array([[0.0, 0], [w, 0], [w, h], [0, h]]), (w, h)), 420, 297)
    assert drawn_tones(bare, masses, box, None) is None


def _srgb(lightness: np.ndarray) -> np.ndarray:
    linear = np.where(lightness > 8, ((lightness + 16) / 116) ** 3, lightness / 903.3)
    return np.where(linear > 0.0031308, 1.055 * linear ** (1 / 2.4) - 0.055, 12.92 * linear)


# -- the stand-in ----------------------------------------------------------------------------------------------


def test_the_stand_in_draws_by_the_seed_and_is_as_far_off_as_its_hand():
    plan_lines = tuple(PlanLine(line, "lines") for line in lines())
    one = drawn_badly(plan_lines, A4, HANDS["clumsy"], 3, photo_px=SMALL)
    tiny = (600, 450)
    drawn = [drawn_badly(plan_lines, A4, HANDS["clumsy"], seed, photo_px=tiny) for seed in (3, 3, 4)]
    assert np.array_equal(drawn[0], drawn[1])
    assert not np.array_equal(drawn[0], drawn[2])
    found = check(one, asked())
    assert found.sure
    assert np.hypot(*found.whole.shift_mm) == pytest.approx(HANDS["clumsy"].shift_mm, abs=0.6)
    assert abs(found.whole.scale_percent) == pytest.approx(HANDS["clumsy"].scale_percent, abs=0.3)
    assert [each for each in found.parts if each.sure]
    tones = np.full((40, 60), 40.0, np.float32)
    shaded = drawn_badly(plan_lines, A4, HANDS["steady"], 3, tones, (15.0, 15.0, 282.0, 195.0), tiny)
    assert shaded[200:240, 280:320].mean() < 0.6 * drawn[0][200:240, 280:320].mean()


def test_lines_that_one_before_tells_already_are_not_asked_twice():
    line = np.array([[0.0, 0], [50, 0]])
    longer = np.array([[0.0, 0.3], [90, 0.3]])
    kept = without_doubles([PlanLine(line, "lines"), PlanLine(longer, "masses", "edge")])
    assert [each.layer for each in kept] == ["lines", "masses"]
    assert kept[1].points_mm[:, 0].min() > 49
    assert kept[1].name == "edge"


def test_without_a_chosen_drawing_the_last_one_is_checked(plan):
    assert plan.drawing is None
    assert replace(plan, drawings=(DRAWING,), current_drawing="gone").drawing is DRAWING


@pytest.mark.parametrize(("parts", "shear", "by_chance"), [(7, 0.5, True), (7, 0.1, False), (3, 0.5, False)])
def test_many_parts_off_beside_a_sheared_whole_are_followed_by_chance_and_not_told(parts, shear, by_chance):
    whole = WholeFound((1.0, 0.0), 0.1, 0.0, shear, (0.1, 0.05, 0.02))
    off = PartFound("", (50.0, 50.0), (2.0, 0.0), 0.0, 0.0, True, 0.1, ())
    told = Checked(True, whole=whole, parts=(off,) * parts)
    assert followed_by_chance(told) is by_chance
    assert followed_by_chance(replace(told, parts=(replace(off, sure=False),) * parts)) is False
