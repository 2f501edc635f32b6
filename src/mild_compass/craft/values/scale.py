"""Printed value scales: even steps of L*."""

from __future__ import annotations

import numpy as np

from mild_compass.plan.errors import PlanError

STRIP_STEPS, STRIP_RANGE = 9, (2, 20)
INK, PAPER = 10.0, 96.0  # L* of what a printer puts down, and of its paper


def strip_values(steps: int) -> tuple[float, ...]:
    """Even steps of L* from ink to paper; nine of them are Ross's scale (D. W. Ross, A Theory of Pure Design, 1907).

    Raises:
        PlanError: there are too few or too many steps.
    """
    if not STRIP_RANGE[0] <= steps <= STRIP_RANGE[1]:
        raise PlanError(f"A value scale has between {STRIP_RANGE[0]} and {STRIP_RANGE[1]} steps. Nothing was written.")
    return tuple(float(value) for value in np.linspace(INK, PAPER, steps))
