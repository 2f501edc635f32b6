"""The measurements; run one by name in a fresh process."""

from __future__ import annotations

import compileall
import io
import itertools
import json
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

WIDTH, HEIGHT = 6000, 4000

EMPTY_WINDOW = """
import time
import numpy
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication([])
window = QMainWindow()
window.resize(1280, 800)
window.show()
window.repaint()
app.processEvents()
print(time.time())
"""

STUDIO_WINDOW = """
import tempfile, time
from pathlib import Path
from mild_compass.studio.application import application, make_window
app = application()
with tempfile.TemporaryDirectory() as folder:
    window = make_window(app, Path(folder))
    window.resize(1280, 800)
    window.show()
    window.repaint()
    app.processEvents()
    print(time.time())
    window.close_down()
"""


def result(name: str, measured: float, unit: str, bound: float, better: str = "lower") -> dict:
    """A result with its bound, which it must stay below, or with better="higher" reach."""
    measured = round(measured, 3)
    ok = measured <= bound if better == "lower" else measured >= bound
    return {"name": name, "measured": measured, "unit": unit, "bound": bound, "better": better, "ok": ok}


def photo_24mp() -> bytes:
    """A JPEG of 6000 x 4000 pixels: the demo photo enlarged, with a camera's noise."""
    import numpy as np
    from PIL import Image

    from mild_compass.demo.glasshouse import NAMES, PHOTOS

    kept = Path(tempfile.gettempdir()) / "mild-compass-benchmark-24mp.jpg"
    if not kept.exists():
        with Image.open(PHOTOS / f"{NAMES[0]}.jpg") as small:
            large = np.asarray(small.resize((WIDTH, HEIGHT), Image.Resampling.BICUBIC), np.int16)
        grain = np.random.default_rng(1).normal(0, 3, (HEIGHT, WIDTH, 1)).astype(np.int16)
        packed = io.BytesIO()
        Image.fromarray(np.clip(large + grain, 0, 255).astype(np.uint8)).save(packed, "JPEG", quality=90)
        kept.write_bytes(packed.getvalue())
    return kept.read_bytes()


def _timed(action: Callable[[], object]) -> float:
    start = time.perf_counter()
    action()
    return time.perf_counter() - start


def _until_painted(script: str) -> float:
    """Seconds from starting Python to the painted window, as the child's clock tells."""
    start = time.time()
    done = subprocess.run([sys.executable, "-c", script], check=True, capture_output=True, text=True)
    return float(done.stdout) - start


def first_window() -> dict:
    """From starting Python to the first painted window, against an empty window."""
    # An installed application is compiled at installation; where Python is told not to write, an edited one is not.
    compileall.compile_dir(str(Path(__file__).parents[1] / "src"), quiet=1)
    empty, studio = [], []
    for _ in range(9):
        empty.append(_until_painted(EMPTY_WINDOW))
        studio.append(_until_painted(STUDIO_WINDOW))
    ratio = statistics.median(studio) / statistics.median(empty)
    return result("first_window", ratio, "x an empty window", 2.0)


def _window(folder: str):
    from mild_compass.studio.application import application, make_window

    app = application()
    window = make_window(app, Path(folder))
    window.resize(1280, 800)
    window.show()
    app.processEvents()
    return app, window


def _opened(folder: str):
    """A window with the 24 MP photo at the viewfinder, everything settled."""
    app, window = _window(folder)
    path = Path(folder) / "photo.jpg"
    path.write_bytes(photo_24mp())
    window.go_to("viewfinder")
    window.files.photos.add([path])
    _until(app, lambda: window.session.plan.study is not None and window.idle)
    return app, window


def _until(app, ready: Callable[[], bool]) -> None:
    end = time.monotonic() + 60
    while not ready():
        app.processEvents()
        time.sleep(0.0005)  # as when the window waits for the hand: the workers have the processor
        if time.monotonic() > end:
            raise TimeoutError("the window did not settle")


def open_24mp() -> dict:
    """From handing over the file to the first painted picture, against Pillow's full decode."""
    from PIL import Image

    data = photo_24mp()
    ratios = []
    with tempfile.TemporaryDirectory() as folder:
        app, window = _window(folder)
        path = Path(folder) / "photo.jpg"
        path.write_bytes(data)
        window.go_to("viewfinder")
        for _ in range(5):
            decode = _timed(lambda: Image.open(io.BytesIO(data)).load())

            def shown() -> None:
                window.files.photos.add([path])
                _until(app, lambda: window.computed.looks is not None)
                window.board.repaint()

            ratios.append(_timed(shown) / decode)
            _until(app, lambda: window.idle)
            window.session.new()
        window.close_down()
    return result("open_24mp", statistics.median(ratios), "x Pillow's full decode", 1.5)


def _drag(window, each: Callable[[int], None]) -> None:
    """Drag a corner of the viewfinder about, 120 moves."""
    import math

    from mild_compass.craft.viewfinder.moves import resized
    from mild_compass.plan.edits.viewfinder import move_frame

    plan = window.session.plan
    frame, photo = plan.study.frame, plan.references[0]
    for k in range(120):
        x = frame.x_px + frame.width_px * (0.6 + 0.25 * math.sin(k / 9))
        y = frame.y_px + frame.height_px * (0.6 + 0.25 * math.cos(k / 11))
        window.session.preview(move_frame(resized(frame, "bottom right", x, y, photo, plan.paper)))
        each(k)
    window.session.cancel()


def drag_repaint() -> dict:
    """One move of the viewfinder over a 24 MP photo: the board painted again."""
    times = []
    with tempfile.TemporaryDirectory() as folder:
        _, window = _opened(folder)
        _drag(window, lambda _: times.append(_timed(window.board.repaint)))
        window.close_down()
    return result("drag_repaint", 1000 * statistics.median(times), "ms median board repaint", 16.0)


def loop_block() -> dict:
    """The longest gap between beats of a 5 ms timer while dragging and until all has settled again.

    A gap counts for as much of it as this process was really computing (waiting for a worker that holds the
    interpreter is computing too): on a shared machine the rest is time that others took. ``wall`` tells
    the same by the plain clock. Of three drags the longest is told.
    """
    from PySide6.QtCore import QTimer

    longest, plain = [], []
    with tempfile.TemporaryDirectory() as folder:
        app, window = _opened(folder)
        beats: list[tuple[float, float]] = []
        heart = QTimer(interval=5)
        heart.timeout.connect(lambda: beats.append((time.perf_counter(), time.process_time())))
        heart.start()

        def rest(seconds: float) -> None:
            until = time.perf_counter() + seconds
            app.processEvents()
            while time.perf_counter() < until:
                app.processEvents()

        rest(0.3)
        for _ in range(3):
            beats.clear()
            _drag(window, lambda _: rest(0.012))
            _until(app, lambda: window.idle)
            longest.append(max(min(b[0] - a[0], b[1] - a[1]) for a, b in itertools.pairwise(beats)))
            plain.append(max(b[0] - a[0] for a, b in itertools.pairwise(beats)))
        window.close_down()
    found = result("loop_block", 1000 * max(longest), "ms longest block of the event loop", 50.0)
    return {**found, "wall": round(1000 * max(plain), 1)}


class _Heart:
    """A 5 ms timer and the gaps between its beats: by the plain clock, and as far as this process was computing."""

    def __init__(self) -> None:
        from PySide6.QtCore import QTimer

        self._beats: list[tuple[float, float]] = []
        self._timer = QTimer(interval=5)
        self._timer.timeout.connect(self._beat)
        self._timer.start()

    def _beat(self) -> None:
        self._beats.append((time.perf_counter(), time.process_time()))

    def begin(self) -> None:
        self._beats.clear()
        self._beat()

    def longest_ms(self) -> tuple[float, float]:
        self._beat()
        pairs = list(itertools.pairwise(self._beats))
        own = max(min(b[0] - a[0], b[1] - a[1]) for a, b in pairs)
        return 1000 * own, 1000 * max(b[0] - a[0] for a, b in pairs)


def save_open() -> dict:
    """The longest block of the event loop while a plan with eight photos of 15 MB is saved and opened again."""
    import os as system

    with tempfile.TemporaryDirectory() as folder:
        app, window = _window(folder)
        photo = photo_24mp()
        # A JPEG may be followed by anything; so each is another photo of 15 MB.
        paths = [Path(folder) / f"photo-{k}.jpg" for k in range(8)]
        for path in paths:
            path.write_bytes(photo + system.urandom(15_000_000 - len(photo)))
        window.files.photos.add(paths)
        _until(app, lambda: len(window.session.plan.references) == 8 and window.idle)
        heart, blocks, took = _Heart(), [], {}
        target = Path(folder) / "large.mildplan"
        for name, act in (
            ("save", lambda: window.files.plans.write(target)),
            ("open", lambda: window.files.plans.open(target)),
        ):
            heart.begin()
            start = time.perf_counter()
            act()
            _until(app, lambda: window.jobs.idle)
            took[f"{name}_s"] = round(time.perf_counter() - start, 2)
            _until(app, lambda: window.idle)
            blocks.append(heart.longest_ms())
        assert len(window.session.plan.references) == 8
        window.close_down()
    found = result("save_open", max(own for own, _ in blocks), "ms longest block, save and open 120 MB", 50.0)
    return {**found, **took, "wall": round(max(wall for _, wall in blocks), 1)}


def journal_delay() -> dict:
    """How long an edit waits at most until it is on disk, while an edit comes every 50 ms for two seconds."""
    import threading

    from mild_compass.plan.edits.values import change_values
    from mild_compass.plan.tones import ValuePlan

    with tempfile.TemporaryDirectory() as folder:
        app, window = _opened(folder)
        asked: dict[int, float] = {}
        written: dict[int, float] = {}
        workspace, keep = window.session.workspace, window.session.workspace.keep
        remember = window.session.journal.keep

        def timed_keep(plan, file, number) -> None:
            keep(plan, file, number)
            with threading.Lock():
                written[number] = time.perf_counter()

        workspace.keep = timed_keep
        window.session.journal.keep = lambda *step: (remember(*step), asked.update({len(asked): time.perf_counter()}))
        for k in range(40):
            until = time.perf_counter() + 0.05
            window.session.apply(change_values(ValuePlan(count=2 + k % 6)))
            while time.perf_counter() < until:
                app.processEvents()
        window.session.journal.wait(5.0)
        numbers, times = sorted(written), sorted(asked.values())
        first = numbers[-1] - len(times) + 1  # the number of the first of them
        waits = []
        for k, moment in enumerate(times):
            waits.append(min(written[n] for n in numbers if n >= first + k) - moment)
        window.close_down()
    found = result("journal_delay", 1000 * max(waits), "ms until an edit is on disk, at most", 500.0)
    return {**found, "writes": len(numbers)}


def _masses_against_a_filter(name: str, make: Callable[..., object], bound: float) -> dict:
    """Something made of a 24 MP photo in 4 values, on A3, against one bilateral filter on the proxy."""
    import cv2

    from mild_compass.craft.picture.load import Picture, read_proxy
    from mild_compass.craft.sheet_sizes.papers import paper
    from mild_compass.plan.framing import largest_frame
    from mild_compass.plan.pictures import Reference
    from mild_compass.plan.tones import ValuePlan

    picture, sheet = read_proxy(photo_24mp(), "photo.jpg"), paper("A3", across=True)
    frame, values = largest_frame(Reference("p", "p", "0" * 64, WIDTH, HEIGHT), sheet), ValuePlan(count=4)
    make(picture, frame, sheet, values)
    ratios = []
    for _ in range(7):
        filtered = _timed(lambda: cv2.bilateralFilter(picture.rgb, 9, 50, 50))
        fresh = Picture(picture.rgb, WIDTH, HEIGHT)  # nothing kept from the round before
        ratios.append(_timed(lambda fresh=fresh: make(fresh, frame, sheet, values)) / filtered)
    return result(name, statistics.median(ratios), "x cv2.bilateralFilter(d=9)", bound)


def masses_24mp() -> dict:
    """The first idea of the masses of a 24 MP photo, with its outlines."""
    from mild_compass.craft.values.masses import quick_masses, with_outlines

    def make(picture, frame, sheet, values) -> None:
        with_outlines(quick_masses(picture, frame, sheet, values), frame, sheet, values)

    return _masses_against_a_filter("masses_24mp", make, 3.0)


def nested_masses() -> dict:
    """All nested shapes of a 24 MP photo, from crumbs to two."""
    from mild_compass.craft.values.masses import hierarchy_for

    return _masses_against_a_filter("nested_masses", hierarchy_for, 4.0)


def simpler() -> dict:
    """Another stop of the nested shapes and its picture: what each move of the slider takes, 24 MP photo."""
    from dataclasses import replace

    from mild_compass.craft.picture.load import read_proxy
    from mild_compass.craft.sheet_sizes.papers import paper
    from mild_compass.craft.values.masses import flat_masses
    from mild_compass.plan.framing import largest_frame
    from mild_compass.plan.pictures import Reference
    from mild_compass.plan.tones import ValuePlan
    from mild_compass.studio.derived.looks import flat_image

    picture, sheet = read_proxy(photo_24mp(), "photo.jpg"), paper("A3", across=True)
    frame, values = largest_frame(Reference("p", "p", "0" * 64, WIDTH, HEIGHT), sheet), ValuePlan(count=4)
    flat_masses(picture, frame, sheet, values)
    times = [
        _timed(lambda s=s: flat_image(flat_masses(picture, frame, sheet, replace(values, simple=float(s)))))
        for s in range(5, 100, 6)
    ]
    return result("simpler", 1000 * statistics.median(times), "ms, a move of How simple", 16.0)


def rss_24mp() -> dict:
    """Resident memory with one 24 MP photo open and worked through."""
    import psutil

    with tempfile.TemporaryDirectory() as folder:
        app, window = _opened(folder)
        for station in ("armature", "perspective", "values", "sheet"):
            window.go_to(station)
            _until(app, lambda: window.idle)
        resident = psutil.Process().memory_info().rss / 1e6
        window.close_down()
    return result("rss_24mp", resident, "MB resident", 250 + 3 * WIDTH * HEIGHT * 3 / 1e6)


def crop_search() -> dict:
    """Frames judged per second on a 24 MP photo with a ring and every criterion, with its small picture.

    ``whole_s`` is the whole search with its thinning, from the picture to ten frames.
    """
    from mild_compass.craft.picture.load import Picture, read_proxy
    from mild_compass.craft.viewfinder import scores
    from mild_compass.craft.viewfinder.search import Ask, candidates, find_frames, small_values
    from mild_compass.craft.viewfinder.wishes import wishes_of
    from mild_compass.plan.pictures import Reference
    from mild_compass.plan.study import Frame, Ring, Study

    picture = read_proxy(photo_24mp(), "photo.jpg")
    photo = Reference("p", "p", "0" * 64, WIDTH, HEIGHT)
    study = Study("s", "A", "p", Frame(0, 0, WIDTH, HEIGHT), rings=(Ring(2800, 2400, 250, 850, "gardener", "left"),))
    ask = Ask(tuple(name for name in scores.CRITERION_WORDS if name != "one side"), 0.3)
    count = len(candidates(photo, 4 / 3, ask.smallest, small_values(picture).shape, wishes_of(study)))
    times = []
    for _ in range(5):
        fresh = Picture(picture.rgb, WIDTH, HEIGHT)  # nothing kept from the round before
        times.append(_timed(lambda fresh=fresh: find_frames(fresh, study, photo, 4 / 3, ask, 1600.0)))
    whole = statistics.median(times)
    found = result("crop_search", count / whole, "judged frames a second", 20_000, "higher")
    return {**found, "frames": count, "whole_s": round(whole, 3)}


def contact_sheet() -> dict:
    """100 photos of 12 MP on the contact sheet: resident memory when all thumbnails are there.

    ``usable_s`` is how long the window took to answer its first beat after the photos were handed over, and
    ``longest_block_ms`` the longest gap between beats until all were there.
    """
    import numpy as np
    import psutil
    from PIL import Image
    from PySide6.QtCore import QTimer

    with tempfile.TemporaryDirectory() as folder:
        app, window = _window(folder)
        rng = np.random.default_rng(1)
        paths = []
        for number in range(100):
            small = Image.fromarray(rng.integers(0, 256, (30, 40, 3), np.uint8))
            paths.append(Path(folder) / f"photo-{number}.jpg")
            small.resize((4000, 3000), Image.Resampling.BILINEAR).save(paths[-1], "JPEG", quality=85)
        beats: list[float] = []
        heart = QTimer(interval=5)
        heart.timeout.connect(lambda: beats.append(time.perf_counter()))
        heart.start()
        app.processEvents()
        beats.clear()
        start = time.perf_counter()
        window.files.photos.add(paths)
        _until(app, lambda: bool(beats))
        usable, most, process = beats[0] - start, 0.0, psutil.Process()
        while len(window.session.plan.references) < 100 or not window.idle:
            app.processEvents()
            most = max(most, process.memory_info().rss / 1e6)
            if time.perf_counter() - start > 300:
                raise TimeoutError("the photos did not arrive")
        block = max(b - a for a, b in itertools.pairwise([start, *beats]))
        whole = time.perf_counter() - start
        window.close_down()
    found = result("contact_sheet", most, "MB resident at most", 500.0)
    told = {"usable_s": round(usable, 3), "longest_block_ms": round(1000 * block, 1), "whole_s": round(whole, 1)}
    return {**found, **told}


def lock_in() -> dict:
    """60 big lines against all armatures and as many random frames as the application takes, at least 500."""
    import numpy as np

    from mild_compass.craft.armature.chance import trials
    from mild_compass.craft.armature.lock_in import CHANCES, Marks, Tolerance
    from mild_compass.craft.armature.marks import armatures
    from mild_compass.craft.geometry.lines import Box
    from mild_compass.plan.structure import Structure

    box, rng = Box(15, 15, 405, 282), np.random.default_rng(1)
    ends = rng.uniform((-60, -60), (480, 360), (60, 2, 2))
    marks, lines = Marks(ends, rng.uniform(5, 40, 60), np.zeros((0, 2))), armatures(Structure(), box)
    times = [_timed(lambda: trials(marks, lines, box, Tolerance(4.7, 3.0))) for _ in range(9)]
    return {
        **result("lock_in", 1000 * statistics.median(times), f"ms, {len(lines)} armatures", 300.0),
        "chance_frames": CHANCES,
    }


def horizon_drag() -> dict:
    """One move of the horizon with 60 guides of every kind on the board: preview and repaint."""
    from mild_compass.plan.edits.perspective import add_guide, set_horizon, set_light
    from mild_compass.plan.guides import GUIDE_KINDS, Guide, Light
    from mild_compass.plan.perspective import Horizon

    times = []
    with tempfile.TemporaryDirectory() as folder:
        app, window = _opened(folder)
        window.session.apply(set_horizon(Horizon(1800.0, 0.0, WIDTH / 2)))
        window.session.apply(set_light(Light("sun", 60.0, 40.0)))
        for k in range(60):
            x, y = 400 + 85 * k, 2600 + 20 * (k % 50)
            points = ((x, y), (x + 120, y - 90), (x + 300, y - 60))
            window.session.apply(add_guide(Guide(f"g{k}", GUIDE_KINDS[k % 9], points, shadow=True, count=6)))
        window.go_to("perspective", "guides")
        _until(app, lambda: window.idle)
        for k in range(60):
            move = set_horizon(Horizon(1800.0 + 2 * k, 0.0, WIDTH / 2))
            times.append(_timed(lambda move=move: (window.session.preview(move), window.board.repaint())))
        window.session.cancel()
        window.close_down()
    return result("horizon_drag", 1000 * statistics.median(times), "ms a move with 60 guides", 16.0)


def readings() -> dict:
    """From the last move of the viewfinder over a 24 MP photo until its readings are there again."""
    from dataclasses import replace

    from mild_compass.plan.edits.viewfinder import move_frame

    times = []
    with tempfile.TemporaryDirectory() as folder:
        app, window = _opened(folder)
        for k in range(15):
            frame = window.session.plan.study.frame
            moved = move_frame(replace(frame, width_px=frame.width_px * (0.9 if k % 2 == 0 else 1 / 0.9),
                                       height_px=frame.height_px * (0.9 if k % 2 == 0 else 1 / 0.9)))  # fmt: skip
            times.append(
                _timed(lambda moved=moved: (window.session.apply(moved), _until(app, lambda: window.reader.settled)))
            )
            _until(app, lambda: window.idle)
        window.close_down()
    return result("readings", 1000 * statistics.median(times), "ms until the readings have settled", 100.0)


def _stage_of(count: int):
    """So many things before the eye, of every kind, from a seed."""
    import numpy as np

    from mild_compass.plan.stage import THING_KINDS, Stage, new_thing

    hand = np.random.default_rng(1)
    kinds = [kind for kind in THING_KINDS if kind != "cut-out"]
    reach = 8 * (count / 60) ** 0.5
    return Stage(
        tuple(
            new_thing(
                kinds[k % len(kinds)],
                f"thing-{k}",
                float(hand.uniform(-reach, reach)),
                float(hand.uniform(6, 6 + 4 * reach)),
                turn_deg=float(hand.uniform(-180, 180)),
                count=1,
            )
            for k in range(count)
        )
    )


def _on_stage(folder: str, count: int):
    """A window with so many things on the stage, everything settled."""
    from dataclasses import replace

    from mild_compass.plan.edits.base import Edit, with_study
    from mild_compass.plan.edits.references import begin_blank
    from mild_compass.plan.edits.stage import set_down
    from mild_compass.plan.stage import new_thing

    app, window = _window(folder)
    window.session.apply(begin_blank())
    window.session.apply(set_down(new_thing("block", "first", 0.0, 8.0)))
    stage = _stage_of(count)
    window.session.apply(
        Edit("fill", "fill", lambda plan: with_study(plan, replace(plan.study, stage=stage)), "perspective")
    )
    window.go_to("perspective", "stage")
    _until(app, lambda: window.idle)
    return app, window


def stage_drag() -> dict:
    """One of 60 things moved on the stage: preview, board repainted; and on the ground plan beside its drawing."""
    from mild_compass.plan.edits.stage import change_thing

    board, plan = [], []
    with tempfile.TemporaryDirectory() as folder:
        app, window = _on_stage(folder, 60)
        tool = next(each for each in window.bench.instruments if each.name == "stage")
        tool.options_of_thing.choose("thing-1")
        for k in range(60):
            move = change_thing("thing-1", x_m=0.02 * k)
            board.append(_timed(lambda move=move: (window.session.preview(move), window.board.repaint())))
        window.session.cancel()
        window.bench.take_up("ground plan")
        _until(app, lambda: window.idle)
        page = window.middle.page("ground plan")
        for k in range(60):
            move = change_thing("thing-1", x_m=0.02 * k)
            plan.append(
                _timed(lambda move=move: (window.session.preview(move), page.plan.repaint(), page.drawn.repaint()))
            )
        window.session.cancel()
        window.close_down()
    found = result("stage_drag", 1000 * statistics.median(board), "ms a move of one of 60 things, board", 16.0)
    return {**found, "ground_plan_ms": round(1000 * statistics.median(plan), 1)}


def stage_lines() -> dict:
    """Hidden lines of 60 things settled when one has been moved; all worked out from nothing; how both grow to 300.

    Values with shadows besides.
    """
    from mild_compass.craft.perspective.worked import work_out
    from mild_compass.craft.stage.staged import lighted, staged
    from mild_compass.plan.edits.references import begin_blank
    from mild_compass.plan.guides import Light
    from mild_compass.plan.model import Plan

    plan = begin_blank().change(Plan())
    camera = work_out(plan.study.perspective, plan.ground(plan.study)).camera

    from dataclasses import replace

    from mild_compass.craft.stage.visibility_update import forget

    def median_ms(make: Callable[[], object], before: Callable[[], object] = lambda: None) -> float:
        times = []
        for _ in range(6):
            before()
            times.append(_timed(make))
        return 1000 * statistics.median(times[1:])

    def moved_ms(stage) -> float:
        staged(stage, camera)
        times = []
        for k in range(9):
            things = list(stage.things)
            things[k] = replace(things[k], x_m=things[k].x_m + 0.3)
            stage = replace(stage, things=tuple(things))
            times.append(_timed(lambda stage=stage: staged(stage, camera)))
        return 1000 * statistics.median(times)

    times, moved = {}, {}
    for count in (60, 300):
        stage = _stage_of(count)
        # A copy each time: what has not changed would not be worked out again.
        times[count] = median_ms(lambda stage=stage: staged(replace(stage), camera), forget)
        moved[count] = moved_ms(stage)
        times[-count] = median_ms(lambda stage=stage: lighted(replace(stage), camera, Light("sun", 60.0, 40.0)))
    found = result("stage_lines", moved[60], "ms, hidden lines when one of 60 things was moved", 100.0)
    told = {"of_300_ms": moved[300], "all_60_ms": times[60], "all_300_ms": times[300]}
    told |= {"shadows_of_60_ms": times[-60], "shadows_of_300_ms": times[-300]}
    return {**found, **{name: round(value, 1) for name, value in told.items()}}


def suggest_sets() -> dict:
    """Sets of edges suggested on a 24 MP photo of many houses: from its proxy, as the worker has it."""
    import numpy as np
    from PIL import Image
    from tools.accuracy.scenes import scene

    from mild_compass.craft.perspective.suggest import suggested_sets
    from mild_compass.craft.picture.load import read_proxy

    large = Image.fromarray(np.ascontiguousarray(scene(20).picture())).resize((WIDTH, HEIGHT))
    packed = io.BytesIO()
    large.save(packed, "JPEG", quality=90)
    picture = read_proxy(packed.getvalue(), "houses.jpg")
    assert picture.lightness.size  # made by the board before anything is asked
    times = [_timed(lambda: suggested_sets(picture)) for _ in range(5)]
    return result("suggest_sets", statistics.median(times), "s, sets suggested on 24 MP", 0.7)


def threshold_drag() -> dict:
    """From letting a threshold go until its masses are shown with their outlines, on a 24 MP photo, nothing of them
    begun before."""
    from mild_compass.plan.edits.values import change_values
    from mild_compass.plan.tones import ValuePlan

    times = []
    with tempfile.TemporaryDirectory() as folder:
        app, window = _opened(folder)
        window.go_to("values", "masses")
        _until(app, lambda: window.idle)
        for k in range(12):
            move = change_values(ValuePlan(4, "by hand", (28.0 + k, 50.0, 70.0)))
            window.session.preview(move)
            before, start = window.computed.masses_image, time.perf_counter()
            window.session.apply(move)
            _until(app, lambda before=before: window.computed.masses_image is not before)
            window.board.repaint()
            times.append(1000 * (time.perf_counter() - start))
            _until(app, lambda: window.idle)
        window.close_down()
    return result("threshold_drag", statistics.median(times), "ms until the masses are shown with outlines", 60.0)


def a1_tiles() -> dict:
    """The PDF of an A1 sheet in A4 tiles with masses, lines and grid, from the bytes of a 24 MP photo.

    ``pages`` and ``megabytes`` are those of the PDF (at most 5), ``lines_s`` the line drawing alone.
    """
    import hashlib

    from mild_compass.craft.picture.line_drawing import line_drawing
    from mild_compass.craft.picture.study_picture import study_picture
    from mild_compass.craft.sheet.tiles import tiles_for
    from mild_compass.craft.sheet_sizes.papers import paper
    from mild_compass.output.print_sheet import print_sheet
    from mild_compass.plan.framing import largest_frame
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder
    from mild_compass.plan.pictures import Reference
    from mild_compass.plan.sheet import SheetPlan
    from mild_compass.plan.study import Study

    data = photo_24mp()
    sheet = paper("A1", across=True)
    photo = Reference("p", "photo.jpg", hashlib.sha256(data).hexdigest(), WIDTH, HEIGHT)
    settings = SheetPlan(("frame", "grid", "masses", "lines"), 50.0, pages="A4")
    study = Study("s", "A", "p", largest_frame(photo, sheet), sheet=settings)
    plan = Plan("A1", sheet, (photo,), (study,), "s")
    with tempfile.TemporaryDirectory() as folder:
        photos = PhotoFolder(Path(folder))
        photos.add(data)
        proxy = study_picture(plan, study, photos)
        lines = _timed(lambda: line_drawing(proxy, study.frame, sheet, 100))
        times, pdf = [], b""
        for _ in range(3):
            start = time.perf_counter()
            pdf = print_sheet(plan, photos)
            times.append(time.perf_counter() - start)
    found = result("a1_tiles", statistics.median(times), "s for an A1 sheet in A4 pages", 3.0)
    megabytes = len(pdf) / 1e6
    return {
        **found,
        "ok": found["ok"] and megabytes <= 5.0,
        "pages": len(tiles_for(sheet, "A4").tiles),
        "megabytes": round(megabytes, 2),
        "lines_s": round(lines, 2),
    }


def check_photo() -> dict:
    """A 12 MP photo of a drawing with many lines to the list of what is off."""
    from mild_compass.craft.check.asked import Asked
    from mild_compass.craft.check.check import check
    from mild_compass.craft.check.planned import study_lines
    from mild_compass.craft.check.stand_in import HANDS, drawn_badly
    from mild_compass.craft.picture.load import read_full
    from mild_compass.craft.picture.study_picture import study_picture
    from mild_compass.demo import plan_of
    from mild_compass.plan.photos import PhotoFolder

    with tempfile.TemporaryDirectory() as folder:
        photos = PhotoFolder(Path(folder))
        plan = plan_of("glasshouse", photos)
        lines = study_lines(plan, study_picture(plan, plan.study, photos))
    lines = tuple(line for line in lines if line.layer == "lines")
    size = (plan.paper.width_mm, plan.paper.height_mm)
    data = _jpeg(drawn_badly(lines, size, HANDS["ordinary"], 3, photo_px=(4000, 3000)))
    asked = Asked(*size, lines)
    check(read_full(data, "warm.jpg"), asked)
    times = [_timed(lambda: check(read_full(data, "sheet.jpg"), asked)) for _ in range(3)]
    return {**result("check_photo", statistics.median(times), "s to the list", 3.0), "lines": len(lines)}


def _jpeg(rgb) -> bytes:
    from PIL import Image

    packed = io.BytesIO()
    Image.fromarray(rgb).save(packed, "JPEG", quality=90)
    return packed.getvalue()


def search_plans() -> dict:
    """A word looked for in the logbooks of 1 000 plans, the slowest of several kinds of search."""
    from random import Random

    from mild_compass.memory.plan_index import PlanIndex
    from mild_compass.plan import archive
    from mild_compass.plan.model import LogEntry, Plan
    from mild_compass.plan.photos import PhotoFolder

    chance = Random(3)
    words = [
        "tree",
        "wall",
        "light",
        "dark",
        "wash",
        "too",
        "left",
        "right",
        "lantern",
        "bench",
        "edge",
        "moved",
        "central",
        "paper",
        "planned",
        "kept",
    ]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        photos = PhotoFolder(folder / "photos")
        for number in range(1000):
            log = tuple(
                LogEntry(f"2026-0{1 + line % 9}-01T10:{line:02d}:00+02:00", "values", "A", "note",
                         f"{' '.join(chance.choices(words, k=12))} {number}")
                for line in range(50)
            )  # fmt: skip
            archive.write(folder / f"plan-{number}.mildplan", Plan(name=f"Plan {number}", log=log), photos, None)
        index = PlanIndex(folder / "cache" / "plans.sqlite")
        first = _timed(lambda: index.renew([folder]))
        asked = ("t", "tree", "lantern ben", "500", "nothing")
        slowest = max(_searching(index, each, folder) for each in asked)
    return {
        **result("search_plans", 1000 * slowest, "ms, 1000 plans of 50 lines", 200.0),
        "first_time_s": round(first, 1),
    }


def _searching(index, words: str, folder: Path) -> float:
    """Seconds for one search, the middle of five."""
    return statistics.median(_timed(lambda: index.search(words, [folder])) for _ in range(5))


def wipe_drag() -> dict:
    """One move of the wiping edge between plan and drawing, painted."""
    from PySide6.QtCore import QEvent, QPointF, Qt
    from PySide6.QtGui import QMouseEvent

    from mild_compass.studio.application import load_demo

    times = []
    with tempfile.TemporaryDirectory() as folder:
        app, window = _window(folder)
        load_demo(window, "pumping-station")
        window.go_to("check", "over it")
        _until(app, lambda: window.idle)
        page = window.middle.page("over it")
        page.look(way="wipe")
        app.processEvents()
        for step in range(60):
            at = QPointF(page.width() * (0.2 + 0.01 * step), page.height() / 2)
            move = QMouseEvent(
                QEvent.Type.MouseMove,
                *(at, page.mapToGlobal(at)),
                *(Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier),
            )

            def moved(move=move) -> None:
                app.sendEvent(page, move)
                page.repaint()

            times.append(_timed(moved))
        window.close_down()
    return result("wipe_drag", 1000 * statistics.median(times), "ms a move of the wiping edge", 16.0)


if __name__ == "__main__":
    print(json.dumps(globals()[sys.argv[1]]()))
