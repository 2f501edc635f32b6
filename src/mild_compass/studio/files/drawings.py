"""Photos of the artist's own drawing in: by dialog, drop, paste, from a watched folder, or drawn by the stand-in."""

from __future__ import annotations

import io
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from mild_compass.plan.edits.check import add_drawing, next_drawing_id
from mild_compass.plan.errors import PlanError
from mild_compass.plan.pictures import OwnDrawing
from mild_compass.plan.texts import clean_name
from mild_compass.plan.times import now
from mild_compass.studio.files.photos import Pasted, picture_on_clipboard
from mild_compass.studio.files.watched import WatchedFolder

if TYPE_CHECKING:
    from collections.abc import Sequence

    from mild_compass.craft.check.pieces import PlanLine
    from mild_compass.craft.check.stand_in import HandName
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder
    from mild_compass.plan.pictures import DrawingStage
    from mild_compass.studio.derived.computed import Computed
    from mild_compass.studio.files.dialogs import Dialogs
    from mild_compass.studio.requests.jobs import Jobs
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session

STAND_IN_QUALITY = 90


def read_drawing(source: Path | Pasted, photos: PhotoFolder) -> OwnDrawing:
    """Read a photo of the drawing and store its bytes; one that cannot be decoded is refused here."""
    from mild_compass.craft.picture.load import read_file, read_proxy, taken_at

    name = clean_name(source.name)
    data = source.data if isinstance(source, Pasted) else read_file(source)
    picture = read_proxy(data, name)
    size = (picture.width_px, picture.height_px)
    taken = taken_at(data, name) or now()
    return OwnDrawing("", name, photos.add(data, name), *size, focal_35mm=picture.focal_35mm, taken=taken)


def drawn_by_stand_in(
    plan: Plan, lines: tuple[PlanLine, ...], hand: HandName, stage: DrawingStage, photos: PhotoFolder, seed: int,
    tones: object = None,
) -> OwnDrawing:  # fmt: skip
    """A photo of the plan's own lines as a hand of that clumsiness would have drawn them, its bytes stored."""
    from PIL import Image

    from mild_compass.craft.check.stand_in import HANDS, drawn_badly
    from mild_compass.craft.geometry.lines import picture_box

    if not lines:
        raise PlanError("The plan has no lines to draw yet. Choose lines, shapes or masses for the sheet first.")
    size = (plan.paper.width_mm, plan.paper.height_mm)
    box = picture_box(plan.paper, plan.study.frame if plan.study else None)
    shaded = tones if stage in ("values", "finished") else None
    rgb = drawn_badly(lines, size, HANDS[hand], seed, shaded, tuple(box))  # type: ignore[arg-type]
    packed = io.BytesIO()
    Image.fromarray(rgb).save(packed, "JPEG", quality=STAND_IN_QUALITY)
    name = f"{hand} hand {seed}.jpg"
    height, width = rgb.shape[:2]
    return OwnDrawing("", name, photos.add(packed.getvalue(), name), width, height, taken=now(), stage=stage)


class DrawingFiles(QObject):
    """``found`` is sent with a photo that has come into the watched folder."""

    found = Signal(str)

    def __init__(
        self,
        dialogs: Dialogs,
        session: Session,
        computed: Computed,
        work: LatestWins,
        jobs: Jobs,
        parent: QObject,
    ) -> None:
        super().__init__(parent)
        self._dialogs, self._session, self._computed, self._jobs = dialogs, session, computed, jobs
        self.watched = WatchedFolder("watched drawings", lambda: dialogs.folder(), session, work, self)
        self.watched.came.connect(self._take_new)
        self.watched.lost.connect(session.said)

    def choose(self) -> None:
        """Ask for photos of the drawing and add them."""
        self.add(self._dialogs.drawings())

    def paste(self) -> None:
        """Add what is on the clipboard."""
        found = picture_on_clipboard(f"drawing-{len(self._session.plan.drawings) + 1}.png")
        if found:
            self.add(found)
        else:
            self._session.said.emit("There is no picture on the clipboard. Copy a photo or its file first.")

    def add(self, sources: Sequence[Path | Pasted]) -> None:
        """Read photos of the drawing in the background and add each as one undo step."""
        if sources and self._session.plan.study is None:
            self._session.said.emit("There is no study yet to check a drawing against. Add a photo of the motif first.")
            return
        for source in sources:
            self._do(f"Reading {source.name}", read_drawing, source, self._session.workspace.photos)

    def stand_in(self, hand: HandName, stage: DrawingStage) -> None:
        """Have the plan drawn badly, to try the check."""
        plan, made = self._session.committed, self._computed.drawing_check
        lines = made.lines if made is not None else None
        seed = 1 + len(plan.drawings)
        looks = self._computed.looks
        picture = looks.picture if looks is not None else None
        self._do("Drawing it badly", _draw, plan, lines, hand, stage, self._session.workspace.photos, seed, picture)

    def _do(self, words: str, function: object, *inputs: object) -> None:
        self._jobs.do(
            words,
            function,  # type: ignore[arg-type]
            *inputs,
            owner=self._session.owner().of_plan,
            done=self._add,
            failed=lambda error: self._session.said.emit(str(error)),
        )

    def _add(self, drawing: OwnDrawing) -> None:
        from dataclasses import replace

        if self._session.apply(add_drawing(replace(drawing, id=next_drawing_id(self._session.plan)))):
            self._session.said.emit(f"{drawing.name} is in the plan. What is off is told at 7 Check.")

    def _take_new(self, photos: list[Path]) -> None:
        self.add(photos)
        for photo in photos:
            self.found.emit(photo.name)


def _draw(
    plan: Plan, lines: tuple[PlanLine, ...] | None, hand: HandName, stage: DrawingStage, photos: PhotoFolder, seed: int,
    picture: object,
) -> OwnDrawing:  # fmt: skip
    """In a worker: the lines are found where they are not known yet, and the tones where they are wanted."""
    from mild_compass.craft.check.planned import study_lines
    from mild_compass.craft.values.masses import study_masses

    study = plan.study
    assert study is not None
    if lines is None:
        lines = study_lines(plan, picture)  # type: ignore[arg-type]
    drawn = tuple(line for line in lines if line.layer in ("lines", "stage")) or lines
    tones = None
    if stage in ("values", "finished") and picture is not None:
        tones = study_masses(picture, study, plan.paper).painted(1600)  # type: ignore[arg-type]
    return drawn_by_stand_in(plan, drawn, hand, stage, photos, seed, tones)
