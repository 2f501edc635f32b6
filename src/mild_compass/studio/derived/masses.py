"""The masses: a quick idea of them first, their flat picture next, their outlines a little later.

The quick idea is always kept up. The others take a second of two processors: where masses are worked on they are made
as soon as the hand rests, or holds still in a drag, elsewhere when it has rested for a while.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QTimer

from mild_compass.studio.derived.derived import Derived, Key
from mild_compass.studio.derived.looks import flat_image, masses_image, masses_paths

if TYPE_CHECKING:
    from collections.abc import Callable

    from PySide6.QtGui import QImage

    from mild_compass.craft.picture.load import Picture
    from mild_compass.craft.values.detail import Counts
    from mild_compass.craft.values.masses import FlatMasses, Masses
    from mild_compass.plan.model import Frame, Paper, Plan, Study
    from mild_compass.plan.tones import ValuePlan
    from mild_compass.studio.derived.looks import Looks, MassPaths
    from mild_compass.studio.derived.turns import Turns
    from mild_compass.studio.requests.work import Work
    from mild_compass.studio.session import Session

ROUGH_PX = 130
REST_MS = 1500
STILL_MS = 60  # a hand that holds still so long in the middle of a drag may be about to let go
DRAWN_PX = 1800  # nearer than that the outlines themselves are painted


@dataclass(frozen=True, eq=False, slots=True)
class FlatPicture:
    """Masses without outlines, and their picture."""

    masses: FlatMasses
    image: QImage


@dataclass(frozen=True, eq=False)
class DrawnMasses:
    """Masses with their outlines, and their picture."""

    masses: Masses
    image: QImage

    @cached_property
    def paths(self) -> MassPaths:
        """The outlines in pixels of the value map, painted one over the other."""
        return masses_paths(self.masses)


def counts_of(study: Study) -> tuple[Counts, ...]:
    """Where detail counts in a study; nothing is loaded for one where it is even."""
    if not study.values.detail:
        return ()
    from mild_compass.craft.values.detail import what_counts

    return what_counts(study)


def _quick(picture: Picture, frame: Frame, paper: Paper, values: ValuePlan, longest_px: int = 0) -> FlatPicture:
    from mild_compass.craft.values.masses import LONGEST_PX, quick_masses

    flat = quick_masses(picture, frame, paper, values, longest_px or LONGEST_PX)
    return FlatPicture(flat, flat_image(flat))


def _flat(*inputs: Any) -> FlatPicture:
    from mild_compass.craft.values.masses import flat_masses

    flat = flat_masses(*inputs)
    return FlatPicture(flat, flat_image(flat))


def _rough(picture: Picture, frame: Frame, paper: Paper, values: ValuePlan, counts: tuple[Counts, ...]) -> FlatPicture:
    """While something is dragged: another stop of the shapes that are there already, or a small quick picture."""
    from mild_compass.craft.values.masses import has_hierarchy

    if has_hierarchy(picture, frame, paper, values, counts):
        return _flat(picture, frame, paper, values, counts)
    return _quick(picture, frame, paper, values, ROUGH_PX)


def _outlined(flat: FlatPicture, _: Picture, *inputs: Any) -> DrawnMasses:
    from mild_compass.craft.values.masses import with_outlines

    masses = with_outlines(flat.masses, *inputs[:3])
    return DrawnMasses(masses, masses_image(masses, DRAWN_PX))


def _measured(drawn: DrawnMasses, smallest_mm2: float, _: Picture) -> Masses:
    from mild_compass.craft.values.mass_readings import prepare

    prepare(drawn.masses, smallest_mm2)
    return drawn.masses


class StudyMasses:
    """Three values, each better than the one before; what is ``measured`` on the last is only made when looked at."""

    def __init__(
        self,
        session: Session,
        work: Work,
        turns: Turns,
        looks: Callable[[], Looks | None],
        rested: Callable[[], None],
    ) -> None:
        self._session, self._looks, self._rested = session, looks, rested
        self.worked_on = False
        self._seen: Key | None = None  # of what the hand has begun to rest
        self._rested_on: Key | None = None
        self._keyed: tuple[Plan, Picture, Key] | None = None
        self._rest = QTimer(session, singleShot=True, interval=REST_MS)
        self._rest.timeout.connect(self._has_rested)
        self.quick: Derived[FlatPicture] = Derived("quick masses", session, work, self._quick_key, _quick)
        self.flat: Derived[FlatPicture] = Derived(
            *("masses", session, work, self._fitted_key, _flat),
            rough=_rough,
            turns=turns,
            still_ms=lambda: STILL_MS if self.worked_on else 0,
        )
        self.outlined: Derived[DrawnMasses] = Derived(
            "outlines", session, work, self._outlined_key, _outlined, still_ms=lambda: 1
        )
        self.measured: Derived[Masses] = Derived("edges", session, work, self._measured_key, _measured)
        self.values = (self.quick, self.flat, self.outlined)

    @property
    def now(self) -> Masses | None:
        """The masses of the plan as it is shown, or None until they are there."""
        drawn = self.outlined.value
        return drawn.masses if drawn else None

    @property
    def shown(self) -> Masses | None:
        """The same; until they are there the last ones of the same picture."""
        looks = self._looks()
        return self.now or (self._last_of(looks.picture) if looks else None)

    @property
    def measured_shown(self) -> Masses | None:
        """The masses with their edges measured; until they are there the last ones of the same picture."""
        looks, last = self._looks(), self.measured.last
        if self.measured.value is not None or looks is None or last is None:
            return self.measured.value
        return last[1] if last[0][2] is looks.picture else None

    @property
    def image(self) -> QImage | None:
        """The picture of the masses: drawn from their outlines, or until these are there by pixels."""
        drawn = self.outlined.value
        if drawn is not None:
            return drawn.image
        flat = self.flat.value or (self.flat.shown if self._session.in_gesture else None)
        flat = flat or self.quick.value or self.flat.shown
        return flat.image if flat else None

    @property
    def on_their_way(self) -> bool:
        """Whether masses that are worked on are being made."""
        return self.worked_on and not self.problem and self._flat_key() is not None and self.now is None

    @property
    def problem(self) -> str:
        """Why there are no masses; empty otherwise."""
        return self.quick.problem or self.flat.problem or self.outlined.problem

    def follow(self) -> None:
        """Begin to count how long the hand rests, where masses are not worked on."""
        if self.worked_on or self._session.in_gesture:
            self._rest.stop()
            return
        key = self._flat_key()
        if key != self._seen:
            self._seen = key
            self._rest.start()

    def _has_rested(self) -> None:
        self._rested_on = self._seen
        self._rested()

    def _are_wanted(self, key: Key | None) -> bool:
        return self.worked_on or (key is not None and key == self._rested_on)

    def _flat_key(self) -> Key | None:
        """What masses are made from; it is looked at many times for one plan."""
        plan, looks = self._session.plan, self._looks()
        if plan.study is None or looks is None:
            return None
        if self._keyed is None or self._keyed[0] is not plan or self._keyed[1] is not looks.picture:
            values = replace(plan.study.values, edges=(), planes=())  # said of the masses: they stay as they are
            key = looks.picture, plan.study.frame, plan.paper, values, counts_of(plan.study)
            self._keyed = plan, looks.picture, key
        return self._keyed[2]

    def _fitted_key(self) -> Key | None:
        """The same, once the quick masses are there: two at a time would keep both waiting."""
        key = self._flat_key()
        if key is None or self._session.in_gesture:
            return key
        return key if self._are_wanted(key) and self.quick.settled else None

    def _quick_key(self) -> Key | None:
        """What a quick idea is made of; none where the masses come at once."""
        key = self._flat_key()
        if key is None or self.flat.get(key) is not None:
            return None
        if self._are_wanted(key) and self._has_hierarchy(key):
            return None
        picture, frame, paper, values, _ = key
        return picture, frame, paper, replace(values, simple=0.0, detail=0.0, areas=())

    def _has_hierarchy(self, key: Key) -> bool:
        if self.flat.last is None:
            return False  # and nothing is loaded to find that out
        from mild_compass.craft.values.masses import has_hierarchy

        return has_hierarchy(*key)

    def _outlined_key(self) -> Key | None:
        flat, key = self.flat.value, self._flat_key()
        return (flat, *key) if flat is not None and key is not None else None

    def _measured_key(self) -> Key | None:
        drawn, plan, looks = self.outlined.value, self._session.plan, self._looks()
        if drawn is None or plan.study is None or looks is None:
            return None
        return drawn, plan.study.values.smallest_mm2, looks.picture

    def _last_of(self, picture: Picture) -> Masses | None:
        last = self.outlined.last
        return last[1].masses if last is not None and last[0][1] is picture else None
