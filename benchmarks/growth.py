"""How cost grows with photos, marks, departures, lines of the log and pixels: python -m benchmarks.growth.

Writes docs/performance.md. Each size is measured in a process of its own.
"""

from __future__ import annotations

import io
import json
import math
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from benchmarks.measure import _until, _window

SIZES: dict[str, tuple[int, ...]] = {
    "photos": (1, 10, 100, 300),
    "guides": (10, 100, 1000),
    "departures": (10, 100, 1000),
    "log lines": (10, 100, 1000, 5000),
    "megapixels": (12, 24, 100),
    "everything": (300,),
}
EDITS = 15
HEADINGS = {
    "edit": "an edit, ms",
    "wall": "edit seen on the page that lists them, ms",
    "settled": "all settled after it, ms",
    "opened": "opened, ms",
    "saved": "saved, ms",
    "shown": "first paint, ms",
    "resident": "resident, MB",
}
PAGES = {"photos": ("references", None), "everything": ("logbook", None), "log lines": ("logbook", None)}


def photo(megapixels: float, seed: int = 1) -> bytes:
    """A made photo with soft shapes in it."""
    import numpy as np
    from PIL import Image

    height = round(math.sqrt(megapixels * 1e6 / 1.5))
    coarse = np.random.default_rng(seed).integers(0, 256, (24, 36, 3), np.uint8)
    packed = io.BytesIO()
    size = (round(1.5 * height), height)
    Image.fromarray(coarse).resize(size, Image.Resampling.BICUBIC).save(packed, "JPEG", quality=85)
    return packed.getvalue()


def plan_with(kind: str, count: int, folder: Path) -> Path:
    """A plan file with so many of a kind, on photos of 1 MP, or of the megapixels asked for."""
    from mild_compass.plan import archive
    from mild_compass.plan.framing import largest_frame
    from mild_compass.plan.guides import GUIDE_KINDS, Guide
    from mild_compass.plan.model import LogEntry, Plan
    from mild_compass.plan.photos import PhotoFolder
    from mild_compass.plan.pictures import Reference
    from mild_compass.plan.study import Departure, Study

    photos = PhotoFolder(folder / "photos")
    number = count if kind in ("photos", "everything") else 1
    large = count if kind == "megapixels" else 1
    data = photo(large)
    width = json_size(data)
    references = tuple(
        # A JPEG may be followed by anything; so each is another photo.
        Reference(f"photo-{k}", f"photo {k}.jpg", photos.add(data + k.to_bytes(4, "big")), *width)
        for k in range(1, number + 1)
    )
    plan = Plan(name="growth", references=references)
    frame = largest_frame(references[0], plan.paper)
    studies = tuple(
        Study(f"study-{k}", f"Study {k}", references[k % number].id, frame)
        for k in range(1, 1 + (60 if kind == "everything" else 1))
    )
    w, h = width
    if kind == "guides":
        guides = tuple(
            Guide(f"g{k}", GUIDE_KINDS[k % 9], points, count=6)
            for k in range(count)
            for x, y in [((37 * k) % w, h / 2 + (23 * k) % (h / 2 - 40))]
            for points in [((x, y), (x + 20, y - 16), (x + 50, y - 10))]
        )
        studies = (replace(studies[0], perspective=replace(studies[0].perspective, guides=guides)),)
    if kind == "departures":
        made = tuple(
            Departure(f"d{k}", "darken", ((x, y), (x + 40, y), (x + 40, y + 30)), name=f"darker {k}")
            for k in range(count)
            for x, y in [((37 * k) % (w - 50), (23 * k) % (h - 40))]
        )
        studies = (replace(studies[0], departures=made),)
    lines = count if kind == "log lines" else 5000 if kind == "everything" else 0
    log = tuple(
        LogEntry(f"2026-05-01T12:{k // 60 % 60:02}:{k % 60:02}+02:00", "viewfinder", studies[0].id, "note", f"note {k}")
        for k in range(lines)
    )
    plan = replace(plan, studies=studies, current_study=studies[0].id, log=log)
    archive.write(folder / "growth.mildplan", plan, photos, None)
    return folder / "growth.mildplan"


def json_size(data: bytes) -> tuple[int, int]:
    """Width and height of the upright photo."""
    from mild_compass.craft.picture.load import size_of

    return size_of(data, "photo")


def timed_ms(act: Callable[[], object]) -> float:
    """How long something takes."""
    start = time.perf_counter()
    act()
    return 1000 * (time.perf_counter() - start)


def measured(kind: str, count: int) -> dict[str, float]:
    """The costs with so many of a kind, in the real window."""
    import psutil

    from mild_compass.plan.edits.viewfinder import move_frame

    with tempfile.TemporaryDirectory() as name:
        file = plan_with(kind, count, Path(name))
        app, window = _window(name)
        window.go_to("viewfinder")
        found: dict[str, float] = {}

        def shown() -> None:
            window.files.plans.open(file)
            _until(app, lambda: window.computed.looks is not None)
            window.board.repaint()

        start = time.perf_counter()
        found["shown"] = timed_ms(shown)
        _until(app, lambda: window.idle)
        found["opened"] = 1000 * (time.perf_counter() - start)

        def edited(k: int) -> float:
            frame = window.session.plan.study.frame
            moved = replace(frame, width_px=frame.width_px * (0.9 if k % 2 else 1 / 0.9), height_px=frame.height_px)
            moved = replace(moved, height_px=frame.height_px * (0.9 if k % 2 else 1 / 0.9))
            took = timed_ms(lambda: (window.session.apply(move_frame(moved)), window.board.repaint()))
            settled.append(took + timed_ms(lambda: _until(app, lambda: window.idle)))
            return took

        settled: list[float] = []
        found["edit"] = statistics.median([edited(k) for k in range(1, EDITS + 1)])
        found["settled"] = statistics.median(settled)
        if kind in PAGES:
            window.go_to(*PAGES[kind])
            _until(app, lambda: window.idle)
            found["wall"] = statistics.median([edited(k) for k in range(1, EDITS + 1)])
        target = Path(name) / "saved.mildplan"
        found["saved"] = timed_ms(lambda: (window.files.plans.write(target), _until(app, lambda: window.jobs.idle)))
        found["resident"] = psutil.Process().memory_info().rss / 1e6
        window.close_down()
    return found


def table(results: dict[str, dict[int, dict[str, float]]]) -> str:
    """All results as Markdown."""
    parts = []
    for kind, rows in results.items():
        keys = [key for key in HEADINGS if any(key in row for row in rows.values())]
        parts.append(f"| {kind} | " + " | ".join(HEADINGS[key] for key in keys) + " |")
        parts.append("|---" * (len(keys) + 1) + "|")
        for count, row in rows.items():
            cells = [f"{row[key]:.1f}" if row[key] < 100 else f"{row[key]:.0f}" for key in keys]
            parts.append(f"| {count} | " + " | ".join(cells) + " |")
        parts.append("")
    return "\n".join(parts)


def run(kind: str, count: int) -> dict[str, float]:
    """One size in a process of its own."""
    words = [sys.executable, "-m", "benchmarks.growth", kind, str(count)]
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(words, env=environment, capture_output=True, text=True, check=True)
    found: dict[str, float] = json.loads(done.stdout.splitlines()[-1])
    return found


def main(words: list[str]) -> int:
    """Measure one size and print it, or all and write the page."""
    if words:
        print(json.dumps(measured(words[0], int(words[1]))))
        return 0
    results: dict[str, dict[int, Any]] = {}
    for kind, sizes in SIZES.items():
        results[kind] = {}
        for count in sizes:
            results[kind][count] = run(kind, count)
            print(kind, count, {key: round(value, 1) for key, value in results[kind][count].items()}, flush=True)
    page = Path(__file__).parents[1] / "docs" / "performance.md"
    page.write_text(INTRODUCTION + table(results))
    return 0


INTRODUCTION = """# How cost grows

Made by `make growth` on two cores, without a screen. Each row is a plan with so many of one kind, opened in the real
window at the viewfinder, on a photo of 1 megapixel but where pixels are what grows. An edit changes the frame: what is
told is how long the window needs until it has taken it and the board is painted; the median of 15. "All settled" is
when everything that follows from the frame is there again. The last table has 300 photos, 60 studies and 5 000 lines
in the log at once; there an edit is to cost at most 20 ms.

"""

if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
