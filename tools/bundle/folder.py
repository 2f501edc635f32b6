"""One folder with everything in it, made by PyInstaller, and packed."""

from __future__ import annotations

import shutil
import subprocess
import sys
import venv
from pathlib import Path

from tools.bundle.places import APP, ARCHIVE, BUILD, FOLDER, ROOT, megabytes

# What Qt's part for the screen looks for and a bare system may lack; they only hand on to the driver of the machine.
SCREEN = (
    "libxcb.so.1",
    "libGL.so.1",
    "libGLX.so.0",
    "libGLdispatch.so.0",
    "libEGL.so.1",
    "libxcb-cursor.so.0",
    "libfontconfig.so.1",
)
LEFT_OUT = ("tkinter", "matplotlib", "IPython", "pytest", "PIL.ImageTk")
# What comes along and is never used: words of Qt in other languages, screens without a desktop, the network.
USELESS = (
    "PySide6/Qt/translations",
    "PySide6/Qt/plugins/egldeviceintegrations",
    "PySide6/Qt/plugins/networkinformation",
    "PySide6/Qt/plugins/tls",
    "PySide6/Qt/plugins/platformthemes/libqgtk3.so",
    *(
        f"PySide6/Qt/plugins/platforms/libq{name}.so"
        for name in ("eglfs", "linuxfb", "minimalegl", "vnc", "vkkhrdisplay")
    ),
    "cv2/data",
)
STRIPPED = "libpython*.so*"  # those below *.libs are patched, and stripping would break them


def make_folder() -> None:
    """Build it from the locked libraries."""
    python = BUILD / "venv" / "bin" / "python"
    if not python.exists():
        venv.create(BUILD / "venv", with_pip=True)
        pip = [python, "-m", "pip", "install", "--quiet", "--disable-pip-version-check"]
        _run(*pip, "--require-hashes", "-r", ROOT / "requirements-build.lock", "-r", ROOT / "requirements-bundle.lock")
    _run(python, "-m", "pip", "install", "--quiet", "--no-deps", "--no-build-isolation", "--force-reinstall", ROOT)
    command = [
        *(python, "-m", "PyInstaller", "--noconfirm", "--log-level", "WARN", "--onedir", "--name", APP),
        *("--distpath", BUILD / "dist", "--workpath", BUILD / "work", "--specpath", BUILD),
        *("--collect-submodules", "mild_compass", "--collect-data", "mild_compass", "--collect-data", "ezdxf"),
        *("--collect-binaries", "mild_compass"),
        *("--copy-metadata", APP),
    ]
    for name in LEFT_OUT:
        command += ["--exclude-module", name]
    for name in SCREEN:
        found = sorted(Path("/usr/lib").glob(f"*/{name}"))
        if not found:
            sys.exit(f"{name} is not installed; run: sh tools/system_libraries.sh window")
        command += ["--add-binary", f"{found[0]}:."]
    _run(*command, ROOT / "src" / "mild_compass" / "__main__.py")
    _slim(FOLDER / "_internal")
    ARCHIVE.unlink(missing_ok=True)
    _run("tar", "-C", FOLDER.parent, "-I", "xz -T0 -6", "-cf", ARCHIVE, APP)
    print(f"folder {megabytes(FOLDER):.0f} MB, archive {megabytes(ARCHIVE):.0f} MB: {ARCHIVE}")


def _slim(inside: Path) -> None:
    """Take out what is never used, and the symbols that only a debugger reads."""
    for name in USELESS:
        found = inside / name
        shutil.rmtree(found) if found.is_dir() else found.unlink(missing_ok=True)
    for found in inside.glob(STRIPPED):
        _run("strip", "--strip-unneeded", found)


def _run(*words: object) -> None:
    subprocess.run([str(word) for word in words], check=True)
