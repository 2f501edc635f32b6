"""Archive and package tried in a bare Debian, without Python: started, pictured, timed, installed and removed."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from tools.bundle.places import APP, ARCHIVE, BUILD, PACKAGE

BARE = BUILD / "bare"
SCREEN, SIZE = 77, (1280, 800)
PATIENCE_S = 60
PICTURES = BUILD / "pictures"


def check() -> None:
    """The archive, and the package if it has been made; ends with an error where something is not as it must be."""
    if os.geteuid() != 0 or shutil.which("debootstrap") is None or shutil.which("Xvfb") is None:
        sys.exit("The check needs root, debootstrap and Xvfb: apt-get install debootstrap xvfb")
    if not (BARE / "etc").exists():
        subprocess.run(["debootstrap", "--variant=minbase", "bookworm", BARE], check=True, stdout=subprocess.DEVNULL)
    if _inside("sh", "-c", "command -v python3 pip").returncode == 0:
        sys.exit("This system is not bare: there is a Python in it.")
    PICTURES.mkdir(exist_ok=True)
    home = BARE / "srv"
    shutil.rmtree(home / APP, ignore_errors=True)
    subprocess.run(["tar", "-C", home, "-xf", ARCHIVE], check=True)
    _try_program(f"/srv/{APP}/{APP}", "archive")
    shutil.rmtree(home / APP)
    if PACKAGE.exists():
        _try_package()


def _try_package() -> None:
    before = _files()
    shutil.copy(PACKAGE, BARE / "tmp" / PACKAGE.name)
    _must(_inside("dpkg", "-i", f"/tmp/{PACKAGE.name}"))
    _try_program(f"/usr/bin/{APP}", "package")
    _must(_inside("dpkg", "-P", APP))
    left = {name for name in _files() - before if not name.startswith(("var/lib/dpkg", "var/log", "var/cache", "tmp"))}
    if left:
        sys.exit(f"Removing the package leaves {sorted(left)[:5]} behind.")
    print("the package installs and is removed without a trace")


def _try_program(program: str, name: str) -> None:
    told = _must(_inside(program, "--version"))
    plan = "/tmp/first.mildplan"
    _must(_inside(program, "new", "--blank", "-o", plan))
    _must(_inside(program, "sheet", plan, "-o", "/tmp/first.pdf"))
    with _screen() as picture:
        first = _shown(program, picture, PICTURES / f"{name}-first.png")
        second = _shown(program, picture, PICTURES / f"{name}.png")
    print(f"{name}: {told.strip()}; demo on the screen after {first:.1f} s, a second time {second:.1f} s")


def _shown(program: str, picture: Path, target: Path) -> float:
    """Start the studio with the demo, wait until something is to be seen, and take a picture: the seconds it took."""
    command = ["chroot", str(BARE), "env", f"DISPLAY=:{SCREEN}", "HOME=/tmp", "XDG_RUNTIME_DIR=/tmp", program, "demo"]
    begun = time.monotonic()
    with subprocess.Popen(command, stderr=subprocess.PIPE, text=True) as studio:
        try:
            while _tones(picture) < MANY_TONES:
                if studio.poll() is not None:
                    sys.exit(f"{program} ended by itself: {studio.stderr.read() if studio.stderr else ''}")
                if time.monotonic() - begun > PATIENCE_S:
                    sys.exit(f"{program} shows nothing after {PATIENCE_S} s.")
                time.sleep(0.05)
            took = time.monotonic() - begun
            time.sleep(4)
            _image(picture).save(target)
        finally:
            studio.terminate()
    time.sleep(1)
    return took


MANY_TONES = 40


def _tones(picture: Path) -> int:
    try:
        return len(set(_image(picture).convert("L").resize((160, 100)).getdata()))
    except (OSError, ValueError):
        return 0


def _image(picture: Path):  # type: ignore[no-untyped-def]
    """The screen as Xvfb keeps it: a dump in the format of xwd (X11 sources, XWDFile.h), 32 bits to a pixel."""
    from PIL import Image

    data = picture.read_bytes()
    head, colours = int.from_bytes(data[:4], "big"), int.from_bytes(data[76:80], "big")
    width, height, stride = (int.from_bytes(data[k : k + 4], "big") for k in (16, 20, 48))
    return Image.frombuffer("RGB", (width, height), data[head + 12 * colours :], "raw", "BGRX", stride, 1)


@contextmanager
def _screen() -> Iterator[Path]:
    """A virtual screen, and the file that holds what is on it."""
    folder = BUILD / "screen"
    folder.mkdir(exist_ok=True)
    wide, high = SIZE
    command = ["Xvfb", f":{SCREEN}", "-screen", "0", f"{wide}x{high}x24", "-fbdir", str(folder), "-nolisten", "tcp"]
    with subprocess.Popen(command, stderr=subprocess.DEVNULL) as server:
        time.sleep(1.0)
        try:
            yield folder / "Xvfb_screen0"
        finally:
            server.terminate()


def _inside(*words: str) -> subprocess.CompletedProcess[str]:
    """Run something in the bare system."""
    told = {"PATH": "/usr/sbin:/usr/bin:/sbin:/bin", "HOME": "/tmp", "QT_QPA_PLATFORM": "offscreen"}
    return subprocess.run(
        ["chroot", str(BARE), *words], env=told, capture_output=True, text=True, check=False, timeout=120
    )


def _must(done: subprocess.CompletedProcess[str]) -> str:
    if done.returncode:
        sys.exit(f"{' '.join(done.args[2:])} failed: {done.stdout}{done.stderr}")
    return done.stdout


def _files() -> set[str]:
    return {str(each.relative_to(BARE)) for each in BARE.rglob("*")}
