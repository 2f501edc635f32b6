"""The paper: which sheet, how it lies, margins, tape and mat."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from mild_compass.craft.sheet_sizes.papers import CUSTOM, UPRIGHT_SIZES_MM, paper, turned
from mild_compass.plan.edits.viewfinder import choose_paper
from mild_compass.plan.errors import PlanError
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Entry, LengthEntry, Tick, button, form, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.plan.paper import Paper

SIDES = ("left", "top", "right", "bottom")


class PaperInstrument(Instrument):
    """Names the sheet: size, upright or across, margins, tape, mat."""

    name = "paper"
    words = "Paper"
    icon = "paper"
    tells = ("sharpness", "scale", "measured", "ratio")
    needs = "nothing"
    hint = "Name the sheet you will draw on. The viewfinder takes the proportion of its picture area."

    def options(self) -> QWidget:
        self._size = Choice([(name, name) for name in (*UPRIGHT_SIZES_MM, CUSTOM)], "Sheet size")
        self._lie = Choice([("Upright", False), ("Across", True)], "Upright or across")
        self._width, self._height = self._length("Sheet width"), self._length("Sheet height")
        self._margin = self._length("Margin")
        self._apart = Tick("Each side its own margin")
        self._sides = {side: self._length(f"Margin at the {side}") for side in SIDES}
        self._tape, self._mat = self._length("Width of the tape"), self._length("Overlap of the mat")
        self._area = soft("")
        self._connect()
        self._side_rows = form(*((side.capitalize(), entry) for side, entry in self._sides.items()))
        return form(
            ("Sheet", self._size),
            ("Lies", self._lie),
            ("Width", self._width),
            ("Height", self._height),
            ("Margin", self._margin),
            self._apart,
            self._side_rows,
            ("Tape", self._tape),
            ("Mat over", self._mat),
            self._area,
            button("Viewfinder card to cut…", self.desk.files.exports.choose_card),
        )

    def _length(self, name: str) -> LengthEntry:
        return LengthEntry(name, lambda: self.desk.computed.unit)

    def _connect(self) -> None:
        self._size.chosen.connect(self._choose_size)
        self._lie.chosen.connect(lambda across: self._send(turned(self.desk.plan.paper, across)))
        self._width.chosen.connect(lambda mm: self._change(self._width, width_mm=mm, name=CUSTOM))
        self._height.chosen.connect(lambda mm: self._change(self._height, height_mm=mm, name=CUSTOM))
        self._margin.chosen.connect(lambda mm: self._change(self._margin, margin_mm=mm, sides_mm=None))
        self._apart.chosen.connect(self._take_apart)
        for index, entry in enumerate(self._sides.values()):
            entry.chosen.connect(lambda mm, index=index, entry=entry: self._set_side(index, mm, entry))
        self._tape.chosen.connect(lambda mm: self._change(self._tape, tape_mm=mm))
        self._mat.chosen.connect(lambda mm: self._change(self._mat, mat_overlap_mm=mm))

    def refresh(self) -> None:
        sheet = self.desk.plan.paper
        self._size.show_value(sheet.name)
        self._lie.show_value(sheet.across)
        self._width.show_value(sheet.width_mm)
        self._height.show_value(sheet.height_mm)
        self._margin.show_value(sheet.margin_mm)
        self._margin.setEnabled(sheet.sides_mm is None)
        self._apart.show_value(sheet.sides_mm is not None)
        self._side_rows.setVisible(sheet.sides_mm is not None)
        for entry, margin in zip(self._sides.values(), sheet.sides_mm or (sheet.margin_mm,) * 4, strict=True):
            entry.show_value(margin)
        self._tape.show_value(sheet.tape_mm)
        self._mat.show_value(sheet.mat_overlap_mm)
        width, height = self.desk.length(sheet.picture_width_mm), self.desk.length(sheet.picture_height_mm)
        self._area.setText(f"Picture area {width} × {height}")

    def _choose_size(self, name: str) -> None:
        old = self.desk.plan.paper
        if name == CUSTOM:
            self._send(replace(old, name=CUSTOM))
            return
        fresh = paper(name, old.across, min(old.margin_mm, min(UPRIGHT_SIZES_MM[name]) / 2 - 5))
        fresh = replace(fresh, lay=old.lay)
        try:
            fresh = replace(fresh, sides_mm=old.sides_mm, tape_mm=old.tape_mm, mat_overlap_mm=old.mat_overlap_mm)
        except PlanError:
            self.desk.say(f"{name} is too small for these margins, tape and mat; it starts without them.")
        self._send(fresh)

    def _take_apart(self, on: bool) -> None:
        sheet = self.desk.plan.paper
        self._send(replace(sheet, sides_mm=(sheet.margin_mm,) * 4 if on else None))

    def _set_side(self, index: int, mm: float, entry: Entry) -> None:
        sides = list(self.desk.plan.paper.sides_mm or (self.desk.plan.paper.margin_mm,) * 4)
        sides[index] = mm
        self._change(entry, sides_mm=tuple(sides))

    def _change(self, entry: Entry, **changes: object) -> None:
        try:
            sheet = replace(self.desk.plan.paper, **changes)  # type: ignore[arg-type]
        except PlanError as error:
            entry.refuse(f"{error} The sheet stays as it was.")
            return
        self._send(sheet)

    def _send(self, sheet: Paper) -> None:
        self.commit(choose_paper(sheet))
        self.refresh()
