"""Going from region to region by key."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget


def enter_region(region: QWidget, whole: bool) -> None:
    """Give the keys to a region: to itself where it takes them and is asked as a whole, else to its first control."""
    if whole and region.focusPolicy() & Qt.FocusPolicy.TabFocus:
        region.setFocus(Qt.FocusReason.TabFocusReason)
        return
    inside = [
        each
        for each in region.findChildren(QWidget)
        if each.isVisible() and each.isEnabled() and each.focusPolicy() & Qt.FocusPolicy.TabFocus
    ]
    (inside[0] if inside else region).setFocus(Qt.FocusReason.TabFocusReason)
