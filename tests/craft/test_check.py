"""The drawing against the plan: photos of a made drawing with known truth, and everything that is none."""

from __future__ import annotations

import io
from dataclasses import replace

import cv2
import numpy as np
import pytest
from PIL import Image
from skimage.measure import ransac
from skimage.transform import SimilarityTransform
from tests.craft.made_drawing import A4, CART, SHED, SMALL, asked, cart_off, lines, photo
from tools.accuracy.photographed import Hand, Moved, Shot

from mild_compass.craft.check import sentences
from mild_compass.craft.check.check import check
from mild_compass.craft.check.checked import Checked
from mild_compass.craft.check.corners import found_sheet
from mild_compass.craft.check.flat import flattened, ink_of
from mild_compass.craft.check.pieces import PlanLine, pieces_of
from mild_compass.craft.check.proportion import aspect_ratio_of
from mild_compass.craft.check.sides import by_hand
from mild_compass.craft.check.where import where_drawn
from mild_compass.craft.check.whole import Similarity, applied, best_similarity, similarity_of
from mild_compass.craft.picture.load import taken_at

OFF = Hand((1.2, -2.1), 1.012, 0.6, (Moved(CART[:2], CART[2], (3.0, -1.5)),))


@pytest.fixture(scope="module")
def off() -> tuple[object, Checked]:
    """A drawing that lies askew as a whole, with the cart 3.4 mm off besides."""
    seen = photo(OFF, Shot(SMALL, bow=-0.03, tilt_deg=14, table="checks", shadow=True), seed=3)
    return seen, check(seen.rgb, asked())


# -- the sheet -------------------------------------------------------------------------------------------------

SHOTS = {
    "wood": Shot(SMALL, tilt_deg=20, tilt_about_deg=200, bow=0.02),
    "checks": Shot(SMALL, tilt_deg=8, table="checks", turn_deg=-5),
    "stripes and shadow": Shot(SMALL, tilt_deg=12, table="stripes", shadow=True, bow=-0.05),
    "a corner cut off": Shot(SMALL, table="dark", fill=0.95, aside=(0.06, 0.06)),
}


@pytest.mark.parametrize("name", SHOTS)
def test_the_corners_are_found_within_a_few_tenths_of_a_millimetre(name):
    seen = photo(shot=SHOTS[name])
    found = found_sheet(seen.rgb, 2**0.5)
    assert found is not None
    assert found.sure
    off = min(np.hypot(*(np.roll(found.corners_px, n, 0) - seen.corners_px).T).max() for n in range(4))
    assert off / (np.hypot(*(seen.corners_px[1] - seen.corners_px[0])) / A4[0]) < 0.3


def test_flattening_agrees_with_opencv_s_camera_model():
    """Points of a board thrown by cv2.projectPoints with a bowed lens come back to their mm."""
    turn, away = np.array([0.22, -0.16, 0.05]), np.array([-150.0, -105.0, 420.0])
    inner = np.array([[2000.0, 0, 1300], [0, 2000, 975], [0, 0, 1]])
    bow = np.array([-0.06, 0, 0, 0])

    def seen(points_mm: np.ndarray) -> np.ndarray:
        flat = np.column_stack([points_mm, np.zeros(len(points_mm))])
        return cv2.projectPoints(flat, turn, away, inner, bow)[0].reshape(-1, 2) + 0.5

    picture = np.full((1950, 2600), 70, np.uint8)
    corners_mm = np.array([[0.0, 0], [297, 0], [297, 210], [0, 210]])
    outline = np.concatenate(
        [np.linspace(a, b, 200) for a, b in zip(corners_mm, np.roll(corners_mm, -1, 0), strict=True)]
    )
    fine = np.zeros((1950 * 3, 2600 * 3), np.uint8)
    cv2.fillPoly(fine, [np.round(seen(outline) * 3 - 0.5).astype(np.int32)], 255)
    share = cv2.resize(fine, (2600, 1950), interpolation=cv2.INTER_AREA).astype(float) / 255
    picture = (picture * (1 - share) + 235 * share).astype(np.uint8)
    found = found_sheet(np.repeat(picture[..., None], 3, 2), 2**0.5)
    assert found is not None
    corners = seen(corners_mm)
    turns = [np.abs(np.roll(found.sides.corners_px, n, 0) - corners).max() for n in range(4)]
    sides = replace(found.sides, corners_px=np.roll(found.sides.corners_px, int(np.argmin(turns)), 0))
    flat = flattened(np.repeat(picture[..., None], 3, 2), sides, 297, 210)
    grid = np.stack(np.meshgrid(np.linspace(10, 287, 9), np.linspace(10, 200, 7)), -1).reshape(-1, 2)
    assert np.hypot(*(flat.to_sheet(seen(grid)) - grid).T).max() < 0.1
    assert np.hypot(*(flat.to_photo(grid) - seen(grid)).T).max() < 0.8


def test_a_homography_without_bow_is_opencv_s_own():
    corners = np.array([[210.0, 180], [2300, 260], [2180, 1700], [330, 1560]])
    sides = by_hand(corners, (2600, 1950))
    known = cv2.getPerspectiveTransform(
        np.array([[0, 0], [297, 0], [297, 210], [0, 210]], np.float32), corners.astype(np.float32)
    )
    assert np.allclose(sides.homography(297, 210), known)
    assert np.allclose(sides.bowed(sides.unbowed(corners)), corners)


@pytest.mark.parametrize(("size", "name"), [((297.0, 210.0), "A"), ((279.4, 215.9), "Letter"), ((400.0, 400.0), "")])
def test_the_proportion_of_a_sheet_is_told_from_its_picture(size, name):
    turn, inner = np.array([0.3, 0.2, 0.0]), np.array([[1900.0, 0, 1300], [0, 1900, 975], [0, 0, 1]])
    w, h = size
    flat = np.array([[0.0, 0, 0], [w, 0, 0], [w, h, 0], [0, h, 0]])
    corners = cv2.projectPoints(flat, turn, np.array([-w / 2, -h / 2, 600]), inner, None)[0].reshape(-1, 2) + 0.5
    told = aspect_ratio_of(by_hand(corners, (2600, 1950)), (2600, 1950))
    assert told.ratio == pytest.approx(max(size) / min(size), rel=0.02)
    assert not name or told.name.startswith(name)


def test_the_light_is_evened_out_against_the_paper():
    seen = photo(shot=Shot(SMALL, lamp=0.5, table="grey"))
    flat = flattened(seen.rgb, by_hand(seen.corners_px, SMALL), *A4)
    ink = ink_of(flat.rgb, flat.px_per_mm)
    rim = round(6 * flat.px_per_mm)
    bare = [ink[rim : 3 * rim, x : x + 2 * rim].mean() for x in (rim, ink.shape[1] // 2, ink.shape[1] - 4 * rim)]
    assert np.ptp(bare) < 0.03


# -- the whole -------------------------------------------------------------------------------------------------


def test_the_best_similarity_is_umeyama_s():
    """Against scikit-image's estimate, which follows S. Umeyama, IEEE PAMI 13, 1991."""
    chance = np.random.default_rng(4)
    source = chance.uniform(0, 300, (20, 2))
    target = applied(Similarity((150, 105), (3, -2), 1.03, 2.0).matrix(), source) + chance.normal(0, 0.4, (20, 2))
    known = SimilarityTransform.from_estimate(source, target)
    assert np.allclose(best_similarity(source, target), known.params[:2])
    assert best_similarity(source[:1], source[:1] + np.array([2, 3]))[:, 2].tolist() == [2, 3]


def test_an_affine_map_is_told_and_made_again():
    move = Similarity((148.5, 105.0), (1.5, -0.5), 1.02, -1.2, 0.004)
    told = similarity_of(move.matrix(), move.middle)
    assert told.shift_mm == pytest.approx(move.shift_mm)
    assert (told.scale, told.turn_deg, told.shear) == pytest.approx((1.02, -1.2, 0.004))


def test_the_whole_is_found_although_a_part_is_off(off):
    _, told = off
    assert told.sure
    assert told.whole.shift_mm == pytest.approx(OFF.shift_mm, abs=0.3)
    assert told.whole.scale_percent == pytest.approx(1.2, abs=0.2)
    assert told.whole.turn_deg == pytest.approx(0.6, abs=0.1)
    # The same as scikit-image's RANSAC makes of true pairs with the same part among them.
    plan = np.concatenate([line[:2] for line in lines()])
    drawn = np.array(
        [applied(Similarity((148.5, 105), OFF.shift_mm, OFF.scale, OFF.turn_deg).matrix(), p) for p in plan]
    )
    cart = np.hypot(*(plan - CART[:2]).T) < CART[2]
    drawn[cart] += (3.0, -1.5)
    robust, _ = ransac((plan, drawn), SimilarityTransform, 3, 0.4, rng=1)
    assert np.hypot(*(applied(told.matrix, plan) - robust(plan)).T).max() < 0.3


def test_a_part_that_is_off_is_told_by_name_with_its_distance_and_nothing_else_is(off):
    _, told = off
    assert [(part.name, part.sure) for part in told.parts] == [("cart", True)]
    assert told.parts[0].shift_mm == pytest.approx((3.0, -1.5), abs=0.4)
    wrong = [
        place for place in told.places if place.off and np.hypot(*np.subtract(place.plan_mm, CART[:2])) > CART[2] + 12
    ]
    assert not wrong


def test_places_are_told_across_lines_within_half_a_millimetre(off):
    seen, told = off
    assert told.drawn_share > 0.9
    off_mm = []
    for place in told.places:
        if place.normal is None:
            continue
        near = min(np.hypot(*(line - place.drawn_mm).T).min() for line in seen.drawn_mm)
        off_mm.append(near)
    assert np.median(off_mm) < 0.3  # points of a stroke are half a millimetre apart
    assert np.quantile(off_mm, 0.95) < 0.6
    assert all(0.01 < place.sigma_mm < 1.0 for place in told.places)


def test_where_two_lines_meet_both_directions_are_known(off):
    _, told = off
    corner = min(
        told.places,
        key=lambda place: np.hypot(*np.subtract(place.plan_mm, (72, 120))) + 99 * (place.normal is not None),
    )
    assert corner.normal is None
    there = where_drawn(told, (72.0, 120.0))
    true = applied(Similarity((148.5, 105), OFF.shift_mm, OFF.scale, OFF.turn_deg).matrix(), np.array([72.0, 120]))
    assert (there.x_mm, there.y_mm) == pytest.approx(tuple(true), abs=0.6)
    assert where_drawn(told, (5.0, 5.0)) is None


def test_what_is_not_drawn_is_told_apart_from_what_is_off():
    seen = photo(kept=slice(3, None), seed=5)  # the shed's walls and roof are not there
    told = check(seen.rgb, asked())
    assert not [part for part in told.parts if part.sure]
    missing = max(told.missing, key=lambda each: each.length_mm)
    assert missing.name == "shed"
    assert np.hypot(missing.centre_mm[0] - SHED[0], missing.centre_mm[1] - SHED[1]) < SHED[2]


def test_a_sheet_upside_down_or_on_its_side_is_turned_the_right_way():
    seen = photo(cart_off((0.0, 2.5)), Shot(SMALL, turn_deg=183))
    told = check(seen.rgb, asked())
    assert np.allclose(told.corners_px, seen.corners_px, atol=3)
    assert told.parts[0].shift_mm == pytest.approx((0, 2.5), abs=0.4)


def test_the_same_photo_is_told_the_same():
    seen = photo(cart_off((2.0, 0.0)), seed=8)
    assert check(seen.rgb, asked()).as_json() == check(seen.rgb, asked()).as_json()


# -- by hand ---------------------------------------------------------------------------------------------------


def test_corners_set_by_hand_are_taken_and_the_lens_is_still_seen():
    seen = photo(shot=Shot(SMALL, bow=-0.04))
    told = check(seen.rgb, replace(asked(), corners_px=tuple(map(tuple, seen.corners_px.tolist()))))
    assert told.sure
    assert told.flat.sides.bow != 0
    assert np.allclose(told.corners_px, seen.corners_px)
    assert np.hypot(*told.whole.shift_mm) < 0.2


def test_pairs_come_in_and_refused_matches_go_out():
    seen = photo(cart_off((3.0, 0.0)), seed=4)
    plain = check(seen.rgb, asked())
    assert [part.name for part in plain.parts] == ["cart"]
    refused = check(seen.rgb, replace(asked(), refused=(plain.parts[0].centre_mm,)))
    assert not refused.parts
    click = tuple(plain.flat.to_photo(np.array([[100.0, 64.0]]))[0].tolist())
    paired = check(seen.rgb, replace(asked(), pairs=(((98.0, 62.0), click),)))
    mine = next(place for place in paired.places if place.plan_mm == (98.0, 62.0))
    assert mine.drawn_mm == pytest.approx((100, 64), abs=0.05)
    assert mine.off


def test_three_pairs_are_enough_where_nothing_is_recognised():
    far = Hand((30.0, 22.0), 0.9)  # further off than is looked for
    seen = photo(far, Shot(SMALL, tilt_deg=0))
    assert check(seen.rgb, asked()).problem == sentences.NOT_THIS
    places = np.array([[72.0, 80], [124, 120], [238, 93], [68, 80]])
    flat = flattened(seen.rgb, by_hand(seen.corners_px, SMALL), *A4)
    drawn = applied(Similarity((148.5, 105), far.shift_mm, far.scale).matrix(), places)
    pairs = tuple((tuple(a), tuple(b)) for a, b in zip(places.tolist(), flat.to_photo(drawn).tolist(), strict=True))
    told = check(seen.rgb, replace(asked(), pairs=pairs))
    assert not told.problem
    assert told.whole.scale_percent == pytest.approx(-10, abs=0.3)


# -- a sentence, never a list of nonsense ----------------------------------------------------------------------


def test_a_bare_sheet_says_that_nothing_is_drawn():
    assert check(photo(kept=slice(0)).rgb, asked()).problem == sentences.BLANK


def test_another_drawing_is_not_compared():
    other = [line[:, ::-1] * (1.2, 0.7) + (10, 8) for line in lines()]
    strange = replace(asked(), lines=tuple(PlanLine(line, "lines") for line in other))
    assert check(photo().rgb, strange).problem == sentences.NOT_THIS


def test_a_small_photo_a_bare_table_and_a_plan_without_lines_say_so():
    small = cv2.resize(photo().rgb, (200, 150))
    assert "200 pixels" in check(small, asked()).problem
    for grey in (0, 128, 255):
        assert check(np.full((900, 1200, 3), grey, np.uint8), asked()).problem == sentences.NO_SHEET
    assert check(photo().rgb, replace(asked(), lines=())).problem == sentences.NO_LINES


def test_a_painted_sheet_and_one_under_a_hand_say_so():
    seen = photo()
    middle = tuple(int(v) for v in seen.corners_px.mean(0))
    paint = seen.rgb.copy()
    for k in range(40):
        cv2.circle(paint, (500 + 40 * k, 500 + 23 * k), 300, (200 - 4 * k, 60 + 3 * k, 40 + k), -1)
    inner = seen.corners_px.mean(0) + (seen.corners_px - seen.corners_px.mean(0)) * 0.93
    mask = cv2.fillPoly(np.zeros(SMALL[::-1], np.uint8), [inner.astype(np.int32)], 1)[..., None]
    painted = np.where(mask, np.where(paint == seen.rgb, 120 + 60 * (np.indices(paint.shape)[2] == 0), paint), seen.rgb)
    assert check(painted.astype(np.uint8), asked()).problem == sentences.PAINTED
    under = seen.rgb.copy()
    cv2.ellipse(under, middle, (420, 330), 20, 0, 360, (205, 150, 125), -1)
    told = check(under, asked())
    assert "Something lies over" in told.remark + told.problem


def test_a_sheet_of_another_proportion_is_asked_about():
    told = check(photo().rgb, replace(asked(), width_mm=300.0, height_mm=270.0, paper="300 × 270"))
    assert "1.41 times as long as wide, like A" in told.remark
    assert not told.sure


def test_a_scan_is_taken_whole_but_not_for_sure():
    seen = photo(cart_off((2.5, 0.0)))
    flat = flattened(seen.rgb, by_hand(seen.corners_px, SMALL), *A4)
    told = check(flat.rgb, asked())
    assert told.remark == sentences.SCANNED
    assert not told.sure
    assert told.parts[0].shift_mm == pytest.approx((2.5, 0), abs=0.4)


def test_a_photo_tells_when_it_was_taken():
    exif = Image.Exif()
    exif.get_ifd(0x8769)[0x9003] = "2026:04:03 10:20:30"
    packed = io.BytesIO()
    Image.new("RGB", (40, 30)).save(packed, "JPEG", exif=exif)
    assert taken_at(packed.getvalue(), "sheet.jpg") == "2026-04-03T10:20:30"
    plain = io.BytesIO()
    Image.new("RGB", (40, 30)).save(plain, "JPEG")
    assert taken_at(plain.getvalue(), "sheet.jpg") == ""


# -- pieces ----------------------------------------------------------------------------------------------------


def test_lines_are_cut_at_their_corners_and_where_they_have_turned_much():
    square = np.array([[0.0, 0], [30, 0], [30, 30], [0, 30], [0, 0]])
    pieces = pieces_of([PlanLine(square, "lines"), PlanLine(np.array([[0.0, 0], [1, 0]]), "lines")])
    assert len(pieces) == 8  # two to a side; the short line is left out
    assert np.allclose(np.abs(pieces.across).max(1), 1.0)
    angle = np.linspace(0, np.pi, 60)
    arc = pieces_of([PlanLine(np.stack([40 * np.cos(angle), 40 * np.sin(angle)], 1), "lines")])
    turned = np.degrees(np.arccos(np.clip((arc.normal[:, 0] * arc.normal[:, -1]).sum(1), -1, 1)))
    assert turned.max() < 30
    assert arc.length.sum() == pytest.approx(40 * np.pi, rel=0.01)


@pytest.mark.parametrize("size", [(1, 900), (900, 1), (2, 3000), (1, 1)])
def test_a_photo_a_pixel_wide_holds_no_sheet(size):
    assert found_sheet(np.full((*size, 3), 200, np.uint8), 1.4) is None
