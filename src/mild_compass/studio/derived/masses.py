"""The masses: first ideas of them while something is dragged or nothing is there yet, and then the masses themselves.

They are made with their outlines and their picture in one go: where masses are worked on as soon as the hand rests, or
holds still in a drag, elsewhere when it has rested for a while.
"""

from __future__ import annotations

import sys
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QTimer

from mild_compass.craft.checkpoint import checkpoint
from mild_compass.studio.derived.derived import Derived, Key
from mild_compass.studio.derived.looks import flat_image, masses_image, masses_paths

if TYPE_CHECKING:
    from collections.abc import Callable

    from PySide6.QtGui import QImage

    from mild_compass.craft.picture.load import Picture
    from mild_compass.craft.values.detail import DetailWeight
    from mild_compass.craft.values.masses import FlatMasses, Masses
    from mild_compass.plan.model import Plan
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.study import Frame, Study
    from mild_compass.plan.tones import ValuePlan
    from mild_compass.studio.derived.looks import Looks, MassPaths
    from mild_compass.studio.derived.loop_scheduler import LoopScheduler
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session

ROUGH_PX = 130
REST_MS = 1500
STILL_MS = 10  # a hand that holds still so long in the middle of a drag may be about to let go
DRAWN_PX = 1440  # nearer than that the outlines themselves are painted


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


def counts_of(study: Study) -> tuple[DetailWeight, ...]:
    """Where detail counts in a study; nothing is loaded for one where it is even."""
    if not study.values.detail:
        return ()
    from mild_compass.craft.values.detail import what_counts

    return what_counts(study)


def _quick(
    picture: Picture,
    frame: Frame,
    paper: Paper,
    values: ValuePlan,
    counts: tuple[DetailWeight, ...],
    longest_px: int = 0,
) -> FlatPicture:
    """What the flattened picture tells where it is there; otherwise a plain division, of a small picture where asked
    for."""
    from mild_compass.craft.values.masses import near_masses, quick_masses
    from mild_compass.craft.values.prepared_frame import LONGEST_PX, is_flattened

    if is_flattened(picture, frame, paper, values, counts):
        flat = near_masses(picture, frame, paper, values, counts)
    else:
        flat = quick_masses(picture, frame, paper, values, longest_px or LONGEST_PX)
    return FlatPicture(flat, flat_image(flat))


def _rough(
    picture: Picture, frame: Frame, paper: Paper, values: ValuePlan, counts: tuple[DetailWeight, ...]
) -> FlatPicture:
    """While something is dragged: another stop of the shapes that are there already, or a quick idea."""
    from mild_compass.craft.values.masses import flat_masses, has_hierarchy

    if not has_hierarchy(picture, frame, paper, values, counts):
        return _quick(picture, frame, paper, values, counts, ROUGH_PX)
    flat = flat_masses(picture, frame, paper, values, counts)
    return FlatPicture(flat, flat_image(flat))


def _drawn(
    picture: Picture, frame: Frame, paper: Paper, values: ValuePlan, counts: tuple[DetailWeight, ...]
) -> DrawnMasses:
    from mild_compass.craft.values.masses import flat_masses, with_outlines

    masses = with_outlines(flat_masses(picture, frame, paper, values, counts), frame, paper, values)
    checkpoint()
    return DrawnMasses(masses, masses_image(masses, DRAWN_PX))


def _come_at_once(key: Key) -> bool:
    """Whether the picture is flattened already: then the masses are there before a quick idea would help."""
    prepared = sys.modules.get("mild_compass.craft.values.prepared_frame")
    return prepared is not None and prepared.is_flattened(*key)


def _measured(drawn: DrawnMasses, smallest_mm2: float, _: Picture) -> Masses:
    from mild_compass.craft.values.mass_readings import prepare

    prepare(drawn.masses, smallest_mm2)
    return drawn.masses


class StudyMasses:
    """First ideas, the masses, and what is ``measured`` on these, which is only made when looked at."""

    def __init__(
        self,
        session: Session,
        work: LatestWins,
        turns: LoopScheduler,
        looks: Callable[[], Looks | None],
        rested: Callable[[], None],
    ) -> None:
        self._session, self._looks, self._rested = session, looks, rested
        self.worked_on = False
        self._seen: Key | None = None  # of what the hand has begun to rest
        self._rested_on: Key | None = None
        self._keyed: tuple[Plan, Picture, Key] | None = None
        self._latest: tuple[Picture, FlatPicture | DrawnMasses] | None = None
        self._rest = QTimer(session, singleShot=True, interval=REST_MS)
        self._rest.timeout.connect(self._has_rested)
        self.quick: Derived[FlatPicture] = Derived("quick masses", session, work, self._quick_key, _quick)
        self.tried: Derived[FlatPicture] = Derived(
            "tried masses", session, work, self._tried_key, _rough, rough=_rough, turns=turns
        )
        self.drawn: Derived[DrawnMasses] = Derived(
            "masses", session, work, self._drawn_key, _drawn, still_ms=lambda: STILL_MS if self.worked_on else 0
        )
        self.measured: Derived[Masses] = Derived("edges", session, work, self._measured_key, _measured)
        self.values: tuple[Derived[Any], ...] = (self.quick, self.tried, self.drawn)
        for each in self.values:
            each.changed.connect(lambda each=each: self._came(each))

    @property
    def now(self) -> Masses | None:
        """The masses of the plan as it is shown, or None until they are there."""
        drawn = self.drawn.value
        return drawn.masses if drawn else None

    @property
    def shown(self) -> Masses | None:
        """The same; until they are there the last ones of the same picture."""
        drawn = self.drawn.shown
        return drawn.masses if drawn else None

    @property
    def measured_shown(self) -> Masses | None:
        """The masses with their edges measured; until they are there the last ones of the same picture."""
        looks, last = self._looks(), self.measured.last
        if self.measured.value is not None or looks is None or last is None:
            return self.measured.value
        return last[1] if last[0][2] is looks.picture else None

    @property
    def image(self) -> QImage | None:
        """The picture of the masses; until they are there what came last of the same picture."""
        made = self.drawn.value or self._latest_shown
        return made.image if made else None

    @property
    def on_their_way(self) -> bool:
        """Whether masses that are worked on are being made."""
        return self.worked_on and not self.problem and self._key() is not None and self.now is None

    @property
    def problem(self) -> str:
        """Why there are no masses; empty otherwise."""
        return self.quick.problem or self.drawn.problem

    def follow(self) -> None:
        """Begin to count how long the hand rests, where masses are not worked on."""
        if self.worked_on or self._session.in_gesture:
            self._rest.stop()
            return
        key = self._key()
        if key != self._seen:
            self._seen = key
            self._rest.start()

    def _has_rested(self) -> None:
        self._rested_on = self._seen
        self._rested()

    def _came(self, each: Derived[Any]) -> None:
        if each.last is not None:
            key, made = each.last
            self._latest = key[0], made

    @property
    def _latest_shown(self) -> FlatPicture | DrawnMasses | None:
        looks = self._looks()
        return self._latest[1] if self._latest and looks and self._latest[0] is looks.picture else None

    def _are_wanted(self, key: Key | None) -> bool:
        return self.worked_on or (key is not None and key == self._rested_on)

    def _key(self) -> Key | None:
        """What masses are made from; it is looked at many times for one plan."""
        plan, looks = self._session.plan, self._looks()
        if plan.study is None or looks is None:
            return None
        if self._keyed is None or self._keyed[0] is not plan or self._keyed[1] is not looks.picture:
            values = replace(plan.study.values, edges=(), planes=())  # said of the masses: they stay as they are
            key = looks.picture, plan.study.frame, plan.paper, values, counts_of(plan.study)
            self._keyed = plan, looks.picture, key
        return self._keyed[2]

    def _drawn_key(self) -> Key | None:
        key = self._key()
        return key if self._session.in_gesture or self._are_wanted(key) else None

    def _tried_key(self) -> Key | None:
        return self._key() if self._session.in_gesture else None

    def _quick_key(self) -> Key | None:
        """What a quick idea is made of, a small one where the masses are made at once in place of others; none where
        they are there, or will be in a moment."""
        key = self._key()
        if key is None or self.drawn.get(key) is not None:
            return None
        wanted = self._are_wanted(key) and self._latest_shown is not None
        if wanted and _come_at_once(key):
            return None
        picture, frame, paper, values, counts = key
        longest_px = ROUGH_PX if wanted else 0
        return picture, frame, paper, replace(values, simple=0.0), counts, longest_px

    def _measured_key(self) -> Key | None:
        drawn, plan, looks = self.drawn.value, self._session.plan, self._looks()
        if drawn is None or plan.study is None or looks is None:
            return None
        return drawn, plan.study.values.smallest_mm2, looks.picture
