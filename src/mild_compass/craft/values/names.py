"""What the values are called, darkest first."""

from __future__ import annotations

NAMES: dict[int, tuple[str, ...]] = {
    2: ("dark", "light"),
    3: ("dark", "middle", "light"),
    4: ("dark", "half-dark", "half-light", "light"),
    5: ("dark", "half-dark", "middle", "half-light", "light"),
    6: ("black", "dark", "half-dark", "half-light", "light", "white"),
    7: ("black", "dark", "half-dark", "middle", "half-light", "light", "white"),
}


def names_of(count: int) -> tuple[str, ...]:
    """The names of so many values."""
    return NAMES[count]
