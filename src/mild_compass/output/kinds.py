"""The kinds of file a sheet can be written as, by suffix."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.output.print_sheet import print_sheet, svg_sheet
from mild_compass.output.write_pixels import layered_sheet, png_sheet

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder

SHEET_WRITERS: dict[str, Callable[[Plan, PhotoFolder, Picture | None], bytes]] = {
    ".pdf": print_sheet,
    ".svg": svg_sheet,
    ".png": png_sheet,
    ".ora": layered_sheet,
}
