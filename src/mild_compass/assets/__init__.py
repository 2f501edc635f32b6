"""Fonts, icons, the guide and desktop files that travel with the application."""

from pathlib import Path

FONTS = Path(__file__).parent / "fonts"
ICONS = Path(__file__).parent / "icons"
DESKTOP = Path(__file__).parent / "desktop"
GUIDE = Path(__file__).parent / "guide"
