"""Run by test_reader with the system's own Python: a reader's client library on the real accessibility bus.

It finds the studio on the bus, goes to every station and takes up every instrument by pressing them, and lists what
has no name; then it goes from a photo to a printed sheet by accessible actions alone. It knows nothing of us but
words on the screen.
"""

from __future__ import annotations

import os
import subprocess
import sys
import time
import warnings
from contextlib import suppress
from pathlib import Path

import gi

gi.require_version("Atspi", "2.0")
from gi.repository import Atspi  # noqa: E402

warnings.simplefilter("ignore")
USED = {
    "push button", "check box", "radio button", "toggle button", "combo box", "text", "entry", "spin button", "slider",
    "list", "table", "menu item", "page tab",
}  # fmt: skip
TITLES = ("References", "Viewfinder", "Armature", "Perspective", "Values", "Sheet", "Check", "Logbook")
# What the plan's menu opens, the guide last: it stays open beside the work.
DIALOGS = {"Preferences": "Preferences", "Keys": "Keys", "About": "About", "Guide": "Guide"}
ENDS = ("Close", "Cancel")
PATIENCE_S = 40


def studio(*words: str) -> tuple[subprocess.Popen, Atspi.Accessible]:
    """Start the studio and find it on the bus."""
    told = {**os.environ, "QT_QPA_PLATFORM": "xcb", "QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1"}
    running = subprocess.Popen(words, env=told)
    return running, wait(lambda: next((each for each in children(Atspi.get_desktop(0)) if children(each)), None))


def wait(found, seconds: float = PATIENCE_S):
    """Until something is there, or it has taken too long."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        try:
            there = found()
        except gi.repository.GLib.Error:
            there = None  # it has gone while it was looked at
        if there:
            return there
        time.sleep(0.1)
    raise SystemExit(f"waited in vain for {getattr(found, 'what', 'it')}")


def children(thing: Atspi.Accessible) -> list[Atspi.Accessible]:
    """What is in it."""
    found = (thing.get_child_at_index(k) for k in range(thing.get_child_count()))
    return [each for each in found if each is not None]


def showing(thing: Atspi.Accessible) -> list[Atspi.Accessible]:
    """All that is to be seen in it, if need be by scrolling."""
    if not thing.get_state_set().contains(Atspi.StateType.VISIBLE) and thing.get_role_name() != "application":
        return []
    return [thing, *(each for child in children(thing) for each in showing(child))]


def named(thing: Atspi.Accessible) -> bool:
    """Whether a reader can say what it is; a list's name is the value shown, so that it needs more."""
    labelled = any(each.get_relation_type() == Atspi.RelationType.LABELLED_BY for each in thing.get_relation_set())
    if thing.get_role_name() == "combo box":
        return labelled or bool(thing.get_description())
    return labelled or bool(thing.get_name())


def find(app: Atspi.Accessible, role: str, name: str, patience: float = PATIENCE_S) -> Atspi.Accessible:
    """The thing of a role whose name begins like that."""

    def look():
        return next((t for t in showing(app) if t.get_role_name() == role and t.get_name().startswith(name)), None)

    look.what = f"the {role} “{name}”"
    return wait(look, patience)


def press(thing: Atspi.Accessible) -> None:
    """Do the first of its own actions, as readers do."""
    for k in range(thing.get_n_actions()):
        if thing.get_action_name(k) in ("Press", "Toggle"):
            thing.do_action(k)
            time.sleep(0.15)
            return
    raise SystemExit(f"{thing.get_role_name()} “{thing.get_name()}” cannot be pressed")


def begin(thing: Atspi.Accessible) -> None:
    """Do its first action, which does not end before a menu or a dialog is closed again: nobody waits for that."""
    Atspi.set_timeout(400, 400)
    with suppress(gi.repository.GLib.Error):
        thing.do_action(0)
    Atspi.set_timeout(20_000, 20_000)


def look_into_dialogs(program: str) -> None:
    """Every window that the plan's menu opens: what has no name?"""
    running, app = studio(program, "demo")
    try:
        for name, title in DIALOGS.items():
            known = len(children(app))
            begin(find(app, "push button", "Plan"))
            begin(find(app, "menu item", name))
            opened = wait(lambda title=title: next((c for c in children(app) if c.get_name().startswith(title)), None))
            assert len(children(app)) == known + 1, name
            nameless = [t.get_role_name() for t in showing(opened) if t.get_role_name() in USED and not named(t)]
            if nameless:
                raise SystemExit(f"{title}: without a name: {nameless}")
            ends = [t for t in showing(opened) if t.get_role_name() == "push button" and t.get_name() in ENDS]
            if ends:
                press(ends[0])
                wait(lambda known=known: len(children(app)) == known)
        print("all dialogs looked into")
    finally:
        running.terminate()
        running.wait()


def look_round(program: str, most: int) -> None:
    """Every station of the worked plan, and its first instruments: what has no name?"""
    running, app = studio(program, "demo")
    try:
        time.sleep(1.0)
        nameless, count, places = [], 0, 0
        for title in TITLES:
            number = TITLES.index(title) + 1
            press(find(app, "push button", f"{number} {title}"))
            time.sleep(0.4)
            bench = find(app, "filler", "Instruments")
            for name in [each.get_name() for each in showing(bench) if each.get_role_name() == "check box"][:most]:
                press(find(bench, "check box", name))
                time.sleep(0.25)
                places += 1
                for thing in showing(app):
                    if thing.get_role_name() in USED:
                        count += 1
                        if not named(thing):
                            nameless.append(f"{title}, {name}: {thing.get_role_name()} {thing.get_description()}")
        print(f"looked at {count} controls at {places} places")
        if nameless:
            raise SystemExit("without a name: " + "; ".join(sorted(set(nameless))[:20]))
    finally:
        running.terminate()
        running.wait()


def fill(app: Atspi.Accessible, path: Path) -> None:
    """Type a file's name into the dialog that is open, and accept it."""
    dialog = wait(
        lambda: next((each for each in children(app) if each.get_role_name() in ("dialog", "file chooser")), None)
    )
    line = find(dialog, "text", "File name")
    line.set_text_contents(str(path))
    time.sleep(0.2)
    accept = next(t for t in showing(dialog) if t.get_role_name() == "push button" and t.get_name() in ("Open", "Save"))
    press(accept)


def journey(program: str, photo: Path, target: Path) -> None:
    """From a photo to a printed sheet."""
    running, app = studio(program)
    try:
        press(find(app, "push button", "Choose photos"))
        fill(app, photo)
        wait(lambda: "kept" in find(app, "push button", "2 Viewfinder").get_description())
        press(find(app, "push button", "6 Sheet"))
        press(find(app, "check box", "Print"))
        press(find(app, "push button", "Save as PDF"))
        fill(app, target)
        wait(lambda: target.exists() and target.stat().st_size > 2000)
        print("journey done by accessible actions alone")
    finally:
        running.terminate()
        running.wait()


if __name__ == "__main__":
    Atspi.init()
    Atspi.set_timeout(20_000, 20_000)  # an instrument may take a moment to be made on a busy machine
    what, program, *rest = sys.argv[1:]
    if what == "names":
        look_round(program, int(rest[0]))
    elif what == "dialogs":
        look_into_dialogs(program)
    else:
        journey(program, *map(Path, rest))
