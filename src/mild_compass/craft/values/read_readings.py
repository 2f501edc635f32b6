"""What the reads say: first, second, third, the intended focus, competitors, and what the rim does."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, hypot, pi, sin
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.memo import Memo
from mild_compass.craft.picture.framed import framed_lightness
from mild_compass.craft.reading import Place, Reading, Verdict
from mild_compass.craft.sheet_sizes.lengths import format_length
from mild_compass.craft.values.reads import (
    APART,
    COMPETING,
    LONGEST_PX,
    PULLS,
    InterestPoint,
    Read,
    hierarchy,
    reads_of,
    rim_saliency,
    saliency_map,
    saliency_with_interest,
    small_enough,
)
from mild_compass.plan.edits.departures import add_departure, next_id
from mild_compass.plan.study import Departure

if TYPE_CHECKING:
    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.picture.load import Picture
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Study

ORDINALS = ("First", "Second", "Third")
RIM_PULLS = 1.15  # times the picture's mean contrast: common practice, no published source
QUIETER_PERCENT = 60.0
AREA = 0.085  # of the diagonal: how far round a competitor its contrast is lowered
AREA_POINTS = 24


@dataclass(frozen=True, slots=True)
class StudyReads:
    """The reads of a study, where they lie on the sheet in mm, and the pull of corners and edges."""

    reads: tuple[Read, ...]
    places_mm: tuple[tuple[float, float], ...]
    corners: float
    edges: float


_READS: Memo[StudyReads] = Memo(3)


def study_reads(picture: Picture, study: Study, paper: Paper, frame_map: FrameMap) -> StudyReads:
    """Judged on the framed picture with its planned departures and the artist's marks."""
    key = (study.frame, paper, study.reads)
    return _READS.of(picture, key, lambda: _judged(picture, study, paper, frame_map))


def _judged(picture: Picture, study: Study, paper: Paper, frame_map: FrameMap) -> StudyReads:
    values = small_enough(framed_lightness(picture, study.frame, paper, LONGEST_PX).values)
    pulls = interest_in_frame(study, frame_map)
    reads = tuple(reads_of(values, pulls=pulls))
    box = frame_map.box
    places = tuple((box.left + each.x * box.width, box.top + each.y * box.height) for each in reads)
    return StudyReads(reads, places, *rim_saliency(saliency_with_interest(saliency_map(values), pulls)))


def interest_in_frame(study: Study, frame_map: FrameMap) -> list[InterestPoint]:
    """The artist's marks that lie in the frame, in shares of it, with their weight."""
    box, found = frame_map.box, []
    for each in study.reads.pulls:
        x, y = frame_map.to_sheet((each.x_px, each.y_px)).tolist()
        share = ((x - box.left) / box.width, (y - box.top) / box.height)
        if 0 <= share[0] <= 1 and 0 <= share[1] <= 1:
            found.append((*share, PULLS[each.kind]))
    return found


def read_readings(worked: Worked) -> list[Reading]:
    """All of them; none while the picture is still being read."""
    if worked.picture is None:
        return []
    found = study_reads(worked.picture, worked.study, worked.plan.paper, worked.frame_map)
    if not found.reads:
        text = "Nothing stands out: the picture is too even in its values for a first read."
        return [Reading("read_1", "First read", text, verdict="look")]
    return [*_reads(worked, found), *_leading(found), *_focus(worked, found), *_rim(found)]


def _reads(worked: Worked, found: StudyReads) -> list[Reading]:
    rows = []
    box = worked.frame_map.box
    for k, (read, place) in enumerate(zip(found.reads, found.places_mm, strict=True)):
        at = " and ".join(format_length(mm, worked.unit) for mm in (place[0] - box.left, place[1] - box.top))
        text = f"{ORDINALS[k]} read: {at} from the left and the top of the picture."
        verdict: Verdict = "fine"
        remedy = None
        if k and read.strength >= COMPETING:
            verdict = "look"
            text += f" At {100 * read.strength:.0f} % of the first it competes with it."
            remedy = add_departure(quietened(worked, place))
        mark = Place.box(place[0] - 6, place[1] - 6, place[0] + 6, place[1] + 6)
        shown = "strongest" if k == 0 else f"{100 * read.strength:.0f} %"
        label = f"{ORDINALS[k]} read"
        rows.append(
            Reading(f"read_{k + 1}", label, text, round(100 * read.strength, 1), "%", verdict, mark, remedy, shown)
        )
    return rows


def quietened(worked: Worked, place_mm: tuple[float, float]) -> Departure:
    """A planned change that takes contrast away round a place, with a soft edge."""
    box = worked.frame_map.box
    radius = AREA * hypot(box.width, box.height)
    ring = [
        (place_mm[0] + radius * cos(2 * pi * k / AREA_POINTS), place_mm[1] + radius * sin(2 * pi * k / AREA_POINTS))
        for k in range(AREA_POINTS)
    ]
    points = tuple((float(x), float(y)) for x, y in worked.frame_map.to_photo(np.array(ring)))
    xs, ys = [x for x, _ in points], [y for _, y in points]
    middle = ((min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2)
    return Departure(
        next_id(worked.plan),
        "less contrast",
        points,
        "what competes",
        "it competes with the first read",
        QUIETER_PERCENT,
        x_px=middle[0],
        y_px=middle[1],
    )


def _leading(found: StudyReads) -> list[Reading]:
    lead = hierarchy(found.reads)
    if lead >= 1 - COMPETING:
        text = f"The first read leads clearly, by {100 * lead:.0f} %."
        return [Reading("hierarchy", "Hierarchy", text, round(lead, 3), "", shown=f"{lead:.2f}")]
    text = f"The first read leads by only {100 * lead:.0f} %: two places shout at once."
    return [Reading("hierarchy", "Hierarchy", text, round(lead, 3), "", "look", shown=f"{lead:.2f}")]


def _focus(worked: Worked, found: StudyReads) -> list[Reading]:
    focus = worked.study.reads.focus
    if focus is None:
        return []
    box = worked.frame_map.box
    x, y = worked.frame_map.to_sheet(focus).tolist()
    reach = APART * hypot(box.width, box.height)
    offs = [hypot(x - px, y - py) for px, py in found.places_mm]
    near = next((k for k, off in enumerate(offs) if off <= reach), None)
    mark = Place.box(x - 6, y - 6, x + 6, y + 6)
    if near == 0:
        text = "The strongest contrast sits where you want the eye to end."
        return [Reading("focus", "Focus", text, 1.0, "", "fine", mark, shown="first read")]
    away = format_length(offs[0], worked.unit)
    place = f"It is the {ORDINALS[near].lower()} read" if near is not None else "It is none of the three reads"
    text = f"{place}; the strongest contrast sits {away} away from it. Quieten that, or sharpen the focus."
    remedy = add_departure(quietened(worked, found.places_mm[0]))
    number = None if near is None else near + 1.0
    shown = f"read {near + 1}" if near is not None else "not read"
    return [Reading("focus", "Focus", text, number, "", "look" if near is not None else "act", mark, remedy, shown)]


def _rim(found: StudyReads) -> list[Reading]:
    rows = []
    for key, label, value in (("corner_pull", "Corners", found.corners), ("edge_pull", "Edges", found.edges)):
        text = f"Contrast there is {value:.2f} times the picture's mean"
        if value <= RIM_PULLS:
            rows.append(
                Reading(key, label, f"{text}: they keep quiet.", round(value, 3), "times", shown=f"{value:.2f} ×")
            )
        else:
            text += ": they pull the eye out. Darken them, or take contrast away there."
            rows.append(Reading(key, label, text, round(value, 3), "times", "look", shown=f"{value:.2f} ×"))
    return rows
