"""Mild Compass: plan a composition before the first mark, and carry it to the sheet in millimetres."""

__version__ = "0.1.0"
