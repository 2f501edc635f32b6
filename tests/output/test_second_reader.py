"""OpenRaster read back by a reader of others: pyora, which knows nothing of us."""

from __future__ import annotations

import io
from dataclasses import replace

import numpy as np
import pyora
import pytest
from PIL import Image

from mild_compass.output.print_sheet import drawn_sheet
from mild_compass.output.write_pixels import layered_sheet, png_sheet

DPI = 72.0  # the reader lays every layer over the others in Python


def test_another_reader_finds_every_layer_where_it_lies_and_the_same_whole(plan, photos):
    small = replace(plan, paper=replace(plan.paper, width_mm=148, height_mm=105))
    project = pyora.Project.load(io.BytesIO(layered_sheet(small, photos, dpi=DPI)))
    layers = list(project.iter_layers)
    names = [layer.name for layer in layers]
    assert len(set(names)) == len(names)
    drawn = {layer.name for layer in drawn_sheet(small, photos)[0].layers}
    assert any(name in " ".join(names) for name in drawn)
    whole = Image.open(io.BytesIO(png_sheet(small, photos, dpi=DPI)))
    assert project.dimensions == whole.size
    ratio = (project.dimensions[0] / 148, project.dimensions[1] / 105)
    assert ratio[0] == pytest.approx(ratio[1], rel=0.01)
    shown = np.asarray(project.get_image_data(use_original=True).convert("RGB"), np.int16)
    made_anew = np.asarray(project.get_image_data(use_original=False).convert("RGB"), np.int16)
    assert np.abs(shown - made_anew).mean() < 1.0  # its layers, laid over each other by the reader, are the picture
