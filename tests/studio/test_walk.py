"""The walk of a newcomer: from a photo, and from a blank sheet, to a sheet at true size in at most twelve actions."""

from __future__ import annotations

from pathlib import Path

import pypdfium2 as pdfium
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QToolButton
from tests.studio.conftest import Hand, control

from mild_compass.studio.files.dialogs import Dialogs

MOST = 12
MM = 72 / 25.4  # ISO 32000-1, 8.3.2.3


class Walk:
    """Counts what a person does: every key, click, choice and drop is one action."""

    def __init__(self, hand: Hand, target: Path) -> None:
        self.hand, self.target, self.actions = hand, target, 0

    def click(self, words: str) -> None:
        """A button of the page or the bench."""
        self.actions += 1
        self.hand.click(words)
        self.hand.settle()

    def instrument(self, words: str) -> None:
        """A row of the bench."""
        self.actions += 1
        rows = self.hand.window.bench.findChildren(QToolButton)
        row = next(each for each in rows if each.text() == words and each.isVisible())
        self.hand.bot.mouseClick(row, Qt.MouseButton.LeftButton)
        self.hand.settle()

    def choose(self, name: str, value: object) -> None:
        """An entry of a list: open it, choose."""
        self.actions += 2
        control(self.hand.window.bench.page.in_hand, name).pick(value)
        self.hand.settle()

    def station(self, title: str) -> None:
        """A station on the route, by its digit."""
        self.actions += 1
        self.hand.go(("References", "Viewfinder", "Armature", "Perspective", "Values", "Sheet").index(title) + 1)

    def save(self) -> None:
        """Print to a file: the button, and the dialog's own."""
        self.click("Save as PDF…")
        self.actions += 1
        self.hand.bot.waitUntil(self.target.exists, timeout=20_000)
        self.hand.settle()


@pytest.fixture
def walk(empty: Hand, tmp_path: Path, monkeypatch) -> Walk:
    target = tmp_path / "sheet.pdf"
    monkeypatch.setattr(Dialogs, "target", lambda *_, **__: target)
    return Walk(empty, target)


def page_mm(file: Path) -> tuple[float, float]:
    document = pdfium.PdfDocument(file)
    size = document[0].get_size()
    document.close()
    return size[0] / MM, size[1] / MM


def test_from_a_photo_to_a_printed_sheet_in_twelve_actions(walk: Walk, photo_file: Path):
    hand = walk.hand
    walk.actions += 1  # the photo is dropped
    hand.add_photo(photo_file)
    walk.station("Viewfinder")
    walk.instrument("Paper")
    walk.choose("Sheet size", "A4")
    walk.station("Sheet")
    walk.instrument("Print")
    walk.save()
    assert walk.actions <= MOST, walk.actions
    assert page_mm(walk.target) == pytest.approx((297, 210), abs=0.1)


def test_from_a_blank_sheet_to_a_printed_one_in_twelve_actions(walk: Walk):
    walk.click("Begin with a blank sheet")
    walk.station("Viewfinder")
    walk.instrument("Paper")
    walk.choose("Sheet size", "A4")
    walk.station("Sheet")
    walk.instrument("Print")
    walk.save()
    assert walk.actions <= MOST, walk.actions
    assert sorted(page_mm(walk.target)) == pytest.approx([210, 297], abs=0.1)


def test_a_wanted_factor_and_sight_size_are_typed(hand: Hand):
    """Scale and sums: exactly twice the print, and a stick at arm's length."""
    window = hand.window
    window.bench.take_up("measure")
    hand.rest()
    tool = window.bench.page.in_hand
    assert not tool._times.line.isEnabled() or not tool._times.isEnabled(), "nothing is measured yet"
    tool._measured.type_in("100 mm")
    assert tool._times.type_in("2") == ""
    assert "2.000 times" in tool._factor.text()
    paper = window.session.plan.paper
    assert "times at most" in tool._times.type_in("90")
    assert window.session.plan.paper == paper
    assert "1000" in tool._arm.type_in("0")
    assert tool._away.type_in("120 cm") == ""
    assert "2.00 times" in tool._sight.text()
