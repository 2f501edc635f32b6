"""Lengths as people write them: 12.5 mm, 3 1/2 in, 3/8"."""

from __future__ import annotations

import re
from math import gcd, isfinite
from typing import Literal

from mild_compass.plan.errors import PlanError

Unit = Literal["mm", "in"]
MM_PER_INCH = 25.4  # exactly: the international yard and pound agreement, 1959
_LENGTH = re.compile(
    r"""^\s*(?P<sign>[+−-]?)\s*
    (?:(?P<whole>\d+)[\s-]+(?P<n>\d+)/(?P<d>\d+)|(?P<n2>\d+)/(?P<d2>\d+)|(?P<number>\d+(?:[.,]\d*)?|[.,]\d+))
    \s*(?P<unit>mm|cm|in|inch|inches|"|″)?\s*$""",
    re.VERBOSE | re.IGNORECASE,
)


def parse_length_mm(text: str, unit: Unit | str = "mm") -> float:
    """A typed length in mm; a bare number is in the given unit; nonsense raises a PlanError.

    Raises:
        PlanError: the text is not a length.
    """
    match = _LENGTH.match(text)
    if match is None:
        raise PlanError(f"“{text.strip()[:30]}” is not a length. Type for instance 12.5 mm or 3 1/2 in.")
    part = match.groupdict()
    try:
        if part["number"]:
            value = float(part["number"].replace(",", "."))
        else:
            value = int(part["whole"] or 0) + int(part["n"] or part["n2"]) / int(part["d"] or part["d2"])
    except (ZeroDivisionError, OverflowError) as error:
        raise PlanError(f"“{text.strip()[:30]}” is not a length. Type for instance 3 1/2 in.") from error
    written = (part["unit"] or unit).lower()
    value *= {"mm": 1.0, "cm": 10.0}.get(written, MM_PER_INCH)
    if not isfinite(value):
        raise PlanError(f"“{text.strip()[:30]}” is too long to be a length on paper.")
    return -value if part["sign"] in ("-", "−") else value


def least_told(unit: Unit) -> float:
    """The shortest length in mm that is not told as nothing: half a tenth of a mm, or half a sixteenth of an inch."""
    return 0.05 if unit == "mm" else MM_PER_INCH / 32


def format_length(length_mm: float, unit: Unit = "mm", digits: int = 1) -> str:
    """A length in mm with so many decimals, or in inches to the nearest sixteenth."""
    if unit == "mm":
        text = f"{length_mm:.{digits}f}"
        return f"{text.replace('-', '−')} mm"
    sixteenths = round(abs(length_mm) / MM_PER_INCH * 16)
    whole, rest = divmod(sixteenths, 16)
    sign = "−" if length_mm < 0 and sixteenths else ""
    if rest == 0:
        return f"{sign}{whole} in"
    part = gcd(rest, 16)
    return f"{sign}{f'{whole} ' if whole else ''}{rest // part}/{16 // part} in"
