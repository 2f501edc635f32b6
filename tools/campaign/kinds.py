"""The kinds of tries, and how each is run in a process of its own."""

from __future__ import annotations

import random
import time
from functools import partial

from . import inputs, machines
from .trying import Tally, limit_memory

# Kind, what runs it, share of the time, most tries, whether memory is held.
KINDS = {
    "photos": (inputs.photos, 0.12, 16_000, True),
    "plan files": (inputs.plan_files, 0.10, 8_000, True),
    "plan entries": (inputs.plan_entries, 0.16, 6_000, True),
    "edits": (inputs.edits, 0.2, 6_000, True),
    "hostile words": (inputs.words, 0.10, 2_000, True),
    "command line": (machines.command_line, 0.08, 250, False),
    "kills": (partial(machines.kills, busy=False), 0.6, 200, False),
    "kills, workers busy": (partial(machines.kills, busy=True), 0.6, 200, False),
    "full disks": (machines.disks, 0.03, 600, False),
    "careless walk": (machines.walk, 0.75, 1, False),
}


def run(name: str, seed: int, seconds: float) -> Tally:
    """One kind of try, in a process of its own."""
    function, share, most, held = KINDS[name]
    if held:
        limit_memory()
    tally, begun = Tally(name), time.monotonic()
    function(tally, random.Random(f"{seed} {name}"), seconds * share, most)
    tally.seconds = time.monotonic() - begun
    return tally
