"""The command line: opens the studio, or works without a window."""

from __future__ import annotations

import argparse
import json
import os
import sys
import tempfile
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any, get_args

from mild_compass import __version__
from mild_compass.demo import SCENES
from mild_compass.plan.errors import PlanError
from mild_compass.plan.identity import with_id
from mild_compass.plan.model import STATION_NAMES, Frame, Plan, Reference, StationName
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.sheet import Pages
from mild_compass.plan.texts import clean_name
from mild_compass.plan.times import now

if TYPE_CHECKING:
    from mild_compass.craft.sheet.printer import Printer

PAGE_FORMATS = tuple(name for name in get_args(Pages) if name not in ("one page", "usual"))
SMALL_PX = 320
COMMANDS = (
    "new",
    "readings",
    "sheet",
    "export",
    "check",
    "logbook",
    "search",
    "brief",
    "card",
    "install-desktop",
    "demo",
)
NO_SCREEN = (
    "There is no screen here to open a window on. Run it on a desktop, or on a virtual screen with\n"
    "    xvfb-run -a .venv/bin/mild-compass demo\n"
    "or save a picture of the window with\n"
    "    .venv/bin/mild-compass demo --screenshot picture.png --station viewfinder --size 1280x800"
)


def main(arguments: list[str] | None = None) -> int:
    """Run a command; 0 when it worked, 1 when the work failed, 2 for bad usage."""
    arguments = sys.argv[1:] if arguments is None else arguments
    try:
        if not arguments or (arguments[0] not in COMMANDS and not arguments[0].startswith("-")):
            return _open_studio([Path(name) for name in arguments])
        options = _parser().parse_args(arguments)
        return int(options.run(options))
    except PlanError as error:
        print(error, file=sys.stderr)
        return 1
    except BrokenPipeError:
        return 1
    except OSError as error:
        where = f" ({error.filename})" if error.filename else ""
        print(f"The disk does not let it be done: {error.strerror or error}{where}.", file=sys.stderr)
        return 1


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="mild-compass",
        description="Plan a composition before the first mark. With FILE… or nothing it opens the studio.",
    )
    parser.add_argument("--version", action="version", version=__version__)
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    _new_command(commands)
    _readings_command(commands)
    _sheet_command(commands)
    _export_command(commands)
    _check_command(commands)
    _logbook_command(commands)
    _search_command(commands)
    _brief_command(commands)
    _card_command(commands)
    _desktop_command(commands)
    _demo_command(commands)
    return parser


def _new_command(commands: Any) -> None:
    new = commands.add_parser("new", help="start a plan from photos, or on a blank sheet")
    new.add_argument("photos", nargs="*", type=Path, metavar="PHOTO")
    new.add_argument("--blank", action="store_true", help="begin on a blank sheet")
    new.add_argument("-o", dest="output", type=Path, required=True, metavar="PLAN")
    new.add_argument("--sheet", default="A3", help='for instance "A3 across" or "300 x 400 mm"')
    new.add_argument("--margin", default="15mm")
    new.add_argument("--frame", metavar="X,Y,W,H", help="in photo pixels; fitted to the sheet's proportion")
    new.set_defaults(run=_new)


def _readings_command(commands: Any) -> None:
    readings = commands.add_parser("readings", help="what the plan's numbers say")
    readings.add_argument("plan", type=Path)
    readings.add_argument("--station", choices=STATION_NAMES)
    readings.add_argument("--json", action="store_true")
    readings.set_defaults(run=_readings)


def _sheet_command(commands: Any) -> None:
    sheet = commands.add_parser("sheet", help="print the sheet to a PDF at true size")
    sheet.add_argument("plan", type=Path)
    sheet.add_argument("-o", dest="output", type=Path, required=True, metavar="FILE.pdf")
    sheet.add_argument("--tiles", choices=(*PAGE_FORMATS, "none"), help="pages to join, or none for one page")
    sheet.add_argument("--mirrored", action="store_true")
    sheet.add_argument("--grid", metavar="LENGTH", help="draw a squared grid, for instance 25mm")
    sheet.add_argument("--layers", help="comma-separated, for instance: frame, lines, big lines, grid, measures")
    sheet.add_argument("--squares", type=int, metavar="N", help="so many squares across instead")
    sheet.add_argument("--overlap", metavar="LENGTH", help="of the pages, for instance 15mm")
    sheet.add_argument("--printer", default="", metavar="ACROSSxDOWN", help="what the 100 mm bars measured: 98.7x100")
    sheet.add_argument("--photo-print", action="store_true", help="the photo with the grid's squares, not the sheet")
    sheet.set_defaults(run=_sheet)


def _export_command(commands: Any) -> None:
    export = commands.add_parser("export", help="write the sheet in another kind of file")
    export.add_argument("plan", type=Path)
    export.add_argument("-o", dest="output", type=Path, required=True, metavar="FILE.{pdf,svg,dxf,png,ora,csv,md}")
    export.add_argument("--dpi", type=float, help="dots per inch of PNG and OpenRaster")
    export.set_defaults(run=_export)


def _check_command(commands: Any) -> None:
    check = commands.add_parser("check", help="what is off in a photo of the drawing")
    check.add_argument("plan", type=Path)
    check.add_argument("drawing", type=Path, metavar="DRAWING.jpg")
    check.add_argument(
        "--corners", nargs=4, metavar="X,Y", help="the sheet's corners in the photo, from its top left clockwise"
    )
    check.add_argument("--json", action="store_true")
    check.set_defaults(run=_check)


def _logbook_command(commands: Any) -> None:
    logbook = commands.add_parser("logbook", help="write what was decided, done and learned")
    logbook.add_argument("plans", nargs="+", type=Path, metavar="PLAN")
    logbook.add_argument("-o", dest="output", type=Path, required=True, metavar="FILE.{md,html,pdf}")
    logbook.set_defaults(run=_logbook)


def _search_command(commands: Any) -> None:
    search = commands.add_parser("search", help="find words in the logbooks of all plans")
    search.add_argument("words", nargs="+", metavar="WORDS")
    search.add_argument("--in", dest="folder", type=Path, metavar="FOLDER", help="only plans in this folder")
    search.add_argument("--json", action="store_true")
    search.set_defaults(run=_search)


def _brief_command(commands: Any) -> None:
    brief = commands.add_parser("brief", help="print the take-along page for the easel or outdoors")
    brief.add_argument("plan", type=Path)
    brief.add_argument("-o", dest="output", type=Path, required=True, metavar="FILE.pdf")
    brief.set_defaults(run=_brief)


def _card_command(commands: Any) -> None:
    card = commands.add_parser("card", help="print a viewfinder card of the sheet's proportion, to cut")
    card.add_argument("plan", type=Path)
    card.add_argument("-o", dest="output", type=Path, required=True, metavar="FILE.pdf")
    card.add_argument("--opening", default="90mm", metavar="LENGTH", help="the longer side of its opening")
    card.add_argument("--distance", default="400mm", metavar="LENGTH", help="how far from the eye it is held")
    card.set_defaults(run=_card)


def _desktop_command(commands: Any) -> None:
    desktop = commands.add_parser("install-desktop", help="make the desktop know plans and the studio")
    desktop.add_argument("--remove", action="store_true", help="take all of it away again")
    desktop.set_defaults(run=_install_desktop)


def _demo_command(commands: Any) -> None:
    demo = commands.add_parser("demo", help="open the studio on the demo plan")
    demo.add_argument("--screenshot", type=Path, metavar="FILE.png")
    demo.add_argument("--station", choices=STATION_NAMES, default="viewfinder")
    demo.add_argument("--scene", choices=SCENES, default=SCENES[0])
    demo.add_argument("--instrument", default="", metavar="NAME", help="take up an instrument of the station")
    demo.add_argument("--size", default="1280x800", metavar="WxH")
    demo.add_argument("--dark", action="store_true", help="dark surroundings")
    demo.set_defaults(run=_demo)


def _new(options: argparse.Namespace) -> int:
    from mild_compass.craft.picture.load import read_file, read_proxy
    from mild_compass.craft.sheet_sizes.lengths import parse_length_mm
    from mild_compass.craft.sheet_sizes.papers import parse_paper
    from mild_compass.plan import archive
    from mild_compass.plan.edits.references import add_reference, begin_blank
    from mild_compass.plan.edits.viewfinder import choose_paper

    if not (options.photos or options.blank):
        raise PlanError("There is nothing to begin with. Name photos, or begin on bare paper with --blank.")
    with tempfile.TemporaryDirectory() as folder:
        photos = PhotoFolder(Path(folder))
        plan = Plan(name=clean_name(options.output.stem))
        time = now()
        plan = choose_paper(parse_paper(options.sheet, parse_length_mm(options.margin))).apply(plan, time)
        for number, path in enumerate(options.photos, 1):
            data, name = read_file(path), clean_name(path.name)
            picture = read_proxy(data, name, SMALL_PX)  # one that breaks off is refused here
            size = (picture.width_px, picture.height_px)
            reference = Reference(f"photo-{number}", name, photos.add(data, name), *size, focal_35mm=picture.focal_35mm)
            plan = add_reference(reference).apply(plan, time)
        if options.blank:
            plan = begin_blank().apply(plan, time)
        if options.frame:
            plan = _with_frame(plan, options.frame, time)
        archive.write(options.output, with_id(plan), photos, _preview(plan, photos))
    return 0


def _with_frame(plan: Plan, words: str, time: str) -> Plan:
    from mild_compass.plan.edits.viewfinder import move_frame
    from mild_compass.plan.framing import fitted

    try:
        x, y, width, height = (float(part) for part in words.split(","))
    except ValueError as error:
        raise PlanError(f"“{words}” is not a frame. Give four numbers in photo pixels: X,Y,W,H.") from error
    assert plan.study is not None
    frame = fitted(Frame(x, y, width, height), plan.ground(plan.study), plan.paper)
    return move_frame(frame).apply(plan, time)


def _preview(plan: Plan, photos: PhotoFolder) -> bytes | None:
    from mild_compass.craft.picture.study_picture import study_picture
    from mild_compass.output.raster import preview_png

    if plan.study is None or not plan.has_picture(plan.study):
        return None
    return preview_png(study_picture(plan, plan.study, photos), plan.study.frame, plan.paper)


def _readings(options: argparse.Namespace) -> int:
    from mild_compass.craft.armature.report import lock_report
    from mild_compass.craft.picture.study_picture import study_picture
    from mild_compass.craft.stations import STATIONS, readings_of
    from mild_compass.craft.values.masses import study_masses
    from mild_compass.craft.work.working_order import with_order
    from mild_compass.craft.worked import worked_study
    from mild_compass.plan import archive

    chosen = [each for each in STATIONS if options.station in (None, each.name)]
    with tempfile.TemporaryDirectory() as folder:
        photos = PhotoFolder(Path(folder))
        plan = archive.read(options.plan, photos)
        study = plan.study
        if study is None:
            raise PlanError(f"{options.plan.name} holds no study yet, so there is nothing to read off it.")
        has_picture = plan.has_picture(study)
        picture = study_picture(plan, study, photos) if has_picture else None
        masses = None
        if picture is not None and any(each.needs_masses for each in chosen):
            masses = study_masses(picture, study, plan.paper)
    locks = lock_report(study, plan.ground(study), plan.paper)
    worked = with_order(worked_study(plan, masses, picture=picture, locks=locks))
    assert worked is not None
    found = {each.name: readings_of(each.name, worked) for each in chosen}
    if options.json:
        print(json.dumps({name: [each.as_json() for each in rows] for name, rows in found.items()}, indent=1))
        return 0
    for each in chosen:
        print(each.title)
        if each.without_photo and not has_picture:
            print(f"  {each.without_photo}")
        for reading in found[each.name]:
            print(f"  {reading.verdict:5} {reading.text}")
    return 0


def _sheet(options: argparse.Namespace) -> int:
    from mild_compass.craft.sheet.printer import OutputSettings
    from mild_compass.craft.sheet_sizes.lands import page_of_locale
    from mild_compass.craft.sheet_sizes.lengths import parse_length_mm
    from mild_compass.output.print_sheet import photo_print, print_sheet
    from mild_compass.plan import archive
    from mild_compass.plan.atomic import write_bytes_atomically
    from mild_compass.plan.edits.sheet import change_sheet
    from mild_compass.plan.sheet import SheetLayer

    with tempfile.TemporaryDirectory() as folder:
        photos = PhotoFolder(Path(folder))
        plan = archive.read(options.plan, photos)
        if plan.study is None:
            raise PlanError(f"{options.plan.name} holds no study yet, so there is nothing to print.")
        settings = plan.study.sheet
        if options.tiles:
            settings = replace(settings, pages="one page" if options.tiles == "none" else options.tiles)
        if options.layers is not None:
            wanted = tuple(part.strip() for part in options.layers.split(",") if part.strip())
            strange = [part for part in wanted if part not in get_args(SheetLayer)]
            if strange:
                raise PlanError(f"There is no layer {strange[0]}. Known are {', '.join(get_args(SheetLayer))}.")
            settings = replace(settings, layers=wanted)
        if options.grid or options.squares:
            layers = settings.layers if "grid" in settings.layers else (*settings.layers, "grid")
            spacing = parse_length_mm(options.grid) if options.grid else settings.grid_mm
            settings = replace(settings, grid_mm=spacing, grid_count=options.squares or 0, layers=layers)
        if options.overlap:
            settings = replace(settings, overlap_mm=parse_length_mm(options.overlap))
        settings = replace(settings, mirrored=settings.mirrored or options.mirrored)
        plan = change_sheet(settings).apply(plan, now())
        output = OutputSettings(_printer(options.printer), page=page_of_locale())
        pdf = photo_print(plan, photos, output) if options.photo_print else print_sheet(plan, photos, None, output)
    write_bytes_atomically(options.output, pdf)
    return 0


def _printer(words: str) -> Printer:
    from mild_compass.craft.sheet.printer import Printer

    if not words:
        return Printer()
    try:
        across, down = (float(part) for part in words.lower().split("x"))
    except ValueError as error:
        raise PlanError(f"“{words}” does not say what the bars measure. Give it as 98.7x100.") from error
    return Printer(across, down)


def _export(options: argparse.Namespace) -> int:
    from mild_compass.craft.sheet.printer import OutputSettings
    from mild_compass.craft.sheet_sizes.lands import page_of_locale
    from mild_compass.output.kinds import WRITERS
    from mild_compass.plan import archive
    from mild_compass.plan.atomic import write_bytes_atomically
    from mild_compass.plan.edits.sheet import change_sheet

    writer = WRITERS.get(options.output.suffix.lower())
    if writer is None:
        known = ", ".join(WRITERS)
        raise PlanError(f"“{options.output.name}” is of a kind that cannot be written. Known are {known}.")
    with tempfile.TemporaryDirectory() as folder:
        photos = PhotoFolder(Path(folder))
        plan = archive.read(options.plan, photos)
        if options.dpi is not None and plan.study is not None:
            plan = change_sheet(replace(plan.study.sheet, png_dpi=options.dpi)).apply(plan, now())
        data = writer(plan, photos, None, OutputSettings(page=page_of_locale()))
    write_bytes_atomically(options.output, data)
    return 0


def _check(options: argparse.Namespace) -> int:
    from mild_compass.output.check_report import check_photo

    with tempfile.TemporaryDirectory() as folder:
        photos = PhotoFolder(Path(folder))
        checked, words = check_photo(options.plan, options.drawing, photos, _corners(options.corners))
    print(json.dumps(checked.as_json(), indent=1) if options.json else "\n".join(words))
    return 0


def _corners(words: list[str] | None) -> tuple[tuple[float, float], ...]:
    if words is None:
        return ()
    try:
        return tuple((float(x), float(y)) for x, y in (word.split(",") for word in words))
    except ValueError as error:
        raise PlanError("These are not corners. Give four times X,Y in pixels of the upright photo.") from error


def _logbook(options: argparse.Namespace) -> int:
    from mild_compass.output.document import Block, writer_of
    from mild_compass.output.logbook_document import logbook_blocks, worked_out
    from mild_compass.plan import archive
    from mild_compass.plan.atomic import write_bytes_atomically

    suffix = options.output.suffix.lower()
    writer = writer_of(suffix)
    if writer is None:
        raise PlanError(f"“{options.output.name}” is of a kind that cannot be written. Known are .md, .html, .pdf.")
    blocks: list[Block] = []
    title = f"{len(options.plans)} plans"
    for path in options.plans:
        with tempfile.TemporaryDirectory() as folder:
            photos = PhotoFolder(Path(folder))
            plan = archive.read(path, photos)
            title = plan.name if len(options.plans) == 1 else title
            blocks += logbook_blocks(plan, worked_out(plan, photos), photos, pictures=suffix != ".md")
    write_bytes_atomically(options.output, writer(title, blocks))
    return 0


def _search(options: argparse.Namespace) -> int:
    from mild_compass.memory.folders import index_file
    from mild_compass.memory.plan_index import PlanIndex
    from mild_compass.studio.settings.preferences import load

    named = [Path(name) for name in load().plan_folders]
    folders = [options.folder] if options.folder else named
    if not folders:
        raise PlanError("No folder of plans is named. Name one with --in FOLDER, or in the logbook of the studio.")
    missing = next((each for each in folders if not each.is_dir()), None)
    if missing is not None:
        raise PlanError(f"There is no folder {missing}.")
    index = PlanIndex(index_file())
    for problem in index.renew(list(dict.fromkeys([*named, *folders]))).problems:
        print(problem, file=sys.stderr)
    found = index.search(" ".join(options.words), folders)
    if options.json:
        print(json.dumps([each.as_json() for each in found], indent=1, ensure_ascii=False))
    for each in found if not options.json else ():
        print(f"{each.plan}, {each.time[:10]}, {each.station}: {each.text}")
    return 0


def _brief(options: argparse.Namespace) -> int:
    from mild_compass.output.brief_pdf import brief_pdf
    from mild_compass.output.logbook_document import worked_out
    from mild_compass.plan import archive
    from mild_compass.plan.atomic import write_bytes_atomically

    with tempfile.TemporaryDirectory() as folder:
        photos = PhotoFolder(Path(folder))
        worked = worked_out(archive.read(options.plan, photos), photos)
        if worked is None:
            raise PlanError(f"{options.plan.name} holds no study yet, so there is nothing to take along.")
        write_bytes_atomically(options.output, brief_pdf(worked))
    return 0


def _card(options: argparse.Namespace) -> int:
    from mild_compass.craft.sheet_sizes.lengths import parse_length_mm
    from mild_compass.output.card_pdf import card_pdf
    from mild_compass.plan import archive
    from mild_compass.plan.atomic import write_bytes_atomically

    lengths = (parse_length_mm(options.opening), parse_length_mm(options.distance))
    write_bytes_atomically(options.output, card_pdf(archive.read_plan(options.plan), *lengths))
    return 0


def _install_desktop(options: argparse.Namespace) -> int:
    from mild_compass import desktop

    files = desktop.remove() if options.remove else desktop.install(COMMANDS)
    for file in files:
        print(f"{'Removed' if options.remove else 'Wrote'} {file}")
    if not files:
        print("There was nothing to remove.")
    return 0


def _demo(options: argparse.Namespace) -> int:
    station: StationName = options.station
    if options.screenshot is None:
        if not _has_screen():
            raise PlanError(NO_SCREEN)
        from mild_compass.studio.application import run_demo

        return run_demo(station, options.scene)
    try:
        width, height = (int(part) for part in options.size.lower().split("x"))
    except ValueError as error:
        raise PlanError(f"“{options.size}” is not a size. Give it as 1280x800.") from error
    if not (640 <= width <= 8000 and 480 <= height <= 8000):
        raise PlanError(f"A window of {width} × {height} cannot be shown. Give at least 640x480.")
    if not _has_screen():
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from mild_compass.studio.screenshot import save_screenshot

    return save_screenshot(options.screenshot, station, width, height, options.dark, options.instrument, options.scene)


def _open_studio(files: list[Path]) -> int:
    if not _has_screen():
        raise PlanError(NO_SCREEN)
    from mild_compass.studio.application import run_studio

    return run_studio(files)


def _has_screen() -> bool:
    return any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"))
