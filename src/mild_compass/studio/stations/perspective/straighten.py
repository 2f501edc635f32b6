"""Straightening the picture: the bow of the lens, and leaning uprights; every mark moves along."""

from __future__ import annotations

from dataclasses import replace
from math import degrees, hypot
from typing import TYPE_CHECKING

from mild_compass.craft.perspective.camera import guessed_focal
from mild_compass.craft.perspective.worked import told_focal_px
from mild_compass.plan.errors import PlanError
from mild_compass.plan.guides import Lens
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import OTHER_STUDY, Instrument
from mild_compass.studio.widgets import button, form, number_entry, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.craft.perspective.lens import Bow
    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder
    from mild_compass.plan.pictures import Ground
    from mild_compass.studio.requests.jobs import Job
    from mild_compass.studio.requests.owner import Owner


MOST_OTHERS = 6  # photos of the same lens looked at besides this one


def _find_bow(
    picture: Picture, focal_px: float, others: tuple[Ground, ...], photos: PhotoFolder
) -> tuple[Bow | None, int]:
    """The bow that the edges of all photos of one lens tell together, and how many photos that were."""
    from mild_compass.craft.perspective.lens import edge_chains, found_bow
    from mild_compass.craft.picture.load import read_proxy

    chains, count = edge_chains(picture), 1
    for each in others:
        try:
            other = read_proxy(photos.read(each.sha256, each.name), each.name)
        except PlanError:
            continue  # one that cannot be read tells nothing; the others do
        chains, count = chains + edge_chains(other), count + 1
    return found_bow(chains, focal_px, (picture.width_px, picture.height_px)), count


def same_lens(photo: Ground, plan: Plan) -> tuple[Ground, ...]:
    """Other photos of a plan that tell the same lens and have the same size."""
    if photo.focal_35mm <= 0:
        return ()
    size = (photo.width_px, photo.height_px, photo.focal_35mm)
    alike = [
        each
        for each in plan.references
        if each.sha256 != photo.sha256 and each.is_photo and (each.width_px, each.height_px, each.focal_35mm) == size
    ]
    return tuple(alike[:MOST_OTHERS])


class StraightenInstrument(Instrument):
    """Takes the bow out and sets uprights upright, in the study; the photo itself is never touched."""

    name = "straighten"
    words = "Straighten"
    icon = "upright"
    tells = ("tipped", "cropped", "focal")
    needs = "a photo"
    beside_before = True
    hint = "A lens bows straight edges, a tipped camera leans uprights. Here both are put right, in this study only."

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._looking: Job | None = None
        self._told_of: Owner | None = None
        self._told = ""

    def options(self) -> QWidget:
        self._find = button("Take the bow out", self._take_bow_out, tip="Found from the long edges of the photo")
        self._bow = number_entry("Bow of the lens", "%")
        self._bow.chosen.connect(self._set_bow)
        self._upright = button("Set the uprights upright", self._set_upright)
        self._turn = soft("")
        self._before = button("Hold: as it was taken", lambda: None, tip="The photo before anything was straightened")
        self._before.pressed.connect(lambda: self.desk.board.hold("as taken", True))
        self._before.released.connect(lambda: self.desk.board.hold("as taken", False))
        self._back = button("Back to the photo as taken", lambda: self._put(Lens()))
        self._state = soft("")
        return form(
            self._find,
            ("Bow", self._bow),
            rule(),
            self._upright,
            self._turn,
            rule(),
            self._before,
            self._back,
            self._state,
        )

    def refresh(self) -> None:
        lens = self.desk.study.perspective.lens
        looking = self._looking is not None and self._looking.state != "ended"
        self._find.setEnabled(not looking)
        self._bow.show_value(round(100 * lens.k1, 2))
        tipped = degrees(hypot(*lens.turn[:2]))
        rolled = degrees(abs(lens.turn[2]))
        self._turn.setText(f"Turned by {tipped:.1f}°, rolled by {rolled:.1f}°." if tipped or rolled else "Not turned.")
        self._back.setEnabled(not lens.plain)
        self._before.setEnabled(not lens.plain)
        if self._told_of is not None and not self._told_of.in_hand(self.desk.session.owner()):
            self._told, self._told_of = "", None
        self._state.setText("Looking at the edges …" if looking else self._told)

    def _put(self, lens: Lens) -> None:
        from mild_compass.craft.perspective.straightening import straightened

        photo = self.desk.ground
        try:
            self.commit(straightened(self.desk.study, photo, lens))
        except PlanError as error:
            self.desk.say(str(error))

    def _focal_px(self) -> float:
        lens, worked = self.desk.study.perspective.lens, self.desk.computed.perspective()
        if not lens.plain:
            return lens.focal_px
        if worked is not None and worked.focals:
            return worked.focals[0].px
        photo = self.desk.ground
        return told_focal_px(photo) or guessed_focal(photo.width_px, photo.height_px).px

    def _set_bow(self, percent: float) -> None:
        if abs(percent) > 40:
            self._bow.refuse("Between −40 and 40 %. The picture stays as it was.")
            return
        lens = self.desk.study.perspective.lens
        self._put(replace(lens, k1=percent / 100, focal_px=self._focal_px()))

    def _take_bow_out(self) -> None:
        looks = self.desk.computed.photo_looks
        if looks is None or not looks.complete:
            self.desk.say("The photo is still being read. Try again in a moment.")
            return
        self._looking = self.desk.jobs.do(
            "Looking for the bow of the lens",
            _find_bow,
            *(looks.picture, self._focal_px(), same_lens(self.desk.ground, self.desk.session.plan)),
            self.desk.session.workspace.photos,
            owner=self.desk.session.owner(),
            done=self._take_bow,
            called_off=lambda: self.desk.say(OTHER_STUDY.format("Looking for the bow of the lens")),
        )
        self.refresh()

    def _take_bow(self, found: tuple[Bow | None, int]) -> None:
        bow, count = found
        self._told_of = self.desk.session.owner()
        k1 = bow.k1 if bow is not None else 0.0
        if bow is None:
            self._told = "There are too few long edges to tell a bow from. Nothing was changed."
        elif not bow.sure and not bow.likely:
            self._told = (
                f"Not sure: the edges tell a bow of {100 * k1:+.1f} %, but they do not agree enough. Nothing was "
                "changed. Add other photos of the same lens to this plan and try again, or type it under Bow and look."
            ).replace("-", "−")
        elif abs(k1) < 0.004:
            self._told = "The edges are straight as they are: no bow to take out."
        else:
            self._told = f"Bow {100 * k1:+.1f} %: edges that ran outward are straight now.".replace("-", "−")
            if not bow.sure:
                self._told += (
                    f" In the corners that may be wrong by {2 * bow.corner_spread_px:.0f} pixels: look at edges there."
                )
            if count > 1:
                self._told += f" Told by {count} photos of the same lens."
            self._put(replace(self.desk.study.perspective.lens, k1=round(k1, 4), focal_px=self._focal_px()))
        self.refresh()

    def _set_upright(self) -> None:
        from mild_compass.craft.perspective.straightening import uprights_lens

        photo = self.desk.ground
        try:
            lens = uprights_lens(self.desk.study, photo)
        except PlanError as error:
            self.desk.say(str(error))
            return
        self._put(lens)
