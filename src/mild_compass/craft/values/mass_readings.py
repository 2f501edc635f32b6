"""What the shapes and edges say: which lights come first, where edges are hard, what melts, what could be joined."""

from __future__ import annotations

from math import hypot
from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.reading import Place, Reading, Verdict
from mild_compass.craft.sheet_sizes.lengths import format_length
from mild_compass.craft.values.edges import Edge, edges_of, measured_edges, shares
from mild_compass.craft.values.joins import Join, joins_of
from mild_compass.craft.values.names import names_of
from mild_compass.craft.values.ranks import competing, name_near, ranked
from mild_compass.craft.values.reads import APART
from mild_compass.craft.values.subjects import MELTS, Subject, subjects_of
from mild_compass.plan.edits.departures import add_departure, next_id
from mild_compass.plan.edits.values import change_edge, change_mass, next_mass_id, next_value_id
from mild_compass.plan.study import Departure
from mild_compass.plan.tones import EdgeChange, MassChange

if TYPE_CHECKING:
    from mild_compass.craft.values.masses import Masses
    from mild_compass.craft.worked import Worked

HARDEST_MM = 8.0  # a shorter hard edge is no rival to the focus
SHOWN_POINTS = 60  # of an outline that is shown


def mass_readings(worked: Worked, masses: Masses) -> list[Reading]:
    """All of them; those that take a while only once they have been measured."""
    if not worked.measured:
        return [*_subjects(worked, masses), *_order(worked, masses)]
    return [*_joins(worked, masses), *_subjects(worked, masses), *_order(worked, masses), *_edges(worked, masses)]


def prepare(masses: Masses, smallest_mm2: float) -> None:
    """Measure what takes a while, so that the readings need not: for the worker that has made the masses."""
    joins_of(masses, smallest_mm2)
    measured_edges(masses)


def _order(worked: Worked, masses: Masses) -> list[Reading]:
    """The lightest lights and the darkest darks, ranked and named."""
    found = []
    for key, label, lightest in (("lights", "Lights in order", True), ("darks", "Darks in order", False)):
        some = ranked(masses, worked, lightest)
        if len(some) < 2:
            continue
        names = [name_near(worked, each.middle_mm) for each in some]
        text = ", ".join(
            f"{k} {name} (L* {each.lightness:.0f})" for k, (name, each) in enumerate(zip(names, some, strict=True), 1)
        )
        verdict: Verdict = "fine"
        rivals = competing(some)
        if rivals and rivals[0][0] is some[0]:
            verdict = "look" if lightest else "fine"  # darks of one value only hold together
            text += ". The first two are of one value and compete: let one of them lead."
        else:
            text += "."
        place = Place(tuple(_shown(each.outline_mm) for each in some))
        found.append(Reading(key, label, text, round(some[0].lightness, 1), "L*", verdict, place, None, names[0]))
    return found


def _shown(line: np.ndarray) -> tuple[tuple[float, float], ...]:
    """A line with few points, for showing where it is."""
    every = max(1, len(line) // SHOWN_POINTS)
    points = [*line[::every].tolist(), line[-1].tolist()]
    return tuple((float(x), float(y)) for x, y in points)


def _edges(worked: Worked, masses: Masses) -> list[Reading]:
    edges = edges_of(masses, worked.study.values.edges, worked.frame_map)
    part = shares(edges)
    if not part:
        return []
    words = ", ".join(f"{100 * share:.0f} % {kind}" for kind, share in part.items())
    text = f"Of the borders {words}."
    verdict: Verdict = "fine"
    if part["hard"] > ALL_HARD:
        verdict = "look"
        text += " Where all is hard nothing leads: lose some of them."
    hard = 100 * part["hard"]
    found = [Reading("edges", "Hard and soft", text, round(hard, 1), "%", verdict, None, None, f"{hard:.0f} % hard")]
    return [*found, *_hardest(worked, edges)]


ALL_HARD = 0.85  # of all length: common practice, no published source


def _hardest(worked: Worked, edges: tuple[Edge, ...]) -> list[Reading]:
    """Whether the hardest edge is where the eye is to end."""
    focus = worked.study.reads.focus
    hard = [edge for edge in edges if edge.kind == "hard" and edge.length_mm >= HARDEST_MM]
    if focus is None or not hard:
        return []
    hardest = max(hard, key=lambda edge: edge.hardness)
    box, (x, y) = worked.frame_map.box, hardest.middle_mm
    fx, fy = worked.frame_map.to_sheet(focus).tolist()
    away = min(hypot(px - fx, py - fy) for px, py in hardest.line_mm.tolist())
    place, name = Place((_shown(hardest.line_mm),)), name_near(worked, (x, y))
    number = round(hardest.hardness, 1)
    if away <= APART * hypot(box.width, box.height):
        text = "The hardest edge is where you want the eye to end."
        return [Reading("hardest", "Hardest edge", text, number, "L*/mm", "fine", place, None, "at the focus")]
    far = format_length(away, worked.unit)
    text = f"The hardest edge is not at the focus: it is at {name}, {far} away. Soften it, or sharpen the focus."
    px, py = worked.frame_map.to_photo((x, y)).tolist()
    remedy = change_edge(EdgeChange(next_value_id(worked.plan, "edge"), (float(px), float(py)), "soft"))
    return [Reading("hardest", "Hardest edge", text, number, "L*/mm", "look", place, remedy, far)]


def _joins(worked: Worked, masses: Masses) -> list[Reading]:
    """Shapes of one value that a thin strip parts."""
    names, now = names_of(len(masses.shown)), sum(masses.counts)
    rows = []
    for k, join in enumerate(joins_of(masses, worked.study.values.smallest_mm2), 1):
        strip = _on_sheet(worked, masses, join)
        word = f"{names[join.value]}s"
        x, y = strip.mean(0).tolist()
        text = f"Join these two {word} near {name_near(worked, (x, y))}: {join.shapes} shapes instead of {now}."
        points = tuple((float(px), float(py)) for px, py in worked.frame_map.to_photo(strip).tolist())
        change = MassChange(next_mass_id(worked.plan), "area", points, join.value, len(masses.shown))
        place = Place((_shown(np.concatenate([strip, strip[:1]])),))
        shown = f"−{now - join.shapes}"
        rows.append(
            Reading(
                f"join_{k}",
                f"Join two {word}",
                text,
                float(join.shapes),
                "shapes",
                "fine",
                place,
                change_mass(change),
                shown,
            )
        )
    return rows


def _on_sheet(worked: Worked, masses: Masses, join: Join) -> np.ndarray:
    box, (height, width) = worked.frame_map.box, masses.steps.shape
    return np.asarray(join.strip * (box.width / width, box.height / height) + box[:2])


def _subjects(worked: Worked, masses: Masses) -> list[Reading]:
    """Subjects that melt into their ground."""
    rows = []
    for k, each in enumerate(subjects_of(masses, worked), 1):
        if each.melting <= MELTS:
            continue
        name = each.ring.name or f"subject {k}"
        text = (
            f"{name.capitalize()} melts into its ground along {100 * each.melting:.0f} % of its border: less than one "
            "value apart. Change a value there, or lose the edge on purpose."
        )
        ring = each.ring
        box = worked.frame_map.ellipse_bounds(ring.x_px, ring.y_px, ring.radius_x_px, ring.radius_y_px)
        rows.append(
            Reading(
                f"melts_{k}",
                f"{name.capitalize()} and its ground",
                text,
                round(100 * each.melting, 1),
                "%",
                "look",
                Place.box(*box),
                add_departure(_stood_off(worked, each, name)),
                f"{100 * each.melting:.0f} %",
            )
        )
    return rows


def _stood_off(worked: Worked, subject: Subject, name: str) -> Departure:
    """The subject made lighter or darker by a step, whichever it is already a little."""
    ring, angle = subject.ring, np.linspace(0, 2 * np.pi, 24, endpoint=False)
    points = tuple(
        (float(ring.x_px + ring.radius_x_px * np.cos(a)), float(ring.y_px + ring.radius_y_px * np.sin(a)))
        for a in angle
    )
    return Departure(
        next_id(worked.plan),
        "lighten" if subject.lighter >= 0 else "darken",
        points,
        name,
        "it melts into its ground",
        float(round(max(subject.step, 8.0))),
        x_px=ring.x_px,
        y_px=ring.y_px,
    )
