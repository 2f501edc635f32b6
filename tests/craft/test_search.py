"""Find frames: against brute force, what must be inside and outside, clearly different answers, calling it off."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import skimage.data
from hypothesis import given
from hypothesis import strategies as st
from skimage.filters import threshold_otsu

from mild_compass.craft.geometry.lines import Box
from mild_compass.craft.picture.load import Picture
from mild_compass.craft.viewfinder import scores
from mild_compass.craft.viewfinder.judging import contrast_energy, steelyard
from mild_compass.craft.viewfinder.places import armature_nodes
from mild_compass.craft.viewfinder.rules import RULES
from mild_compass.craft.viewfinder.scores import Candidates
from mild_compass.craft.viewfinder.search import (
    MOST_OVERLAP,
    Ask,
    Search,
    SearchCancelledError,
    candidates,
    find_frames,
    small_values,
    thinned,
)
from mild_compass.craft.viewfinder.tables import BINS, Tables, binned, inside, tone_values
from mild_compass.craft.viewfinder.wishes import Wishes, conflict, wishes_of
from mild_compass.plan.errors import PlanError
from mild_compass.plan.framing import is_beyond
from mild_compass.plan.pictures import Reference
from mild_compass.plan.study import Departure, Frame, KeepArea, Ring, Study

PHOTO = Reference("p", "p", "ab" * 32, 512, 512)
RATIO = 4 / 3
STUDY = Study("s", "A", "p", Frame(0, 0, 512, 384))
SUBJECT = Ring(220, 150, 50, 60, "astronaut", "left")


@pytest.fixture(scope="module")
def picture() -> Picture:
    return Picture(skimage.data.astronaut(), 512, 512)


def overlap(a: Frame, b: Frame) -> float:
    """Intersection over union."""
    across = min(a.x_px + a.width_px, b.x_px + b.width_px) - max(a.x_px, b.x_px)
    down = min(a.y_px + a.height_px, b.y_px + b.height_px) - max(a.y_px, b.y_px)
    both = max(across, 0) * max(down, 0)
    return both / (a.width_px * a.height_px + b.width_px * b.height_px - both)


# -- against brute force --------------------------------------------------------------------------------------


def slowly(picture: Picture, ring: Ring, left: int, top: int, right: int, bottom: int) -> dict[str, float]:
    """Every score of one frame, from its own pixels and the definitions, one frame at a time."""
    whole = small_values(picture)
    scale = whole.shape[1] / picture.width_px
    values = tone_values()[binned(whole)][top:bottom, left:right]
    energy = contrast_energy(whole)[top:bottom, left:right]
    height, width = values.shape
    median = float(np.sort(values.ravel())[(values.size - 1) // 2])
    step = values - median
    arm = np.arange(width) + 0.5 - width / 2
    weight = np.abs(step)
    # The half through the middle of an odd frame counts with the right.
    middle = (left + right) / 2
    places = left + np.arange(width) + 0.5
    split = int(np.floor(middle)) - left
    moments = (weight * (places - middle)).sum(0)
    lever = moments[split:].sum() - moments[:split].sum()
    tip = moments.sum() / lever if lever > 1e-9 else 0.0
    assert arm.size == width
    band = max(1, round(RULES.edge_band * min(height, width)))
    border = np.ones_like(values, bool)
    border[band : height - band, band : width - band] = False
    beyond = np.maximum(np.abs(step) - RULES.edge_step, 0) * np.where(step > 0, RULES.bright_weight, 1.0)
    loud = beyond[border].sum() / border.sum()
    dark = dark_by_hand(values)
    wide, high = max(1, round(scores.FULL_STRIP * width)), max(1, round(scores.FULL_STRIP * height))
    strips = [energy[:, :wide], energy[:, -wide:], energy[:high], energy[-high:]]
    full = np.mean([min(1.0, strip.sum() / energy.sum() / RULES.spare_energy) for strip in strips])
    x, y, rx, ry = (each * scale for each in (ring.x_px, ring.y_px, ring.radius_x_px, ring.radius_y_px))
    across, down = (x - left) / width, (y - top) / height
    gaps = (x - rx - left, right - x - rx, y - ry - top, bottom - y - ry)
    far = min(np.hypot(across - a, (down - b) * 3 / 4) for a, b in armature_nodes() if abs(a - 0.5) > RULES.dead_centre)
    placed = 0.0 if abs(across - 0.5) <= RULES.dead_centre else 1 - min(1.0, far / 0.12)
    return {
        "placement": placed,
        "lead room": min(1.0, max(gaps[0], 0) / max(gaps[1], 1e-3) / scores.GOOD_LEAD),
        "air": float(np.clip(min(gaps) / (3 * RULES.tangent * min(width, height)), 0, 1)),
        "edges": 1 - min(1.0, loud / scores.LOUD_EDGE),
        "level": 1 - abs(tip),
        "dark and light": min(1.0, abs(dark - 0.5) / scores.GOOD_SHARE),
        "full": float(full),
    }


def dark_by_hand(values: np.ndarray) -> float:
    """Share below the threshold that parts the tones best, by trying every one of them."""
    best, share = -1.0, 0.0
    for tone in tone_values()[:-1]:
        low = values <= tone
        if 0 < low.sum() < low.size:
            gain = low.mean() * (1 - low.mean()) * (values[low].mean() - values[~low].mean()) ** 2
            if gain > best + 1e-12:
                best, share = gain, float(low.mean())
    return share if best >= 0 else 1.0


def test_every_score_is_that_of_the_frame_judged_alone(picture):
    study = replace(STUDY, rings=(SUBJECT,))
    ask = Ask(("placement", "lead room", "air", "edges", "level", "dark and light", "full"), 0.4)
    search = Search.of(picture, study, PHOTO, ask)
    every = candidates(PHOTO, RATIO, 0.4, search.tables.values.shape, Wishes(()))
    some = np.random.default_rng(5).integers(0, len(every), 60)
    for index in some:
        one = every.part(int(index), int(index) + 1)
        judged = search.judged(one)
        wanted = slowly(picture, SUBJECT, *(int(side[0]) for side in (one.left, one.top, one.right, one.bottom)))
        for name, score in judged.by.items():
            tolerance = 0.02 if name == "placement" else 1e-6  # the frame's own pixels are not quite 4:3
            assert score[0] == pytest.approx(wanted[name], abs=tolerance), name


def test_the_ranking_is_that_of_brute_force(picture):
    """All frames of a small search judged one by one, sorted and thinned by a plain loop: the same frames in order."""
    study = replace(STUDY, rings=(SUBJECT,))
    names = ("air", "edges", "level", "dark and light", "full")
    search = Search.of(picture, study, PHOTO, Ask(names, 0.85))
    every = candidates(PHOTO, RATIO, 0.85, search.tables.values.shape, wishes_of(study))
    corners = list(zip(every.left, every.top, every.right, every.bottom, strict=True))
    totals = []
    for corner in corners:
        wanted = slowly(picture, SUBJECT, *map(int, corner))
        totals.append(np.mean([wanted[name] for name in names]))
    order = sorted(range(len(totals)), key=lambda k: (-round(totals[k], 9), k))
    chosen: list[int] = []
    for index in order:
        frame = search.frame(every, index, RATIO)
        if all(overlap(frame, search.frame(every, other, RATIO)) <= MOST_OVERLAP + 0.005 for other in chosen):
            chosen.append(index)
    found = find_frames(picture, study, PHOTO, RATIO, Ask(names, 0.85))
    assert 0 < len(found) <= 10
    assert [each.frame for each in found] == [search.frame(every, index, RATIO) for index in chosen[: len(found)]]
    assert [each.score for each in found] == pytest.approx([totals[index] for index in chosen[: len(found)]], abs=1e-6)


@given(st.integers(0, 5000))
def test_sums_over_any_rectangle_are_the_sums_of_its_pixels(seed):
    rng = np.random.default_rng(seed)
    values = rng.uniform(0, 100, (rng.integers(2, 30), rng.integers(2, 30))).astype(np.float32)
    tables = Tables(values, contrast_energy(values))
    top, bottom = sorted(rng.choice(values.shape[0] + 1, 2, replace=False))
    left, right = sorted(rng.choice(values.shape[1] + 1, 2, replace=False))
    corner = [np.array([each]) for each in (left, top, right, bottom)]
    part = values[top:bottom, left:right]
    assert inside(tables.pixels, *corner)[0].tolist() == np.bincount(binned(part).ravel(), minlength=BINS).tolist()
    assert inside(tables.contrast, *corner)[0] == pytest.approx(tables.energy[top:bottom, left:right].sum())


def test_dark_share_by_table_is_at_otsus_threshold():
    """Against scikit-image's Otsu on the same tones (N. Otsu, IEEE SMC 9(1), 1979)."""
    values = np.asarray(skimage.data.camera()[::4, ::4], np.float32) / 255 * 100
    toned = tone_values()[binned(values)]
    tables = Tables(values, contrast_energy(values))
    height, width = values.shape
    pixels = inside(tables.pixels, *(np.array([each]) for each in (0, 0, width, height)))
    wanted = (toned <= threshold_otsu(toned, nbins=BINS)).mean()
    assert scores.dark_share(pixels)[0] == pytest.approx(wanted, abs=0.02)


def test_the_tip_by_table_is_the_steelyards(picture):
    values = small_values(picture)
    tables = Tables(values, contrast_energy(values))
    frames = Candidates(np.zeros((1, 3)), *(np.array([each]) for each in (20, 10, 180, 130)))
    toned = tone_values()[binned(values)][10:130, 20:180]
    assert scores.tones(tables, frames).tip[0] == pytest.approx(steelyard(toned).tip, abs=0.02)


# -- what must be inside and outside --------------------------------------------------------------------------


def test_every_frame_found_holds_rings_and_keep_areas_and_leaves_the_rest_outside(picture):
    gone = Departure("d", "leave out", ((400.0, 20.0), (500.0, 20.0), (500.0, 80.0)), "the flag")
    study = replace(STUDY, rings=(SUBJECT,), keep=(KeepArea(120, 200, 320, 330, "the suit"),), departures=(gone,))
    found = find_frames(picture, study, PHOTO, RATIO, Ask(smallest=0.3))
    assert found
    for frame in (each.frame for each in found):
        assert frame.x_px <= 120
        assert frame.y_px <= 90
        assert frame.x_px + frame.width_px >= 320
        assert frame.y_px + frame.height_px >= 330
        assert frame.x_px + frame.width_px <= 400 or frame.y_px >= 80
        assert not is_beyond(frame, PHOTO)
        assert frame.width_px / frame.height_px == pytest.approx(RATIO)


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"keep": (KeepArea(10, 10, 200, 500, "the whole suit"),)}, "The whole suit is larger than any frame"),
        ({"keep": (KeepArea(0, 0, 50, 50, "hat"), KeepArea(0, 450, 50, 500, "boots"))}, "holds both hat and boots"),
        ({"rings": (replace(SUBJECT, x_px=5.0),)}, "The astronaut reaches beyond the photo"),
        (
            {
                "rings": (SUBJECT,),
                "departures": (
                    Departure("d", "leave out", ((200.0, 100.0), (260.0, 100.0), (230.0, 160.0)), "the cap"),
                ),
            },
            "The cap cannot stay outside: it overlaps the astronaut",
        ),
    ],
)
def test_the_wish_that_cannot_be_met_is_named(picture, changes, words):
    with pytest.raises(PlanError, match=words):
        find_frames(picture, replace(STUDY, **changes), PHOTO, RATIO, Ask())


def test_wishes_that_only_fail_together_are_told_so(picture):
    gone = Departure("d", "leave out", ((0.0, 240.0), (512.0, 240.0), (512.0, 250.0), (0.0, 250.0)), "the bar")
    study = replace(STUDY, departures=(gone,))
    with pytest.raises(PlanError, match="No frame of this proportion meets all wishes"):
        find_frames(picture, study, PHOTO, RATIO, Ask(smallest=0.9))
    assert find_frames(picture, study, PHOTO, RATIO, Ask(smallest=0.9, leave_out=False))


def test_a_dropped_departure_is_no_wish():
    gone = Departure("d", "leave out", ((0.0, 0.0), (9.0, 0.0), (9.0, 9.0)), outcome="dropped")
    assert wishes_of(replace(STUDY, departures=(gone,))).without == ()
    assert conflict(wishes_of(STUDY), PHOTO, RATIO) is None


# -- the answers ----------------------------------------------------------------------------------------------


def test_ten_clearly_different_frames_with_reasons_the_best_first(picture):
    found = find_frames(picture, replace(STUDY, rings=(SUBJECT,)), PHOTO, RATIO, Ask(smallest=0.3))
    assert len(found) == 10
    assert [each.score for each in found] == sorted((each.score for each in found), reverse=True)
    for number, one in enumerate(found):
        assert one.reasons
        assert 0 <= one.score <= 1
        for other in found[:number]:
            assert overlap(one.frame, other.frame) <= MOST_OVERLAP + 0.02  # told apart on the small picture


def test_the_same_question_has_the_same_answer(picture):
    study = replace(STUDY, rings=(SUBJECT,))
    assert find_frames(picture, study, PHOTO, RATIO, Ask()) == find_frames(picture, study, PHOTO, RATIO, Ask())


def test_it_stops_when_called_off(picture):
    calls = iter([False, True])
    with pytest.raises(SearchCancelledError):
        find_frames(picture, STUDY, PHOTO, RATIO, Ask(smallest=0.2), cancelled=lambda: next(calls))


def test_weight_to_one_side_is_the_opposite_of_hanging_level(picture):
    level = find_frames(picture, STUDY, PHOTO, RATIO, Ask(("level",)))[0].frame
    one_side = find_frames(picture, STUDY, PHOTO, RATIO, Ask(("one side",)))[0].frame
    search = Search.of(picture, STUDY, PHOTO, Ask(("level",)))

    def tip(frame: Frame) -> float:
        x, y, w, h = (round(each / 2) for each in (frame.x_px, frame.y_px, frame.width_px, frame.height_px))
        corners = (np.array([each]) for each in (x, y, x + w, y + h))
        return abs(float(scores.tones(search.tables, Candidates(np.zeros((1, 3)), *corners)).tip[0]))

    assert tip(level) < 0.05
    assert tip(one_side) > 0.4


def test_a_horizon_is_kept_off_half_height(picture):
    frame = find_frames(picture, STUDY, PHOTO, RATIO, Ask(("horizon",), 0.5), horizon_px=256.0)[0].frame
    assert abs((256 - frame.y_px) / frame.height_px - 0.5) >= scores.GOOD_HORIZON


@pytest.mark.parametrize("size", [(1, 1), (1, 400), (400, 1)])
def test_photos_too_small_to_search_give_a_sentence(size):
    photo = Reference("p", "p", "ab" * 32, *size)
    tiny = Picture(np.zeros((size[1], size[0], 3), np.uint8), *size)
    with pytest.raises(PlanError, match="proportion"):
        find_frames(tiny, STUDY, photo, RATIO, Ask())


def test_thinning_keeps_the_best_of_those_alike():
    left = np.array([0, 5, 200])
    frames = Candidates(np.zeros((3, 3)), left, np.zeros(3, int), left + 100, np.full(3, 75))
    assert thinned(frames, np.array([0.4, 0.9, 0.5])) == [1, 2]


# -- schools --------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("school", "best", "worse"),
    [("thirds", 1 / 3, 0.25), ("quarters and cross", 0.25, 0.4), ("no grid", 0.3, 0.44)],
)
def test_each_school_likes_its_own_places(school, best, worse):
    across, down = np.array([best, worse, 0.5]), np.full(3, 0.4)
    score = scores.placement_score(school, across, down, RULES, Box(0, 0, 4, 3))
    assert score[0] == pytest.approx(1.0)
    assert score[0] > score[1] > score[2] == 0


def test_dynamic_symmetry_likes_the_feet_of_the_reciprocals():
    """In a rectangle of 3:2 the reciprocal's foot on the diagonal is 9/13 of the way along (Hambidge, 1920)."""
    shape = Box(0, 0, 3, 2)
    score = scores.placement_score("dynamic symmetry", np.array([9 / 13, 0.6]), np.array([9 / 13, 0.6]), RULES, shape)
    assert score[0] == pytest.approx(1.0)
    assert score[1] < 0.5
