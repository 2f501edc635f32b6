"""Sheets and pages out: everything that is written for the artist besides the plan itself."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from mild_compass.output.kinds import SHEET_KINDS, kind_of_file
from mild_compass.plan.atomic import write_bytes_atomically
from mild_compass.plan.errors import PlanError
from mild_compass.studio.files import page_makers
from mild_compass.studio.files.dialogs import Dialogs

if TYPE_CHECKING:
    from collections.abc import Callable
    from pathlib import Path

    from mild_compass.craft.sheet.block_in import BlockStep
    from mild_compass.craft.sheet.transfer import TransferGuide
    from mild_compass.plan.structure import Construction
    from mild_compass.studio.derived.computed import Computed
    from mild_compass.studio.memory import Memory
    from mild_compass.studio.requests.jobs import CancelToken, Jobs
    from mild_compass.studio.session import Session
    from mild_compass.studio.settings.settings import Settings

NOTHING_TO_PRINT = "There is nothing in the plan to print yet. Add a photo, or begin with a blank sheet."


def write_made(path: Path, make: Callable[..., bytes], inputs: tuple[Any, ...], stop: CancelToken) -> Path:
    """Write what a function makes; until the writing begins it can be called off."""
    data = make(*inputs)
    stop.check()
    write_bytes_atomically(path, data)
    return path


class Exports:
    """Each asks for a file and writes it in the background, as a job."""

    def __init__(
        self, dialogs: Dialogs, session: Session, computed: Computed, jobs: Jobs, settings: Settings, memory: Memory
    ) -> None:
        self._dialogs, self._session, self._computed = dialogs, session, computed
        self._jobs, self._settings, self._memory = jobs, settings, memory

    def write(self, path: Path, make: Callable[..., bytes], *inputs: Any, told: str = "is written.") -> None:
        """Write what a function makes, and say so when it is there."""
        path = path.absolute()
        self._jobs.do(
            f"Writing {path.name}",
            write_made,
            *(path, make, inputs),
            done=lambda done: self._session.said.emit(f"{done.name} {told}"),
            touches=path,
            stoppable=True,
        )

    def choose_sheet(self, suffix: str = ".pdf") -> None:
        """The sheet, as PDF or another kind."""
        if self._session.plan.study is None:
            self._session.said.emit(NOTHING_TO_PRINT)
            return
        path = self._dialogs.target(f"Save the sheet as {suffix[1:].upper()}", self._session.plan.name, suffix)
        if path is not None:
            self.write_sheet(path)

    def write_sheet(self, path: Path) -> None:
        """The sheet in the kind the file's suffix names."""
        try:
            kind = kind_of_file(path, SHEET_KINDS)
        except PlanError as error:
            self._session.said.emit(f"{error} Nothing was written.")
            return
        self.write(path, kind.write, *self.sheet_inputs(), told="is written, true to size.")

    def sheet_inputs(self) -> tuple[Any, ...]:
        """What a sheet is made from: plan, photos, the picture where it is there already, the desk."""
        looks = self._computed.looks if self._computed.looks_current else None
        photos = self._session.workspace.photos
        return self._session.committed, photos, looks.picture if looks else None, self._settings.output

    def choose_medium(self) -> None:
        """The plan of work for the medium."""
        masses, plan = self._computed.masses, self._session.committed
        if plan.study is None or masses is None or not self._computed.masses_current:
            self._session.said.emit("The masses are still being found. Try again in a moment.")
            return
        self._choose("Save the plan of work", f"{plan.name} way of working", page_makers.medium_pages, plan, masses)

    def choose_value_strip(self, steps: int) -> None:
        """A printed value scale."""
        self._choose("Save a value scale", f"value scale of {steps}", page_makers.value_strip, steps)

    def choose_photo_print(self) -> None:
        """The photo print with the grid."""
        plan = self._session.committed
        if plan.study is not None:
            inputs = (plan, self._session.workspace.photos, self._settings.output)
            self._choose("Save the photo print", f"{plan.name} photo print", page_makers.photo_print, *inputs)

    def choose_table(self, suffix: str = ".csv") -> None:
        """The measures as CSV, or as a page to print."""
        plan = self._session.committed
        if plan.study is None:
            return
        name = f"{plan.name} measures"
        if suffix == ".pdf":
            self._choose("Save the table of measures", name, page_makers.measures_page, plan, self._computed.unit)
        else:
            self._choose("Save the measures", name, page_makers.measures_csv, plan, suffix=suffix)

    def choose_guide(self, guide: TransferGuide) -> None:
        """A transfer guide."""
        name = self._session.plan.name
        self._choose("Save the guide", f"{name} {guide.method}", page_makers.guide_page, name, guide)

    def choose_block_in(self, steps: tuple[BlockStep, ...]) -> None:
        """The steps of the block-in."""
        plan = self._session.committed
        self._choose("Save the order of drawing", f"{plan.name} block-in", page_makers.block_in_page, plan, steps)

    def choose_scene_steps(self, steps: tuple[BlockStep, ...]) -> None:
        """How to draw the scene on the stage."""
        plan = self._session.committed
        title = "how to draw it"
        self._choose("Save how to draw it", f"{plan.name} {title}", page_makers.block_in_page, plan, steps, title)

    def choose_steps(self, construction: Construction) -> None:
        """The steps of a construction."""
        plan = self._session.committed
        if plan.study is not None:
            inputs = (plan, construction, self._computed.unit)
            self._choose("Save the steps", f"{construction} steps", page_makers.construction_steps, *inputs)

    def choose_correction(self) -> None:
        """The corrections at true size."""
        worked = self._computed.worked()
        if worked is None or worked.check is None:
            self._session.said.emit("There is no check of a drawing to print yet.")
            return
        name = f"{self._session.plan.name} corrections"
        self._choose("Save the corrections", name, page_makers.correction, worked, self._settings.output)

    def choose_correction_list(self) -> None:
        """The corrections as a list."""
        worked = self._computed.worked()
        if worked is None or worked.check is None:
            self._session.said.emit("There is no check of a drawing to print yet.")
            return
        self._choose("Save the list", f"{self._session.plan.name} to put right", page_makers.correction_list, worked)

    def choose_logbook(self, suffix: str = ".md") -> None:
        """The logbook as a document of some kind."""
        plan, photos = self._session.committed, self._session.workspace.photos
        name = f"{plan.name} logbook"
        self._choose("Save the logbook", name, page_makers.logbook, suffix, plan, photos, suffix=suffix)

    def choose_working_order(self) -> None:
        """The working order as pages to keep beside the easel."""
        worked = self._computed.worked()
        if worked is None or worked.order is None:
            self._session.said.emit("The working order is still being made. Try again in a moment.")
            return
        name = f"{self._session.plan.name} working order"
        self._choose("Save the working order", name, page_makers.working_order, worked)

    def choose_brief(self) -> None:
        """The take-along page."""
        worked = self._computed.worked()
        if worked is None or (worked.has_picture and worked.masses is None):
            self._session.said.emit("The masses are still being found. Try again in a moment.")
            return
        self._choose("Save the take-along page", f"{self._session.plan.name} to take along", page_makers.brief, worked)

    def choose_card(self) -> None:
        """A viewfinder card of the sheet's proportion."""
        plan = self._session.committed
        self._choose("Save the viewfinder card", f"{plan.paper.name} viewfinder card", page_makers.card, plan)

    def choose_practice(self) -> None:
        """All answers of the drills for a spreadsheet."""
        self._choose("Save the practice", "practice", page_makers.practice_csv, self._memory.history, suffix=".csv")

    def _choose(self, title: str, name: str, make: Callable[..., bytes], *inputs: Any, suffix: str = ".pdf") -> None:
        path = self._dialogs.target(title, name, suffix, "Markdown" if suffix == ".md" else "")
        if path is not None:
            self.write(path, make, *inputs)
