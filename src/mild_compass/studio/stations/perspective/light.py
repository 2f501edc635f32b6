"""The light that throws the guides' shadows, and the water that mirrors them."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, Qt

from mild_compass.plan.edits.perspective import set_light, set_water
from mild_compass.plan.edits.stage import set_stage_tones
from mild_compass.plan.errors import PlanError
from mild_compass.plan.guides import LightKind
from mild_compass.plan.stage import Stage
from mild_compass.studio.board.strokes import casing, pen
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.stations.perspective.guides import paint_guides
from mild_compass.studio.widgets import Choice, Tick, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtGui import QPainter
    from PySide6.QtWidgets import QWidget

    from mild_compass.studio.board.sight import PhotoSight, Sight
    from mild_compass.studio.board.tool import BoardPoint
    from mild_compass.studio.widgets import Entry

KINDS: list[tuple[str, LightKind]] = [("no shadows", "none"), ("the sun", "sun"), ("a lamp", "lamp")]
FROM = [("behind me", 0.0), ("behind, right", 45.0), ("the right", 90.0), ("ahead, right", 135.0), ("ahead", 180.0),
        ("ahead, left", -135.0), ("the left", -90.0), ("behind, left", -45.0)]  # fmt: skip


class LightInstrument(Instrument):
    """Sets sun or lamp, and the height of still water."""

    name = "light"
    words = "Light and water"
    icon = "light"
    tells = ("light",)
    hint = "Where the light comes from, for the shadows of your guides. Click the ground to stand a lamp there."
    cursor = Qt.CursorShape.CrossCursor

    def options(self) -> QWidget:
        self._kind = Choice(KINDS, "Light")
        self._kind.chosen.connect(self._set_kind)
        self._from = Choice(FROM, "The sun comes from")
        self._from.chosen.connect(lambda azimuth: self._change(azimuth_deg=azimuth))
        self._azimuth = number_entry("Direction of the sun, clockwise from behind you", "°")
        self._azimuth.chosen.connect(lambda value: self._change(azimuth_deg=value))
        self._altitude = number_entry("Height of the sun", "°")
        self._altitude.chosen.connect(lambda value: self._change(altitude_deg=value))
        self._lamp = number_entry("Height of the lamp", "m")
        self._lamp.chosen.connect(lambda value: self._change(height_m=value))
        self._wet = Tick("Still water")
        self._wet.chosen.connect(lambda on: self.commit(set_water(0.0 if on else None)))
        self._water = number_entry("Height of the water against the ground", "m")
        self._water.chosen.connect(self._set_water)
        self._ground_tone = number_entry("Value of the ground in the stage's own picture, L*", "")
        self._ground_tone.chosen.connect(lambda value: self._set_tones(self._ground_tone, value, None))
        self._sky_tone = number_entry("Value of the sky in the stage's own picture, L*", "")
        self._sky_tone.chosen.connect(lambda value: self._set_tones(self._sky_tone, None, value))
        self._of_stage = form(("Ground", self._ground_tone), ("Sky", self._sky_tone))
        self._note = soft("Tick “shadow” or “mirrored” at a guide. In water darks look lighter, lights darker.")
        return form(
            ("Light", self._kind),
            ("From", self._from),
            ("Direction", self._azimuth),
            ("Height", self._altitude),
            ("Lamp", self._lamp),
            rule(),
            self._wet,
            ("Level", self._water),
            self._of_stage,
            self._note,
        )

    def refresh(self) -> None:
        perspective = self.desk.study.perspective
        light = perspective.light
        self._kind.show_value(light.kind)
        self._from.show_value(light.azimuth_deg)
        self._azimuth.show_value(light.azimuth_deg)
        self._altitude.show_value(light.altitude_deg)
        self._lamp.show_value(light.height_m)
        for control in (self._from, self._azimuth, self._altitude):
            control.setEnabled(light.kind == "sun")
        self._lamp.setEnabled(light.kind == "lamp")
        self._wet.show_value(perspective.water_m is not None)
        self._water.setEnabled(perspective.water_m is not None)
        self._water.show_value(perspective.water_m or 0.0)
        stage = self.desk.study.stage
        self._of_stage.setVisible(stage is not None and not self.desk.ground.is_photo)
        if stage is not None:
            self._ground_tone.show_value(round(stage.ground_tone, 1))
            self._sky_tone.show_value(round(stage.sky_tone, 1))

    def _set_kind(self, kind: LightKind) -> None:
        light = self.desk.study.perspective.light
        if kind == "lamp" and light.foot == (0.0, 0.0):
            x, y = self.desk.study.frame.middle
            light = replace(light, foot=(x, y + 0.35 * self.desk.study.frame.height_px))
        self.commit(set_light(replace(light, kind=kind)))

    def _set_tones(self, entry: Entry, ground: float | None, sky: float | None) -> None:
        stage = self.desk.study.stage or Stage()
        ground_tone, sky_tone = stage.ground_tone if ground is None else ground, stage.sky_tone if sky is None else sky
        if not 0 <= min(ground_tone, sky_tone) <= max(ground_tone, sky_tone) <= 100:
            entry.refuse("Between 0, black, and 100, white. It stays as it was.")
            return
        self.commit(set_stage_tones(ground_tone, sky_tone))

    def _change(self, **changes: float) -> None:
        try:
            light = replace(self.desk.study.perspective.light, **changes)  # type: ignore[arg-type]
        except PlanError as error:
            entry = {"azimuth_deg": self._azimuth, "altitude_deg": self._altitude, "height_m": self._lamp}
            entry[next(iter(changes))].refuse(f"{error} It stays as it was.")
            return
        self.commit(set_light(light))

    def _set_water(self, level_m: float) -> None:
        if abs(level_m) > 100:
            self._water.refuse("Between −100 and 100 m. It stays as it was.")
            return
        self.commit(set_water(level_m))

    def press(self, at: BoardPoint) -> bool:
        if self.desk.study.perspective.light.kind != "lamp":
            return False
        self.drag(at)
        return True

    def drag(self, at: BoardPoint) -> None:
        self.desk.session.preview(set_light(replace(self.desk.study.perspective.light, foot=at.photo_px)))

    def release(self, at: BoardPoint) -> None:
        self.commit(set_light(replace(self.desk.study.perspective.light, foot=at.photo_px)))

    def paint(self, painter: QPainter, photo: PhotoSight, sheet: Sight) -> None:
        paint_guides(painter, self.desk, photo)
        light = self.desk.study.perspective.light
        if light.kind == "lamp":
            x, y = photo.to_widget(light.foot).tolist()
            for line in (casing(2.0), pen("subject", 1.6)):
                painter.setPen(line)
                painter.drawEllipse(QPointF(x, y), 7, 4)
                painter.drawLine(QPointF(x, y - 12), QPointF(x, y + 4))
