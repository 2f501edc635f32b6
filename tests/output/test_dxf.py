"""The sheet as DXF, read back: true to size, in layers, closed where it is closed."""

from __future__ import annotations

import io
from pathlib import Path

import ezdxf
import numpy as np
import pytest
from ezdxf import bbox, recover

from mild_compass.cli import main
from mild_compass.craft.drawing import Drawing, Label, Layer, stroke
from mild_compass.output.canvas import INKS
from mild_compass.output.dxf import sheet_dxf
from mild_compass.plan import archive


def read(data: bytes):
    document, audit = recover.read(io.BytesIO(data))
    assert not audit.has_errors
    assert not audit.has_fixes
    return document


SQUARE = [[10, 20], [60, 20], [60, 70], [10, 70], [10, 20]]


def test_lines_lie_in_millimetres_from_the_lower_left_and_outlines_are_closed():
    drawing = Drawing(
        200, 100,
        (
            Layer("masses", (stroke(SQUARE, "mass", 0.5),)),
            Layer("guides", (stroke([[0, 0], [200, 100]], "perspective", 0.2, "dashed"),), title='row <1> "posts"'),
        ),
    )  # fmt: skip
    document = read(sheet_dxf(drawing))
    assert document.units == ezdxf.units.MM
    square, line = document.modelspace().query("LWPOLYLINE")
    assert square.closed
    assert np.array([point[:2] for point in square.get_points()]) == pytest.approx(
        np.array([[10, 80], [60, 80], [60, 30], [10, 30]])
    )
    assert square.dxf.layer == "masses"
    assert square.dxf.lineweight == 50
    assert square.rgb == tuple(round(255 * part) for part in INKS["mass"])
    assert not line.closed
    assert [point[:2] for point in line.get_points()] == [(0, 100), (200, 0)]
    assert document.linetypes.get(line.dxf.linetype).dxf.description == "dashed"
    assert line.dxf.layer.startswith("guides row")
    assert document.layers.has_entry(line.dxf.layer)


def test_words_stand_where_they_do_on_the_sheet():
    layer = Layer("frame", (), (Label("Élan, 2 Å", 30, 40, "mass", 4.0, "left"),))
    (text,) = read(sheet_dxf(Drawing(200, 100, (layer,)))).modelspace().query("TEXT")
    assert text.dxf.text == "Élan, 2 Å"
    assert (text.dxf.insert.x, text.dxf.insert.y) == (30, 60)
    assert text.dxf.height == 4.0


def test_a_plan_is_written_as_dxf_that_fills_no_more_than_its_sheet(plan, photos, tmp_path: Path):
    path, target = tmp_path / "quay.mildplan", tmp_path / "quay.dxf"
    archive.write(path, plan, photos, None)
    assert main(["export", str(path), "-o", str(target)]) == 0
    document = read(target.read_bytes())
    lines = document.modelspace().query("LWPOLYLINE")
    assert len(lines) > 3
    extent = bbox.extents(lines, fast=True)
    assert extent.extmin.x >= -60  # rulers and pins may stand beside the sheet
    assert extent.extmax.x - extent.extmin.x <= plan.paper.width_mm + 120
    assert {line.dxf.layer for line in lines} <= {layer.dxf.name for layer in document.layers}
