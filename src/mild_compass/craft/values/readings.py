"""What the values say: the share of each value, the number of shapes, how broken up the picture is."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.reading import Reading, Verdict
from mild_compass.craft.viewfinder.rules import RULES

if TYPE_CHECKING:
    from mild_compass.craft.values.masses import Masses
    from mild_compass.craft.worked import Worked

NAMES: dict[int, tuple[str, ...]] = {
    2: ("dark", "light"),
    3: ("dark", "middle", "light"),
    4: ("dark", "half-dark", "half-light", "light"),
    5: ("dark", "half-dark", "middle", "half-light", "light"),
    6: ("black", "dark", "half-dark", "half-light", "light", "white"),
    7: ("black", "dark", "half-dark", "middle", "half-light", "light", "white"),
}
MANY_SHAPES = 60


def headline(worked: Worked) -> str:
    """For the route."""
    count = worked.study.values.count
    if worked.masses is None:
        return f"{count} values"
    return f"{count} values, {sum(worked.masses.counts)} shapes"


def readings(worked: Worked) -> list[Reading]:
    """All readings of the values; none while the masses are being found."""
    masses = worked.masses
    if masses is None:
        return []
    return [*_broken_up(masses), *_halves(masses), *_shares(masses)]


def _shares(masses: Masses) -> list[Reading]:
    found = []
    for name, share, count, shown in zip(
        NAMES[len(masses.shares)], masses.shares, masses.counts, masses.shown, strict=True
    ):
        shapes = "1 shape" if count == 1 else f"{count} shapes"
        text = f"The {name} (L* {shown:.0f}) takes {100 * share:.1f} % of the picture in {shapes}."
        found.append(
            Reading(f"share_{name}", name.capitalize(), text, round(100 * share, 2), "%", shown=f"{100 * share:.0f} %")
        )
    return found


def _broken_up(masses: Masses) -> list[Reading]:
    total = sum(masses.counts)
    verdict: Verdict = "fine" if total <= MANY_SHAPES else "look"
    largest = 100 * masses.largest_share
    text = f"{total} shapes; the largest is {largest:.0f} % of the picture."
    if verdict == "look":
        text += " Much broken up: fewer values or a larger smallest shape would calm it."
    return [Reading("shapes", "Shapes", text, float(total), "shapes", verdict, shown=str(total))]


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
