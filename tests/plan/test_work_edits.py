"""Edits of the work and the logbook, and what is written down beside undo: it happened, so it stays."""

from __future__ import annotations

from dataclasses import replace

import pytest
from tests.conftest import NOON

from mild_compass.plan.coding import decode, encode
from mild_compass.plan.edits.logbook import acted_on, add_note, answer, change_note, delete_line, say_what_came
from mild_compass.plan.edits.studies import rename_study
from mild_compass.plan.edits.work import change_step, delete_sitting, next_sitting_id, with_sitting, with_time
from mild_compass.plan.errors import PlanError
from mild_compass.plan.history import History
from mild_compass.plan.record import CameOut
from mild_compass.plan.work import Sitting, SittingStep, StepChange, WorkPlan

STEP = SittingStep("wash", "Wash 1", "wash", 12.5, 30.0, True)
SITTING = Sitting("sitting-1", "study-1", NOON, "", (STEP,), "washes")


def test_undo_takes_back_decisions_and_never_what_happened(plan):
    history = History(plan)
    history.apply(rename_study("B"), NOON)
    history.record(lambda each: with_sitting(each, SITTING))
    history.undo()
    assert history.plan.study.name == "A"
    assert history.plan.sittings == (SITTING,)
    history.redo()
    assert (history.plan.study.name, history.plan.sittings) == ("B", (SITTING,))
    history.record(lambda each: with_sitting(each, replace(SITTING, ended=NOON)))
    assert [each.ended for each in history.plan.sittings] == [NOON]


def test_what_cannot_be_written_down_leaves_history_as_it_was(plan):
    history = History(plan)
    with pytest.raises(PlanError):
        history.record(lambda each: with_sitting(each, replace(SITTING, medium="x" * 5000)))
    assert history.plan == plan


def test_a_sitting_is_kept_whole_through_a_file_and_can_be_deleted(plan):
    plan = with_time(with_sitting(plan, SITTING), "values", 90.0)
    assert decode(encode(plan)) == plan
    assert next_sitting_id(plan) == "sitting-2"
    assert delete_sitting("sitting-1").apply(plan, NOON).sittings == ()
    with pytest.raises(PlanError, match="not in the plan"):
        delete_sitting("sitting-9").apply(plan, NOON)
    assert SITTING.minutes == 12.5


def test_time_at_a_station_adds_up(plan):
    plan = with_time(with_time(with_time(plan, "values", 90.0), "sheet", 5.0), "values", 30.0)
    assert {each.station: each.seconds for each in plan.spent} == {"values": 120.0, "sheet": 5.0}


@pytest.mark.parametrize(
    "wrong",
    [
        lambda: SittingStep("a", "A", "wash", float("nan"), 1.0),
        lambda: SittingStep("a", "A", "wash", -1.0, 1.0),
        lambda: WorkPlan(sitting_min=3.0),
        lambda: WorkPlan(start="noon"),
        lambda: StepChange("a", minutes=-1.0),
        lambda: WorkPlan(changes=(StepChange("a", 1.0), StepChange("a", 2.0))),
    ],
)
def test_bad_times_are_refused_with_a_sentence(wrong):
    with pytest.raises(PlanError, match=r"\.$"):
        wrong()


def test_a_step_set_otherwise_twice_has_one_change_and_an_empty_one_takes_it_back(plan):
    plan = change_step(StepChange("mask", 5.0)).apply(plan, NOON)
    plan = change_step(StepChange("mask", 8.0)).apply(plan, NOON)
    assert plan.work.changes == (StepChange("mask", 8.0),)
    assert change_step(StepChange("mask")).apply(plan, NOON).work == WorkPlan()


def test_own_notes_are_changed_and_decisions_are_not(plan):
    plan = add_note("The tree is too dark.", "values", NOON).apply(plan, NOON)
    last = len(plan.log) - 1
    changed = change_note(last, " The tree is right. ").apply(plan, NOON)
    assert changed.log[last].text == "The tree is right."
    assert changed.log[last].time == plan.log[last].time
    decision = next(n for n, entry in enumerate(plan.log) if entry.kind == "decision")
    for edit, words in (
        (change_note(decision, "x"), "decision"),
        (change_note(last, "  "), "Delete"),
        (change_note(99, "x"), "not in the logbook"),
        (delete_line(99), "not in the logbook"),
    ):
        with pytest.raises(PlanError, match=words):
            edit.apply(plan, NOON)


def test_what_came_out_is_said_once_for_each_thing_and_told_in_the_log(plan):
    came = CameOut("study-1", "share dark", "darks", "the darks take 18 %", "they took 26 %", "changed", "more")
    plan = say_what_came(came).apply(plan, NOON)
    assert plan.log[-1].text == "Changed: the darks take 18 %. they took 26 %."
    plan = say_what_came(replace(came, learned="Leave them thinner")).apply(plan, NOON)
    assert len(plan.came_out) == 1
    assert plan.log[-1].text.endswith("Learned: Leave them thinner.")


def test_a_question_is_answered_in_the_log_or_put_aside_quietly(plan):
    asked = answer("What is it about?", "before", "The light on the wall.", NOON).apply(plan, NOON)
    assert asked.log[-1].text == "What is it about? The light on the wall."
    aside = answer("What is it about?", "before", "  ", NOON).apply(plan, NOON)
    assert aside.log == plan.log
    assert aside.answers[0].text == ""


def test_a_remedy_taken_is_one_step_and_remembers_what_the_reading_said(plan):
    history = History(plan)
    remedy = acted_on(rename_study("C"), "viewfinder", "lead room", "Little room ahead.", NOON)
    assert history.apply(remedy, NOON)
    assert [each.text for each in history.plan.acted] == ["Little room ahead."]
    history.undo()
    assert history.plan == plan
    assert not history.apply(acted_on(rename_study("A"), "viewfinder", "x", "y", NOON), NOON)
