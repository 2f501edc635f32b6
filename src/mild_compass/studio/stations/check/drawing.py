"""The photo of the drawing: taken in, chosen, or drawn by the stand-in to try."""

from __future__ import annotations

from typing import TYPE_CHECKING, get_args

from mild_compass.plan.edits.check import choose_drawing, remove_drawing, set_stage
from mild_compass.plan.pictures import DrawingStage
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Names, Tick, button, form, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.plan.pictures import OwnDrawing

HANDS = (("steady", "steady"), ("ordinary", "ordinary"), ("clumsy", "clumsy"))
STAGES: tuple[DrawingStage, ...] = get_args(DrawingStage)
ROWS = 4


class DrawingInstrument(Instrument):
    """Takes photos of the drawing in; any phone will do, all four corners in the picture."""

    name = "drawing"
    words = "The drawing"
    icon = "photos"
    tells = ("no_drawing", "problem", "whole")
    hint = (
        "Take a photo of your sheet with any phone, all four corners in it, and add it here; drop and paste work too."
    )
    fill = "drawing"
    layers = ()

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        desk.files.drawings.found.connect(lambda name: desk.say(f"{name} has come into the watched folder."))

    def options(self) -> QWidget:
        files = self.desk.files.drawings
        self._list = Names("Photos of the drawing", ROWS)
        self._list.chosen.connect(self._choose)
        self._told = soft("")
        self._stage = Choice([(stage, stage) for stage in STAGES], "How far the work had come")
        self._stage.chosen.connect(lambda stage: self._on_drawing(lambda key: set_stage(key, stage)))
        self._again = button("Look at it again", self.desk.computed.checks.look_again)
        self._remove = button("Remove this photo", lambda: self._on_drawing(remove_drawing))
        self._hand = Choice(list(HANDS), "How clumsy the hand is")
        self._hand.show_value("ordinary")
        self._drawn_stage = Choice([("lines", "lines"), ("values", "values")], "What is drawn")
        self._watch = Tick("Watch a folder for more")
        self._watch.chosen.connect(files.watched.turn)
        files.watched.changed.connect(self._tell_watched)
        return form(
            button("Add a photo of it…", files.choose, main=True),
            self._watch,
            rule(),
            self._list,
            self._told,
            self._again,
            ("It shows", self._stage),
            self._remove,
            rule(),
            soft("Nothing drawn yet? Have the plan drawn by a stand-in, badly, to see what is told."),
            ("Hand", self._hand),
            ("Draws", self._drawn_stage),
            button("Draw it for me, badly", lambda: files.stand_in(self._hand.value, self._drawn_stage.value)),
        )

    def _choose(self, row: int) -> None:
        drawings = self.desk.plan.drawings
        if 0 <= row < len(drawings):
            self.commit(choose_drawing(drawings[row].id))

    def _on_drawing(self, edit_of: object) -> None:
        drawing = self.desk.plan.drawing
        if drawing is not None:
            self.commit(edit_of(drawing.id))  # type: ignore[operator]

    def _tell_watched(self) -> None:
        self._watch.show_value(self.desk.files.drawings.watched.folder is not None)

    def refresh(self) -> None:
        plan, drawing = self.desk.plan, self.desk.plan.drawing
        rows = [f"{number}  {each.name}" for number, each in enumerate(plan.drawings, 1)]
        chosen = next((n for n, each in enumerate(plan.drawings) if drawing is not None and each.id == drawing.id), -1)
        self._list.show_names(rows, chosen)
        for control in (self._stage, self._remove):
            control.setEnabled(drawing is not None)
        called_off = drawing is not None and self.desk.computed.checks.called_off
        self._again.setVisible(called_off)
        if drawing is None:
            self._told.setText("No photo of the drawing yet.")
            return
        self._stage.show_value(drawing.stage)
        self._told.setText(self.desk.computed.checks.now.problem if called_off else self._taken(drawing))

    def _taken(self, drawing: OwnDrawing) -> str:
        """When it was taken, and for which size every mm is meant: of a sheet half as large a photo looks the same."""
        paper, made = self.desk.plan.paper, self.desk.computed.drawing_check
        words = f"Taken {drawing.taken.replace('T', ' ')[:16]}."
        if made is None or not made.flat:
            return words
        return f"{words} Measured as {paper.name}; a photo tells a sheet's proportion, not its size."
