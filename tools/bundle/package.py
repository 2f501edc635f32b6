"""The folder as a Debian package (Debian Policy Manual, ch. 5 and 9)."""

from __future__ import annotations

import os
import shutil
import subprocess

from tools.bundle.places import APP, BUILD, FOLDER, PACKAGE, VERSION, megabytes

HOME = f"opt/{APP}"
CONTROL = """Package: {app}
Version: {version}
Architecture: amd64
Maintainer: The makers of Mild Compass <makers@example.invalid>
Installed-Size: {size}
Depends: libc6 (>= 2.36)
Section: graphics
Priority: optional
Description: plan a composition before the first mark
 Crops references with a viewfinder of the sheet's own proportion, tries
 armatures, horizon and vanishing points, simplifies value masses, and carries
 all of it to paper in millimetres.
"""


def make_package() -> None:
    """Lay the folder out as it will lie, and pack it."""
    stage = BUILD / "stage"
    shutil.rmtree(stage, ignore_errors=True)
    (stage / HOME).parent.mkdir(parents=True)
    shutil.copytree(FOLDER, stage / HOME, symlinks=True)
    (stage / "usr/bin").mkdir(parents=True)
    (stage / "usr/bin" / APP).symlink_to(f"/{HOME}/{APP}")
    told = {**os.environ, "XDG_DATA_HOME": str(stage / "usr/share"), "QT_QPA_PLATFORM": "offscreen"}
    subprocess.run([str(stage / HOME / APP), "install-desktop"], check=True, env=told, stdout=subprocess.DEVNULL)
    entry = stage / f"usr/share/applications/{APP}.desktop"
    entry.write_text(entry.read_text().replace(str(stage / HOME / APP), f"/usr/bin/{APP}"))
    for kept in ("mime", "applications"):  # what the desktop makes of such files is made anew where it is installed
        for each in (stage / "usr/share" / kept).iterdir():
            if each.is_file() and each != entry:
                each.unlink()
            elif each.is_dir() and each.name != "packages":
                shutil.rmtree(each)
    control = stage / "DEBIAN/control"
    control.parent.mkdir()
    control.write_text(CONTROL.format(app=APP, version=VERSION, size=round(1000 * megabytes(stage))))
    PACKAGE.unlink(missing_ok=True)
    subprocess.run(
        ["dpkg-deb", "--root-owner-group", "-Zxz", "--build", stage, PACKAGE], check=True, stdout=subprocess.DEVNULL
    )
    print(f"package {megabytes(PACKAGE):.0f} MB: {PACKAGE}")
