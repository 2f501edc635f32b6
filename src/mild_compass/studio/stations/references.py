"""Instruments of the references: adding photos and judging them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.plan.edits.references import judge_reference, remove_reference, use_reference
from mild_compass.studio.stations.instrument import Desk, Instrument
from mild_compass.studio.widgets import Choice, Entry, button, form, rule, soft

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from mild_compass.plan.model import Reference


class PhotosInstrument(Instrument):
    """Adds photos, keeps them or sets them aside with a reason, and chooses the one to work from."""

    name = "photos"
    words = "Photos"
    icon = "photos"
    hint = "Click a photo to judge it, double click to work from it. Set aside what does not serve, and say why."

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self._sheet = desk.contact_sheet
        self._sheet.selected.connect(lambda _: self.refresh())
        self._sheet.activated.connect(lambda key: self.commit(use_reference(key)))

    def options(self) -> QWidget:
        add = button("Add photos…", self.desk.files.choose_photos, main=True)
        self._name = soft("")
        self._use = button("Work from this one", lambda: self.commit(use_reference(self._sheet.chosen)))
        self._standing = Choice([("kept", "kept"), ("set aside", "set aside")], "Kept or set aside")
        self._reason = Entry("Reason", str.strip, str)
        self._remove = button("Remove from the plan", lambda: self.commit(remove_reference(self._sheet.chosen)))
        self._standing.chosen.connect(self._judge)
        self._reason.chosen.connect(lambda reason: self._judge(self._photo().standing, reason))
        return form(
            add,
            rule(),
            self._name,
            self._use,
            ("It is", self._standing),
            ("Because", self._reason),
            self._remove,
        )

    def _photo(self) -> Reference:
        return self.desk.plan.reference(self._sheet.chosen)

    def _judge(self, standing: str, reason: str | None = None) -> None:
        photo = self._photo()
        words = photo.reason if reason is None else reason
        self.commit(judge_reference(photo.id, "kept" if standing == "kept" else "set aside", words))

    def refresh(self) -> None:
        known = any(photo.id == self._sheet.chosen for photo in self.desk.plan.references)
        for control in (self._use, self._standing, self._reason, self._remove):
            control.setEnabled(known)
        if not known:
            self._name.setText("No photo yet. Take ten or twenty of one motif, then choose.")
            return
        photo, study = self._photo(), self.desk.plan.study
        self._name.setText(f"{photo.name}, {photo.width_px} × {photo.height_px} pixels")
        self._standing.show_value(photo.standing)
        self._reason.show_value(photo.reason)
        self._use.setEnabled(study is not None and study.reference != photo.id)


def instruments(desk: Desk) -> list[Instrument]:
    """The instruments of this station."""
    return [PhotosInstrument(desk)]
