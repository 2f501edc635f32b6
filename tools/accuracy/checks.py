"""How right the check is on made photos of drawings: python -m tools.accuracy.checks writes docs/check-accuracy.md.

Lines of the demo plans on A4 and A3, all drawn or up to a third of them missing, by random hands, in random shots. Even
seeds were looked at while the method was made, of the odd ones two (15 and 71).
"""

from __future__ import annotations

import sys
import tempfile
import time
from dataclasses import dataclass, field
from pathlib import Path

import cv2
import numpy as np

from mild_compass.craft.check.asked import Asked
from mild_compass.craft.check.check import check
from mild_compass.craft.check.checked import Checked, PlaceFound
from mild_compass.craft.check.corners import found_sheet
from mild_compass.craft.check.flat import flattened
from mild_compass.craft.check.pieces import PlanLine
from mild_compass.craft.check.planned import study_lines
from mild_compass.craft.check.sides import rolled
from mild_compass.craft.check.tones import drawn_tones
from mild_compass.craft.geometry.lines import picture_box
from mild_compass.craft.picture.study_picture import study_picture
from mild_compass.craft.sheet_sizes.papers import paper
from mild_compass.craft.values.masses import study_masses
from mild_compass.demo import SCENES, plan_of
from mild_compass.plan.edits.viewfinder import choose_paper
from mild_compass.plan.model import Plan
from mild_compass.plan.photos import PhotoFolder
from tools.accuracy.photographed import Hand, Photographed, dense, photographed, random_hand, random_shot

TARGET = Path(__file__).parents[2] / "docs/check-accuracy.md"
CASES, TONE_CASES = 96, 24
DROPS = (0.0, 0.0, 0.15, 0.3)
LEAST_DRAWN = 4  # lines of a part, as many as a part has at least when all are drawn
SAME_MM = 1.0  # a part told is a part moved where its shift agrees so well
Lines = list[np.ndarray]


@dataclass
class Parts:
    """Parts that were moved, of these found, parts told, of these false."""

    moved: int = 0
    found: int = 0
    told: int = 0
    false: int = 0


@dataclass
class Half:
    """What has been gathered of one half of the cases."""

    cases: int = 0
    sure: int = 0
    corners_mm: list[float] = field(default_factory=list)
    across_a4: list[float] = field(default_factory=list)
    across_a3: list[float] = field(default_factory=list)
    in_sigmas: list[float] = field(default_factory=list)
    matched: list[float] = field(default_factory=list)
    whole_right: list[bool] = field(default_factory=list)
    parts: dict[bool, Parts] = field(default_factory=lambda: {True: Parts(), False: Parts()})  # by all lines drawn
    not_told: int = 0
    seconds: list[float] = field(default_factory=list)


def _plans() -> list[tuple[Plan, Lines]]:
    found = []
    for scene in SCENES:
        for size in ("A4", "A3"):
            with tempfile.TemporaryDirectory() as folder:
                photos = PhotoFolder(Path(folder))
                plan = choose_paper(paper(size, across=True)).apply(plan_of(scene, photos), "2026-01-01T00:00:00+00:00")
                assert plan.study is not None
                picture = study_picture(plan, plan.study, photos)
                lines = study_lines(plan, picture)
            found.append((plan, [np.asarray(line.points_mm) for line in lines if line.layer in ("lines", "stage")]))
    return found


def _case(plan: Plan, lines: Lines, seed: int, half: Half) -> None:
    size = (plan.paper.width_mm, plan.paper.height_mm)
    if seed % 3 == 2 and len(lines) > 300:
        lines = lines[::4]  # sparse
    hand, shot = random_hand(size, lines, seed + 9000), random_shot(True, seed + 9000)
    drop = DROPS[(seed // 2) % len(DROPS)]
    keep = np.random.default_rng(seed).random(len(lines)) >= drop
    drawn = [line for line, kept in zip(lines, keep, strict=True) if kept]
    seen = photographed(drawn, size, hand, shot, seed)
    rgb = cv2.imdecode(np.frombuffer(seen.jpeg(shot.quality), np.uint8), cv2.IMREAD_COLOR)[..., ::-1]
    begun = time.perf_counter()
    told = check(np.ascontiguousarray(rgb), Asked(*size, tuple(PlanLine(line, "lines") for line in lines)))
    half.seconds.append(time.perf_counter() - begun)
    half.cases += 1
    if told.problem or told.whole is None:
        half.not_told += 1
        return
    _judge(told, seen, drawn, size, half)
    _judge_parts(told, hand, drawn, half.parts[drop == 0.0])


def _judge(told: Checked, seen: Photographed, drawn: Lines, size: tuple[float, float], half: Half) -> None:
    hand = seen.hand
    px_per_mm = float(np.hypot(*(seen.corners_px[1] - seen.corners_px[0]))) / size[0]
    if told.sure:
        half.sure += 1
        half.corners_mm.append(float(np.hypot(*(np.array(told.corners_px) - seen.corners_px).T).max()) / px_per_mm)
    whole = told.whole
    assert whole is not None
    half.whole_right.append(
        bool(
            np.hypot(*np.subtract(whole.shift_mm, hand.shift_mm)) < 0.3
            and abs(whole.scale_percent - 100 * (hand.scale - 1)) < 0.2
            and abs(whole.turn_deg - hand.turn_deg) < 0.1
        )
    )
    _places(told.places, seen, drawn, half, half.across_a4 if size[0] < 350 else half.across_a3)


def _judge_parts(told: Checked, hand: Hand, drawn: Lines, parts: Parts) -> None:
    """A part of which hardly anything was drawn is no part that could be found; to find it is no fault."""
    sure = [part for part in told.parts if part.sure]
    used = set()
    for part in hand.parts:
        there = sum(part.holds(line) for line in drawn) >= LEAST_DRAWN
        parts.moved += there
        for n, each in enumerate(sure):
            near = np.hypot(*np.subtract(each.centre_mm, part.centre_mm)) < part.radius_mm * 1.3
            wanted = part.moved(np.array([each.centre_mm]))[0] - each.centre_mm
            if near and np.hypot(*(wanted - each.shift_mm)) < SAME_MM:
                parts.found += there and n not in used
                used.add(n)
                break
    parts.told += len(sure)
    parts.false += len(sure) - len(used)


def _places(places: tuple[PlaceFound, ...], seen: Photographed, drawn: Lines, half: Half, errors: list[float]) -> None:
    """How far each place is from the stroke it stands for, across it."""
    planned = [dense(np.asarray(line, np.float64)) for line in drawn]
    matched = [False] * len(planned)
    for place in places:
        if place.normal is None:
            continue
        far = [float(np.hypot(*(line - place.plan_mm).T).min()) for line in planned]
        mine = int(np.argmin(far))
        if far[mine] > 0.6:  # of a line that was not drawn
            errors.append(9.0)
            half.in_sigmas.append(99.0)
            continue
        matched[mine] = True
        error = _across(place, seen.drawn_mm[mine], int(np.argmin(np.hypot(*(planned[mine] - place.plan_mm).T))))
        if error is not None:
            errors.append(error)
            half.in_sigmas.append(error / place.sigma_mm)
    length = np.array([len(line) for line in planned])
    half.matched.append(float(length[matched].sum() / length.sum()))


def _across(place: PlaceFound, stroke: np.ndarray, near: int) -> float | None:
    assert place.normal is not None
    normal = np.array(place.normal)
    along, off = (stroke - place.drawn_mm) @ (normal[1], -normal[0]), (stroke - place.drawn_mm) @ normal
    crossed = np.nonzero(along[:-1] * along[1:] <= 0)[0]
    crossed = crossed[abs(crossed - near) < 30]
    if not len(crossed):
        return None
    j = crossed[np.argmin(abs(crossed - near))]
    share = along[j] / (along[j] - along[j + 1]) if along[j] != along[j + 1] else 0.0
    return float(abs(off[j] + share * (off[j + 1] - off[j])))


# -- values ----------------------------------------------------------------------------------------------------


def _tone_errors() -> list[float]:
    """How far drawn values are told from true ones, in steps of the plan: flat tones in slanting light on a table."""
    errors: list[float] = []
    for seed in range(TONE_CASES):
        chance = np.random.default_rng(seed)
        scene = ("pumping-station", "glasshouse", "lantern-bench")[seed % 3]
        with tempfile.TemporaryDirectory() as folder:
            photos = PhotoFolder(Path(folder))
            plan = choose_paper(paper("A4", across=True)).apply(plan_of(scene, photos), "2026-01-01T00:00:00+00:00")
            assert plan.study is not None
            masses = study_masses(study_picture(plan, plan.study, photos), plan.study, plan.paper)
        box, fine = picture_box(plan.paper, plan.study.frame), 8
        true = np.array(masses.shown) + chance.normal(0, 7, len(masses.shown))
        sheet = np.full((plan.paper.height_mm.__ceil__() * fine, plan.paper.width_mm.__ceil__() * fine), 95.0)
        left, top, right, bottom = (round(side * fine) for side in box)
        steps = cv2.resize(masses.steps, (right - left, bottom - top), interpolation=cv2.INTER_NEAREST)
        sheet[top:bottom, left:right] = np.clip(true, 5, 94)[steps] + chance.normal(0, 1.5, steps.shape)
        rgb = _shot(sheet, chance)
        found = found_sheet(rgb, 2**0.5)
        if found is None or not found.sure:
            continue
        sides = found.sides
        turn = min(range(4), key=lambda n: float(np.roll(sides.corners_px, n, 0)[0].sum()))
        flat = flattened(rgb, rolled(sides, turn), plan.paper.width_mm, plan.paper.height_mm)
        told = drawn_tones(flat, masses, box, None)
        spacing = np.ptp(masses.shown) / (len(masses.shown) - 1)
        for value in told.values if told is not None else ():
            step = int(np.argmin(abs(np.array(masses.shown) - value.planned)))
            errors.append(abs(value.drawn - float(np.clip(true[step], 5, 94))) / float(spacing))
    return errors


def _shot(sheet: np.ndarray, chance: np.random.Generator) -> np.ndarray:
    linear = np.where(sheet > 8, ((sheet + 16) / 116) ** 3, sheet / 903.3)
    h, w = sheet.shape
    corners = np.array([[400.0, 350], [3600, 380], [3550, 2650], [430, 2600]]) + chance.normal(0, 60, (4, 2))
    warp = cv2.getPerspectiveTransform(
        np.array([[0, 0], [w, 0], [w, h], [0, h]], np.float32), corners.astype(np.float32)
    )
    seen = cv2.warpPerspective(
        linear, warp, (4000, 3000), flags=cv2.INTER_AREA, borderValue=float(chance.uniform(0.04, 0.2))
    )
    y, x = np.mgrid[0:3000, 0:4000]
    way = chance.uniform(0, 6.3)
    light = 0.9 - chance.uniform(0.1, 0.45) * (0.5 + (x / 4000 - 0.5) * np.cos(way) + (y / 3000 - 0.5) * np.sin(way))
    seen = np.clip(seen * light, 0, 1)
    shown = np.where(seen > 0.0031308, 1.055 * np.maximum(seen, 1e-9) ** (1 / 2.4) - 0.055, 12.92 * seen) * 255
    noisy = np.clip(shown[..., None] + chance.normal(0, 2.0, (*shown.shape, 3)), 0, 255).astype(np.uint8)
    packed = cv2.imencode(".jpg", noisy, [cv2.IMWRITE_JPEG_QUALITY, 85])[1]
    return np.ascontiguousarray(cv2.imdecode(packed, cv2.IMREAD_COLOR))


# -- the table -------------------------------------------------------------------------------------------------


def _rows(half: Half) -> list[str]:
    def q(values: list[float], share: float) -> str:
        return f"{np.quantile(values, share):.2f}" if values else "–"

    beyond = sum(error > 1.0 for error in half.corners_mm)
    held = np.mean(np.array(half.in_sigmas) < 1.96)
    return [
        f"{half.sure} of {half.cases} sure; 95 % within {q(half.corners_mm, 0.95)} mm; {beyond} sure and over 1 mm",
        f"{q(half.across_a4, 0.5)} / {q(half.across_a4, 0.95)} mm",
        f"{q(half.across_a3, 0.5)} / {q(half.across_a3, 0.95)} mm",
        f"{100 * float(np.mean(half.matched)):.0f} % in the mean, {100 * min(half.matched):.0f} % at least",
        f"{sum(half.whole_right)} of {len(half.whole_right)}",
        *(f"{half.parts[all_drawn].found} of {half.parts[all_drawn].moved}" for all_drawn in (True, False)),
        *(f"{half.parts[all_drawn].false} of {half.parts[all_drawn].told} told" for all_drawn in (True, False)),
        f"{100 * float(held):.1f} %",
        f"{half.not_told} of {half.cases}",
        f"{q(half.seconds, 0.5)} / {max(half.seconds):.2f} s",
    ]


WORDS = (
    ("corners of the sheet", "0.3 mm in 95 %, never over 1 mm"),
    ("distance across a line, A4: median / 95 % point", "0.15 / 0.5 mm"),
    ("the same, A3", "–"),
    ("drawn lines matched", "60 %"),
    ("the whole within 0.3 mm, 0.2 %, 0.1°", "9 of 10"),
    ("parts off by 1.5 to 6 mm found, within 1 mm of their shift; all lines drawn", "90 %"),
    ("the same, some lines not drawn", "–"),
    ("parts told that are none, or by another shift; all lines drawn", "3 %"),
    ("the same, some lines not drawn", "–"),
    ("errors within the 95 % interval told", "92–98 %"),
    ("nothing told, with a sentence", "–"),
    ("12 MP photo to the list, two cores: median / longest", "3 s"),
)


def main() -> None:
    """Run all cases and write the table."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else CASES
    plans, halves = _plans(), (Half(), Half())
    for seed in range(count):
        plan, lines = plans[(seed // 2) % len(plans)]
        _case(plan, lines, seed, halves[seed % 2])
        print(seed, end=" ", flush=True)
    tones = _tone_errors()
    held, tuned = _rows(halves[1]), _rows(halves[0])
    table = "\n".join(f"| {w} | {h} | {t} | {asked} |" for (w, asked), h, t in zip(WORDS, held, tuned, strict=True))
    within = 100 * float(np.mean(np.array(tones) < 0.5))
    TARGET.write_text(
        "# How right the check is\n\n"
        f"Made by `make check-accuracy` on {count} made photos of drawings (12 MP, tilts to 25°, bow −0.05 to 0.03, "
        "wood, checks, stripes, shadows, corners cut off; parts off by 1.5 to 6 mm, the whole by up to 4 mm, 2 %, 1°; "
        "in half of them 15 or 30 % of the lines are not drawn). Even seeds were looked at while the method was made, "
        "of the odd ones two (15 and 71)."
        "\n\n"
        f"| what | odd seeds | even seeds | wanted |\n|---|---|---|---|\n{table}\n"
        f"| drawn values within half a step, {len(tones)} masses in {TONE_CASES} photos | {within:.0f} % | | 90 % |\n"
    )


if __name__ == "__main__":
    main()
