"""The contact sheet: adding photos, judging and ordering them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.sheet_sizes.sharpness import dpi_at_widest
from mild_compass.plan.edits.references import (
    begin_blank,
    judge_reference,
    put_reference,
    remove_reference,
    say_what_drew,
    use_reference,
)
from mild_compass.plan.edits.stage import begin_scene
from mild_compass.plan.stage_beginnings import BEGINNINGS
from mild_compass.studio.desk import Desk
from mild_compass.studio.stations.instrument import Instrument
from mild_compass.studio.widgets import Choice, Sentence, Tick, button, form, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.plan.pictures import Reference

SUGGESTED = "a pose, a bright patch …"


class PhotosInstrument(Instrument):
    """Adds photos, keeps them or sets them aside with a reason, and chooses the one to work from."""

    name = "photos"
    words = "Photos"
    icon = "photos"
    tells = ("kept", "in_use", "print_size", "enlarged")
    needs = "nothing"
    page = "contact sheet"
    hint = "Click a photo to judge it, double click to work from it. Set aside what does not serve, and say why."

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._sheet = desk.contact_sheet
        self._sheet.selected.connect(lambda _: self.refresh())
        self._sheet.activated.connect(lambda key: self.commit(use_reference(key)))

    def options(self) -> QWidget:
        add = button("Add photos…", self.desk.files.photos.choose, main=True)
        folder = button("Add a folder…", self.desk.files.photos.choose_folder)
        watched = self.desk.files.watched
        self._watch = Tick("Watch a folder for more")
        self._watch.setToolTip("Photos that come into the folder, from a phone or a camera, are added by themselves.")
        self._watch.chosen.connect(watched.turn)
        watched.changed.connect(lambda: self._watch.show_value(watched.folder is not None))
        bare = [("bare paper", "")] + [(name, name) for name in BEGINNINGS]
        self._beginning = Choice(bare, "What the blank sheet begins with")
        self._beginning.chosen.connect(lambda _: self._tell_beginning())
        self._begun_with = soft("")
        begin = button("Begin with a blank sheet", self._begin)
        self._name = soft("")
        self._use = button("Work from this one", lambda: self.commit(use_reference(self._sheet.chosen)))
        self._standing = Choice([("kept", "kept"), ("set aside", "set aside")], "Kept or set aside")
        self._reason = Sentence("Reason")
        self._reason.line.setPlaceholderText(SUGGESTED)
        self._drew = Sentence("What drew you to it")
        self._side = Tick("To be set side by side")
        self._side.chosen.connect(lambda _: self._sheet.pick(self._sheet.chosen))
        self._earlier, self._later = (
            button("◂ Earlier", lambda: self._shift(-1)),
            button("Later ▸", lambda: self._shift(1)),
        )
        self._remove = button("Remove from the plan", lambda: self.commit(remove_reference(self._sheet.chosen)))
        self._values, self._far = Tick("Values only"), Tick("From three metres")
        self._standing.chosen.connect(self._judge)
        self._reason.chosen.connect(lambda reason: self._judge(self._photo().standing, reason))
        self._drew.chosen.connect(lambda words: self.commit(say_what_drew(self._sheet.chosen, words)))
        self._values.chosen.connect(lambda on: self._sheet.look(values_only=on))
        self._far.chosen.connect(lambda on: self._sheet.look(back_m=3.0 if on else 0.0))
        return form(
            add,
            folder,
            self._watch,
            rule(),
            begin,
            ("With", self._beginning),
            self._begun_with,
            rule(),
            self._name,
            self._use,
            ("It is", self._standing),
            ("Because", self._reason),
            ("Drew you", self._drew),
            (self._earlier, self._later),
            self._side,
            self._remove,
            rule(),
            self._values,
            self._far,
        )

    def _photo(self) -> Reference:
        return self.desk.plan.reference(self._sheet.chosen)

    def _judge(self, standing: str, reason: str | None = None) -> None:
        photo = self._photo()
        words = photo.reason if reason is None else reason
        self.commit(judge_reference(photo.id, "kept" if standing == "kept" else "set aside", words))

    def _shift(self, step: int) -> None:
        ids = [photo.id for photo in self.desk.plan.references]
        place = ids.index(self._sheet.chosen) + step
        if 0 <= place < len(ids):
            self.commit(put_reference(self._sheet.chosen, place))

    def _tell_beginning(self) -> None:
        """What the chosen beginning is."""
        name = self._beginning.value
        self._begun_with.setText(BEGINNINGS[name].words if name else "")
        self._begun_with.setVisible(bool(name))

    def _begin(self) -> None:
        """A study from nothing: on bare paper, or with a scene to change, seen at once where it is worked on."""
        name = self._beginning.value
        if self.commit(begin_scene(name) if name else begin_blank()):
            self.desk.go_to("perspective", "stage")

    def refresh(self) -> None:
        self._tell_beginning()
        ids = [photo.id for photo in self.desk.plan.references]
        known = self._sheet.chosen in ids
        for control in (self._use, self._standing, self._reason, self._drew, self._remove, self._side):
            control.setEnabled(known)
        self._earlier.setEnabled(known and ids[0] != self._sheet.chosen)
        self._later.setEnabled(known and ids[-1] != self._sheet.chosen)
        if not known:
            self._name.setText("No photo yet. Take ten or twenty of one motif, then choose.")
            return
        photo, study = self._photo(), self.desk.plan.study
        dpi = dpi_at_widest(photo, self.desk.plan.paper)
        self._name.setText(f"{photo.name}, {photo.width_px} × {photo.height_px} pixels, {dpi:.0f} dpi on this sheet")
        self._standing.show_value(photo.standing)
        self._reason.show_value(photo.reason)
        self._drew.show_value(photo.drew_me)
        self._side.show_value(photo.id in self._sheet.picked)
        self._use.setEnabled(study is not None and study.ground != photo.id)
