"""Plan files: whole or refused, never made worse."""

from __future__ import annotations

import json
import os
import stat
import subprocess
import sys
import zipfile
from dataclasses import replace
from pathlib import Path

import jsonschema
import pytest

from mild_compass.plan import archive, atomic
from mild_compass.plan.coding import decode, encode, json_schema
from mild_compass.plan.edits.perspective import trace_edge
from mild_compass.plan.edits.values import change_values
from mild_compass.plan.errors import PlanError
from mild_compass.plan.model import Plan
from mild_compass.plan.perspective import TracedEdge
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.tones import ValuePlan
from mild_compass.plan.workspace import Workspace, leftovers

NOON = "2026-05-01T12:00:00+02:00"


@pytest.fixture
def full(plan: Plan) -> Plan:
    plan = trace_edge("A", TracedEdge(1.5, 2, 30, 40)).apply(plan, NOON)
    return change_values(ValuePlan(3, "by hand", (30.0, 60.0))).apply(plan, NOON)


def rewritten(path: Path, **changes: bytes | None) -> None:
    """The archive with entries replaced, added, or (None) left out."""
    with zipfile.ZipFile(path) as old:
        entries = {info.filename: old.read(info) for info in old.infolist()}
    entries.update({key: data for key, data in changes.items() if data is not None})
    with zipfile.ZipFile(path, "w") as new:
        for name, data in entries.items():
            if not (name in changes and changes[name] is None):
                new.writestr(name, data)


def test_a_saved_plan_comes_back_equal_with_its_photos_bytes_untouched(full, photos, tmp_path):
    path = tmp_path / "quay.mildplan"
    archive.write(path, full, photos, b"png")
    elsewhere = PhotoFolder(tmp_path / "elsewhere")
    assert archive.read(path, elsewhere) == full
    digest = full.references[0].sha256
    assert elsewhere.read(digest, "x") == photos.read(digest, "x")


def test_the_mimetype_comes_first_and_uncompressed(full, photos, tmp_path):
    path = tmp_path / "quay.mildplan"
    archive.write(path, full, photos, None)
    with zipfile.ZipFile(path) as file:
        first = file.infolist()[0]
        assert first.filename == "mimetype"
        assert first.compress_type == zipfile.ZIP_STORED
    assert path.read_bytes()[38:].startswith(archive.MIMETYPE)


def test_plan_json_fits_the_schema_made_from_the_model_and_the_documented_one(full):
    document = json.loads(encode(full))
    jsonschema.validate(document, json_schema())
    kept = json.loads((Path(__file__).parents[2] / "docs/plan.schema.json").read_text())
    assert kept == json_schema(), "docs/plan.schema.json is old: run python -m tools.schema"
    document["plan"]["paper"]["width_mm"] = "wide"
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(document, json_schema())


def test_a_failed_write_leaves_the_old_file_whole_and_no_rubbish(full, photos, tmp_path, monkeypatch):
    path = tmp_path / "quay.mildplan"
    archive.write(path, full, photos, None)
    before = path.read_bytes()

    def full_disk(_: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(atomic.os, "fsync", full_disk)
    with pytest.raises(PlanError, match="No space left"):
        archive.write(path, replace(full, name="changed"), photos, None)
    assert path.read_bytes() == before
    assert [each.name for each in tmp_path.glob(".*")] == []


def test_a_folder_that_is_not_there_gives_a_sentence(full, photos, tmp_path):
    with pytest.raises(PlanError, match="could not be written"):
        archive.write(tmp_path / "nowhere" / "x.mildplan", full, photos, None)


def test_saving_keeps_the_files_permissions(full, photos, tmp_path):
    path = tmp_path / "quay.mildplan"
    archive.write(path, full, photos, None)
    path.chmod(0o600)
    archive.write(path, full, photos, None)
    assert stat.S_IMODE(path.stat().st_mode) == 0o600


@pytest.mark.parametrize(
    ("name", "data", "sentence"),
    [
        ("../../evil", b"x", "does not belong"),
        ("photos/../../evil", b"x", "does not belong"),
        ("plan.json", b"{", "not readable"),
        ("plan.json", b"[" * 100_000, "not readable"),
        ("plan.json", b'{"format": "other"}', "does not hold a plan"),
        ("plan.json", b'{"format": "mildplan", "version": 99, "plan": {}}', "newer"),
        ("plan.json", b'{"format": "mildplan", "version": 1, "plan": {"paper": 3}}', "wrong entry"),
        ("plan.json", None, "lacks its plan"),
        ("mimetype", b"application/zip", "not a plan file"),
    ],
)
def test_a_wrong_or_hostile_file_is_refused_with_a_sentence(full, photos, tmp_path, name, data, sentence):
    path = tmp_path / "quay.mildplan"
    archive.write(path, full, photos, None)
    rewritten(path, **{name: data})
    before = path.read_bytes()
    with pytest.raises(PlanError, match=sentence):
        archive.read(path, PhotoFolder(tmp_path / "in"))
    assert path.read_bytes() == before


@pytest.mark.parametrize("there", [b"other", None])
def test_a_plan_whose_photo_is_damaged_or_gone_opens_with_all_the_rest(full, photos, tmp_path, there):
    path, digest = tmp_path / "quay.mildplan", full.references[0].sha256
    archive.write(path, full, photos, b"png")
    rewritten(path, **{f"photos/{digest}": there})
    inside = PhotoFolder(tmp_path / "in")
    assert archive.read(path, inside) == full
    assert "quay.jpg is missing from the plan's file" in archive.lost_words(full, inside)
    with pytest.raises(PlanError, match=r"add quay.jpg once more"):
        inside.read(digest, "quay.jpg")
    archive.write(path, full, inside, None)  # what is left can still be saved
    inside.add(photos.read(digest, "quay.jpg"))
    assert archive.lost_words(full, inside) == ""
    archive.write(path, full, inside, None)
    whole = PhotoFolder(tmp_path / "whole")
    assert archive.read(path, whole) == full
    assert archive.lost_words(full, whole) == ""


@pytest.mark.parametrize("again", [False, True])
@pytest.mark.parametrize("harm", ["cut short", "other bytes", "gone"])
def test_saving_refuses_a_damaged_photo_and_keeps_the_old_file(full, photos, tmp_path, harm, again):
    """Also where the folder has been taken up after a crash, and nothing is known of what was put there."""
    path, digest = tmp_path / "quay.mildplan", full.references[0].sha256
    archive.write(path, full, photos, None)
    old, whole = path.read_bytes(), photos.read(digest, "x")
    spoiled = {"cut short": whole[:-9], "other bytes": whole[:-9] + b"123456789", "gone": None}[harm]
    photos.file(digest).unlink()
    if spoiled is not None:
        photos.file(digest).write_bytes(spoiled)
    folder = PhotoFolder(photos.path) if again else photos
    with pytest.raises(PlanError, match=r"quay.jpg is missing .* or damaged .* add quay.jpg once more"):
        archive.write(path, full, folder, None)
    assert path.read_bytes() == old
    assert list(tmp_path.glob("*.part")) == []
    folder.add(whole)  # given back
    archive.write(path, full, folder, None)
    assert archive.read(path, PhotoFolder(tmp_path / "in")) == full


def test_a_photo_that_finds_no_room_leaves_nothing_behind(photos, monkeypatch):
    def full_disk(_: int) -> None:
        raise OSError(28, "No space left on device")

    before = set(photos.path.iterdir())
    monkeypatch.setattr(atomic.os, "fsync", full_disk)
    with pytest.raises(PlanError, match=r"heath.jpg could not be stored .*No space left"):
        photos.add(b"a photo", "heath.jpg")
    assert set(photos.path.iterdir()) == before


def test_a_part_whose_name_is_no_text_is_refused_with_a_sentence(full, photos, tmp_path):
    path = tmp_path / "quay.mildplan"
    archive.write(path, full, photos, None)
    rewritten(path, näme=b"x")
    path.write_bytes(path.read_bytes().replace("näme".encode(), b"n\xff\xfeme"))
    with pytest.raises(PlanError, match="not a whole plan file"):
        archive.read_plan(path)


@pytest.mark.parametrize("data", [b"", b"not a zip at all", b"PK\x03\x04 broken"])
def test_what_is_no_zip_is_refused(tmp_path, data):
    path = tmp_path / "x.mildplan"
    path.write_bytes(data)
    with pytest.raises(PlanError, match="not a whole plan file"):
        archive.read(path, PhotoFolder(tmp_path / "in"))


@pytest.mark.parametrize("cut", [0.3, 0.9, 0.999])
def test_a_file_cut_short_is_refused(full, photos, tmp_path, cut):
    path = tmp_path / "quay.mildplan"
    archive.write(path, full, photos, None)
    whole = path.read_bytes()
    path.write_bytes(whole[: int(len(whole) * cut)])
    with pytest.raises(PlanError):
        archive.read(path, PhotoFolder(tmp_path / "in"))


def test_impossible_values_in_a_file_are_refused_by_the_model_itself(full):
    document = json.loads(encode(full))
    document["plan"]["paper"]["margin_mm"] = 900
    with pytest.raises(PlanError, match="margin"):
        decode(json.dumps(document))


def test_a_workspace_whose_owner_is_gone_offers_its_work_and_a_held_one_does_not(full, tmp_path):
    root = tmp_path / "open"
    workspace = Workspace.fresh(root)
    workspace.keep(full, tmp_path / "quay.mildplan")
    assert leftovers(root) == []
    os.close(workspace._owner)  # as when the process is killed
    (found,) = leftovers(root)
    assert found.plan == full
    assert found.saved_as == tmp_path / "quay.mildplan"
    taken = Workspace(found.folder)
    taken.close()
    assert not found.folder.exists()


def test_an_empty_leftover_is_cleared_away(tmp_path):
    workspace = Workspace.fresh(tmp_path)
    os.close(workspace._owner)
    assert leftovers(tmp_path) == []
    assert not workspace.folder.exists()


def test_a_start_is_not_spoiled_by_another_that_clears_up(tmp_path):
    """Many windows begin while others look for what a crash has left."""
    program = (
        "import sys; from pathlib import Path; from mild_compass.plan.workspace import Workspace, leftovers\n"
        "root = Path(sys.argv[1])\n"
        "for _ in range(60):\n"
        "    leftovers(root); held = Workspace.fresh(root); held.photos.add(b'x'); held.close()\n"
    )
    starts = [subprocess.Popen([sys.executable, "-c", program, tmp_path], stderr=subprocess.PIPE) for _ in range(4)]
    for start in starts:
        _, told = start.communicate()
        assert start.returncode == 0, told.decode()
    assert leftovers(tmp_path) == []
    assert list(tmp_path.iterdir()) == []


def test_a_folder_that_a_crash_left_while_it_was_made_is_cleared_away_in_time(tmp_path):
    young, old = tmp_path / "begun-young", tmp_path / "begun-old"
    young.mkdir()
    old.mkdir()
    os.utime(old, (1.0, 1.0))
    leftovers(tmp_path)
    assert [each.name for each in tmp_path.iterdir()] == ["begun-young"]
