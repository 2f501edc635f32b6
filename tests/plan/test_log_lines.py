"""Which decisions become one line of the logbook, and the small arithmetic of edits."""

from __future__ import annotations

from dataclasses import replace

import pytest

from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.plan.edits import references, studies, values, viewfinder
from mild_compass.plan.edits.armature import add_big_line, change_big_line
from mild_compass.plan.edits.base import next_study
from mild_compass.plan.edits.logbook import add_note
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Plan
from mild_compass.plan.paper import Paper
from mild_compass.plan.pictures import Reference
from mild_compass.plan.structure import BigLine
from mild_compass.plan.study import Departure
from mild_compass.plan.tones import MassChange

NOON, LATER = "2026-05-01T12:00:00+02:00", "2026-05-01T12:05:00+02:00"


def with_photo(width: int = 600, height: int = 400, plan: Plan | None = None, id_: str = "p") -> Plan:
    photo = Reference(id_, f"{id_}.jpg", ("ab" if id_ == "p" else "cd") * 32, width, height)
    return references.add_reference(photo).apply(plan or Plan(), NOON)


def topics(plan: Plan) -> list[tuple[str, str]]:
    return [(each.topic, each.study) for each in plan.log]


def test_a_decision_made_again_at_once_takes_the_place_of_its_own_line():
    plan = viewfinder.choose_paper(paper("A5")).apply(with_photo(), NOON)
    before = len(plan.log)
    plan = viewfinder.choose_paper(paper("A4")).apply(plan, LATER)
    assert len(plan.log) == before
    assert "A4" in plan.log[-1].text
    assert plan.log[-1].time == LATER


def test_the_same_decision_in_another_study_and_one_after_another_has_its_own_line():
    plan = values.set_focus((10.0, 10.0)).apply(with_photo(), NOON)
    plan = studies.keep_study().apply(plan, NOON)
    first = len(plan.log)
    plan = values.set_focus((20.0, 10.0)).apply(plan, LATER)
    assert len(plan.log) == first + 1
    plan = viewfinder.choose_paper(paper("A5")).apply(plan, LATER)
    plan = values.set_focus((30.0, 10.0)).apply(plan, LATER)
    assert [topic for topic, _ in topics(plan)].count("set_focus") == 3


def test_a_note_between_keeps_both_decisions():
    plan = viewfinder.choose_paper(paper("A5")).apply(with_photo(), NOON)
    plan = add_note("Rain.", "values", NOON).apply(plan, NOON)
    plan = viewfinder.choose_paper(paper("A4")).apply(plan, LATER)
    assert [topic for topic, _ in topics(plan)].count("choose_paper") == 2


def test_an_edit_that_changes_nothing_gives_the_same_plan_and_writes_nothing():
    plan = with_photo()
    assert viewfinder.choose_paper(plan.paper).apply(plan, LATER) is plan


def test_the_next_and_the_one_before_go_round_and_of_one_study_there_is_none():
    plan = with_photo()
    assert studies.neighbour(plan, 1) is None
    plan = studies.keep_study().apply(plan, NOON)
    first, second = (each.id for each in plan.studies)
    assert {studies.neighbour(replace(plan, current_study=first), step) for step in (1, -1)} == {second}
    plan = studies.keep_study().apply(plan, NOON)
    ids = [each.id for each in plan.studies]
    at_last = replace(plan, current_study=ids[-1])
    assert (studies.neighbour(at_last, 1), studies.neighbour(at_last, -1)) == (ids[0], ids[1])


def test_a_new_study_takes_the_next_number_and_the_first_free_letter():
    plan = with_photo()
    study = plan.studies[0]
    others = tuple(replace(study, id=f"study-{n}", name=name) for n, name in ((7, "C"), (2, "B")))
    assert next_study(replace(plan, studies=(*plan.studies, *others))) == (8, "D")
    letters = tuple(replace(study, id=f"study-{n}", name=chr(64 + n)) for n in range(1, 27))
    assert next_study(replace(plan, studies=letters)) == (27, "Study 27")
    assert next_study(Plan()) == (1, "A")


def test_a_big_line_is_changed_or_taken_off_where_it_stands():
    plan = with_photo()
    lines = [BigLine(float(k), 0.0, float(k), 300.0) for k in (10, 20, 30)]
    for line in lines:
        plan = add_big_line(line).apply(plan, NOON)
    other = BigLine(25.0, 0.0, 25.0, 300.0)
    changed = change_big_line(1, other).apply(plan, NOON)
    assert changed.study.structure.lines == (lines[0], other, lines[2])
    assert change_big_line(1, None).apply(plan, NOON).study.structure.lines == (lines[0], lines[2])
    assert change_big_line(0, None).apply(plan, NOON).study.structure.lines == (lines[1], lines[2])


@pytest.mark.parametrize(
    ("photo", "sheet_mm", "laid_mm"),
    [
        ((600, 400), (300, 400), (400, 300)),
        ((400, 600), (400, 300), (300, 400)),
        ((600, 400), (400, 300), (400, 300)),
        ((400, 400), (400, 300), (300, 400)),
        ((600, 400), (300, 300), (300, 300)),
    ],
)
def test_the_sheet_is_laid_as_the_first_photo_lies(photo, sheet_mm, laid_mm):
    start = Plan(paper=Paper("x", *sheet_mm, lay="as the photo"))
    laid = with_photo(*photo, plan=start).paper
    assert (laid.width_mm, laid.height_mm) == laid_mm


def test_a_sheet_laid_by_hand_and_the_second_photo_turn_nothing():
    by_hand = with_photo(600, 400, Plan(paper=Paper("x", 300, 400)))
    assert by_hand.paper.width_mm == (300 if by_hand.paper.lay != "as the photo" else 400)
    first = with_photo(400, 600, Plan(paper=Paper("x", 300, 400, lay="as the photo")))
    assert with_photo(600, 400, first, "q").paper == first.paper


def test_what_is_changed_by_hand_is_told_as_a_shape_or_an_area_with_its_value_counted_from_one():
    area = MassChange("mass-1", "area", ((1.0, 1.0), (9.0, 1.0), (9.0, 9.0)), 0, 3)
    shape = MassChange("mass-2", "shape", ((5.0, 5.0),), 2, 3)
    plan = values.change_mass(area).apply(with_photo(), NOON)
    assert plan.log[-1].text == "By hand: an area becomes value 1 of 3."
    plan = values.change_mass(shape).apply(plan, NOON)
    assert plan.log[-1].text == "By hand: a shape becomes value 3 of 3."
    assert values.next_mass_id(plan) == "mass-3"
    assert values.next_mass_id(values.remove_mass_change("mass-1").apply(plan, NOON)) == "mass-1"


@pytest.mark.parametrize(("of", "fine"), [(1, False), (2, True), (7, True), (8, False)])
def test_a_change_by_hand_is_one_of_two_to_seven_values(of, fine):
    def make() -> MassChange:
        return MassChange("m", "shape", ((5.0, 5.0),), 0, of)

    if fine:
        assert make().of == of
    else:
        with pytest.raises(PlanError, match="number of values"):
            make()


def test_tape_comes_on_top_of_margins_and_of_sides():
    assert Paper("x", 300, 400, 12, tape_mm=6).borders_mm == (18, 18, 18, 18)
    assert Paper("x", 300, 400, 12, (1.5, 2, 3, 4.25), tape_mm=0.5).borders_mm == (2, 2.5, 3.5, 4.75)


def test_what_is_put_elsewhere_is_sized_and_mirrored_about_its_own_middle():
    outline = ((10.0, 20.0), (41.0, 20.0), (41.0, 63.0))
    laid = Departure("d", "move", outline, x_px=200, y_px=100, size=2).placed()
    assert laid == ((169, 57), (231, 57), (231, 143))
    mirrored = Departure("d", "move", outline, x_px=200, y_px=100, size=2, mirrored=True).placed()
    assert mirrored == ((231, 57), (169, 57), (169, 143))
    assert Departure("d", "darken", outline, value=10).placed() == outline
