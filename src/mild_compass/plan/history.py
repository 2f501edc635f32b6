"""Undo and redo over the whole history of a plan."""

from __future__ import annotations

from typing import TYPE_CHECKING

from mild_compass.plan.bounds import require_bounded

if TYPE_CHECKING:
    from collections.abc import Callable

    from mild_compass.plan.edits.base import Edit
    from mild_compass.plan.model import Plan


class History:
    """The states a plan has been through, and where we stand among them.

    Plans share their unchanged parts, so keeping every state costs little. An edit that raises leaves
    the history as it was.
    """

    def __init__(self, plan: Plan) -> None:
        self._plans = [plan]
        self._labels: list[str] = []
        self._at = 0

    @property
    def plan(self) -> Plan:
        """The plan as it stands."""
        return self._plans[self._at]

    @property
    def undo_label(self) -> str | None:
        """What undo would take back, or None."""
        return self._labels[self._at - 1] if self._at else None

    @property
    def redo_label(self) -> str | None:
        """What redo would do again, or None."""
        return self._labels[self._at] if self._at < len(self._labels) else None

    def apply(self, edit: Edit, time: str) -> bool:
        """Apply an edit as one step; False when it changes nothing."""
        changed = edit.apply(self.plan, time)
        if changed == self.plan:
            return False
        require_bounded(changed, self.plan)
        del self._plans[self._at + 1 :], self._labels[self._at :]
        self._plans.append(changed)
        self._labels.append(edit.label)
        self._at += 1
        return True

    def record(self, change: Callable[[Plan], Plan]) -> None:
        """Write what has happened into every state: undo takes back what was decided, never what happened."""
        changed = [change(plan) for plan in self._plans]
        require_bounded(changed[self._at], self.plan)
        self._plans = changed

    def undo(self) -> None:
        """Step back, if there is anything to take back."""
        self._at = max(0, self._at - 1)

    def steps(self, most: int) -> tuple[tuple[int, str], ...]:
        """The last steps that can be taken back, the latest first: how many steps back each is, and its label."""
        labels = self._labels[max(0, self._at - most) : self._at]
        return tuple(enumerate(reversed(labels), 1))

    def jump_back(self, steps: int) -> None:
        """Take back so many steps at once."""
        self._at = max(0, self._at - max(0, steps))

    def redo(self) -> None:
        """Step forward, if there is anything to do again."""
        self._at = min(len(self._labels), self._at + 1)
