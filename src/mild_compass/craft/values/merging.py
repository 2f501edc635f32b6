"""Shapes of a value map, and the merging of those too small to be drawn."""

from __future__ import annotations

import heapq

import cv2
import numpy as np
from numpy.typing import NDArray

Labels = NDArray[np.int32]


def shapes_of(steps: NDArray[np.uint8]) -> tuple[Labels, NDArray[np.int64]]:
    """Connected shapes (side by side, not by corners) of a map of values: labels (h, w) and the value of each."""
    labels = np.full(steps.shape, -1, np.int32)
    values: list[int] = []
    for value in np.flatnonzero(np.bincount(steps.ravel())).tolist():
        mask = steps == value
        count, part = cv2.connectedComponents(mask.view(np.uint8), connectivity=4, ltype=cv2.CV_32S)
        labels += part
        labels += mask.view(np.uint8) * np.int32(len(values))
        values.extend([value] * (count - 1))
    return labels, np.array(values, np.int64)


def _borders(labels: Labels) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
    """Pairs of touching shapes (i < j) and how many pixel sides they share."""
    pairs = []
    for a, b in ((labels[:, :-1], labels[:, 1:]), (labels[:-1], labels[1:])):
        different = a != b
        pairs.append(np.stack([a[different], b[different]], 1))
    joined = np.sort(np.concatenate(pairs).astype(np.int64), 1)
    count = int(labels.max()) + 1
    codes, lengths = np.unique(joined[:, 0] * count + joined[:, 1], return_counts=True)
    return codes // count, codes % count, lengths


def without_small(steps: NDArray[np.uint8], smallest_px: float) -> NDArray[np.uint8]:
    """The value map with every shape under a size given to the neighbour that shares most border.

    Ties go to the nearer value, then to the darker. The smallest shape goes first; a shape that has grown by
    taking in another is judged anew. Deterministic.
    """
    labels, values = shapes_of(steps)
    if len(values) < 2:
        return steps
    areas = np.bincount(labels.ravel(), minlength=len(values)).astype(np.int64).tolist()
    neighbours: list[dict[int, int]] = [{} for _ in values]
    for i, j, length in zip(*(part.tolist() for part in _borders(labels)), strict=True):
        neighbours[i][j] = length
        neighbours[j][i] = length
    owner = _merged(areas, neighbours, values.tolist(), smallest_px)
    return np.asarray(values[owner][labels], np.uint8)


def _merged(
    areas: list[int], neighbours: list[dict[int, int]], values: list[int], smallest_px: float
) -> NDArray[np.int64]:
    """Which shape each shape ends up in."""
    owner = list(range(len(areas)))
    queue = [(area, index) for index, area in enumerate(areas) if area < smallest_px]
    heapq.heapify(queue)
    while queue:
        area, index = heapq.heappop(queue)
        if owner[index] != index or area != areas[index] or not neighbours[index]:
            continue
        here = values[index]
        target = min(neighbours[index], key=lambda k: (-neighbours[index][k], abs(values[k] - here), values[k], k))
        # The grown shape will touch shapes of its own value, all of them neighbours of the small one: they are one.
        alike = [k for k in neighbours[index] if k != target and values[k] == values[target]]
        _join(index, target, owner, areas, neighbours)
        for other in alike:
            _join(other, target, owner, areas, neighbours)
        if areas[target] < smallest_px:
            heapq.heappush(queue, (areas[target], target))
    return np.array([_root(owner, index) for index in range(len(owner))], np.int64)


def _join(index: int, target: int, owner: list[int], areas: list[int], neighbours: list[dict[int, int]]) -> None:
    owner[index] = target
    areas[target] += areas[index]
    for other, length in neighbours[index].items():
        del neighbours[other][index]
        if other != target:
            neighbours[target][other] = neighbours[target].get(other, 0) + length
            neighbours[other][target] = neighbours[target][other]
    neighbours[index] = {}


def _root(owner: list[int], index: int) -> int:
    while owner[index] != index:
        owner[index] = owner[owner[index]]
        index = owner[index]
    return index
