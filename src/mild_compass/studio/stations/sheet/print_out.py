"""Printing: pages and overlap, mirrored or not, the printer's error, and a preview of every page."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import TYPE_CHECKING, Any

from mild_compass.craft.sheet.tiles import pages_for, tiling_of
from mild_compass.output.kinds import SHEET_KINDS
from mild_compass.plan.edits.sheet import change_sheet
from mild_compass.plan.errors import PlanError
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Entry, LengthEntry, Tick, button, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.plan.sheet import Pages

PAGE_WORDS: list[tuple[str, Pages]] = [
    ("the usual", "usual"),
    ("one page", "one page"),
    ("A4 pages", "A4"),
    ("Letter pages", "Letter"),
    ("A3 pages", "A3"),
    ("Tabloid pages", "Tabloid"),
    ("Legal pages", "Legal"),
    ("A5 pages", "A5"),
]


class PrintInstrument(Instrument):
    """Every page as it will come out of the printer, true to size."""

    name = "print"
    words = "Print"
    icon = "print"
    tells = ("pages", "sheet_size", "mirrored")
    hint = "Every page as it will come out. Print at 100 % and measure the bar before you join them."
    page = "pages"

    def options(self) -> QWidget:
        self._pages = Choice(PAGE_WORDS, "Pages")
        self._overlap = LengthEntry("Overlap of the pages", lambda: self.desk.computed.unit)
        self._pages.chosen.connect(lambda pages: self._try(self._overlap, pages=pages))
        self._overlap.chosen.connect(lambda value: self._try(self._overlap, overlap_mm=value))
        self._mirrored = Tick("Mirrored, for tracing")
        self._mirrored.chosen.connect(lambda on: self._send(mirrored=on))
        self._across = number_entry("What the level 100 mm bar measures on paper", "mm")
        self._down = number_entry("What the upright 100 mm bar measures on paper", "mm")
        self._across.chosen.connect(lambda value: self._correct(self._across, across_mm=value))
        self._down.chosen.connect(lambda value: self._correct(self._down, down_mm=value))
        self._photo = LengthEntry("Width of the photo print", lambda: self.desk.computed.unit)
        self._photo.chosen.connect(lambda value: self._try(self._photo, photo_print_mm=value))
        self._dpi = number_entry("Dots per inch of PNG and layers", "dpi")
        self._dpi.chosen.connect(lambda value: self._try(self._dpi, png_dpi=value))
        files = self.desk.files
        others = [
            button(f"Save as {kind.words}…", partial(files.exports.choose_sheet, kind.suffix), tip=kind.holds)
            for kind in SHEET_KINDS
            if kind.suffix != ".pdf"
        ]
        return form(
            ("Pages", self._pages),
            ("Overlap", self._overlap),
            self._mirrored,
            button("Print…", files.printing.print_sheet, main=True, tip="Ctrl+P"),
            button("Save as PDF…", files.exports.choose_sheet, tip="Ctrl+Shift+P"),
            *others,
            ("PNG at", self._dpi),
            rule(),
            soft("One page for the easel or outdoors, and a card to look through."),
            button("Take-along page…", files.exports.choose_brief),
            button("Viewfinder card…", files.exports.choose_card),
            rule(),
            soft("Is the printed bar not 100 mm? Say what it measures, and print again."),
            ("Bar across", self._across),
            ("Bar upright", self._down),
            rule(),
            soft("The photo with the same squares, to look at while you draw."),
            ("Wide", self._photo),
            button("Save the photo print…", files.exports.choose_photo_print),
        )

    def refresh(self) -> None:
        sheet, desk = self.desk.study.sheet, self.desk.settings.output
        printer, pages = desk.printer, pages_for(sheet, self.desk.plan.paper, desk)
        usual = pages_for(replace(sheet, pages="usual"), self.desk.plan.paper, desk)
        self._pages.setItemText(0, f"usual ({usual})")
        self._pages.show_value(sheet.pages)
        self._overlap.show_value(sheet.overlap_mm)
        self._overlap.setEnabled(pages != "one page")
        self._mirrored.show_value(sheet.mirrored)
        self._across.show_value(printer.across_mm)
        self._down.show_value(printer.down_mm)
        self._dpi.show_value(sheet.png_dpi)
        self._photo.show_value(sheet.photo_print_mm)

    def _correct(self, entry: Entry, **measured: float) -> None:
        try:
            printer = replace(self.desk.settings.now.printer, **measured)
        except PlanError as error:
            entry.refuse(f"{error} It stays as it was.")
            return
        self.desk.settings.change(printer=printer)

    def _try(self, entry: Entry, **changes: Any) -> None:
        try:
            sheet = replace(self.desk.study.sheet, **changes)
            tiling_of(sheet, self.desk.plan.paper, self.desk.settings.output)
        except PlanError as error:
            self._pages.show_value(self.desk.study.sheet.pages)
            entry.refuse(f"{error} It stays as it was.")
            return
        self.commit(change_sheet(sheet))

    def _send(self, **changes: Any) -> None:
        self.commit(change_sheet(replace(self.desk.study.sheet, **changes)))
