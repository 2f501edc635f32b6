"""The one table of pages; each is made at the first visit."""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, cast

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.pages.parts import Parts
    from mild_compass.studio.words import Page

# Board and contact sheet are not among them: the window has them from the start.
PAGES: dict[Page, tuple[str, str]] = {
    "logbook": ("logbook", "LogbookPage"),
    "compare": ("compare", "ComparePage"),
    "cut out": ("cut_out", "CutOutPage"),
    "found frames": ("found_frames", "FoundFrames"),
    "studies wall": ("studies_wall", "StudiesWall"),
    "lock-in": ("lock_table", "LockTable"),
    "one armature": ("one_armature", "OneArmature"),
    "steps": ("steps_page", "StepsPage"),
    "strings": ("string_page", "StringPage"),
    "ladder": ("ladder", "LadderPage"),
    "medium": ("medium", "MediumPage"),
    "measures": ("measures_page", "MeasuresPage"),
    "block-in": ("block_in", "BlockInPage"),
    "transfer": ("transfer_page", "TransferPage"),
    "pages": ("printed_pages", "PrintedPages"),
    "ground plan": ("ground_plan", "GroundPlan"),
    "scene steps": ("scene_steps", "SceneSteps"),
    "corners": ("corners_page", "CornersPage"),
    "over it": ("over_it", "OverItPage"),
    "drawn values": ("drawn_values", "DrawnValuesPage"),
    "over time": ("over_time", "OverTimePage"),
    "working order": ("working_order", "WorkingOrderPage"),
    "planned and done": ("planned_done", "PlannedDonePage"),
    "practice": ("practice", "PracticePage"),
    "trend": ("trend", "TrendPage"),
}


def make_page(name: Page, parts: Parts) -> QWidget:
    """The page of this name."""
    module, cls = PAGES[name]
    page = getattr(import_module(f"mild_compass.studio.pages.{module}"), cls)
    return cast("QWidget", page(parts))
