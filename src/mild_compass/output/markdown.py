"""The logbook as Markdown."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from mild_compass.plan.model import LogEntry, Plan

SIGNS = str.maketrans({sign: f"\\{sign}" for sign in "\\`*_[]<>#|"})


def logbook_markdown(plan: Plan) -> str:
    """Notes and decisions in order, a heading per day; notes are quoted, decisions are list items."""
    paper = plan.paper
    lines = [
        f"# {_plain(plan.name)}",
        "",
        f"{_plain(paper.name)}, {paper.width_mm:g} × {paper.height_mm:g} mm, margin {paper.margin_mm:g} mm.",
    ]
    day = ""
    for entry in plan.log:
        date, clock = when(entry)
        if date != day:
            day = date
            lines += ["", f"## {date}", ""]
        study = f", study {_plain(entry.study)}" if entry.study else ""
        what = f"“{_plain(entry.text)}”" if entry.kind == "note" else _plain(entry.text)
        lines.append(f"- {clock} · {entry.station.capitalize()}{study} · {what}")
    return "\n".join(lines) + "\n"


def when(entry: LogEntry) -> tuple[str, str]:
    """Date and time of an entry as they are written, in the zone they were noted in."""
    try:
        moment = datetime.fromisoformat(entry.time)
    except ValueError:
        return _plain(entry.time), ""
    return f"{moment:%Y-%m-%d}", f"{moment:%H:%M}"


def _plain(text: str) -> str:
    return " ".join(text.translate(SIGNS).split())
