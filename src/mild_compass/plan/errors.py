"""Errors whose text is meant for the artist: what happened, what is kept, what to do."""

from math import isfinite


class PlanError(Exception):
    """A change or a file that cannot be used; the text is a sentence for the artist."""


class ChangedElsewhere(PlanError):  # noqa: N818 - nothing has gone wrong yet
    """The file has been written by somebody else since it was opened or saved here; nothing was written."""


class CalledOff(PlanError):  # noqa: N818 - nothing has gone wrong
    """Work that was ended on purpose before it was done; nothing was changed by it."""


def require_within(name: str, value: float, low: float, high: float, unit: str) -> None:
    """Raise a PlanError unless low <= value <= high; what is not a number is refused too.

    Raises:
        PlanError: the value is outside the limits, or not a number.
    """
    if not (isfinite(value) and low <= value <= high):
        raise PlanError(f"{name} must be between {low:g} and {high:g} {unit}; {value:g} was given.")
