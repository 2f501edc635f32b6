"""Pages as bytes, made in a worker; what makes them is slow to load and loaded there."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from mild_compass.craft.practice.history import History
    from mild_compass.craft.sheet.block_in import BlockStep
    from mild_compass.craft.sheet.printer import OutputSettings
    from mild_compass.craft.sheet.transfer import TransferGuide
    from mild_compass.craft.sheet_sizes.lengths import Unit
    from mild_compass.craft.values.masses import Masses
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder
    from mild_compass.plan.structure import Construction


def construction_steps(plan: Plan, construction: Construction, unit: Unit) -> bytes:
    """The steps of a construction for ruler and compass."""
    from mild_compass.output.steps_pdf import steps_pdf

    return steps_pdf(plan, construction, unit)


def correction(worked: Worked, output: OutputSettings) -> bytes:
    """The drawing pale, with what is to be put right on it."""
    from mild_compass.output.correction_pdf import correction_pdf

    return correction_pdf(worked, output)


def correction_list(worked: Worked) -> bytes:
    """The same as a list."""
    from mild_compass.output.correction_pdf import correction_list_pdf

    return correction_list_pdf(worked)


def logbook(suffix: str, plan: Plan, photos: PhotoFolder) -> bytes:
    """The logbook in the kind a suffix names."""
    from mild_compass.output.logbook_document import logbook_file

    return logbook_file(suffix, plan, photos)


def medium_pages(plan: Plan, masses: Masses) -> bytes:
    """The plan of work for a medium."""
    from mild_compass.output.medium_pdf import medium_pdf

    return medium_pdf(plan, masses)


def value_strip(steps: int) -> bytes:
    """A value scale of so many steps."""
    from mild_compass.output.medium_pdf import value_strip_pdf

    return value_strip_pdf(steps)


def photo_print(plan: Plan, photos: PhotoFolder, output: OutputSettings) -> bytes:
    """The photo with the squares of the sheet."""
    from mild_compass.output.print_sheet import photo_print as make

    return make(plan, photos, output)


def measures_csv(plan: Plan) -> bytes:
    """The measures for a spreadsheet."""
    from mild_compass.output.measures_csv import measures_csv as make

    return make(plan).encode()


def measures_page(plan: Plan, unit: Unit) -> bytes:
    """The measures to keep beside the easel."""
    from mild_compass.output.sheet_pages import measures_pdf

    return measures_pdf(plan, unit)


def guide_page(name: str, guide: TransferGuide) -> bytes:
    """A transfer guide."""
    from mild_compass.output.sheet_pages import guide_pdf

    return guide_pdf(name, guide)


def block_in_page(plan: Plan, steps: tuple[BlockStep, ...], title: str = "the order of drawing") -> bytes:
    """The order of drawing."""
    from mild_compass.output.sheet_pages import block_in_pdf

    return block_in_pdf(plan, steps, title)


def working_order(worked: Worked) -> bytes:
    """The working order."""
    from mild_compass.output.work_pdf import work_pdf

    return work_pdf(worked)


def practice_csv(history: History) -> bytes:
    """All answers of the drills."""
    from mild_compass.memory.practice import as_csv

    return as_csv(history).encode()


def brief(worked: Worked) -> bytes:
    """The take-along page."""
    from mild_compass.output.brief_pdf import brief_pdf

    return brief_pdf(worked)


def card(plan: Plan) -> bytes:
    """The viewfinder card."""
    from mild_compass.output.card_pdf import card_pdf

    return card_pdf(plan)
