"""Ratios as people write them: 3:4, 3 x 4, 1.333, root 2."""

from __future__ import annotations

from math import isfinite

from mild_compass.plan.errors import PlanError

MOST = 100.0  # a strip a hundred times as long as wide is no picture


def parse_ratio(text: str) -> tuple[float, float]:
    """The two numbers of a typed ratio; a single number is taken as so much to one.

    Raises:
        PlanError: the text is not two numbers above nothing.
    """
    parts = text.lower().replace(",", ".").replace("×", ":").replace("x", ":").replace("/", ":").split(":")
    try:
        numbers = [float(part) for part in parts]
    except ValueError as error:
        raise PlanError(f"“{text.strip()[:20]}” is not a ratio. Type for instance 3:4 or 1.414.") from error
    if len(numbers) == 1:
        numbers.append(1.0)
    if len(numbers) != 2 or not all(isfinite(number) and number > 0 for number in numbers):
        raise PlanError(f"“{text.strip()[:20]}” is not a ratio. Type two numbers above nothing, for instance 3:4.")
    if not 1 / MOST <= numbers[0] / numbers[1] <= MOST:
        raise PlanError("A side a hundred times as long as the other leaves no picture. Type a smaller ratio.")
    return numbers[0], numbers[1]
