"""Fixtures shared by all rooms."""

from __future__ import annotations

import io
import os
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, settings
from PIL import Image

from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.plan.edits.base import with_study
from mild_compass.plan.edits.references import add_reference
from mild_compass.plan.edits.viewfinder import choose_paper
from mild_compass.plan.model import Plan
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.pictures import Reference

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# Every made case there is, in place of some of each kind: ``make cover`` and ``make mutants`` ask for all.
THOROUGH = bool(os.environ.get("THOROUGH"))
settings.register_profile(
    "steady",
    deadline=None,
    derandomize=True,
    max_examples=60 if THOROUGH else 30,
    suppress_health_check=[HealthCheck.too_slow],
)
settings.load_profile("steady")

NOON = "2026-05-01T12:00:00+02:00"


def cases(many: int, few: int) -> range:
    """So many seeds where all cases are asked for, else a few of them."""
    return range(many if THOROUGH else few)


def jpeg(width: int = 600, height: int = 400, seed: int = 1, **save: object) -> bytes:
    """A soft made-up picture as JPEG bytes."""
    rng = np.random.default_rng(seed)
    small = rng.integers(0, 256, (12, 18, 3), np.uint8)
    picture = Image.fromarray(small).resize((width, height), Image.Resampling.BICUBIC)
    packed = io.BytesIO()
    picture.save(packed, "JPEG", quality=90, **save)
    return packed.getvalue()


@pytest.fixture
def photos(tmp_path: Path) -> PhotoFolder:
    return PhotoFolder(tmp_path / "photos")


@pytest.fixture
def plan(photos: PhotoFolder) -> Plan:
    """A plan on A3 across with one photo of 600 x 400 pixels."""
    digest = photos.add(jpeg())
    started = choose_paper(paper("A3", across=True)).apply(Plan(name="Quay"), NOON)
    plan = add_reference(Reference("photo-1", "quay.jpg", digest, 600, 400)).apply(started, NOON)
    assert plan.study is not None
    return with_study(plan, replace(plan.study, sheet=replace(plan.study.sheet, pages="one page")))
