"""The demo plans and their made-up photographs."""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder

MAKERS = {
    "glasshouse": ("glasshouse", "demo_plan"),
    "pumping-station": ("pumping_station", "pumping_plan"),
    "lantern-bench": ("lantern_bench", "lantern_plan"),
    "observatory-court": ("observatory_court", "court_plan"),
}
SCENES = tuple(MAKERS)


def plan_of(scene: str, photos: PhotoFolder) -> Plan:
    """The demo plan of a scene, its photos put into a folder."""
    module, name = MAKERS[scene]
    plan: Plan = getattr(import_module(f"mild_compass.demo.{module}"), name)(photos)
    return plan
