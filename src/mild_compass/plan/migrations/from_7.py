"""From version 7 to 8: a plan has an identity of its own; steps of a sitting tell when they were done."""

from __future__ import annotations

from typing import Any

from mild_compass.plan.identity import id_of


def migrate(document: dict[str, Any]) -> dict[str, Any]:
    """The document of version 7 as one of version 8."""
    plan = document["plan"]
    return {**document, "plan": {**plan, "id": id_of(plan)} if isinstance(plan, dict) else plan}
