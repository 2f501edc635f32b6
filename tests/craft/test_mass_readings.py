"""Edges by known blur, lights in order, joins, subjects that melt, and the direction of strokes."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
from scipy.special import erf
from tests.craft.test_value_work import NOON, SHEET, grey, whole

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.perspective.worked import work_out
from mild_compass.craft.values.edges import HARD_MM, border_at, edges_of, kind_of, profile, shares
from mild_compass.craft.values.joins import joins_of
from mild_compass.craft.values.masses import find_masses
from mild_compass.craft.values.medium import medium_work
from mild_compass.craft.values.planes import APART_MM, area_of, direction_deg, hatching, outline_of_shape
from mild_compass.craft.values.readings import readings
from mild_compass.craft.values.shapes import shapes_of
from mild_compass.craft.worked import worked_study
from mild_compass.plan.edits.values import (
    change_edge,
    mark_detail,
    next_value_id,
    remove_detail,
    remove_edge_change,
    remove_plane,
    set_plane,
)
from mild_compass.plan.errors import PlanError
from mild_compass.plan.perspective import EdgeSet, PerspectivePlan, TracedEdge
from mild_compass.plan.study import Ring
from mild_compass.plan.tones import DetailArea, EdgeChange, MassChange, MediumPlan, Plane, ReadsPlan, ValuePlan

WIDTH_OF_SIGMA = 2.563  # from 10 to 90 % of a step blurred by a Gaussian, in its standard deviations: its own tables


# -- edges ----------------------------------------------------------------------------------------------------


def test_hard_and_soft_are_told_by_the_known_blur_of_made_steps():
    """95 in 100 right, of steps of any contrast, direction and blur, a little noisy; those on the limit left out."""
    mm_per_px, right, tried = 0.5, 0, 0
    for seed in range(240):
        hand = np.random.default_rng(seed)
        contrast, sigma = hand.uniform(8, 60), float(np.exp(hand.uniform(np.log(0.3), np.log(4))))
        angle = hand.uniform(0, np.pi)
        y, x = np.mgrid[:120, :120] + 0.5
        across = (x - 60) * np.cos(angle) + (y - 60) * np.sin(angle)
        values = 40 + contrast / 2 * (1 + erf(across / sigma / np.sqrt(2))) + hand.normal(0, 1.5, x.shape)
        along = np.linspace(-30, 30, 60)[:, None] * np.array([-np.sin(angle), np.cos(angle)])
        aside = np.tile([np.cos(angle), np.sin(angle)], (60, 1))
        step, width = profile(values.astype(np.float32), 60 + along, aside, 12.0)
        true = WIDTH_OF_SIGMA * sigma * mm_per_px
        if abs(np.log(true / HARD_MM)) < 0.15:
            continue
        tried += 1
        right += kind_of(float(np.median(step)), float(np.median(width)) * mm_per_px) == (
            "hard" if true <= HARD_MM else "soft"
        )
    assert tried > 150
    assert right / tried >= 0.95


@pytest.fixture(scope="module")
def lit():
    """A dark ground with a hard square on the left and a soft one, blurred by 8 px, on the right; 400 x 282 px."""
    values = np.full((282, 400), 20.0)
    values[80:200, 60:160] = 80.0
    x, y = np.meshgrid(np.arange(400) + 0.5, np.arange(282) + 0.5)
    soft = np.ones_like(values)
    for along, low, high in ((x, 240, 340), (y, 80, 200)):
        soft *= 0.5 * (erf((along - low) / 8 / np.sqrt(2)) - erf((along - high) / 8 / np.sqrt(2)))
    picture = grey(values + 60 * soft)
    frame = whole(picture)
    return picture, frame, find_masses(picture, frame, SHEET, ValuePlan(2, smallest_mm2=20.0))


def test_each_edge_is_classed_from_the_photo_and_changed_by_hand(lit):
    _, frame, masses = lit
    frame_map = FrameMap.of(frame, SHEET)
    edges = edges_of(masses, (), frame_map)
    left = {edge.kind for edge in edges if edge.middle_mm[0] < 200}
    right = {edge.kind for edge in edges if edge.middle_mm[0] > 220}
    assert (left, right) == ({"hard"}, {"soft"})
    assert sum(shares(edges).values()) == pytest.approx(1)
    changed = edges_of(masses, (EdgeChange("edge-1", (60.0, 140.0), "lost"),), frame_map)
    assert {edge.kind for edge in changed if edge.by_hand} == {"lost"}
    assert all(edge.by_hand == (edge.middle_mm[0] < 200) for edge in changed)
    assert border_at(masses, (205.0, 30.0)) is None
    far = edges_of(masses, (EdgeChange("edge-1", (200.0, 20.0), "lost"),), frame_map)
    assert not any(edge.by_hand for edge in far)


def planned(plan, picture, frame, values: ValuePlan, **changes):
    photo = replace(plan.references[0], width_px=picture.width_px, height_px=picture.height_px)
    study = replace(plan.study, frame=frame, values=values, rings=(), **changes)
    return replace(plan, references=(photo,), studies=(study,), paper=SHEET)


def test_the_hardest_edge_is_told_where_it_is_not_at_the_focus_and_softened(plan, lit):
    picture, frame, masses = lit
    here = planned(plan, picture, frame, ValuePlan(2, smallest_mm2=20.0), reads=ReadsPlan((340.0, 140.0)))
    row = next(each for each in readings(worked_study(here, masses=masses)) if each.key == "hardest")
    assert row.verdict == "look"
    after = row.remedy.apply(here, NOON)
    assert after.study.values.edges[0].kind == "soft"
    again = [each for each in readings(worked_study(after, masses=masses)) if each.key == "hardest"]
    assert not again or again[0].number < row.number
    there = planned(plan, picture, frame, ValuePlan(2, smallest_mm2=20.0), reads=ReadsPlan((60.0, 140.0)))
    assert (
        next(each for each in readings(worked_study(there, masses=masses)) if each.key == "hardest").verdict == "fine"
    )


def test_washes_say_which_edges_to_lose_while_wet(lit):
    _, frame, masses = lit
    edges = edges_of(masses, (EdgeChange("edge-1", (60.0, 140.0), "lost"),), FrameMap.of(frame, SHEET))
    wet = medium_work(masses, MediumPlan("washes"), edges)
    assert "lose" in wet.steps[-1].words
    assert "while wet" in wet.steps[-1].words
    assert "while wet" not in medium_work(masses, MediumPlan("charcoal"), edges).steps[-1].words
    assert medium_work(masses, MediumPlan("washes")).steps[-1].words in wet.steps[-1].words


# -- lights in order, joins, subjects -------------------------------------------------------------------------


@pytest.fixture(scope="module")
def three_lights():
    """Three light squares of L* 95, 85 and 84, on dark; the second and third nearly alike."""
    values = np.full((282, 400), 20.0)
    for number, lightness in enumerate((95.0, 85.0, 84.0)):
        values[100:180, 40 + 120 * number : 120 + 120 * number] = lightness
    picture = grey(values)
    frame = whole(picture)
    return picture, frame, find_masses(picture, frame, SHEET, ValuePlan(2, smallest_mm2=20.0))


def test_the_lightest_lights_are_ranked_and_named_by_their_rings(plan, three_lights):
    picture, frame, masses = three_lights
    here = planned(plan, picture, frame, ValuePlan(2, smallest_mm2=20.0))
    rings = (Ring(80.0, 140.0, 40.0, 40.0, "funnel"), Ring(200.0, 140.0, 40.0, 40.0, "cloth"))
    here = replace(here, studies=(replace(here.study, rings=rings),))
    row = next(each for each in readings(worked_study(here, masses=masses)) if each.key == "lights")
    assert row.text.startswith("1 funnel (L* 95), 2 cloth (L* 85), 3 the right")
    assert row.verdict == "fine"
    assert row.number == pytest.approx(95, abs=0.5)


def test_a_strip_between_two_darks_is_offered_to_be_joined_and_the_offer_holds(plan):
    values = np.full((282, 400), 80.0)
    values[60:220, 40:190] = values[60:220, 196:350] = 15.0
    picture = grey(values)
    frame, asked = whole(picture), ValuePlan(2, smallest_mm2=20.0, simple=0.0)
    masses = find_masses(picture, frame, SHEET, asked)
    assert sum(masses.counts) == 3
    (join, *_) = joins_of(masses, 20.0)
    assert (join.value, join.shapes) == (0, 2)
    here = planned(plan, picture, frame, asked)
    row = next(each for each in readings(worked_study(here, masses=masses)) if each.key == "join_1")
    assert "2 shapes instead of 3" in row.text
    after = row.remedy.apply(here, NOON)
    joined = find_masses(picture, frame, SHEET, after.study.values)
    assert len(shapes_of(joined.steps).values) == join.shapes
    assert isinstance(after.study.values.changes[0], MassChange)


def test_shapes_far_apart_are_not_offered(three_lights):
    assert joins_of(three_lights[2], 20.0) == ()


def test_a_subject_that_melts_into_its_ground_is_told_and_stood_off(plan):
    values = np.full((282, 400), 20.0)
    values[100:180, 60:140] = 80.0  # stands off
    values[100:180, 240:320] = 24.0  # does not
    picture = grey(values)
    frame, asked = whole(picture), ValuePlan(3, "even", smallest_mm2=20.0)
    masses = find_masses(picture, frame, SHEET, asked)
    here = planned(plan, picture, frame, asked)
    rings = (Ring(100.0, 140.0, 60.0, 60.0, "jug"), Ring(280.0, 140.0, 60.0, 60.0, "plum"))
    here = replace(here, studies=(replace(here.study, rings=rings),))
    rows = [each for each in readings(worked_study(here, masses=masses)) if each.key.startswith("melts")]
    assert [row.label for row in rows] == ["Plum and its ground"]
    after = rows[0].remedy.apply(here, NOON)
    assert after.study.departures[-1].kind in ("lighten", "darken")


# -- planes ---------------------------------------------------------------------------------------------------

SQUARE = ((100.0, 100.0), (300.0, 100.0), (300.0, 200.0), (100.0, 200.0))


@pytest.mark.parametrize(("way", "expected"), [("level", 0.0), ("upright", 90.0), ("along", 0.0), ("angle", 30.0)])
def test_strokes_run_the_way_they_are_told_and_stay_in_the_plane(plan, lit, way, expected):
    _, frame, _ = lit
    frame_map = FrameMap.of(frame, SHEET)
    plane = Plane("plane-1", SQUARE, way, 30.0)
    outline = shapely.Polygon(frame_map.to_sheet(np.array(SQUARE)))
    assert direction_deg(plane, outline) % 180 == pytest.approx(expected, abs=0.1)
    strokes = hatching(plane, work_out(PerspectivePlan()), frame_map)
    assert len(strokes) > 3
    for stroke in strokes:
        x, y = (stroke[1] - stroke[0]).tolist()
        assert np.degrees(np.arctan2(-y, x)) % 180 == pytest.approx(expected, abs=0.1)
    inside = shapely.buffer(outline, 1e-6)
    assert all(shapely.contains(inside, shapely.LineString(stroke)) for stroke in strokes)
    normal = np.array([np.sin(np.radians(expected)), np.cos(np.radians(expected))])
    at = sorted(float(stroke.mean(0) @ normal) for stroke in strokes)
    assert np.diff(at) == pytest.approx(APART_MM, abs=1e-6)


def test_a_shape_pointed_at_becomes_a_plane_without_what_lies_within_it():
    values = np.full((300, 400), 80, np.float32)
    values[60:240, 80:320] = 15
    values[120:180, 160:240] = 80
    picture = grey(values)
    frame = whole(picture)
    frame_map = FrameMap.of(frame, SHEET)
    masses = find_masses(picture, frame, SHEET, ValuePlan(count=2, smallest_mm2=10))
    outline = outline_of_shape(masses, frame_map.to_sheet((100.0, 100.0)), frame_map)
    assert shapely.area(area_of(outline)) == pytest.approx(240 * 180 - 80 * 60, rel=0.03)
    strokes = hatching(Plane("plane-1", outline, "level"), work_out(PerspectivePlan()), frame_map)
    hole = shapely.Polygon(frame_map.to_sheet([(165, 125), (235, 125), (235, 175), (165, 175)]))
    assert len(strokes) > 8
    assert not any(shapely.intersects(hole, shapely.LineString(stroke)) for stroke in strokes)
    assert outline_of_shape(masses, frame_map.to_sheet((-50.0, 100.0)), frame_map) is None


def test_strokes_run_to_a_traced_point_or_not_at_all(lit):
    _, frame, _ = lit
    edges = (TracedEdge(50.0, 50.0, 150.0, 90.0), TracedEdge(50.0, 250.0, 150.0, 210.0))
    worked = work_out(PerspectivePlan(sets=(EdgeSet("A", edges=edges),)))
    frame_map = FrameMap.of(frame, SHEET)
    target = frame_map.to_sheet(worked.points[0].point_px)
    strokes = hatching(Plane("plane-1", SQUARE, "to a point", letter="A"), worked, frame_map)
    assert len(strokes) > 3
    for start, end in strokes:
        way, there = end - start, target - start
        assert abs(way[0] * there[1] - way[1] * there[0]) / np.hypot(*way) < 1e-6
    assert hatching(Plane("plane-1", SQUARE, "to a point", letter="Q"), worked, frame_map) == []


def test_marks_of_the_values_are_edited_and_nonsense_is_refused(plan):
    area, edge, plane = DetailArea("d", "hold", SQUARE), EdgeChange("e", (5.0, 5.0), "soft"), Plane("p", SQUARE)
    for edit in (mark_detail(area), change_edge(edge), set_plane(plane)):
        plan = edit.apply(plan, NOON)
    values = plan.study.values
    assert (values.areas, values.edges, values.planes) == ((area,), (edge,), (plane,))
    assert next_value_id(plan, "plane") == "plane-1"
    plan = set_plane(replace(plane, way="level")).apply(plan, NOON)
    plan = change_edge(replace(edge, kind="lost")).apply(plan, NOON)
    assert [each.way for each in plan.study.values.planes] == ["level"]
    assert [each.kind for each in plan.study.values.edges] == ["lost"]
    for edit in (remove_detail("d"), remove_edge_change("e"), remove_plane("p")):
        plan = edit.apply(plan, NOON)
    assert plan.study.values == replace(values, areas=(), edges=(), planes=())
    for nonsense in (
        lambda: EdgeChange("e", (float("nan"), 0.0), "soft"),
        lambda: Plane("p", SQUARE[:2]),
        lambda: Plane("p", SQUARE, angle_deg=400.0),
        lambda: ValuePlan(simple=101.0),
        lambda: ValuePlan(detail=-1.0),
        lambda: ValuePlan(planes=(plane, plane)),
    ):
        with pytest.raises(PlanError):
            nonsense()
