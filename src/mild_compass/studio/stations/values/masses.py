"""The masses: how many values, where they part, what is too small, how soft the edges."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from mild_compass.plan.edits.values import change_values
from mild_compass.plan.errors import PlanError
from mild_compass.plan.tones import VALUE_COUNTS, ThresholdMethod, ValuePlan
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.stations.values.seen import seen_choice
from mild_compass.studio.stations.values.value_scale import ValueScale
from mild_compass.studio.widgets import Choice, LengthEntry, Slide, Tick, form, number_entry, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.words import Fill

COUNT_WORDS = ("two", "three", "four", "five", "six", "seven")
SEEN: list[tuple[str, Fill]] = [("Masses", "masses"), ("Values only", "values"), ("Colour", "colour")]


class MassesInstrument(Instrument):
    """Simplifies the picture to a few values; on the board the hand moves the paper."""

    name = "masses"
    words = "Masses"
    icon = "masses"
    tells = ("shapes", "share", "dark_share", "by_hand", "join", "melts")
    needs = "a photo"
    fill = "masses"
    hint = "Choose how many values and how simple: the fewest big shapes that still are this picture."

    def options(self) -> QWidget:
        low, high = VALUE_COUNTS
        self._count = Choice([(COUNT_WORDS[n - low], n) for n in range(low, high + 1)], "Number of values")
        self._simple = Slide("How simple", 0, 100, ("all of it", "two shapes"))
        self._simple.moved.connect(lambda simple: self._preview(simple=simple))
        self._simple.settled.connect(lambda simple: self._send(simple=simple))
        self._told = soft("")
        self._detail = Slide("Detail where it counts", 0, 100, ("even", "most by the focus"))
        self._detail.settled.connect(lambda detail: self._send(detail=detail))
        self._counts = soft("")
        methods: list[tuple[str, ThresholdMethod]] = [
            ("as found", "found"),
            ("even", "even"),
            ("by hand", "by hand"),
        ]
        self._method = Choice(methods, "Thresholds")
        self._scale = ValueScale()
        self._smallest = number_entry("Smallest shape in square millimetres", "mm²")
        self._softness = LengthEntry("How round edges are drawn", lambda: self.desk.computed.unit)
        self._softness.chosen.connect(self._choose_softness)
        self._seen = seen_choice(self.desk, SEEN)
        self._outlines = Tick("Outlines")
        self._count.chosen.connect(self._choose_count)
        self._method.chosen.connect(self._choose_method)
        self._scale.moved.connect(lambda marks: self.desk.session.preview(change_values(self._by_hand(marks))))
        self._scale.settled.connect(lambda marks: self.commit(change_values(self._by_hand(marks))))
        self._smallest.chosen.connect(self._choose_smallest)
        self._outlines.chosen.connect(self._outline)
        return form(
            ("Values", self._count),
            ("How simple", self._simple),
            self._told,
            ("Detail", self._detail),
            self._counts,
            ("Thresholds", self._method),
            self._scale,
            ("Smallest shape", self._smallest),
            ("Round edges", self._softness),
            ("Board shows", self._seen),
            self._outlines,
            soft("Hold Q to squint."),
        )

    def refresh(self) -> None:
        values, masses = self.desk.study.values, self.desk.computed.masses
        self._count.show_value(values.count)
        self._method.show_value(values.method)
        self._simple.show_value(values.simple)
        self._detail.show_value(values.detail)
        self._told.setText(self._shapes_words())
        study = self.desk.study
        bare = values.detail > 0 and not study.rings and study.reads.focus is None
        self._counts.setText("Set a focus in Reads, or ring a subject: detail is kept there." if bare else "")
        self._counts.setVisible(bare)
        self._smallest.show_value(values.smallest_mm2)
        self._softness.show_value(values.softness_mm)
        self._seen.show_value(self.desk.board.fill)
        self._outlines.show_value("masses" in self.desk.board.layers)
        marks = values.thresholds if values.method == "by hand" else (masses.thresholds if masses else ())
        steps = masses.shown if masses and len(masses.shown) == values.count else ()
        self._scale.show_values(marks, steps, masses.distribution if masses else None)

    def _shapes_words(self) -> str:
        masses = self.desk.computed.masses if self.desk.computed.masses_current else None
        if masses is None:
            return "Finding the shapes …"
        return f"{sum(masses.counts)} shapes, {masses.border_mm / 10:.0f} cm of border."

    def _preview(self, **changes: Any) -> None:
        self.desk.session.preview(change_values(replace(self.desk.study.values, **changes)))

    def _thresholds(self) -> tuple[float, ...]:
        masses = self.desk.computed.masses
        return masses.thresholds if masses else ()

    def _by_hand(self, marks: tuple[float, ...]) -> ValuePlan:
        return replace(self.desk.study.values, count=len(marks) + 1, method="by hand", thresholds=marks)

    def _choose_count(self, count: int) -> None:
        old = self.desk.study.values
        method: ThresholdMethod = "found" if old.method == "by hand" else old.method
        self._send(count=count, method=method, thresholds=())

    def _choose_method(self, method: ThresholdMethod) -> None:
        marks = self._thresholds() if method == "by hand" else ()
        if method == "by hand" and len(marks) != self.desk.study.values.count - 1:
            from mild_compass.craft.values.thresholds import even_thresholds

            marks = even_thresholds(self.desk.study.values.count)
        self._send(method=method, thresholds=marks)

    def _choose_smallest(self, size: float) -> None:
        try:
            self.commit(change_values(replace(self.desk.study.values, smallest_mm2=size)))
        except PlanError as error:
            self._smallest.refuse(f"{error} It stays as it was.")

    def _choose_softness(self, softness_mm: float) -> None:
        try:
            self.commit(change_values(replace(self.desk.study.values, softness_mm=softness_mm)))
        except PlanError as error:
            self._softness.refuse(f"{error} It stays as it was.")

    def _send(self, **changes: Any) -> None:
        self.commit(change_values(replace(self.desk.study.values, **changes)))

    def _outline(self, on: bool) -> None:
        rest = tuple(name for name in self.desk.board.layers if name != "masses")
        self.desk.board.layers = (*rest, "masses") if on else rest
        self.desk.board.update()
