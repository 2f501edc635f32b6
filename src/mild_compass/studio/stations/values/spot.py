"""The value at a spot, and the colours whose value deceives."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import Qt

from mild_compass.craft.values.spot import SPOT_MM, Spot, value_of
from mild_compass.studio.board.strokes import cased_line, pen
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.stations.values.seen import seen_choice
from mild_compass.studio.widgets import form, rule, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint

RING = 33
KEPT = 6


class SpotInstrument(Instrument):
    """Tells L*, Munsell value and the step on the artist's scale under the pointer; a click keeps it."""

    name = "spot"
    words = "Value at a spot"
    icon = "spot"
    tells = ("trap",)
    needs = "a photo"
    hint = "Point at a place: how light is it really? A click keeps the spot, to compare with another."
    cursor = Qt.CursorShape.CrossCursor
    fill = "traps"

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._at: BoardPoint | None = None
        self._kept: list[tuple[tuple[float, float], Spot]] = []

    def options(self) -> QWidget:
        self._seen = seen_choice(self.desk, [("Value traps", "traps"), ("Colour", "colour"), ("Values only", "values")])
        self._list = soft("")
        return form(
            ("Board shows", self._seen),
            soft("Grey, but for strong colours that are darker or lighter than they seem."),
            rule(),
            self._list,
        )

    def refresh(self) -> None:
        self._seen.show_value(self.desk.board.fill)
        rows = [f"{k}  {_words(spot)}" for k, (_, spot) in enumerate(self._kept, 1)]
        if len(self._kept) > 1:
            off = self._kept[-1][1].lightness - self._kept[-2][1].lightness
            rows.append(f"The last is {abs(off):.0f} L* {'lighter' if off > 0 else 'darker'} than the one before.")
        self._list.setText("\n".join(rows) or "No spot kept yet.")

    def _spot(self, at: BoardPoint) -> Spot | None:
        looks = self.desk.computed.looks
        if looks is None:
            return None
        picture = looks.picture
        scale = picture.rgb.shape[1] / picture.width_px
        reach = max(0, round(SPOT_MM * self.desk.px_per_mm * scale / 2))
        x, y = int(at.photo_px[0] * scale), int(at.photo_px[1] * scale)
        part = picture.rgb[max(0, y - reach) : y + reach + 1, max(0, x - reach) : x + reach + 1]
        masses = self.desk.computed.masses
        inside = 0 <= x < picture.rgb.shape[1] and 0 <= y < picture.rgb.shape[0]
        return value_of(part, masses.thresholds if masses else ()) if inside and part.size else None

    def hover(self, at: BoardPoint) -> Qt.CursorShape:
        self._at = at
        return self.cursor

    def press(self, at: BoardPoint) -> bool:
        self._at = at
        return True

    def drag(self, at: BoardPoint) -> None:
        self._at = at

    def release(self, at: BoardPoint) -> None:
        spot = self._spot(at)
        if spot is None:
            self.desk.say("There is no photo at that place.")
            return
        self._kept = [*self._kept, (at.photo_px, spot)][-KEPT:]
        self.refresh()

    def delete(self) -> None:
        self._kept = self._kept[:-1]
        self.refresh()
        self.desk.board.update()

    def tag(self) -> str | None:
        spot = self._spot(self._at) if self._at is not None else None
        return _words(spot) if spot is not None else None

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        angle = np.linspace(0, 2 * np.pi, RING)
        ring = np.stack([np.cos(angle), np.sin(angle)], 1) * 6
        for place, _ in self._kept:
            cased_line(painter, photo.to_widget(place) + ring, pen("measure", 1.4))


def _words(spot: Spot) -> str:
    words = f"L* {spot.lightness:.0f} · Munsell {spot.munsell:.1f}"
    return words if spot.step is None else f"{words} · value {spot.step + 1}"
