"""One try: it works, or it is refused with a sentence; anything else is counted."""

from __future__ import annotations

import resource
import signal
import time
import traceback
from collections import Counter
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from collections.abc import Callable

LONGEST_S = 10
MOST_MEMORY = 3 << 30


class Hang(BaseException):
    """A try that did not come to an end."""


@dataclass
class Tally:
    """What came of the tries of one kind."""

    kind: str
    tries: int = 0
    refused: int = 0
    faults: Counter[str] = field(default_factory=Counter)
    samples: list[str] = field(default_factory=list)
    seconds: float = 0.0

    def fault(self, kind: str, sample: str) -> None:
        """Count one that should not have happened."""
        self.faults[kind] += 1
        if len(self.samples) < 5:
            self.samples.append(f"{kind}: {sample}")


def limit_memory() -> None:
    """A try that wants more than this fails as on a machine that has no more."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))


def tried(tally: Tally, function: Callable[..., Any], *arguments: Any) -> Any:
    """Run one try; None where it was refused or failed."""
    tally.tries += 1

    def too_long(*_: object) -> None:
        raise Hang

    signal.signal(signal.SIGALRM, too_long)
    signal.alarm(LONGEST_S)
    try:
        return function(*arguments)
    except PlanError as error:
        tally.refused += 1
        if not str(error).strip().endswith((".", "?")):
            tally.fault("no sentence", str(error))
    except Hang:
        tally.fault("hang", repr(arguments)[:200])
    except MemoryError:
        tally.fault("memory", traceback.format_exc(limit=-3)[-600:])
    except Exception:
        tally.fault("exception", traceback.format_exc(limit=-3)[:900])
    finally:
        signal.alarm(0)
    return None


def until(seconds: float, most: int) -> Any:
    """Numbers of tries, until the time is over or there have been enough."""
    end = time.monotonic() + seconds
    for number in range(most):
        if time.monotonic() > end:
            return
        yield number
