"""Installing: desktop entry, file type, AppStream data, man page, completion; and the wheel from an empty folder."""

from __future__ import annotations

import os
import shlex
import shutil
import subprocess
import sys
import zipfile
from argparse import ArgumentParser
from importlib import import_module
from inspect import signature
from pathlib import Path
from xml.etree import ElementTree

import pytest

from mild_compass import desktop
from mild_compass.assets import DESKTOP
from mild_compass.cli import COMMANDS, described, main
from mild_compass.output.kinds import KINDS
from mild_compass.plan import archive
from mild_compass.plan.archive import MIMETYPE
from mild_compass.plan.errors import PlanError

ROOT = Path(__file__).parents[1]


def judged(*command: str | Path) -> str:
    """What a validator says; skipped with a sentence where it is not installed."""
    if shutil.which(str(command[0])) is None:
        pytest.skip(f"{command[0]} is not installed here; on Debian it is in desktop-file-utils, appstream or mandoc")
    done = subprocess.run([str(word) for word in command], capture_output=True, text=True, check=False, timeout=60)
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout + done.stderr


@pytest.fixture
def home(tmp_path, monkeypatch) -> Path:
    """A data folder of one's own, and a program with blanks in its path."""
    program = tmp_path / "my programs" / "mild-compass"
    program.parent.mkdir()
    program.write_text("#!/bin/sh\n")
    monkeypatch.setattr(sys, "argv", [str(program)])
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    return tmp_path / "data"


def test_the_desktop_entry_is_valid_and_starts_the_program_that_runs(home):
    desktop.install(described())
    entry = home / "applications/mild-compass.desktop"
    line = next(line for line in entry.read_text().splitlines() if line.startswith("Exec="))
    assert shlex.split(line[5:]) == [sys.argv[0], "%F"]
    assert MIMETYPE.decode() in entry.read_text()
    judged("desktop-file-validate", entry)


def test_appstream_data_and_man_page_are_valid(home):
    desktop.install(described())
    judged("appstreamcli", "validate", "--no-net", home / "metainfo/mild-compass.metainfo.xml")
    judged("mandoc", "-Tlint", home / "man/man1/mild-compass.1")


def test_the_man_page_and_the_completion_know_every_command(home):
    desktop.install(described())
    page = (home / "man/man1/mild-compass.1").read_text()
    completion = (home / "bash-completion/completions/mild-compass").read_text()
    for command in COMMANDS:
        assert f".It Cm {command.name.replace('-', desktop.DASH)} " in page, command.name
        assert command.name in completion
    for kind in KINDS:
        assert f".It Pa {kind.suffix}\n" in page
    if shutil.which("bash"):
        code = (
            f"source {shlex.quote(str(home / 'bash-completion/completions/mild-compass'))}; "
            "COMP_WORDS=(mild-compass se); COMP_CWORD=1; _mild_compass; echo ${COMPREPLY[@]};"
            "COMP_WORDS=(mild-compass sheet --o); COMP_CWORD=2; _mild_compass; echo ${COMPREPLY[@]}"
        )
        done = subprocess.run(["bash", "-c", code], capture_output=True, text=True, check=True, cwd=home)
        assert done.stdout.split() == ["search", "--overlap"]


@pytest.mark.parametrize("command", COMMANDS, ids=lambda each: each.name)
def test_every_command_has_a_function_that_takes_what_its_words_become(command):
    room, _, name = command.does.partition(".")
    asked = signature(getattr(import_module(f"mild_compass.commands.{room}"), name)).parameters
    parser = ArgumentParser()
    command.words(parser)
    given = {action.dest for action in parser._actions} - {"help"} | set(parser._defaults)
    assert given == set(asked)


def test_the_file_type_recognises_a_plan_by_name_and_by_its_first_bytes(home, plan, photos, tmp_path):
    desktop.install(described())
    tree = ElementTree.parse(home / "mime/packages/mild-compass.xml")
    space = {"m": "http://www.freedesktop.org/standards/shared-mime-info"}
    kind = tree.find("m:mime-type", space)
    assert kind.get("type") == MIMETYPE.decode()
    assert kind.find("m:glob", space).get("pattern") == "*.mildplan"
    match = kind.find("m:magic/m:match", space)
    archive.write(tmp_path / "a.mildplan", plan, photos, None)
    data = (tmp_path / "a.mildplan").read_bytes()
    at = int(match.get("offset"))
    assert data[at:].startswith(match.get("value").encode())


def test_what_was_installed_is_removed_and_nothing_else(home, capsys):
    other = home / "applications/other.desktop"
    other.parent.mkdir(parents=True)
    other.write_text("[Desktop Entry]\n")
    assert main(["install-desktop"]) == 0
    assert capsys.readouterr().out.count("Wrote") == 6
    assert (home / "icons/hicolor/scalable/apps/mild-compass.svg").read_text().startswith("<svg")
    assert main(["install-desktop", "--remove"]) == 0
    left = [path for path in home.rglob("*") if path.is_file() and "mild-compass" in path.name]
    assert left == []
    assert other.exists()
    capsys.readouterr()
    assert main(["install-desktop", "--remove"]) == 0
    assert "nothing to remove" in capsys.readouterr().out


def test_a_program_that_cannot_be_found_is_told(monkeypatch, tmp_path):
    monkeypatch.setattr(sys, "argv", ["pytest"])
    monkeypatch.setattr(sys, "executable", str(tmp_path / "python"))
    monkeypatch.setenv("PATH", str(tmp_path))
    with pytest.raises(PlanError, match="Install it first"):
        desktop.executable()


@pytest.mark.parametrize("folder", ["plain", "a b", "100% $ure\\`", 'q"uote'])
def test_the_path_is_quoted_as_the_specification_wants(folder):
    """Desktop Entry Specification 1.5, the Exec key: quoted as for a shell, then escaped as a string, and %% for %."""
    path = Path("/") / folder / "mild-compass"
    quoted = desktop._quoted(path)
    if quoted.startswith('"'):
        quoted = quoted.replace("\\\\", "\\")  # the escapes of a string come off first
    done = subprocess.run(["sh", "-c", f"printf %s {quoted}"], capture_output=True, text=True, check=True)
    assert done.stdout.replace("%%", "%") == str(path)


def test_the_wheel_carries_everything_and_works_from_an_empty_folder(tmp_path):
    build = subprocess.run(
        [sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps", "--no-build-isolation", "-w", tmp_path, ROOT],
        capture_output=True, text=True, check=False, timeout=240,
    )  # fmt: skip
    assert build.returncode == 0, build.stderr
    wheel = next(tmp_path.glob("*.whl"))
    with zipfile.ZipFile(wheel) as packed:
        names = set(packed.namelist())
        packed.extractall(tmp_path / "site")
    for path in [*DESKTOP.iterdir(), *(ROOT / "src/mild_compass/assets").rglob("*.svg")]:
        assert str(path.relative_to(ROOT / "src")) in names
    assert any(name.endswith("OpenSans-Regular.ttf") for name in names)
    assert sum(name.endswith(".jpg") for name in names) >= 12
    empty = tmp_path / "empty"
    empty.mkdir()
    environment = {
        **os.environ, "PYTHONPATH": str(tmp_path / "site"), "QT_QPA_PLATFORM": "offscreen", "HOME": str(empty),
        **{f"XDG_{kind}_HOME": str(empty / kind) for kind in ("CONFIG", "STATE", "DATA", "CACHE")},
    }  # fmt: skip

    def run(*words: str) -> str:
        done = subprocess.run(
            [sys.executable, "-P", *words], cwd=empty, env=environment, capture_output=True, text=True, check=False,
            timeout=120,
        )  # fmt: skip
        assert done.returncode == 0, done.stderr
        return done.stdout

    assert str(tmp_path / "site") in run("-c", "import mild_compass; print(mild_compass.__file__)")
    run("-m", "mild_compass", "new", "--blank", "-o", "bare.mildplan")
    assert "Viewfinder" in run("-m", "mild_compass", "readings", "bare.mildplan")
    run("-m", "mild_compass", "demo", "--scene", "lantern-bench", "--screenshot", "shot.png", "--station", "references")
    assert (empty / "shot.png").stat().st_size > 50_000
