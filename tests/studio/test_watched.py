"""A folder that photos come into: of the motif at References, whole ones only, for the plan it was begun for."""

from __future__ import annotations

import shutil
from pathlib import Path

from tests.studio.conftest import Hand

from mild_compass.demo.glasshouse import PHOTOS
from mild_compass.studio.files.dialogs import Dialogs
from mild_compass.studio.widgets import Tick


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
    hand.bot.wait(2000)
    with (folder / "came.jpg").open("ab") as rest:  # the phone is still sending it
        rest.write(whole[len(whole) // 2 :])
    hand.bot.waitUntil(lambda: len(hand.window.session.plan.references) == before + 1, timeout=15_000)
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
    hand.bot.waitUntil(lambda: not watch_box(hand).isChecked(), timeout=8000)
    assert "folder is gone" in hand.window.notice.words.text()


def test_another_plan_ends_the_watching(hand: Hand, tmp_path):
    hand.window.files.watched.watch(tmp_path)
    assert hand.window.files.watched.folder == tmp_path
    hand.window.session.new()
    hand.settle()
    assert hand.window.files.watched.folder is None
