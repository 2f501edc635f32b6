"""Whether practice has helped: no claim unless it is beyond chance.

Each session (a day) is one figure, how far off its answers were on the mean. If nothing has changed, the sessions
could as well have come in any other order: the slope over the sessions as they came is compared with the slopes of
9 999 shuffled orders (a permutation test, P. Good, Permutation Tests, 2000). Who looks every day would sooner or later
be told of luck: it is tested after 8, 15, 30 … sessions only, each time with a part of the 5 % (alpha spending,
K. K. G. Lan & D. L. DeMets, Biometrika 70, 1983). Several drills looked at together are corrected after S. Holm, 1979.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from statistics import median
from typing import TYPE_CHECKING, Literal

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

# After so many sessions it is looked at, and so much of the chance of a false claim is spent on it; 5 % in all.
LOOKS: dict[int, float] = {8: 0.005, 15: 0.015, 30: 0.02, 60: 0.0075, 120: 0.0025}
ORDERS = 9_999  # so that p can be as small as 0.0001: Phipson & Smyth, Stat. Appl. Genet. Mol. Biol. 9, 2010
CHANCE = 0.05  # as usual
SEED = 20  # any
SLIP = 4.0  # times the middle error: what is farther off was a slip of the hand, and counts as so much
Verdict = Literal["too few", "no change", "better", "worse"]
HOW = (
    "How it is tested: if nothing had changed, your sessions could have come in any order. After 8, 15, 30 and 60 of "
    "them it is looked whether shuffled orders fall as steeply. Only if luck would say so to fewer than 5 of 100 "
    "artists, all drills and looks counted together, is it called better. A drill settles where 70.7 % of the answers "
    "are right."
)


@dataclass(frozen=True, slots=True)
class Trend:
    """The figure of each session, the chance that its fall (or rise) at the last look is luck, counted against 5 % for
    all looks together, and what may be said; ``looked_at`` is after how many sessions that was."""

    sessions: tuple[float, ...]
    falls: float = 1.0
    rises: float = 1.0
    verdict: Verdict = "too few"
    looked_at: int = 0


def trend_of(sessions: Sequence[Sequence[float]]) -> Trend:
    """One drill by itself: each session's signed errors, in order of time."""
    sizes = [np.abs(session) for session in sessions if len(session)]
    if not sizes:
        return Trend(())
    most = SLIP * median(np.concatenate(sizes).tolist())  # the same whatever the order, so that the test holds
    figures = tuple(float(np.minimum(each, most).mean()) for each in sizes)
    looked_at = max((count for count in LOOKS if count <= len(figures)), default=0)
    if not looked_at:
        return Trend(figures)
    share = LOOKS[looked_at] / CHANCE
    falls, rises = (min(1.0, chance / share) for chance in _chances(np.array(figures[:looked_at])))
    return Trend(figures, falls, rises, _verdict(falls, rises), looked_at)


def together(trends: Mapping[str, Trend]) -> dict[str, Trend]:
    """Several drills looked at together: Holm's correction, for better and for worse by themselves."""
    told = {name: trend for name, trend in trends.items() if trend.verdict != "too few"}
    falls, rises = (_holm({name: getattr(trend, way) for name, trend in told.items()}) for way in ("falls", "rises"))
    corrected = {
        name: Trend(trend.sessions, falls[name], rises[name], _verdict(falls[name], rises[name]), trend.looked_at)
        for name, trend in told.items()
    }
    return {name: corrected.get(name, trend) for name, trend in trends.items()}


def _verdict(falls: float, rises: float) -> Verdict:
    if falls <= CHANCE:
        return "better"
    return "worse" if rises <= CHANCE else "no change"


def _chances(figures: np.ndarray) -> tuple[float, float]:
    """How often a shuffled order falls, or rises, at least as steeply; ties count against the claim."""
    place = np.arange(len(figures)) - (len(figures) - 1) / 2
    found = float(place @ figures)
    shuffled = figures[_orders(len(figures))] @ place
    tie = 1e-9 * max(1.0, float(np.abs(figures).max()))
    falls = (1 + int((shuffled <= found + tie).sum())) / (1 + ORDERS)
    rises = (1 + int((shuffled >= found - tie).sum())) / (1 + ORDERS)
    return falls, rises


@lru_cache(maxsize=8)
def _orders(count: int) -> np.ndarray:
    """So many shuffled orders (ORDERS, count), always the same."""
    return np.random.default_rng(SEED).permuted(np.tile(np.arange(count), (ORDERS, 1)), axis=1)


def _holm(chances: Mapping[str, float]) -> dict[str, float]:
    """Corrected chances: the smallest times the number of tests, and so on, never smaller than the one before."""
    corrected, highest = {}, 0.0
    for place, name in enumerate(sorted(chances, key=lambda name: chances[name])):
        highest = max(highest, min(1.0, (len(chances) - place) * chances[name]))
        corrected[name] = highest
    return corrected
