"""The line drawing from a photo against the true outlines of the rendered scenes, and made pictures."""

from __future__ import annotations

import io
from pathlib import Path

import cv2
import numpy as np
import pytest
import shapely
from PIL import Image
from skimage.morphology import skeletonize
from tests.conftest import THOROUGH

from mild_compass.craft.picture.chains import chains_of, joined_chains, lengths
from mild_compass.craft.picture.line_drawing import LineDrawing, cleaned, line_drawing
from mild_compass.craft.picture.load import Picture, read_proxy
from mild_compass.craft.picture.straight_runs import straightened
from mild_compass.craft.picture.tone import to_bytes
from mild_compass.craft.values.detail import DetailWeight
from mild_compass.craft.values.mass_guidance import mass_guided_lines
from mild_compass.demo.glasshouse import PHOTOS
from mild_compass.plan.paper import Paper
from mild_compass.plan.sheet import SheetPlan
from mild_compass.plan.study import Frame
from mild_compass.plan.tones import ValuePlan

OUTLINES = Path(__file__).parents[1] / "data/outlines"
SHEET = Paper("x", 900, 600, 0)  # a millimetre to a pixel of the outlines' pictures
WHOLE = Frame(0, 0, 1800, 1200)
DIAGONAL = float(np.hypot(900, 600))
LEAST, NEAR, MOST = 0.03 * DIAGONAL, 0.005 * DIAGONAL, 2.0


def true_outlines(name: str) -> list[np.ndarray]:
    """Outlines of the modelled scene longer than 3 % of the diagonal (tools/scenes/outlines.py renders them)."""
    thin = skeletonize(np.array(Image.open(OUTLINES / f"{name}.png")) > 0)
    chains = joined_chains([chain for chain in chains_of(thin) if len(chain) > 3], 6.0, 30.0)
    return [chain for chain, long in zip(chains, lengths(chains), strict=True) if long >= LEAST]


def share_near(lines: list[np.ndarray], drawn: tuple[np.ndarray, ...]) -> float:
    """The share of some lines' length that lies within reach of a drawn line."""
    far = np.ones((600, 900), np.uint8)
    for line in drawn:
        cv2.polylines(far, [np.round((line - 0.5) * 16).astype(np.int32).reshape(-1, 1, 2)], False, 0, 1, shift=4)
    distance = cv2.distanceTransform(far, cv2.DIST_L2, 5)
    points = []
    for line in map(shapely.LineString, lines):
        along = np.linspace(0, line.length, max(2, int(line.length)))
        points.append(shapely.get_coordinates(shapely.line_interpolate_point(line, along)))
    x, y = np.clip(np.floor(np.concatenate(points)).astype(int), 0, (899, 599)).T
    return float((distance[y, x] <= NEAR).mean())


# How many strokes the same lines were, and which share of the outlines the sixty longest held, before lines were joined
# and led by the masses.
BEFORE = {
    "glasshouse-centre": (905, 0.412), "glasshouse-crates": (958, 0.365), "glasshouse-glare": (824, 0.390),
    "glasshouse-good": (877, 0.415), "glasshouse-looking-out": (861, 0.374), "lantern-bench": (164, 0.833),
    "pumping-station": (280, 0.772), "pumping-station-level": (290, 0.772), "pumping-station-low": (273, 0.775),
}  # fmt: skip

A_QUARTER_MORE, MOST_SIXTY = 1.25, 0.80  # of the outlines: so much sixty lines held anyway, or hold with a quarter more


def led(picture: Picture, amount: float) -> LineDrawing:
    """The lines led by the masses of the usual values."""
    return mass_guided_lines(amount, (), (), picture, WHOLE, SHEET, ValuePlan())


def on_truth(name: str, drawn: LineDrawing) -> float:
    """The share of drawn length that lies on a true outline, long or short; edges of shadows, which the pictures of
    true outlines do not hold, are left out."""
    lines = [line for line, kind in zip(drawn.lines_mm, drawn.kinds, strict=True) if kind != "shadow"]
    thin = np.array(Image.open(OUTLINES / f"{name}.png")) > 0
    away = cv2.distanceTransform((~thin).astype(np.uint8), cv2.DIST_L2, 5)
    points = [
        shapely.get_coordinates(
            shapely.line_interpolate_point(line, np.linspace(0, line.length, max(2, int(line.length))))
        )
        for line in map(shapely.LineString, lines)
    ]
    x, y = np.clip(np.floor(np.concatenate(points)).astype(int), 0, (899, 599)).T
    return float((away[y, x] <= NEAR).mean())


@pytest.mark.parametrize("name", [name for k, name in enumerate(BEFORE) if THOROUGH or k % 3 == 0])
def test_most_of_the_true_outlines_are_drawn_in_few_strokes_that_lie_on_them(name):
    """85 % of the outlines, 88 % of the strokes' length on one, three strokes in place of five; the first sixty hold a
    quarter more than before, or four fifths of all."""
    picture = read_proxy((PHOTOS / f"{name}.jpg").read_bytes(), name)
    drawn = led(picture, SheetPlan().trace_amount)
    true = true_outlines(name)
    strokes, sixty = BEFORE[name]
    assert share_near(true, drawn.lines_mm) >= 0.85
    assert drawn.length_mm <= MOST * lengths(true).sum()
    assert len(drawn.lines_mm) <= 0.60 * strokes
    assert on_truth(name, drawn) >= 0.88
    assert share_near(true, drawn.lines_mm[:60]) >= min(A_QUARTER_MORE * sixty, MOST_SIXTY)


def test_in_leaves_the_outline_of_the_mass_comes_before_the_lines_within_it():
    """A bush of dark leaves, every one of its own grey, before a pale wall: its outline comes first."""
    rng = np.random.default_rng(5)
    array = np.full((600, 900, 3), 215, np.uint8)
    for _ in range(1500):
        turn, far = rng.uniform(0, 2 * np.pi), 170 * np.sqrt(rng.uniform())
        middle = (int(450 + far * np.cos(turn)), int(300 + far * np.sin(turn)))
        grey = tuple([int(rng.integers(25, 115))] * 3)
        cv2.ellipse(array, middle, (10, 4), float(rng.uniform(0, 180)), 0, 360, grey, -1)
    drawn = mass_guided_lines(
        100, (), (), made(array), Frame(0, 0, 900, 600), Paper("x", 900, 600, 0), ValuePlan()
    ).lines_mm
    assert len(drawn) > 100
    bush = shapely.Point(450, 300)
    around = shapely.difference(bush.buffer(195), bush.buffer(155))
    lengths_there = [shapely.intersection(shapely.LineString(line), around).length for line in drawn]
    assert lengths_there[0] > 0.9 * 2 * np.pi * 170


def test_what_stands_in_a_subject_is_drawn_before_its_like_elsewhere():
    array = np.full((600, 900, 3), 215, np.uint8)
    for x in (120, 400, 680):
        array[250:350, x : x + 100] = 60
    for x in (120, 400, 680):
        subject = (DetailWeight(x + 50.0, 300.0, 90.0, 90.0),)
        frame, sheet = Frame(0, 0, 900, 600), Paper("x", 900, 600, 0)
        first = mass_guided_lines(100, (), subject, made(array), frame, sheet, ValuePlan()).lines_mm[0]
        assert x - 5 < first[:, 0].min() < first[:, 0].max() < x + 105


def test_a_wobbly_straight_line_is_drawn_straight_and_to_the_point_it_runs_to_anyway():
    along = np.linspace(0, 200, 201)
    wobbly = np.stack([along, 50 + 0.1 * along + 0.6 * np.sin(along / 3)], 1)
    (plain,) = straightened([wobbly], [], 1.3, 500.0)
    assert len(plain) == 2
    toward = np.array([800.0, 129.0, 1.0])  # a little off the line drawn on
    (aimed,) = straightened([wobbly], [toward], 2.0, 500.0)
    way, there = aimed[1] - aimed[0], toward[:2] - aimed[0]
    assert abs(way[0] * there[1] - way[1] * there[0]) / np.hypot(*way) < 1e-9
    far = np.array([800.0, 300.0, 1.0])
    (left,) = straightened([wobbly], [far], 2.0, 500.0)
    assert left == pytest.approx(plain)


def test_ends_that_nearly_meet_are_one_corner():
    across, down = np.array([[0.0, 0.0], [60.0, 0.4]]), np.array([[60.8, 0.0], [60.0, 60.0]])
    one, other = straightened([across, down], [], 1.0, 500.0)
    assert one[1] == pytest.approx(other[0])


def test_so_many_lines_are_asked_for_by_their_amount_and_more_take_longer():
    picture = read_proxy((PHOTOS / "lantern-bench.jpg").read_bytes(), "lantern-bench")
    whole = line_drawing(picture, WHOLE, SHEET, 100)
    twelve = line_drawing(picture, WHOLE, SHEET, whole.amount_of(12))
    assert len(twelve.lines_mm) == 12
    assert all(a is b for a, b in zip(twelve.lines_mm, whole.lines_mm, strict=False))
    assert 0 < twelve.minutes < whole.minutes
    assert whole.amount_of(10_000) == 100


def made(array: np.ndarray):
    packed = io.BytesIO()
    Image.fromarray(array).save(packed, "PNG")
    return read_proxy(packed.getvalue(), "made")


def test_a_square_on_a_ground_gives_its_four_sides_and_nothing_else():
    array = np.full((400, 600, 3), 220, np.uint8)
    array[100:300, 200:400] = 40
    drawn = line_drawing(made(array), Frame(0, 0, 600, 400), Paper("x", 600, 400, 0), 100)
    assert drawn.length_mm == pytest.approx(800, rel=0.03)
    square = shapely.LineString([(200, 100), (400, 100), (400, 300), (200, 300), (200, 100)])
    points = np.concatenate(drawn.lines_mm)
    assert shapely.distance(square, shapely.points(points)).max() < 2.5
    assert sum(map(len, drawn.lines_mm)) < 60, "straight sides need few points"


def test_hues_of_equal_value_are_parted_too():
    array = np.full((300, 300, 3), (150, 100, 100), np.uint8)
    array[:, 150:] = (60, 127, 110)
    drawn = line_drawing(made(array), Frame(0, 0, 300, 300), Paper("x", 300, 300, 0), 100)
    assert drawn.length_mm == pytest.approx(300, rel=0.08)


def test_less_is_a_part_of_more_and_the_long_strong_lines_come_first():
    picture = read_proxy((PHOTOS / "lantern-bench.jpg").read_bytes(), "lantern-bench")
    some, all_of_it = (line_drawing(picture, WHOLE, SHEET, amount).lines_mm for amount in (30, 100))
    assert 0 < len(some) < len(all_of_it)
    assert all(a is b for a, b in zip(some, all_of_it, strict=False))
    assert lengths(list(some)).mean() > 1.5 * lengths(list(all_of_it)).mean()
    assert line_drawing(picture, WHOLE, SHEET, 0).lines_mm == ()


@pytest.mark.parametrize("array", [np.full((200, 300, 3), 255, np.uint8), np.zeros((1, 300, 3), np.uint8),
                                   np.zeros((200, 1, 3), np.uint8)])  # fmt: skip
def test_where_there_is_no_edge_nothing_is_drawn(array):
    height, width = array.shape[:2]
    assert line_drawing(made(array), Frame(0, 0, width, height), Paper("x", 300, 200, 0), 100).lines_mm == ()


def test_bare_paper_beyond_the_photo_gets_no_line_along_its_edge():
    array = np.full((200, 300, 3), 60, np.uint8)
    drawn = line_drawing(made(array), Frame(-100, 0, 300, 200), Paper("x", 300, 200, 0), 100)
    assert drawn.lines_mm == ()


def test_a_line_broken_by_a_gap_is_one_and_a_corner_stays_a_junction():
    on = np.zeros((60, 100), bool)
    on[30, 5:45] = True
    on[30, 50:90] = True
    on[5:30, 70] = True
    joined = joined_chains(chains_of(on), 9.0, 35.0)
    longest = max(joined, key=len)
    assert np.ptp(longest[:, 0]) == pytest.approx(84)
    assert len(joined) == 2


def test_easing_keeps_ends_and_rings_closed():
    wobbly = np.stack([np.arange(40.0), np.arange(40) % 2], 1)
    (gaussian_smoothed,) = cleaned([wobbly])
    assert gaussian_smoothed[[0, -1]] == pytest.approx(wobbly[[0, -1]])
    assert len(gaussian_smoothed) < 8
    angle = np.linspace(0, 2 * np.pi, 80)
    ring = np.stack([30 * np.cos(angle), 30 * np.sin(angle)], 1)
    ring[-1] = ring[0]
    assert cleaned([ring])[0][0] == pytest.approx(cleaned([ring])[0][-1])


def test_outlines_inner_lines_and_edges_of_shadows_are_told_apart():
    """A red thing on a green ground, with a thin pale line on it, and a shadow across the ground, in linear light."""
    light = np.empty((400, 600, 3))
    light[:] = (0.25, 0.45, 0.20)
    light[100:300, 100:260] = (0.45, 0.10, 0.08)
    light[195:199, 120:240] = (0.62, 0.30, 0.25)
    light[:, 400:] *= 0.45
    picture = made(to_bytes(light))
    drawn = line_drawing(picture, Frame(0, 0, 600, 400), Paper("x", 600, 400, 0), 100)
    found = {kind: [] for kind in ("outline", "inner", "shadow")}
    for line, kind in zip(drawn.lines_mm, drawn.kinds, strict=True):
        found[kind] += shapely.get_coordinates(shapely.segmentize(shapely.LineString(line), 5.0)).tolist()
    assert found["shadow"]
    assert all(abs(x - 400) < 4 for x, _ in found["shadow"])
    assert found["outline"]
    inside = [(x, y) for x, y in found["outline"] if 130 < x < 230 and 115 < y < 285]
    assert not inside
    assert all(115 < x < 245 and 190 < y < 204 for x, y in found["inner"])
    assert found["inner"]
    assert not any(abs(x - 400) < 4 for x, _ in found["outline"] + found["inner"])


def test_in_a_grey_picture_no_line_is_said_to_be_a_shadows_edge():
    """All channels of a grey picture fall alike across every edge: that tells nothing."""
    picture = read_proxy((PHOTOS / "pumping-station.jpg").read_bytes(), "pumping-station")
    assert "shadow" in led(picture, 95).kinds
    grey = made(np.repeat(cv2.cvtColor(picture.rgb, cv2.COLOR_RGB2GRAY)[..., None], 3, 2))
    assert "shadow" not in led(grey, 95).kinds


def test_a_line_is_parted_where_an_outline_goes_over_into_a_shadows_edge_and_a_dark_like_thing_is_no_shadow():
    """Shadows lack warm light: a slate of the sky's own colour is no shadow of it; a wall's foot runs on as one."""
    warm = np.array((0.40, 0.45, 0.52))  # what is left in a shadow
    light = np.empty((600, 900, 3))
    light[:] = (0.30, 0.28, 0.22)
    # A thing below, whose upper edge goes over into the edge of a shadow.
    over = np.clip((np.arange(900) - 400) / 100, 0, 1)[:, None]
    light[300:] = (1 - over) * (0.10, 0.16, 0.40) + over * light[0, 0] * warm
    for x in (500, 640, 780):
        light[60:200, x : x + 60] *= warm  # other shadows, which tell what light they lack
    light[60:240, 60:300] = np.array((0.30, 0.28, 0.22)) * 0.45  # a dark thing that falls alike in all channels
    for x in (60, 180, 300):
        light[380:560, x : x + 80] = (0.50, 0.09, 0.05)  # things of another colour, as in any picture
    drawn = line_drawing(made(to_bytes(light)), Frame(0, 0, 900, 600), Paper("x", 900, 600, 0), 100)
    level = [(line, kind) for line, kind in zip(drawn.lines_mm, drawn.kinds, strict=True)
             if (np.abs(line[:, 1] - 300) < 4).all() and np.ptp(line[:, 0]) > 60]  # fmt: skip
    assert {kind for _, kind in level} == {"outline", "shadow"}
    for line, kind in level:
        left, right = line[:, 0].min(), line[:, 0].max()
        assert (right < 520) if kind == "outline" else (left > 380)
    slate = [kind for line, kind in zip(drawn.lines_mm, drawn.kinds, strict=True) if line[:, 0].max() < 320
             and line[:, 1].max() < 250]  # fmt: skip
    assert slate
    assert "shadow" not in slate
