"""What is off: arrows and millimetres on the drawing, the list, ticks when mended, pairs set by hand."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import Qt

from mild_compass.plan.edits.check import mend, refuse, refuse_none, set_pair, unmend
from mild_compass.plan.edits.logbook import add_note
from mild_compass.plan.pictures import DrawnPair
from mild_compass.plan.times import now
from mild_compass.studio.board.marks import paint_word
from mild_compass.studio.board.strokes import cased_line, pen
from mild_compass.studio.desk import Desk
from mild_compass.studio.painting import polygon
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Names, Tick, button, form, rule, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.craft.check.checked import PartFound
    from mild_compass.plan.pictures import OwnDrawing, Point
    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint
    from mild_compass.studio.derived.checks import DrawnCheck

ROWS = 6
CATCH_PX = 12.0


class OffInstrument(Instrument):
    """Shows what is off besides the whole; a pair is set by dragging from a place of the plan to where it was drawn."""

    name = "off"
    words = "What is off"
    icon = "off"
    tells = ("whole", "off", "part", "missing", "doubtful")
    hint = (
        "Arrows point to where each part belongs, five times as long as it is off. To set a pair, drag from a line of "
        "the plan to where it was drawn. Delete refuses a match."
    )
    cursor = Qt.CursorShape.ArrowCursor
    fill = "drawing"
    layers = ()

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._chosen = 0
        self._from: Point | None = None
        self._to: Point | None = None
        self._show_plan = True

    def options(self) -> QWidget:
        self._list = Names("What is off", ROWS, ticked=True)
        self._list.chosen.connect(self._choose)
        self._list.ticked.connect(self._tick)
        self._plan = Tick("Lines of the plan, in blue")
        self._plan.show_value(True)
        self._plan.chosen.connect(self._look)
        self._told = soft("")
        return form(
            self._told,
            self._list,
            soft("Tick what you have put right on the paper."),
            (button("Not a match", self.delete), button("All again", self._all_again)),
            self._plan,
            rule(),
            button("Print the corrections…", self.desk.files.exports.choose_correction, main=True),
            button("Save the list as PDF…", self.desk.files.exports.choose_correction_list),
            button("Keep it in the logbook", self._keep),
        )

    # -- what is shown --------------------------------------------------------------------------------------------

    @property
    def _made(self) -> DrawnCheck | None:
        return self.desk.computed.drawing_check

    @property
    def _parts(self) -> list[PartFound]:
        """Everything that is off beyond doubt, also what is ticked as mended, the furthest first."""
        made = self._made
        sure = [part for part in made.checked.parts if part.sure] if made is not None else []
        return sorted(sure, key=lambda part: -part.far_mm)

    def _name(self, part: PartFound) -> str:
        from mild_compass.craft.check.readings import part_name

        worked = self.desk.computed.worked()
        name = part_name(part, worked) if worked is not None else part.name
        return f"{self.desk.length(part.far_mm)}  {name}"

    def refresh(self) -> None:
        from mild_compass.craft.check.readings import is_mended

        drawing, parts = self.desk.plan.drawing, self._parts
        self._chosen = min(self._chosen, max(len(parts) - 1, 0))
        ticks = [drawing is not None and is_mended(part, drawing) for part in parts]
        names = [f"{number}  {self._name(part)}" for number, part in enumerate(parts, 1)]
        self._list.show_names(names, self._chosen if parts else -1, ticks)
        self._told.setText(self._state())

    def _state(self) -> str:
        made, drawing = self._made, self.desk.plan.drawing
        if drawing is None:
            return "Add a photo of your drawing under “The drawing” first."
        if made is None:
            return self.desk.computed.checks.now.problem or "The drawing is being looked at …"
        if made.checked.problem:
            return made.checked.problem
        count = len(self._parts)
        return f"{count} part{'s are' if count != 1 else ' is'} off, besides the whole." if count else "No part is off."

    def _look(self, on: bool) -> None:
        self._show_plan = on
        self.desk.board.update()

    # -- ticks, refusals, notes -----------------------------------------------------------------------------------

    def _choose(self, row: int) -> None:
        self._chosen = max(row, 0)
        self.desk.board.update()

    def _tick(self, row: int, on: bool) -> None:
        drawing, parts = self.desk.plan.drawing, self._parts
        if drawing is None or row >= len(parts):
            return
        centre = parts[row].centre_mm
        self.commit(mend(drawing.id, centre, self._name(parts[row])) if on else unmend(drawing.id, centre))

    def _all_again(self) -> None:
        drawing = self.desk.plan.drawing
        if drawing is not None:
            self.commit(refuse_none(drawing.id))

    def _keep(self) -> None:
        worked = self.desk.computed.worked()
        if worked is None or worked.check is None or worked.plan.drawing is None or worked.check.problem:
            self.desk.say("There is no check to keep yet.")
            return
        from mild_compass.craft.check.over_time import summary_words

        self.commit(add_note(summary_words(worked), "check", now()))

    def delete(self) -> None:
        """Refuse the chosen match."""
        drawing, parts = self.desk.plan.drawing, self._parts
        if drawing is not None and parts:
            self.commit(refuse(drawing.id, parts[self._chosen].centre_mm))

    # -- pairs ----------------------------------------------------------------------------------------------------

    def press(self, at: BoardPoint) -> bool:
        made = self._made
        if made is None or made.checked.flat is None:
            return False
        for row, part in enumerate(self._parts):
            if self._near(at, self._tail(part)):
                self._chosen = row
                self._from, self._to = part.centre_mm, at.sheet_mm
                self.refresh()
                return True
        start = self._on_plan(at)
        if start is None:
            return False
        self._from = self._to = start
        return True

    def drag(self, at: BoardPoint) -> None:
        self._to = at.sheet_mm

    def release(self, at: BoardPoint) -> None:
        made, drawing = self._made, self.desk.plan.drawing
        start, self._from, self._to = self._from, None, None
        if start is None or made is None or made.checked.flat is None or drawing is None:
            return
        flat = made.checked.flat
        moved = np.hypot(*np.subtract(at.sheet_mm, start)) * self._px_per_mm(at)
        if moved < CATCH_PX / 3:
            return
        x, y = flat.to_photo(np.array([at.sheet_mm]))[0].tolist()
        self.commit(
            set_pair(drawing.id, DrawnPair((round(start[0], 2), round(start[1], 2)), (round(x, 1), round(y, 1))))
        )

    def cancel(self) -> None:
        self._from = self._to = None
        super().cancel()

    def tag(self) -> str | None:
        if self._from is None or self._to is None:
            return None
        far = np.subtract(self._to, self._from)
        return f"drawn {self.desk.length(float(np.hypot(*far)))} from its place"

    def _px_per_mm(self, at: BoardPoint) -> float:
        sight = self.desk.board.sheet_sight()
        assert sight is not None
        return float(sight.scale)

    def _tail(self, part: PartFound) -> Point:
        from mild_compass.craft.check.correction import drawn_at

        made = self._made
        assert made is not None
        x, y = drawn_at(made.checked, part).tolist()
        return x, y

    def _near(self, at: BoardPoint, place: Point) -> bool:
        return bool(np.hypot(*np.subtract(at.sheet_mm, place)) * self._px_per_mm(at) < CATCH_PX)

    def _on_plan(self, at: BoardPoint) -> Point | None:
        """The nearest place of a planned line under the pointer."""
        made = self._made
        best: tuple[float, Point] | None = None
        for line in made.lines if made is not None else ():
            place, far = _nearest(np.asarray(line.points_mm), np.array(at.sheet_mm))
            if best is None or far < best[0]:
                best = far, place
        return best[1] if best is not None and best[0] * self._px_per_mm(at) < CATCH_PX else None

    # -- painting -------------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        made, drawing = self._made, self.desk.plan.drawing
        if made is None or drawing is None or self.desk.board.fill != "drawing":
            return
        if self._show_plan:
            painter.setPen(pen("perspective", 1.0, alpha=150))
            for line in made.lines:
                painter.drawPolyline(polygon(sheet.to_widget(line.points_mm)))
        parts = self._parts
        from mild_compass.craft.check.correction import belongs

        if parts and made.checked.matrix is not None:
            for run in belongs(made.checked, parts[self._chosen]):
                cased_line(painter, sheet.to_widget(run), pen("subject", 1.6, "dashed"))
        self._paint_arrows(painter, sheet, made, drawing)
        for pair in drawing.pairs if made.checked.flat is not None else ():
            assert made.checked.flat is not None
            drawn = made.checked.flat.to_sheet(np.array([pair.drawn_px]))[0]
            ends = sheet.to_widget(np.array([pair.plan_mm, drawn]))
            cased_line(painter, ends, pen("subject", 1.4, "dotted"))
            paint_word(painter, "pair", float(ends[1, 0]) + 6, float(ends[1, 1]) - 4)
        if self._from is not None and self._to is not None:
            cased_line(painter, sheet.to_widget(np.array([self._from, self._to])), pen("subject", 1.6))

    def _paint_arrows(self, painter: QPainter, sheet: Sight, made: DrawnCheck, drawing: OwnDrawing) -> None:
        from mild_compass.craft.check.correction import correction

        marks = correction(made.checked, drawing, self.desk.plan.paper, self.desk.computed.unit).layers[0]
        for stroke in marks.strokes:
            if stroke.ink != "perspective":
                cased_line(
                    painter,
                    sheet.to_widget(stroke.points_mm),
                    pen(stroke.ink, 2.4 if stroke.ink == "armature" else 1.4),
                )
        for label in marks.labels:
            x, y = sheet.to_widget((label.x_mm, label.y_mm)).tolist()
            paint_word(painter, label.text, x + 8, y - 10)


def _nearest(line: np.ndarray, point: np.ndarray) -> tuple[Point, float]:
    a, b = line[:-1], line[1:]
    step = b - a
    share = ((point - a) * step).sum(1) / np.maximum((step**2).sum(1), 1e-12)
    places = a + np.clip(share, 0, 1)[:, None] * step
    far = np.hypot(*(places - point).T)
    best = int(np.argmin(far))
    return (float(places[best, 0]), float(places[best, 1])), float(far[best])
