"""Whose request it is, so that an answer reaches only what it was asked for."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Owner:
    """An open plan, known by its working folder; where it matters one of its studies, and the study's ground.

    An empty study or ground means that it does not matter which one is in hand when the answer comes.
    """

    workspace: object = None
    study: str = ""
    ground: str = ""

    def in_hand(self, present: Owner) -> bool:
        """Whether what the request was asked for is still what is in hand."""
        return (
            self.workspace is present.workspace
            and self.study in ("", present.study)
            and self.ground in ("", present.ground)
        )

    @property
    def of_plan(self) -> Owner:
        """The same, whichever study is in hand."""
        return Owner(self.workspace)

    @property
    def of_ground(self) -> Owner:
        """The same, whichever study stands on this ground."""
        return Owner(self.workspace, ground=self.ground)
