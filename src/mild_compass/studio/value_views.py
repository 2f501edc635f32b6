"""Views of the values that are made when they are asked for: the reads, what stands out, what deceives, from afar."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from mild_compass.studio.looks import Looks, stepped_back, tone_view

if TYPE_CHECKING:
    from collections.abc import Callable

    from PySide6.QtGui import QImage

    from mild_compass.craft.values.read_readings import StudyReads
    from mild_compass.studio.computed import Computed
    from mild_compass.studio.looks import ToneView
    from mild_compass.studio.work import Work

STEP_BACK_M = 3.0


class ValueViews(QObject):
    """Each is kept by the identity of its inputs; until a new one is there the last one is shown."""

    changed = Signal()

    def __init__(self, computed: Computed, work: Work, say: Callable[[str], None]) -> None:
        super().__init__(computed)
        self._computed, self._work, self._say = computed, work, say
        self.step_back_m = STEP_BACK_M
        self.forget()

    def forget(self) -> None:
        """Drop everything, as when another plan is opened."""
        self._reads: StudyReads | None = None
        self._tones: dict[ToneView, tuple[tuple[Any, ...], QImage]] = {}
        self._afar: tuple[tuple[Any, ...], tuple[QImage, ...]] | None = None

    def reads(self) -> StudyReads | None:
        """Where the eye goes in the current study; None until the picture is there, the last ones while dragging."""
        inputs = self._inputs()
        if inputs is None:
            return None
        from mild_compass.craft.geometry.frame_map import FrameMap
        from mild_compass.craft.values.read_readings import study_reads

        picture, frame, paper, study = inputs
        if self._reads is None or not self._computed.in_gesture:
            self._reads = study_reads(picture, study, paper, FrameMap.of(frame, paper))
        return self._reads

    def tone_view(self, way: ToneView) -> QImage | None:
        """The framed picture so that it shows what stands out or deceives; None until it has been made."""
        inputs = self._inputs()
        if inputs is None:
            return None
        from mild_compass.craft.geometry.frame_map import FrameMap
        from mild_compass.craft.values.read_readings import pulls_in_frame

        picture, frame, paper, study = inputs
        key = (picture, frame, paper, tuple(pulls_in_frame(study, FrameMap.of(frame, paper))))
        made = self._tones.get(way)
        stale = made is None or not same(made[0], key)
        if stale and not self._computed.in_gesture and not self._work.busy("tone view"):
            self._work.ask(
                "tone view",
                tone_view,
                way,
                *key,
                then=lambda image: self._take_tone(way, key, image),
                otherwise=lambda error: self._say(str(error)),
            )
        return made[1] if made else None

    def _take_tone(self, way: ToneView, key: tuple[Any, ...], image: QImage) -> None:
        self._tones[way] = (key, image)
        self.changed.emit()

    def from_afar(self, looks: Looks, scale: float) -> QImage | None:
        """The photo as it is seen from so many metres from the sheet; None until it has been made."""
        study = self._computed.plan.study
        if study is None:
            return None
        from mild_compass.craft.geometry.frame_map import FrameMap
        from mild_compass.craft.picture.step_back import step_back_sigma_mm

        mm_per_px = FrameMap.of(study.frame, self._computed.plan.paper).mm_per_px
        key = (looks.picture, round(step_back_sigma_mm(self.step_back_m) / mm_per_px, 2))
        made = self._afar
        if (made is None or not same(made[0], key)) and not self._work.busy("step back"):
            self._work.ask(
                "step back",
                stepped_back,
                *key,
                then=lambda levels: self._take_afar(key, levels),
                otherwise=lambda error: self._say(str(error)),
            )
        if made is None or made[0][0] is not looks.picture:
            return None
        return Looks(looks.picture, {"colour": made[1]}).level("colour", scale)

    def _take_afar(self, key: tuple[Any, ...], levels: tuple[QImage, ...]) -> None:
        self._afar = (key, levels)
        self.changed.emit()

    def _inputs(self) -> tuple[Any, ...] | None:
        study, looks = self._computed.plan.study, self._computed.looks
        if study is None or looks is None or not looks.complete:
            return None
        return looks.picture, study.frame, self._computed.plan.paper, study


def same(a: tuple[Any, ...], b: tuple[Any, ...]) -> bool:
    """Whether two runs of inputs are the same picture and equal otherwise."""
    return a[0] is b[0] and a[1:] == b[1:]
