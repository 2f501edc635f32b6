"""A document of a few kinds of block, written as Markdown, as HTML in one file, or as PDF."""

from __future__ import annotations

import base64
import io
from dataclasses import dataclass
from html import escape
from typing import TYPE_CHECKING

from PIL import Image

from mild_compass.output.canvas import as_reader
from mild_compass.output.sheet_pages import EDGE_MM, Page

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    import numpy as np
    from numpy.typing import NDArray

SIGNS = str.maketrans({sign: f"\\{sign}" for sign in "\\`*_[]<>#|"})
FIGURE_MM, CAPTION_MM = (92.0, 70.0), 6.0
STYLE = """
body { font: 16px/1.5 sans-serif; max-width: 46rem; margin: 2.5rem auto; padding: 0 1rem; color: #222; }
h1 { font-size: 1.7rem; }
h2 { font-size: 1.2rem; margin-top: 2.2rem; }
h3 { font-size: 1rem; margin: 1.4rem 0 .3rem; }
ul { padding-left: 1.2rem; }
figure { margin: 1rem 0; }
img { max-width: 100%; }
figcaption { color: #555; }
table { border-collapse: collapse; width: 100%; }
th, td { text-align: left; vertical-align: top; padding: .3rem .6rem .3rem 0; border-bottom: 1px solid #ddd; }
"""


@dataclass(frozen=True, slots=True)
class Heading:
    """A heading; level 1 is the document's own."""

    text: str
    level: int = 2


@dataclass(frozen=True, slots=True)
class Text:
    """A paragraph."""

    text: str


@dataclass(frozen=True, slots=True)
class Entry:
    """A line of a list: what it begins with, as a time, and its words."""

    lead: str
    text: str


@dataclass(frozen=True, slots=True)
class Table:
    """Rows of words under their heads."""

    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True, eq=False, slots=True)
class Figure:
    """A picture (h, w, 3) with its caption."""

    rgb: NDArray[np.uint8]
    caption: str


Block = Heading | Text | Entry | Table | Figure


def as_markdown(blocks: Sequence[Block]) -> str:
    """Markdown; pictures are left out, their captions stay."""
    lines: list[str] = []
    for block in blocks:
        if isinstance(block, Entry) and lines and lines[-1].startswith("- "):
            lines.append(_markdown(block))
        else:
            lines += ["", _markdown(block)]
    return "\n".join(lines[1:]) + "\n"


def _markdown(block: Block) -> str:
    if isinstance(block, Heading):
        return f"{'#' * block.level} {plain(block.text)}"
    if isinstance(block, Text):
        return plain(block.text)
    if isinstance(block, Entry):
        return f"- {plain(block.lead)} · {plain(block.text)}" if block.lead else f"- {plain(block.text)}"
    if isinstance(block, Figure):
        return f"*{plain(block.caption)}*"
    rows = [" | ".join(plain(cell) for cell in row) for row in (block.heads, *block.rows)]
    return "\n".join(f"| {row} |" for row in (rows[0], " | ".join("---" for _ in block.heads), *rows[1:]))


def plain(text: str) -> str:
    """Words without any meaning to Markdown, in one line."""
    return " ".join(text.translate(SIGNS).split())


def as_html(title: str, blocks: Sequence[Block]) -> str:
    """One HTML file with the pictures in it; it fetches nothing."""
    body: list[str] = []
    for block in blocks:
        if isinstance(block, Entry):
            if not (body and body[-1] == "</ul>"):
                body += ["<ul>", "</ul>"]
            lead = f"<b>{escape(block.lead)}</b> " if block.lead else ""
            body.insert(-1, f"<li>{lead}{escape(block.text)}</li>")
        else:
            body.append(_html(block))
    head = f'<meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>{escape(title)}</title>'
    return f'<!doctype html>\n<html lang="en"><head>{head}<style>{STYLE}</style></head>\n<body>\n' + "\n".join(
        [*body, "</body></html>\n"]
    )


def _html(block: Block) -> str:
    if isinstance(block, Heading):
        return f"<h{block.level}>{escape(block.text)}</h{block.level}>"
    if isinstance(block, Text):
        return f"<p>{escape(block.text)}</p>"
    if isinstance(block, Figure):
        packed = io.BytesIO()
        Image.fromarray(block.rgb).save(packed, "JPEG", quality=85)
        data = base64.b64encode(packed.getvalue()).decode()
        words = escape(block.caption)
        return (
            f'<figure><img alt="{words}" src="data:image/jpeg;base64,{data}"><figcaption>{words}</figcaption></figure>'
        )
    assert isinstance(block, Table)
    rows = ["".join(f"<th>{escape(cell)}</th>" for cell in block.heads)]
    rows += ["".join(f"<td>{escape(cell)}</td>" for cell in row) for row in block.rows]
    return "<table>" + "".join(f"<tr>{row}</tr>" for row in rows) + "</table>"


def as_pdf(title: str, blocks: Sequence[Block]) -> bytes:
    """Pages of A4; the title stands on each, so that the first heading is not repeated."""
    page = Page(title)
    for block in blocks:
        if isinstance(block, Heading):
            if block.level > 1:
                page.head(block.text)
        elif isinstance(block, Text):
            page.text(block.text)
            page.y += 1
        elif isinstance(block, Entry):
            page.text(block.text, 20 if block.lead else 5, block.lead or "–")
        elif isinstance(block, Table):
            _table(page, block)
        else:
            _figure(page, block)
    return page.done()


def _table(page: Page, table: Table) -> None:
    """Rows under each other; cells that are long wrap within their column."""
    page.cells(table.heads, ink="armature")
    for row in table.rows:
        page.cells(row)
    page.y += 2


def _figure(page: Page, figure: Figure) -> None:
    height, width = figure.rgb.shape[:2]
    wide = min(FIGURE_MM[0], FIGURE_MM[1] * width / height)
    high = wide * height / width
    page.room(high + 2 * CAPTION_MM)
    page.canvas.picture(as_reader(figure.rgb), EDGE_MM, page.y - 3, wide, high)
    page.y += high + CAPTION_MM - 2
    page.text(figure.caption)
    page.y += 2


def writer_of(suffix: str) -> Callable[[str, Sequence[Block]], bytes] | None:
    """What writes a document in the kind a suffix names."""
    return {
        ".md": lambda _, blocks: as_markdown(blocks).encode(),
        ".html": lambda title, blocks: as_html(title, blocks).encode(),
        ".pdf": as_pdf,
    }.get(suffix)
