"""The rows of docs/accuracy.md: each measures one kind of answer on one half of the made pictures and cameras."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np

from mild_compass.craft.perspective.lens import (
    edge_chains,
    found_bow,
)
from mild_compass.craft.perspective.suggest import suggested_sets
from mild_compass.craft.perspective.vanishing import VanishingPoint, vanishing_point
from mild_compass.craft.perspective.worked import work_out
from mild_compass.craft.picture.edges import edge_under
from mild_compass.craft.picture.load import Picture
from mild_compass.plan.perspective import EdgeSet, PerspectivePlan, TracedEdge
from mild_compass.plan.pictures import Ground

from . import plain
from .cameras import SIZE, KnownCamera
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
        "plainly": plain.told_plainly(made, picture.lightness),
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
        rows.append(Row(f"sets suggested, {word}: sure and right; sure and wrong", _sure_and_right(some), wanted))
        whole = 100 * sum(each["right"] for each in some) / len(some)
        rows.append(Row(f"the same: right, whether sure or not, {word}", f"{whole:.0f} %", "–"))
        rows.append(_plainly_row(some, word, wanted))
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


def _sure_and_right(answers: list[dict[str, Any]]) -> str:
    sure = [each for each in answers if each["certainty"] == "sure"]
    right, wrong = (sum(each["right"] == flag for each in sure) / len(answers) for flag in (True, False))
    unsure = sum(each["certainty"] == "not sure" for each in answers) / len(answers)
    return f"{100 * right:.0f} %; {100 * wrong:.1f} % (not sure: {100 * unsure:.0f} %)"


def _plainly_row(answers: list[dict[str, Any]], word: str, wanted: str) -> Row:
    """Those pictures that hold enough: where a plain solver comes near by what a hand can trace in them."""
    some = [each for each in answers if each["plainly"]]
    what = f"the same, {word}, where edges traced by hand tell a plain solver the horizon within 2 %"
    return Row(what, f"{_sure_and_right(some)} of {len(some)}" if some else "none such", wanted)
