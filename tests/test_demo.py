"""The demo plans: worked through, true to the rendered scenes, saved and read back, printed."""

from __future__ import annotations

import json
from pathlib import Path

import jsonschema
import numpy as np
import pypdfium2 as pdfium
import pytest

from mild_compass.craft.armature.report import lock_report
from mild_compass.craft.geometry.frame_map import FrameMap
from mild_compass.craft.picture.study_picture import study_picture
from mild_compass.craft.reading import json_schema
from mild_compass.craft.sheet.measure import study_measures
from mild_compass.craft.sheet.motif import repeats
from mild_compass.craft.sheet.printer import USUAL_OUTPUT
from mild_compass.craft.sheet.tiles import tiling_of
from mild_compass.craft.stations import STATIONS, readings_of
from mild_compass.craft.values.masses import find_masses
from mild_compass.craft.worked import worked_study
from mild_compass.demo import SCENES, plan_of
from mild_compass.demo.glasshouse import PHOTOS
from mild_compass.output.print_sheet import print_sheet
from mild_compass.plan import archive
from mild_compass.plan.coding import decode, encode
from mild_compass.plan.photos import PhotoFolder


@pytest.fixture(scope="module", params=SCENES)
def demo(request, tmp_path_factory):
    photos = PhotoFolder(tmp_path_factory.mktemp(request.param))
    return plan_of(request.param, photos), photos


def test_a_demo_plan_is_saved_and_read_back_whole(demo, tmp_path):
    plan, photos = demo
    assert decode(encode(plan)) == plan
    archive.write(tmp_path / "demo.mildplan", plan, photos, None)
    assert archive.read(tmp_path / "demo.mildplan", PhotoFolder(tmp_path / "in")) == plan


def test_its_logbook_is_in_the_order_of_time_and_has_a_note(demo):
    plan, _ = demo
    times = [entry.time for entry in plan.log]
    assert times == sorted(times)
    assert any(entry.kind == "note" for entry in plan.log)


def test_every_station_has_something_to_say_in_whole_sentences(demo):
    plan, photos = demo
    study = plan.study
    picture = study_picture(plan, study, photos)
    masses = find_masses(picture, study.frame, plan.paper, study.values)
    locks = lock_report(study, plan.ground(study), plan.paper)
    worked = worked_study(plan, masses=masses, picture=picture, locks=locks)
    told = {}
    for station in STATIONS:
        assert station.headline(worked)
        rows = readings_of(station.name, worked)
        keys = [row.key for row in rows]
        assert len(keys) == len(set(keys)), station.name
        for row in rows:
            assert row.text.endswith("."), row.text
            assert "nan" not in row.text.split()
        told[station.name] = [row.as_json() for row in rows]
    told = json.loads(json.dumps(told))
    jsonschema.validate(told, json_schema())
    told["sheet"][0]["verdict"] = "bad"
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(told, json_schema())


def test_the_documented_schema_of_readings_is_that_of_the_program():
    kept = json.loads((Path(__file__).parents[1] / "docs/readings.schema.json").read_text())
    assert kept == json_schema(), "docs/readings.schema.json is old: run python -m tools.schema"


def test_it_is_printed_as_it_is_set_up(demo):
    plan, photos = demo
    document = pdfium.PdfDocument(print_sheet(plan, photos))
    pages = len(document)
    document.close()
    tiling = tiling_of(plan.study.sheet, plan.paper, USUAL_OUTPUT)
    assert tiling is not None
    assert pages == len(tiling.tiles) > 1


def test_the_door_of_the_pumping_station_measures_the_wall_beside_it(tmp_path):
    """Heights on one wall, in doors, are those of the modelled house to a few percent: the camera is tipped."""
    plan = plan_of("pumping-station", PhotoFolder(tmp_path))
    known = json.loads((PHOTOS / "pumping-station.json").read_text())
    rows = {row.name: row for row in study_measures(plan.study, plan.references[0], plan.paper).lengths}
    assert rows["door"].units == pytest.approx(1)
    # The corner stands nearer than the door, by so much that it looks a quarter taller.
    corner, along = np.array(known["house_corner_m"]), np.array(known["house_along"])
    door_away, corner_away = ((corner + along * step)[1] for step in (3.15 + 0.95 / 2, 0.0))
    wanted = known["house_m"]["eaves"] / 1.99 * door_away / corner_away
    assert rows["corner"].units == pytest.approx(wanted, rel=0.05)


def test_the_lanterns_meet_three_edges_and_hide_each_other(tmp_path):
    plan = plan_of("lantern-bench", PhotoFolder(tmp_path))
    found = repeats(plan.study.motif, FrameMap.of(plan.study.frame, plan.paper).box)
    assert {name for name, _, _ in found.contacts} == {"top", "right", "bottom"}
    assert max(found.hidden) > 0.02
    assert found.reloads == 1
