"""Kills, full disks, the command line, and a long time at work."""

from __future__ import annotations

import json
import os
import random
import resource
import signal
import subprocess
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path

from mild_compass.plan import archive
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.workspace import leftovers

from .inputs import SAVED
from .trying import Tally, until

ROOT = Path(__file__).resolve().parents[2]
MOST_WALK_MB, MOST_CLOSED_MB = 600, 400
BEHIND_S = 0.5
SLACK_S = 0.05  # between the edit and the line that tells of it


def kills(tally: Tally, hand: random.Random, seconds: float, most: int, busy: bool) -> None:
    """A window that is worked on and killed; no edit older than half a second may be lost."""
    for number in until(seconds, most):
        tally.tries += 1
        with tempfile.TemporaryDirectory() as folder:
            words = [sys.executable, "-m", "tools.campaign.worker", folder, str(number), "busy" if busy else "idle"]
            environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "XDG_CONFIG_HOME": folder}
            worker = subprocess.Popen(words, cwd=ROOT, env=environment, stdout=subprocess.PIPE, text=True)
            assert worker.stdout is not None
            worker.stdout.readline()  # it has begun
            time.sleep(hand.uniform(0.6, 1.8))
            killed = time.time()
            worker.send_signal(signal.SIGKILL)
            whole, _, _ = worker.stdout.read().rpartition("\n")  # the kill may have cut the last line short
            told = [line.split() for line in whole.splitlines()]
            worker.wait()
            due = [int(edit) for edit, moment in told if float(moment) < killed - BEHIND_S - SLACK_S]
            left = leftovers(Path(folder) / "open")
            have = int(left[0].plan.name.split()[1]) if left and " " in left[0].plan.name else 0
            if due and have < max(due):
                tally.fault("work lost", f"edit {max(due)} of {len(told)} was due, {have} was there")


def disks(tally: Tally, hand: random.Random, seconds: float, most: int) -> None:
    """Disks that fill up while a plan is saved: the old file or the new one is whole, and no rubbish is left."""
    signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    soft, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
    with tempfile.TemporaryDirectory() as folder:
        photos = PhotoFolder(Path(folder) / "photos")
        old = archive.read(SAVED / "lantern-bench-1.mildplan", photos)
        path = Path(folder) / "plan.mildplan"
        archive.write(path, old, photos, None)
        whole = path.stat().st_size
        for number in until(seconds, most):
            tally.tries += 1
            new = replace(old, name=f"new {number}")
            limit = hand.randrange(1, whole + 2000)
            resource.setrlimit(resource.RLIMIT_FSIZE, (limit, hard))
            try:
                archive.write(path, new, photos, None)
                written = True
            except Exception as error:
                written = False
                if type(error).__name__ != "PlanError":
                    tally.fault("exception", repr(error))
                tally.refused += 1
            finally:
                resource.setrlimit(resource.RLIMIT_FSIZE, (soft, hard))
            found = archive.read(path, photos)
            if found.name != (new.name if written else old.name):
                tally.fault("file damaged", found.name)
            old = found
            if any(each.name.endswith(".part") for each in Path(folder).iterdir()):
                tally.fault("rubbish left", str(number))


def command_line(tally: Tally, hand: random.Random, seconds: float, most: int) -> None:
    """Words thrown at the command line: 0, 1 with a line on stderr, or 2; never a traceback."""
    plan = str(SAVED / "every-mark-1.mildplan")
    with tempfile.TemporaryDirectory() as folder:
        pool = (
            "new", "readings", "sheet", "export", "demo", "--blank", "--sheet", "A3", "A33, across", "-o", plan,
            "--json",
            f"{folder}/x.pdf", f"{folder}/x.mildplan", f"{folder}/none/x.svg", "--tiles", "A4", "--grid", "0mm", "nan",
            "--frame", "1,2,3", "--dpi", "1e9", "/dev/null", folder, "--station", "values", "--margin", "-5", "\x01",
            "",
            "--printer", "98x", "--layers", "frame,nothing", "--squares", "-3", "--overlap", "500mm",
        )  # fmt: skip
        environment = {key: value for key, value in os.environ.items() if key != "DISPLAY"} | {"QT_QPA_PLATFORM": ""}
        for _ in until(seconds, most):
            tally.tries += 1
            words = [hand.choice(pool[:5]), *(hand.choice(pool) for _ in range(hand.randint(0, 6)))]
            done = subprocess.run(
                [sys.executable, "-m", "mild_compass", *words], capture_output=True, text=True, timeout=60, check=False,
                env=environment,
            )  # fmt: skip
            if done.returncode not in (0, 1, 2) or "Traceback" in done.stderr:
                tally.fault("traceback", f"{words}: {done.stderr[-300:]}")
            if done.returncode == 1:
                tally.refused += 1
                if len(done.stderr.strip().splitlines()) > 4 or not done.stderr.strip():
                    tally.fault("no sentence", f"{words}: {done.stderr[-300:]}")


def walk(tally: Tally, hand: random.Random, seconds: float, _: int) -> None:
    """A careless hand at all stations: memory stays within bounds, also when the plan is closed, and nothing stops the
    window for long."""
    with tempfile.TemporaryDirectory() as folder:
        words = [sys.executable, "-m", "tools.campaign.walk", folder, str(hand.randrange(1000)), str(seconds)]
        own = {f"XDG_{name}_HOME": f"{folder}/{name}" for name in ("CONFIG", "STATE", "DATA", "CACHE")}
        environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", **own}
        done = subprocess.run(words, cwd=ROOT, env=environment, capture_output=True, text=True, check=False)
    if done.returncode:
        tally.fault("exception", done.stderr[-600:])
        return
    told = json.loads(done.stdout.splitlines()[-1])
    tally.tries += told["actions"]
    memory, closed = told["memory_mb"], told["closed_mb"]
    tally.samples.append(f"MB resident by minute: {' '.join(map(str, memory))}; {closed} when the plan is closed")
    if max(memory) > MOST_WALK_MB:
        tally.fault("memory", f"{max(memory)} MB")
    if closed > MOST_CLOSED_MB:
        tally.fault("memory", f"{closed} MB when the plan is closed")
    for cause, took in sorted(told["stops_ms"].items(), key=lambda each: -sum(each[1])):
        tally.faults["stop"] += len(took)
        tally.samples.append(f"stops of more than 100 ms in {cause}: {len(took)}, at most {took[-1]} ms")
