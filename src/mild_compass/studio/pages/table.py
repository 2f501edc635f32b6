"""The one table of pages; each is made at the first visit."""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, cast

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.stations.table import Page
    from mild_compass.studio.window import Window

# Where a page is found in the studio, and what of the window it is made with.
PAGES: dict[Page, tuple[str, str, tuple[str, ...]]] = {
    "logbook": ("stations.logbook_page", "LogbookPage", ("session", "computed")),
    "compare": ("pages.compare", "ComparePage", ("session", "computed", "work", "contact_sheet")),
    "cut out": ("pages.cut_out", "CutOutPage", ("session", "computed", "work", "contact_sheet")),
    "found frames": ("pages.found_frames", "FoundFrames", ()),
    "studies wall": ("pages.studies_wall", "StudiesWall", ("session", "computed", "work")),
    "lock-in": ("pages.lock_table", "LockTable", ("computed",)),
    "one armature": ("pages.one_armature", "OneArmature", ("session", "computed", "work")),
    "steps": ("pages.steps_page", "StepsPage", ("computed",)),
    "strings": ("pages.string_page", "StringPage", ("computed",)),
    "ladder": ("pages.ladder", "LadderPage", ("session", "computed", "work")),
    "medium": ("pages.medium", "MediumPage", ("computed",)),
    "measures": ("pages.measures_page", "MeasuresPage", ("computed",)),
    "block-in": ("pages.block_in", "BlockInPage", ("computed",)),
    "transfer": ("pages.transfer_page", "TransferPage", ("computed",)),
    "pages": ("pages.printed_pages", "PrintedPages", ("session", "computed", "work", "files")),
}


def make_page(name: Page, window: Window) -> QWidget:
    """The page of this name, for the window; the board and the contact sheet are not among them."""
    module, cls, needs = PAGES[name]
    page = getattr(import_module(f"mild_compass.studio.{module}"), cls)
    return cast("QWidget", page(*(getattr(window, each) for each in needs)))
