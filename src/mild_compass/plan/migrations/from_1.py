"""From version 1 to 2: a study names its ground instead of a photo; a plan holds photos of the own drawing."""

from __future__ import annotations

from typing import Any


def migrate(document: dict[str, Any]) -> dict[str, Any]:
    """The document of version 1 as one of version 2; one that makes no sense is left for the reader to refuse."""
    plan = document["plan"]
    if isinstance(plan, dict) and isinstance(plan.get("studies"), list):
        plan = {**plan, "studies": [_study(study) for study in plan["studies"]]}
    return {**document, "version": 2, "plan": plan}


def _study(study: Any) -> Any:
    if not isinstance(study, dict) or "reference" not in study:
        return study
    return {("ground" if key == "reference" else key): value for key, value in study.items()}
