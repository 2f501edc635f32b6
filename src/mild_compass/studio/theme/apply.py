"""Putting the look on the application: font, palette, style sheet."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QPalette

from mild_compass.assets import FONTS
from mild_compass.studio.theme.icons import renew_icons
from mild_compass.studio.theme.in_use import use
from mild_compass.studio.theme.palette import DARK, LIGHT, TEXT_PX, Palette, style_sheet

if TYPE_CHECKING:
    from PySide6.QtWidgets import QApplication

FAMILY = "Open Sans"
USUAL_PT, MOST_TIMES = 11.0, 1.5  # of a desktop's words; beyond that the benches have no room


def apply_theme(application: QApplication, chrome: str) -> None:
    """Light or dark as asked, or as the desktop has it, in every window that is there and all to come."""
    if FAMILY not in QFontDatabase.families() or not application.property("fonts loaded"):
        for name in ("OpenSans-Regular.ttf", "OpenSans-Semibold.ttf"):
            QFontDatabase.addApplicationFont(str(FONTS / name))
        application.setProperty("fonts loaded", True)
    text_px = text_px_of(desktop_pt())
    wanted = DARK if chrome == "dark" or (chrome == "as the desktop" and desktop_is_dark(application)) else LIGHT
    look = f"{'dark' if wanted is DARK else 'light'} {text_px}"
    if application.property("look") == look:  # to put the same style sheet on again polishes every widget anew
        return
    application.setProperty("look", look)
    font = QFont(FAMILY)
    font.setPixelSize(text_px)
    application.setFont(font)
    use(wanted)
    application.setStyle("Fusion")
    application.setPalette(_qt_palette(wanted))
    application.setStyleSheet(style_sheet(wanted, text_px))
    renew_icons(application.allWidgets())


def desktop_is_dark(application: QApplication) -> bool:
    """Whether the desktop has its windows dark."""
    return application.styleHints().colorScheme() == Qt.ColorScheme.Dark


def desktop_pt() -> float:
    """How large the desktop has its words, in points."""
    return QFontDatabase.systemFont(QFontDatabase.SystemFont.GeneralFont).pointSizeF()


def text_px_of(points: float) -> int:
    """How large our words are then: as they are usually, or larger where the desktop's are."""
    return round(TEXT_PX * min(max(points / USUAL_PT, 1.0), MOST_TIMES))


def text_times() -> float:
    """How many times as large as usually our words are."""
    return QGuiApplication.font().pixelSize() / TEXT_PX


def _qt_palette(colours: Palette) -> QPalette:
    palette = QPalette()
    roles = {
        QPalette.ColorRole.Window: colours.window,
        QPalette.ColorRole.WindowText: colours.ink,
        QPalette.ColorRole.Base: colours.card,
        QPalette.ColorRole.Text: colours.ink,
        QPalette.ColorRole.Button: colours.card,
        QPalette.ColorRole.ButtonText: colours.ink,
        QPalette.ColorRole.Highlight: colours.accent,
        QPalette.ColorRole.HighlightedText: colours.on_accent,
        QPalette.ColorRole.PlaceholderText: colours.pale_ink,
        QPalette.ColorRole.ToolTipBase: colours.card,
        QPalette.ColorRole.ToolTipText: colours.ink,
    }
    for role, colour in roles.items():
        palette.setColor(role, QColor(colour))
    return palette
