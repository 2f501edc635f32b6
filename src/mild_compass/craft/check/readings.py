"""What the check says: first the whole, then what is off besides, strings, measures, values, and what is not drawn."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from mild_compass.craft.check.heads import drawn_heads
from mild_compass.craft.check.planned import WORDS
from mild_compass.craft.check.where import drawn_lengths, drawn_strings
from mild_compass.craft.check.words import apart_words, shift_words, turn_words
from mild_compass.craft.reading import Place, Reading
from mild_compass.craft.sheet_sizes.lengths import format_length

if TYPE_CHECKING:
    from mild_compass.craft.check.checked import Checked, PartFound, WholeFound
    from mild_compass.craft.reading import Verdict
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.pictures import OwnDrawing

TELLS_MM, ACT_MM = 0.5, 2.0  # of a part: less is not worth a word; so far off it is to be mended
SHIFTED_MM = 0.8  # of the whole: less is not worth a word
TELLS_PERCENT, TELLS_DEG = 0.3, 0.15
SAME_MM = 6.0
HALF_STEP = 0.5
FIRST_READ_MM = 25.0
WHEREABOUTS = (
    ("at the upper left", "at the top", "at the upper right"),
    ("at the left", "in the middle", "at the right"),
    ("at the lower left", "at the bottom", "at the lower right"),
)
NOT_YET = (
    "Take a photo of your sheet with any phone, all four corners in it, and add it here: what is off is told in mm "
    "while it can still be rubbed out. To try it first, have one drawn for you, badly."
)


def headline(worked: Worked) -> str:
    """For the route."""
    drawing, checked = worked.plan.drawing, worked.check
    if drawing is None:
        return "no photo yet"
    if checked is None:
        return "looking …"
    if checked.problem:
        return "not told"
    off = off_parts(checked, drawing)
    if not off:
        return "nothing off"
    return f"{len(off)} off, {format_length(max(part.far_mm for part in off), worked.unit)}"


def off_parts(checked: Checked, drawing: OwnDrawing) -> list[PartFound]:
    """Parts that are off beyond doubt and not ticked as mended, the furthest first."""
    sure = [part for part in checked.parts if part.sure and not is_mended(part, drawing)]
    return sorted(sure, key=lambda part: -part.far_mm)


def is_mended(part: PartFound, drawing: OwnDrawing) -> bool:
    """Whether the artist has ticked it."""
    return any(np.hypot(part.centre_mm[0] - x, part.centre_mm[1] - y) < SAME_MM for x, y in drawing.mended)


def readings(worked: Worked) -> list[Reading]:
    """All readings of the check, of the drawing that is chosen."""
    drawing, checked = worked.plan.drawing, worked.check
    if drawing is None:
        return [Reading("no_drawing", "Drawing", NOT_YET, shown="–")]
    if checked is None:
        return []
    found = _corners(checked, drawing)
    if checked.problem:
        return [*found, Reading("problem", "Not told", checked.problem, verdict="look", shown="?"), *_values(worked)]
    found += [_whole(worked, checked)]
    found += [_part(worked, part, number) for number, part in enumerate(off_parts(checked, drawing), 1)]
    found += _doubtful(checked, worked)
    found += _strings(worked, checked)
    found += _heads(worked, checked)
    found += _measures(worked, checked)
    found += _values(worked)
    return [*found, *_missing(worked, checked)]


def _corners(checked: Checked, drawing: OwnDrawing) -> list[Reading]:
    found = []
    if checked.remark:
        found.append(Reading("sheet_seen", "The sheet", checked.remark, verdict="look", shown="?"))
    elif not checked.sure and not checked.problem:
        text = (
            "The corners of the sheet are not seen well enough to be sure of every mm. Look at them and put them right."
        )
        found.append(Reading("corners", "Corners", text, verdict="look", shown="?"))
    if drawing.corners_px:
        found.append(Reading("corners", "Corners", "The corners are those you have set by hand.", shown="by hand"))
    return found


# -- the whole -------------------------------------------------------------------------------------------------


def _is_shifted(whole: WholeFound) -> bool:
    return bool(np.hypot(*whole.shift_mm) > max(SHIFTED_MM, 3 * whole.sigma[0]))


def _is_changed(whole: WholeFound) -> bool:
    scaled = abs(whole.scale_percent) > max(TELLS_PERCENT, 3 * whole.sigma[1])
    turned = abs(whole.turn_deg) > max(TELLS_DEG, 3 * whole.sigma[2])
    return scaled or turned or abs(whole.shear_percent) > 3 * TELLS_PERCENT


def _whole(worked: Worked, checked: Checked) -> Reading:
    whole, unit = checked.whole, worked.unit
    assert whole is not None
    far = float(np.hypot(*whole.shift_mm))
    box = worked.frame_map.box
    if not _is_shifted(whole) and not _is_changed(whole):
        text = f"The whole sits where it belongs, within {format_length(max(far, 0.1), unit)}."
        return Reading("whole", "The whole", text, far, "mm", shown=format_length(far, unit))
    parts = []
    if _is_shifted(whole):
        parts.append(f"lies {shift_words(whole.shift_mm, unit)}")
    if abs(whole.scale_percent) > max(TELLS_PERCENT, 3 * whole.sigma[1]):
        grown = abs(whole.scale_percent) / 100 * box.width
        size = "large" if whole.scale_percent > 0 else "small"
        parts.append(f"is {abs(whole.scale_percent):.1f} % too {size} ({format_length(grown, unit)} over its width)")
    if abs(whole.turn_deg) > max(TELLS_DEG, 3 * whole.sigma[2]):
        parts.append(f"is turned {turn_words(whole.turn_deg)}")
    if abs(whole.shear_percent) > 3 * TELLS_PERCENT:
        parts.append(f"leans by {abs(whole.shear_percent):.1f} %: it was drawn at a slant")
    text = f"The whole {', '.join(parts)}. {_remedy(worked, checked)}"
    return Reading("whole", "The whole", text, far, "mm", verdict="look", shown=format_length(far, unit))


def _remedy(worked: Worked, checked: Checked) -> str:
    whole, frame = checked.whole, checked.frame
    assert whole is not None
    back = shift_words((-whole.shift_mm[0], -whole.shift_mm[1]), worked.unit, moves=True)
    if frame is not None and np.hypot(*np.subtract(frame.shift_mm, whole.shift_mm)) < TELLS_MM:
        return "The drawn frame is off by the same: picture and frame fit each other, so leave both."
    if not _is_changed(whole):
        forth = shift_words(whole.shift_mm, worked.unit, moves=True)
        kept = ", and the drawn frame is where it was planned" if frame is not None else ""
        return f"Nothing inside is wrong by that{kept}: move the frame or the tape {forth} instead of the picture."
    if checked.parts:
        return "What follows is told besides that."
    return f"Leave it as it is unless the edges suffer; to put the middle right, move all {back}."


# -- the parts -------------------------------------------------------------------------------------------------


def part_name(part: PartFound, worked: Worked) -> str:
    """What it is called: by the artist's own names, or by where it is."""
    return part.name or f"the part {_whereabouts(part.centre_mm, worked)}"


def _whereabouts(centre_mm: tuple[float, float], worked: Worked) -> str:
    box = worked.frame_map.box
    across = (centre_mm[0] - box.left) / box.width
    down = (centre_mm[1] - box.top) / box.height
    row = 0 if down < 1 / 3 else 2 if down > 2 / 3 else 1
    column = 0 if across < 1 / 3 else 2 if across > 2 / 3 else 1
    return WHEREABOUTS[row][column]


def part_words(part: PartFound, worked: Worked) -> str:
    """How it is off, in the words of the trade."""
    words = [apart_words(part.shift_mm, worked.unit)] if part.far_mm > TELLS_MM else []
    if abs(part.scale_percent) > 2.0:
        words.append(f"{abs(part.scale_percent):.0f} % too {'large' if part.scale_percent > 0 else 'small'}")
    if abs(part.turn_deg) > 1.0:
        words.append(f"turned {turn_words(part.turn_deg)}")
    return ", ".join(words) or f"off by {format_length(part.far_mm, worked.unit)}"


def _part(worked: Worked, part: PartFound, number: int) -> Reading:
    name = part_name(part, worked)
    text = f"{name[:1].upper()}{name[1:]}: {part_words(part, worked)}."
    verdict: Verdict = "act" if part.far_mm >= ACT_MM else "look"
    label = name[:1].upper() + name[1:]
    return Reading(
        f"part {number}",
        label,
        text,
        part.far_mm,
        "mm",
        verdict,
        Place(part.lines_mm),
        shown=format_length(part.far_mm, worked.unit),
    )


def _doubtful(checked: Checked, worked: Worked) -> list[Reading]:
    doubtful = [part for part in checked.parts if not part.sure and part.far_mm > TELLS_MM]
    if not doubtful:
        return []
    names = " and ".join(dict.fromkeys(part_name(part, worked) for part in doubtful[:3]))
    text = f"Perhaps off, but too few lines tell: {names}. Drag from the plan to where it was drawn, and it is known."
    place = Place(tuple(line for part in doubtful for line in part.lines_mm))
    return [
        Reading("doubtful", "Not sure", text, float(len(doubtful)), "parts", "fine", place, shown=str(len(doubtful)))
    ]


# -- strings, measures, values, what is missing ----------------------------------------------------------------


def _strings(worked: Worked, checked: Checked) -> list[Reading]:
    drawn = drawn_strings(checked, worked)
    off = [each for each in drawn if each.is_off][:3]
    if not drawn:
        return []
    if not off:
        text = f"{len(drawn)} drawn edges run to their points."
        return [Reading("drawn_strings", "Strings", text, 0.0, "mm", shown="true")]
    found = []
    for each in off:
        far = abs(each.check.off_mm)
        text = f"{each.name[:1].upper()}{each.name[1:]} as drawn: {each.check.words}, then it runs to {each.letter}."
        place = Place(((each.from_mm, each.to_mm),))
        found.append(
            Reading(
                f"string {each.name}", "String", text, far, "mm", "look", place, shown=format_length(far, worked.unit)
            )
        )
    return found


def _heads(worked: Worked, checked: Checked) -> list[Reading]:
    found = []
    for each in [head for head in drawn_heads(checked, worked) if head.is_off][:3]:
        way = "low" if each.low_mm > 0 else "high"
        told = format_length(abs(each.low_mm), worked.unit)
        text = f"The head of {each.name} is drawn {told} too {way} against the eye level."
        x, y = each.at_mm
        place = Place.box(x - 4, y - 4, x + 4, y + 4)
        found.append(Reading(f"head {each.name}", "Head", text, abs(each.low_mm), "mm", "look", place, shown=told))
    return found


def _measures(worked: Worked, checked: Checked) -> list[Reading]:
    off = [each for each in drawn_lengths(checked, worked) if each.is_off]
    found = []
    for each in sorted(off, key=lambda length: -abs(length.off_percent))[:3]:
        assert each.drawn_mm is not None
        more = "long" if each.off_percent > 0 else "short"
        text = (
            f"{each.name}: drawn {format_length(each.drawn_mm, worked.unit)}, planned "
            f"{format_length(each.planned_mm, worked.unit)}: {abs(each.off_percent):.0f} % too {more}."
        )
        far = abs(each.drawn_mm - each.planned_mm)
        found.append(
            Reading(
                f"length {each.name}",
                each.name,
                text,
                far,
                "mm",
                "look",
                shown=format_length(each.drawn_mm, worked.unit),
            )
        )
    return found


def _values(worked: Worked) -> list[Reading]:
    tones = worked.tones
    if tones is None:
        return []
    off = [each for each in tones.values if abs(each.steps_off) > HALF_STEP]
    found = []
    if not off:
        text = f"All {len(tones.values)} masses are within half a step of their planned value."
        found.append(Reading("values_drawn", "Values", text, 0.0, "steps", shown="true"))
    for each in sorted(off, key=lambda value: -abs(value.steps_off) * value.area_mm2**0.5)[:3]:
        steps = abs(each.steps_off)
        way = "light" if each.steps_off > 0 else "dark"
        told = "half a step" if steps < 0.8 else "one step" if steps < 1.3 else f"{steps:.1f} steps"
        text = f"The {each.name}: {told} too {way} (L* {each.drawn:.0f}, planned {each.planned:.0f})."
        verdict: Verdict = "act" if steps >= 1.5 else "look"
        found.append(
            Reading(
                f"value {each.name}",
                f"Value: {each.name}",
                text,
                each.steps_off,
                "steps",
                verdict,
                Place((each.outline_mm,)),
                shown=told,
            )
        )
    focus = worked.study.reads.focus
    if focus is not None and tones.first_read_mm is not None:
        wanted = worked.frame_map.to_sheet(focus)
        far = float(np.hypot(*(wanted - tones.first_read_mm)))
        if far > FIRST_READ_MM:
            text = f"In the drawing the eye ends {format_length(far, worked.unit, 0)} away from the focus of the plan."
            mark = Place.box(*(c + d for d in (-4, 4) for c in tones.first_read_mm))
            found.append(
                Reading(
                    "drawn_read", "First read", text, far, "mm", "look", mark, shown=format_length(far, worked.unit, 0)
                )
            )
        else:
            found.append(
                Reading("drawn_read", "First read", "The eye ends at the focus, as planned.", far, "mm", shown="true")
            )
    return found


def _missing(worked: Worked, checked: Checked) -> list[Reading]:
    found = []
    if checked.missing:
        named = list(dict.fromkeys(each.name for each in checked.missing if each.name))
        rest = len(checked.missing) - sum(bool(each.name) for each in checked.missing)
        what = ", ".join(named[:4]) or "some lines"
        more = f" and {rest} more places" if named and rest else ""
        length = format_length(sum(each.length_mm for each in checked.missing), worked.unit, 0)
        place = Place(tuple(line for each in checked.missing for line in each.lines_mm))
        text = f"Not drawn yet, which is not wrong: {what}{more}, {length} of line."
        found.append(
            Reading(
                "missing",
                "Not drawn yet",
                text,
                float(len(checked.missing)),
                "places",
                place=place,
                shown=str(len(checked.missing)),
            )
        )
    kinds = [WORDS[kind] for kind in worked.study.sheet.layers if kind in checked.not_drawn_kinds]
    if kinds:
        text = f"Printed with the plan, but not on the paper: {', '.join(kinds)}. They were not compared."
        found.append(Reading("kinds", "Not compared", text, shown=str(len(kinds))))
    return found
