"""Words and marks stand out from what they stand on, in light and dark (WCAG 2.1, 1.4.3 and 1.4.11)."""

from __future__ import annotations

import pytest

from mild_compass.studio.theme.palette import CASING, DARK, INKS, LIGHT, Palette

WORDS, MARKS = 4.5, 3.0  # to one: of words, and of large words, icons and focus
THEMES = pytest.mark.parametrize("palette", [LIGHT, DARK], ids=["light", "dark"])


def luminance(colour: str) -> float:
    """Relative luminance (WCAG 2.1, definition)."""
    shares = [int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)]
    red, green, blue = (share / 12.92 if share <= 0.03928 else ((share + 0.055) / 1.055) ** 2.4 for share in shares)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def contrast(one: str, other: str) -> float:
    """From 1 to 21."""
    dark, light = sorted((luminance(one), luminance(other)))
    return (light + 0.05) / (dark + 0.05)


def test_the_extremes_are_those_of_the_definition():
    assert contrast("#000000", "#ffffff") == pytest.approx(21)
    assert contrast("#777777", "#777777") == 1
    assert contrast("#777777", "#ffffff") == pytest.approx(4.48, abs=0.01)  # the grey that just fails


@THEMES
@pytest.mark.parametrize("ink", ["ink", "soft_ink", "pale_ink", "accent"])
@pytest.mark.parametrize("ground", ["window", "card"])
def test_words_can_be_read(palette: Palette, ink: str, ground: str):
    assert contrast(getattr(palette, ink), getattr(palette, ground)) >= WORDS


@THEMES
def test_words_can_be_read_under_the_pointer_and_on_the_main_button(palette: Palette):
    assert contrast(palette.ink, palette.hover) >= WORDS
    assert contrast(palette.soft_ink, palette.hover) >= WORDS
    assert contrast(palette.on_accent, palette.accent) >= WORDS


@THEMES
@pytest.mark.parametrize("ground", ["window", "card", "hover"])
def test_the_focus_and_the_needle_can_be_seen(palette: Palette, ground: str):
    assert contrast(palette.accent, getattr(palette, ground)) >= MARKS


@pytest.mark.parametrize("ink", [name for name in INKS if name not in ("chalk", "faint")])
def test_every_construction_ink_stands_out_from_its_own_casing(ink):
    assert contrast(INKS[ink], CASING) >= MARKS
