"""An index over all plans in the artist's folders: found as one types, made anew where a plan has changed.

SQLite's full-text index (FTS5). It lives in the cache: when it is damaged or of another version it is made again.
"""

from __future__ import annotations

import logging
import os
import sqlite3
from contextlib import closing, contextmanager
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import TYPE_CHECKING
from urllib.parse import quote_from_bytes, unquote_to_bytes

from mild_compass.craft.logbook.repeated import Wrong
from mild_compass.craft.logbook.timeline import timeline
from mild_compass.plan import archive
from mild_compass.plan.departure_kinds import kind_of
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    from mild_compass.plan.model import Plan

log = logging.getLogger(__name__)
VERSION = 1
SUFFIX = ".mildplan"
MOST_PLANS = 20_000
MOST_HITS = 200
# Of SQLite's result codes (sqlite.org/rescode.html) those that tell of the file: its pages, its head, its tables.
DAMAGED = (sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB, sqlite3.SQLITE_ERROR)
NO_TEXT = "bytes:"  # before a path whose name is no UTF-8
TABLES = (
    """CREATE TABLE plans(path TEXT PRIMARY KEY, mtime_ns INTEGER, size INTEGER, name TEXT, problem TEXT,
    first INTEGER, last INTEGER)""",
    "CREATE TABLE wrong(path TEXT, topic TEXT, way TEXT, planned TEXT, learned TEXT)",
    """CREATE VIRTUAL TABLE lines USING fts5(
    text, path UNINDEXED, time UNINDEXED, station UNINDEXED, study UNINDEXED, kind UNINDEXED,
    tokenize = "unicode61 remove_diacritics 2", prefix = '2 3')""",
)


@dataclass(frozen=True, slots=True)
class Hit:
    """A line of a plan's logbook that was found: in which file, in which plan."""

    path: str
    plan: str
    time: str
    station: str
    study: str
    kind: str
    text: str

    def as_json(self) -> dict[str, str]:
        """For scripts."""
        return asdict(self)


@dataclass(frozen=True, slots=True)
class Renewed:
    """What bringing the index up to date has done: plans in it, read anew, and those that cannot be read, with why."""

    plans: int
    read: int
    problems: tuple[str, ...] = ()


class PlanIndex:
    """The index in one file; every call opens it, so that several windows and the command line can use it."""

    def __init__(self, path: Path) -> None:
        self.path = path

    def renew(self, folders: Sequence[Path], check: Callable[[], None] = lambda: None) -> Renewed:
        """Read what has changed in the folders, and forget what is gone; ``check`` may raise to call it off.

        What has been read so far is kept even then.

        Raises:
            PlanError: the index cannot be written.
        """
        try:
            return self._brought_up_to_date(folders, check)
        except sqlite3.Error as error:
            raise PlanError(
                f"The index over all plans cannot be written ({error}). The plans are not touched."
            ) from error

    def _brought_up_to_date(self, folders: Sequence[Path], check: Callable[[], None]) -> Renewed:
        with closing(self._opened()) as base:
            known = {
                path: (mtime, size) for path, mtime, size in base.execute("SELECT path, mtime_ns, size FROM plans")
            }
            there, read = set(), 0
            for file in plans_in(folders, check):
                check()
                path = stored(file)
                there.add(path)
                try:
                    stat = file.stat()
                except OSError:
                    continue
                if known.get(path) != (stat.st_mtime_ns, stat.st_size):
                    self._take(base, file, stat.st_mtime_ns, stat.st_size)
                    read += 1
            with _alone(base):
                for path in set(known) - there:
                    if _is_in(path, folders) or not path_of(path).exists():
                        self._forget(base, path)
            problems = [row[0] for row in base.execute("SELECT problem FROM plans WHERE problem != '' ORDER BY path")]
            return Renewed(len(there), read, tuple(problems))

    def search(self, words: str, folders: Sequence[Path] = (), most: int = MOST_HITS) -> tuple[Hit, ...]:
        """Lines that hold all words, each as the beginning of a word, the newest first; within some folders only.

        Raises:
            PlanError: the index cannot be opened.
        """
        wanted = _query(words)
        if not wanted:
            return ()
        with closing(self._opened()) as base:
            rows = base.execute(
                "SELECT lines.path, plans.name, time, station, study, kind, text FROM lines "
                "JOIN plans ON plans.path = lines.path WHERE lines MATCH ? ORDER BY time DESC, lines.path, lines.rowid",
                (wanted,),
            )
            found = []
            for row in rows:
                if not folders or _is_in(row[0], folders):
                    found.append(Hit(str(path_of(row[0])), *row[1:]))
                    if len(found) == most:
                        break
            return tuple(found)

    def wrong(self, folders: Sequence[Path] = (), but: Path | None = None) -> tuple[Wrong, ...]:
        """What went otherwise than planned in all plans, or those of some folders, but one.

        Raises:
            PlanError: the index cannot be opened.
        """
        with closing(self._opened()) as base:
            rows = base.execute(
                "SELECT plans.path, plans.name, topic, way, planned, learned FROM wrong "
                "JOIN plans ON plans.path = wrong.path ORDER BY plans.path, wrong.rowid"
            )
            here = stored(but.resolve()) if but is not None else ""
            return tuple(Wrong(*row[1:]) for row in rows if row[0] != here and (not folders or _is_in(row[0], folders)))

    # -- the file ---------------------------------------------------------------------------------------------

    def _opened(self) -> sqlite3.Connection:
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
            try:
                return self._made()
            except sqlite3.DatabaseError as error:
                if error.sqlite_errorcode & 0xFF not in DAMAGED:
                    raise
            log.warning("the index over all plans is damaged; it is set aside and made anew")
            self.path.replace(self.path.with_suffix(".damaged"))
            return self._made()
        except (OSError, sqlite3.Error) as error:
            raise PlanError(
                f"The index over all plans cannot be opened ({error}). The plans are not touched."
            ) from error

    def _made(self) -> sqlite3.Connection:
        base = sqlite3.connect(self.path, timeout=10)
        try:
            if _version(base) != VERSION:
                with _alone(base):
                    if _version(base) != VERSION:  # nobody else has made it meanwhile
                        _make_tables(base)
            base.execute("SELECT count(*) FROM plans").fetchone()
            base.execute("SELECT rowid FROM lines LIMIT 1").fetchone()
        except sqlite3.Error:
            base.close()
            raise
        return base

    def _take(self, base: sqlite3.Connection, file: Path, mtime_ns: int, size: int) -> None:
        """Read a plan into the index; one that cannot be read is remembered with its reason."""
        path, name, problem = stored(file), printable(file.stem), ""
        lines: list[tuple[str, ...]] = []
        wrong: tuple[Wrong, ...] = ()
        try:
            plan = archive.read_plan(file)
        except PlanError as error:
            problem = printable(str(error))
        else:
            name, wrong = plan.name, wrong_in(plan)
            lines = [(each.text, path, each.time, each.station, each.study, each.kind) for each in timeline(plan)]
        with _alone(base):
            self._forget(base, path)
            first = base.execute("SELECT coalesce(max(last), 0) + 1 FROM plans").fetchone()[0]
            base.executemany(
                "INSERT INTO lines(rowid, text, path, time, station, study, kind) VALUES(?, ?, ?, ?, ?, ?, ?)",
                [(first + place, *line) for place, line in enumerate(lines)],
            )
            row = (path, mtime_ns, size, name, problem, first, first + len(lines) - 1)
            base.execute("INSERT INTO plans VALUES(?, ?, ?, ?, ?, ?, ?)", row)
            base.executemany(
                "INSERT INTO wrong VALUES(?, ?, ?, ?, ?)",
                [(path, each.topic, each.way, each.planned, each.learned) for each in wrong],
            )

    def _forget(self, base: sqlite3.Connection, path: str) -> None:
        """The lines of a plan follow one another, so that they are found without looking at all others."""
        for first, last in base.execute("SELECT first, last FROM plans WHERE path = ?", (path,)).fetchall():
            base.execute("DELETE FROM lines WHERE rowid BETWEEN ? AND ?", (first, last))
        for table in ("plans", "wrong"):
            base.execute(f"DELETE FROM {table} WHERE path = ?", (path,))


@contextmanager
def _alone(base: sqlite3.Connection) -> Iterator[None]:
    """Nobody else writes meanwhile, from the first look on; several windows may renew the index at a time."""
    with base:
        base.execute("BEGIN IMMEDIATE")
        yield


def _version(base: sqlite3.Connection) -> int:
    return int(base.execute("PRAGMA user_version").fetchone()[0])


def _make_tables(base: sqlite3.Connection) -> None:
    for (name,) in base.execute(
        "SELECT name FROM sqlite_master WHERE type = 'table' AND name IN ('plans', 'wrong', 'lines')"
    ).fetchall():
        base.execute(f"DROP TABLE {name}")
    for table in TABLES:
        base.execute(table)
    base.execute(f"PRAGMA user_version = {VERSION}")


def stored(path: Path) -> str:
    """A path as text that a database can hold, whatever bytes its name has."""
    try:
        text = str(path)
        text.encode()
    except UnicodeEncodeError:
        return NO_TEXT + quote_from_bytes(os.fsencode(path))
    return text


def path_of(text: str) -> Path:
    """The path that was stored."""
    if text.startswith(NO_TEXT):
        return Path(os.fsdecode(unquote_to_bytes(text.removeprefix(NO_TEXT))))
    return Path(text)


def printable(text: str) -> str:
    """Words that can be shown and stored: bytes that are no UTF-8 as their numbers."""
    return text.encode(errors="backslashreplace").decode()


def plans_in(folders: Sequence[Path], check: Callable[[], None] = lambda: None) -> Iterator[Path]:
    """All plans in folders and what is below them, each once; links to folders are not followed.

    ``check`` is called in each folder and may raise to call it off.
    """
    seen: set[Path] = set()
    for folder in folders:
        for file in _below(folder.resolve(), check):
            if file not in seen and file.is_file() and len(seen) < MOST_PLANS:
                seen.add(file)
                yield file


def _below(folder: Path, check: Callable[[], None]) -> list[Path]:
    found = []
    for place, _, names in os.walk(folder):
        check()
        found += [Path(place, name) for name in names if name.endswith(SUFFIX)]
    return sorted(found)


def wrong_in(plan: Plan) -> tuple[Wrong, ...]:
    """What went otherwise than planned, as the artist has told: changed or dropped, or more or less than planned."""
    told = [
        Wrong(plan.name, each.topic, each.way, each.planned, each.learned)
        for each in plan.came_out
        if each.way or each.outcome in ("changed", "dropped")
    ]
    departed = [
        Wrong(plan.name, each.kind, "", f"{kind_of(each.kind).verb} {each.name or 'this'}", each.happened)
        for study in plan.studies
        for each in study.departures
        if each.outcome in ("changed", "dropped")
    ]
    return (*told, *departed)


def _query(words: str) -> str:
    """Words as the full-text index asks for them: each a beginning, all of them, none of its own signs."""
    plain = "".join(sign if sign.isalnum() else " " for sign in words)
    return " ".join(f'"{word}"*' for word in plain.split()[:12])


def _is_in(path: str, folders: Sequence[Path]) -> bool:
    return any(path_of(path).is_relative_to(folder.resolve()) for folder in folders)
