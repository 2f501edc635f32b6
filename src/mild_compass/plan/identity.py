"""What tells a plan from all others, wherever its file lies and whatever it is called."""

from __future__ import annotations

import hashlib
import json
import secrets
from dataclasses import replace
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from mild_compass.plan.model import Plan

LENGTH = 16  # hexadecimal digits: 64 bits, so that two plans never get the same by chance


def with_id(plan: Plan) -> Plan:
    """The plan with an id of its own, where it has none yet."""
    return plan if plan.id else replace(plan, id=secrets.token_hex(LENGTH // 2))


def copied(plan: Plan) -> Plan:
    """The plan as a copy: another one from now on, which remembers where it comes from."""
    return replace(plan, id=secrets.token_hex(LENGTH // 2), copy_of=plan.id)


def id_of(document: dict[str, Any]) -> str:
    """The id of a plan from before plans had one: of what is in it, so that its file has the same each time."""
    text = json.dumps(document, sort_keys=True, ensure_ascii=False)
    return hashlib.sha256(text.encode(errors="surrogatepass")).hexdigest()[:LENGTH]
