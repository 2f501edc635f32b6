"""What single instruments look at, made when it is looked at: the reads, what stands out or deceives, the picture from
afar, the lines to trace."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from mild_compass.plan.tones import ValuePlan
from mild_compass.studio.derived.derived import Derived, Key
from mild_compass.studio.derived.looks import Looks, stepped_back, tone_view
from mild_compass.studio.derived.masses import counts_of

if TYPE_CHECKING:
    from collections.abc import Callable

    from PySide6.QtGui import QImage

    from mild_compass.craft.picture.line_drawing import LineDrawing
    from mild_compass.craft.values.read_readings import StudyReads
    from mild_compass.studio.derived.looks import ToneView
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session

STEP_BACK_M = 3.0


def _reads(picture: Any, study: Any, paper: Any) -> StudyReads:
    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.values.read_readings import study_reads

    return study_reads(picture, study, paper, FrameMap.of(study.frame, paper))


def _lines(perspective: Any, ground: Any, amount: float, subjects: Any, *led: Any) -> LineDrawing:
    from mild_compass.craft.perspective.worked import aims_of, work_out
    from mild_compass.craft.values.mass_guidance import mass_guided_lines

    return mass_guided_lines(amount, aims_of(work_out(perspective, ground)), subjects, *led)


def _leading(values: ValuePlan) -> ValuePlan:
    """What of the values leads the lines: how simple the masses are, and what was changed of them, does not."""
    return ValuePlan(
        values.count, values.method, values.thresholds, values.smallest_mm2, detail=values.detail, areas=values.areas
    )


def _contrast(*inputs: Any) -> QImage:
    return tone_view("contrast", *inputs)


def _traps(*inputs: Any) -> QImage:
    return tone_view("traps", *inputs)


class Views:
    """None of them is made unless somebody looks."""

    def __init__(self, session: Session, work: LatestWins, looks: Callable[[], Looks | None]) -> None:
        self._session, self._looks = session, looks
        self.step_back_m = STEP_BACK_M
        self._reads: Derived[StudyReads] = Derived("reads", session, work, self._reads_key, _reads, when="at once")
        self._tones: dict[ToneView, Derived[QImage]] = {
            "contrast": Derived("what stands out", session, work, self._tone_key, _contrast),
            "traps": Derived("what deceives", session, work, self._tone_key, _traps),
        }
        self._afar: Derived[tuple[QImage, ...]] = Derived(
            "from afar", session, work, self._afar_key, stepped_back, when="always"
        )
        self._lines: Derived[LineDrawing] = Derived("lines", session, work, self._lines_key, _lines)
        self.values: tuple[Derived[Any], ...] = (self._reads, *self._tones.values(), self._afar, self._lines)

    def reads(self) -> StudyReads | None:
        """Where the eye goes in the current study; None until the picture is there, the last ones while dragging."""
        return self._reads.shown or self._reads.value if self._session.in_gesture else self._reads.value

    def tone_view(self, way: ToneView) -> QImage | None:
        """The framed picture so that it shows what stands out or deceives; None until it has been made."""
        return self._tones[way].look()

    def lines(self) -> LineDrawing | None:
        """The lines drawn from the study's picture; None until they have been made."""
        return self._lines.look()

    @property
    def lines_settled(self) -> bool:
        """Whether there are no lines to wait for: they are there, or there is no photo to draw them from."""
        return self._lines.settled

    def from_afar(self, scale: float) -> QImage | None:
        """The picture as it is seen from so many metres from the sheet; None until it has been made."""
        levels, looks = self._afar.look(), self._looks()
        return Looks(looks.picture, {"colour": levels}).level("colour", scale) if levels and looks else None

    def _whole(self) -> Looks | None:
        looks = self._looks()
        return looks if looks is not None and looks.complete else None

    def _reads_key(self) -> Key | None:
        plan, looks = self._session.plan, self._whole()
        return (looks.picture, plan.study, plan.paper) if plan.study and looks else None

    def _tone_key(self) -> Key | None:
        plan, looks = self._session.plan, self._whole()
        if plan.study is None or looks is None:
            return None
        from mild_compass.craft.geometry.frame_map import FrameMap
        from mild_compass.craft.values.read_readings import interest_in_frame

        study, paper = plan.study, plan.paper
        return looks.picture, study.frame, paper, tuple(interest_in_frame(study, FrameMap.of(study.frame, paper)))

    def _afar_key(self) -> Key | None:
        plan, looks = self._session.plan, self._looks()
        if plan.study is None or looks is None:
            return None
        from mild_compass.craft.geometry.frame_map import FrameMap
        from mild_compass.craft.picture.step_back import step_back_sigma_mm

        mm_per_px = FrameMap.of(plan.study.frame, plan.paper).mm_per_px
        return looks.picture, round(step_back_sigma_mm(self.step_back_m) / mm_per_px, 2)

    def _lines_key(self) -> Key | None:
        plan, looks = self._session.plan, self._looks()
        if plan.study is None or looks is None:
            return None
        study = plan.study
        from mild_compass.craft.values.detail import subjects_of

        led = looks.picture, study.frame, plan.paper, _leading(study.values), counts_of(study)
        return study.perspective, plan.ground(study), study.sheet.trace_amount, subjects_of(study), *led
