"""Eye height and lens: set, or told by something whose height is known."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import Qt

from mild_compass.craft.perspective.camera import guessed_focal
from mild_compass.craft.perspective.things import EYE_OF_M, THING_WORDS, USUAL_M
from mild_compass.craft.perspective.two_heights import KnownThing, known_eye
from mild_compass.craft.perspective.worked import FILM_MM, told_focal_px
from mild_compass.plan.edits.perspective import set_eye, set_focal, set_horizon_and_eye
from mild_compass.plan.errors import PlanError
from mild_compass.plan.guides import EYE_M, FocalSource, Thing
from mild_compass.studio.board.board import near
from mild_compass.studio.board.loupe import paint_loupe
from mild_compass.studio.board.strokes import cased_line, pen
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.stations.perspective.strings import paint_strings
from mild_compass.studio.widgets import Choice, button, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint

SOURCES: list[tuple[str, FocalSource]] = [("from the edges", "found"), ("from the photo", "photo"), ("by hand", "hand")]


class EyeInstrument(Instrument):
    """Drag along something that stands on the ground: its height is told, or tells the eye height."""

    name = "eye"
    words = "Eye and lens"
    icon = "eye"
    tells = ("cone", "focal", "eye")
    hint = "How high was your eye? Or drag from foot to top of a thing you know, and let it tell."
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._from: BoardPoint | None = None
        self._at: BoardPoint | None = None
        self._measured: tuple[tuple[float, float], tuple[float, float]] | None = None
        self._kept: KnownThing | None = None

    def options(self) -> QWidget:
        self._eye = number_entry("Eye height", "m")
        self._eye.chosen.connect(self._set_eye)
        people = [self._person(who, eye) for who, eye in EYE_OF_M.items()]
        self._told = soft("")
        self._thing = Choice([(THING_WORDS[name].capitalize(), name) for name in USUAL_M], "What it is")
        self._thing.chosen.connect(self._take_thing)
        self._height = number_entry("Its true height", "m")
        self._height.chosen.connect(lambda value: self._height.show_value(value))
        self._use = button("So my eye was at …", self._use_it)
        self._keep = button("Keep it, to measure a second", self._keep_it)
        self._both = button("Horizon and eye by both", self._use_both, tip="Also where the camera was tipped or rolled")
        self._source = Choice(SOURCES, "Where the focal length comes from")
        self._source.chosen.connect(self._set_source)
        self._lens = number_entry("Focal length as on 36 mm film", "mm")
        self._lens.chosen.connect(self._set_lens)
        self._height.show_value(USUAL_M["door"])
        self._thing.show_value("door")
        return form(
            ("Eye", self._eye),
            *people,
            rule(),
            self._told,
            ("It is a", self._thing),
            ("Tall", self._height),
            self._use,
            self._keep,
            self._both,
            rule(),
            ("Lens", self._source),
            ("Long", self._lens),
        )

    def _person(self, who: str, eye_m: float) -> QWidget:
        return button(f"A standing {who}: {eye_m:.2f} m", lambda: self.commit(set_eye(eye_m)))

    def refresh(self) -> None:
        perspective, worked = self.desk.study.perspective, self.desk.computed.perspective()
        self._eye.show_value(round(perspective.eye_m, 3))
        self._source.show_value(perspective.focal)
        focals = worked.focals if worked else ()
        self._lens.show_value(round(focals[0].px / self._long_px() * FILM_MM, 1) if focals else 0.0)
        tall = self._tall()
        ready = tall is not None and np.isfinite(tall) and tall > 0
        self._use.setEnabled(bool(ready))
        self._keep.setEnabled(self._measured is not None)
        self._both.setEnabled(self._kept is not None and self._measured != (self._kept.foot, self._kept.top))
        if self._measured is None:
            self._told.setText("Drag from the foot to the top of something that stands on the ground.")
        elif ready and tall is not None:
            told = self._eye_by_it()
            self._told.setText(f"It is {tall:.2f} m by an eye at {perspective.eye_m:.2f} m.")
            self._use.setText(f"So my eye was at {told:.2f} m" if told else "So my eye was at …")
        else:
            self._told.setText("That does not stand on the ground below the horizon. Nothing can be told from it.")
        if self._measured is not None and worked is not None and worked.camera is None:
            self._told.setText("There is no horizon yet. Keep this one, drag along a second: the two tell it.")

    def _long_px(self) -> int:
        photo = self.desk.ground
        return max(photo.width_px, photo.height_px)

    def _tall(self) -> float | None:
        """Height of what was dragged along, by the eye height as it is set."""
        worked = self.desk.computed.perspective()
        if worked is None or worked.camera is None or self._measured is None:
            return None
        return worked.camera.height_of(*self._measured)

    def _eye_by_it(self) -> float | None:
        """The eye height that gives it its true height: both grow together."""
        tall = self._tall()
        known = self._typed_height()
        if tall is None or not np.isfinite(tall) or tall <= 0 or known is None:
            return None
        return self.desk.study.perspective.eye_m * known / tall

    def _typed_height(self) -> float | None:
        try:
            return float(self._height.line.text().replace("m", "").replace(",", ".").strip())
        except ValueError:
            return None

    def _take_thing(self, thing: Thing) -> None:
        self._height.show_value(USUAL_M[thing])
        self.refresh()

    def _set_eye(self, eye_m: float) -> None:
        if not EYE_M[0] <= eye_m <= EYE_M[1]:
            self._eye.refuse(f"Between {EYE_M[0]:g} and {EYE_M[1]:g} m. It stays as it was.")
            return
        self.commit(set_eye(eye_m))

    def _use_it(self) -> None:
        eye = self._eye_by_it()
        if eye is not None:
            before = self.desk.study.perspective.eye_m
            self._set_eye(round(eye, 3))
            self.desk.say(f"Eye height {eye:.2f} m by this thing, {before:.2f} m before.")

    def _known(self) -> KnownThing | None:
        """What was dragged along last, with the height typed for it."""
        height = self._typed_height()
        if self._measured is None or height is None or height <= 0:
            return None
        return KnownThing(*self._measured, height)

    def _keep_it(self) -> None:
        self._kept = self._known()
        if self._kept is not None:
            kept = f"{self._kept.height_m:g} m is kept."
            self.desk.say(f"{kept} Now drag along a second, nearer or farther, and type its height.")
        self.refresh()

    def _use_both(self) -> None:
        first, second = self._kept, self._known()
        if first is None or second is None:
            return
        photo = self.desk.ground
        try:
            found = known_eye(first, second, photo, self._focal_px())
            edit = set_horizon_and_eye(found.horizon, round(found.eye_m, 3))
        except PlanError as error:
            self.desk.say(str(error))
            return
        self.commit(edit)

    def _focal_px(self) -> float:
        worked, photo = self.desk.computed.perspective(), self.desk.ground
        if worked is not None and worked.focals:
            return worked.focals[0].px
        return told_focal_px(photo) or guessed_focal(photo.width_px, photo.height_px).px

    def _set_source(self, source: FocalSource) -> None:
        worked = self.desk.computed.perspective()
        px = worked.focals[0].px if worked and worked.focals else 0.0
        self.commit(set_focal(source, px if source == "hand" else 0.0))

    def _set_lens(self, film_mm: float) -> None:
        if not 8 <= film_mm <= 2000:
            self._lens.refuse("Between 8 and 2000 mm. It stays as it was.")
            return
        self.commit(set_focal("hand", film_mm / FILM_MM * self._long_px()))

    # -- on the board -----------------------------------------------------------------------------------------

    def press(self, at: BoardPoint) -> bool:
        self._from = self._at = at
        return True

    def drag(self, at: BoardPoint) -> None:
        self._at = at

    def release(self, at: BoardPoint) -> None:
        start, self._from, self._at = self._from, None, None
        assert start is not None
        if near(start.widget, at.widget, 6):
            self.desk.say("Drag from the foot of a thing to its top; that was only a click.")
            return
        foot, top = sorted((start.photo_px, at.photo_px), key=lambda point: -point[1])
        self._measured = (foot, top)
        self.refresh()

    def cancel(self) -> None:
        self._from = self._at = None
        super().cancel()

    def tag(self) -> str | None:
        worked = self.desk.computed.perspective()
        if self._from is None or self._at is None or worked is None or worked.camera is None:
            return None
        foot, top = sorted((self._from.photo_px, self._at.photo_px), key=lambda point: -point[1])
        tall = worked.camera.height_of(foot, top)
        return f"{tall:.2f} m" if np.isfinite(tall) else "above the horizon"

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        paint_strings(painter, self.desk, photo, None)
        ends = (self._from.photo_px, self._at.photo_px) if self._from and self._at else self._measured
        if ends is not None:
            cased_line(painter, photo.to_widget(ends), pen("subject", 2.2))
        if self._kept is not None:
            cased_line(painter, photo.to_widget([self._kept.foot, self._kept.top]), pen("subject", 1.6, "dashed"))
        if self._at is not None:
            paint_loupe(painter, self.desk.board, self.desk.computed.looks, self._at.widget)
