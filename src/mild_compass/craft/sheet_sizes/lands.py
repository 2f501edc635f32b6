"""What is usual where the artist lives, as the locale tells it: the unit of length, the page in the printer."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from mild_compass.craft.sheet.printer import UsualPage
    from mild_compass.craft.sheet_sizes.lengths import Unit

# Unicode CLDR, supplemental data, measurement data: territories that measure in inches, and those whose usual page is
# US Letter.
INCH_LANDS = ("_US", "_LR", "_MM")
LETTER_LANDS = ("_US", "_CA", "_MX", "_PH", "_CL", "_CO", "_CR", "_GT", "_PA", "_VE")


def _land(category: str) -> str:
    """For instance "de_AT", from the environment; empty where it names none.

    Python's own locale.getlocale calls the plain C locale "en_US", which would put inches before everybody without one.
    """
    named = next((os.environ[key] for key in ("LC_ALL", category, "LANG") if os.environ.get(key)), "")
    return named.partition(".")[0].partition("@")[0]


def unit_of_locale() -> Unit:
    """Millimetres, except where people measure in inches."""
    return "in" if _land("LC_MEASUREMENT").endswith(INCH_LANDS) else "mm"


def page_of_locale() -> UsualPage:
    """The page that lies in most printers there."""
    return "Letter" if _land("LC_PAPER").endswith(LETTER_LANDS) else "A4"
