"""The one table of commands: menus, tooltips, keys and the page of keys are made from it."""

from __future__ import annotations

from mild_compass.craft.stations import STATIONS
from mild_compass.studio.commands import studies
from mild_compass.studio.commands.command import Command, Facts, has_study
from mild_compass.studio.words import Hold

PLAN_MENU = (
    *("new", "open", "save", "save as", ""),
    *(
        "add photos",
        "add folder",
        "paste",
        "blank sheet",
        "",
        "copy",
        "copy readings",
        "",
        "print",
        "pdf",
        "logbook",
        "easel",
        "",
    ),
    *("rename plan", "preferences", "guide", "keys", "about", "", "quit"),
)
STUDY_MENU = ("keep study", "rename study", "delete study")

HOLDS: tuple[tuple[Hold, str, str, str], ...] = (
    ("squint", "Q", "squint", "Blurs the picture as a squint does"),
    ("values", "W", "values only", "Light and dark only"),
    ("mirror", "E", "mirror", "Left and right changed over"),
    ("step back", "R", "step back", "As it looks from three metres"),
)
# Keys that belong to the board, to be told with the others.
BOARD_KEYS: tuple[tuple[str, str], ...] = (
    ("Space and drag", "move the paper"),
    ("wheel", "zoom at the pointer"),
    ("arrows", "nudge 1 mm; with Shift 10 mm, with Ctrl 0.1 mm"),
    ("Enter", "type a value for the mark in hand"),
    ("Delete", "remove the chosen mark"),
)


def _undo(facts: Facts) -> str:
    return f"Undo {facts.undo}" if facts.undo else "Undo"


def _redo(facts: Facts) -> str:
    return f"Redo {facts.redo}" if facts.redo else "Redo"


def _can_undo(facts: Facts) -> bool:
    return facts.undo is not None


def _can_redo(facts: Facts) -> bool:
    return facts.redo is not None


def _several(facts: Facts) -> bool:
    return facts.studies > 1


def _station(name: str, number: int, title: str) -> Command:
    return Command(f"station {name}", f"Go to {title}", lambda to: to.go_to(name), str(number), plain=True)


def _step(step: int) -> Command:
    which, key = ("next", "]") if step > 0 else ("previous", "[")
    return Command(
        f"{which} study",
        f"Go to the {which} study",
        lambda to: studies.step_study(to, step),
        key,
        plain=True,
        usable=_several,
    )


def _zoom(name: str, key: str, factor: float) -> Command:
    return Command(name, name.capitalize(), lambda to: to.zoom(factor), key, plain=True, usable=has_study)


COMMANDS: tuple[Command, ...] = (
    Command("new", "New plan", lambda to: to.files.plans.new(), "Ctrl+N"),
    Command("open", "Open…", lambda to: to.files.plans.choose(), "Ctrl+O"),
    Command("save", "Save", lambda to: to.files.plans.save(), "Ctrl+S"),
    Command("save as", "Save as…", lambda to: to.files.plans.save_as(), "Ctrl+Shift+S"),
    Command("add photos", "Add photos…", lambda to: to.files.photos.choose(), "Ctrl+Shift+A"),
    Command("add folder", "Add a folder of photos…", lambda to: to.files.photos.choose_folder()),
    Command("copy", "Copy the picture or table", lambda to: to.copy(), "Ctrl+C"),
    Command("copy readings", "Copy the readings", lambda to: to.copy_readings(), "Ctrl+Shift+C"),
    Command("paste", "Paste a photo", lambda to: to.paste(), "Ctrl+V"),
    Command("blank sheet", "Begin with a blank sheet", studies.blank_sheet),
    Command("print", "Print the sheet…", lambda to: to.files.printing.print_sheet(), "Ctrl+P", usable=has_study),
    Command(
        "pdf", "Save the sheet as PDF…", lambda to: to.files.exports.choose_sheet(), "Ctrl+Shift+P", usable=has_study
    ),
    Command("logbook", "Save the logbook as text…", lambda to: to.files.exports.choose_logbook()),
    Command("easel", "Go to the easel", lambda to: to.go_to_easel(), "Ctrl+E", usable=has_study),
    Command("rename plan", "Rename the plan…", studies.rename_plan),
    Command("preferences", "Preferences…", lambda to: to.show_dialog("preferences"), "Ctrl+,"),
    Command("guide", "Guide", lambda to: to.open_guide(), "F1"),
    Command("keys", "Keys", lambda to: to.show_dialog("keys"), "Shift+F1"),
    Command("about", "About Mild Compass", lambda to: to.show_dialog("about")),
    Command("quit", "Quit", lambda to: to.close(), "Ctrl+Q"),
    Command("undo", "Undo", lambda to: to.session.undo(), "Ctrl+Z", icon="undo", usable=_can_undo, now=_undo),
    Command(
        "redo",
        "Redo",
        lambda to: to.session.redo(),
        "Ctrl+Shift+Z",
        icon="redo",
        usable=_can_redo,
        now=_redo,
    ),
    Command("keep study", "Keep this study, go on with a copy", studies.keep_study, "K", plain=True, usable=has_study),
    Command("rename study", "Rename this study…", studies.rename_study, usable=has_study),
    Command("delete study", "Delete this study", studies.delete_study, usable=_several),
    _step(-1),
    _step(1),
    Command("fold", "Fold the side columns away, or back", lambda to: to.fold(), "B", plain=True),
    Command("fit", "Show all of it", lambda to: to.fit(), "F", plain=True),
    _zoom("zoom in", "+", 1.25),
    _zoom("zoom out", "-", 0.8),
    Command("note", "Write a note for the logbook", lambda to: to.write_note(), "N", plain=True),
    Command("escape", "Drop what is held, end the instrument", lambda to: to.escape(), "Esc", plain=True),
    Command("go round", "Go round the five regions of the window", lambda to: to.go_round(1), "F6", plain=True),
    Command("go back round", "The same, the other way", lambda to: to.go_round(-1), "Shift+F6", plain=True),
    *(_station(each.name, number, each.title) for number, each in enumerate(STATIONS, 1)),
)


def command(name: str) -> Command:
    """The command of this name."""
    return next(each for each in COMMANDS if each.name == name)


def tip(name: str) -> str:
    """What a button of this command says: its words and its key."""
    each = command(name)
    return f"{each.words} ({each.keys})" if each.keys else each.words
