"""The words of the working order: what is prepared, what is needed, what to look for; common practice throughout."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.craft.values.medium import Step
    from mild_compass.craft.work.rates import Kind
    from mild_compass.plan.sheet import Method
    from mild_compass.plan.tones import Medium
    from mild_compass.plan.work import HandWeight, Support

PREPARES: dict[Method, tuple[str, str]] = {
    "squared grid": ("Print the photo with squares", "Print it, and try the 100 mm bar with a ruler."),
    "transfer paper": ("Print the lines", "Print the pages, try the 100 mm bar, join them mark on mark."),
    "graphite tracing": ("Print and trace the lines", "Print them mirrored, join them, trace onto thin paper with 2B."),
    "light table": ("Print the lines", "Print the pages, try the 100 mm bar, join them mark on mark."),
    "freehand": ("Print photo and measures", "The photo print to look at, the table of measures beside you."),
}
METHOD_PACE: dict[Method, float] = {
    "squared grid": 1.5,
    "transfer paper": 1.0,
    "graphite tracing": 1.0,
    "light table": 0.8,
    "freehand": 2.0,
}
# A heavy hand takes a harder pencil for construction; on watercolour paper nothing harder than 2B.
PENCIL_OF_HAND: dict[tuple[Medium, HandWeight], str] = {
    ("hatching", "heavy"): "H to HB for construction: a heavy hand, a harder pencil",
    ("hatching", "light"): "B to 2B for construction: a light hand needs a softer one",
    ("opaque", "heavy"): "H to HB for construction: a heavy hand, a harder pencil",
    ("washes", "heavy"): "2B to 4B, held far back: nothing harder than 2B on watercolour paper",
    ("washes", "light"): "2B: nothing harder on watercolour paper",
}
ASKS: dict[Kind, str] = {
    "stretch": "No bubbles, no dry corners.",
    "tape": "Is the frame square to the board?",
    "tone": "One even value, no streaks.",
    "prepare": "Does the bar measure 100 mm?",
    "transfer": "Big lines first. Can you hardly see them from a step back?",
    "check": "The whole first: is it shifted, turned, too large?",
    "mix": "Half a value darker than it should dry.",
    "mask": "Are all the small lights under it?",
    "wash": "Keep a wet edge going; leave it alone as soon as it is down.",
    "unmask": "Is it dry and cool to the back of the hand?",
    "lift": "Which edge should be lost?",
    "dark": "Squint: is it one shape, or crumbs?",
    "light": "Not over the dark. Is the lightest where the eye should end?",
    "paint": "Is the value right before the edge is?",
    "hatch": "One even grey from a step back?",
    "details": "What can be left out now?",
    "lift lines": "Which of them still help?",
    "fix": "Hold it upright and look along it first.",
    "untape": "Is everything dry?",
}
NEEDS: dict[Kind, tuple[str, ...]] = {
    "stretch": ("gummed tape", "sponge", "board"),
    "tape": ("board", "tape"),
    "tone": (),
    "prepare": ("printer", "ruler"),
    "transfer": ("pencil", "kneaded rubber"),
    "check": ("a phone or camera",),
    "mix": ("palette", "a scrap of the same paper", "the value scale"),
    "mask": ("masking fluid", "an old brush or a pen"),
    "unmask": ("a soft rubber or a finger",),
    "lift": ("a clean damp brush", "cloth"),
    "lift lines": ("kneaded rubber",),
    "fix": ("fixative",),
    "untape": (),
    "details": (),
}
TOOLS: dict[Medium, dict[Kind, tuple[str, ...]]] = {
    "washes": {"wash": ("the largest brush that fits", "two jars of water"), "details": ("a pointed brush",)},
    "toned paper": {"dark": ("dark pencil or charcoal",), "light": ("white chalk or pencil",), "details": ("both",)},
    "charcoal": {
        "tone": ("charcoal powder or stick", "cloth"),
        "dark": ("charcoal stick",),
        "light": ("kneaded rubber", "a rubber with a clean edge"),
        "details": ("charcoal pencil",),
    },
    "opaque": {
        "tone": ("a wide brush", "thinned paint"),
        "paint": ("flat brushes", "rag"),
        "details": ("a small flat",),
    },
    "hatching": {"hatch": ("HB to 4B",), "details": ("a sharp 2B",)},
}


def materials_of(kind: Kind, medium: Medium, support: Support) -> tuple[str, ...]:
    """What is needed for a step."""
    given = (*NEEDS.get(kind, ()), *TOOLS[medium].get(kind, ()))
    return (support, *given) if kind in ("stretch", "tape") else given


def _washes(place: int, _: Step) -> Kind | None:
    return "mask" if place == 0 else "wash"


def _toned(place: int, step: Step) -> Kind | None:
    if place == 0:
        return None  # the paper itself
    return "light" if step.words.startswith("With the light") else "dark"


def _charcoal(place: int, step: Step) -> Kind | None:
    if place == 0:
        return None  # the tone is laid before the lines
    return "light" if step.title.startswith("Lift") else "dark"


def _opaque(place: int, _: Step) -> Kind | None:
    return "paint" if place else None


def _hatching(place: int, _: Step) -> Kind | None:
    return "hatch" if place else None


# Which kind of step each step of the way of working is; None for what is nothing to do, or done before.
MEDIUM_KINDS: dict[Medium, Callable[[int, Step], Kind | None]] = {
    "washes": _washes,
    "toned paper": _toned,
    "charcoal": _charcoal,
    "opaque": _opaque,
    "hatching": _hatching,
}
