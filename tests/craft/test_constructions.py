"""Constructions against their sources: reciprocals, golden section, themes, musical divisions; their steps."""

from __future__ import annotations

import re
from fractions import Fraction
from math import sqrt

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mild_compass.craft.armature.constructions import (
    CONSTRUCTION_WORDS,
    EXPLAINED,
    MUSICAL,
    ROOTS,
    crossings,
    fourteen_lines,
    lines_of,
    meetings,
    musical_marks,
)
from mild_compass.craft.armature.named_ratios import NAMED, trim_to
from mild_compass.craft.armature.steps import construction_steps
from mild_compass.craft.armature.themes import PHI, theme_lines
from mild_compass.craft.geometry.lines import Box
from mild_compass.craft.sheet_sizes.papers import paper, trimmed
from mild_compass.plan.structure import CONSTRUCTION_NAMES

ratios = st.floats(0.3, 3.5)


def has_line(lines: np.ndarray, *ends: float) -> bool:
    """Whether a line with these ends (x0, y0, x1, y1), either way round, is among them."""
    wanted = np.array(ends, np.float64).reshape(2, 2)
    return any(abs(line - wanted).max() < 1e-9 or abs(line[::-1] - wanted).max() < 1e-9 for line in lines)


@given(st.sampled_from(CONSTRUCTION_NAMES), ratios, st.sampled_from(["first", "second", "both"]), st.integers(0, 4))
def test_every_construction_stays_inside_any_rectangle_and_draws_no_line_twice(name, ratio, end, nested):
    lines = lines_of(name, ratio, end, nested)
    assert np.isfinite(lines).all()
    assert lines.size == 0 or (lines.min() >= -1e-9 and lines.max() <= 1 + 1e-9)
    for index, line in enumerate(lines):
        assert abs(line[0] - line[1]).max() > 1e-9
        assert not has_line(np.delete(lines, index, 0), *line.ravel())


@given(st.sampled_from(CONSTRUCTION_NAMES), ratios)
def test_a_rectangle_on_its_end_has_the_same_lines_turned(name, ratio):
    if name == "reading Z":
        return  # a page is read across, whichever way it stands
    lines, turned = lines_of(name, ratio), lines_of(name, 1 / ratio)[..., ::-1]
    assert len(lines) == len(turned)
    assert all(has_line(turned, *line.ravel()) for line in lines)


@given(ratios, ratios)
def test_the_fourteen_lines_are_the_same_shares_of_every_rectangle(one, other):
    assert (lines_of("fourteen", one) == lines_of("fourteen", other)).all()


@given(st.floats(1.05, 3.4), st.floats(0.05, 0.4))
def test_reciprocals_and_rabatment_are_not(ratio, more):
    """They are made with right angles and circles, which a stretch does not keep."""
    for name in ("reciprocals", "rabatment"):
        assert abs(lines_of(name, ratio)[-1] - lines_of(name, ratio + more)[-1]).max() > 1e-3


@given(st.floats(1.01, 3.5))
def test_a_reciprocal_is_square_to_the_diagonal_and_meets_the_long_side_where_hambidge_says(ratio):
    """h²/w from the corner (Jay Hambidge, The Elements of Dynamic Symmetry, 1920)."""
    lines = lines_of("reciprocals", ratio) * (ratio, 1.0)
    meets = 1 / ratio
    assert has_line(lines, 0, 0, meets, 1)
    assert has_line(lines, meets, 0, meets, 1)
    assert np.dot((meets, 1.0), (ratio, -1.0)) == pytest.approx(0, abs=1e-12)
    # The rectangle cut off has the same shape: its sides are 1 and h²/w.
    assert 1 / meets == pytest.approx(ratio)


def test_in_three_to_two_the_reciprocal_meets_at_four_ninths_of_the_length():
    assert has_line(lines_of("reciprocals", 3 / 2), 4 / 9, 0, 4 / 9, 1)


@pytest.mark.parametrize(("name", "n"), [("root 2", 2), ("root 3", 3), ("root 4", 4), ("root 5", 5)])
def test_a_root_rectangle_is_parted_by_its_reciprocals_into_n(name, n):
    lines = lines_of(name, sqrt(n))
    for k in range(1, n):
        assert has_line(lines, k / n, 0, k / n, 1)
    assert has_line(lines, 0, 0, 1 / n, 1)  # a reciprocal: the diagonal of the first part


def test_a_golden_rectangle_less_its_square_is_a_golden_rectangle():
    lines = lines_of("phi", PHI)
    square = 1 / PHI
    assert has_line(lines, square, 0, square, 1)
    assert pytest.approx(PHI) == 1 / (PHI - 1)


@given(st.floats(1.0, 3.5), st.sampled_from(sorted(ROOTS)))
def test_a_theme_has_its_own_proportion_at_the_end_it_is_placed(ratio, name):
    theme = ROOTS[name]
    width = theme if ratio >= theme else 1 / theme
    if abs(width - ratio) < 1e-6:
        return
    first, second = theme_lines(ratio, theme, "first"), theme_lines(ratio, theme, "second")
    assert has_line(first, width / ratio, 0, width / ratio, 1)
    assert has_line(first, 0, 0, width / ratio, 1)
    assert has_line(second, 1 - width / ratio, 0, 1 - width / ratio, 1)
    both = theme_lines(ratio, theme, "both")
    assert all(has_line(both, *line.ravel()) for line in (*first, *second))


def test_nesting_adds_the_reciprocals_own_reciprocals():
    plain, deep = (theme_lines(sqrt(2), sqrt(2), "first", nested) for nested in (0, 2))
    assert len(deep) > len(plain)
    assert has_line(deep, 0.5, 0.5, 1, 0.5)  # the reciprocal at the right, halved


@pytest.mark.parametrize(
    ("name", "marks"),
    [
        ("2:3", ("1/3", "2/3")),
        ("3:4", ("1/4", "3/4")),
        ("4:6:9", ("1/3", "4/9", "5/9", "2/3")),
        ("9:12:16", ("1/4", "7/16", "9/16", "3/4")),
    ],
)
def test_musical_divisions_lie_where_alberti_puts_them_from_both_ends(name, marks):
    """L. B. Alberti, De re aedificatoria, IX."""
    assert musical_marks(name) == tuple(Fraction(mark) for mark in marks)
    lines = lines_of(name, 1.4)
    assert len(lines) == 2 * len(marks)
    for mark in marks:
        share = float(Fraction(mark))
        assert has_line(lines, share, 0, share, 1)
        assert has_line(lines, 0, share, 1, share)


def test_the_golden_section_parts_a_side_so_that_small_is_to_large_as_large_to_all():
    small, large = 1 - 1 / PHI, 1 / PHI
    assert small / large == pytest.approx(large)
    assert has_line(lines_of("golden section", 1.3), small, 0, small, 1)


def test_rabatment_lays_the_square_at_either_end():
    lines = lines_of("rabatment", 2.5)
    assert has_line(lines, 0.4, 0, 0.4, 1)
    assert has_line(lines, 0.6, 0, 0.6, 1)
    assert len(lines_of("rabatment", 2.5, "first")) == 1
    assert len(lines_of("rabatment", 1.0)) == 0  # a square has no square to turn in


def test_crossings_by_numbers_are_the_exact_meetings():
    found = crossings(lines_of("fourteen", 1.0))
    exact = {(round(float(x), 9), round(float(y), 9)) for x, y in meetings(fourteen_lines())}
    assert {(round(x, 9), round(y, 9)) for x, y in found.tolist()} == exact
    assert len(crossings(lines_of("halves", 1.0)[:1])) == 0


# -- named rectangles -----------------------------------------------------------------------------------------


@given(st.sampled_from([name for name, _ in NAMED]), st.floats(60, 900), st.floats(60, 900))
def test_a_sheet_is_trimmed_to_any_named_rectangle(name, width, height):
    wide, high = trim_to(name, width, height)
    assert min(wide, high) == 0
    long, short = sorted((width - wide, height - high), reverse=True)
    assert long / short == pytest.approx(dict(NAMED)[name])


def test_trimming_the_sheet_keeps_its_margins():
    smaller = trimmed(paper("A3", across=True), 0.0, 7.0)
    assert smaller.height_mm == 290
    assert smaller.margin_mm == 15


# -- steps ----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", CONSTRUCTION_NAMES)
@pytest.mark.parametrize("box", [Box(15, 15, 405, 282), Box(0, 0, 100, 250), Box(0, 0, 120, 120), Box(0, 0, 900, 120)])
def test_every_construction_has_steps_for_every_sheet(name, box):
    steps = construction_steps(name, box, "mm", 2)
    assert len(steps) >= 2
    assert steps[0].startswith("Draw the picture area")
    assert all(step.endswith(".") and "nan" not in step for step in steps)
    assert name in CONSTRUCTION_WORDS
    assert EXPLAINED[name].endswith(".")


def millimetres(steps: tuple[str, ...]) -> list[float]:
    return [float(number) for step in steps for number in re.findall(r"(\d+\.\d) mm", step)]


@pytest.mark.parametrize(
    ("name", "wanted"),
    [
        ("thirds", (100.0, 66.7)),
        ("quarters", (75.0, 50.0)),
        ("reciprocals", (200**2 / 300,)),
        ("rabatment", (200.0, 100.0)),
        ("golden section", (300 / PHI, 200 / PHI)),
        ("root 2", (200 * sqrt(2),)),
        ("phi", (200 / PHI,)),  # 1.618 is longer than 1.5: it stands in the square of the short side
        ("root 3", (200 / sqrt(3),)),
        ("4:6:9", tuple(300 * k / 9 for k in (3, 4, 5, 6))),
    ],
)
def test_the_steps_tell_the_millimetres_that_are_drawn(name, wanted):
    told = millimetres(construction_steps(name, Box(0, 0, 300, 200)))
    for each in wanted:
        assert min(abs(each - number) for number in told) <= 0.05


def test_steps_in_inches_tell_sixteenths():
    steps = construction_steps("thirds", Box(0, 0, 304.8, 203.2), "in")
    assert "4 in" in steps[-1]
    assert " mm" not in "".join(steps)


def test_all_musical_and_root_constructions_are_known():
    assert set(MUSICAL) | set(ROOTS) < set(CONSTRUCTION_NAMES)
