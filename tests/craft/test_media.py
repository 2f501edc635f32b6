"""The names of paper that a printing system is told."""

from __future__ import annotations

import pytest

from mild_compass.craft.sheet_sizes.media import media_of


# Names as in the CUPS documentation, "Command-Line Printing and Options", from memory; sizes by ISO 216 and ANSI.
@pytest.mark.parametrize(
    ("size_mm", "name"),
    [
        ((210, 297), "A4"), ((420, 297), "A3"), ((841.2, 1188.9), "A0"), ((215.9, 279.4), "Letter"),
        ((279.4, 431.8), "Tabloid"), ((300, 200), "Custom.300x200mm"), ((558.8, 381.0), "Custom.559x381mm"),
    ],
)  # fmt: skip
def test_a_page_is_named_by_its_size_whichever_way_it_lies(size_mm, name):
    assert media_of(*size_mm) == name
