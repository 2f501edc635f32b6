"""Arithmetic of the sheet: from a print or a phone to the sheet, the largest area of a ratio, fit by heads."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.sheet_sizes.lengths import parse_length_mm
from mild_compass.craft.sheet_sizes.papers import with_picture_ratio
from mild_compass.craft.sheet_sizes.ratios import parse_ratio
from mild_compass.craft.sheet_sizes.scaling import (
    HEADS_TALL,
    both_ways,
    figure_mm,
    paper_for_factor,
    scale_factor,
    sight_size_factor,
)
from mild_compass.plan.edits.viewfinder import choose_paper, measure_once
from mild_compass.plan.errors import PlanError
from mild_compass.plan.study import Measured, MeasuredSpan
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Entry, LengthEntry, button, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

SPANS: list[tuple[str, MeasuredSpan]] = [
    ("photo's width", "photo width"),
    ("photo's height", "photo height"),
    ("viewfinder's width", "frame width"),
    ("viewfinder's height", "frame height"),
]


class MeasureInstrument(Instrument):
    """Converts lengths from any picture of the photo to the sheet, and does the sums of the sheet."""

    name = "measure"
    words = "Scale and sums"
    icon = "measure"
    hint = "Measure one length on your print or phone with a ruler; every other length is then converted for you."

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._length_mm, self._ratio, self._head_mm, self._heads = 100.0, (3.0, 4.0), 25.0, HEADS_TALL
        self._arm_mm, self._sheet_mm = 600.0, 900.0

    def options(self) -> QWidget:
        self._span = Choice(SPANS, "What was measured")
        self._measured = Entry(
            "Its length on the print or screen",
            lambda text: parse_length_mm(text, self.desk.computed.unit),
            lambda mm: self.desk.length(mm) if mm else "",
        )
        self._measured.line.setPlaceholderText("for instance 165 mm")
        self._measured.chosen.connect(self._measure)
        self._span.chosen.connect(lambda span: self._respan(span))
        self._factor = soft("")
        self._there = self._entry("A length on the print")
        self._there.chosen.connect(self._convert)
        self._here = soft("")
        self._times = number_entry("Wanted: so many times as long on the sheet", "times")
        self._times.chosen.connect(self._scale_to)
        self._arm, self._away = self._entry("The stick from the eye"), self._entry("The sheet from the eye")
        self._arm.chosen.connect(lambda mm: self._set_sight(self._arm, arm_mm=mm))
        self._away.chosen.connect(lambda mm: self._set_sight(self._away, sheet_mm=mm))
        self._sight = soft("")
        self._wanted = Entry("Ratio", parse_ratio, lambda pair: f"{pair[0]:g}:{pair[1]:g}")
        self._wanted.chosen.connect(self._take_ratio)
        self._areas = soft("")
        self._upright = button("Draw in it upright", lambda: self._take_area(0), tip="Widen the margins to this area")
        self._across = button("Across", lambda: self._take_area(1), tip="Widen the margins to this area, laid across")
        self._head = self._entry("Height of the head on the sheet")
        self._head.chosen.connect(self._take_head)
        self._count = number_entry("Heads tall", "heads")
        self._count.chosen.connect(self._take_heads)
        self._figure = soft("")
        return form(
            soft("What you measured, and how long it is there"),
            self._span,
            self._measured,
            self._factor,
            ("A length there", self._there),
            self._here,
            ("Make it", self._times),
            rule(),
            soft("Sight size: measured with a stick at arm's length, both seen from one place"),
            ("Stick at", self._arm),
            ("Sheet at", self._away),
            self._sight,
            rule(),
            ("Largest area of", self._wanted),
            self._areas,
            (self._upright, self._across),
            rule(),
            ("A head of", self._head),
            ("Figure of", self._count),
            self._figure,
        )

    def _entry(self, name: str) -> LengthEntry:
        return LengthEntry(name, lambda: self.desk.computed.unit)

    def refresh(self) -> None:
        measured, length = self.desk.study.measured, self.desk.length
        self._span.show_value(measured.span if measured else self._span.value or "photo width")
        self._there.show_value(self._length_mm)
        self._there.setEnabled(measured is not None)
        if measured is None:
            self._measured.show_value(0.0)
            self._factor.setText("Nothing measured yet.")
            self._here.setText("")
        else:
            factor = self._factor_now()
            self._measured.show_value(measured.length_mm)
            self._factor.setText(f"Drawn {factor:.3f} times as long on the sheet.")
            self._here.setText(f"becomes {length(self._length_mm * factor)} on the sheet")
        self._times.setEnabled(measured is not None)
        self._times.show_value(round(self._factor_now(), 3) if measured is not None else 1.0)
        self._show_sight()
        self._wanted.show_value(self._ratio)
        self._show_areas()
        self._head.show_value(self._head_mm)
        self._count.show_value(self._heads)
        self._show_figure()

    def _factor_now(self) -> float:
        """How many times as long a length is on the sheet as where it was measured."""
        measured = self.desk.study.measured
        assert measured is not None
        return scale_factor(measured, self.desk.ground, self.desk.study.frame, self.desk.frame_map)

    def _scale_to(self, times: float) -> None:
        """Set the margins so that lengths become exactly so many times as long."""
        try:
            paper = paper_for_factor(self.desk.plan.paper, self._factor_now(), times)
        except PlanError as error:
            self._times.refuse(str(error))
            return
        self.commit(choose_paper(paper))

    def _set_sight(self, entry: Entry, arm_mm: float | None = None, sheet_mm: float | None = None) -> None:
        arm = self._arm_mm if arm_mm is None else arm_mm
        sheet = self._sheet_mm if sheet_mm is None else sheet_mm
        try:
            sight_size_factor(arm, sheet)
        except PlanError as error:
            entry.refuse(str(error))
            return
        self._arm_mm, self._sheet_mm = arm, sheet
        self.refresh()

    def _show_sight(self) -> None:
        self._arm.show_value(self._arm_mm)
        self._away.show_value(self._sheet_mm)
        factor, length = sight_size_factor(self._arm_mm, self._sheet_mm), self.desk.length
        stick = self._length_mm
        here = length(stick * factor)
        self._sight.setText(f"{length(stick)} on the stick is {here} on the sheet, {factor:.2f} times.")

    def _show_areas(self) -> None:
        length, words = self.desk.length, []
        for name, ratio in zip(("upright", "across"), both_ways(self._ratio[0] / self._ratio[1]), strict=True):
            area = with_picture_ratio(self.desk.plan.paper, ratio)
            words.append(f"{name} {length(area.picture_width_mm)} × {length(area.picture_height_mm)}")
        self._areas.setText("; ".join(words) + " inside the margin.")

    def _show_figure(self) -> None:
        paper = self.desk.plan.paper
        tall = figure_mm(self._head_mm, self._heads)
        spare = paper.picture_height_mm - tall
        fits = f"fits with {self.desk.length(spare)} to spare" if spare >= 0 else f"{self.desk.length(-spare)} too tall"
        self._figure.setText(f"{self.desk.length(tall)} tall: {fits}.")

    def _measure(self, length_mm: float) -> None:
        try:
            self.commit(measure_once(Measured(self._span.value, length_mm)))
        except PlanError as error:
            self._measured.refuse(str(error))

    def _respan(self, span: MeasuredSpan) -> None:
        if self.desk.study.measured is not None:
            self.commit(measure_once(Measured(span, self.desk.study.measured.length_mm)))

    def _convert(self, length_mm: float) -> None:
        self._length_mm = length_mm
        self.refresh()

    def _take_ratio(self, pair: tuple[float, float]) -> None:
        self._ratio = pair
        self.refresh()

    def _take_area(self, way: int) -> None:
        """Widen the margins until the picture area has the ratio wanted, upright (0) or across (1)."""
        ratio = both_ways(self._ratio[0] / self._ratio[1])[way]
        self.commit(choose_paper(with_picture_ratio(self.desk.plan.paper, ratio)))

    def _take_head(self, head_mm: float) -> None:
        self._head_mm = head_mm
        self.refresh()

    def _take_heads(self, heads: float) -> None:
        if not 1 <= heads <= 20:
            self._count.refuse("Between 1 and 20 heads.")
            return
        self._heads = heads
        self.refresh()
