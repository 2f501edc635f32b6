"""Cautions for materials, short and calm; they are shown where the material is chosen and in the logbook."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from mild_compass.plan.tones import Medium

LABEL = "Follow the label and the safety data sheet, and local rules."
DUST = "Charcoal, pastel and dry pigment: wipe up wet, do not blow the dust, wear a mask when there is much of it."
FIXATIVE = "Fixative: outdoors or by an open window, no flames."
MASKING = "Masking fluid may smell of ammonia (air the room) and holds latex (allergy)."
PIGMENTS = "Pigments with cadmium, lead or cobalt: no eating, no dry sanding, wash your hands."
SOLVENTS = "Solvents: air the room, no flames, keep oily rags in a closed tin."

CAUTIONS: dict[Medium, tuple[str, ...]] = {
    "toned paper": (DUST, FIXATIVE),
    "charcoal": (DUST, FIXATIVE),
    "washes": (MASKING, PIGMENTS),
    "opaque": (PIGMENTS, SOLVENTS),
    "hatching": (FIXATIVE,),
}


def cautions_for(medium: Medium) -> tuple[str, ...]:
    """What to heed with a medium."""
    return (*CAUTIONS[medium], LABEL)
