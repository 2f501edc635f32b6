"""What the values say: shares and shapes of the masses, changes by hand, the reads, the colours that deceive."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
import shapely

from mild_compass.craft.memo import Memo
from mild_compass.craft.picture.framed import laid_on_sheet, sized
from mild_compass.craft.reading import Place, Reading, Verdict
from mild_compass.craft.values.mass_readings import mass_readings
from mild_compass.craft.values.names import names_of
from mild_compass.craft.values.read_readings import read_readings
from mild_compass.craft.values.spot import Trap, traps
from mild_compass.craft.viewfinder.rules import RULES
from mild_compass.plan.edits.values import change_values

if TYPE_CHECKING:
    from mild_compass.craft.values.masses import Masses
    from mild_compass.craft.worked import Worked

MANY_SHAPES = 60
SIMPLER = 8.0  # on the scale of simplicity: border twice as dear
BIG, MIDDLING = 0.15, 0.03  # of the picture: common practice, no published source
NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")
TRAPS_PX = 400
_TRAPS: Memo[list[Trap]] = Memo(3)


def headline(worked: Worked) -> str:
    """For the route."""
    count = worked.study.values.count
    if worked.masses is None:
        return f"{count} values"
    return f"{count} values, {sum(worked.masses.counts)} shapes"


def readings(worked: Worked) -> list[Reading]:
    """All readings of the values; those of the masses are left out while the masses are being found."""
    masses = worked.masses
    found = [*read_readings(worked), *_traps(worked)]
    if masses is None:
        return found
    return [
        *_broken_up(worked, masses),
        *_halves(masses),
        *_by_hand(worked, masses),
        *mass_readings(worked, masses),
        *_shares(masses),
        *found,
    ]


def _traps(worked: Worked) -> list[Reading]:
    """The places whose colour makes one misjudge their value, the worst named."""
    if worked.picture is None:
        return []
    rows, box = [], worked.frame_map.box
    key = (worked.study.frame, worked.plan.paper)
    for k, trap in enumerate(_TRAPS.of(worked.picture, key, lambda: _found_traps(worked)), 1):
        side = "darker" if trap.lightness < trap.suggested else "lighter"
        off = abs(trap.lightness - trap.suggested)
        text = f"This {trap.hue} is L* {trap.lightness:.0f}: {off:.0f} {side} than {_a(trap.hue)} so strong suggests."
        x, y = box.left + trap.x * box.width, box.top + trap.y * box.height
        place = Place.box(x - 8, y - 8, x + 8, y + 8)
        label, words = f"Value trap: {trap.hue}", f"L* {trap.lightness:.0f}"
        rows.append(Reading(f"trap_{k}", label, text, round(trap.lightness, 1), "L*", "look", place, None, words))
    return rows


def _found_traps(worked: Worked) -> list[Trap]:
    picture, frame_map = worked.picture, worked.frame_map
    assert picture is not None
    size = (picture.width_px, picture.height_px)
    return traps(laid_on_sheet(picture.rgb, size, frame_map, *sized(frame_map, TRAPS_PX)))


def _a(word: str) -> str:
    return f"an {word}" if word[0] in "aeiou" else f"a {word}"


def _by_hand(worked: Worked, masses: Masses) -> list[Reading]:
    """Shapes changed by hand, and those whose change does not fit any more."""
    changes = worked.study.values.changes
    if not changes:
        return []
    if not masses.unfit:
        text = f"{len(changes)} shapes were changed by hand, and all still fit."
        if len(changes) == 1:
            text = "One shape was changed by hand, and it still fits."
        return [Reading("by_hand", "By hand", text, float(len(changes)), "shapes", shown=str(len(changes)))]
    why = "; ".join(sorted({each.why for each in masses.unfit}))
    text = f"{len(masses.unfit)} of {len(changes)} shapes changed by hand do not fit any more: {why}."
    return [
        Reading("by_hand", "By hand", text, float(len(masses.unfit)), "shapes", "look", shown=str(len(masses.unfit)))
    ]


def _shares(masses: Masses) -> list[Reading]:
    found = []
    for name, share, count, shown in zip(
        names_of(len(masses.shares)), masses.shares, masses.counts, masses.shown, strict=True
    ):
        shapes = "1 shape" if count == 1 else f"{count} shapes"
        text = f"The {name} (L* {shown:.0f}) takes {100 * share:.1f} % of the picture in {shapes}."
        found.append(
            Reading(f"share_{name}", name.capitalize(), text, round(100 * share, 2), "%", shown=f"{100 * share:.0f} %")
        )
    return found


def _broken_up(worked: Worked, masses: Masses) -> list[Reading]:
    total = sum(masses.counts)
    verdict: Verdict = "fine" if total <= MANY_SHAPES else "look"
    remedy = None
    largest = 100 * masses.largest_share
    text = f"{in_words(masses)} The largest is {largest:.0f} % of the picture."
    if verdict == "look":
        text += " Much broken up: simpler masses, or fewer values, would calm it."
        values = worked.study.values
        remedy = change_values(replace(values, simple=min(values.simple + SIMPLER, 100.0)))
    return [Reading("shapes", "Shapes", text, float(total), "shapes", verdict, None, remedy, str(total))]


def in_words(masses: Masses) -> str:
    """How the picture falls apart, for instance "One big dark, three middle-sized shapes, the rest crumbs."."""
    areas = np.sort(shapely.area(masses.shapes.polygons))[::-1] / masses.steps.size
    big, middling = int((areas >= BIG).sum()), int(((areas < BIG) & (areas >= MIDDLING)).sum())
    rest = len(areas) - big - middling
    name = names_of(len(masses.shares))[masses.largest_value]
    parts = []
    if big:
        parts.append(f"one big {name}" if big == 1 else f"{_number(big)} big shapes, the largest {name}")
    if middling:
        parts.append(f"{_number(middling)} middle-sized shape{'s' if middling > 1 else ''}")
    if rest:
        parts.append(f"{'the rest' if parts else 'nothing but'} crumbs ({rest})")
    return f"{', '.join(parts).capitalize()}."


def _number(count: int) -> str:
    return NUMBERS[count] if count < len(NUMBERS) else str(count)


def _halves(masses: Masses) -> list[Reading]:
    """Dark against light: the values below the middle of the scale against those above."""
    dark = sum(share for share, shown in zip(masses.shares, masses.shown, strict=True) if shown < 50)
    text = f"The values darker than middle grey take {100 * dark:.0f} %, the lighter {100 - 100 * dark:.0f} %."
    verdict: Verdict = "fine"
    if abs(dark - 0.5) <= RULES.equal_halves:
        verdict = "look"
        text += " Equal halves are static; let one of them lead."
    return [
        Reading("dark_share", "Dark to light", text, round(100 * dark, 2), "%", verdict, shown=f"{100 * dark:.0f} %")
    ]
