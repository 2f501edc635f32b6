"""Practice: questions with known truth, simulated artists, the staircase, trends, what comes next."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from math import atan2, degrees, erf, hypot, radians, sin, sqrt
from random import Random
from statistics import mean

import numpy as np
import pytest
from scipy.stats import norm

from mild_compass.craft.practice.card import Area, Line, PhotoCard, Question, off, onto
from mild_compass.craft.practice.drills import DRILLS, drill, names
from mild_compass.craft.practice.estimate import eye_of
from mild_compass.craft.practice.history import Answered, History, said
from mild_compass.craft.practice.own import own_card
from mild_compass.craft.practice.staircase import FACTOR, allowed_at, levels, threshold
from mild_compass.craft.practice.tones import lightness_of, step_of
from mild_compass.craft.practice.trend import CHANCE, LOOKS, together, trend_of
from mild_compass.craft.worked import worked_study
from mild_compass.demo import plan_of
from mild_compass.plan.photos import PhotoFolder

SEEDS = range(60)


def asked(name: str, seed: int, level: int = 0) -> Question:
    return drill(name).question(Random(seed), level)


def lines(question: Question) -> list[Line]:
    return [mark for mark in question.marks if isinstance(mark, Line)]


# -- every question has a truth, and says how an answer is off --------------------------------------------------


@pytest.mark.parametrize("name", names())
@pytest.mark.parametrize("seed", range(4))
def test_the_same_seed_asks_the_same_and_everything_lies_on_the_card(name, seed):
    first, again = asked(name, seed), asked(name, seed)
    assert (first.prompt, first.kind, first.choices) == (again.prompt, again.kind, again.choices)
    for mark in first.marks:
        for x, y in getattr(mark, "points", ()):
            assert -1 <= x <= first.size_mm[0] + 1
            assert -45 <= y <= first.size_mm[1] + 45  # the fronts of a street may run out of the picture
    assert first.prompt.endswith((".", "?"))


@pytest.mark.parametrize(("name", "share"), [("halve", 1 / 2), ("third", 1 / 3)])
@pytest.mark.parametrize("seed", range(8))
def test_a_line_is_divided_at_its_share_and_the_error_has_a_direction(name, share, seed):
    question = asked(name, seed)
    (x0, y0), (x1, y1) = lines(question)[0].points
    truth = (x0 + share * (x1 - x0), y0 + share * (y1 - y0))
    assert question.judge(truth).error == pytest.approx(0, abs=1e-9)
    assert question.judge(truth).words == "Exactly."
    length = hypot(x1 - x0, y1 - y0)
    beyond = (truth[0] + 5 * (x1 - x0) / length, truth[1] + 5 * (y1 - y0) / length)
    judged = question.judge(beyond)
    assert judged.error == pytest.approx(5)
    assert judged.right
    assert "5.0 mm" in judged.words
    assert drill(name).more in judged.words


@pytest.mark.parametrize("seed", range(8))
def test_an_angle_is_told_against_the_upright(seed):
    question = asked("angle", seed)
    (x0, y0), (x1, y1) = lines(question)[0].points
    lean = degrees(atan2(abs(x1 - x0), abs(y1 - y0)))
    assert question.judge(lean).error == pytest.approx(0, abs=1e-6)
    assert "3.0° too steep" in question.judge(lean - 3).words
    assert "3.0° too flat" in question.judge(lean + 3).words


@pytest.mark.parametrize("seed", range(8))
def test_proportions_heads_and_units_are_those_of_what_is_drawn(seed):
    rectangle = next(mark for mark in asked("width to height", seed).marks if isinstance(mark, Area))
    xs, ys = zip(*rectangle.points, strict=True)
    ratio = (max(xs) - min(xs)) / (max(ys) - min(ys))
    assert asked("width to height", seed).judge(ratio).error == pytest.approx(0, abs=1e-6)
    assert asked("width to height", seed).judge(1.1 * ratio).error == pytest.approx(10)
    figure = asked("heads", seed).marks
    head = [y for _, y in figure[0].points]
    body = [y for mark in figure for _, y in mark.points]
    heads = (max(body) - min(body)) / (max(head) - min(head))
    assert asked("heads", seed).judge(heads).error == pytest.approx(0, abs=0.01)
    unit, length, *_ = lines(asked("units", seed))
    count = (length.points[1][1] - length.points[0][1]) / (unit.points[1][0] - unit.points[0][0])
    assert asked("units", seed).judge(count).error == pytest.approx(0, abs=1e-9)


@pytest.mark.parametrize("seed", range(8))
def test_the_bar_balances_where_the_moments_are_equal(seed):
    """Poore's steelyard: weight times arm is equal on both sides."""
    question = asked("balance", seed)
    areas = [mark.points for mark in question.marks if isinstance(mark, Area)]
    boxes = [(points[0][0], points[1][0], points[2][1] - points[0][1]) for points in areas]

    def moment(x: float) -> float:
        return sum((b - a) * h * ((a + b) / 2 - x) for a, b, h in boxes)

    fulcrum = next(x for x in np.linspace(0, 240, 24001) if moment(x) <= 0)
    assert question.judge((float(fulcrum), 100.0)).error == pytest.approx(0, abs=0.02)


@pytest.mark.parametrize("seed", range(8))
def test_the_turned_circle_is_as_high_as_the_sine_of_the_view(seed):
    question = asked("ellipse", seed)
    tilt = float(question.prompt.split("°")[0].split()[-1])
    (x0, y), (x1, _) = lines(question)[0].points
    top = ((x0 + x1) / 2, y - (x1 - x0) / 2 * sin(radians(tilt)))
    assert question.judge(top).error == pytest.approx(0, abs=0.6)  # the prompt tells whole degrees


@pytest.mark.parametrize("seed", range(8))
def test_edges_of_a_street_and_a_wall_meet_where_the_answer_says(seed):
    street = asked("eye level", seed)
    (a, b), (c, d) = (lines(street)[0].points, lines(street)[2].points)
    meeting = np.cross(np.cross([*a, 1], [*b, 1]), np.cross([*c, 1], [*d, 1]))
    assert street.judge((10.0, float(meeting[1] / meeting[2]))).error == pytest.approx(0, abs=1e-6)
    assert street.judge((10.0, float(meeting[1] / meeting[2]) - 4)).words.endswith("too high.")
    wall = asked("runs to", seed)
    (a, b), (c, d) = (lines(wall)[0].points, lines(wall)[1].points)
    meeting = np.cross(np.cross([*a, 1], [*b, 1]), np.cross([*c, 1], [*d, 1]))
    at = (float(meeting[0] / meeting[2]), float(meeting[1] / meeting[2]))
    assert wall.judge(at).error == pytest.approx(0, abs=1e-6)


@pytest.mark.parametrize("seed", range(8))
def test_the_next_post_keeps_the_cross_ratio_of_equal_steps(seed):
    """Equal steps in depth are equal steps in one over what is left to the vanishing point (the cross-ratio)."""
    question = asked("next post", seed)
    (x0, y0), (x1, y1) = question.line
    length = hypot(x1 - x0, y1 - y0)
    first = onto(question.line, lines(question)[3].points[0])
    third = length - 1 / (2 / (length - first) - 1 / length)
    answer = (x0 + (x1 - x0) * third / length, y0 + (y1 - y0) * third / length)
    assert question.judge(answer).error == pytest.approx(0, abs=1e-6)


def test_the_nine_steps_are_those_of_the_printed_scale_and_the_patch_is_where_its_lightness_is():
    assert step_of(10.0) == pytest.approx(1)
    assert step_of(96.0) == pytest.approx(9)
    assert lightness_of((214, 172, 40)) == pytest.approx(72.2, abs=0.1)  # methods: L* by ISO/CIE 11664-4
    for seed in range(8):
        question = asked("value", seed)
        patch = question.marks[1].rgb
        assert question.judge(step_of(lightness_of(patch))).error == pytest.approx(0, abs=1e-6)
        assert "too light" in question.judge(step_of(lightness_of(patch)) + 1).words


@pytest.mark.parametrize("seed", range(12))
def test_the_lighter_one_is_lighter_by_what_is_allowed_and_the_three_are_in_order(seed):
    question = asked("lighter", seed, level=6)
    one, other = (lightness_of(mark.rgb) for mark in question.marks[1:])
    assert question.judge(int(other > one)).right
    assert not question.judge(int(one > other)).right
    assert abs(one - other) == pytest.approx(question.allowed, abs=0.6)
    question = asked("lightest three", seed)
    shades = [lightness_of(mark.rgb) for mark in question.marks[1:]]
    order = tuple(sorted(range(6), key=lambda place: -shades[place])[:3])
    assert question.judge(order).right
    assert not question.judge(order[::-1]).right


@pytest.mark.parametrize("seed", range(12))
def test_one_frame_has_the_proportion_and_the_others_are_off_by_what_is_allowed(seed):
    question = asked("crop", seed)
    ratios = [(frame[1][0] - frame[0][0]) / (frame[2][1] - frame[1][1]) for frame in question.choices]
    right = [place for place in range(3) if question.judge(place).right]
    assert len(right) == 1
    middle = sorted(ratios)[1]
    assert ratios[right[0]] == pytest.approx(middle)
    assert max(ratios) / middle == pytest.approx(1 + question.allowed / 100)


def test_points_from_memory_may_come_in_any_order():
    question = asked("memory", 3)
    points = [tuple(np.mean(mark.points, 0)) for mark in question.marks]
    assert question.seen_s == 10
    judged = question.judge(tuple(points[::-1]))
    assert (judged.error, judged.right) == (pytest.approx(0, abs=1e-9), True)
    middle = np.mean(points, 0)
    out = tuple(tuple(middle + 1.2 * (np.array(point) - middle)) for point in points)
    assert "too far out" in question.judge(out).words


def test_words_of_an_error():
    assert off(2.04, "mm", "too long", "too short") == "2.0 mm too long."
    assert off(-3, "°", "too flat", "too steep") == "3.0° too steep."
    assert off(0.04, "mm", "too long", "too short") == "Exactly."


# -- simulated artists ----------------------------------------------------------------------------------------


@pytest.mark.parametrize(("bias", "noise", "answers"), [(0.0, 1.0, 12), (2.5, 3.0, 30), (-1.0, 0.4, 8)])
def test_artists_of_known_bias_and_noise_are_within_the_stated_interval_in_93_to_97_of_100(bias, noise, answers):
    chance = np.random.default_rng(11)
    held_bias = held_noise = 0
    for _ in range(1000):
        eye = eye_of(chance.normal(bias, noise, answers).tolist())
        held_bias += eye.bias_low <= bias <= eye.bias_high
        held_noise += eye.spread_low <= noise <= eye.spread_high
    assert 930 <= held_bias <= 970
    assert 930 <= held_noise <= 970


def test_an_artist_answering_real_questions_is_estimated(tmp_path):
    """The whole way: pointing at halves with a bias of 2 mm and a scatter of 1.5 mm."""
    chance, held = Random(4), 0
    for run in range(60):
        errors = []
        for n in range(20):
            question = asked("halve", 1000 * run + n)
            (x0, y0), (x1, y1) = question.line
            length = hypot(x1 - x0, y1 - y0)
            at = length / 2 + chance.gauss(2.0, 1.5)
            errors.append(question.judge((x0 + (x1 - x0) * at / length, y0 + (y1 - y0) * at / length)).error)
        eye = eye_of(errors)
        held += eye.bias_low <= 2.0 <= eye.bias_high
    assert held >= 51  # 95 % of 60 is 57; fewer than 51 has a chance below 1 in 1000


def test_too_few_or_equal_answers_tell_nothing():
    assert eye_of([1.0] * 4) is None
    assert eye_of([1.0] * 12) is None


# -- the staircase --------------------------------------------------------------------------------------------


SETTLES_AT = 0.5**0.5  # of the answers are right where it settles: p² = 1/2


def test_two_right_make_it_harder_and_one_wrong_easier():
    assert levels([]) == [0]
    assert levels([True, True, True, False, True, True, False]) == [0, 1, 2, 3, 2, 2, 3, 2]
    assert levels([False, False]) == [0, 0, 0]
    assert allowed_at(2, 8.0) == pytest.approx(8 * FACTOR**2)


def test_the_staircase_settles_where_707_of_1000_are_right():
    """An eye with normal noise of 2 mm: P(|error| <= a) = erf(a / (2 sqrt 2)), which is 0.7071 at a = 2.103."""
    noise = 2.0
    truth = noise * float(norm.ppf((1 + SETTLES_AT) / 2))
    assert erf(truth / noise / sqrt(2)) == pytest.approx(SETTLES_AT, abs=1e-9)
    found = []
    for seed in range(200):
        chance, right = Random(seed), []
        for _ in range(120):
            right.append(abs(chance.gauss(0, noise)) <= allowed_at(levels(right)[-1], 8.0))
        found.append(threshold(right, 8.0))
    assert mean(found) == pytest.approx(truth, rel=0.06)
    assert float(np.std(found)) / truth < 0.2


def test_a_threshold_is_not_told_before_there_are_enough_turns():
    assert threshold([True] * 10, 8.0) is None
    assert threshold([True, False] * 2, 8.0) is None


# -- the trend ------------------------------------------------------------------------------------------------


def sessions(chance: np.random.Generator, count: int, noises: list[float]) -> list[list[float]]:
    return [chance.normal(0.5, noises[n], 6).tolist() for n in range(count)]


def test_an_artist_who_does_not_improve_is_told_so_in_at_least_95_of_100():
    chance = np.random.default_rng(8)
    claims = sum(trend_of(sessions(chance, 18, [2.0] * 18)).verdict == "better" for _ in range(400))
    assert claims <= 400 * (CHANCE + 2.6 * sqrt(CHANCE * 0.95 / 400))


def test_who_looks_after_every_session_is_still_not_told_of_luck():
    chance, told = np.random.default_rng(12), 0
    for _ in range(150):
        came = sessions(chance, 36, [2.0] * 36)
        told += any(trend_of(came[:count]).verdict == "better" for count in range(6, 36))
    assert told <= 150 * 0.05 + 2.6 * sqrt(150 * 0.05 * 0.95)


def test_an_artist_who_halves_the_scatter_in_six_weeks_is_told_so():
    chance = np.random.default_rng(9)
    falling = np.linspace(3.0, 1.5, 30).tolist()
    told = sum(trend_of(sessions(chance, 30, falling)).verdict == "better" for _ in range(40))
    assert told >= 30
    rising = [trend_of(sessions(chance, 30, falling[::-1])).verdict for _ in range(40)]
    assert rising.count("worse") >= 30


def test_many_drills_looked_at_together_do_not_make_luck_a_claim():
    chance, claims = np.random.default_rng(10), 0
    for _ in range(120):
        trends = {str(n): trend_of(sessions(chance, 12, [2.0] * 12)) for n in range(12)}
        claims += any(each.verdict == "better" for each in together(trends).values())
    assert claims <= 120 * 0.05 + 2.6 * sqrt(120 * 0.05 * 0.95)


def test_fewer_than_eight_sessions_make_no_claim():
    few = trend_of([[9.0], [5.0], [2.0], [1.0], [0.1]])
    assert sum(LOOKS.values()) == pytest.approx(CHANCE)
    assert few.verdict == "too few"
    assert together({"halve": few})["halve"].verdict == "too few"


# -- what comes next ------------------------------------------------------------------------------------------


def answered(name: str, day: int, error: float | None, right: bool = True, n: int = 0) -> Answered:
    return Answered(f"{name}-{day}-{n}", f"2026-05-{day:02d}T09:{n:02d}:00+02:00", name, error, right, 5.0, 4.0)


def test_what_is_weak_and_long_ago_comes_first_and_nothing_comes_twice_a_day():
    today = date(2026, 5, 20)
    done = [answered(row.name, 19, 0.5 * row.usual if row.signed else None, n=n) for row in DRILLS for n in range(3)]
    weak = [answered("third", 19, 4 * drill("third").usual, n=10 + n) for n in range(3)]
    history = History([*done, *weak])
    assert history.in_need(today)[0].name == "third"
    assert History(each for each in done if each.drill != "angle").in_need(today)[0].name == "angle"
    week = history.week(today)
    assert [day.day for day, _ in week] == list(range(20, 27))
    for _, drills in week:
        assert sum(each.minutes for each in drills) == 5
        assert len(set(drills)) == len(drills)
    assert len({each.name for _, drills in week for each in drills}) >= 12, "the whole hand is trained within a week"


def test_a_history_knows_level_eye_and_sessions_by_day():
    history = History([answered("halve", day, 2.0 + 0.1 * n, n=n) for day in (3, 1, 2) for n in range(4)])
    assert history.days("halve") == ["2026-05-01", "2026-05-02", "2026-05-03"]
    assert [len(each) for each in history.sessions("halve")] == [4, 4, 4]
    assert history.level("halve") == 12
    eye = history.eye("halve")
    assert eye.leans
    assert "2.1 mm too far right on the whole" in said("halve", eye)
    even = replace(eye, bias=0.1, bias_low=-0.2, bias_high=0.4)
    assert "no lean" in said("halve", even)
    assert history.trends()["third"].verdict == "too few"


# -- on the artist's own reference ----------------------------------------------------------------------------


@pytest.fixture(scope="module")
def card(tmp_path_factory):
    from mild_compass.craft.picture.study_picture import study_picture

    photos = PhotoFolder(tmp_path_factory.mktemp("photos"))
    plan = plan_of("pumping-station", photos)
    worked = worked_study(plan, picture=study_picture(plan, plan.study, photos))
    return own_card(worked), worked


def test_the_plan_knows_eye_level_edges_points_measures_and_values_of_its_photo(card):
    own, worked = card
    assert set(own.can()) >= {"eye level", "angle", "units", "value"}
    assert own.size_mm == (worked.frame_map.box.width, worked.frame_map.box.height)
    question = own.question("eye level", Random(1), 0)
    assert isinstance(question.marks[0], PhotoCard)
    assert question.own
    x, y = worked.perspective.horizon.through(worked.frame_map)[0]
    assert question.judge((x - worked.frame_map.box.left, y - worked.frame_map.box.top)).error == pytest.approx(
        0, abs=1e-6
    )


def test_own_questions_have_the_plans_own_answers(card):
    own, worked = card
    measures = {each.name: each for each in worked.study.measures.lengths}
    question = own.question("units", Random(2), 0)
    names = [name for name in measures if f"“{name}”" in question.prompt]
    long, short = sorted(
        (hypot(each.x1_px - each.x0_px, each.y1_px - each.y0_px) for each in (measures[name] for name in names)),
        reverse=True,
    )
    assert question.judge(long / short).error == pytest.approx(0, abs=1e-6)
    angle = own.question("angle", Random(2), 0)
    assert angle.judge(45.0).error is not None
    value = own.question("value", Random(2), 0)
    assert abs(value.judge(5.0).error) < 8
    for seed in range(5):
        if "runs to" in own.can():
            assert own.question("runs to", Random(seed), 0).judge((0.0, 0.0)).error is not None
