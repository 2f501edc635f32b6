"""Photos in: by dialog, folder, drop or paste, read one by one in the background."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QBuffer, QIODevice, QObject, QTimer, Signal
from PySide6.QtGui import QGuiApplication, QImage

from mild_compass.plan.errors import PlanError
from mild_compass.plan.photos import sha256_of
from mild_compass.plan.pictures import Reference
from mild_compass.plan.texts import clean_name
from mild_compass.studio.derived.looks import THUMB_PX, Looks, colour_looks, small_rgb, thumbs_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from mild_compass.plan.photos import PhotoFolder
    from mild_compass.studio.derived.computed import Computed
    from mild_compass.studio.files.dialogs import Dialogs
    from mild_compass.studio.requests.jobs import Jobs
    from mild_compass.studio.session import Session

MOST_SAID = 3  # refusals told one by one
AT_ONCE = 2  # photos being read; they are added in the order in which they came
GATHER_MS = 150  # of many, those read meanwhile are added together: the window follows once for them all
PHOTO_SUFFIXES = {".jpg", ".jpeg", ".png", ".webp", ".tif", ".tiff", ".heic", ".heif"}


@dataclass(frozen=True, slots=True)
class Pasted:
    """A picture from the clipboard, packed as a PNG."""

    name: str
    data: bytes


@dataclass(eq=False, slots=True)
class Coming:
    """A photo on its way: not begun, being read, or read and waiting for those before it."""

    source: Path | Pasted
    begun: bool = False
    answer: PhotoRead | PlanError | None = None


@dataclass(frozen=True, eq=False, slots=True)
class PhotoRead:
    """A photo as it comes from a worker, its bytes stored: its first looks, or of one of many only small pictures."""

    name: str
    digest: str
    size: tuple[int, int]
    looks: Looks | None
    thumbs: tuple[QImage, QImage]
    focal_35mm: float
    stored: bool  # it was not in the working folder, or damaged there


def picture_on_clipboard(name: str) -> list[Path | Pasted]:
    """What is on the clipboard: files, or a picture copied from elsewhere, which gets a name; nothing otherwise."""
    board = QGuiApplication.clipboard()
    mime = board.mimeData()
    files: list[Path | Pasted] = [Path(url.toLocalFile()) for url in mime.urls() if url.isLocalFile()] if mime else []
    if files or mime is None or not mime.hasImage():
        return files
    packed = QBuffer()
    packed.open(QIODevice.OpenModeFlag.WriteOnly)
    board.image().save(packed, "PNG")  # type: ignore[call-overload]  # bytes, as the stub asks, fail
    return [Pasted(name, bytes(packed.data().data()))]


def photos_in(folder: Path) -> list[Path]:
    """The photos that lie right in a folder, by name."""
    try:
        return sorted(path for path in folder.iterdir() if path.suffix.lower() in PHOTO_SUFFIXES and path.is_file())
    except OSError:
        return []


def read_photo(source: Path | Pasted, large: bool, photos: PhotoFolder) -> PhotoRead:
    """Read a photo and store its bytes; one that cannot really be decoded is refused here."""
    from mild_compass.craft.picture.load import read_file, read_proxy

    name = clean_name(source.name)
    data = source.data if isinstance(source, Pasted) else read_file(source)
    if large:
        looks = colour_looks(data, name)
        picture = looks.picture
        thumbs = thumbs_of(small_rgb(picture))
    else:
        looks, picture = None, read_proxy(data, name, THUMB_PX)
        thumbs = thumbs_of(picture.rgb)
    digest = sha256_of(data)
    stored = photos.put(digest, data, name)
    size = (picture.width_px, picture.height_px)
    return PhotoRead(name, digest, size, looks, thumbs, picture.focal_35mm, stored)


class PhotoFiles(QObject):
    """``read`` brings the small pictures of a photo that has just been added."""

    progress_changed = Signal()
    read = Signal(str, object)

    def __init__(self, dialogs: Dialogs, session: Session, computed: Computed, jobs: Jobs, parent: QObject) -> None:
        super().__init__(parent)
        self._dialogs, self._session, self._computed, self._jobs = dialogs, session, computed, jobs
        self._waiting: list[Coming] = []
        self._done = 0
        self._refused: list[str] = []
        self._gather = QTimer(self, singleShot=True, interval=GATHER_MS)
        self._gather.timeout.connect(self._add_read)
        session.replaced.connect(self._drop)

    def choose(self) -> None:
        """Ask for photos and add them."""
        self.add(self._dialogs.photos())

    def choose_folder(self) -> None:
        """Ask for a folder and add its photos."""
        folder = self._dialogs.folder()
        if folder is not None:
            self.add([folder])

    def add(self, paths: Sequence[Path | Pasted]) -> None:
        """Read photos in the background and add each as one undo step, in this order; folders are opened."""
        found: list[Path | Pasted] = []
        for path in paths:
            inside = [path] if isinstance(path, Pasted) or not path.is_dir() else photos_in(path)
            if not inside:
                self._session.said.emit(f"There is no photo in the folder {path.name}. Nothing was added.")
            found += inside
        idle = not self._waiting
        self._waiting += map(Coming, found)
        if idle and found:
            self._done = 0
            self._refused.clear()
            self._go_on()

    def paste(self) -> None:
        """Add what is on the clipboard: photo files, or a picture copied from elsewhere."""
        names = {photo.name for photo in self._session.plan.references}
        number = next(k for k in range(1, len(names) + 2) if f"pasted-{k}.png" not in names)
        found = picture_on_clipboard(f"pasted-{number}.png")
        if found:
            self.add(found)
        else:
            self._session.said.emit("There is no picture on the clipboard. Copy a photo or its file first.")

    @property
    def progress(self) -> tuple[int, int] | None:
        """Photos read and to be read in all, while several are on their way."""
        total = self._done + len(self._waiting)
        return (self._done, total) if self._waiting and total > 1 else None

    def call_off(self) -> None:
        """Add no more of the photos that are waiting; those read by now are added and stay."""
        if any(coming.answer is not None for coming in self._waiting):
            self._add_read()
        self._drop()

    def _drop(self) -> None:
        left = len(self._waiting)
        self._waiting.clear()
        self._gather.stop()
        self.progress_changed.emit()
        if left:
            self._say_refused(f"Called off: {self._done} photos were read, {left} were not added.")

    def _go_on(self) -> None:
        """Begin with the next; what has been read is added at once when nothing else is coming soon."""
        ahead = [coming for coming in self._waiting if coming.answer is None]
        for coming in ahead[:AT_ONCE]:
            if not coming.begun:
                self._begin(coming)
        if not ahead or not self._session.plan.references:
            self._add_read()
        elif len(ahead) < len(self._waiting) and not self._gather.isActive():
            self._gather.start()

    def _add_read(self) -> None:
        """Add what has been read, in order: each photo is an undo step, and the window follows once."""
        self._gather.stop()
        read: list[PhotoRead] = []
        while self._waiting and self._waiting[0].answer is not None:
            answer = self._waiting.pop(0).answer
            self._done += 1
            if isinstance(answer, PhotoRead):
                read.append(answer)
            else:
                self._refused.append(str(answer))
        self._add(read)
        self.progress_changed.emit()
        if not self._waiting:
            self._say_refused()

    def _begin(self, coming: Coming) -> None:
        coming.begun = True
        large = coming is self._waiting[0] and not self._session.plan.references
        self._jobs.do(
            f"Reading {coming.source.name}",
            read_photo,
            *(coming.source, large, self._session.workspace.photos),
            owner=self._session.owner().of_plan,
            done=lambda found: self._take(coming, found),
            failed=lambda error: self._take(coming, error),
            called_off=self.call_off,
        )

    def _take(self, coming: Coming, answer: PhotoRead | PlanError) -> None:
        """The reading may have been called off meanwhile, and begun anew."""
        if coming in self._waiting:
            coming.answer = answer
            self._go_on()

    def _add(self, read: list[PhotoRead]) -> None:
        held = self._session.plan.stored()
        back = [photo for photo in read if photo.stored and photo.digest in held]
        if back:
            self._session.have_back([held[photo.digest] for photo in back])
            read = [photo for photo in read if photo not in back]
        first = not self._session.plan.references
        for photo in read:
            self.read.emit(photo.digest, photo.thumbs)
            if photo.looks is not None:
                self._computed.pictures.offer(photo.digest, photo.looks)
        added = bool(read) and self._session.add_photos(
            [Reference("", photo.name, photo.digest, *photo.size, focal_35mm=photo.focal_35mm) for photo in read]
        )
        if added and first:
            self._session.said.emit(
                f"{read[0].name} is in the plan. Add more, or go on to 2 Viewfinder and name your sheet."
            )

    def _say_refused(self, first: str = "") -> None:
        """Say what could not be read when all is done, so that no sentence hides another."""
        more = len(self._refused) - MOST_SAID
        rest = f"{more} more could not be read either." if more > 0 else ""
        words = " ".join(filter(None, (first, *self._refused[:MOST_SAID], rest)))
        self._refused.clear()
        if words:
            self._session.said.emit(words)
