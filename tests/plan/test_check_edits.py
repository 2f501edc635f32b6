"""Edits of the check: drawings, corners, pairs, refusals, ticks."""

from __future__ import annotations

from dataclasses import replace

import pytest
from tests.conftest import NOON

from mild_compass.plan.edits.base import Edit
from mild_compass.plan.edits.check import (
    add_drawing,
    choose_drawing,
    mend,
    next_drawing_id,
    refuse,
    refuse_none,
    remove_drawing,
    set_corners,
    set_pair,
    set_stage,
    unmend,
)
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Plan
from mild_compass.plan.pictures import DrawnPair, OwnDrawing

CORNERS = ((10.0, 10.0), (590.0, 20.0), (580.0, 390.0), (15.0, 380.0))


def drawing(number: int) -> OwnDrawing:
    """A photo of the sheet."""
    return OwnDrawing(f"drawing-{number}", f"sheet-{number}.jpg", f"{number:064x}", 600, 400)


@pytest.fixture
def drawn(plan: Plan) -> Plan:
    """A plan with two photos of the drawing; the second is checked."""
    return done(done(plan, add_drawing(drawing(1))), add_drawing(drawing(2)))


def done(plan: Plan, edit: Edit) -> Plan:
    """The plan after an edit."""
    return edit.apply(plan, NOON)


def test_the_last_photo_is_checked_until_another_is_chosen(drawn):
    assert drawn.drawing.id == "drawing-2"
    assert next_drawing_id(drawn) == "drawing-3"
    assert done(drawn, choose_drawing("drawing-1")).drawing.id == "drawing-1"
    assert done(drawn, remove_drawing("drawing-2")).drawing.id == "drawing-1"
    with pytest.raises(PlanError, match="not in the plan any more"):
        done(drawn, choose_drawing("drawing-9"))


def test_corners_are_four_round_the_sheet_or_none(drawn):
    by_hand = done(drawn, set_corners("drawing-2", CORNERS))
    assert by_hand.drawing.corners_px == CORNERS
    assert done(by_hand, set_corners("drawing-2", ())).drawing.corners_px == ()
    for wrong in (CORNERS[:3], (CORNERS[0], CORNERS[2], CORNERS[1], CORNERS[3]), (*CORNERS[:3], (float("nan"), 1.0))):
        with pytest.raises(PlanError):
            done(drawn, set_corners("drawing-2", wrong))


def test_a_pair_takes_the_place_of_one_near_it_and_of_a_refusal(drawn):
    refused = done(drawn, refuse("drawing-2", (50.0, 50.0)))
    assert refused.drawing.refused == ((50.0, 50.0),)
    paired = done(refused, set_pair("drawing-2", DrawnPair((51.0, 50.0), (100.0, 90.0))))
    assert (paired.drawing.refused, len(paired.drawing.pairs)) == ((), 1)
    moved = done(paired, set_pair("drawing-2", DrawnPair((50.0, 51.0), (120.0, 95.0))))
    assert [pair.drawn_px for pair in moved.drawing.pairs] == [(120.0, 95.0)]
    # Refusing what was paired by hand takes the pair off; refusing again refuses what was found there.
    off = done(moved, refuse("drawing-2", (50.0, 50.0)))
    assert (off.drawing.pairs, off.drawing.refused) == ((), ())
    again = done(off, refuse("drawing-2", (50.0, 50.0)))
    assert done(again, refuse_none("drawing-2")).drawing.refused == ()
    with pytest.raises(PlanError):
        DrawnPair((float("inf"), 0.0), (1.0, 1.0))


def test_what_is_mended_is_ticked_and_told_in_the_logbook(drawn):
    ticked = done(drawn, mend("drawing-2", (80.0, 60.0), "the left post"))
    assert ticked.drawing.mended == ((80.0, 60.0),)
    assert ticked.log[-1].text == "Mended on the drawing: the left post."
    assert ticked.log[-1].station == "check"
    assert done(ticked, unmend("drawing-2", (81.0, 60.0))).drawing.mended == ()


def test_the_first_photo_keeps_its_own_marks(drawn):
    staged = done(done(drawn, set_stage("drawing-1", "block-in")), set_corners("drawing-1", CORNERS))
    first, second = staged.drawings
    assert (first.stage, first.corners_px) == ("block-in", CORNERS)
    assert second == replace(drawn.drawings[1])
