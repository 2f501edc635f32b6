"""Photos of every kind come out upright and in sRGB; what cannot be read gives a sentence."""

from __future__ import annotations

import io
import struct
from pathlib import Path

import numpy as np
import pillow_heif
import pytest
import skimage.data
from PIL import Image

from mild_compass.craft.picture import load
from mild_compass.plan.errors import PlanError


def packed(image: Image.Image, kind: str, **save: object) -> bytes:
    target = io.BytesIO()
    image.save(target, kind, **save)
    return target.getvalue()


def marked(width: int = 80, height: int = 60) -> Image.Image:
    """Red top left corner, blue bottom right, on grey: tells any turn."""
    pixels = np.full((height, width, 3), 128, np.uint8)
    pixels[: height // 3, : width // 3] = (220, 30, 30)
    pixels[-height // 3 :, -width // 3 :] = (30, 30, 220)
    return Image.fromarray(pixels)


def is_upright(rgb: np.ndarray) -> bool:
    red, blue = rgb[4, 4].astype(int), rgb[-5, -5].astype(int)
    return bool(red[0] > 180 and red[2] < 80 and blue[2] > 180 and blue[0] < 80)


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP", "TIFF", "HEIF"])
def test_every_kind_is_read(kind):
    pillow_heif.register_heif_opener()
    data = packed(marked(), kind)
    assert load.size_of(data, "x") == (80, 60)
    assert is_upright(load.read_full(data, "x"))
    assert is_upright(load.read_proxy(data, "x").rgb)


@pytest.mark.parametrize("orientation", range(1, 9))
def test_all_eight_orientations_come_out_upright(orientation):
    """EXIF 2.32, tag 0x0112: how the stored rows and columns lie."""
    stored = {
        1: lambda im: im,
        2: lambda im: im.transpose(Image.Transpose.FLIP_LEFT_RIGHT),
        3: lambda im: im.transpose(Image.Transpose.ROTATE_180),
        4: lambda im: im.transpose(Image.Transpose.FLIP_TOP_BOTTOM),
        5: lambda im: im.transpose(Image.Transpose.TRANSPOSE),
        6: lambda im: im.transpose(Image.Transpose.ROTATE_90),
        7: lambda im: im.transpose(Image.Transpose.TRANSVERSE),
        8: lambda im: im.transpose(Image.Transpose.ROTATE_270),
    }[orientation](marked())
    exif = Image.Exif()
    exif[0x0112] = orientation
    data = packed(stored, "JPEG", quality=95, exif=exif)
    assert load.size_of(data, "x") == (80, 60)
    rgb = load.read_full(data, "x")
    assert rgb.shape == (60, 80, 3)
    assert is_upright(rgb)
    assert load.read_proxy(data, "x", 40).rgb.shape == (30, 40, 3)


def test_the_same_turn_as_pillows_own_reading_of_it():
    from PIL import ImageOps

    exif = Image.Exif()
    for orientation in range(1, 9):
        exif[0x0112] = orientation
        data = packed(marked(), "PNG", exif=exif)
        reference = np.asarray(ImageOps.exif_transpose(Image.open(io.BytesIO(data))).convert("RGB"))
        assert np.array_equal(load.read_full(data, "x"), reference)


@pytest.mark.parametrize("mode", ["1", "L", "P", "RGBA", "LA", "CMYK", "I;16", "I", "F"])
def test_every_mode_becomes_eight_bit_rgb(mode):
    if mode == "I;16":
        image = Image.fromarray(np.full((20, 30), 40_000, np.uint16))
    elif mode in ("I", "F"):
        image = Image.fromarray(np.full((20, 30), 40_000, np.int32 if mode == "I" else np.float32))
    else:
        image = Image.new("RGB", (30, 20), (200, 200, 200)).convert(mode)
    rgb = load.read_full(packed(image, "TIFF"), "x")
    assert rgb.dtype == np.uint8
    assert rgb.shape == (20, 30, 3)
    if mode in ("I;16", "I", "F"):
        assert rgb[0, 0, 0] == round(40_000 / 65_535 * 255)


def test_transparency_lies_on_white_paper():
    rgb = load.read_full(packed(Image.new("RGBA", (8, 8), (0, 0, 0, 0)), "PNG"), "x")
    assert (rgb == 255).all()


def test_an_animation_gives_its_first_picture():
    frames = [Image.new("RGB", (16, 16), c) for c in ("red", "blue")]
    data = packed(frames[0], "WEBP", save_all=True, append_images=frames[1:], lossless=True)
    assert load.read_full(data, "x")[8, 8].tolist() == [255, 0, 0]


def linear_profile() -> bytes:
    """A minimal ICC.1:2001 matrix profile: sRGB's primaries (adapted to D50) with a straight curve, gamma 1."""

    def xyz(*values: float) -> bytes:
        return b"XYZ " + bytes(4) + b"".join(struct.pack(">i", round(value * 65536)) for value in values)

    text = b"linear test\0"
    desc = b"desc" + bytes(4) + struct.pack(">I", len(text)) + text + bytes(78)
    curve = b"curv" + bytes(4) + struct.pack(">I", 0)
    parts = {
        b"desc": desc,
        b"cprt": b"text" + bytes(4) + b"none\0",
        b"wtpt": xyz(0.9642, 1.0, 0.8249),
        b"rXYZ": xyz(0.4361, 0.2225, 0.0139),
        b"gXYZ": xyz(0.3851, 0.7169, 0.0971),
        b"bXYZ": xyz(0.1431, 0.0606, 0.7141),
        **dict.fromkeys((b"rTRC", b"gTRC", b"bTRC"), curve),
    }
    table, body, at = struct.pack(">I", len(parts)), b"", 128 + 4 + 12 * len(parts)
    for name, data in parts.items():
        data += bytes(-len(data) % 4)
        table += name + struct.pack(">II", at + len(body), len(data))
        body += data
    head = bytearray(128)
    head[0:4] = struct.pack(">I", at + len(body))
    head[8:12], head[12:24], head[36:40] = b"\x02\x40\0\0", b"mntrRGB XYZ ", b"acsp"
    head[68:80] = struct.pack(">iii", 63190, 65536, 54061)
    return bytes(head) + table + body


def test_an_embedded_profile_is_brought_to_srgb():
    """Half the light is byte 128 in a linear profile and byte 188 in sRGB (IEC 61966-2-1)."""
    image = Image.new("RGB", (8, 8), (128, 128, 128))
    assert load.read_full(packed(image, "PNG", icc_profile=linear_profile()), "x")[0, 0] == pytest.approx(188, abs=1)
    assert load.read_full(packed(image, "PNG"), "x")[0, 0] == pytest.approx(128)
    again = packed(image, "JPEG", icc_profile=linear_profile())
    assert load.read_proxy(again, "x").rgb[0, 0] == pytest.approx(188, abs=2)


def test_a_broken_profile_does_not_lose_the_photo():
    data = packed(marked(), "PNG", icc_profile=b"nonsense" * 20)
    assert is_upright(load.read_full(data, "x"))


def test_a_progressive_jpeg_and_a_wrong_suffix_are_no_trouble(tmp_path):
    path = tmp_path / "really-a-jpeg.png"
    path.write_bytes(packed(marked(), "JPEG", progressive=True))
    assert is_upright(load.read_proxy(load.read_file(path), path.name).rgb)


@pytest.mark.parametrize("size", [(1, 1), (1, 20_000), (20_000, 1)])
def test_extreme_shapes_are_read(size):
    data = packed(Image.new("RGB", size, "white"), "PNG")
    picture = load.read_proxy(data, "x")
    assert (picture.width_px, picture.height_px) == size
    assert picture.rgb.size > 0


def test_the_proxy_is_about_1500_pixels_and_knows_the_full_size():
    data = packed(Image.new("RGB", (3600, 2400), "grey"), "JPEG")
    picture = load.read_proxy(data, "x")
    assert max(picture.rgb.shape) == 1500
    assert (picture.width_px, picture.height_px) == (3600, 2400)
    assert picture.scale == pytest.approx(1500 / 3600)


def test_a_sample_photograph_comes_out_as_another_library_reads_it():
    """scikit-image carries the astronaut sample (public domain)."""
    sample = skimage.data.astronaut()
    assert np.array_equal(load.read_full(packed(Image.fromarray(sample), "PNG"), "x"), sample)


@pytest.mark.parametrize("cut", [0.0, 0.02, 0.5, 0.9])
def test_a_photo_cut_short_gives_a_sentence(cut):
    data = packed(Image.fromarray(skimage.data.astronaut()), "JPEG")
    with pytest.raises(PlanError, match=r"harbour\.jpg"):
        load.read_full(data[: int(len(data) * cut)], "harbour.jpg")


def test_what_is_no_photo_gives_a_sentence():
    with pytest.raises(PlanError, match="not a photo"):
        load.read_proxy(b"%PDF-1.7 something else", "letter.pdf")


def test_a_picture_above_250_million_pixels_is_refused_by_its_header():
    header = packed(Image.new("1", (20_000, 13_000)), "PNG")
    with pytest.raises(PlanError, match="260 million"):
        load.read_proxy(header, "huge.png")


def test_files_that_are_missing_empty_or_folders_give_sentences(tmp_path: Path):
    (tmp_path / "empty.jpg").touch()
    for path, sentence in (
        (tmp_path / "gone.jpg", "not there any more"),
        (tmp_path / "empty.jpg", "is empty"),
        (tmp_path, "is a folder"),
    ):
        with pytest.raises(PlanError, match=sentence):
            load.read_file(path)
