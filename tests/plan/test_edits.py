"""Edits are pure, named, and refuse what makes no sense with a sentence."""

from __future__ import annotations

import builtins
from dataclasses import FrozenInstanceError

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.plan import coding
from mild_compass.plan.edits import perspective, references, sheet, studies, values, viewfinder
from mild_compass.plan.edits.armature import choose_armature
from mild_compass.plan.edits.base import Edit
from mild_compass.plan.edits.logbook import add_note, delete_line
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import fitted, on_photo
from mild_compass.plan.history import History
from mild_compass.plan.model import Plan
from mild_compass.plan.paper import Paper
from mild_compass.plan.perspective import Horizon, TracedEdge
from mild_compass.plan.pictures import Reference
from mild_compass.plan.sheet import SheetPlan
from mild_compass.plan.study import Frame, Ring
from mild_compass.plan.tones import ValuePlan

NOON = "2026-05-01T12:00:00+02:00"
LATER = "2026-05-01T12:05:00+02:00"
SHA = "ab" * 32


def with_photo(width: int = 600, height: int = 400) -> Plan:
    return references.add_reference(Reference("p", "quay.jpg", SHA, width, height)).apply(Plan(), NOON)


def test_the_first_photo_opens_study_a_with_the_largest_frame_of_the_papers_ratio():
    plan = with_photo()
    assert plan.study is not None
    assert plan.study.name == "A"
    frame = plan.study.frame
    assert frame.height_px == pytest.approx(400)
    assert frame.width_px / frame.height_px == pytest.approx(plan.paper.ratio)


def test_a_plan_cannot_be_changed_in_place():
    with pytest.raises(FrozenInstanceError):
        with_photo().name = "other"  # type: ignore[misc]


def test_an_edit_leaves_the_plan_it_was_given_as_it_was():
    plan = with_photo()
    before = repr(plan)
    viewfinder.choose_paper(paper("A5")).apply(plan, NOON)
    assert repr(plan) == before


def test_changing_the_paper_keeps_every_frame_in_the_new_proportion_and_on_the_photo():
    plan = studies.keep_study().apply(with_photo(), NOON)
    plan = viewfinder.choose_paper(paper("Half imperial", across=True)).apply(plan, NOON)
    for study in plan.studies:
        frame = study.frame
        assert frame.width_px / frame.height_px == pytest.approx(plan.paper.ratio)
        assert frame.x_px >= 0
        assert frame.x_px + frame.width_px <= 600 + 1e-6


def test_the_same_photo_is_not_added_twice():
    with pytest.raises(PlanError, match="already in the plan"):
        references.add_reference(Reference("q", "copy.jpg", SHA, 600, 400)).apply(with_photo(), NOON)


def test_a_photo_in_use_cannot_be_removed():
    with pytest.raises(PlanError, match="used by study A"):
        references.remove_reference("p").apply(with_photo(), NOON)


def test_working_from_another_photo_takes_off_marks_that_lie_on_the_old_one():
    plan = references.add_reference(Reference("q", "yard.jpg", "cd" * 32, 300, 300)).apply(with_photo(), NOON)
    plan = perspective.trace_edge("A", TracedEdge(0, 0, 10, 10)).apply(plan, NOON)
    plan = references.use_reference("q").apply(plan, NOON)
    assert plan.study is not None
    assert plan.study.perspective.sets == ()
    assert plan.study.frame.width_px <= 300


@pytest.mark.parametrize(
    ("edit", "sentence"),
    [
        (viewfinder.move_frame(Frame(0, 0, 100, 100)), "proportion"),
        (viewfinder.ring_subject(Ring(-50, 10, 5, 5)), "off the photo"),
        (perspective.set_kind("Z", "upright"), "no set Z"),
        (studies.delete_study(), "only study"),
        (studies.rename_study("  "), "needs a name"),
        (add_note("   ", "values", NOON), "empty"),
    ],
)
def test_what_makes_no_sense_is_refused_with_a_sentence(edit: Edit, sentence: str):
    with pytest.raises(PlanError, match=sentence):
        edit.apply(with_photo(), NOON)


@pytest.mark.parametrize(
    "make",
    [
        lambda: Paper("x", 0, 100),
        lambda: Paper("x", float("nan"), 100),
        lambda: Paper("x", 100, 100, 60),
        lambda: Paper("x", 100, 100, -1),
        lambda: Frame(0, 0, 0, 10),
        lambda: Ring(0, 0, 0, 1),
        lambda: TracedEdge(1, 1, 1, 1),
        lambda: Horizon(float("inf")),
        lambda: ValuePlan(count=8),
        lambda: ValuePlan(count=3, method="by hand", thresholds=(60, 40)),
        lambda: ValuePlan(count=3, method="by hand", thresholds=(60,)),
        lambda: SheetPlan(grid_mm=0),
        lambda: Reference("r", "r", "short", 1, 1),
    ],
)
def test_wrong_values_cannot_be_made(make):
    with pytest.raises(PlanError):
        make()


def test_without_a_photo_an_edit_of_the_study_says_what_to_do_first():
    with pytest.raises(PlanError, match="Add a photo, or begin with a blank sheet"):
        choose_armature(("thirds",)).apply(Plan(), NOON)


def test_a_decision_is_written_into_the_logbook_with_station_study_and_time():
    plan = values.change_values(ValuePlan(count=3)).apply(with_photo(), LATER)
    entry = plan.log[-1]
    assert (entry.station, entry.study, entry.time, entry.kind) == ("values", "A", LATER, "decision")
    assert "3 values" in entry.text


def test_the_same_decision_taken_again_at_once_replaces_its_line_but_photos_do_not():
    plan = with_photo()
    for count in (3, 4, 5):
        plan = values.change_values(ValuePlan(count=count, method="even")).apply(plan, NOON)
    assert [entry.text.split(",")[0] for entry in plan.log if entry.station == "values"] == ["5 values"]
    plan = references.add_reference(Reference("q", "yard.jpg", "cd" * 32, 300, 300)).apply(with_photo(), NOON)
    assert len(plan.log) == 2


def test_setting_a_photo_aside_keeps_the_reason():
    plan = references.judge_reference("p", "set aside", "bright patch").apply(with_photo(), NOON)
    assert plan.references[0].standing == "set aside"
    assert plan.log[-1].text == "Set aside quay.jpg: bright patch."


def test_a_note_can_be_written_and_its_line_deleted():
    plan = add_note("Keep the lamp.", "viewfinder", NOON).apply(with_photo(), NOON)
    assert plan.log[-1].kind == "note"
    assert delete_line(len(plan.log) - 1).apply(plan, NOON).log == plan.log[:-1]


def test_edges_are_traced_moved_and_removed_by_set_and_an_empty_set_goes():
    plan = perspective.trace_edge("A", TracedEdge(0, 0, 10, 10)).apply(with_photo(), NOON)
    plan = perspective.move_edge("A", 0, TracedEdge(0, 0, 20, 10)).apply(plan, NOON)
    assert plan.study is not None
    assert plan.study.perspective.sets[0].edges[0].x1_px == 20
    assert perspective.next_letter(plan.study.perspective) == "B"
    plan = perspective.remove_edge("A", 0).apply(plan, NOON)
    assert plan.study is not None
    assert plan.study.perspective.sets == ()


def test_studies_are_kept_chosen_and_deleted():
    plan = studies.keep_study().apply(with_photo(), NOON)
    assert [study.name for study in plan.studies] == ["A", "B"]
    assert plan.study is not None
    assert plan.study.name == "B"
    assert studies.neighbour(plan, 1) == "study-1"
    plan = studies.delete_study().apply(plan, NOON)
    assert [study.name for study in plan.studies] == ["A"]


EDITS = st.sampled_from(
    [
        viewfinder.choose_paper(paper("A4")),
        viewfinder.choose_paper(paper("A3", across=True)),
        viewfinder.choose_threads(("halves",)),
        viewfinder.ring_subject(Ring(200, 200, 20, 30)),
        viewfinder.remove_ring(),
        choose_armature(("thirds", "quarters")),
        perspective.trace_edge("A", TracedEdge(0, 0, 10, 10)),
        perspective.set_horizon(Horizon(150)),
        values.change_values(ValuePlan(count=3)),
        sheet.change_sheet(SheetPlan(grid_mm=20)),
        studies.keep_study(),
        studies.rename_plan("Quay"),
    ]
)


@given(st.lists(EDITS, max_size=12))
def test_undo_goes_all_the_way_back_and_redo_all_the_way_forward(edits: list[Edit]):
    history = History(with_photo())
    states = [history.plan]
    states += [history.plan for edit in edits if history.apply(edit, NOON)]
    for state in reversed(states):
        assert history.plan == state
        history.undo()
    assert history.undo_label is None
    for state in states:
        assert history.plan == state
        history.redo()
    assert history.redo_label is None


def test_an_edit_that_raises_leaves_plan_and_history_as_they_were():
    history = History(with_photo())
    history.apply(studies.rename_plan("Quay"), NOON)
    before = (history.plan, history.undo_label, history.redo_label)
    with pytest.raises(PlanError):
        history.apply(studies.rename_study(" "), NOON)
    assert (history.plan, history.undo_label, history.redo_label) == before


def test_an_edit_that_changes_nothing_is_no_step():
    history = History(with_photo())
    assert history.apply(studies.rename_plan(history.plan.name), NOON) is False
    assert history.undo_label is None


@given(
    st.floats(-500, 1500), st.floats(-500, 1500), st.floats(1, 3000), st.floats(1, 3000), st.sampled_from([0.4, 1, 2.5])
)
def test_a_fitted_frame_has_the_ratio_and_lies_on_the_photo(x, y, width, height, ratio):
    photo, sheet_paper = Reference("p", "p", SHA, 640, 427), Paper("x", 200 * ratio + 30, 230)
    frame = fitted(on_photo(Frame(x, y, width, height), photo), photo, sheet_paper)
    assert frame.width_px / frame.height_px == pytest.approx(sheet_paper.ratio)
    assert frame.x_px >= 0
    assert frame.y_px >= 0
    assert frame.x_px + frame.width_px <= 640 + 1e-6
    assert frame.y_px + frame.height_px <= 427 + 1e-6


def test_a_checker_that_could_only_half_be_loaded_is_loaded_again(monkeypatch):
    """As when another library looks into its modules while they load."""
    tried: list[str] = []
    usual = builtins.__import__

    def once_lame(name: str, *more: object, **others: object) -> object:
        if name == "pydantic":
            tried.append(name)
            if len(tried) == 1:
                raise ImportError("cannot import name from partially initialized module")
        return usual(name, *more, **others)

    monkeypatch.setattr(builtins, "__import__", once_lame)
    coding._made.cache_clear()
    assert coding.decode(coding.encode(Plan(name="quay"))).name == "quay"
    assert len(tried) >= 2


@pytest.mark.parametrize("loaded", [True, False])
def test_what_the_journal_writes_is_the_plan_whatever_has_come_to_the_log_and_gone(loaded):
    coding._made.cache_clear()
    if loaded:
        coding.warm()
    texts = ['"log":[]', "“quoted”", "é\\u0000\n", "plain"]
    plan = Plan(name='a "log":[] b')
    for count in (0, 3, 4, 2, 4, 1):
        for k in range(count):
            plan = add_note(f"{texts[k]} {k}", "viewfinder", "2026-05-01T12:00:00+02:00").change(plan)
        if count == 2:
            plan = delete_line(1).change(plan)
        written = coding.encode_quickly(plan)
        assert coding.decode(written) == plan
        if not loaded:
            coding._made.cache_clear()
