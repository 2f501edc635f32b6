"""Files from the window: adding photos, opening, saving, printing, exporting; asking before anything is lost."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QBuffer, QIODevice
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtWidgets import QFileDialog, QMessageBox

from mild_compass.plan.atomic import write_bytes_atomically
from mild_compass.plan.edits.studies import rename_plan
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Plan
from mild_compass.studio import page_makers, preferences
from mild_compass.studio.looks import THUMB_PX, Looks, colour_looks, small_rgb, thumbs_of

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from mild_compass.craft.sheet.block_in import BlockStep
    from mild_compass.craft.sheet.printer import DeskSettings, Printer
    from mild_compass.craft.sheet.transfer import TransferGuide
    from mild_compass.plan.structure import Construction
    from mild_compass.studio.computed import Computed
    from mild_compass.studio.session import Session
    from mild_compass.studio.window import Window
    from mild_compass.studio.work import Work

PLAN_FILTER = "Mild Compass plans (*.mildplan)"
PHOTO_FILTER = "Photos (*.jpg *.jpeg *.png *.webp *.tif *.tiff *.heic *.heif);;All files (*)"
SUFFIX = ".mildplan"
MOST_SAID = 3  # refusals told one by one
PHOTO_SUFFIXES = {".jpg", ".jpeg", ".png", ".webp", ".tif", ".tiff", ".heic", ".heif"}


@dataclass(frozen=True, slots=True)
class Pasted:
    """A picture from the clipboard, packed as a PNG."""

    name: str
    data: bytes


def _photos_in(folder: Path) -> list[Path]:
    """The photos that lie right in a folder, by name."""
    try:
        return sorted(path for path in folder.iterdir() if path.suffix.lower() in PHOTO_SUFFIXES and path.is_file())
    except OSError:
        return []


@dataclass(frozen=True, eq=False, slots=True)
class _PhotoRead:
    """A photo as it comes from a worker: its first looks, or for one of many only its small pictures."""

    name: str
    data: bytes
    size: tuple[int, int]
    looks: Looks | None
    thumbs: tuple[QImage, QImage]
    focal_35mm: float


def _read_photo(source: Path | Pasted, large: bool) -> _PhotoRead:
    """Read a photo; one that cannot really be decoded is refused here."""
    from mild_compass.craft.picture.load import focal_35mm_of, read_file, read_proxy

    name, data = (source.name, source.data) if isinstance(source, Pasted) else (source.name, read_file(source))
    if large:
        looks = colour_looks(data, name)
        picture = looks.picture
        thumbs = thumbs_of(small_rgb(picture))
    else:
        looks, picture = None, read_proxy(data, name, THUMB_PX)
        thumbs = thumbs_of(picture.rgb)
    size = (picture.width_px, picture.height_px)
    return _PhotoRead(name, data, size, looks, thumbs, focal_35mm_of(data, name))


def _write_sheet(path: Path, *inputs: Any) -> Path:
    from mild_compass.output.kinds import SHEET_WRITERS

    write_bytes_atomically(path, SHEET_WRITERS[path.suffix.lower()](*inputs))
    return path


def _write_made(path: Path, make: Callable[..., bytes], *inputs: Any) -> Path:
    write_bytes_atomically(path, make(*inputs))
    return path


class Files:
    """Everything that goes through a file dialog or touches the disk for the window."""

    def __init__(self, window: Window, session: Session, computed: Computed, work: Work) -> None:
        self._window, self._session, self._computed, self._work = window, session, computed, work
        self.folder = ""
        self._waiting: list[Path | Pasted] = []
        self._done = 0
        self._refused: list[str] = []

    # -- photos -----------------------------------------------------------------------------------------------

    def choose_photos(self) -> None:
        """Ask for photos and add them."""
        names, _ = QFileDialog.getOpenFileNames(self._window, "Add photos", self.folder, PHOTO_FILTER)
        if names:
            self.folder = str(Path(names[0]).parent)
            self.add_photos([Path(name) for name in names])

    def choose_folder(self) -> None:
        """Ask for a folder and add its photos."""
        name = QFileDialog.getExistingDirectory(self._window, "Add a folder of photos", self.folder)
        if name:
            self.folder = name
            self.add_photos([Path(name)])

    def add_photos(self, paths: Sequence[Path | Pasted]) -> None:
        """Read photos in the background, one after the other, and add each as one undo step; folders are opened."""
        found: list[Path | Pasted] = []
        for path in paths:
            inside = [path] if isinstance(path, Pasted) or not path.is_dir() else _photos_in(path)
            if not inside:
                self._session.said.emit(f"There is no photo in the folder {path.name}. Nothing was added.")
            found += inside
        idle = not self._waiting
        self._waiting += found
        if idle and found:
            self._done = 0
            self._refused.clear()
            self._next_photo()

    def paste(self) -> None:
        """Add what is on the clipboard: photo files, or a picture copied from elsewhere."""
        board = QGuiApplication.clipboard()
        mime = board.mimeData()
        files = [Path(url.toLocalFile()) for url in mime.urls() if url.isLocalFile()] if mime else []
        if files:
            self.add_photos(files)
        elif mime is not None and mime.hasImage():
            packed = QBuffer()
            packed.open(QIODevice.OpenModeFlag.WriteOnly)
            board.image().save(packed, "PNG")  # type: ignore[call-overload]  # bytes, as the stub asks, fail
            names = {photo.name for photo in self._session.plan.references}
            number = next(k for k in range(1, len(names) + 2) if f"pasted-{k}.png" not in names)
            self.add_photos([Pasted(f"pasted-{number}.png", bytes(packed.data().data()))])
        else:
            self._session.said.emit("There is no picture on the clipboard. Copy a photo or its file first.")

    @property
    def progress(self) -> tuple[int, int] | None:
        """Photos read and to be read in all, while several are on their way."""
        total = self._done + len(self._waiting)
        return (self._done, total) if self._waiting and total > 1 else None

    def call_off(self) -> None:
        """Add no more of the photos that are waiting; those added stay."""
        left = len(self._waiting)
        self._waiting.clear()
        self._work.drop("photo")
        self._window.progress_changed()
        if left:
            self._session.said.emit(f"Called off: {self._done} photos were read, {left} were not added.")

    def _next_photo(self) -> None:
        self._window.progress_changed()
        if not self._waiting:
            self._say_refused()
            return
        large = not self._session.plan.references
        self._work.ask(
            "photo", _read_photo, self._waiting[0], large, then=self._take_photo, otherwise=self._refuse_photo
        )

    def _shift_queue(self) -> None:
        self._waiting.pop(0)
        self._done += 1
        self._next_photo()

    def _take_photo(self, found: _PhotoRead) -> None:
        name = found.name
        try:
            first = not self._session.plan.references
            digest = self._session.store_photo(found.data)
            self._window.contact_sheet.offer(digest, found.thumbs)
            if found.looks is not None:
                self._computed.offer_looks(digest, found.looks)
            added = self._session.add_photo(name, digest, found.size, found.focal_35mm)
            if added and first:
                self._session.said.emit(
                    f"{name} is in the plan. Add more, or go on to 2 Viewfinder and name your sheet."
                )
        except OSError as error:
            reason = error.strerror or error
            self._session.said.emit(
                f"{name} could not be stored ({reason}). The plan is kept; make room and add it again."
            )
        self._shift_queue()

    def _refuse_photo(self, error: PlanError) -> None:
        self._refused.append(str(error))
        self._shift_queue()

    def _say_refused(self) -> None:
        """Say what could not be read when all is done, so that no sentence hides another."""
        if not self._refused:
            return
        more = len(self._refused) - MOST_SAID
        rest = f" {more} more could not be read either." if more > 0 else ""
        self._session.said.emit(" ".join(self._refused[:MOST_SAID]) + rest)

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
        for kind in ("photo", "looks", "other looks", "departed", "masses", "locks"):
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

    def choose_sheet(self, suffix: str = ".pdf") -> None:
        """Ask for a file and write the sheet in the background, as PDF or another kind."""
        plan = self._session.plan
        if plan.study is None:
            self._session.said.emit("There is no photo in the plan yet, so there is nothing to print. Add one first.")
            return
        kind = suffix[1:].upper()
        suggestion = str(Path(self.folder) / f"{_file_name(plan.name)}{suffix}")
        name, _ = QFileDialog.getSaveFileName(
            self._window, f"Save the sheet as {kind}", suggestion, f"{kind} (*{suffix})"
        )
        if name:
            path = Path(name)
            self.write_sheet(path if path.suffix.lower() == suffix else path.with_name(path.name + suffix))

    def write_sheet(self, path: Path) -> None:
        """Write the sheet in the background, in the kind the file's suffix names, and say so when it is there."""
        plan = self._session.plan
        assert plan.study is not None
        looks = self._computed.looks if self._computed.looks_current else None
        self._session.said.emit(f"Writing {path.name} …")
        self._work.ask(
            "sheet file",
            _write_sheet,
            path,
            plan,
            self._session.workspace.photos,
            looks.picture if looks else None,
            self.desk,
            then=lambda done: self._session.said.emit(f"{done.name} is written, true to size."),
            otherwise=lambda error: self._session.said.emit(str(error)),
        )

    def choose_medium(self) -> None:
        """Ask for a file and write the plan of work for the medium."""
        masses, plan = self._computed.masses, self._session.plan
        if plan.study is None or masses is None or not self._computed.masses_current:
            self._session.said.emit("The masses are still being found. Try again in a moment.")
            return
        path = self._ask_pdf("Save the plan of work", f"{_file_name(plan.name)} way of working")
        if path is not None:
            self.write_page(path, page_makers.medium_pages, plan, masses)

    def choose_value_strip(self, steps: int) -> None:
        """Ask for a file and write a printed value scale."""
        path = self._ask_pdf("Save a value scale", f"value scale of {steps}")
        if path is not None:
            self.write_page(path, page_makers.value_strip, steps)

    def _ask_pdf(self, title: str, name: str) -> Path | None:
        chosen, _ = QFileDialog.getSaveFileName(
            self._window, title, str(Path(self.folder) / f"{name}.pdf"), "PDF (*.pdf)"
        )
        if not chosen:
            return None
        path = Path(chosen)
        return path if path.suffix.lower() == ".pdf" else path.with_name(path.name + ".pdf")

    @property
    def desk(self) -> DeskSettings:
        """The printer's error and the unit of length."""
        from mild_compass.craft.sheet.printer import DeskSettings

        return DeskSettings(self._computed.printer, self._computed.unit)

    def set_printer(self, printer: Printer) -> None:
        """Remember what the printer makes of the bar."""
        chosen = replace(self._window.preferences, printer=printer)
        preferences.save(chosen)
        self._window.use_preferences(chosen)

    def choose_photo_print(self) -> None:
        """Ask for a file and write the photo print with the grid."""
        path = self._ask_pdf("Save the photo print", f"{_file_name(self._session.plan.name)} photo print")
        if path is not None and self._session.plan.study is not None:
            session = self._session
            self.write_page(path, page_makers.photo_print, session.plan, session.workspace.photos, self.desk)

    def choose_table(self, suffix: str = ".csv") -> None:
        """Ask for a file and write the measures as CSV, or as a page to print."""
        plan = self._session.plan
        if plan.study is None:
            return
        if suffix == ".pdf":
            path = self._ask_pdf("Save the table of measures", f"{_file_name(plan.name)} measures")
            if path is not None:
                self.write_page(path, page_makers.measures_page, plan, self._computed.unit)
            return
        suggestion = str(Path(self.folder) / f"{_file_name(plan.name)} measures.csv")
        name, _ = QFileDialog.getSaveFileName(self._window, "Save the measures", suggestion, "CSV (*.csv)")
        if name:
            self.write_page(Path(name).with_suffix(".csv"), page_makers.measures_csv, plan)

    def choose_guide(self, guide: TransferGuide) -> None:
        """Ask for a file and write a transfer guide."""
        path = self._ask_pdf("Save the guide", f"{_file_name(self._session.plan.name)} {guide.method}")
        if path is not None:
            self.write_page(path, page_makers.guide_page, self._session.plan.name, guide)

    def choose_block_in(self, steps: tuple[BlockStep, ...]) -> None:
        """Ask for a file and write the steps of the block-in."""
        path = self._ask_pdf("Save the order of drawing", f"{_file_name(self._session.plan.name)} block-in")
        if path is not None:
            self.write_page(path, page_makers.block_in_page, self._session.plan, steps)

    def print_sheet(self) -> None:
        """Ask which printer, and print the sheet."""
        from mild_compass.studio.printing import print_sheet

        print_sheet(self._window)

    def write_page(self, path: Path, make: Callable[..., bytes], *inputs: Any) -> None:
        """Write what a function makes, in the background, and say so when it is there."""
        self._work.ask(
            "page file",
            _write_made,
            path,
            make,
            *inputs,
            then=lambda done: self._session.said.emit(f"{done.name} is written."),
            otherwise=lambda error: self._session.said.emit(str(error)),
        )

    def choose_steps(self, construction: Construction) -> None:
        """Ask for a file and write the steps of a construction as PDF."""
        plan = self._session.plan
        if plan.study is None:
            return
        suggestion = str(Path(self.folder) / f"{_file_name(construction)} steps.pdf")
        name, _ = QFileDialog.getSaveFileName(self._window, "Save the steps", suggestion, "PDF (*.pdf)")
        if name:
            path = Path(name)
            self.write_steps(
                path if path.suffix.lower() == ".pdf" else path.with_name(path.name + ".pdf"), construction
            )

    def write_steps(self, path: Path, construction: Construction) -> None:
        """Write the steps of a construction as PDF."""
        from mild_compass.output.steps_pdf import steps_pdf

        pdf = steps_pdf(self._session.plan, construction, self._computed.unit)
        self._told(lambda: write_bytes_atomically(path, pdf), f"{path.name} is written.")

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
