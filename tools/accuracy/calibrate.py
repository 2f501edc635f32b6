"""Fit how certain suggestions are to the tuning half of the made pictures: python -m tools.accuracy.calibrate.

Logistic regression on the logarithms that ``certainty.features`` gives, held small by a ridge; prints the row
CALIBRATED of ``craft/perspective/certainty.py``. Only even seeds are looked at; odd ones are for the report.
"""

from __future__ import annotations

import argparse
import warnings
from multiprocessing import get_context
from typing import Any

import numpy as np
from scipy.optimize import minimize

from .rows import suggested_on

RIDGE = 2.0  # on standardised features


def fitted(told: np.ndarray, right: np.ndarray) -> np.ndarray:
    """The constant and the weights (1 + k,) for features (n, k) and whether each answer was right (n,)."""
    middle, spread = told.mean(0), np.maximum(told.std(0), 1e-9)
    scaled = np.column_stack([np.ones(len(told)), (told - middle) / spread])

    def cost(row: np.ndarray) -> tuple[float, np.ndarray]:
        value = np.clip(scaled @ row, -30, 30)
        chance = 1 / (1 + np.exp(-value))
        ridge = np.append(0.0, RIDGE * row[1:])
        fit = -float(np.where(right, np.log(chance), np.log1p(-chance)).sum())
        return fit + float(ridge @ row) / 2, scaled.T @ (chance - right) + ridge

    row = minimize(cost, np.zeros(scaled.shape[1]), jac=True, method="L-BFGS-B").x
    weights = row[1:] / spread
    return np.append(row[0] - weights @ middle, weights)


def main() -> int:
    """Look at the pictures, fit, print."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--scenes", type=int, default=800)
    options = parser.parse_args()
    warnings.simplefilter("ignore")
    asked = [(seed, leaves) for seed in range(0, options.scenes, 2) for leaves in (False, True)]
    with get_context("spawn").Pool(2) as pool:
        answers: list[dict[str, Any]] = [each for each in pool.map(suggested_on, asked, chunksize=2) if each["told"]]
    row = fitted(np.array([each["told"] for each in answers]), np.array([each["right"] for each in answers]))
    print("CALIBRATED = (" + ", ".join(f"{float(value):.4f}" for value in row) + ")")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
