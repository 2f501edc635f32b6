"""Run every benchmark, each in a process of its own: python -m benchmarks [--json] [NAME…]."""

from __future__ import annotations

import argparse
import json
import os
import subprocess
import sys

NAMES = (
    "first_window",
    "open_24mp",
    "drag_repaint",
    "loop_block",
    "save_open",
    "journal_delay",
    "masses_24mp",
    "nested_masses",
    "simpler",
    "rss_24mp",
    "crop_search",
    "lock_in",
    "horizon_drag",
    "suggest_sets",
    "threshold_drag",
    "readings",
    "stage_drag",
    "stage_lines",
    "contact_sheet",
    "a1_tiles",
    "check_photo",
    "wipe_drag",
    "search_plans",
)


def run(name: str) -> dict:
    """One benchmark's result."""
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    words = [sys.executable, "-m", "benchmarks.measure", name]
    done = subprocess.run(words, env=environment, capture_output=True, text=True, check=False)
    if done.returncode != 0:
        return {"name": name, "measured": None, "unit": "", "bound": None, "better": "lower", "ok": False,
                "error": done.stderr.strip().splitlines()[-1:]}  # fmt: skip
    return json.loads(done.stdout.splitlines()[-1])


def main() -> int:
    """Print a table, or JSON; 1 when a bound is broken."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("names", nargs="*", metavar="NAME")
    parser.add_argument("--json", action="store_true")
    options = parser.parse_args()
    unknown = set(options.names) - set(NAMES)
    if unknown:
        parser.error(f"no benchmark {', '.join(sorted(unknown))}; known are {', '.join(NAMES)}")
    results = [run(name) for name in options.names or NAMES]
    if options.json:
        print(json.dumps(results, indent=1))
    else:
        for each in results:
            sign = "ok  " if each["ok"] else "OVER"
            print(f"{sign} {each['name']:14} {each['measured']!s:>8} {each['unit']:34} bound {each['bound']}")
    return 0 if all(each["ok"] for each in results) else 1


if __name__ == "__main__":
    raise SystemExit(main())
