"""The pumping station plan: the lens straightened, two vanishing points, figures and a row at their true size."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

import numpy as np

from mild_compass.craft.perspective.lens import straightened_points
from mild_compass.craft.perspective.straightening import straightened
from mild_compass.craft.picture.load import focal_35mm_of, size_of
from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.demo.glasshouse import PHOTOS, Camera, camera
from mild_compass.demo.pumping_work import what_came, with_sittings
from mild_compass.demo.telling import Clock, Note
from mild_compass.plan.edits import perspective, references, sheet, studies, values, viewfinder
from mild_compass.plan.edits.check import add_drawing
from mild_compass.plan.edits.work import change_work
from mild_compass.plan.framing import largest_frame
from mild_compass.plan.guides import Guide, Lens, Light
from mild_compass.plan.model import Plan
from mild_compass.plan.perspective import TracedEdge
from mild_compass.plan.pictures import OwnDrawing, Reference
from mild_compass.plan.sheet import BlockShape, Datum, MeasuredLength, MeasuredPoint, MeasurePlan, NegativeShape
from mild_compass.plan.study import Ring
from mild_compass.plan.tones import ValuePlan
from mild_compass.plan.work import WorkPlan

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from numpy.typing import NDArray

    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.photos import PhotoFolder
    from mild_compass.plan.pictures import DrawingStage

    Array = NDArray[np.float64]

Facts = dict[str, Any]
NAMES = ("pumping-station", "pumping-station-level", "pumping-station-low")
DRAWN: tuple[tuple[DrawingStage, str], ...] = (
    ("lines", "2026-04-03T10:20:00+02:00"),
    ("values", "2026-04-05T16:40:00+02:00"),
    ("finished", "2026-04-06T12:05:00+02:00"),
)
WOBBLE_PX = 0.7
OVERHANG_M, SLATE_M = 0.3, 0.05  # of the roof
CHIMNEY_M = (2.0, 0.3, 1.1)  # its far corner along the wall and before the ridge, and how far it stands above it
HEDGE_M = 2.3  # above the hedge, seen against the house
SKY_CORNERS = ((24.0, 64.0), (24.0, 716.0), (960.0, 64.0))  # pixels: where the sky on the left is let end
DOOR_ALONG_M, DOOR_M = 3.15, (0.95, 2.03)  # where the door stands along the long wall, its width and height


def facts(name: str = NAMES[0]) -> Facts:
    """What is known of a rendered photo: its camera, and what stands where in metres."""
    known: Facts = json.loads((PHOTOS / f"{name}.json").read_text())
    return known


def house_point(known: Facts, along: float, across: float, up: float) -> Array:
    """A point of the house, from its nearest corner, in metres."""
    corner, long, deep = (np.array(known[key]) for key in ("house_corner_m", "house_along", "house_across"))
    return np.asarray(corner + along * long + across * deep + (0, 0, up))


def roof_corners(known: Facts) -> dict[str, Array]:
    """The corners of the roof that are seen, with its overhang, by name."""
    size = known["house_m"]
    low = size["eaves"] - OVERHANG_M * (size["ridge"] - size["eaves"]) / (size["across"] / 2)
    near, far = -OVERHANG_M, size["along"] + OVERHANG_M
    return {
        "near ridge": house_point(known, near, size["across"] / 2, size["ridge"] + SLATE_M),
        "far ridge": house_point(known, far, size["across"] / 2, size["ridge"] + SLATE_M),
        "near eave": house_point(known, near, -OVERHANG_M, low + SLATE_M),
        "far eave": house_point(known, far, -OVERHANG_M, low + SLATE_M),
    }


def sky_edge(known: Facts) -> Array:
    """What bounds the sky on the left of the house, upwards: its far wall, roof and chimney."""
    size, roof = known["house_m"], roof_corners(known)
    long, shaft = size["along"], (CHIMNEY_M[0], size["across"] / 2 - CHIMNEY_M[1])
    return np.stack(
        [
            house_point(known, long, 0, HEDGE_M),
            house_point(known, long, 0, size["eaves"] - 0.1),
            roof["far eave"],
            roof["far ridge"],
            house_point(known, *shaft, size["ridge"] - 0.1),
            house_point(known, *shaft, size["ridge"] + CHIMNEY_M[2]),
        ]
    )


def house_edges(known: Facts) -> dict[str, list[tuple[Array, Array]]]:
    """Edges of the house by direction: along its long wall, along its gable, upright."""
    size = known["house_m"]
    long, deep, eaves = size["along"], size["across"], size["eaves"]

    def edge(*ends: tuple[float, float, float]) -> tuple[Array, Array]:
        return house_point(known, *ends[0]), house_point(known, *ends[1])

    return {
        "along": [edge((0, 0, eaves), (long, 0, eaves)), edge((0, 0, 0.32), (long, 0, 0.32)),
                  edge((0.8, 0, 1.05), (6.3, 0, 1.05)), edge((0.8, 0, 2.25), (6.3, 0, 2.25))],
        "across": [edge((0, 0, eaves), (0, deep, eaves)), edge((0, 0, 0.32), (0, deep, 0.32)),
                   edge((0, 0.2, eaves - 0.14), (0, deep, eaves - 0.14))],
        "upright": [edge((0, 0, 0.32), (0, 0, eaves)), edge((0, deep, 0.32), (0, deep, eaves)),
                    edge((long, 0, 0.32), (long, 0, eaves))],
    }  # fmt: skip


def as_taken(view: Camera, known: Facts, points_m: Array) -> Array:
    """Scene points (n, 3) in the photo as the bowing lens threw them, in pixels."""
    flat = (view.seen(points_m) - view.centre_px) / view.focal_px
    return np.asarray(view.centre_px + view.focal_px * flat * (1 + known["k1"] * (flat**2).sum(1, keepdims=True)))


def pumping_plan(photos: PhotoFolder) -> Plan:
    """The plan as the application would have recorded it."""
    clock = Clock("2026-04-02T12:00:00+02:00", 2)
    plan = clock.told(Plan(name="Pumping station"), _edits(photos))
    assert plan.study is not None
    lens = Lens(round(facts()["k1"], 4), (0.0, 0.0, 0.0), camera(NAMES[0]).focal_px)
    photo = plan.ground(plan.study)
    # The edges were traced over the straightened picture; the marks are put there by the same way as a hand would.
    plan = clock.told(plan, [straightened(plan.study, photo, lens)])
    plan = clock.told(plan, _after_straightening(lens))
    plan = clock.told(plan, _own_drawings(photos))
    return Clock("2026-04-06T12:20:00+02:00", 3).told(with_sittings(plan), what_came())


def _own_drawings(photos: PhotoFolder) -> Iterator[Edit]:
    """The sheet as it was photographed: when the lines stood, when the values were in, and when it was finished."""
    for stage, taken in DRAWN:
        name = f"pumping-drawing-{stage}.jpg"
        data = (PHOTOS / name).read_bytes()
        size = size_of(data, name)
        yield add_drawing(OwnDrawing(f"drawing-{stage}", name, photos.add(data), *size, taken=taken, stage=stage))


def _edits(photos: PhotoFolder) -> Iterator[Edit | Note]:
    known, view = facts(), camera(NAMES[0])
    for name in NAMES:
        data = (PHOTOS / f"{name}.jpg").read_bytes()
        width, height = size_of(data, name)
        focal = focal_35mm_of(data, name)
        yield references.add_reference(
            Reference(name, f"{name}.jpg", photos.add(data), width, height, focal_35mm=focal)
        )
    yield references.judge_reference(NAMES[2], "set aside", "she hides the door")
    yield viewfinder.choose_paper(paper("Half imperial", across=True))
    foot = np.array(known["people_m"][0]["foot"])
    ends = as_taken(view, known, np.stack([foot, foot + np.array([0, 0, known["people_m"][0]["height"]])]))
    middle, half = ends.mean(0), abs(ends[0, 1] - ends[1, 1]) / 2
    yield viewfinder.ring_subject(Ring(float(middle[0]), float(middle[1]), 0.3 * half, 1.06 * half, "woman", "right"))
    photo = Reference(NAMES[0], "", "0" * 64, 1800, 1200)
    yield viewfinder.move_frame(largest_frame(photo, paper("Half imperial", across=True)))
    yield Note("The lens bows the gutter. Straighten first.", "perspective")
    yield values.change_values(ValuePlan(count=3, method="found", smallest_mm2=80.0))
    yield change_work(
        WorkPlan(
            support="heavy paper",
            weather="cool and damp",
            sitting_min=90.0,
            start="9:30",
            materials=("kneaded rubber", "masking fluid", "cobalt blue"),
        )
    )
    yield studies.rename_study("A")


def _after_straightening(lens: Lens) -> Iterator[Edit]:
    """Edges traced with a steady hand, eye height, figures, the row of bollards, a shadow."""
    known, view = facts(), camera(NAMES[0])
    hand = np.random.default_rng(5)

    def seen(points_m: Array) -> Array:
        return straightened_points(as_taken(view, known, points_m), lens, view.centre_px)

    for letter, kind, name in (("A", "level", "along"), ("B", "level", "across"), ("C", "upright", "upright")):
        for start, end in house_edges(known)[name]:
            ends = seen(np.stack([start, end])) + hand.normal(0, WOBBLE_PX, (2, 2))
            yield perspective.trace_edge(letter, TracedEdge(*(round(float(v), 1) for v in ends.ravel())))
        if kind == "upright":
            yield perspective.set_kind(letter, "upright")
    yield perspective.set_eye(known["eye_height_m"])
    posts = seen(np.array(known["bollards_m"][1:3]))
    yield perspective.add_guide(
        Guide("g1", "row", tuple(map(tuple, posts.round(1).tolist())), "bollards", height_m=known["bollard_height_m"],
              count=5)
    )  # fmt: skip
    places = seen(np.array([[2.9, 9.0, 0.0], [-4.0, 7.4, 0.0]])).round(1).tolist()
    yield perspective.add_guide(Guide("g2", "figure", (tuple(places[0]),), "", "man", 1.75, shadow=True))
    yield perspective.add_guide(Guide("g3", "figure", (tuple(places[1]),), "", "child", 1.28, shadow=True))
    yield perspective.set_light(Light("sun", 46.6, 41.0))
    yield from _measured(seen, known)


def _measured(seen: Callable[[Array], Array], known: Facts) -> Iterator[Edit]:
    """The door as the unit, a few heights against it, places from two datum lines, a shape between, simple shapes."""
    lengths = []
    for name, foot, height in (
        ("door", house_point(known, DOOR_ALONG_M + DOOR_M[0] / 2, 0, 0.04), DOOR_M[1] - 0.04),
        ("corner", house_point(known, 0, 0, 0), known["house_m"]["eaves"]),
        ("woman", np.array(known["people_m"][0]["foot"]), known["people_m"][0]["height"]),
    ):
        (x0, y0), (x1, y1) = seen(np.stack([foot, foot + np.array([0, 0, height])])).round(1).tolist()
        lengths.append(MeasuredLength(x0, y0, x1, y1, name))
    places = seen(np.stack(list(roof_corners(known).values())))
    points = tuple(
        MeasuredPoint(x, y, name) for name, (x, y) in zip(roof_corners(known), places.round(1).tolist(), strict=True)
    )
    sky = (SKY_CORNERS[0], SKY_CORNERS[1], *map(tuple, seen(sky_edge(known)).round(1).tolist()), SKY_CORNERS[2])
    datums = (Datum("upright", 900.0, 600.0, "middle"), Datum("level", 900.0, 782.0, "eye level"))
    yield sheet.change_measures(
        MeasurePlan(datums, points, tuple(lengths), 1, (NegativeShape(sky, "sky on the left"),))
    )
    middle, ridge_at = places[2:].mean(0), places[:2].mean(0)
    yield sheet.set_shapes(
        (
            BlockShape("box", float(middle[0]), float(middle[1]) + 210, 400.0, 190.0, -2.0, name="long wall"),
            BlockShape("line", float(ridge_at[0]), float(ridge_at[1]), 345.0, 0.0, -14.0, name="ridge"),
        )
    )
