"""The lantern bench plan: three lanterns, a funnel and a folded cloth under one window light, worked out in values."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.picture.load import focal_35mm_of, size_of
from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.demo.glasshouse import PHOTOS
from mild_compass.plan.edits import departures, logbook, references, sheet, studies, values, viewfinder
from mild_compass.plan.framing import largest_frame
from mild_compass.plan.model import Departure, Plan, Reference, Ring, SheetPlan, ValuePlan
from mild_compass.plan.tones import MassChange, MediumPlan, Pull

if TYPE_CHECKING:
    from collections.abc import Iterator

    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.photos import PhotoFolder

NAME = "lantern-bench"
NOON = "2026-04-02T10:{:02}:00+02:00"
SHADOW = ((452.0, 782.0), (520.0, 772.0), (640.0, 780.0), (650.0, 815.0), (560.0, 846.0), (458.0, 858.0))
RED_LANTERN, YELLOW_CLOTH = (330.0, 720.0), (1640.0, 860.0)


def lantern_plan(photos: PhotoFolder) -> Plan:
    """The plan as the application would have recorded it."""
    plan = Plan(name="Lantern bench")
    for minute, edit in enumerate(_edits(photos)):
        plan = edit.apply(plan, NOON.format(min(59, 3 * minute)))
    return plan


def _edits(photos: PhotoFolder) -> Iterator[Edit]:
    data = (PHOTOS / f"{NAME}.jpg").read_bytes()
    width, height = size_of(data, NAME)
    photo = Reference(NAME, f"{NAME}.jpg", photos.add(data), width, height, focal_35mm=focal_35mm_of(data, NAME))
    sheet_paper = paper("A3", across=True)
    yield references.add_reference(photo)
    yield references.say_what_drew(NAME, "the red against the grey boards")
    yield viewfinder.choose_paper(sheet_paper)
    yield viewfinder.move_frame(largest_frame(photo, sheet_paper))
    yield viewfinder.ring_subject(Ring(*RED_LANTERN, 190.0, 260.0, "red lantern", "right"))
    yield values.change_values(ValuePlan(count=4, method="found", smallest_mm2=60.0))
    yield values.set_focus(RED_LANTERN)
    yield values.set_pulls((Pull("warm", *YELLOW_CLOTH),))
    yield departures.add_departure(
        Departure(
            "departure-1",
            "darken",
            ((1340, 740), (1800, 740), (1800, 1160), (1520, 1160), (1330, 860)),
            "cloth",
            "it shouts louder than the lantern",
            24.0,
        )
    )
    yield departures.add_departure(
        Departure("departure-2", "gradation", ((1750, 40), (1250, 330)), "right corner", "leads inward", 20.0)
    )
    yield values.change_mass(MassChange("mass-1", "area", SHADOW, 0, 4))
    yield values.change_medium(MediumPlan("toned paper"))
    yield logbook.add_note("The yellow is only a middle value. Believe the scale.", "values", NOON.format(40))
    yield sheet.change_sheet(SheetPlan(layers=("frame", "masses", "grid")))
    yield studies.rename_study("A")
