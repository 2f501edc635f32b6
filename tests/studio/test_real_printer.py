"""The sheet through a real printing system: pages of the right size, unscaled, whole and in order.

Where CUPS and its PDF printer are not installed, or may not be started, this is skipped.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pypdfium2 as pdfium
import pytest
from tests.studio.conftest import Hand, control
from tests.studio.real_printer import NAME, lying_in, printed, printing_system, why_not
from tests.studio.test_pages import take

from mild_compass.output.print_sheet import print_sheet
from mild_compass.studio.files.printing import Order

pytestmark = pytest.mark.skipif(bool(why_not()), reason=why_not() or "can be tried")
DPI, INK = 100, 190
PRINTERS_EDGE_MM = 5.0  # what this driver cannot print on, as most cannot


@pytest.fixture(scope="module")
def folder():
    """Where the printer prints to."""
    with printing_system() as made:
        yield made


def pages_of(pdf: bytes | Path) -> list[np.ndarray]:
    """Grey pictures of all pages, upright."""
    found = []
    with pdfium.PdfDocument(pdf) as document:
        for page in document:
            picture = page.render(scale=DPI / 72).to_numpy()[..., :3].mean(-1)
            found.append(picture if picture.shape[0] >= picture.shape[1] else np.rot90(picture))
    return found


def sizes_mm(pdf: Path) -> list[tuple[float, float]]:
    with pdfium.PdfDocument(pdf) as document:
        return [tuple(sorted(side * 25.4 / 72 for side in page.get_size())) for page in document]


def same(one: np.ndarray, other: np.ndarray) -> float:
    """The share of one page's ink that the other has within a pixel, whichever way round it lies."""
    from scipy.ndimage import binary_dilation

    ink = one < INK
    h, w = min(one.shape[0], other.shape[0]), min(one.shape[1], other.shape[1])
    turned = (other[:h, :w], np.rot90(other, 2)[:h, :w])
    near = [binary_dilation(each < INK, iterations=2) for each in turned]
    return max(float((ink[:h, :w] & each).sum() / ink[:h, :w].sum()) for each in near)


def test_the_sheet_comes_out_of_a_real_printer_true_whole_and_in_order(hand: Hand, folder: Path):
    """One test for both: the driver names its files by the number of the job, in one folder for everybody."""
    for pages, count, size in (("one page", 1, (297, 420)), ("A4", 4, (210, 297))):
        _print_and_look(hand, folder, pages, count, size)


def _print_and_look(hand: Hand, folder: Path, pages: str, count: int, size: tuple[float, float]) -> None:
    hand.go(6)
    control(take(hand, "print"), "Pages").pick(pages)
    hand.settle()
    known = lying_in(folder)
    hand.window.files.printing.send(Order(NAME))
    hand.settle()
    assert f"The sheet is with {NAME}" in hand.window.notice.words.text()
    paper = printed(folder, known)
    assert sizes_mm(paper) == [pytest.approx(size, abs=0.5)] * count
    session = hand.window.session
    meant = pages_of(print_sheet(session.plan, session.workspace.photos, output=hand.window.settings.output))
    out = pages_of(paper)
    paper.unlink()  # it lies in the folder of whoever runs the tests
    shares = np.array([[same(one, other) for other in out] for one in meant])
    assert (np.diag(shares) > 0.97).all()  # line for line where they were meant: neither scaled nor moved
    assert (shares.argmax(1) == np.arange(count)).all()  # and in order
    edge = round(PRINTERS_EDGE_MM / 25.4 * DPI)
    for page in out if count > 1 else ():  # a page of the sheet's own size is for a printer that prints to the edge
        inner = page[edge:-edge, edge:-edge]
        assert (page < INK).sum() == (inner < INK).sum()  # nothing lies where a printer cannot print
