"""What the board shows while an instrument of the values is in hand."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.studio.widgets import Choice

if TYPE_CHECKING:
    from mild_compass.studio.desk import Desk
    from mild_compass.studio.words import Fill


def seen_choice(desk: Desk, choices: list[tuple[str, Fill]]) -> Choice:
    """A choice of what fills the picture on the board."""
    choice = Choice(choices, "What the board shows")

    def see(fill: Fill) -> None:
        desk.board.fill = fill
        desk.board.update()

    choice.chosen.connect(see)
    return choice
