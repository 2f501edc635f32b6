"""The masses: their picture first, their outlines a little later, a rough picture of them during a drag."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from mild_compass.studio.derived.derived import Derived, Key
from mild_compass.studio.derived.looks import masses_image

if TYPE_CHECKING:
    from collections.abc import Callable

    from PySide6.QtGui import QImage

    from mild_compass.craft.picture.load import Picture
    from mild_compass.craft.values.masses import FlatMasses, Masses
    from mild_compass.plan.model import Frame, Paper, ValuePlan
    from mild_compass.studio.derived.looks import Looks
    from mild_compass.studio.derived.turns import Turns
    from mild_compass.studio.requests.work import Work
    from mild_compass.studio.session import Session

ROUGH_PX = 130


@dataclass(frozen=True, eq=False, slots=True)
class FlatPicture:
    """Masses without outlines, and their picture."""

    masses: FlatMasses
    image: QImage


def _flat(*inputs: Any) -> FlatPicture:
    from mild_compass.craft.values.masses import flat_masses

    flat = flat_masses(*inputs)
    return FlatPicture(flat, masses_image(flat))


def _rough(picture: Picture, frame: Frame, paper: Paper, values: ValuePlan) -> FlatPicture:
    return _flat(picture, frame, paper, values, ROUGH_PX)


def _outlined(flat: FlatPicture, _: Picture, *inputs: Any) -> Masses:
    from mild_compass.craft.values.masses import with_outlines

    return with_outlines(flat.masses, *inputs)


class StudyMasses:
    """Two values, the second made from the first."""

    def __init__(self, session: Session, work: Work, turns: Turns, looks: Callable[[], Looks | None]) -> None:
        self._session, self._looks = session, looks
        self.flat: Derived[FlatPicture] = Derived(
            "masses", session, work, self._flat_key, _flat, rough=_rough, turns=turns
        )
        self.outlined: Derived[Masses] = Derived("outlines", session, work, self._outlined_key, _outlined)
        self.values = (self.flat, self.outlined)

    @property
    def now(self) -> Masses | None:
        """The masses of the plan as it is shown, or None until they are there."""
        return self.outlined.value

    @property
    def shown(self) -> Masses | None:
        """The same; until they are there the last ones of the same picture."""
        looks = self._looks()
        return self.outlined.value or (self._last_of(looks.picture) if looks else None)

    @property
    def image(self) -> QImage | None:
        """The picture of the masses, a rough one during a drag."""
        flat = self.flat.shown
        return flat.image if flat else None

    @property
    def problem(self) -> str:
        """Why there are no masses; empty otherwise."""
        return self.flat.problem or self.outlined.problem

    @property
    def settled(self) -> bool:
        """Whether there is nothing to wait for."""
        return bool(self.problem) or self.now is not None or self._flat_key() is None

    def _flat_key(self) -> Key | None:
        plan, looks = self._session.plan, self._looks()
        return (looks.picture, plan.study.frame, plan.paper, plan.study.values) if plan.study and looks else None

    def _outlined_key(self) -> Key | None:
        flat, key = self.flat.value, self._flat_key()
        return (flat, *key) if flat is not None and key is not None else None

    def _last_of(self, picture: Picture) -> Masses | None:
        last = self.outlined.last
        return last[1] if last is not None and last[0][1] is picture else None
