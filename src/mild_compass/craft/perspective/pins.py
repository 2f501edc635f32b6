"""Where to put the pin: a vanishing point told from the paper's own edges."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.craft.sheet_sizes.lengths import Unit, format_length

if TYPE_CHECKING:
    from mild_compass.plan.paper import Paper


def on_sheet(x_mm: float, y_mm: float, paper: Paper) -> bool:
    """Whether a point in sheet mm lies on the paper."""
    return 0 <= x_mm <= paper.width_mm and 0 <= y_mm <= paper.height_mm


def pin_words(x_mm: float, y_mm: float, paper: Paper, unit: Unit = "mm") -> str:
    """For instance "412.0 mm left of the paper, 6.0 mm above its top edge"."""

    def length(value: float) -> str:
        return format_length(abs(value), unit)

    if x_mm < 0:
        across = f"{length(x_mm)} left of the paper"
    elif x_mm > paper.width_mm:
        across = f"{length(x_mm - paper.width_mm)} right of the paper"
    else:
        across = f"{length(x_mm)} from the left edge"
    if y_mm < 0:
        down = f"{length(y_mm)} above the top edge"
    elif y_mm > paper.height_mm:
        down = f"{length(y_mm - paper.height_mm)} below the bottom edge"
    else:
        down = f"{length(y_mm)} down from the top edge"
    return f"{across}, {down}"
