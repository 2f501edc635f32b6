"""An alpha-expansion labelling of pieces: drawn as the whole, moved with their neighbours, or not at all.

A strip of parallel edges (sills, tiles, bands) has a drawn line beside each of its lines, so no piece is believed on
its own. Moves are proposed by what many pieces near one another allow together, and each piece is given one of them,
the whole, or nothing, so that lines followed and neighbours agreed with count together (several models by one energy:
H. Isack & Y. Boykov, IJCV 97, 2012; label by label with a minimum cut: Boykov, Veksler & Zabih, IEEE PAMI 23, 2001).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import cv2
import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import breadth_first_order, maximum_flow
from scipy.spatial import cKDTree

from mild_compass.craft.check.pieces import neighbours
from mild_compass.craft.check.ridges import profiles, turned_normals
from mild_compass.craft.check.whole import Similarity, applied, similarity_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from mild_compass.craft.check.pieces import Pieces
    from mild_compass.craft.check.ridges import Ridges

    Array = NDArray[np.float64]
    Labels = NDArray[np.int64]

REACH_MM = 8.5
MOVES_MM, MOVE_STEP_MM = 7.5, 0.5
AS_WHOLE_MM = 0.45  # a wobbling line is that far off and still where it should be
SLACK_MM = 0.2
POOR, GOOD = 0.22, 0.62  # of how well a piece is followed: nothing there; a line for certain
NOT_DRAWN = 0.70  # what a piece that is taken for not drawn costs, of its length
STAYS, EXPLAINED = 0.7, 0.75  # so well followed it stays; how little its ink then says for others
MASK_PX_PER_MM, NEAR_LINE_MM = 3.0, 0.5
NEW_PART_MM = 10.0  # of line that must speak for a part
AROUND_MM = (16.0, 30.0, 48.0)  # how far round a place pieces are asked together
SPACING_MM = 13.0
MOST_MOVES = 24
JOIN_MM = 40.0  # parts further apart are two, also where they were moved alike
GIVING_ROUNDS = 3
MISSING, WHOLE = 0, 1  # labels; parts from 2 on
UNITS = 100  # of the cut, to a mm


@dataclass(frozen=True, eq=False, slots=True)
class Part:
    """Pieces (indices) that were moved together besides the whole: an affine map (2, 3) of mm drawn as the whole."""

    pieces: NDArray[np.int64]
    centre_mm: tuple[float, float]
    move: Similarity
    sigma_mm: float
    spoken_mm: float
    lead: float  # by what share of its lines it is followed better than moved by a millimetre or more further
    crossed_mm: float  # of line that speaks for it across the direction that least of them do


@dataclass(frozen=True, eq=False, slots=True)
class Labelling:
    """Where each piece was drawn: -2 not drawn, -1 as the whole, else the number of its part; and the parts."""

    part: Labels
    parts: tuple[Part, ...]
    followed: Array  # (n,): how well each is followed where it is taken to be
    profile_offset: Array  # (n,): where along its normal it was found, mm from where the whole has it


def labelled(ridges: Ridges, pieces: Pieces, whole: Array) -> Labelling:
    """The pieces told apart, given the affine map (2, 3) of the whole."""
    fit = _fit_of(ridges, pieces, whole)
    moves = _moves(fit)
    label = np.where(fit.cost_of_whole() > pieces.length * NOT_DRAWN, MISSING, WHOLE).astype(np.int64)
    label, moves = _expanded(fit, label, moves)
    for _ in range(2):
        moves = [_refitted(fit, label == n + 2, move) for n, move in enumerate(moves)]
        label, moves = _joined(fit, label, moves)
        label, moves = _expanded(fit, label, moves)
    return _told(fit, label, moves)


def _fit_of(ridges: Ridges, pieces: Pieces, whole: Array) -> _Energy:
    """How well each piece is followed at every distance; a line that stands where it belongs is no sign of others."""
    profile = profiles(ridges, pieces, whole, REACH_MM)
    normal = turned_normals(pieces.across, whole)
    at = applied(whole, pieces.middle)
    good = np.clip((profile.slackened(SLACK_MM) - POOR) / (GOOD - POOR), 0, 1)
    near = abs(profile.offsets) <= AS_WHOLE_MM + 1e-9
    explained = _explained(pieces, whole, good[:, near].max(1) > STAYS, profile.offsets)
    good = np.where(near, good, good * (1 - EXPLAINED * explained))
    return _Energy(pieces, at, normal, profile.followed, good, profile.offsets, *neighbours(pieces))


def _explained(pieces: Pieces, whole: Array, stays: NDArray[np.bool_], offsets: Array) -> Array:
    """How much of each piece (n, m) would lie, at each offset, on lines that stand where they belong."""
    at = applied(whole, pieces.at)
    low = at.min((0, 1)) - 12.0
    size = np.ceil((at.max((0, 1)) + 12.0 - low) * MASK_PX_PER_MM).astype(int)
    mask = np.zeros(size[::-1], np.uint8)
    runs = [np.round((run - low) * MASK_PX_PER_MM).astype(np.int32) for run in at[stays]]
    cv2.polylines(mask, runs, False, 255, round(2 * NEAR_LINE_MM * MASK_PX_PER_MM))
    normal = turned_normals(pieces.normal, whole)[:, ::3]
    points = (at[:, ::3, None] + normal[:, :, None] * offsets[:, None] - low) * MASK_PX_PER_MM
    xy = points.astype(np.int32)
    return np.asarray(mask[xy[..., 1], xy[..., 0]].mean(1) / 255.0)


@dataclass(frozen=True, eq=False, slots=True)
class _CandidateLabel:
    """A proposed move: an affine map of places as the whole has them, and the pieces it may be asked of."""

    matrix: Array
    among: NDArray[np.bool_]


@dataclass(frozen=True, eq=False, slots=True)
class _Energy:
    pieces: Pieces
    at: Array
    normal: Array
    followed: Array
    good: Array
    offsets: Array
    pairs: Labels
    bonds: Array

    def good_at(self, offset: Array) -> Array:
        """How well each piece is followed at an offset (n,)."""
        step = self.offsets[1] - self.offsets[0]
        index = np.round((offset - self.offsets[0]) / step).astype(np.int64)
        inside = (index >= 0) & (index < len(self.offsets))
        return np.where(inside, self.good[np.arange(len(self.at)), np.clip(index, 0, len(self.offsets) - 1)], 0.0)

    def good_near(self, slack_mm: float) -> Array:
        """The best within a slack of where the whole has each piece (n,)."""
        near = abs(self.offsets) <= slack_mm + 1e-9
        return np.asarray(self.good[:, near].max(1))

    def cost_of_whole(self) -> Array:
        """What it costs (mm) to take each piece as drawn with the whole."""
        return self.pieces.length * (1 - self.good_near(AS_WHOLE_MM))

    def cost_of(self, move: _CandidateLabel) -> Array:
        """What it costs to take each piece as moved."""
        off = ((applied(move.matrix, self.at) - self.at) * self.normal).sum(1)
        cost = self.pieces.length * (1 - self.good_at(off))
        return np.where(move.among, cost, self.pieces.length * 1.5)


def _moves(fit: _Energy) -> list[_CandidateLabel]:
    """Shifts that many pieces near one another allow better than staying: the most telling first."""
    if len(fit.at) < 3:
        return []
    steps = np.arange(-MOVES_MM, MOVES_MM + 1e-9, MOVE_STEP_MM)
    shifts = np.stack(np.meshgrid(steps, steps), -1).reshape(-1, 2)
    shifts = shifts[np.hypot(*shifts.T) <= MOVES_MM]
    far = np.hypot(*shifts.T)
    tree = cKDTree(fit.at)
    stay = fit.good_near(AS_WHOLE_MM)
    length = fit.pieces.length
    index = np.round((fit.normal @ shifts.T - fit.offsets[0]) / (fit.offsets[1] - fit.offsets[0])).astype(np.int32)
    index = np.clip(index, 0, len(fit.offsets) - 1)
    gain = np.take_along_axis(fit.good.astype(np.float32), index, 1) * length[:, None].astype(np.float32)
    found: list[tuple[float, Array, Array]] = []
    for centre in _spread_out(fit.at):
        for around in AROUND_MM:
            near = np.array(tree.query_ball_point(centre, around))
            if len(near) < 3:
                continue
            score = gain[near].sum(0) - (stay[near] * length[near]).sum()
            score = score - 1.2 * far - 0.03 * length[near].sum()
            n = int(np.argmax(score))
            if score[n] > NEW_PART_MM and far[n] >= 0.9:
                found.append((float(score[n]), shifts[n], near))
    found.sort(key=lambda each: -each[0])
    moves: list[tuple[Array, Array, NDArray[np.bool_]]] = []
    for _, shift, near in found:
        middle = fit.at[near].mean(0)
        # What has been proposed for the same pieces already is not proposed again; it may be asked of these as well.
        again = next((m for m in moves if np.hypot(*(m[0] - shift)) < 0.9 and np.hypot(*(m[1] - middle)) < 60), None)
        if again is not None:
            again[2][near] = True
        elif len(moves) < MOST_MOVES:
            among = np.zeros(len(fit.at), bool)
            among[near] = True
            moves.append((shift, middle, among))
    return [_CandidateLabel(np.column_stack([np.eye(2), shift]), _grown(fit, among)) for shift, _, among in moves]


def _spread_out(at: Array) -> Array:
    """Some of the places, none nearer to another than SPACING_MM."""
    cells = np.unique(np.round(at / SPACING_MM), axis=0, return_index=True)[1]
    return at[np.sort(cells)]


def _grown(fit: _Energy, among: NDArray[np.bool_], by_mm: float = 40.0) -> NDArray[np.bool_]:
    near = cKDTree(fit.at[among]).query(fit.at)[0] if among.any() else np.full(len(fit.at), np.inf)
    return np.asarray(near < by_mm)


# -- the cut ---------------------------------------------------------------------------------------------------


def _expanded(fit: _Energy, label: Labels, moves: list[_CandidateLabel]) -> tuple[Labels, list[_CandidateLabel]]:
    """Each label in turn may take pieces over, as long as that makes things cheaper; labels nobody keeps are gone."""
    costs = np.stack([fit.pieces.length * NOT_DRAWN, fit.cost_of_whole(), *(fit.cost_of(move) for move in moves)])
    for _ in range(2):
        before = label.copy()
        for number in [*range(2, len(costs)), WHOLE, MISSING]:
            taken = _taken_over(fit, label, costs, number)
            new = number >= 2 and not (label == number).any()
            saved = _energy(fit, label, costs) - _energy(fit, taken, costs)
            if saved > (NEW_PART_MM if new else 1e-9):
                label = taken
        for number in range(2, len(costs)):  # a part that is worth less than its price is given back
            if (label == number).any():
                given = _given_back(fit, label, costs, number)
                if _energy(fit, given, costs) - _energy(fit, label, costs) < NEW_PART_MM:
                    label = given
        if np.array_equal(before, label):
            break
    kept = [n for n in range(len(moves)) if (label == n + 2).any()]
    renumbered = label.copy()
    for new, old in enumerate(kept):
        renumbered[label == old + 2] = new + 2
    return renumbered, [moves[n] for n in kept]


def _given_back(fit: _Energy, label: Labels, costs: Array, number: int) -> Labels:
    """The pieces of one part with the whole, another part or none, each where it and its neighbours cost least."""
    mine = np.nonzero(label == number)[0]
    others = np.array([n for n in range(len(costs)) if n != number and (n < 2 or (label == n).any())])
    i, j = fit.pairs.T
    beside = coo_matrix((np.tile(fit.bonds, 2), (np.append(i, j), np.append(j, i))), (len(label),) * 2).tocsr()[mine]
    given = label.copy()
    given[mine] = others[costs[np.ix_(others, mine)].argmin(0)]
    for _ in range(GIVING_ROUNDS):
        agreed = beside @ (given[:, None] == others).astype(np.float64)
        given[mine] = others[(costs[np.ix_(others, mine)] - agreed.T).argmin(0)]
    return given


def _energy(fit: _Energy, label: Labels, costs: Array) -> float:
    i, j = fit.pairs.T
    return float(costs[label, np.arange(len(label))].sum() + (fit.bonds * (label[i] != label[j])).sum())


def _taken_over(fit: _Energy, label: Labels, costs: Array, number: int) -> Labels:
    """The cheapest way to let any pieces change to one label, by a minimum cut."""
    n = len(label)
    i, j = fit.pairs.T
    # A pair costs: both kept ``apart``, only j changed ``one``, only i changed ``other``, both changed nothing.
    apart = fit.bonds * (label[i] != label[j])
    one, other = fit.bonds * (label[i] != number), fit.bonds * (label[j] != number)
    keep, change = costs[label, np.arange(n)], costs[number].copy()
    np.add.at(change, i, other - apart)
    np.add.at(change, j, -other)
    base = np.minimum(keep, change)
    source, sink = n, n + 1
    rows = np.concatenate([np.full(n, source), np.arange(n), i])
    columns = np.concatenate([np.arange(n), np.full(n, sink), j])
    # What stays on the source's side is kept and pays for that by its edge to the sink.
    capacity = np.concatenate([change - base, keep - base, one + other - apart])
    whole = np.round(np.maximum(capacity, 0) * UNITS).astype(np.int32)
    graph = coo_matrix((whole, (rows, columns)), (n + 2, n + 2)).tocsr()
    rest = graph - maximum_flow(graph, source, sink).flow
    rest.data = np.maximum(rest.data, 0)
    rest.eliminate_zeros()
    kept = np.zeros(n + 2, bool)
    kept[breadth_first_order(rest, source, return_predecessors=False)] = True
    return np.where(kept[:n], label, number)


def _joined(fit: _Energy, label: Labels, moves: list[_CandidateLabel]) -> tuple[Labels, list[_CandidateLabel]]:
    """Parts side by side that are one part turned or resized, or of which one alone tells one direction only."""
    moves = list(moves)
    one = 0
    while one < len(moves):
        joined = False
        for other in range(one + 1, len(moves)):
            first, second = label == one + 2, label == other + 2
            if not first.any() or not second.any() or _gap(fit.at[first], fit.at[second]) > JOIN_MM:
                continue
            price = _spent(fit, first, moves[one]) + _spent(fit, second, moves[other]) + NEW_PART_MM
            start = moves[one] if first.sum() >= second.sum() else moves[other]
            both = first | second
            matrix = _solved(fit, both, _solved(fit, both, start.matrix)[0])[0]
            move = _CandidateLabel(matrix, _grown(fit, both))
            if _spent(fit, both, move) <= price:
                moves[one] = move
                label = np.where(second, one + 2, label)
                label = np.where(label > other + 2, label - 1, label)
                del moves[other]
                joined = True
                break
        one += not joined
    return label, moves


def _gap(one: Array, other: Array) -> float:
    return float(cKDTree(one).query(other)[0].min())


def _spent(fit: _Energy, mine: NDArray[np.bool_], move: _CandidateLabel) -> float:
    return float(fit.cost_of(_CandidateLabel(move.matrix, mine))[mine].sum())


# -- what was moved, and how far -------------------------------------------------------------------------------

PIECE_SIGMA_MM = 0.25  # by which a hand's line strays: for weighing only
SCALE_WISH, TURN_WISH_RAD, SHIFT_WISH_MM = 0.03, 0.04, 8.0  # what is likely where the lines alone do not tell


def _measured(fit: _Energy, expected: Array, reach_mm: float = 0.9) -> tuple[Array, Array]:
    """Where each piece is found along its normal near where it is expected (n,), and how well it is followed there."""
    off = fit.offsets - expected[:, None]
    seen = np.where(abs(off) <= reach_mm, fit.followed * np.exp(-((off / 0.6) ** 2) / 2), -1.0)
    peak = np.clip(np.argmax(seen, 1), 1, len(fit.offsets) - 2)
    rows = np.arange(len(peak))
    before, here, after = (fit.followed[rows, peak + d] for d in (-1, 0, 1))
    bend = before - 2 * here + after
    sub = np.where(bend < -1e-9, 0.5 * (before - after) / np.where(bend < -1e-9, bend, -1.0), 0.0)
    step = fit.offsets[1] - fit.offsets[0]
    return fit.offsets[peak] + np.clip(sub, -0.5, 0.5) * step, here


def _offsets_of(fit: _Energy, matrix: Array) -> Array:
    return np.asarray(((applied(matrix, fit.at) - fit.at) * fit.normal).sum(1))


def _solved(fit: _Energy, mine: NDArray[np.bool_], matrix: Array) -> tuple[Array, Array, tuple[float, float]]:
    """The move (2, 3) of some pieces fitted anew, its covariance (4, 4), and about which place."""
    at, normal = fit.at[mine], fit.normal[mine]
    centre = at.mean(0)
    found, followed = _measured(fit, _offsets_of(fit, matrix))
    target, weight = found[mine], followed[mine] * np.minimum(fit.pieces.length[mine] / 8.0, 1.5)
    x, y = (at - centre).T
    rows = np.stack([*normal.T, normal[:, 0] * x + normal[:, 1] * y, normal[:, 1] * x - normal[:, 0] * y], 1)
    wish = np.diag([1 / SHIFT_WISH_MM**2] * 2 + [1 / SCALE_WISH**2, 1 / TURN_WISH_RAD**2]) * PIECE_SIGMA_MM**2
    unknowns = np.zeros(4)
    for _ in range(6):
        off = (target - rows @ unknowns) / PIECE_SIGMA_MM
        robust = weight / np.maximum(1.0, abs(off) / 1.5)
        system = (rows * robust[:, None]).T @ rows + wish
        unknowns = np.linalg.solve(system, (rows * robust[:, None]).T @ target)
    spread = max(0.1, 1.4826 * float(np.median(abs(target - rows @ unknowns))))
    about = (float(centre[0]), float(centre[1]))
    move = Similarity(about, (unknowns[0], unknowns[1]), 1 + unknowns[2], float(np.degrees(unknowns[3])))
    return move.matrix(), np.linalg.inv(system) * spread**2, about


def _refitted(fit: _Energy, mine: NDArray[np.bool_], move: _CandidateLabel) -> _CandidateLabel:
    if mine.sum() < 3:
        return move
    return _CandidateLabel(_solved(fit, mine, move.matrix)[0], _grown(fit, mine))


def _told(fit: _Energy, label: Labels, moves: list[_CandidateLabel]) -> Labelling:
    expected = np.zeros(len(label))
    parts: list[Part] = []
    number = np.where(label == MISSING, -2, -1)
    stay = fit.pieces.length * fit.good_near(AS_WHOLE_MM)
    for n, move in enumerate(moves):
        mine = label == n + 2
        if mine.sum() < 2:
            number[mine] = -2
            continue
        matrix, covariance, about = _solved(fit, mine, move.matrix)
        expected[mine] = _offsets_of(fit, matrix)[mine]
        spoken = float((fit.pieces.length * fit.good_at(_offsets_of(fit, matrix)) - stay)[mine].sum())
        number[mine] = len(parts)
        sigma = np.sqrt(np.linalg.eigvalsh(covariance[:2, :2]))
        lead = _lead(fit, mine, expected)
        crossed = _crossed(fit, mine, expected)
        parts.append(
            Part(np.nonzero(mine)[0], about, similarity_of(matrix, about), float(sigma[1]), spoken, lead, crossed)
        )
    found, followed = _measured(fit, expected)
    return Labelling(number, tuple(parts), followed, found)


OTHERWISE_MM = 1.2
SPEAKS = 0.3  # a piece speaks for a part if it is followed so much better there than with the whole
CLOSED = 0.7  # of the length that speaks: with so much line across it a thing is closed, and goes together


def _crossed(fit: _Energy, mine: NDArray[np.bool_], expected: Array) -> float:
    """How much line (mm) tells a part's shift across the direction that is told least.

    Uprights that have moved and a sill or two that have not would tell a shift to the side, though the uprights know of
    no up or down. A window moved to the side has as many sills as uprights, and its sills fit both ways.
    """
    gained = (fit.good_at(expected) - fit.good_near(AS_WHOLE_MM))[mine]
    normal, length = fit.normal[mine], fit.pieces.length[mine]
    least, most = _both_ways(normal, length * (gained > SPEAKS))
    every, _ = _both_ways(normal, length)
    return every if every > CLOSED * most else least


def _both_ways(normal: Array, length: Array) -> tuple[float, float]:
    """How much of some lines tells the direction that they tell least, and the one they tell most."""
    least, most = np.linalg.eigvalsh((normal * length[:, None]).T @ normal)
    return float(least), float(most)


def _lead(fit: _Energy, mine: NDArray[np.bool_], expected: Array) -> float:
    """How much better a part's lines are followed where it is taken to be than anywhere else near: 0 to 1."""
    steps = np.arange(-MOVES_MM, MOVES_MM + 1e-9, MOVE_STEP_MM)
    shifts = np.stack(np.meshgrid(steps, steps), -1).reshape(-1, 2)
    off = expected[mine][:, None] + fit.normal[mine] @ shifts.T
    index = np.round((off - fit.offsets[0]) / (fit.offsets[1] - fit.offsets[0])).astype(np.int64)
    inside = (index >= 0) & (index < len(fit.offsets))
    good = np.take_along_axis(fit.good[mine], np.clip(index, 0, len(fit.offsets) - 1), 1) * inside
    length = fit.pieces.length[mine]
    score = length @ good / length.sum()
    far = np.hypot(*shifts.T)
    return float(score[far < 0.6].max() - score[far > OTHERWISE_MM].max())
