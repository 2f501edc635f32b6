"""The rows of docs/accuracy.md: each measures one kind of answer on one half of the made pictures and cameras."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np

from mild_compass.craft.perspective.guide_lines import feet_of_row
from mild_compass.craft.perspective.lens import (
    edge_chains,
    found_bow,
    original_points,
    straightened_picture,
    straightened_points,
)
from mild_compass.craft.perspective.spacing import spaced_points
from mild_compass.craft.perspective.straightening import uprights_lens
from mild_compass.craft.perspective.suggest import suggested_sets
from mild_compass.craft.perspective.two_heights import KnownThing, known_eye
from mild_compass.craft.perspective.vanishing import VanishingPoint, vanishing_point
from mild_compass.craft.perspective.worked import work_out
from mild_compass.craft.picture.edges import edge_under
from mild_compass.craft.picture.load import Picture
from mild_compass.plan.errors import PlanError
from mild_compass.plan.guides import Guide, Lens
from mild_compass.plan.model import EdgeSet, Frame, Ground, PerspectivePlan, Study, TracedEdge

from . import plain
from .cameras import SIZE, KnownCamera, random_camera
from .scenes import Scene, scene, scene_with_lens
from .tracing import seen_edges, traced

GROUND = Ground("p", "p", "0" * 64, *SIZE)
RIGHT_SHARE, RIGHT_DEG = 0.01, 1.0


@dataclass(frozen=True, slots=True)
class Row:
    """What is asked, and the answer in words."""

    what: str
    found: str
    wanted: str


def edges_of(lines: Iterable[np.ndarray]) -> tuple[TracedEdge, ...]:
    """Segments as traced edges."""
    return tuple(TracedEdge(*(float(value) for value in line.ravel())) for line in lines)


def spread(values: list[float], digits: int = 2) -> str:
    """Median and the 95 % point."""
    if not values:
        return "none told"
    return f"{np.median(values):.{digits}f} / {np.percentile(values, 95):.{digits}f}"


# -- on pictures ----------------------------------------------------------------------------------------------


def on_picture(asked: tuple[int, bool]) -> dict[str, Any]:
    """All that is told of one made picture."""
    import cv2

    cv2.setNumThreads(1)
    made = scene(*asked)
    picture = Picture(made.picture(), *SIZE)
    return {
        "seed": asked[0],
        "leaves": asked[1],
        **_sets(made, picture),
        **_bow(made, picture),
        **_snapped(made, picture),
    }


def _sets(made: Scene, picture: Picture) -> dict[str, Any]:
    """Two of three photos tell their lens, as phones do; a cropped one tells nothing."""
    told = made.camera.focal_px if made.seed % 3 and made.camera.centre_px == (SIZE[0] / 2, SIZE[1] / 2) else 0.0
    found = suggested_sets(picture, told)
    sets = tuple(EdgeSet("ABCDEFG"[k], kind=each.kind, edges=each.edges) for k, each in enumerate(found.sets))
    line = work_out(PerspectivePlan(sets=sets), GROUND).horizon
    y, tilt = made.camera.horizon
    right = (
        line is not None
        and abs(line.y_at(SIZE[0] / 2) - y) <= RIGHT_SHARE * SIZE[1]
        and abs(line.tilt_deg - tilt) <= RIGHT_DEG
    )
    return {"certainty": found.certainty, "probability": found.probability, "right": right, "told": found.told}


def suggested_on(asked: tuple[int, bool]) -> dict[str, Any]:
    """What sets are suggested on one made picture, and what their certainty was told from."""
    import cv2

    cv2.setNumThreads(1)
    made = scene(*asked)
    return _sets(made, Picture(made.picture(), *SIZE))


def _bow(made: Scene, picture: Picture) -> dict[str, Any]:
    if made.camera.centre_px != (SIZE[0] / 2, SIZE[1] / 2):
        return {}
    found = found_bow(edge_chains(picture), made.camera.focal_px, SIZE)
    if found is None:
        return {"bow": "not told"}
    corner = (np.hypot(*SIZE) / 2 / made.camera.focal_px) ** 3 * made.camera.focal_px
    off = abs(found.k1 - made.camera.k1) * corner
    return {"bow": "sure" if found.sure else "likely" if found.likely else "not told", "bow_off": float(off)}


def bow_together(asked: tuple[int, bool]) -> dict[str, Any]:
    """The bow that four pictures of one lens tell together; their scenes are those of the seeds that follow."""
    import cv2

    cv2.setNumThreads(1)
    seed, leaves = asked
    hand = np.random.default_rng([seed, 13])
    focal_35mm, k1 = float(hand.uniform(24, 50)), float(hand.uniform(-0.2, 0.05))
    chains: list[Any] = []
    focal_px = focal_35mm / 36 * max(SIZE)
    for number in range(TOGETHER):
        made = scene_with_lens(10_000 + TOGETHER * seed + number, focal_35mm, k1, leaves)
        chains += edge_chains(Picture(made.picture(), *SIZE))
    found = found_bow(chains, focal_px, SIZE)
    off = None if found is None or not (found.sure or found.likely) else 100 * abs(found.k1 / k1 - 1)
    return {"leaves": leaves, "off_percent": off, "true": k1}


TOGETHER = 4


def together_rows(answers: list[dict[str, Any]]) -> list[Row]:
    """Bows told by several pictures."""
    rows = []
    for leaves, word in ((False, "clean"), (True, "leaves")):
        some = [each for each in answers if each["leaves"] == leaves and abs(each["true"]) >= LEAST_BOW]
        told = [each["off_percent"] for each in some if each["off_percent"] is not None]
        text = f"{spread(told, 1)} on {len(told)} of {len(some)}; the others not told"
        rows.append(Row(f"bow told by four pictures of one lens, %, {word}", text, "≤ 3.6"))
    return rows


LEAST_BOW = 0.02  # a share of less than that says nothing


def _snapped(made: Scene, picture: Picture) -> dict[str, Any]:
    """The direction of a set of four edges, traced 1 px and 4 px off, as drawn and as laid onto the photo."""
    if made.camera.k1:
        return {}
    hand = np.random.default_rng(made.seed)
    found: dict[str, Any] = {"snaps": []}
    for turn in (made.world.turns_deg[0], made.world.turns_deg[0] + 90):
        edges = seen_edges(made, picture.lightness, turn)
        if len(edges) < 4:
            continue
        edges = edges[hand.permutation(len(edges))[:4]]
        for off, reach in ((1.0, 8.0), (4.0, 12.0)):
            drawn = traced(edges, off, hand)
            laid = [edge_under(picture.lightness, line, reach) for line in drawn]
            best = [line if each is None else each for line, each in zip(drawn, laid, strict=True)]
            found["snaps"].append(
                (off, _direction_off(made.camera, drawn, turn), _direction_off(made.camera, best, turn))
            )
    return found


def _direction_off(camera: KnownCamera, lines: Iterable[np.ndarray], turn_deg: float) -> float:
    """Between the direction a set of edges tells and the true one, in degrees."""
    point = vanishing_point(EdgeSet("A", edges=edges_of(lines)), disown=False)
    if not isinstance(point, VanishingPoint):
        return float("nan")
    x, y = camera.centre_px
    inner = np.array([[camera.focal_px, 0, x], [0, camera.focal_px, y], [0, 0, 1]])
    true = camera.toward(np.array([np.sin(np.radians(turn_deg)), np.cos(np.radians(turn_deg)), 0.0]))
    a, b = np.linalg.solve(inner, point.homogeneous), np.linalg.solve(inner, true)
    return float(np.degrees(np.arccos(min(1.0, abs(a @ b) / np.linalg.norm(a) / np.linalg.norm(b)))))


def picture_rows(answers: list[dict[str, Any]]) -> list[Row]:
    """Suggested sets, bows and snapped edges."""
    rows = []
    for leaves, word, wanted in ((False, "clean", "≥ 90 %; ≤ 1 %"), (True, "a third under leaves", "≥ 60 %; ≤ 2 %")):
        some = [each for each in answers if each["leaves"] == leaves]
        sure = [each for each in some if each["certainty"] == "sure"]
        right, wrong = (sum(each["right"] == flag for each in sure) / len(some) for flag in (True, False))
        unsure = sum(each["certainty"] == "not sure" for each in some) / len(some)
        text = f"{100 * right:.0f} %; {100 * wrong:.1f} % (not sure: {100 * unsure:.0f} %)"
        rows.append(Row(f"sets suggested, {word}: sure and right; sure and wrong", text, wanted))
        whole = 100 * sum(each["right"] for each in some) / len(some)
        rows.append(Row(f"the same: right, whether sure or not, {word}", f"{whole:.0f} %", "–"))
    for low, high in ((0.5, 0.7), (0.7, 0.9), (0.9, 0.95), (0.95, 1.0)):
        some = [each for each in answers if low <= each["probability"] < high]
        if some:
            told, right = (100 * float(np.mean([each[key] for each in some])) for key in ("probability", "right"))
            text = f"{right:.0f} % right of {len(some)}, told {told:.0f} %"
            rows.append(Row(f"certainty told {100 * low:.0f} to {100 * high:.0f} %", text, "as told"))
    for leaves, word in ((False, "clean"), (True, "leaves")):
        some = [each for each in answers if each["leaves"] == leaves and "bow" in each]
        sure = [each["bow_off"] for each in some if each["bow"] == "sure"]
        likely = sum(each["bow"] == "likely" for each in some)
        text = f"{spread(sure)} px on {len(sure)} of {len(some)}; {likely} likely; the others not told"
        rows.append(Row(f"bow found alone, error at the corner where sure, {word}", text, "≤ 2 px, or not sure"))
    for leaves, word in ((False, "clean"), (True, "leaves")):
        for off in (1.0, 4.0):
            pairs = [snap[1:] for each in answers if each["leaves"] == leaves for snap in each.get("snaps", ())
                     if snap[0] == off and np.isfinite(snap[1:]).all()]  # fmt: skip
            text = f"{spread([pair[1] for pair in pairs])}°; as drawn {spread([pair[0] for pair in pairs])}°"
            rows.append(
                Row(f"direction of edges traced {off:.0f} px off, snapped, {word}", text, "not worse than drawn")
            )
    return rows


# -- on cameras alone -----------------------------------------------------------------------------------------


def camera_rows(seeds: range) -> list[Row]:
    """Rows of posts, known heights, straightened lines."""
    return [*_post_rows(seeds), *_traced_rows(seeds), *_height_rows(seeds), _straight_row(seeds)]


def _inside(spots: np.ndarray) -> bool:
    return bool(np.isfinite(spots).all() and (spots > 0).all() and (spots < SIZE).all())


def _post_rows(seeds: range) -> list[Row]:
    ours: dict[int, list[float]] = {2: [], 3: []}
    by_plain: list[float] = []
    for seed in seeds:
        hand = np.random.default_rng(seed)
        camera = random_camera(hand, ("plain", "tilted", "rolled")[seed % 3])
        turn = np.radians(hand.uniform(-35, 35))
        way, side = np.array([np.sin(turn), np.cos(turn), 0]), np.array([np.cos(turn), -np.sin(turn), 0])
        start = way * hand.uniform(4, 8) * camera.focal_px / 1200 + side * hand.uniform(-3, 3)
        seen = camera.straight(start + np.arange(8)[:, None] * hand.uniform(1.2, 3) * way)
        walls = [start + side * hand.choice([-1, 1]) * hand.uniform(2, 5) + way * hand.uniform(0, 6)
                 + (0, 0, hand.uniform(0, 5)) for _ in range(4)]  # fmt: skip
        edges = [camera.straight(np.stack([a, a + way * hand.uniform(5, 14)])) for a in walls]
        if not _inside(seen) or np.hypot(*(seen[1] - seen[0])) < 25 or not np.isfinite(edges).all():
            continue
        lines = [edge + hand.normal(0, 1.5, (2, 2)) for edge in edges]
        worked = work_out(PerspectivePlan(sets=(EdgeSet("A", edges=edges_of(lines)),)), GROUND)
        if worked.horizon is None:
            continue
        feet = seen[:3] + hand.normal(0, 1.0, (3, 2))
        for count, found in ours.items():
            guide = Guide("g", "row", tuple(map(tuple, feet[:count])), count=8)
            found += _feet_off(guide, worked, seen)
        by_point = spaced_points(feet[0].tolist(), feet[1].tolist(), worked.points[0].homogeneous.tolist(), 8)
        by_plain += [float(each) for each in np.hypot(*(by_point - seen)[3:].T) if np.isfinite(each)]
    return [
        Row("feet of posts from two feet, px", f"{spread(ours[2])} (plain: {spread(by_plain)})", "≤ plain"),
        Row("feet of posts from three feet, px", spread(ours[3]), "≤ 2 / 6"),
    ]


def _feet_off(guide: Guide, worked: Any, seen: np.ndarray) -> list[float]:
    feet = worked.camera.seen(feet_of_row(guide, worked.horizon, worked.camera))
    return [float(each) for each in np.hypot(*(feet - seen)[3:].T) if np.isfinite(each)]


def _traced_rows(seeds: range) -> list[Row]:
    """With two level sets and uprights traced by hand: heights by one known pole, and how upright uprights become."""
    heights: list[float] = []
    plainly: list[float] = []
    leans: list[float] = []
    refused = tried = 0
    for seed in seeds:
        hand = np.random.default_rng([seed, 3])
        camera = random_camera(hand, ("plain", "tilted", "rolled")[seed % 3])
        turn = np.radians(hand.uniform(-35, 35))
        ways = ([np.sin(turn), np.cos(turn), 0.0], [np.cos(turn), -np.sin(turn), 0.0], [0.0, 0.0, 1.0])
        found = [_edges_along(camera, np.array(way), hand) for way in ways]
        poles = [_pole(camera, hand) for _ in range(5)]
        if any(each is None for each in (*found, *poles)):
            continue
        kinds = ("level", "level", "upright")
        drawn = [lines + hand.normal(0, 1.2, lines.shape) for lines in found if lines is not None]
        sets = tuple(
            EdgeSet(letter, kind=kind, edges=edges_of(lines))  # type: ignore[arg-type]
            for letter, kind, lines in zip("ABC", kinds, drawn, strict=True)
        )
        plan = PerspectivePlan(sets=sets)
        known, others = poles[0], poles[1:]
        view = work_out(plan, told_by(camera)).camera
        if view is None:
            continue
        times = known[2] / view.height_of(*known[1].tolist())
        told = [100 * abs(times * view.height_of(*spots.tolist()) / height - 1) for _, spots, height in others]
        heights += [each for each in told if np.isfinite(each)]
        *level, up = (plain.point_of(lines) for lines in drawn)
        by_plain = [plain.height_by((known[1], known[2]), spots, level, up) / height for _, spots, height in others]
        plainly += [100 * abs(each - 1) for each in by_plain if np.isfinite(each)]
        tried += 1
        study = Study("s", "S", "p", Frame(0, 0, *SIZE), perspective=plan)
        try:
            lens = uprights_lens(study, told_by(camera))
        except PlanError:
            refused += 1
            continue
        shown = straightened_points(found[2], lens, (SIZE[0] / 2, SIZE[1] / 2))
        way = shown[:, 1] - shown[:, 0]
        leans += np.degrees(np.arctan(np.abs(way[:, 0] / way[:, 1]))).tolist()
    return [
        Row("heights, one pole known, %", f"{spread(heights)} (plain: {spread(plainly)})", "≤ 0.6 / 2.7; ≤ plain"),
        Row("uprights after straightening, °", f"{spread(leans)} (refused {refused} of {tried})", "≤ 0.1 / 0.3"),
    ]


def told_by(camera: KnownCamera) -> Ground:
    """The photo with what it tells of its lens."""
    return Ground("p", "p", "0" * 64, *SIZE, focal_35mm=camera.focal_px * 36 / max(SIZE))


def _edges_along(camera: KnownCamera, way: np.ndarray, hand: np.random.Generator, count: int = 4) -> np.ndarray | None:
    """Edges (count, 2, 2) of one direction that lie in the picture and are long enough to be traced."""
    found = []
    for _ in range(400):
        start = np.array([hand.uniform(-5, 5), hand.uniform(5, 16) * camera.focal_px / 1200, hand.uniform(0, 4)])
        spots = camera.straight(np.stack([start, start + way * hand.uniform(2, 6)]))
        if _inside(spots) and np.hypot(*(spots[1] - spots[0])) > 120:
            found.append(spots)
        if len(found) == count:
            return np.array(found)
    return None


def _height_rows(seeds: range) -> list[Row]:
    rows = []
    for kind, wanted in (("plain", "≤ 1.2 / 5"), ("tilted", "≤ 1.2 / 5"), ("rolled", "right, or a sentence")):
        off: list[float] = []
        tried = refused = 0
        for seed in seeds:
            hand = np.random.default_rng([seed, 5])
            camera = random_camera(hand, kind)
            poles = [_pole(camera, hand) for _ in range(6)]
            if any(pole is None for pole in poles):
                continue
            (first, second), others = poles[:2], poles[2:]
            near, far = sorted((first[0], second[0]))
            if far / near < 1.3:
                continue
            tried += 1
            known = [KnownThing(tuple(spots[0]), tuple(spots[1]), height) for _, spots, height in (first, second)]
            try:
                found = known_eye(*known, GROUND, camera.focal_px)
            except PlanError:
                refused += 1
                continue
            plan = PerspectivePlan(horizon=found.horizon, eye_m=found.eye_m, focal="hand", focal_px=camera.focal_px)
            view = work_out(plan, GROUND).camera
            heights = [100 * abs(view.height_of(*spots.tolist()) / height - 1) for _, spots, height in others]
            off += [each for each in heights if np.isfinite(each)]
        text = f"{spread(off)} (refused {refused} of {tried})"
        rows.append(Row(f"heights from two known things, camera {kind}, %", text, wanted))
    return rows


def _pole(camera: KnownCamera, hand: np.random.Generator) -> tuple[float, np.ndarray, float] | None:
    """How far off it stands, foot and top as marked by a hand, its height."""
    for _ in range(200):
        away = float(hand.uniform(4, 20) * camera.focal_px / 1200)
        foot, height = np.array([hand.uniform(-6, 6), away, 0.0]), float(hand.uniform(0.8, 3))
        spots = camera.straight(np.stack([foot, foot + np.array([0, 0, height])]))
        if _inside(spots) and spots[0, 1] - spots[1, 1] > 40:
            return away, spots + hand.normal(0, 1, (2, 2)), height
    return None


def _straight_row(seeds: range) -> Row:
    """A drawn line that the lens has bent, straightened as a picture: how far its middle lies off the straight.

    The line is painted as a Gaussian by the distance of each pixel from it, so that the picture tells its middle to
    a hundredth of a pixel and what is measured is the straightening alone.
    """
    import cv2

    off: list[float] = []
    for seed in list(seeds)[:24]:
        hand = np.random.default_rng([seed, 9])
        lens = Lens(float(hand.uniform(-0.2, 0.05)), tuple(hand.uniform(-0.15, 0.15, 3).tolist()), 5000.0)
        start, end = np.array([400.0, hand.uniform(600, 3400)]), np.array([5500.0, hand.uniform(600, 3400)])
        rise = (end[1] - start[1]) / (end[0] - start[0])
        line = start + np.linspace(0, 1, 4000)[:, None] * (end - start)
        spots = np.round(original_points(line, lens, (3000.0, 2000.0)) / 2).astype(np.int32)
        near = cv2.polylines(np.zeros((2000, 3000), np.uint8), [spots], False, 1, 17)
        rows, columns = np.nonzero(near)
        there = straightened_points(2 * np.stack([columns, rows], -1) + 1.0, lens, (3000.0, 2000.0))
        across = (there[:, 1] - start[1] - rise * (there[:, 0] - start[0])) / np.hypot(1, rise) / 2
        picture = np.full((2000, 3000, 3), 255, np.uint8)
        picture[rows, columns] = (255 - 250 * np.exp(-0.5 * (across / 1.3) ** 2)).round()[:, None]
        shown = 255.0 - straightened_picture(picture, (6000, 4000), lens)[..., 0]
        for x in range(300, 2600, 7):
            y = float(start[1] + rise * (2 * (x + 0.5) - start[0])) / 2
            taken = original_points(np.array([[2 * x + 1.0, 2 * y]]), lens, (3000.0, 2000.0))[0]
            if not (40 < taken[0] < 5960 and 40 < taken[1] < 3960):
                continue  # beyond what the photo shows
            low = int(y) - 8
            column = shown[max(low, 0) : low + 17, x]
            if column.sum() > 200:
                off.append(abs(float((column * (np.arange(len(column)) + max(low, 0) + 0.5)).sum() / column.sum()) - y))
    rms = float(np.sqrt(np.mean(np.square(off))))
    return Row("straight edges after straightening are off straight by, px", f"{rms:.3f} (rms)", "≤ 0.05")
