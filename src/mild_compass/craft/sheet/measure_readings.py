"""What the measures, the motif and the kinds of line say."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.reading import Place, Reading
from mild_compass.craft.sheet.alignments import alignments
from mild_compass.craft.sheet.lifting import LAYER_WORDS, to_lift
from mild_compass.craft.sheet.measure import measures, side_words
from mild_compass.craft.sheet.motif import repeats
from mild_compass.craft.sheet.symmetry import compared_sides
from mild_compass.craft.sheet_sizes.lengths import format_length

if TYPE_CHECKING:
    from mild_compass.craft.drawing import Drawing
    from mild_compass.craft.sheet.measure import DatumLine, Measures
    from mild_compass.craft.worked import Worked

MOST_TOLD = 4
UNEVEN_SHARE = 0.06  # of the width: a thing whose sides differ by more looks crooked (common practice)
TOP_HEAVY = 0.5


def measure_readings(worked: Worked) -> list[Reading]:
    """Lengths against the unit, what lines up, the two sides of a thing, shapes between things."""
    found = measures(worked.study.measures, worked.frame_map)
    readings = [*_compared(found, worked), *_aligned(worked), *_sides(worked)]
    if found.negatives:
        largest = max(found.negatives, key=lambda row: row.area_mm2)
        text = (
            f"{_count(len(found.negatives), 'shape')} between things; the largest, {largest.name}, is "
            f"{format_length(largest.width_mm, worked.unit)} × {format_length(largest.height_mm, worked.unit)}."
        )
        readings.append(
            Reading("negatives", "Shapes between", text, largest.area_mm2, "mm²", shown=str(len(found.negatives)))
        )
    return readings


def _count(number: int, word: str) -> str:
    return f"{number} {word}{'' if number == 1 else 's'}"


def _compared(found: Measures, worked: Worked) -> list[Reading]:
    readings = []
    if found.lengths and found.unit_name:
        others = [row for row in found.lengths if row.name != found.unit_name][:MOST_TOLD]
        told = "; ".join(f"{row.name} {row.units:.2f}" for row in others) or "nothing else is measured yet"
        text = f"Taking {found.unit_name} as one: {told}."
        readings.append(Reading("units", "Compared", text, shown=found.unit_name))
    if found.points and found.datums:
        row = found.points[-1]
        told = " and ".join(
            f"{side_words(each.kind, off, format_length(abs(off), worked.unit))} {each.name}"
            for each, off in _nearest(found.datums, row.from_datums_mm)
        )
        text = f"{row.name} lies {told}."
        readings.append(Reading("datum", "From the datum", text, shown=_count(len(found.points), "place")))
    return readings


def _nearest(datums: tuple[DatumLine, ...], offs: tuple[float, ...]) -> list[tuple[DatumLine, float]]:
    """The nearest upright and the nearest level datum."""
    best: dict[str, tuple[DatumLine, float]] = {}
    for each, off in zip(datums, offs, strict=True):
        if each.kind not in best or abs(off) < abs(best[each.kind][1]):
            best[each.kind] = (each, off)
    return list(best.values())


def _aligned(worked: Worked) -> list[Reading]:
    found = alignments(worked.study.measures, worked.frame_map)
    if not found:
        return []
    told = "; ".join(each.words for each in found[:MOST_TOLD])
    more = f"; and {len(found) - MOST_TOLD} more" if len(found) > MOST_TOLD else ""
    place = Place(tuple(each.line_mm for each in found[:MOST_TOLD]))
    return [Reading("aligned", "Lines up", f"{told}{more}.", float(len(found)), "", place=place, shown=str(len(found)))]


def _sides(worked: Worked) -> list[Reading]:
    symmetry = worked.study.measures.symmetry
    if symmetry is None:
        return []
    sides = compared_sides(symmetry, worked.frame_map)
    worst = sides.worst
    if worst is None:
        text = f"The axis stands {sides.lean}. Draw round the thing to compare its sides."
        return [Reading("sides", "Both sides", text, verdict="look", shown=sides.lean)]
    side = "right" if worst.off_mm > 0 else "left"
    uneven = abs(worst.off_mm) > UNEVEN_SHARE * (worst.left_mm + worst.right_mm)
    text = (
        f"The axis is {sides.lean}. The {side} side is wider by {format_length(abs(worst.off_mm), worked.unit)} "
        f"where they differ most; on the whole by {format_length(abs(sides.mean_off_mm), worked.unit)}."
    )
    place = Place((worst.line_mm,))
    verdict = "look" if uneven else "fine"
    return [Reading("sides", "Both sides", text, worst.off_mm, "mm", verdict, place, shown=sides.lean)]  # type: ignore[arg-type]


def motif_readings(worked: Worked) -> list[Reading]:
    """How a motif parts the picture, where it is heavy, and how often the tracing is loaded."""
    motif = worked.study.motif
    if motif is None or not motif.places:
        return []
    found = repeats(motif, worked.frame_map.box)
    sides = found.sides
    text = f"{_count(len(motif.places), 'transfer')}: {sides['front']} from the front of the tracing, {sides['back']} "
    again = {0: "one load is enough", 1: "load it again once"}.get(
        found.reloads, f"load it again {found.reloads} times"
    )
    text += f"from its back; {again}."
    readings = [Reading("transfers", "Transfers", text, float(len(motif.places)), "", shown=str(len(motif.places)))]
    full = 100 * found.positive
    share = f"The motif takes {full:.0f} % of the picture, the empty space {100 - full:.0f} %."
    readings.append(
        Reading("positive", "Filled and empty", share, 100 * found.positive, "%", shown=f"{100 * found.positive:.0f} %")
    )
    heavy = found.lower < TOP_HEAVY
    weight = f"{100 * found.lower:.0f} % of its weight lies in the lower half" + (
        ": it hangs." if heavy else ": it stands."
    )
    readings.append(
        Reading(
            "lower",
            "Weight below",
            weight,
            100 * found.lower,
            "%",
            "look" if heavy else "fine",
            shown=f"{100 * found.lower:.0f} %",
        )
    )
    readings.append(_contacts(found.contacts, found.triangle))
    return readings


def _contacts(contacts: tuple[tuple[str, float, float], ...], triangle: float) -> Reading:
    names = ", ".join(name for name, _, _ in contacts)
    if len(contacts) > 2:
        text = f"It meets the edges {names}; the triangle between takes in {100 * triangle:.0f} % of the picture."
        points = tuple((x, y) for _, x, y in contacts[:3])
        return Reading(
            "contacts", "Contacts", text, float(len(contacts)), "", place=Place(((*points, points[0]),)), shown=names
        )
    met = "no edge" if not contacts else "only the edge " + " and ".join(name for name, _, _ in contacts)
    text = f"It meets {met}: three contacts would hold it in place."
    return Reading("contacts", "Contacts", text, float(len(contacts)), "", "look", shown=names or "none")


def lift_reading(worked: Worked, drawing: Drawing) -> list[Reading]:
    """What is to be lifted at the end."""
    sheet = worked.study.sheet
    rows = to_lift(drawing, sheet)
    uncounted = [LAYER_WORDS["lines"]] if "lines" in sheet.layers and "lines" not in sheet.staying else []
    if not rows and not uncounted:
        return []
    counted = [f"{row.name} ({_count(row.lines, 'line')}, {row.length_mm / 1000:.1f} m)" for row in rows[:MOST_TOLD]]
    text = f"Draw these light, and lift them at the end: {'; '.join([*counted, *uncounted])}."
    lines = float(sum(row.lines for row in rows))
    kinds = _count(len(rows) + len(uncounted), "kind")
    return [Reading("lift", "To lift", text, lines, "lines", shown=kinds)]
