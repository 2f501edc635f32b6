"""A folder that photos come into: of the motif at References, whole ones only, for the plan it was begun for."""

from __future__ import annotations

import shutil
import threading
from pathlib import Path

from tests.conftest import jpeg
from tests.studio.conftest import Hand

from mild_compass.demo.glasshouse import PHOTOS
from mild_compass.studio.files.dialogs import Dialogs
from mild_compass.studio.files.watched import QUIET_S, look, marks_in
from mild_compass.studio.widgets import Tick

SOON = 60_000


def watch_box(hand: Hand) -> Tick:
    return next(
        box for box in hand.window.findChildren(Tick) if box.text() == "Watch a folder for more" and box.isVisible()
    )


def test_photos_that_come_into_the_folder_are_added_by_themselves(hand: Hand, photo_file: Path, tmp_path, monkeypatch):
    hand.window.go_to("references")
    hand.settle()
    folder = tmp_path / "camera"
    folder.mkdir()
    shutil.copy(photo_file, folder / "there-before.jpg")
    monkeypatch.setattr(Dialogs, "folder", lambda _: folder)
    assert not watch_box(hand).isChecked()
    watch_box(hand).click()
    assert watch_box(hand).isChecked()
    before = len(hand.window.session.plan.references)

    whole = (PHOTOS / "lantern-bench.jpg").read_bytes()
    (folder / "came.jpg").write_bytes(whole[: len(whole) // 2])
    (folder / "notes.txt").write_text("not a photo")
    looks = hand.window.files.watched
    hand.bot.waitUntil(lambda: folder / "came.jpg" in looks._growing, timeout=SOON)
    first = looks._growing[folder / "came.jpg"]
    again = look(folder, looks._known, looks._growing, first.since_s + QUIET_S - 1)
    assert not again.came, "the phone has paused for nineteen seconds, and is still sending it"
    with (folder / "came.jpg").open("ab") as rest:
        rest.write(whole[len(whole) // 2 :])
    hand.bot.waitUntil(lambda: len(hand.window.session.plan.references) == before + 1, timeout=SOON)
    hand.settle()
    assert hand.window.session.plan.references[-1].name == "came.jpg"
    hand.window.session.undo()
    assert len(hand.window.session.plan.references) == before

    watch_box(hand).click()
    assert hand.window.files.watched.folder is None


def test_calling_the_question_off_leaves_the_box_empty(hand: Hand, monkeypatch):
    hand.window.go_to("references")
    hand.settle()
    monkeypatch.setattr(Dialogs, "folder", lambda _: None)
    watch_box(hand).click()
    hand.settle()
    assert not watch_box(hand).isChecked()


def test_a_folder_that_goes_away_is_no_longer_told_as_watched(hand: Hand, tmp_path, monkeypatch):
    hand.window.go_to("references")
    hand.settle()
    folder = tmp_path / "stick"
    folder.mkdir()
    monkeypatch.setattr(Dialogs, "folder", lambda _: folder)
    watch_box(hand).click()
    assert watch_box(hand).isChecked()
    folder.rmdir()
    hand.bot.waitUntil(lambda: not watch_box(hand).isChecked(), timeout=SOON)
    assert "folder is gone" in hand.window.notice.words.text()


def test_another_plan_ends_the_watching(hand: Hand, tmp_path):
    hand.window.files.watched.watch(tmp_path)
    assert hand.window.files.watched.folder == tmp_path
    hand.window.session.new()
    hand.settle()
    assert hand.window.files.watched.folder is None


def looks_at(folder: Path, known: dict, seconds: float) -> list[str]:
    """What has come after looks from second to second."""
    growing: dict = {}
    for second in range(int(seconds) + 1):
        found = look(folder, known, growing, float(second))
        known.update(found.came)
        growing = found.growing
        if found.came:
            return [path.name for path in found.came]
    return []


def test_a_file_comes_when_its_format_ends_and_others_when_nothing_is_added_for_long(tmp_path, photo_file: Path):
    whole = photo_file.read_bytes()
    photo_file.unlink()
    (tmp_path / "whole.jpg").write_bytes(whole + bytes(40))
    assert looks_at(tmp_path, {}, 1) == ["whole.jpg"]
    (tmp_path / "whole.jpg").unlink()
    (tmp_path / "with-a-film.jpg").write_bytes(whole + b"a few seconds of film")
    (tmp_path / "page.tif").write_bytes(b"II*")
    assert looks_at(tmp_path, {}, QUIET_S - 1) == []
    assert looks_at(tmp_path, {}, QUIET_S) == ["page.tif", "with-a-film.jpg"]


def test_a_known_name_written_anew_comes_again(tmp_path, photo_file: Path):
    target = tmp_path / "same-name.jpg"
    shutil.copy(photo_file, target)
    known = marks_in(tmp_path)
    assert looks_at(tmp_path, known, 30) == []
    target.write_bytes(jpeg(seed=77))
    assert looks_at(tmp_path, known, 1) == ["same-name.jpg"]
    assert looks_at(tmp_path, known, 30) == []


def test_a_folder_of_thousands_is_looked_at_at_the_side(hand: Hand, tmp_path, monkeypatch):
    seen = []
    monkeypatch.setattr(
        "mild_compass.studio.files.watched.look",
        lambda *inputs: seen.append(threading.current_thread()) or look(*inputs),
    )
    hand.window.files.watched.watch(tmp_path)
    hand.bot.waitUntil(lambda: bool(seen), timeout=SOON)
    assert threading.main_thread() not in seen
