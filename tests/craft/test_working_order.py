"""The working order: what waits for what, the shortest order, sittings, own times."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise, permutations
from random import Random

import networkx as nx
import pytest
from tests.conftest import NOON

from mild_compass.craft.cautions import LABEL, MASKING, OUTDOORS, PIGMENTS, SUN
from mild_compass.craft.picture.study_picture import study_picture
from mild_compass.craft.values.masses import study_masses
from mild_compass.craft.work.order import Need, Task, in_order, timed
from mild_compass.craft.work.own_times import OwnTimes, TimedStep, pace_of
from mild_compass.craft.work.planned import WorkingOrder, hours
from mild_compass.craft.work.rates import drying_min
from mild_compass.craft.work.sittings import clock
from mild_compass.craft.work.working_order import way_of_working, working_order
from mild_compass.craft.worked import Worked, worked_study
from mild_compass.demo import plan_of
from mild_compass.plan.edits.references import begin_blank
from mild_compass.plan.edits.work import change_step, change_work
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Plan
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.tones import MEDIA
from mild_compass.plan.work import StepChange, WorkPlan, clock_minutes


def made_tasks(seed: int) -> list[Task]:
    """Up to seven steps with needs and drying, in no particular order."""
    chance = Random(seed)
    tasks = []
    for n in range(chance.randint(1, 7)):
        needs = tuple(Need(f"t{m}", chance.random() < 0.7) for m in range(n) if chance.random() < 0.35)
        tasks.append(Task(f"t{n}", chance.choice([1, 2, 5, 10, 20]), chance.choice([0, 0, 5, 20, 60]), needs))
    chance.shuffle(tasks)
    return tasks


def shortest(tasks: list[Task]) -> float:
    """By trying every order there is."""
    lengths = []
    for order in permutations(tasks):
        at = {task.key: place for place, task in enumerate(order)}
        if all(at[need.step] < at[task.key] for task in tasks for need in task.needs):
            lengths.append(timed([task.key for task in order], tasks)[-1].end)
    return min(lengths)


@pytest.mark.parametrize("seed", range(40))
def test_the_order_is_as_short_as_the_shortest_of_all_orders(seed):
    tasks = made_tasks(seed)
    assert in_order(tasks)[-1].end == pytest.approx(shortest(tasks))


@pytest.mark.parametrize("seed", range(40, 80))
def test_no_step_before_what_it_needs_and_one_pair_of_hands(seed):
    """Order against networkx: the steps as placed are one of the graph's topological orders."""
    tasks = {task.key: task for task in made_tasks(seed)}
    placed = in_order(list(tasks.values()))
    graph = nx.DiGraph([(need.step, task.key) for task in tasks.values() for need in task.needs])
    graph.add_nodes_from(tasks)
    at = {each.key: each for each in placed}
    assert set(at) == set(tasks)
    for before, after in graph.edges:
        need = next(need for need in tasks[after].needs if need.step == before)
        wait = tasks[before].drying if need.dry else 0
        assert at[after].start >= at[before].end + wait - 1e-9
    for earlier, later in pairwise(placed):
        assert later.start >= earlier.end - 1e-9
    longest = nx.dag_longest_path_length(
        nx.DiGraph(
            [
                (need.step, task.key, {"weight": tasks[need.step].minutes + need.dry * tasks[need.step].drying})
                for task in tasks.values()
                for need in task.needs
            ]
        )
    )
    assert placed[-1].end >= longest


def test_the_same_steps_give_the_same_order_and_equal_ones_stay_as_they_are_thought_of():
    tasks = [Task(name, 5) for name in "abcde"]
    assert [each.key for each in in_order(tasks)] == list("abcde")
    again = made_tasks(7)
    assert in_order(again) == in_order(list(again))


def test_steps_that_wait_for_one_another_are_refused():
    with pytest.raises(PlanError, match="wait for one another"):
        in_order([Task("a", 1, 0, (Need("b"),)), Task("b", 1, 0, (Need("a"),))])
    with pytest.raises(PlanError, match="not in it"):
        in_order([Task("a", 1, 0, (Need("z"),))])


def test_waiting_is_filled_with_what_need_not_wait():
    """Worked by hand: the print is made while the stretched paper dries."""
    tasks = [
        Task("stretch", 20, 240),
        Task("print", 15),
        Task("transfer", 60, 0, (Need("stretch"), Need("print"))),
    ]
    assert [(each.key, each.start) for each in in_order(tasks)] == [("stretch", 0), ("print", 20), ("transfer", 260)]


# -- steps of a sheet -----------------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def glasshouse(tmp_path_factory) -> Worked:
    photos = PhotoFolder(tmp_path_factory.mktemp("photos"))
    plan = plan_of("glasshouse", photos)
    plan = replace(plan, work=WorkPlan())
    picture = study_picture(plan, plan.study, photos)
    worked = worked_study(plan, masses=study_masses(picture, plan.study, plan.paper), picture=picture)
    assert worked is not None
    return worked


def with_work(worked: Worked, **values: object) -> Worked:
    plan = change_work(replace(worked.plan.work, **values)).apply(worked.plan, NOON)
    return replace(worked, plan=plan)


def with_medium(worked: Worked, medium: str) -> Worked:
    study = replace(worked.study, medium=replace(worked.study.medium, medium=medium))
    return replace(worked, study=study)


def at(order: WorkingOrder) -> dict[str, float]:
    return {each.key: each.start for each in order.placed}


def test_washes_wait_for_one_another_masking_comes_off_last_and_the_tape_at_the_very_end(glasshouse):
    order = working_order(glasshouse)
    start = at(order)
    washes = [step for step in order.in_order if step.kind == "wash"]
    assert len(washes) == glasshouse.study.values.count - 1
    for earlier, later in pairwise(washes):
        assert start[later.key] >= start[earlier.key] + earlier.minutes + earlier.drying_min
    assert start["mask"] < start[washes[0].key]
    assert start["unmask"] >= start[washes[-1].key] + washes[-1].minutes + washes[-1].drying_min
    assert order.in_order[-1].key == "untape"
    assert start["transfer"] < start["check"] < start["mask"]
    assert MASKING in order.step("mask").cautions
    assert PIGMENTS in washes[0].cautions
    assert PIGMENTS not in washes[1].cautions, "told once, at the first colour"
    assert order.cautions[-1] == LABEL


@pytest.mark.parametrize("medium", MEDIA)
def test_every_way_of_working_has_an_order_that_begins_with_the_sheet_and_ends_with_the_tape(glasshouse, medium):
    order = working_order(with_medium(glasshouse, medium))
    keys = [step.key for step in order.in_order]
    assert keys[-1] == "untape"
    assert {"transfer", "check", "details"} <= set(keys)
    assert all(step.minutes > 0 and step.given_min > 0 and step.look_for for step in order.steps)
    assert ("tone" in keys) == (medium in ("charcoal", "opaque"))
    assert ("fix" in keys) == (medium in ("charcoal", "toned paper", "hatching"))


def test_light_paper_is_stretched_and_the_print_is_made_while_it_dries(glasshouse):
    order = working_order(with_work(glasshouse, support="light paper"))
    assert order.in_order[0].key == "stretch"
    assert order.meanwhile("stretch")
    assert at(order)["transfer"] >= order.step("stretch").minutes + order.step("stretch").drying_min


def test_time_follows_area_outline_and_shapes(glasshouse):
    steps = {step.key: step for step in working_order(glasshouse).steps}
    washes = [step for step in steps.values() if step.kind == "wash"]
    frame_cm2 = glasshouse.frame_map.box.width * glasshouse.frame_map.box.height / 100
    assert washes[0].area_cm2 == pytest.approx(frame_cm2 * way_of_working(glasshouse).steps[washes[0].place].share)
    assert washes[0].area_cm2 > washes[-1].area_cm2
    assert washes[0].minutes > washes[-1].minutes


def test_drying_follows_weather_wetness_and_paper():
    usual = drying_min("wash", "washes", "usual", "usual", "heavy paper")
    assert drying_min("wash", "washes", "cool and damp", "usual", "heavy paper") == 2 * usual
    assert drying_min("wash", "washes", "warm and dry", "usual", "heavy paper") < usual
    assert drying_min("wash", "washes", "usual", "flooded", "heavy paper") > usual
    assert drying_min("hatch", "hatching", "cool and damp", "flooded", "heavy paper") == 0


def test_own_minutes_and_drying_are_taken_and_a_step_left_out_is_passed_over(glasshouse):
    plan = change_step(StepChange("transfer", 7.0)).apply(glasshouse.plan, NOON)
    plan = change_step(StepChange("check", left_out=True)).apply(plan, NOON)
    plan = change_step(StepChange("mask", drying_min=99.0)).apply(plan, NOON)
    order = working_order(replace(glasshouse, plan=plan))
    assert order.step("transfer").minutes == 7
    assert order.step("mask").drying_min == 99
    assert "check" not in {step.key for step in order.steps}
    assert order.step("mask").needs == (Need("transfer"),)
    back = change_step(StepChange("check")).apply(plan, NOON)
    assert "check" not in {each.step for each in back.work.changes}


def test_without_masses_the_order_is_that_of_the_drawing():
    worked = worked_study(begin_blank().apply(Plan(), NOON))
    order = working_order(worked)
    assert {step.key for step in order.steps} == {"tape", "prepare", "transfer", "check", "lift lines", "untape"}
    assert order.in_order[-1].key == "untape"
    assert order.work is None


# -- sittings -------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("length", [20.0, 45.0, 60.0, 120.0, 600.0])
def test_sittings_hold_all_the_work_and_are_cut_only_where_it_may_be_left(glasshouse, length):
    order = working_order(with_work(glasshouse, sitting_min=length))
    worked = {}
    for sitting in order.sittings:
        for part in sitting.parts:
            worked[part.step.key] = worked.get(part.step.key, 0) + part.end - part.start
            assert part.last or part.step.divisible
            for need in part.step.needs:
                here = next((each for each in sitting.parts if each.step.key == need.step and each.last), None)
                assert here is None or part.start >= (here.dry_at if need.dry else here.end) - 1e-9
        long_step = max((part.step.minutes for part in sitting.parts if not part.step.divisible), default=0)
        assert sitting.end <= max(length, long_step) + 1e-9
        assert sitting.stop
    assert worked == pytest.approx({step.key: step.minutes for step in order.steps})
    assert order.sittings[-1].stop == "It is done."


def test_a_longer_sitting_makes_fewer_of_them(glasshouse):
    counts = [len(working_order(with_work(glasshouse, sitting_min=each)).sittings) for each in (30.0, 60.0, 240.0)]
    assert counts == sorted(counts, reverse=True)
    assert counts[0] > counts[-1]


def test_outdoors_nothing_that_needs_the_motif_goes_on_when_its_light_is_gone(glasshouse):
    order = working_order(with_work(glasshouse, light_until="10:30", sitting_min=240.0))
    for sitting in order.sittings:
        parts = [part for part in sitting.parts if part.step.from_motif]
        for part in parts:
            assert part.end <= 60 or part is sitting.parts[0]
    assert any(sitting.light for sitting in order.sittings)
    assert OUTDOORS in order.cautions
    assert SUN in order.cautions
    with pytest.raises(PlanError, match="light"):
        WorkPlan(start="11:00", light_until="10:00")


def test_times_of_day_are_read_and_written():
    assert clock_minutes("9:30") == clock_minutes(" 09.30") == 570
    for wrong in ("25:00", "9", "", "9:75"):
        with pytest.raises(PlanError, match="time of day"):
            clock_minutes(wrong)
    assert (clock(570), clock(1500)) == ("9:30", "1:00 (+1 d)")
    assert (hours(45), hours(125), hours(120)) == ("45 min", "2 h 05 min", "2 h")


# -- own times ------------------------------------------------------------------------------------------------


def test_own_times_take_the_place_of_given_ones_after_three_of_a_kind(glasshouse):
    given = working_order(glasshouse).step("transfer")
    few = OwnTimes([TimedStep("washes", "transfer", 90, 60)] * 2)
    assert working_order(glasshouse, few).step("transfer").minutes == given.minutes
    ratios = (1.0, 1.5, 2.0, 3.0, 1.5)
    own = OwnTimes([TimedStep("washes", "transfer", 60 * ratio, 60) for ratio in ratios])
    step = working_order(glasshouse, own).step("transfer")
    assert (step.minutes, step.low_min, step.high_min) == (
        round(1.5 * given.minutes),
        round(1.5 * given.minutes),
        round(2.0 * given.minutes),
    )
    assert step.own_count == 5
    other = working_order(with_medium(glasshouse, "hatching"), own).step("transfer")
    assert other.own_count == 0, "another way of working has its own times"


def test_only_the_last_nine_count_and_steps_clicked_away_do_not():
    assert pace_of([9.0] * 20 + [1.0] * 9).middle == 1.0
    own = OwnTimes([TimedStep("washes", "wash", 0.1, 30)] * 5)
    assert not own.pace("washes", "wash").own
