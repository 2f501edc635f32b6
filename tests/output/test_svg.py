"""The SVG read back by an XML parser: millimetres, named layers, one for each guide."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from xml.etree import ElementTree as ET

import numpy as np
import pytest

from mild_compass.cli import main
from mild_compass.craft.geometry.lines import picture_box
from mild_compass.output.print_sheet import svg_sheet
from mild_compass.plan import archive
from mild_compass.plan.edits.perspective import add_guide, set_horizon
from mild_compass.plan.edits.sheet import change_sheet
from mild_compass.plan.guides import Guide
from mild_compass.plan.model import Plan
from mild_compass.plan.perspective import Horizon

SVG = "{http://www.w3.org/2000/svg}"
NOON = "2026-05-01T12:00:00+02:00"


@pytest.fixture
def planned(plan: Plan) -> Plan:
    """A plan with a horizon and three guides."""
    assert plan.study is not None
    photo = plan.ground(plan.study)
    foot = (photo.width_px * 0.5, photo.height_px * 0.8)
    for edit in (
        set_horizon(Horizon(photo.height_px * 0.4, 0.0, photo.width_px / 2)),
        add_guide(Guide("a", "figure", (foot,), thing="man")),
        add_guide(Guide("b", "box", (foot,), name="shed & store", gable=True, rise_m=0.8)),
        add_guide(Guide("c", "figure", (foot,), shown=False)),
    ):
        plan = edit.apply(plan, NOON)
    settings = replace(plan.study.sheet, layers=("picture", "frame", "horizon", "guides", "grid"))
    return change_sheet(settings).apply(plan, NOON)


def groups(svg: bytes) -> dict[str, ET.Element]:
    return {each.findtext(f"{SVG}title") or "": each for each in ET.fromstring(svg).iter(f"{SVG}g")}


def test_every_layer_and_every_shown_guide_is_a_group_with_its_name(planned, photos):
    found = groups(svg_sheet(planned, photos))
    assert {"picture", "frame", "horizon", "grid", "guides: figure 1", "guides: shed & store"} == set(found)
    assert len({each.get("id") for each in found.values()}) == len(found)


def test_one_unit_is_one_millimetre_and_the_frame_lies_where_it_should(planned, photos):
    svg = svg_sheet(planned, photos)
    root, paper = ET.fromstring(svg), planned.paper
    assert (root.get("width"), root.get("height")) == (f"{paper.width_mm:g}mm", f"{paper.height_mm:g}mm")
    assert root.get("viewBox") == f"0 0 {paper.width_mm:g} {paper.height_mm:g}"
    words = groups(svg)["frame"].find(f"{SVG}polyline").get("points")
    points = np.array([[float(part) for part in pair.split(",")] for pair in words.split()])
    box = picture_box(paper, planned.study.frame)
    assert points.min(0) == pytest.approx((box.left, box.top), abs=0.001)
    assert points.max(0) == pytest.approx((box.right, box.bottom), abs=0.001)
    image = groups(svg)["picture"].find(f"{SVG}image")
    assert float(image.get("width")) == pytest.approx(box.width, abs=0.001)


def test_export_writes_what_the_suffix_names_and_refuses_the_rest(planned, photos, tmp_path: Path, capsys):
    path = tmp_path / "quay.mildplan"
    archive.write(path, planned, photos, None)
    assert main(["export", str(path), "-o", str(tmp_path / "quay.svg")]) == 0
    assert groups((tmp_path / "quay.svg").read_bytes())
    assert main(["export", str(path), "-o", str(tmp_path / "quay.xyz")]) == 1
    assert "cannot be written" in capsys.readouterr().err
    assert not (tmp_path / "quay.xyz").exists()
