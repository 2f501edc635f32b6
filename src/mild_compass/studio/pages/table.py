"""How each page is made; they are made at the first visit."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.stations.table import Page
    from mild_compass.studio.window import Window


def make_page(name: Page, window: Window) -> QWidget:
    """The page of this name, for the window; the board and the contact sheet are not among them."""
    session, computed, work = window.session, window.computed, window.work
    if name == "logbook":
        from mild_compass.studio.stations.logbook_page import LogbookPage

        return LogbookPage(session, computed)
    if name == "compare":
        from mild_compass.studio.pages.compare import ComparePage

        return ComparePage(session, computed, work, window.contact_sheet)
    if name == "cut out":
        from mild_compass.studio.pages.cut_out import CutOutPage

        return CutOutPage(session, computed, work, window.contact_sheet)
    if name == "found frames":
        from mild_compass.studio.pages.found_frames import FoundFrames

        return FoundFrames()
    if name == "lock-in":
        from mild_compass.studio.pages.lock_table import LockTable

        return LockTable(computed)
    if name == "one armature":
        from mild_compass.studio.pages.one_armature import OneArmature

        return OneArmature(session, computed, work)
    if name == "strings":
        from mild_compass.studio.pages.string_page import StringPage

        return StringPage(computed)
    if name == "steps":
        from mild_compass.studio.pages.steps_page import StepsPage

        return StepsPage(computed)
    from mild_compass.studio.pages.studies_wall import StudiesWall

    return StudiesWall(session, computed, work)
