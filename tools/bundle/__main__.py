"""Make the bundle: python -m tools.bundle [folder|package|check]… ; without words all of it, in build/bundle.

folder   PyInstaller's one folder, and the same as .tar.xz
package  a .deb of that folder, with desktop entry, file type, icon, man page and completion
check    both in a bare Debian (debootstrap): started, pictured on a virtual screen, timed, installed and removed

Runs with any Python 3.11; what it needs it puts into an environment of its own. ``check`` needs root.
"""

from __future__ import annotations

import sys

from tools.bundle.check import check
from tools.bundle.folder import make_folder
from tools.bundle.package import make_package

STEPS = {"folder": make_folder, "package": make_package, "check": check}


def main() -> int:
    """Do the steps asked for, in their order."""
    asked = sys.argv[1:] or list(STEPS)
    for name, step in STEPS.items():
        if name in asked:
            step()
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
