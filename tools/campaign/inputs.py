"""Bad photos, bad plan files, bad edits, hostile words."""

from __future__ import annotations

import csv
import io
import json
import random
import tempfile
import zipfile
from dataclasses import fields, is_dataclass, replace
from pathlib import Path
from typing import Any
from xml.etree import ElementTree as ET

import numpy as np
from PIL import Image

from mild_compass.craft.perspective.worked import work_out
from mild_compass.craft.picture.load import focal_35mm_of, read_full, read_proxy, size_of
from mild_compass.craft.sheet.layers import sheet_drawing
from mild_compass.craft.stations import STATIONS, readings_of
from mild_compass.craft.worked import worked_study
from mild_compass.output.logbook_document import logbook_markdown
from mild_compass.output.measures_csv import measures_csv
from mild_compass.output.pdf import PageSetup, Printed, pages_pdf
from mild_compass.output.svg import sheet_svg
from mild_compass.plan import archive
from mild_compass.plan.coding import decode, encode
from mild_compass.plan.edits.base import Edit
from mild_compass.plan.history import History
from mild_compass.plan.model import LogEntry, Plan
from mild_compass.plan.photos import PhotoFolder
from mild_compass.plan.texts import clean_name

from .trying import Tally, tried, until

SAVED = Path(__file__).resolve().parents[2] / "tests/plan/saved"
NOW = "2026-05-01T12:00:00+02:00"
FAR = (0.0, -1.0, 1e-9, 1e5, -1e5, 1e7, 1e9, 1e300, float("nan"), float("inf"), -0.5, 3.7)
WORDS = ("", " ", "\x00", "\r", "\ud800", "=1+1", "<b>", "x" * 5000, "é", "\u202e", "]]>", "\ufffe", "a\nb", "-1", "@x")


def damaged(data: bytes, hand: random.Random) -> bytes:
    """Bytes cut short, flipped, doubled, moved or overwritten."""
    found = bytearray(data)
    for _ in range(hand.randint(1, 6)):
        if not found:
            break
        at = hand.randrange(len(found))
        match hand.randrange(5):
            case 0:
                del found[at:]
            case 1:
                found[at] ^= 1 << hand.randrange(8)
            case 2:
                found[at:at] = found[at : at + hand.randint(1, 64)]
            case 3:
                found[at : at + 4] = hand.choice((b"\xff\xff\xff\xff", b"\0\0\0\0", b"\x7f\xff\xff\xff"))
            case _:
                found[at : at + hand.randint(1, 40)] = hand.randbytes(hand.randint(0, 40))
    return bytes(found)


def _photos() -> list[bytes]:
    import pillow_heif

    pillow_heif.register_heif_opener()
    pixels = np.random.default_rng(1).integers(0, 256, (48, 64, 3), np.uint8)
    found = []
    for kind, more in (
        ("JPEG", {}), ("JPEG", {"progressive": True}), ("PNG", {}), ("WEBP", {}), ("TIFF", {}),
        ("TIFF", {"compression": "tiff_lzw"}), ("HEIF", {}),
    ):  # fmt: skip
        for mode in ("RGB", "L"):
            packed = io.BytesIO()
            Image.fromarray(pixels).convert(mode).save(packed, kind, **more)
            found.append(packed.getvalue())
    return found


def photos(tally: Tally, hand: random.Random, seconds: float, most: int) -> None:
    """Damaged photos of every kind, read as they are when they are added."""
    whole = _photos()

    def read(data: bytes) -> None:
        picture = read_proxy(data, "photo", 360)
        size_of(data, "photo")
        focal_35mm_of(data, "photo")
        assert picture.rgb.shape[2] == 3
        if picture.width_px * picture.height_px < 1e7:
            height, width = read_full(data, "photo").shape[:2]
            assert (width, height) == (picture.width_px, picture.height_px)

    for _ in until(seconds, most):
        tried(tally, read, damaged(hand.choice(whole), hand))


def plan_files(tally: Tally, hand: random.Random, seconds: float, most: int) -> None:
    """Damaged plan files; one that opens must be worth saving, and the damaged file stays as it was."""
    whole = (SAVED / "every-mark-1.mildplan").read_bytes()
    with tempfile.TemporaryDirectory() as folder:
        path, again = Path(folder) / "damaged.mildplan", Path(folder) / "again.mildplan"
        for number in until(seconds, most):
            data = damaged(whole, hand)
            path.write_bytes(data)
            photos_here = PhotoFolder(Path(folder) / f"photos-{number % 4}")
            plan = tried(tally, archive.read, path, photos_here)
            if plan is not None:
                archive.write(again, plan, photos_here, None)
                if archive.read(again, photos_here) != plan:
                    tally.fault("not the same again", repr(number))
            if path.read_bytes() != data:
                tally.fault("file changed", repr(number))


def _twisted(value: Any, hand: random.Random) -> Any:
    """A JSON value with one part of it replaced by something odd."""
    if isinstance(value, dict) and value and hand.random() < 0.9:
        key = hand.choice(list(value))
        return {**value, key: _twisted(value[key], hand)}
    if isinstance(value, list) and value and hand.random() < 0.85:
        at = hand.randrange(len(value))
        return [*value[:at], _twisted(value[at], hand), *value[at + 1 :]]
    odd = (None, True, [], {}, -1, 10**400, *FAR, *WORDS, [value] * 3, {"x": value})
    return hand.choice(odd)


def plan_entries(tally: Tally, hand: random.Random, seconds: float, most: int) -> None:
    """Plans with odd entries; one that is accepted must give readings and a drawing."""
    whole = json.loads(encode(decode(_plan_json())))

    def open_it(text: str) -> None:
        plan = decode(text)
        assert decode(encode(plan)) == plan
        _draw(plan)

    for _ in until(seconds, most):
        tried(tally, open_it, json.dumps(_twisted(whole, hand)))


def _plan_json() -> bytes:
    with zipfile.ZipFile(SAVED / "every-mark-1.mildplan") as file:
        return file.read("plan.json")


def _draw(plan: Plan) -> bytes:
    """All layers that need no picture, as SVG, and what every station says."""
    study = plan.study
    if study is None:
        return b""
    worked = worked_study(plan)
    assert worked is not None
    for station in STATIONS:
        station.headline(worked)
        readings_of(station.name, worked)
    layers = tuple(name for name in study.sheet.layers if name not in ("picture", "masses", "lines"))
    perspective = work_out(study.perspective, plan.ground(study))
    return sheet_svg(sheet_drawing(study, plan.paper, perspective, None, layers), plan.name)


def edits(tally: Tally, hand: random.Random, seconds: float, most: int) -> None:
    """Edits with numbers, words and lists from nowhere; what is accepted must be drawn."""
    begun = decode(_plan_json())

    def change(value: Any) -> Any:
        if is_dataclass(value):
            each = hand.choice(fields(value))
            return replace(value, **{each.name: change(getattr(value, each.name))})
        if isinstance(value, tuple) and value and hand.random() < 0.8:
            at = hand.randrange(len(value))
            return (*value[:at], change(value[at]), *value[at + 1 :])
        if isinstance(value, bool):
            return not value
        if isinstance(value, int | float):
            return hand.choice(FAR)
        return hand.choice(WORDS) if isinstance(value, str) else value

    def edit() -> None:
        history = History(begun)
        history.apply(
            Edit("odd", "odd", lambda plan: replace(plan, studies=(change(plan.study), plan.studies[1]))), NOW
        )
        assert decode(encode(history.plan)) == history.plan
        _draw(history.plan)

    for _ in until(seconds, most):
        tried(tally, edit)


def words(tally: Tally, hand: random.Random, seconds: float, most: int) -> None:
    """Hostile names and notes through every kind of text that is written."""
    plain = decode(_plan_json())

    def write(text: str) -> None:
        name = clean_name(text)
        entry = LogEntry(NOW, "viewfinder", name, "note", text)
        study = plain.study
        assert study is not None
        lengths = tuple(replace(each, name=name) for each in study.measures.lengths)
        guides = tuple(replace(each, name=name) for each in study.perspective.guides)
        study = replace(
            study, name=name, measures=replace(study.measures, lengths=lengths),
            perspective=replace(study.perspective, guides=guides),
        )  # fmt: skip
        plan = decode(encode(replace(plain, name=name, log=(entry,), studies=(study, plain.studies[1]))))
        ET.fromstring(_draw(plan))
        for row in csv.DictReader(io.StringIO(measures_csv(plan))):
            assert not row["name"].startswith(("=", "+", "-", "@", "\t"))
        assert "<" not in logbook_markdown(plan).replace("\\<", "")
        worked = worked_study(plan)
        assert worked is not None
        drawing = sheet_drawing(study, plan.paper, worked.perspective, None, ("measures", "frame"))
        printed = Printed(plan.name, plan.paper, drawing, None, worked.frame_map.box)
        assert pages_pdf(printed, PageSetup()).startswith(b"%PDF")

    for _ in until(seconds, most):
        length = hand.choice((0, 1, 3, 20, 200))
        text = hand.choice(WORDS) + "".join(
            chr(hand.randrange(hand.choice((128, 0xD800, 0x10FFFF)))) for _ in range(length)
        )
        tried(tally, write, text)
