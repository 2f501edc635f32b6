"""Files from the window: adding photos, opening, saving, printing, exporting; asking before anything is lost."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from mild_compass.plan.atomic import write_bytes_atomically
from mild_compass.plan.edits.studies import rename_plan
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Plan
from mild_compass.studio.looks import Looks, colour_looks

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.craft.picture.load import Picture
    from mild_compass.plan.photos import PhotoFolder
    from mild_compass.studio.computed import Computed
    from mild_compass.studio.session import Session
    from mild_compass.studio.work import Work

PLAN_FILTER = "Mild Compass plans (*.mildplan)"
PHOTO_FILTER = "Photos (*.jpg *.jpeg *.png *.webp *.tif *.tiff *.heic *.heif);;All files (*)"
SUFFIX = ".mildplan"


def _read_photo(path: Path) -> tuple[str, bytes, Looks]:
    """Name, bytes and looks of a photo; one that cannot really be decoded is refused here."""
    from mild_compass.craft.picture.load import read_file

    data = read_file(path)
    return path.name, data, colour_looks(data, path.name)


def _write_pdf(path: Path, plan: Plan, photos: PhotoFolder, proxy: Picture | None) -> Path:
    from mild_compass.output.print_sheet import print_sheet

    pdf = print_sheet(plan, photos, proxy)
    write_bytes_atomically(path, pdf)
    return path


class Files:
    """Everything that goes through a file dialog or touches the disk for the window."""

    def __init__(self, window: QWidget, session: Session, computed: Computed, work: Work) -> None:
        self._window, self._session, self._computed, self._work = window, session, computed, work
        self.folder = ""
        self._waiting: list[Path] = []

    # -- photos -----------------------------------------------------------------------------------------------

    def choose_photos(self) -> None:
        """Ask for photos and add them."""
        names, _ = QFileDialog.getOpenFileNames(self._window, "Add photos", self.folder, PHOTO_FILTER)
        if names:
            self.folder = str(Path(names[0]).parent)
            self.add_photos([Path(name) for name in names])

    def add_photos(self, paths: list[Path]) -> None:
        """Read photos in the background, one after the other, and add each as one undo step."""
        self._waiting += paths
        if len(self._waiting) == len(paths):
            self._next_photo()

    def _next_photo(self) -> None:
        if not self._waiting:
            return
        path = self._waiting[0]
        self._work.ask("photo", _read_photo, path, then=self._take_photo, otherwise=self._refuse_photo)

    def _take_photo(self, found: tuple[str, bytes, Looks]) -> None:
        name, data, looks = found
        try:
            first = not self._session.plan.references
            digest = self._session.store_photo(data)
            self._computed.offer_looks(digest, looks)
            added = self._session.add_photo(name, digest, (looks.picture.width_px, looks.picture.height_px))
            if added and first:
                self._session.said.emit(
                    f"{name} is in the plan. Add more, or go on to 2 Viewfinder and name your sheet."
                )
        except OSError as error:
            reason = error.strerror or error
            self._session.said.emit(
                f"{name} could not be stored ({reason}). The plan is kept; make room and add it again."
            )
        self._waiting.pop(0)
        self._next_photo()

    def _refuse_photo(self, error: PlanError) -> None:
        self._session.said.emit(str(error))
        self._waiting.pop(0)
        self._next_photo()

    # -- plans ------------------------------------------------------------------------------------------------

    def new(self) -> None:
        """Start an empty plan, after asking about the old one."""
        if self.may_leave():
            self._fresh_start()
            self._session.new()

    def choose_plan(self) -> None:
        """Ask for a plan and open it."""
        if not self.may_leave():
            return
        name, _ = QFileDialog.getOpenFileName(self._window, "Open a plan", self.folder, PLAN_FILTER)
        if name:
            self.open(Path(name))

    def open(self, path: Path) -> bool:
        """Open a plan; what is wrong with it is said in place, and the present plan stays."""
        try:
            workspace_before = self._session.workspace
            self._session.open(path)
        except PlanError as error:
            self._session.said.emit(f"{error} The plan on the board is still here.")
            return False
        if self._session.workspace is not workspace_before:
            self._fresh_start()
            self._computed.refresh()
        self.folder = str(path.parent)
        return True

    def _fresh_start(self) -> None:
        self._waiting.clear()
        for kind in ("photo", "looks", "other looks", "departed", "masses"):
            self._work.drop(kind)
        self._computed.forget_photos()

    def save(self) -> bool:
        """Save to the plan's file, asking for one the first time; False when it was not saved."""
        return self._write(self._session.file) if self._session.file else self.save_as()

    def save_as(self) -> bool:
        """Ask for a file and save to it."""
        suggestion = str(Path(self.folder) / f"{_file_name(self._session.plan.name)}{SUFFIX}")
        name, _ = QFileDialog.getSaveFileName(self._window, "Save the plan", suggestion, PLAN_FILTER)
        if not name:
            return False
        path = Path(name)
        return self._write(path if path.suffix == SUFFIX else path.with_name(path.name + SUFFIX))

    def _write(self, path: Path) -> bool:
        if self._session.plan.name == Plan().name:
            self._session.apply(rename_plan(path.stem))
        try:
            self._session.save(path, self._preview())
        except PlanError as error:
            self._session.said.emit(str(error))
            return False
        self.folder = str(path.parent)
        self._session.said.emit(f"Saved as {path.name}.")
        return True

    def _preview(self) -> bytes | None:
        from mild_compass.output.raster import preview_png

        study, looks = self._session.plan.study, self._computed.looks
        return preview_png(looks.picture, study.frame, self._session.plan.paper) if study and looks else None

    def may_leave(self) -> bool:
        """Whether the present plan may be put away: nothing unsaved, or saved now, or given up on purpose."""
        if not self._session.unsaved:
            return True
        box = QMessageBox(self._window)
        box.setWindowTitle("Save the plan?")
        box.setText(f"“{self._session.plan.name}” has changes that are not saved.")
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        drop = box.addButton("Discard the changes", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(save)
        box.exec()
        if box.clickedButton() is save:
            return self.save()
        return box.clickedButton() is drop

    # -- out --------------------------------------------------------------------------------------------------

    def choose_pdf(self) -> None:
        """Ask for a file and write the sheet as PDF in the background."""
        plan = self._session.plan
        if plan.study is None:
            self._session.said.emit("There is no photo in the plan yet, so there is nothing to print. Add one first.")
            return
        suggestion = str(Path(self.folder) / f"{_file_name(plan.name)}.pdf")
        name, _ = QFileDialog.getSaveFileName(self._window, "Save the sheet as PDF", suggestion, "PDF (*.pdf)")
        if name:
            path = Path(name)
            self.write_pdf(path if path.suffix.lower() == ".pdf" else path.with_name(path.name + ".pdf"))

    def write_pdf(self, path: Path) -> None:
        """Write the sheet as PDF in the background and say so when it is there."""
        plan = self._session.plan
        assert plan.study is not None
        looks = self._computed.looks if self._computed.looks_current else None
        self._session.said.emit(f"Writing {path.name} …")
        self._work.ask(
            "pdf",
            _write_pdf,
            path,
            plan,
            self._session.workspace.photos,
            looks.picture if looks else None,
            then=lambda done: self._session.said.emit(f"{done.name} is written, true to size. Print it at 100 %."),
            otherwise=lambda error: self._session.said.emit(str(error)),
        )

    def choose_logbook(self) -> None:
        """Ask for a file and write the logbook as Markdown."""
        suggestion = str(Path(self.folder) / f"{_file_name(self._session.plan.name)} logbook.md")
        name, _ = QFileDialog.getSaveFileName(self._window, "Save the logbook", suggestion, "Markdown (*.md)")
        if name:
            self.write_logbook(Path(name))

    def write_logbook(self, path: Path) -> None:
        """Write the logbook as Markdown."""
        from mild_compass.output.markdown import logbook_markdown

        text = logbook_markdown(self._session.plan).encode()
        self._told(lambda: write_bytes_atomically(path, text), f"{path.name} is written.")

    def _told(self, action: Callable[[], None], done: str) -> None:
        try:
            action()
        except PlanError as error:
            self._session.said.emit(str(error))
        else:
            self._session.said.emit(done)


def _file_name(name: str) -> str:
    """A plan's name as a file name."""
    return "".join(sign if sign.isalnum() or sign in " -_" else "-" for sign in name).strip() or "plan"
