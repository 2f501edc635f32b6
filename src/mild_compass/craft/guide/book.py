"""The guide's chapters, read from Markdown; words looked for in it; the paragraph that explains a reading."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

from mild_compass.assets import GUIDE
from mild_compass.craft.logbook.timeline import has_words
from mild_compass.plan.stations import StationName

CHAPTERS = (
    *("start", "references", "viewfinder", "armature", "perspective", "values", "sheet", "check", "logbook", "words"),
)
HEADING = "### "


@dataclass(frozen=True, slots=True)
class Section:
    """A heading with what stands under it; the beginning of a chapter has the chapter's title as heading."""

    chapter: str
    heading: str
    text: str


@dataclass(frozen=True, slots=True)
class Chapter:
    """A chapter: the name of its file, its title, its Markdown, and its sections."""

    name: str
    title: str
    markdown: str
    sections: tuple[Section, ...]


@cache
def chapter(name: str) -> Chapter:
    """A chapter by name."""
    markdown = (GUIDE / f"{name}.md").read_text(encoding="utf-8")
    first, *rest = markdown.split(f"\n{HEADING}")
    title, _, beginning = first.partition("\n")
    title = title.removeprefix("# ").strip()
    sections = [Section(name, title, beginning.strip())]
    for part in rest:
        heading, _, text = part.partition("\n")
        sections.append(Section(name, heading.strip(), text.strip()))
    return Chapter(name, title, markdown, tuple(sections))


def found(words: str) -> tuple[Section, ...]:
    """Sections that hold all words, as beginnings of words; those with them in the heading first."""
    every = [section for name in CHAPTERS for section in _paragraphs(chapter(name))]
    hits = [section for section in every if has_words(f"{section.heading} {section.text}", words)]
    return tuple(sorted(hits, key=lambda section: not has_words(section.heading, words)))


def _paragraphs(book: Chapter) -> tuple[Section, ...]:
    """The words of the trade each by itself, so that a search leads to the word and not to all of them."""
    if book.name != "words":
        return book.sections
    lines = [line for line in book.sections[0].text.splitlines() if line.startswith("**")]
    return tuple(Section("words", line[2:].split("**")[0], line) for line in lines)


# Where readings are explained: the beginning of a reading's key, and the heading. The rest leads to the chapter.
WHY: dict[StationName, tuple[tuple[str, str], ...]] = {
    "references": (
        ("in_use_set_aside", "Kept and set aside"),
        ("kept", "Kept and set aside"),
        ("print_size", "How large it prints"),
        ("enlarged", "How large it prints"),
    ),
    "viewfinder": (
        ("placement", "Dead centre"),
        ("lead", "Lead room"),
        ("edge", "Edges that pull"),
        ("tangent", "Touching and cutting"),
        ("cut", "Touching and cutting"),
        ("touch", "Touching and cutting"),
        ("spare", "What could go"),
        ("balance", "Balance"),
        ("asymmetry", "Balance"),
        ("dark_", "Dark and light"),
        ("horizon", "Horizon at half height"),
        ("sharpness", "Size and sharpness"),
        ("scale", "Size and sharpness"),
        ("share_kept", "Size and sharpness"),
        ("measured", "Size and sharpness"),
        ("bare_", "What could go"),
    ),
    "armature": (
        ("lock_in", "Lock-in and luck"),
        ("chance", "Lock-in and luck"),
        ("best_armature", "Lock-in and luck"),
        ("nudge", "Nudge"),
        ("path", "Eye path"),
        ("weak", "Weak direction"),
        ("engage", "Weak direction"),
        ("ratio", "Reciprocals and rabatment"),
        ("nearest_ratio", "Reciprocals and rabatment"),
    ),
    "perspective": (
        ("horizon_half", "Eye level"),
        ("horizon", "Eye level"),
        ("eye", "Eye level"),
        ("heights", "Eye level"),
        ("heads", "Eye level"),
        ("set_", "Trace edges"),
        ("doubtful", "Sure, likely, not sure"),
        ("far_", "Points off the sheet"),
        ("pin_", "Points off the sheet"),
        ("guide", "Figures and things"),
        ("gaps", "Figures and things"),
        ("board", "Points off the sheet"),
        ("string", "String check"),
        ("cone", "Cone of vision"),
        ("focal", "The lens"),
        ("tipped", "The lens"),
        ("cropped", "The lens"),
        ("many_sets", "Too many directions"),
        ("light", "Light and shadow"),
        ("stretched", "The stage"),
        ("overlaps", "The stage"),
        ("out_of_sight", "The stage"),
    ),
    "values": (
        ("trap", "Colours that deceive"),
        ("focus", "First, second, third read"),
        ("hierarchy", "First, second, third read"),
        ("read", "First, second, third read"),
        ("corner_pull", "First, second, third read"),
        ("edge_pull", "First, second, third read"),
        ("lights", "Lights and darks in order"),
        ("darks", "Lights and darks in order"),
        ("join", "Masses"),
        ("dark_share", "Masses"),
        ("by_hand", "Masses"),
        ("hardest", "Hard, soft and lost edges"),
        ("edges", "Hard, soft and lost edges"),
        ("melts", "The subject melts"),
        ("shapes", "Masses"),
        ("share", "Masses"),
    ),
    "sheet": (
        ("transfers", "Transfer"),
        ("pages", "Pages to join"),
        ("squares", "Transfer"),
        ("mirrored", "Transfer"),
        ("lift", "Lines that stay, lines to lift"),
        ("units", "Measure"),
        ("datum", "Measure"),
        ("measured", "Measure"),
        ("aligned", "Measure"),
        ("negatives", "Measure"),
        ("sides", "Measure"),
        ("positive", "Motif repeats"),
        ("contacts", "Motif repeats"),
        ("turns", "Motif repeats"),
        ("overlap", "Motif repeats"),
        ("weight", "Motif repeats"),
        ("low", "Motif repeats"),
        ("sheet_size", "Pages to join"),
    ),
    "check": (
        ("whole", "The whole first"),
        ("value", "Values as drawn"),
        ("drawn_read", "Values as drawn"),
        ("missing", "Then what is off"),
        ("off", "Then what is off"),
        ("part", "Then what is off"),
        ("doubtful", "Then what is off"),
        ("drawn_strings", "Along a line, across a line"),
        ("length", "Then what is off"),
        ("corners", "How to photograph"),
        ("problem", "How to photograph"),
        ("no_drawing", "How to photograph"),
    ),
    "logbook": (
        ("work", "Working order"),
        ("over", "Sittings"),
        ("light", "Sittings"),
        ("steps done", "At the easel"),
        ("to tell", "Planned and done"),
        ("again", "Planned and done"),
    ),
}


def why(station: StationName, key: str) -> Section:
    """The section that explains a reading; the chapter's beginning where none does."""
    book = chapter(station)
    heading = next((words for start, words in WHY[station] if key.startswith(start)), book.title)
    return next(section for section in book.sections if section.heading == heading)
