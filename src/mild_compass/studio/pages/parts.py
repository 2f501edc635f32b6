"""What pages are made from."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from mild_compass.studio.derived.computed import Computed
    from mild_compass.studio.memory import Memory
    from mild_compass.studio.pages.contact_sheet import ContactSheet
    from mild_compass.studio.requests.superseding import LatestWins
    from mild_compass.studio.session import Session
    from mild_compass.studio.settings.settings import Settings


@dataclass(frozen=True, eq=False, slots=True)
class Parts:
    """The plan, what follows from it, requests, settings, the contact sheet, where photos are picked, and what is kept
    from plan to plan."""

    session: Session
    computed: Computed
    work: LatestWins
    settings: Settings
    contact_sheet: ContactSheet
    memory: Memory
