"""The system's print dialog, and the PDF handed to the chosen printer unscaled."""

from __future__ import annotations

import shutil
import subprocess
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QSizeF
from PySide6.QtGui import QPageSize
from PySide6.QtPrintSupport import QPrintDialog, QPrinter, QPrinterInfo
from PySide6.QtWidgets import QDialog

from mild_compass.craft.sheet.tiles import PAGES_MM, pages_for
from mild_compass.craft.sheet_sizes.media import media_of
from mild_compass.plan.errors import PlanError
from mild_compass.studio.files.exports import NOTHING_TO_PRINT

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.files.exports import Exports
    from mild_compass.studio.requests.jobs import Jobs
    from mild_compass.studio.session import Session
    from mild_compass.studio.settings.settings import Settings

NO_PRINTER = "No printer is set up on this machine. Save the sheet as PDF instead, and print it at 100 % elsewhere."
SEND_S = 120
MM_PER_POINT = 25.4 / 72


@dataclass(frozen=True, slots=True)
class Order:
    """What is asked of the printer: its name, copies, first and last page (0 for all)."""

    printer: str
    copies: int = 1
    first: int = 0
    last: int = 0

    def command(self, path: Path, media: str) -> list[str]:
        """The command of the printing system (CUPS): scaling is switched off, and the paper is that of the pages, so
        that they come out true and whole."""
        words = ["lp", "-d", self.printer, "-n", str(self.copies), "-o", "print-scaling=none", "-o", f"media={media}"]
        if self.first:
            words += ["-P", f"{self.first}-{max(self.first, self.last)}"]
        return [*words, str(path)]


class Printing:
    """The sheet on the artist's own printer."""

    def __init__(self, parent: QWidget, exports: Exports, session: Session, jobs: Jobs, settings: Settings) -> None:
        self._parent, self._exports, self._session, self._jobs = parent, exports, session, jobs
        self._settings = settings

    def print_sheet(self) -> None:
        """Ask which printer, and send the sheet to it in the background."""
        say = self._session.said.emit
        if self._session.plan.study is None:
            say(NOTHING_TO_PRINT)
            return
        known = QPrinterInfo.availablePrinterNames()
        if not known:
            say(NO_PRINTER)
            return
        printer = QPrinter()
        if self._settings.now.printer_name in known:
            printer.setPrinterName(self._settings.now.printer_name)
        printer.setPageSize(self._page())
        dialog = QPrintDialog(printer, self._parent)
        dialog.setOption(QPrintDialog.PrintDialogOption.PrintPageRange)
        if dialog.exec() != QDialog.DialogCode.Accepted:
            return
        if printer.outputFileName():
            self._exports.write_sheet(Path(printer.outputFileName()).with_suffix(".pdf"))
            return
        self._settings.remember(printer_name=printer.printerName())
        self.send(Order(printer.printerName(), printer.copyCount(), printer.fromPage(), printer.toPage()))

    def _page(self) -> QPageSize:
        """The paper that the sheet is printed on as it is set up."""
        plan = self._session.plan
        assert plan.study is not None
        pages = pages_for(plan.study.sheet, plan.paper, self._settings.output)
        sides = (plan.paper.width_mm, plan.paper.height_mm) if pages == "one page" else PAGES_MM[pages]
        return QPageSize(QSizeF(*sorted(sides)), QPageSize.Unit.Millimeter)

    def send(self, order: Order) -> None:
        """Make the PDF and hand it to the printer."""
        self._jobs.do(
            f"Sending the sheet to {order.printer}",
            _send,
            *(order, *self._exports.sheet_inputs()),
            done=lambda _: self._session.said.emit(
                f"The sheet is with {order.printer}. Measure the bar before you go on."
            ),
            touches=("printer", order.printer),
        )


def _page_mm(path: Path) -> tuple[float, float]:
    """The size of the pages of a PDF."""
    import pypdfium2

    with pypdfium2.PdfDocument(path) as document:
        width, height = document[0].get_size()
    return width * MM_PER_POINT, height * MM_PER_POINT


def _send(order: Order, *inputs: Any) -> None:
    from mild_compass.output.print_sheet import print_sheet as make

    if shutil.which("lp") is None:
        raise PlanError("The printing system (CUPS) is not installed here. Save the sheet as PDF instead.")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "sheet.pdf"
        path.write_bytes(make(*inputs))
        try:
            done = subprocess.run(
                order.command(path, media_of(*_page_mm(path))),
                capture_output=True,
                text=True,
                timeout=SEND_S,
                check=False,
            )
        except (OSError, subprocess.TimeoutExpired) as error:
            raise PlanError(f"{order.printer} does not answer. The plan is kept; save the sheet as PDF.") from error
    if done.returncode:
        why = done.stderr.strip().splitlines()
        raise PlanError(f"{order.printer} did not take the sheet: {why[-1] if why else 'no reason given'}.")
