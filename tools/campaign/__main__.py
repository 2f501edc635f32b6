"""Run the campaign: python -m tools.campaign [--minutes 20] [--seed 1] [--only KIND…]; writes docs/robustness.md."""

from __future__ import annotations

import argparse
from multiprocessing import get_context
from pathlib import Path

from .kinds import KINDS, run
from .trying import Tally

FAULTS = ("exception", "hang", "memory", "no sentence", "other")
PAGE = Path(__file__).resolve().parents[2] / "docs/robustness.md"


WORDS = """# Robustness

Made by `make campaign` with seed {seed}; the same seed gives the same tries. A try must work or be refused with a
sentence. The columns after *refused* should be nought; *other* counts work lost, files damaged, how often the window
stood still for more than a tenth of a second.

"""


def page(tallies: list[Tally], seed: int) -> str:
    """The summary as Markdown."""
    lines = [f"| kind | tries | refused | {' | '.join(FAULTS)} | seconds |"]
    lines.append("|---|---|---|" + "---|" * (len(FAULTS) + 1))
    for each in tallies:
        known = [each.faults[name] for name in FAULTS[:-1]]
        counts = " | ".join(map(str, [*known, sum(each.faults.values()) - sum(known)]))
        lines.append(f"| {each.kind} | {each.tries} | {each.refused} | {counts} | {each.seconds:.0f} |")
    told = [f"- {each.kind}: {sample}" for each in tallies for sample in each.samples]
    return WORDS.format(seed=seed) + "\n".join([*lines, "", *told, ""])


def main() -> int:
    """Run all kinds, two at a time, and write the page; 1 when something is not nought."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--minutes", type=float, default=20.0)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", nargs="*", choices=tuple(KINDS), default=tuple(KINDS))
    options = parser.parse_args()
    print(f"seed {options.seed}", flush=True)
    with get_context("spawn").Pool(2, maxtasksperchild=1) as pool:
        asked = [(name, options.seed, 60 * options.minutes) for name in options.only]
        tallies = pool.starmap(run, asked, chunksize=1)
    text = page(tallies, options.seed)
    print(text)
    if set(options.only) == set(KINDS):
        PAGE.write_text(text)
    return 1 if any(each.faults for each in tallies) else 0


if __name__ == "__main__":
    raise SystemExit(main())
