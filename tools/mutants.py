"""How good are the tests of plan and craft? Small faults are put into the code, one at a time, and tests must notice.

``make mutants`` (about half an hour): the tests run once to learn which of them reach which line; then a sample of
faults (Cosmic Ray makes them: other operators, other numbers, conditions turned round) in lines that some test
reaches, drawn with a seed, each tried with the tests that
reach its line, at most sixty, the most focused first. Not in CI. Prints what survived.
"""

from __future__ import annotations

import argparse
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

import coverage
from cosmic_ray.ast import ast_nodes, get_ast
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator, operator_names

ROOT = Path(__file__).resolve().parents[1]
ROOMS = ("plan", "craft")
TESTS = ("tests/plan", "tests/craft", "tests/output")
# Types are not run, so a fault in "A | None" is none; the other two need to be told which variable.
LEFT_OUT = ("ReplaceBinaryOperator_BitOr", "Variable", "RemoveDecorator", "ExceptionReplacer")
MOST_TESTS, LONGEST_S = 60, 120
NOTICED = (
    1,
    2,
    4,
)  # pytest: a test failed, was broken off, or its file could not be read for the fault in what it reads


@dataclass(frozen=True)
class Fault:
    """One change: where, by which operator, the how manieth place of it in the file."""

    path: str
    line: int
    operator: str
    occurrence: int


def reached_lines() -> dict[str, dict[int, list[str]]]:
    """By file and line the tests that reach it."""
    with tempfile.TemporaryDirectory() as folder:
        return _reached(Path(folder) / "coverage")


def _reached(data: Path) -> dict[str, dict[int, list[str]]]:
    words = ["-n", "2", "-q", "--cov", "--cov-report=", "--cov-fail-under=0", "--cov-context=test", *TESTS]
    subprocess.run(
        [sys.executable, "-m", "pytest", *words],
        cwd=ROOT,
        check=True,
        env={**os.environ, "COVERAGE_FILE": str(data), "PYTHONPATH": str(ROOT / "src")},
    )
    found = coverage.CoverageData(str(data))
    found.read()
    lines: dict[str, dict[int, list[str]]] = {}
    for file in found.measured_files():
        path = Path(file).relative_to(ROOT)
        if path.parts[:2] == ("src", "mild_compass") and path.parts[2] in ROOMS:
            contexts = found.contexts_by_lineno(file)
            lines[str(path)] = {
                line: sorted({_whole(name) for name in names if name}) for line, names in contexts.items()
            }
    wide = Counter(test for each in lines.values() for tests in each.values() for test in tests)
    return {
        path: {line: _focused(tests, wide) for line, tests in each.items() if tests} for path, each in lines.items()
    }


def _focused(tests: list[str], wide: Counter[str]) -> list[str]:
    """Those that reach the fewest lines first: they say most of each."""
    return sorted(tests, key=lambda each: (wide[each], each))[:MOST_TESTS]


def _whole(context: str) -> str:
    """The test of a context, with all its parameters: some ids cannot be asked for one by one."""
    return context.split("|")[0].split("[")[0]


def faults_of(path: str, lines: dict[int, list[str]]) -> list[Fault]:
    """All faults that can be put into the reached lines of a file."""
    nodes = list(ast_nodes(get_ast((ROOT / path).read_text())))
    found = []
    for name in operator_names():
        if any(word in name for word in LEFT_OUT):
            continue
        operator, count = get_operator(name)(), 0
        for node in nodes:
            for start, _ in operator.mutation_positions(node):
                if start[0] in lines:
                    found.append(Fault(path, start[0], name, count))
                count += 1
    return found


def tried(fault: Fault, tests: list[str], tree: Path) -> bool:
    """Whether the tests notice the fault, put into a copy of the source."""
    source = (ROOT / fault.path).read_text()
    changed = mutate_code(source, get_operator(fault.operator)(), fault.occurrence)
    target = tree / fault.path
    if changed is None or changed == source:
        return True
    target.write_text(changed)
    try:
        done = subprocess.run(
            [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *tests],
            cwd=ROOT, env={**os.environ, "PYTHONPATH": str(tree / "src")}, capture_output=True, timeout=LONGEST_S,
            check=False,
        )  # fmt: skip
        return done.returncode in NOTICED
    except subprocess.TimeoutExpired:
        return True
    finally:
        target.write_text(source)


def main() -> int:
    """Print the score and what survived; 1 when the score is below what is wanted."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--sample", type=int, default=400)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--minutes", type=float, default=26.0, help="begin no further fault after so long")
    parser.add_argument("--wanted", type=float, default=80.0, help="per cent")
    options = parser.parse_args()
    lines = reached_lines()
    faults = sorted((each for path in lines for each in faults_of(path, lines[path])), key=repr)
    sample = random.Random(options.seed).sample(faults, min(options.sample, len(faults)))
    print(f"{len(faults)} faults are possible, {len(sample)} are tried, seed {options.seed}", flush=True)
    trees: Queue[Path] = Queue()
    until, survived, count = time.monotonic() + 60 * options.minutes, [], 0
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(2) as pool:
        for number in range(2):
            trees.put(Path(folder) / str(number))
            shutil.copytree(ROOT / "src", Path(folder) / str(number) / "src")

        def judge(fault: Fault) -> tuple[Fault, bool | None]:
            if time.monotonic() > until:
                return fault, None
            tree = trees.get()
            try:
                return fault, tried(fault, lines[fault.path][fault.line], tree)
            finally:
                trees.put(tree)

        for fault, noticed in pool.map(judge, sample):
            if noticed is None:
                continue
            count += 1
            if not noticed:
                survived.append(fault)
                print(f"survived: {fault.path}:{fault.line} {fault.operator} {fault.occurrence}", flush=True)
    score = 100 * (count - len(survived)) / max(count, 1)
    print(f"{count} tried, {count - len(survived)} noticed: {score:.1f} %")
    return 0 if score >= options.wanted else 1


if __name__ == "__main__":
    raise SystemExit(main())
