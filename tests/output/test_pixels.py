"""PNG and OpenRaster read back: every layer where it belongs, the masses tiling the picture."""

from __future__ import annotations

import io
import zipfile
from dataclasses import replace
from pathlib import Path
from xml.etree import ElementTree as ET

import numpy as np
import pytest
from PIL import Image

from mild_compass.cli import main
from mild_compass.craft.drawing import Drawing, Label, Layer, stroke
from mild_compass.craft.geometry.lines import picture_box
from mild_compass.craft.memo import Memo
from mild_compass.output.pixels import layer_pixels, sheet_px
from mild_compass.output.write_pixels import layered_sheet, png_sheet
from mild_compass.plan import archive
from mild_compass.plan.edits.sheet import change_sheet
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Plan

NOON = "2026-05-01T12:00:00+02:00"
DPI = 50.8  # two pixels to the millimetre


def opened(data: bytes) -> tuple[list[dict], dict[str, np.ndarray], np.ndarray]:
    """The stack's layers, top first; their pixels by name; the merged picture."""
    with zipfile.ZipFile(io.BytesIO(data)) as archive_:
        assert archive_.namelist()[0] == "mimetype"
        assert archive_.read("mimetype") == b"image/openraster"
        assert archive_.getinfo("mimetype").compress_type == zipfile.ZIP_STORED
        root = ET.fromstring(archive_.read("stack.xml"))
        rows = [dict(layer.attrib) for layer in root.iter("layer")]
        size = (int(root.get("h")), int(root.get("w")), 4)
        pixels = {}
        for row in rows:
            part = np.asarray(Image.open(io.BytesIO(archive_.read(row["src"]))).convert("RGBA"))
            whole = np.zeros(size, np.uint8)
            x, y = int(row["x"]), int(row["y"])
            whole[y : y + part.shape[0], x : x + part.shape[1]] = part
            pixels[row["name"]] = whole
        merged = np.asarray(Image.open(io.BytesIO(archive_.read("mergedimage.png"))).convert("RGB"))
        small = Image.open(io.BytesIO(archive_.read("Thumbnails/thumbnail.png")))
        assert max(small.size) <= 256
    return rows, pixels, merged


def test_the_layers_of_the_study_are_in_the_file_and_its_masses_tile_the_picture(plan: Plan, photos):
    rows, pixels, merged = opened(layered_sheet(plan, photos, dpi=DPI))
    names = [row["name"] for row in rows]
    assert names[-3:] == ["values", "photo", "paper"]
    assert {"mass: dark", "mass: light", "mass outlines", "frame", "grid"} <= set(names)
    assert merged.shape == (594, 840, 3)
    box = picture_box(plan.paper, plan.study.frame)
    covered = sum(pixels[name][..., 3].astype(int) for name in names if name.startswith("mass: "))
    inside = covered[round(2 * box.top) : round(2 * box.bottom), round(2 * box.left) : round(2 * box.right)]
    assert (inside == 255).all()
    assert covered.sum() == 255 * inside.size
    photo = pixels["photo"]
    assert photo[round(2 * box.top) + 1, round(2 * box.left) + 1, 3] == 255
    assert photo[round(2 * box.top) - 2, round(2 * box.left), 3] == 0
    hidden = {row["name"] for row in rows if row["visibility"] == "hidden"}
    assert "values" in hidden
    assert "photo" not in hidden


def test_the_png_has_its_size_and_the_frame_on_it(plan: Plan, photos):
    plan = change_sheet(replace(plan.study.sheet, layers=("frame",))).apply(plan, NOON)
    picture = Image.open(io.BytesIO(png_sheet(plan, photos, dpi=DPI)))
    assert picture.size == (840, 594)
    assert picture.info["dpi"] == pytest.approx((DPI, DPI), abs=0.1)
    grey = np.asarray(picture.convert("L"))
    box = picture_box(plan.paper, plan.study.frame)
    row = grey[round(box.top + box.height * 0.3) * 2]
    dark = np.flatnonzero(row < 160)
    assert dark.min() == pytest.approx(2 * box.left, abs=2)
    assert dark.max() == pytest.approx(2 * box.right, abs=2)


def test_dashes_have_gaps_and_words_are_written():
    layer = Layer("frame", (stroke([[5, 5], [45, 5]], "mass", 0.5, "dashed"),), (Label("x", 25, 20, "mass", 4.0),))
    pixels = layer_pixels(layer, (400, 200), 8.0)
    line = pixels[40, 40:360, 3] > 128
    assert 7 <= np.diff(line.astype(int)).clip(0).sum() <= 9  # dashes of 3 mm with gaps of 1.5
    assert pixels[120:165, 180:220, 3].any()


def test_a_sheet_of_too_many_pixels_is_refused_in_words():
    with pytest.raises(PlanError, match="fewer dots per inch"):
        sheet_px(Drawing(2000, 2000, ()), 600)


@pytest.mark.parametrize("suffix", ["png", "ora", "pdf"])
def test_export_writes_every_kind(plan: Plan, photos, tmp_path: Path, suffix: str):
    small = replace(plan, paper=replace(plan.paper, width_mm=148, height_mm=105))
    path, target = tmp_path / "quay.mildplan", tmp_path / f"quay.{suffix}"
    archive.write(path, small, photos, None)
    assert main(["export", str(path), "-o", str(target)]) == 0
    head = {"png": b"\x89PNG", "ora": b"PK", "pdf": b"%PDF"}[suffix]
    assert target.read_bytes().startswith(head)


def test_what_is_kept_belongs_to_the_very_thing_it_was_made_of():
    kept: Memo[int] = Memo(2)
    made = []

    def make() -> int:
        made.append(1)
        return len(made)

    first, second = [1], [1]
    assert kept.of(first, "a", make) == kept.of(first, "a", make) == 1
    assert kept.of(second, "a", make) == 2  # equal, but another thing
    assert kept.of(first, "b", make) == 3
    assert kept.of(first, "a", make) == 4  # only two are kept
