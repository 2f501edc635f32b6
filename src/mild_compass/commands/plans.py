"""Plans begun and read: ``new``, ``readings``."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

from mild_compass.commands.opened import opened
from mild_compass.craft.armature.report import lock_report
from mild_compass.craft.picture.load import read_file, read_proxy
from mild_compass.craft.picture.study_picture import study_picture
from mild_compass.craft.sheet_sizes.papers import parse_paper
from mild_compass.craft.stations import STATIONS, readings_of
from mild_compass.craft.values.masses import study_masses
from mild_compass.craft.work.working_order import with_order
from mild_compass.craft.worked import worked_study
from mild_compass.output.raster import preview_png
from mild_compass.plan import archive
from mild_compass.plan.edits.references import add_reference, begin_blank
from mild_compass.plan.edits.viewfinder import choose_paper, move_frame
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import fitted
from mild_compass.plan.identity import with_id
from mild_compass.plan.model import Plan
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.pictures import Reference
from mild_compass.plan.study import Frame
from mild_compass.plan.texts import clean_name
from mild_compass.plan.times import now

if TYPE_CHECKING:
    from mild_compass.craft.stations import StationCraft
    from mild_compass.craft.worked import Worked
    from mild_compass.plan.stations import StationName

SMALL_PX = 320  # as much of a photo as tells its size and whether it is whole


def new(
    photos: list[Path],
    output: Path,
    sheet: str,
    margin_mm: float,
    frame: tuple[float, float, float, float] | None,
    blank: bool,
) -> None:
    """Write a plan begun from photos, or on a blank sheet.

    Args:
        frame: left, top, width and height in photo pixels; fitted to the sheet's proportion.

    Raises:
        PlanError: there is nothing to begin with, or a photo cannot be read.
    """
    if not (photos or blank):
        raise PlanError("There is nothing to begin with. Name photos, or begin on bare paper with --blank.")
    with tempfile.TemporaryDirectory() as folder:
        kept, time = PhotoFolder(Path(folder)), now()
        plan = choose_paper(parse_paper(sheet, margin_mm)).apply(Plan(name=clean_name(output.stem)), time)
        for number, path in enumerate(photos, 1):
            plan = add_reference(_read(path, number, kept)).apply(plan, time)
        if blank:
            plan = begin_blank().apply(plan, time)
        if frame is not None:
            assert plan.study is not None
            plan = move_frame(fitted(Frame(*frame), plan.ground(plan.study), plan.paper)).apply(plan, time)
        archive.write(output, with_id(plan), kept, _preview(plan, kept))


def _read(path: Path, number: int, photos: PhotoFolder) -> Reference:
    data, name = read_file(path), clean_name(path.name)
    picture = read_proxy(data, name, SMALL_PX)  # one that breaks off is refused here
    size = (picture.width_px, picture.height_px)
    return Reference(f"photo-{number}", name, photos.add(data, name), *size, focal_35mm=picture.focal_35mm)


def _preview(plan: Plan, photos: PhotoFolder) -> bytes | None:
    if plan.study is None or not plan.has_picture(plan.study):
        return None
    return preview_png(study_picture(plan, plan.study, photos), plan.study.frame, plan.paper)


def readings(plan: Path, station: StationName | None, as_json: bool) -> None:
    """Print what the numbers of a plan say, of one station or of all.

    Raises:
        PlanError: the plan cannot be read, or holds no study.
    """
    chosen = [each for each in STATIONS if station in (None, each.name)]
    worked = _worked(plan, any(each.needs_masses for each in chosen))
    if as_json:
        found = {each.name: [row.as_json() for row in readings_of(each.name, worked)] for each in chosen}
        print(json.dumps(found, indent=1))
        return
    for each in chosen:
        _print(each, worked)


def _print(station: StationCraft, worked: Worked) -> None:
    print(station.title)
    if station.without_photo and not worked.has_picture:
        print(f"  {station.without_photo}")
    for reading in readings_of(station.name, worked):
        print(f"  {reading.verdict:5} {reading.text}")


def _worked(path: Path, with_masses: bool) -> Worked:
    with opened(path, "read off it") as (plan, photos):
        study = plan.study
        assert study is not None
        picture = study_picture(plan, study, photos) if plan.has_picture(study) else None
        masses = study_masses(picture, study, plan.paper) if picture is not None and with_masses else None
    locks = lock_report(study, plan.ground(study), plan.paper)
    worked = with_order(worked_study(plan, masses=masses, picture=picture, locks=locks))
    assert worked is not None
    return worked
