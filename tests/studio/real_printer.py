"""A printing system of one's own, with a printer that prints into PDF files, for the time of a test."""

from __future__ import annotations

import os
import shutil
import subprocess
import tempfile
import time
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterator

DRIVER = Path("/usr/share/ppd/cups-pdf/CUPS-PDF_opt.ppd")
NAME = "easel"
ANYBODY = " Order allow,deny\n Allow all\n"
SETTINGS = f"""Listen {{here}}/socket
DefaultAuthType None
<Location />
{ANYBODY}</Location>
<Location /admin>
{ANYBODY}</Location>
<Policy default>
<Limit All>
{ANYBODY}</Limit>
</Policy>
"""
FILES = """ServerRoot {here}/root
RequestRoot {here}/spool
CacheDir {here}/cache
StateDir {here}/state
TempDir {here}/spool
AccessLog {here}/access
ErrorLog {here}/error
PageLog {here}/pages
SystemGroup root
"""


def why_not() -> str:
    """Why there can be no printing system here; empty where there can."""
    if os.geteuid() != 0:
        return "a printing system of one's own can only be started by root"
    if any(shutil.which(each) is None for each in ("cupsd", "lp", "lpadmin")) or not DRIVER.exists():
        return "CUPS with its PDF printer is not installed: tools/system_libraries.sh printer"
    return ""


@contextmanager
def printing_system() -> Iterator[Path]:
    """CUPS with one printer; gives the folder into which it prints.

    Its filters run as another user, so it lives beside pytest's folders, which nobody else may enter: a filter that
    cannot read its job prints an empty page.
    """
    with tempfile.TemporaryDirectory(prefix="printing-", dir="/tmp", ignore_cleanup_errors=True) as own:
        yield from _running(Path(own))


def _running(here: Path) -> Iterator[Path]:
    for name in ("root", "spool", "cache", "state"):
        (here / name).mkdir()
    (here / "cupsd.conf").write_text(SETTINGS.format(here=here))
    (here / "files.conf").write_text(FILES.format(here=here))
    for each in (here, *here.rglob("*")):
        each.chmod(each.stat().st_mode | 0o755)
    command = ["cupsd", "-f", "-c", str(here / "cupsd.conf"), "-s", str(here / "files.conf")]
    told = os.environ.get("CUPS_SERVER")
    os.environ["CUPS_SERVER"] = str(here / "socket")
    with subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL) as daemon:
        try:
            _wait(lambda: (here / "socket").exists())
            subprocess.run(
                ["lpadmin", "-p", NAME, "-E", "-v", "cups-pdf:/", "-P", str(DRIVER)], check=True, capture_output=True
            )
            yield Path.home() / "PDF"
        finally:
            daemon.terminate()
            os.environ.pop("CUPS_SERVER") if told is None else os.environ.update(CUPS_SERVER=told)


def lying_in(folder: Path) -> dict[Path, int]:
    """The files in a folder, and when each was written."""
    return {each: each.stat().st_mtime_ns for each in folder.glob("*.pdf")}


def printed(folder: Path, known: dict[Path, int], seconds: float = 40.0) -> Path:
    """The file that has newly been printed into a folder, once it is whole."""
    found: list[Path] = []

    def there() -> bool:
        found[:] = [each for each, written in lying_in(folder).items() if known.get(each) != written]
        return bool(found) and found[0].read_bytes()[-1024:].find(b"%%EOF") >= 0

    _wait(there, seconds)
    return found[0]


def _wait(done, seconds: float = 10.0) -> None:
    end = time.monotonic() + seconds
    while not done():
        if time.monotonic() > end:
            raise TimeoutError("the printing system does not answer")
        time.sleep(0.05)
