"""The lantern bench plan: three lanterns, a funnel and a folded cloth under one window light, worked out in values."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.picture.load import focal_35mm_of, size_of
from mild_compass.craft.sheet.motif import centred
from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.demo.glasshouse import PHOTOS
from mild_compass.demo.telling import Clock, Note
from mild_compass.plan.edits import departures, references, sheet, studies, values, viewfinder
from mild_compass.plan.edits.work import change_work
from mild_compass.plan.framing import largest_frame
from mild_compass.plan.model import Plan
from mild_compass.plan.pictures import Reference
from mild_compass.plan.sheet import Motif, MotifPlace, SheetPlan
from mild_compass.plan.study import Departure, Ring
from mild_compass.plan.tones import MassChange, MediumPlan, Pull, ValuePlan
from mild_compass.plan.work import WorkPlan

if TYPE_CHECKING:
    from collections.abc import Iterator

    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.photos import PhotoFolder

NAME = "lantern-bench"
SHADOW = ((452.0, 782.0), (520.0, 772.0), (640.0, 780.0), (650.0, 815.0), (560.0, 846.0), (458.0, 858.0))
LANTERN = (
    *((268.0, 228.0), (327.0, 262.0), (359.0, 348.0), (378.0, 496.0), (415.0, 536.0), (434.0, 723.0)),
    *((477.0, 782.0), (471.0, 871.0), (402.0, 905.0), (300.0, 913.0), (214.0, 892.0), (196.0, 830.0)),
    *((204.0, 777.0), (230.0, 723.0), (220.0, 536.0), (177.0, 496.0), (193.0, 335.0), (225.0, 262.0)),
)
RED_LANTERN, YELLOW_CLOTH = (330.0, 720.0), (1640.0, 860.0)


def lantern_plan(photos: PhotoFolder) -> Plan:
    """The plan as the application would have recorded it."""
    clock = Clock("2026-04-02T10:00:00+02:00", 3)
    plan = clock.told(Plan(name="Lantern bench"), _edits(photos))
    return clock.told(plan, [sheet.set_motif(_motif(plan))])


def _motif(plan: Plan) -> Motif:
    """The nearest lantern as one tracing, laid down six times across the sheet."""
    assert plan.study is not None
    outline, (x, y) = centred(FrameMap.of(plan.study.frame, plan.paper).to_sheet(LANTERN))
    places = (
        MotifPlace(round(x + 118, 1), 88.0, 4.0, True),
        MotifPlace(round(x + 205, 1), 118.0, -6.0),
        MotifPlace(round(x + 293, 1), 150.0),
        MotifPlace(round(x, 1), round(y, 1)),
        MotifPlace(round(x + 66, 1), 208.0, 3.0, True),
        MotifPlace(round(x + 168, 1), 214.5),
    )
    return Motif(outline, places, "lantern")


def _edits(photos: PhotoFolder) -> Iterator[Edit | Note]:
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
    yield change_work(WorkPlan(sitting_min=60.0, start="19:00", materials=("white chalk", "charcoal pencil")))
    yield Note("The yellow is only a middle value. Believe the scale.", "values")
    yield sheet.change_sheet(SheetPlan(layers=("frame", "masses", "grid")))
    yield studies.rename_study("A")
