"""What the stage says: stretched things, directions, heights, overlaps, heads and the eye level.

The rules are common practice, no published source.
"""

from __future__ import annotations

from math import atan2, cos, degrees, hypot, radians
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.reading import Place, Reading
from mild_compass.craft.sheet.stage_layers import staged_of
from mild_compass.craft.stage.scene import from_eye, places_of
from mild_compass.craft.stage.standing import stood_at
from mild_compass.plan.edits.base import Edit
from mild_compass.plan.edits.stage import change_thing, widen
from mild_compass.plan.stage import row_of

if TYPE_CHECKING:
    from mild_compass.craft.stage.staged import ThingLines
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.stage import Stage, Thing

CONE_DEG = 30.0  # from the line of sight: half of the 60 degree cone
SAME_DEG = 3.0  # turned by no more than that, things run to the same points
MANY_TURNS = 3
ALIKE = 0.1  # of their height: things less unlike look of one height
FEW = 3
HEAD = 0.07  # of the height of a figure: from the eyes to the top of the head
ON_LEVEL_M = 0.12
BACK_SHARE = 0.25  # of the distance, as a step back


def stage_readings(worked: Worked) -> list[Reading]:
    """All of them; none where nothing is on the stage."""
    stage, study = worked.study.stage, worked.study
    found = staged_of(study, worked.perspective)
    if stage is None or found is None:
        return []
    lines = dict(zip((thing.id for thing in stage.things), found.things, strict=True))
    return [
        *_stretched(worked, stage, lines),
        *_turns(worked, stage, lines),
        *_heights(worked, stage, lines),
        *_overlaps(worked, stage, lines),
        *_heads(worked, stage),
        *_out_of_sight(stage, lines),
    ]


def _place(worked: Worked, lines: ThingLines) -> Place | None:
    """What is seen of a thing, on the sheet."""
    seen = [worked.frame_map.to_sheet(line) for line in lines.seen]
    return Place(tuple(tuple((float(x), float(y)) for x, y in line) for line in seen)) if seen else None


def _upper(thing: Thing) -> str:
    """What it is called, at the beginning of a sentence."""
    return thing.words[0].upper() + thing.words[1:]


def _standing(stage: Stage) -> list[Thing]:
    return [thing for thing in stage.things if not row_of(thing.kind).laid]


def _stretched(worked: Worked, stage: Stage, lines: dict[str, ThingLines]) -> list[Reading]:
    """The thing furthest outside the cone, and how much it is drawn too wide."""
    widest: tuple[float, Thing] | None = None
    for thing in _standing(stage):
        for x, y in from_eye(stage, places_of(thing)).tolist():
            angle = abs(degrees(atan2(x, y)))
            seen = lines[thing.id].seen
            if (
                seen
                and CONE_DEG < angle < 80
                and _in_frame(worked, lines[thing.id])
                and (not widest or angle > widest[0])
            ):
                widest = (angle, thing)
    if widest is None:
        return []
    angle, thing = widest
    times = 1 / cos(radians(angle))
    text = (
        f"{_upper(thing)} stands {angle:.0f}° off the line of sight, outside the 60° cone: "
        f"it is drawn {times:.2f} times as wide as it would look."
    )
    verdict = "act" if row_of(thing.kind).stretches and times > 1.25 else "look"
    back = _step_back(worked, stage, thing)
    return [
        Reading("stretched", "Stretched", text, round(times, 3), "times", verdict, _place(worked, lines[thing.id]),  # type: ignore[arg-type]
                back, f"{times:.2f} ×")
    ]  # fmt: skip


def _in_frame(worked: Worked, lines: ThingLines) -> bool:
    box = worked.frame_map.box
    spots = np.concatenate([worked.frame_map.to_sheet(line) for line in lines.seen])
    inside = (spots[:, 0] > box.left) & (spots[:, 0] < box.right) & (spots[:, 1] > box.top) & (spots[:, 1] < box.bottom)
    return bool(inside.any())


def _step_back(worked: Worked, stage: Stage, thing: Thing) -> Edit | None:
    """Standing further back, with as much narrower a view, so that what is in the middle stays as large."""
    focal = worked.study.perspective.focal_px
    away = hypot(thing.x_m - stage.eye_x_m, thing.y_m - stage.eye_y_m)
    if focal <= 0 or worked.ground.is_photo:
        return None
    step = max(1.0, BACK_SHARE * away)
    h = radians(stage.heading_deg)
    view = degrees(2 * atan2(worked.study.frame.width_px / 2, focal * (away + step) / max(away, 0.1)))
    place = stage.eye_x_m - step * float(np.sin(h)), stage.eye_y_m - step * cos(h)
    back = stood_at(worked.study, worked.ground, *place, stage.heading_deg)
    narrower = widen(min(max(view, 10.0), 110.0))
    return Edit("step_back", "step back", lambda plan: narrower.change(back.change(plan)), "perspective", back.says)


def _turns(worked: Worked, stage: Stage, lines: dict[str, ThingLines]) -> list[Reading]:
    """Things turned many ways need many points."""
    turns: list[tuple[float, Thing]] = []
    for thing in _standing(stage):
        if not row_of(thing.kind).square:
            continue
        turn = (thing.turn_deg - stage.heading_deg) % 90
        if all(min(abs(turn - other), 90 - abs(turn - other)) > SAME_DEG for other, _ in turns):
            turns.append((turn, thing))
    if len(turns) <= MANY_TURNS:
        return []
    last = turns[-1][1]
    first = turns[0][1]
    text = (
        f"Things are turned {len(turns)} ways, each to points of its own: hard to keep apart in an easy picture. "
        f"{_upper(last)} could lie as {first.words} does."
    )
    remedy = change_thing(last.id, turn_deg=first.turn_deg)
    place = _place(worked, lines[last.id])
    return [Reading("turns", "Many directions", text, len(turns), "", "look", place, remedy, str(len(turns)))]


def _heights(worked: Worked, stage: Stage, lines: dict[str, ThingLines]) -> list[Reading]:
    """Three or more tall things of one height look monotonous."""
    tall = [thing for thing in _standing(stage) if row_of(thing.kind).tall and lines[thing.id].seen]
    if len(tall) < FEW:
        return []
    heights = [thing.base_m + thing.height_m for thing in tall]
    if max(heights) - min(heights) > ALIKE * max(heights):
        return []
    text = (
        f"All {len(tall)} things are about {np.mean(heights):.1f} m tall. One higher or lower breaks the line; "
        f"{tall[0].words} could be half as high again."
    )
    remedy = change_thing(tall[0].id, height_m=round(1.5 * tall[0].height_m, 2))
    place = _place(worked, lines[tall[0].id])
    return [Reading("heights", "One height", text, round(float(np.mean(heights)), 2), "m", "look", place, remedy,
                    f"{np.mean(heights):.1f} m")]  # fmt: skip


def _overlaps(worked: Worked, stage: Stage, lines: dict[str, ThingLines]) -> list[Reading]:
    """Where nothing stands before anything else, depth is told by size alone."""
    shown = [thing for thing in _standing(stage) if lines[thing.id].seen]
    if len(shown) < FEW:
        return []
    areas = [
        shapely.convex_hull(shapely.multipoints(np.concatenate([*lines[thing.id].seen, *lines[thing.id].behind])))
        for thing in shown
    ]
    tree = shapely.STRtree(areas)
    first, second = tree.query(areas, predicate="intersects")
    if (first != second).any():
        return []
    near, far = _nearest_two(stage, shown)
    text = f"Nothing overlaps: depth is told by size alone. {_upper(far)} could stand partly behind {near.words}."
    (nx, ny), (fx, fy) = from_eye(stage, [[near.x_m, near.y_m], [far.x_m, far.y_m]]).tolist()
    # Along its own distance until it is seen at the edge of the nearer one.
    wanted = (nx + near.width_m / 2) / max(ny, 0.1) * fy
    h = radians(stage.heading_deg)
    step = wanted - fx
    remedy = change_thing(
        far.id, x_m=round(far.x_m + step * cos(h), 2), y_m=round(far.y_m - step * float(np.sin(h)), 2)
    )
    return [Reading("overlaps", "Nothing overlaps", text, 0, "", "look", _place(worked, lines[far.id]), remedy, "0")]


def _nearest_two(stage: Stage, shown: list[Thing]) -> tuple[Thing, Thing]:
    by_depth = sorted(shown, key=lambda thing: float(from_eye(stage, [[thing.x_m, thing.y_m]])[0, 1]))
    return by_depth[0], by_depth[1]


def _heads(worked: Worked, stage: Stage) -> list[Reading]:
    """Standing figures whose eyes are as high as the artist's have their heads on the horizon; or why one has not."""
    eye = worked.study.perspective.eye_m
    figures = [thing for thing in stage.things if row_of(thing.kind).head_up]
    if not figures:
        return []
    level = [thing for thing in figures if abs(thing.base_m + thing.height_m * (1 - HEAD) - eye) <= ON_LEVEL_M]
    odd = [thing for thing in figures if abs(thing.height_m * (1 - HEAD) - eye) <= ON_LEVEL_M and thing not in level]
    if odd:
        text = (
            f"{_upper(odd[0])} is as tall as you and stands {odd[0].base_m:+.2f} m off the "
            "ground, so its head is not on the eye level. On the ground it would be."
        )
        remedy = change_thing(odd[0].id, base_m=0.0)
        return [Reading("heads", "Heads", text, round(odd[0].base_m, 2), "m", "look", None, remedy)]
    count = len(level)
    text = (
        f"{count} of {len(figures)} standing figures with the eyes on the horizon; so it is wherever they stand."
        if count
        else f"By an eye of {eye:.2f} m no standing figure has its head on the horizon; you look "
        f"{'down on' if eye > 1.6 else 'up at'} them."
    )
    return [Reading("heads", "Heads", text, count, "", shown=f"{count} of {len(figures)}")]


def _out_of_sight(stage: Stage, lines: dict[str, ThingLines]) -> list[Reading]:
    """Things of which nothing is seen."""
    gone = [thing for thing in stage.things if not lines[thing.id].seen]
    if not gone:
        return []
    named = ", ".join(thing.words for thing in gone[:3]) + (" and more" if len(gone) > 3 else "")
    text = f"Nothing is to be seen of {named}: behind you, behind something, or below the ground."
    return [Reading("out_of_sight", "Out of sight", text, len(gone), "", "look", shown=str(len(gone)))]
