"""The current study's picture: as it was taken, in all its forms, and with the planned departures."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from mild_compass.studio.derived.derived import Derived, Key
from mild_compass.studio.derived.looks import Looks, all_looks, colour_looks_of, departed_looks

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session

LOOKS_KEPT = 3


class Pictures:
    """Three values, each made from the one before: colour, all forms, departed."""

    def __init__(self, session: Session, work: LatestWins) -> None:
        self._session = session
        self._keyed: tuple[Plan, Plan, Key | None] | None = None
        self.colour: Derived[Looks] = Derived(
            "looks",
            *(session, work, self._photo_key, colour_looks_of),
            arguments=self._photo_file,
            when="always",
            most=LOOKS_KEPT,
        )
        self.full: Derived[Looks] = Derived(
            "all looks", session, work, self._colour_key, all_looks, when="always", most=LOOKS_KEPT
        )
        self.departed: Derived[Looks] = Derived(
            "departed", session, work, self._departed_key, departed_looks, arguments=self._departed_inputs
        )
        self.values = (self.colour, self.full, self.departed)

    @property
    def as_taken(self) -> Looks | None:
        """The photo as it is, or None until it has been read."""
        return self.full.value or self.colour.value

    @property
    def looks(self) -> Looks | None:
        """The picture with its planned departures, while they are worked in without the last of them."""
        taken = self.as_taken
        if taken is None or not self._changes():
            return taken
        return self.departed.value or self.departed.last_of(taken.picture) or taken

    @property
    def current(self) -> bool:
        """Whether the picture has all planned departures in it."""
        return (self.departed.value if self._changes() else self.as_taken) is not None

    @property
    def problem(self) -> str:
        """Why the picture cannot be shown, or not with its departures; empty otherwise."""
        return self.colour.problem or self.full.problem or self.departed.problem

    def offer(self, digest: str, looks: Looks) -> None:
        """Take over a photo that has just been read."""
        self.colour.put((digest,), looks)

    def _photo_key(self) -> Key | None:
        """It is looked at many times for one plan."""
        shown, kept = self._session.plan, self._session.committed
        if self._keyed is None or self._keyed[0] is not shown or self._keyed[1] is not kept:
            plan = self._plan()
            study = plan.study
            key = plan.picture_of(study) if study is not None and plan.has_picture(study) else None
            self._keyed = shown, kept, key
        return self._keyed[2]

    def _plan(self) -> Plan:
        """The plan as it is shown; a stage is painted anew when the hand rests."""
        plan = self._session.plan
        on_photo = plan.study is not None and plan.ground(plan.study).is_photo
        return plan if on_photo else self._session.committed

    def _photo_file(self) -> tuple[Any, ...]:
        return self._plan(), self._session.workspace.photos

    def _colour_key(self) -> Key | None:
        colour = self.colour.value
        return (colour,) if colour is not None else None

    def _changes(self) -> tuple[Any, ...]:
        """What is done to the photo: the straightening and the departures; empty when it is shown as taken."""
        study = self._session.plan.study
        if study is None:
            return ()
        lens, todo = study.perspective.lens, tuple(each for each in study.departures if each.outcome != "dropped")
        return (lens, todo) if todo or not lens.plain else ()

    def _departed_key(self) -> Key | None:
        full, changes = self.full.value, self._changes()
        return (full.picture, *changes) if full is not None and changes else None

    def _departed_inputs(self) -> tuple[Any, ...]:
        key = self._departed_key()
        assert key is not None
        plan, photos = self._session.plan, self._session.workspace.photos
        lenders = {each.source: plan.reference(each.source) for each in key[2] if each.source}
        return (*key, {name: (photos.file(photo.sha256), photo.name) for name, photo in lenders.items()})
