"""Five beginnings to take and change; each is made of the same things as any stage."""

from __future__ import annotations

from dataclasses import dataclass, field

from mild_compass.plan.guides import Light
from mild_compass.plan.stage import Opening, Stage, ThingKind, new_thing


@dataclass(frozen=True, slots=True)
class Beginning:
    """A stage with its eye height, view and light, and what it is in a few words; the horizon lies ``horizon`` of the
    picture's height below its top."""

    words: str
    stage: Stage
    eye_m: float = 1.6
    horizon: float = 0.4
    view_deg: float = 60.0
    light: Light = field(default_factory=lambda: Light("sun", 55.0, 40.0))


def _stage(*things: tuple[ThingKind, float, float, dict[str, object]], **where: float) -> Stage:
    made = [new_thing(kind, f"thing-{k}", x, y, **changes) for k, (kind, x, y, changes) in enumerate(things, 1)]
    return Stage(tuple(made), **where)  # type: ignore[arg-type]  # numbers only, and all fields of that kind


def _house(name: str, width: float, depth: float, height: float, **changes: object) -> dict[str, object]:
    return {"name": name, "width_m": width, "depth_m": depth, "height_m": height, **changes}


_DOOR = Opening("front", 1.0, 0.0, 0.95, 2.05, "door")
_LANE_LEFT = tuple(Opening("right", 1.0 + 2.2 * k, 1.0, 1.0, 1.3) for k in range(3))
_LANE_RIGHT = tuple(Opening("left", 1.0 + 2.2 * k, 1.0, 1.0, 1.3) for k in range(3))


def _lane() -> Stage:
    return _stage(
        ("road", 0.0, 35.0, {"width_m": 4.0, "depth_m": 70.0, "name": "lane"}),
        ("pavement", -2.9, 35.0, {"depth_m": 70.0, "parts": 35, "name": "left pavement"}),
        ("pavement", 2.9, 35.0, {"depth_m": 70.0, "parts": 35, "name": "right pavement"}),
        ("house", -6.8, 12.0, _house("first house left", 6.0, 8.0, 3.2, openings=_LANE_LEFT)),
        ("house", -6.8, 21.5, _house("second house left", 6.0, 9.0, 5.4, pitch_deg=35.0)),
        ("house", 6.8, 15.0, _house("first house right", 6.0, 8.0, 4.2, openings=_LANE_RIGHT)),
        ("house", 6.8, 26.0, _house("second house right", 6.0, 12.0, 3.2, roof="hip")),
        ("tree", -4.6, 30.0, {"count": 5, "gap_m": 6.0, "row_deg": -90.0, "name": "row of trees"}),
        ("lamp", 2.3, 9.0, {"count": 6, "gap_m": 8.0, "row_deg": -90.0, "name": "lamp posts"}),
        ("standing figure", -1.0, 8.0, {"name": "near figure"}),
        ("standing figure", 0.8, 22.0, {"name": "far figure"}),
    )


def _corner() -> Stage:
    return _stage(
        ("house", 0.5, 23.0, _house("corner house", 7.0, 9.0, 5.6, turn_deg=38.0, openings=(
            _DOOR, Opening("front", 3.4, 1.0, 1.2, 1.4), Opening("front", 5.2, 1.0, 1.2, 1.4),
            Opening("right", 1.5, 1.0, 1.2, 1.4), Opening("right", 5.0, 1.0, 1.2, 1.4),
            Opening("right", 1.5, 3.4, 1.2, 1.4), Opening("right", 5.0, 3.4, 1.2, 1.4)))),
        ("house", -11.0, 30.0, _house("shed", 5.0, 8.0, 2.6, roof="lean-to", pitch_deg=18.0, turn_deg=38.0)),
        ("wall", 10.2, 24.3, {"width_m": 7.0, "turn_deg": -52.0, "height_m": 1.6, "name": "yard wall"}),
        ("steps", -4.05, 20.6, {"turn_deg": 38.0, "width_m": 1.6, "depth_m": 0.9, "height_m": 0.5, "parts": 3}),
        ("lamp", 5.4, 14.0, {"count": 1, "name": "lamp post"}),
        ("standing figure", -3.6, 15.0, {"name": "figure"}),
        ("car", 8.0, 18.0, {"turn_deg": -52.0, "name": "car"}),
    )  # fmt: skip


def _room() -> Stage:
    return _stage(
        ("wall", 0.0, 6.1, {"width_m": 5.0, "depth_m": 0.2, "height_m": 2.7, "name": "back wall", "tone": 80.0}),
        ("wall", -2.6, 3.0, {"width_m": 6.0, "depth_m": 0.2, "height_m": 2.7, "turn_deg": 90.0, "name": "left wall",
                             "tone": 76.0}),
        ("wall", 2.6, 3.0, {"width_m": 6.0, "depth_m": 0.2, "height_m": 2.7, "turn_deg": 90.0, "name": "right wall",
                            "tone": 76.0}),
        ("pavement", 0.0, 3.0, {"width_m": 5.0, "depth_m": 6.0, "height_m": 0.01, "parts": 12, "name": "floor boards",
                                "tone": 60.0}),
        ("block", 0.6, 4.0, {"width_m": 1.6, "depth_m": 0.9, "height_m": 0.74, "turn_deg": 12.0, "name": "table"}),
        ("block", -1.7, 5.6, {"width_m": 1.1, "depth_m": 0.5, "height_m": 1.9, "name": "cupboard", "tone": 45.0}),
        ("sitting figure", -0.8, 3.9, {"turn_deg": -70.0, "name": "sitter"}),
        ("bowl", 0.6, 4.0, {"base_m": 0.74, "name": "bowl on the table"}),
    )  # fmt: skip


def _table() -> Stage:
    return _stage(
        ("block", 0.0, 0.95, {"width_m": 1.4, "depth_m": 0.8, "height_m": 0.74, "name": "table top", "tone": 62.0}),
        ("bottle", -0.18, 1.05, {"base_m": 0.74, "name": "bottle"}),
        ("cup", 0.04, 0.82, {"base_m": 0.74, "name": "cup"}),
        ("bowl", 0.24, 1.02, {"base_m": 0.74, "name": "bowl"}),
        ("ball", -0.02, 1.12, {"base_m": 0.74, "width_m": 0.08, "depth_m": 0.08, "height_m": 0.08, "name": "apple",
                               "tone": 45.0}),
        ("block", -0.36, 0.86, {"base_m": 0.74, "width_m": 0.16, "depth_m": 0.11, "height_m": 0.05, "turn_deg": 24.0,
                                "name": "book", "tone": 55.0}),
    )  # fmt: skip


def _open_ground() -> Stage:
    return _stage(
        ("road", -1.5, 30.0, {"width_m": 2.2, "depth_m": 60.0, "turn_deg": 6.0, "name": "path", "tone": 72.0}),
        ("fence", 6.0, 14.0, {"width_m": 16.0, "parts": 9, "turn_deg": -70.0, "name": "fence"}),
        ("tree", 8.5, 22.0, {"parts": 3, "height_m": 9.0, "width_m": 6.0, "name": "near tree"}),
        ("tree", -14.0, 40.0, {"count": 6, "gap_m": 5.5, "height_m": 8.0, "width_m": 4.6, "name": "line of trees"}),
        ("house", -7.0, 32.0, _house("barn", 8.0, 12.0, 3.4, turn_deg=-25.0, pitch_deg=45.0, porch_m=2.0)),
        ("water", 9.0, 38.0, {"width_m": 16.0, "depth_m": 10.0, "name": "pond"}),
        ("standing figure", -0.6, 11.0, {"name": "walker"}),
        ("cart", -4.5, 24.0, {"turn_deg": 60.0, "name": "cart"}),
    )


BEGINNINGS: dict[str, Beginning] = {
    "a lane to one point": Beginning("A lane between houses, running back to one point.", _lane()),
    "a corner to two points": Beginning("A house seen over its corner, to two points.", _corner(), horizon=0.62),
    "a room from inside": Beginning(
        "A room with a table and someone sitting.", _room(), light=Light("sun", -35.0, 55.0)
    ),
    "things on a table": Beginning(
        "A few things on a table, from where one sits.",
        _table(),
        eye_m=1.2,
        horizon=-0.35,
        view_deg=52.0,
        light=Light("sun", -60.0, 42.0),
    ),
    "open ground with a path": Beginning("Open ground, a path, a barn, trees.", _open_ground(), horizon=0.36),
}
