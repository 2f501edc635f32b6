"""The command line: words become values here, and nothing is done; a table of commands says what does it."""

from __future__ import annotations

import argparse
import sys
from dataclasses import dataclass
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, Any, get_args

from mild_compass import __version__
from mild_compass.demo import SCENES
from mild_compass.plan.errors import PlanError
from mild_compass.plan.sheet import SHEET_LAYERS, Pages
from mild_compass.plan.stations import STATION_NAMES

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.craft.sheet.printer import Printer
    from mild_compass.desktop import Described
    from mild_compass.plan.sheet import SheetLayer

PAGE_FORMATS = tuple(name for name in get_args(Pages) if name not in ("one page", "usual"))
WINDOW_PX = ((640, 8000), (480, 8000))


@dataclass(frozen=True, slots=True)
class Command:
    """One row: its name, what it is for, the function below ``commands`` that does it, and its words."""

    name: str
    help: str
    does: str
    words: Callable[[argparse.ArgumentParser], None]

    def run(self, values: dict[str, Any]) -> int:
        """Do it with the values that its words became; what to exit with."""
        room, _, name = self.does.partition(".")
        return getattr(import_module(f"mild_compass.commands.{room}"), name)(**values) or 0


def main(arguments: list[str] | None = None) -> int:
    """Run a command; 0 when it worked, 1 when the work failed, 2 for bad usage."""
    arguments = sys.argv[1:] if arguments is None else arguments
    try:
        if not arguments or (arguments[0] not in BY_NAME and not arguments[0].startswith("-")):
            from mild_compass.commands.windows import open_studio

            return open_studio([Path(name) for name in arguments])
        values = vars(_parser().parse_args(arguments))
        return BY_NAME[values.pop("command")].run(values)
    except PlanError as error:
        print(error, file=sys.stderr)
        return 1
    except BrokenPipeError:
        return 1
    except OSError as error:
        where = f" ({error.filename})" if error.filename else ""
        print(f"The disk does not let it be done: {error.strerror or error}{where}.", file=sys.stderr)
        return 1


def described() -> list[Described]:
    """Every command, for the man page and the shell's completion."""
    from mild_compass.desktop import Described

    found = []
    for each in COMMANDS:
        parser = argparse.ArgumentParser(prog=each.name, add_help=False)
        each.words(parser)
        usage = " ".join(parser.format_usage().removeprefix("usage: ").split())
        options = tuple(flag for action in parser._actions for flag in action.option_strings)
        found.append(Described(each.name, usage, each.help, options))
    return found


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="mild-compass",
        description="Plan a composition before the first mark. With FILE… or nothing it opens the studio.",
    )
    parser.add_argument("--version", action="version", version=__version__)
    commands = parser.add_subparsers(required=True, dest="command", metavar="COMMAND")
    for each in COMMANDS:
        each.words(commands.add_parser(each.name, help=each.help))
    return parser


# -- words that become values ---------------------------------------------------------------------------------


def _numbers(words: str, sign: str, count: int, sentence: str) -> tuple[float, ...]:
    try:
        found = tuple(float(part) for part in words.lower().split(sign))
    except ValueError as error:
        raise PlanError(sentence) from error
    if len(found) != count:
        raise PlanError(sentence)
    return found


def _frame(words: str) -> tuple[float, ...]:
    return _numbers(words, ",", 4, f"“{words}” is not a frame. Give four numbers in photo pixels: X,Y,W,H.")


def _corner(words: str) -> tuple[float, ...]:
    return _numbers(words, ",", 2, "These are not corners. Give four times X,Y in pixels of the upright photo.")


def _size(words: str) -> tuple[int, ...]:
    wide, high = _numbers(words, "x", 2, f"“{words}” is not a size. Give it as 1280x800.")
    if not all(low <= side <= most for side, (low, most) in zip((wide, high), WINDOW_PX, strict=True)):
        raise PlanError(f"A window of {wide:.0f} × {high:.0f} cannot be shown. Give at least 640x480.")
    return int(wide), int(high)


def _printer(words: str) -> Printer:
    from mild_compass.craft.sheet.printer import Printer

    if not words:
        return Printer()
    return Printer(*_numbers(words, "x", 2, f"“{words}” does not say what the bars measure. Give it as 98.7x100."))


def _length_mm(words: str) -> float:
    from mild_compass.craft.sheet_sizes.lengths import parse_length_mm

    return parse_length_mm(words)


def _layers(words: str) -> tuple[SheetLayer, ...]:
    wanted = [part.strip() for part in words.split(",") if part.strip()]
    strange = [part for part in wanted if part not in SHEET_LAYERS]
    if strange:
        raise PlanError(f"There is no layer {strange[0]}. Known are {', '.join(SHEET_LAYERS)}.")
    return tuple(each for part in wanted for each in SHEET_LAYERS if each == part)


def _tiles(words: str) -> str:
    return "one page" if words == "none" else words


# -- the table of commands ------------------------------------------------------------------------------------


def _target(parser: argparse.ArgumentParser, metavar: str) -> None:
    parser.add_argument("-o", dest="output", type=Path, required=True, metavar=metavar)


def _new(new: argparse.ArgumentParser) -> None:
    new.add_argument("photos", nargs="*", type=Path, metavar="PHOTO")
    new.add_argument("--blank", action="store_true", help="begin on a blank sheet")
    _target(new, "PLAN")
    new.add_argument("--sheet", default="A3", help='for instance "A3 across" or "300 x 400 mm"')
    new.add_argument("--margin", dest="margin_mm", type=_length_mm, default="15mm", metavar="LENGTH")
    new.add_argument(
        "--frame", type=_frame, metavar="X,Y,W,H", help="in photo pixels; fitted to the sheet's proportion"
    )


def _readings(readings: argparse.ArgumentParser) -> None:
    readings.add_argument("plan", type=Path, metavar="PLAN")
    readings.add_argument("--station", choices=STATION_NAMES, metavar="NAME")
    readings.add_argument("--json", dest="as_json", action="store_true")


def _sheet(sheet: argparse.ArgumentParser) -> None:
    sheet.add_argument("plan", type=Path, metavar="PLAN")
    _target(sheet, "FILE.pdf")
    sheet.add_argument("--tiles", type=_tiles, choices=(*PAGE_FORMATS, "one page"), metavar="PAGES",
                       help=f"pages to join: {', '.join(PAGE_FORMATS)}, or none for one page")  # fmt: skip
    sheet.add_argument("--mirrored", action="store_true")
    sheet.add_argument("--grid", dest="grid_mm", type=_length_mm, metavar="LENGTH",
                       help="draw a squared grid, for instance 25mm")  # fmt: skip
    sheet.add_argument("--layers", type=_layers, metavar="NAMES",
                       help="comma-separated, for instance: frame, lines, big lines, grid, measures")  # fmt: skip
    sheet.add_argument("--squares", type=int, metavar="N", help="so many squares across instead")
    sheet.add_argument("--overlap", dest="overlap_mm", type=_length_mm, metavar="LENGTH",
                       help="of the pages, for instance 15mm")  # fmt: skip
    sheet.add_argument("--printer", type=_printer, default="", metavar="ACROSSxDOWN",
                       help="what the 100 mm bars measured: 98.7x100")  # fmt: skip
    sheet.add_argument("--photo-print", action="store_true", help="the photo with the grid's squares, not the sheet")


def _export(export: argparse.ArgumentParser) -> None:
    from mild_compass.output.kinds import KINDS

    export.add_argument("plan", type=Path, metavar="PLAN")
    _target(export, f"FILE.{{{','.join(each.suffix[1:] for each in KINDS)}}}")
    export.add_argument("--dpi", type=float, metavar="DPI", help="dots per inch of PNG and OpenRaster")


def _check(check: argparse.ArgumentParser) -> None:
    check.add_argument("plan", type=Path, metavar="PLAN")
    check.add_argument("drawing", type=Path, metavar="DRAWING.jpg")
    check.add_argument("--corners", nargs=4, type=_corner, default=(), metavar="X,Y",
                       help="the sheet's corners in the photo, from its top left clockwise")  # fmt: skip
    check.add_argument("--json", dest="as_json", action="store_true")


def _logbook(logbook: argparse.ArgumentParser) -> None:
    logbook.add_argument("plans", nargs="+", type=Path, metavar="PLAN")
    _target(logbook, "FILE.{md,html,pdf}")


def _search(search: argparse.ArgumentParser) -> None:
    search.add_argument("words", nargs="+", metavar="WORDS")
    search.add_argument("--in", dest="folder", type=Path, metavar="FOLDER", help="only plans in this folder")
    search.add_argument("--json", dest="as_json", action="store_true")


def _brief(brief: argparse.ArgumentParser) -> None:
    brief.add_argument("plan", type=Path, metavar="PLAN")
    _target(brief, "FILE.pdf")


def _card(card: argparse.ArgumentParser) -> None:
    card.add_argument("plan", type=Path, metavar="PLAN")
    _target(card, "FILE.pdf")
    card.add_argument("--opening", dest="opening_mm", type=_length_mm, default="90mm", metavar="LENGTH",
                      help="the longer side of its opening")  # fmt: skip
    card.add_argument("--distance", dest="distance_mm", type=_length_mm, default="400mm", metavar="LENGTH",
                      help="how far from the eye it is held")  # fmt: skip


def _install_desktop(desktop: argparse.ArgumentParser) -> None:
    desktop.add_argument("--remove", action="store_true", help="take all of it away again")
    desktop.set_defaults(commands=described)


def _demo(demo: argparse.ArgumentParser) -> None:
    demo.add_argument("--screenshot", type=Path, metavar="FILE.png")
    demo.add_argument("--station", choices=STATION_NAMES, default="viewfinder", metavar="NAME")
    demo.add_argument("--scene", choices=SCENES, default=SCENES[0], metavar="NAME")
    demo.add_argument("--instrument", default="", metavar="NAME", help="take up an instrument of the station")
    demo.add_argument("--size", type=_size, default="1280x800", metavar="WxH")
    demo.add_argument("--dark", action="store_true", help="dark surroundings")


COMMANDS: tuple[Command, ...] = (
    Command("new", "start a plan from photos, or on a blank sheet", "plans.new", _new),
    Command("readings", "what the plan's numbers say", "plans.readings", _readings),
    Command("sheet", "print the sheet to a PDF at true size", "pages.sheet", _sheet),
    Command("export", "write the sheet, the measures or the logbook in another kind of file", "pages.export", _export),
    Command("check", "what is off in a photo of the drawing", "drawings.check", _check),
    Command("logbook", "write what was decided, done and learned", "logbooks.logbook", _logbook),
    Command("search", "find words in the logbooks of all plans", "logbooks.search", _search),
    Command("brief", "print the take-along page for the easel or outdoors", "pages.brief", _brief),
    Command("card", "print a viewfinder card of the sheet's proportion, to cut", "pages.card", _card),
    Command("install-desktop", "make the desktop know plans and the studio", "windows.install_desktop",
            _install_desktop),
    Command("demo", "open the studio on a plan already worked through", "windows.demo", _demo),
)  # fmt: skip
BY_NAME = {each.name: each for each in COMMANDS}
