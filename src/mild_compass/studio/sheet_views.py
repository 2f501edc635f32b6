"""What the sheet needs that takes a while: the line drawing from the photo."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Signal

from mild_compass.studio.value_views import same

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.craft.picture.line_drawing import LineDrawing
    from mild_compass.studio.computed import Computed
    from mild_compass.studio.work import Work


def _draw(*inputs: Any) -> LineDrawing:
    from mild_compass.craft.picture.line_drawing import line_drawing

    return line_drawing(*inputs)


class SheetViews(QObject):
    """Kept by the identity of their inputs; until a new one is there the last one is shown."""

    changed = Signal()

    def __init__(self, computed: Computed, work: Work, say: Callable[[str], None]) -> None:
        super().__init__(computed)
        self._computed, self._work, self._say = computed, work, say
        self.forget()

    def forget(self) -> None:
        """Drop everything, as when another plan is opened."""
        self._lines: tuple[tuple[Any, ...], LineDrawing] | None = None

    def lines(self) -> LineDrawing | None:
        """The lines drawn from the study's picture; None until they have been made."""
        study, looks = self._computed.plan.study, self._computed.looks
        if study is None or looks is None:
            return None
        key = (looks.picture, study.frame, self._computed.plan.paper, study.sheet.trace_amount)
        made = self._lines
        stale = made is None or not same(made[0], key)
        if stale and not self._computed.in_gesture and not self._work.busy("lines"):
            self._work.ask(
                "lines",
                _draw,
                *key,
                then=lambda lines: self._take(key, lines),
                otherwise=lambda error: self._say(str(error)),
            )
        return made[1] if made else None

    def _take(self, key: tuple[Any, ...], lines: LineDrawing) -> None:
        self._lines = (key, lines)
        self.changed.emit()
