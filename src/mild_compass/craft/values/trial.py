"""A small made picture put through all that is done with masses, so that every loop is compiled once."""

from __future__ import annotations

import numpy as np

from mild_compass.craft.picture.load import Picture
from mild_compass.craft.values.detail import Counts
from mild_compass.craft.values.masses import find_masses, quick_masses
from mild_compass.craft.values.ready import begin_anew, have_made
from mild_compass.plan.model import Frame, Paper
from mild_compass.plan.tones import ValuePlan

WIDTH, HEIGHT = 240, 160


def prepare() -> None:
    """Make all compiled loops ready for this machine."""
    begin_anew()
    try_all()
    have_made()


def try_all() -> None:
    """Masses of a ball on a table and their pictures: quick, with detail in a place, on pixels, and as usual."""
    y, x = np.mgrid[:HEIGHT, :WIDTH]
    light = 60.0 + 0.4 * y + 90.0 * (np.hypot(x - 120, y - 80) < 45) - 50.0 * (np.hypot(x - 60, y - 120) < 20)
    rough = np.random.default_rng(1).normal(0, 14, (HEIGHT, WIDTH))
    grey = np.clip(light + rough, 0, 255).astype(np.uint8)
    picture = Picture(np.repeat(grey[..., None], 3, 2), WIDTH, HEIGHT)
    paper, frame = Paper("A5", 210.0, 148.0), Frame(0.0, 0.0, float(WIDTH), float(HEIGHT))
    quick_masses(picture, frame, paper, ValuePlan(count=4))
    find_masses(picture, frame, paper, ValuePlan(count=3, detail=50.0, softness_mm=0.0), (Counts(120.0, 80.0),))
    masses = find_masses(picture, frame, paper, ValuePlan(count=3))
    masses.greys(WIDTH)
    masses.step_map(WIDTH)
