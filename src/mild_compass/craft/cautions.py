"""Cautions for materials and places, short and calm: shown where a material is chosen, at the step, in exports."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from mild_compass.craft.work.rates import Kind
    from mild_compass.plan.tones import Medium

LABEL = "Follow the label and the safety data sheet, and local rules."
KNIFE = "Cutting: away from the hand, along a metal rule, with a fresh blade."
DUST = "Charcoal, pastel and dry pigment: wipe up wet, do not blow the dust, wear a mask when there is much of it."
FIXATIVE = "Fixative: outdoors or by an open window, no flames."
MASKING = "Masking fluid may smell of ammonia (air the room) and holds latex (allergy)."
PIGMENTS = "Pigments with cadmium, lead or cobalt: no eating, no dry sanding, wash your hands."
SOLVENTS = "Solvents: air the room, no flames, keep oily rags in a closed tin."
SUN = "Never look at the sun, neither past a viewfinder nor through a lens."
OUTDOORS = "Outdoors: mind traffic and the water's edge, private ground, and the weather."
PAUSES = "Screen and close work: look up and stand up now and then."

CAUTIONS: dict[Medium, tuple[str, ...]] = {
    "toned paper": (DUST, FIXATIVE),
    "charcoal": (DUST, FIXATIVE),
    "washes": (MASKING, PIGMENTS),
    "opaque": (PIGMENTS, SOLVENTS),
    "hatching": (FIXATIVE,),
}
AT_STEP: dict[Kind, tuple[str, ...]] = {
    "prepare": (KNIFE,),
    "mask": (MASKING,),
    "fix": (FIXATIVE,),
    "check": (PAUSES,),
}
AT_FIRST_COLOUR: dict[Medium, tuple[str, ...]] = {
    "toned paper": (DUST,),
    "charcoal": (DUST,),
    "washes": (PIGMENTS,),
    "opaque": (PIGMENTS, SOLVENTS),
    "hatching": (),
}
# Words in the artist's own list of materials that call for a caution.
NAMED: dict[str, str] = {
    "cadmium": PIGMENTS,
    "cobalt": PIGMENTS,
    "lead white": PIGMENTS,
    "flake white": PIGMENTS,
    "masking": MASKING,
    "latex": MASKING,
    "fixative": FIXATIVE,
    "turpentine": SOLVENTS,
    "solvent": SOLVENTS,
    "spirit": SOLVENTS,
    "charcoal": DUST,
    "pastel": DUST,
    "pigment": DUST,
    "knife": KNIFE,
    "blade": KNIFE,
}


def cautions_for(medium: Medium) -> tuple[str, ...]:
    """What to heed with a medium."""
    return (*CAUTIONS[medium], LABEL)


def cautions_of_materials(materials: tuple[str, ...]) -> tuple[str, ...]:
    """What to heed with the artist's own materials, each caution once."""
    words = " ".join(materials).lower()
    found = tuple(dict.fromkeys(caution for name, caution in NAMED.items() if name in words))
    return (*found, LABEL) if found else ()


def outdoors() -> tuple[str, ...]:
    """What to heed before the motif."""
    return OUTDOORS, SUN
