"""Edits of the stage: things set down, moved, changed; standing elsewhere; beginning with a scene."""

from __future__ import annotations

from dataclasses import replace
from math import atan, degrees, radians, tan
from typing import Any

from mild_compass.plan.edits.base import current, named, with_study
from mild_compass.plan.edits.references import begin_blank
from mild_compass.plan.errors import PlanError, require_within
from mild_compass.plan.guides import EYE_M
from mild_compass.plan.model import Plan
from mild_compass.plan.perspective import Horizon
from mild_compass.plan.sheet import SheetLayer
from mild_compass.plan.stage import VIEW_DEG, Screen, Stage, Thing
from mild_compass.plan.stage_beginnings import BEGINNINGS

STAGE_LAYERS: tuple[SheetLayer, ...] = ("stage", "stage shadows")


def stage_of(plan: Plan) -> Stage:
    """The current study's stage, an empty one where it has none yet."""
    return current(plan).stage or Stage()


def next_mark(stage: Stage) -> str:
    """A mark that no thing of the stage carries."""
    taken = {thing.id for thing in stage.things}
    return next(f"thing-{k}" for k in range(1, len(taken) + 2) if f"thing-{k}" not in taken)


def _with_stage(plan: Plan, stage: Stage) -> Plan:
    """The stage changed; the first thing on it brings its lines onto the sheet, as lines that stay."""
    study = current(plan)
    sheet = study.sheet
    if stage.things and not study.staged:
        more = tuple(name for name in STAGE_LAYERS if name not in sheet.layers)
        staying = sheet.staying if "stage" in sheet.staying else (*sheet.staying, STAGE_LAYERS[0])
        sheet = replace(sheet, layers=(*sheet.layers, *more), staying=staying)
    return with_study(plan, replace(study, stage=stage, sheet=sheet))


def _with_thing(plan: Plan, thing: Thing) -> Plan:
    stage = stage_of(plan)
    stage.thing(thing.id)
    return _with_stage(plan, replace(stage, things=tuple(thing if old.id == thing.id else old for old in stage.things)))


def _things_words(plan: Plan, *_: object, **__: object) -> str:
    count = len(stage_of(plan).things)
    return f"On the stage: {count} thing{'s' if count != 1 else ''}."


def _standing_words(plan: Plan, *_: object, **__: object) -> str:
    stage, eye_m = stage_of(plan), current(plan).perspective.eye_m
    return f"Stands at {stage.eye_x_m:.1f}, {stage.eye_y_m:.1f} m, eye {eye_m:.2f} m, turned {stage.heading_deg:.0f}°."


@named("set down a thing", "perspective", _things_words)
def set_down(plan: Plan, thing: Thing) -> Plan:
    """Set a thing down on the stage."""
    stage = stage_of(plan)
    return _with_stage(plan, replace(stage, things=(*stage.things, thing)))


@named("change a thing", "perspective", _things_words)
def change_thing(plan: Plan, /, key: str, **changes: Any) -> Plan:
    """Change sizes, place, turn or name of a thing."""
    return _with_thing(plan, replace(stage_of(plan).thing(key), **changes))


@named("take a thing away", "perspective", _things_words)
def take_away(plan: Plan, key: str) -> Plan:
    """Take a thing off the stage."""
    stage = stage_of(plan)
    stage.thing(key)
    return _with_stage(plan, replace(stage, things=tuple(each for each in stage.things if each.id != key)))


@named("copy a thing", "perspective", _things_words)
def copy_thing(plan: Plan, key: str, dx_m: float, dy_m: float) -> Plan:
    """A second one of the same, a little further."""
    stage = stage_of(plan)
    old = stage.thing(key)
    again = replace(old, id=next_mark(stage), x_m=old.x_m + dx_m, y_m=old.y_m + dy_m)
    return _with_stage(plan, replace(stage, things=(*stage.things, again)))


def _screens_words(plan: Plan, *_: object, **__: object) -> str:
    count = len(stage_of(plan).screens)
    return f"{count} outline{'s' if count != 1 else ''} in the picture stand before the stage."


def next_screen(stage: Stage) -> str:
    """A mark that no outline before the stage carries."""
    taken = {screen.id for screen in stage.screens}
    return next(f"screen-{k}" for k in range(1, len(taken) + 2) if f"screen-{k}" not in taken)


@named("outline what stands before the stage", "perspective", _screens_words)
def put_before(plan: Plan, screen: Screen) -> Plan:
    """Have things of the stage that are further away go behind an outline in the picture."""
    stage = stage_of(plan)
    return _with_stage(plan, replace(stage, screens=(*stage.screens, screen)))


@named("change an outline", "perspective", _screens_words)
def change_screen(plan: Plan, /, key: str, **changes: Any) -> Plan:
    """Change how far off it stands, or its name."""
    stage = stage_of(plan)
    if key not in [each.id for each in stage.screens]:
        raise PlanError("That outline is not there any more.")
    screens = tuple(replace(each, **changes) if each.id == key else each for each in stage.screens)
    return _with_stage(plan, replace(stage, screens=screens))


@named("take an outline away", "perspective", _screens_words)
def take_screen_away(plan: Plan, key: str) -> Plan:
    """Take an outline away; nothing goes behind it any more."""
    stage = stage_of(plan)
    return _with_stage(plan, replace(stage, screens=tuple(each for each in stage.screens if each.id != key)))


@named("value of ground and sky", "perspective", lambda plan, *_, **__: _tones_words(stage_of(plan)))
def set_stage_tones(plan: Plan, ground_tone: float, sky_tone: float) -> Plan:
    """How light ground and sky are in the stage's own picture."""
    return _with_stage(plan, replace(stage_of(plan), ground_tone=ground_tone, sky_tone=sky_tone))


def _tones_words(stage: Stage) -> str:
    return f"The ground is L* {stage.ground_tone:.0f}, the sky L* {stage.sky_tone:.0f}."


@named("stand elsewhere", "perspective", _standing_words)
def stand(plan: Plan, x_m: float, y_m: float, heading_deg: float, lamp_px: tuple[float, float] | None = None) -> Plan:
    """Stand at another place and look another way; the sun stays where it is, so it comes from another side.

    ``lamp_px`` is where the foot of a lamp comes to lie in the picture.
    """
    stage, study = stage_of(plan), current(plan)
    turned = (heading_deg + 180) % 360 - 180
    light = study.perspective.light
    azimuth = (light.azimuth_deg + turned - stage.heading_deg + 180) % 360 - 180
    light = replace(light, azimuth_deg=azimuth, foot=lamp_px or light.foot)
    perspective = replace(study.perspective, light=light)
    moved = replace(stage, eye_x_m=x_m, eye_y_m=y_m, heading_deg=turned)
    return with_study(plan, replace(study, perspective=perspective, stage=moved))


@named("sit or stand", "perspective", _standing_words)
def raise_eye(plan: Plan, eye_m: float) -> Plan:
    """Have the eye at another height; the horizon stays where it lies on the sheet."""
    require_within("The eye height", eye_m, *EYE_M, "m")
    study = current(plan)
    return with_study(plan, replace(study, perspective=replace(study.perspective, eye_m=eye_m)))


def _told_view(plan: Plan) -> str:
    study = current(plan)
    return f"View {degrees(2 * atan(study.frame.width_px / 2 / study.perspective.focal_px)):.0f}° wide."


@named("narrow or widen the view", "perspective", lambda plan, *_: _told_view(plan))
def widen(plan: Plan, degrees_wide: float) -> Plan:
    """See so many degrees across the picture."""
    require_within("The width of view", degrees_wide, *VIEW_DEG, "degrees")
    study = current(plan)
    focal_px = study.frame.width_px / 2 / tan(radians(degrees_wide / 2))
    return with_study(plan, replace(study, perspective=replace(study.perspective, focal="hand", focal_px=focal_px)))


@named("begin with a scene", "references", lambda plan, name: f"Began study {current(plan).name} with {name}.")
def begin_scene(plan: Plan, name: str) -> Plan:
    """Begin a study on a blank sheet with one of the beginnings on its stage."""
    beginning = BEGINNINGS[name]
    grown = begin_blank().change(plan)
    study = current(grown)
    ground = grown.ground(study)
    perspective = replace(
        study.perspective,
        eye_m=beginning.eye_m,
        light=beginning.light,
        horizon=Horizon(beginning.horizon * ground.height_px, x_px=ground.width_px / 2),
    )
    grown = widen(beginning.view_deg).change(with_study(grown, replace(study, perspective=perspective)))
    return _with_stage(grown, beginning.stage)
