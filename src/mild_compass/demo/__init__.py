"""The demo plans and their made-up photographs."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan
    from mild_compass.plan.photos import PhotoFolder

SCENES = ("glasshouse", "pumping-station", "lantern-bench")


def plan_of(scene: str, photos: PhotoFolder) -> Plan:
    """The demo plan of a scene, its photos put into a folder."""
    if scene == "pumping-station":
        from mild_compass.demo.pumping_station import pumping_plan

        return pumping_plan(photos)
    if scene == "lantern-bench":
        from mild_compass.demo.lantern_bench import lantern_plan

        return lantern_plan(photos)
    from mild_compass.demo.glasshouse import demo_plan

    return demo_plan(photos)
