"""The glasshouse plan: worked through every station, with edges traced over a rendered photo of known camera."""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.picture.load import focal_35mm_of, size_of
from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.craft.viewfinder.moves import moved, scaled_about_centre
from mild_compass.demo.telling import Clock, Note
from mild_compass.plan.edits import (
    armature,
    departures,
    perspective,
    references,
    sheet,
    studies,
    values,
    viewfinder,
)
from mild_compass.plan.edits.work import change_work
from mild_compass.plan.framing import largest_frame
from mild_compass.plan.model import Plan
from mild_compass.plan.perspective import TracedEdge
from mild_compass.plan.pictures import Reference
from mild_compass.plan.sheet import SheetPlan
from mild_compass.plan.structure import BigLine, KeyPoint
from mild_compass.plan.study import Departure, KeepArea, Ring
from mild_compass.plan.tones import ValuePlan
from mild_compass.plan.work import WorkPlan

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.photos import PhotoFolder

PHOTOS = Path(__file__).parent / "photos"
NAMES = ("glasshouse-good", "glasshouse-centre", "glasshouse-looking-out", "glasshouse-glare", "glasshouse-crates")
SET_ASIDE = {
    "glasshouse-centre": "static in the middle",
    "glasshouse-looking-out": "she looks out of the picture",
    "glasshouse-glare": "bright patch at the side",
}
DREW = {
    "glasshouse-good": "the light on the benches",
    "glasshouse-crates": "all the plants",
}
# Big lines and the way the eye should go, as traced over the good photo.
BIG_LINES = (
    BigLine(2.0, 193.2, 1797.6, 240.2, "the cross beam", 37.9),
    BigLine(1679.2, 1201.2, 918.8, 653.7, "the right bench", 28.9),
    BigLine(268.5, 1154.1, 654.7, 618.4, "the left bench", 13.0),
    BigLine(734.6, 63.4, 91.2, 351.6, "left rafter", 35.2),
    BigLine(769.2, 53.9, 1303.4, 335.5, "right rafter", 35.6),
    BigLine(575.2, 0.9, 1.1, 265.3, "", 37.4),
    BigLine(922.8, 1.1, 1509.2, 331.0, "", 35.8),
    BigLine(1087.5, 869.1, 1421.8, 1198.4, "edge of the path", 34.9),
    BigLine(735.3, 1131.8, 1228.5, 1067.8, "", 26.3),
    BigLine(698.1, 413.6, 698.1, 634.0, "door post", 41.8),
    BigLine(1332.4, 1168.4, 1126.4, 944.9, "", 30.9),
)
EYE_PATH = (
    *((230.0, 950.0), (330.0, 880.0), (470.0, 790.0), (620.0, 700.0), (760.0, 690.0), (850.0, 620.0)),
    *((866.0, 500.0), (850.0, 380.0), (800.0, 260.0), (760.0, 330.0), (750.0, 460.0)),
)
# Straight edges that run back in the glasshouse, as (x, z, from y, to y) in metres: bench edges, path, eaves, wall.
BACK_EDGES = (
    (-0.762, 0.82, 2.6, 12.0),
    (0.762, 0.82, 2.2, 11.0),
    (-0.6, 0.012, 4.2, 12.0),
    (0.6, 0.012, 4.4, 12.0),
    (2.9, 2.25, 4.6, 14.0),
)
GARDENER = (0.42, 5.1)
GARDENER_HEIGHT_M = 1.66


@dataclass(frozen=True, slots=True)
class Camera:
    """The known camera of a rendered photo: a pinhole without lens faults."""

    focal_px: float
    centre_px: tuple[float, float]
    position_m: tuple[float, float, float]
    axes: NDArray[np.float64]
    horizon_y_px: float
    benches_meet_px: tuple[float, float]

    def seen(self, points_m: NDArray[np.float64]) -> NDArray[np.float64]:
        """Photo points (n, 2) in pixels of scene points (n, 3) in metres before the camera."""
        local = (np.asarray(points_m, np.float64) - self.position_m) @ self.axes.T
        return np.asarray(self.centre_px + self.focal_px * local[:, :2] / local[:, 2:])


def camera(name: str) -> Camera:
    """The camera of one of the demo photos."""
    facts = json.loads((PHOTOS / f"{name}.json").read_text())
    return Camera(
        facts["focal_px"],
        tuple(facts["centre_px"]),
        tuple(facts["position_m"]),
        np.array(facts["axes_right_down_forward"]),
        facts["horizon_y_px"],
        tuple(facts["benches_meet_px"]),
    )


def traced_edges(view: Camera, wobble_px: float = 0.8) -> tuple[TracedEdge, ...]:
    """The edges that run back as a steady hand would trace them, always the same."""
    hand = np.random.default_rng(7)
    edges = []
    for x, z, near, far in BACK_EDGES:
        ends = view.seen(np.array([[x, near, z], [x, far, z]])) + hand.normal(0, wobble_px, (2, 2))
        edges.append(TracedEdge(*(round(float(value), 1) for value in ends.ravel())))
    return tuple(edges)


def demo_plan(photos: PhotoFolder) -> Plan:
    """The plan as the application would have recorded it, one morning's work."""
    return Clock("2026-03-14T09:05:00+01:00", 3).told(Plan(name="Glasshouse, morning"), _morning(photos))


def _morning(photos: PhotoFolder) -> list[Edit | Note]:
    view = camera("glasshouse-good")
    feet_and_hat = view.seen(np.array([[*GARDENER, 0.0], [*GARDENER, GARDENER_HEIGHT_M]]))
    middle, half = feet_and_hat.mean(0), abs(feet_and_hat[0, 1] - feet_and_hat[1, 1]) / 2
    ring = Ring(float(middle[0]) - 18, float(middle[1]), 0.42 * float(half), 1.08 * float(half), "gardener", "left")
    edits: list[Edit | Note] = [references.add_reference(_reference(photos, name)) for name in NAMES]
    edits += [references.judge_reference(name, "set aside", reason) for name, reason in SET_ASIDE.items()]
    edits += [references.say_what_drew(name, words) for name, words in DREW.items()]
    edits += [
        Note("The light on the benches, and the lamps going back.", "references"),
        viewfinder.choose_paper(paper("A3", across=True)),
        viewfinder.ring_subject(ring),
        viewfinder.add_keep(KeepArea(650, 655, 905, 795, "the watering can")),
        _framed(photos),
        *_departures(),
        Note("Closer would lose the lamps. Her can points into the picture.", "viewfinder"),
        armature.choose_armature(("fourteen",)),
        *(armature.add_big_line(line) for line in BIG_LINES),
        armature.add_key_point(KeyPoint(866.0, 492.0, "the hat")),
        armature.draw_eye_path(EYE_PATH),
        Note("The rafters lean as the lines from the corners do.", "armature"),
    ]
    edits += [perspective.trace_edge("A", edge) for edge in traced_edges(view)]
    edits += [
        values.change_values(ValuePlan(count=4, method="found", smallest_mm2=60.0)),
        Note("Path and near bench are one light shape.", "values"),
        sheet.change_sheet(SheetPlan(("frame", "grid", "lines", "horizon"), 30.0, pages="A4", trace_amount=7.24)),
        *_other_studies(photos),
        change_work(WorkPlan(support="light paper", start="8:30", light_until="11:20", materials=("2B pencil",))),
        studies.choose_for_sheet("study-1", "the can points into the picture, and the lamps stay"),
    ]
    return edits


def _departures() -> list[Edit]:
    """What the drawing will do otherwise than the photo; outlines over ``glasshouse-good``."""
    planned = (
        Departure(
            "d1",
            "leave out",
            ((0, 850), (60, 838), (330, 842), (362, 862), (362, 905), (285, 972), (0, 975)),
            "the seed tray",
            "the edge cuts it in two",
        ),
        Departure(
            "d2",
            "black out",
            ((928, 752), (985, 748), (1052, 815), (1048, 840), (928, 838)),
            "the crate in the shade",
            "it sits right behind her",
            value=22.0,
        ),
        Departure(
            "d3",
            "lose detail",
            ((0, 600), (150, 560), (330, 680), (330, 800), (180, 850), (0, 850)),
            "the near leaves",
            "they shout as loudly as she does",
        ),
        Departure("d4", "extend a line", ((693, 640), (693, 420)), "the door post", "an upright to hold the far end"),
    )
    return [departures.add_departure(each) for each in planned]


def _other_studies(photos: PhotoFolder) -> list[Edit]:
    """Two more ideas, tried and kept: close to the gardener, and the whole length from the cluttered photo."""
    good, crates = _reference(photos, NAMES[0]), _reference(photos, NAMES[4])
    sheet_paper = paper("A3", across=True)
    close = scaled_about_centre(largest_frame(good, sheet_paper), 900.0, good, sheet_paper)
    return [
        studies.duplicate_study("study-1"),
        studies.choose_study("study-2"),
        viewfinder.move_frame(moved(close, -220.0, 60.0, good)),
        studies.duplicate_study("study-2"),
        studies.choose_study("study-3"),
        references.use_reference(crates.id),
        viewfinder.move_frame(largest_frame(crates, sheet_paper)),
    ]


def _framed(photos: PhotoFolder) -> Edit:
    """A frame that puts the gardener on the right third and leaves out some of the roof."""
    reference = _reference(photos, NAMES[0])
    sheet_paper = paper("A3", across=True)
    frame = scaled_about_centre(largest_frame(reference, sheet_paper), 1240.0, reference, sheet_paper)
    return viewfinder.move_frame(moved(frame, -124.0, -27.0, reference))


def _reference(photos: PhotoFolder, name: str) -> Reference:
    data = (PHOTOS / f"{name}.jpg").read_bytes()
    width, height = size_of(data, name)
    return Reference(name, f"{name}.jpg", photos.add(data), width, height, focal_35mm=focal_35mm_of(data, name))
