"""Colours of the room: neutral greys, one accent, and the construction inks."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from mild_compass.assets import ICONS

if TYPE_CHECKING:
    from mild_compass.craft.drawing import Ink

SURROUNDS = {20: "#303030", 50: "#777777", 80: "#c6c6c6"}  # neutral greys of L* 20, 50, 80
INKS: dict[Ink, str] = {
    "armature": "#a83c22",
    "perspective": "#26399e",
    "measure": "#1c1c1c",
    "mass": "#101010",
    "grid": "#5f666b",
    "subject": "#a83c22",
    "chalk": "#fdfdfb",
    "faint": "#9a9a9a",
}
CASING = "#f6f4ee"
TEXT_PX = 13


@dataclass(frozen=True, slots=True)
class Palette:
    """Colours of light or dark chrome."""

    dark: bool
    window: str
    card: str
    rule: str
    ink: str
    soft_ink: str
    pale_ink: str  # of what stands back and is still read
    off_ink: str  # of what cannot be used now
    accent: str
    on_accent: str
    hover: str


LIGHT = Palette(
    *(False, "#e8e8e8", "#fbfbfb", "#cfcfcf"),
    *("#1f1f1f", "#555555", "#666666", "#8a8a8a"),
    *("#a2391f", "#ffffff", "#dedede"),
)
DARK = Palette(
    *(True, "#2f2f2f", "#3a3a3a", "#4c4c4c"),
    *("#ececec", "#bcbcbc", "#a8a8a8", "#8c8c8c"),
    *("#f09a82", "#1b1b1b", "#454545"),
)


def style_sheet(p: Palette, text_px: int = TEXT_PX) -> str:
    """The Qt style sheet of the chrome, with words as large as the desktop has them."""
    small_px = text_px - 1
    tick = (ICONS / ("tick-dark.svg" if p.dark else "tick-light.svg")).as_posix()
    down = (ICONS / ("down-dark.svg" if p.dark else "down-light.svg")).as_posix()
    return f"""
    QWidget {{ background: {p.window}; color: {p.ink}; font-size: {text_px}px; }}
    QLabel, QWidget[clear="true"] {{ background: transparent; }}
    QLabel[soft="true"] {{ color: {p.soft_ink}; font-size: {small_px}px; }}
    QLabel[head="true"] {{ font-weight: 600; }}
    QLabel[error="true"] {{ color: {p.accent}; font-size: {small_px}px; }}
    QFrame[card="true"] {{ background: {p.card}; border: 1px solid {p.rule}; border-radius: 4px; }}
    QFrame[chosen="true"] {{ border: 1px solid {p.accent}; }}
    QFrame[card="true"] QLabel {{ background: transparent; border: none; }}
    QFrame[line="true"] {{ background: {p.rule}; border: none; }}
    QPushButton, QToolButton {{
        background: {p.card}; border: 1px solid {p.rule}; border-radius: 4px; padding: 4px 9px;
    }}
    QToolButton[flat="true"], QPushButton[flat="true"] {{ background: transparent; border-color: transparent; }}
    QPushButton:hover, QToolButton:hover {{ background: {p.hover}; }}
    QPushButton:focus, QToolButton:focus, QComboBox:focus, QLineEdit:focus, QCheckBox:focus, QListWidget:focus,
    QPlainTextEdit:focus {{
        border: 1px solid {p.accent};
    }}
    QPushButton:disabled, QToolButton:disabled, QCheckBox:disabled {{ color: {p.off_ink}; }}
    QPushButton[main="true"] {{
        background: {p.accent}; color: {p.on_accent}; border-color: {p.accent}; font-weight: 600;
    }}
    QPushButton[main="true"]:disabled {{ background: {p.rule}; border-color: {p.rule}; color: {p.off_ink}; }}
    QPushButton[small="true"] {{ padding: 1px 7px; font-size: {small_px}px; }}
    QPushButton:checked {{ background: {p.hover}; border-color: {p.accent}; }}
    QToolButton[instrument="true"] {{
        background: transparent; border: 1px solid transparent; text-align: left; padding: 1px 6px;
    }}
    QToolButton[instrument="true"]:hover {{ background: {p.hover}; }}
    QToolButton[instrument="true"]:checked {{
        background: {p.card}; border: 1px solid {p.rule}; border-left: 3px solid {p.accent};
    }}
    QToolButton[tiny="true"] {{ padding: 0; background: transparent; border-color: transparent; }}
    QToolButton[tiny="true"]:hover {{ background: {p.hover}; }}
    QToolButton[hold="true"] {{ padding: 2px 8px; font-size: {small_px}px; }}
    QToolButton[hold="true"]:pressed {{ background: {p.accent}; color: {p.on_accent}; }}
    QToolButton::menu-indicator {{ image: none; }}
    QToolButton::menu-button {{ border: none; width: 14px; }}
    QToolButton[whole="true"]::menu-button {{ width: 0px; }}
    QToolButton[whole="true"]::menu-arrow {{ image: none; width: 0px; }}
    QToolButton::menu-arrow {{ image: url({down}); width: 9px; height: 9px; }}
    QToolButton[popupMode="1"] {{ padding-right: 18px; }}
    QToolButton[whole="true"] {{ padding-right: 8px; }}
    QComboBox, QLineEdit, QSpinBox, QPlainTextEdit {{
        background: {p.card}; border: 1px solid {p.rule}; border-radius: 3px; padding: 3px 6px; min-height: 18px;
        selection-background-color: {p.accent}; selection-color: {p.on_accent};
    }}
    QComboBox::drop-down {{ border: none; width: 20px; }}
    QComboBox::down-arrow {{ image: url({down}); width: 10px; height: 10px; }}
    QComboBox QAbstractItemView {{
        background: {p.card}; selection-background-color: {p.hover}; selection-color: {p.ink};
    }}
    QCheckBox {{ background: transparent; border: 1px solid transparent; padding: 1px; spacing: 6px; }}
    QCheckBox::indicator {{
        width: 13px; height: 13px; border: 1px solid {p.pale_ink}; border-radius: 3px; background: {p.card};
    }}
    QCheckBox::indicator:checked {{ background: {p.accent}; border-color: {p.accent}; image: url({tick}); }}
    QCheckBox::indicator:disabled {{ border-color: {p.rule}; }}
    QMenu {{ background: {p.card}; border: 1px solid {p.rule}; padding: 4px; }}
    QMenu::item {{ padding: 4px 22px; }}
    QMenu::item:selected {{ background: {p.hover}; }}
    QMenu::item:disabled {{ color: {p.off_ink}; }}
    QScrollArea, QScrollArea > QWidget > QWidget {{ background: transparent; border: none; }}
    QScrollBar:vertical {{ width: 9px; background: transparent; }}
    QScrollBar::handle:vertical {{ background: {p.rule}; border-radius: 4px; min-height: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
    QTableWidget {{ background: {p.card}; alternate-background-color: {p.window}; border: 1px solid {p.rule}; }}
    QTableWidget::item {{ padding: 0 9px; }}
    QTableWidget::item:selected {{ background: {p.hover}; color: {p.ink}; }}
    QHeaderView {{ background: {p.window}; }}
    QHeaderView::section {{
        background: {p.window}; color: {p.soft_ink}; border: none; border-bottom: 1px solid {p.rule}; padding: 4px 9px;
    }}
    QTextBrowser {{ background: {p.card}; border: 1px solid {p.rule}; border-radius: 3px; }}
    QListWidget {{ background: {p.card}; border: 1px solid {p.rule}; border-radius: 3px; }}
    QListWidget::item {{ padding: 2px 4px; }}
    QListWidget::item:selected {{ background: {p.hover}; color: {p.ink}; }}
    QProgressBar {{ background: {p.rule}; border: none; border-radius: 4px; }}
    QProgressBar::chunk {{ background: {p.accent}; border-radius: 4px; }}
    QToolTip {{ background: {p.card}; color: {p.ink}; border: 1px solid {p.rule}; }}
    QSplitter::handle {{ background: {p.rule}; height: 1px; }}
    """
