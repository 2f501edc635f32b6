"""Every turn a camera can write down, in every kind of photo, against a picture with a known corner."""

from __future__ import annotations

import io
import os

import numpy as np
import pytest
from PIL import Image

from mild_compass.craft.picture.load import LONGEST_SIDE_PX, read_file, read_full, read_proxy, size_of
from mild_compass.plan.errors import PlanError

RED = (220, 20, 20)
# Where the stored top left corner is to be seen (EXIF 2.32, tag 0x0112): row and column of the upright picture.
CORNERS = {1: (0, 0), 2: (0, -1), 3: (-1, -1), 4: (-1, 0), 5: (0, 0), 6: (0, -1), 7: (-1, -1), 8: (-1, 0)}


def stored(kind: str, orientation: int | None) -> bytes:
    """60 x 40 pixels as they are stored, grey, with a red block in the stored top left corner."""
    pixels = np.full((40, 60, 3), 128, np.uint8)
    pixels[:16, :16] = RED
    image, packed, more = Image.fromarray(pixels), io.BytesIO(), {}
    if orientation is not None:
        exif = Image.Exif()
        exif[0x0112] = orientation
        if kind == "HEIF":
            image.info["exif"] = exif.tobytes()  # the writer puts it into the picture's own rotation box
        else:
            more["exif"] = exif
    if kind == "JPEG":
        more |= {"quality": 95, "subsampling": 0}
    if kind == "WEBP":
        more["lossless"] = True
    if kind == "HEIF":
        import pillow_heif

        pillow_heif.register_heif_opener()
        more["quality"] = 90
    image.save(packed, kind, **more)
    return packed.getvalue()


def is_red(pixel: np.ndarray) -> bool:
    return bool(pixel[0] > 150 and pixel[1] < 90)


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP", "TIFF", "HEIF"])
@pytest.mark.parametrize("orientation", [None, *range(11)])
def test_a_photo_stands_upright_however_it_was_held(kind, orientation):
    data = stored(kind, orientation)
    turned = orientation in (5, 6, 7, 8)
    size = (40, 60) if turned else (60, 40)
    assert size_of(data, "photo") == size
    full, proxy = read_full(data, "photo"), read_proxy(data, "photo")
    assert full.shape == (size[1], size[0], 3)
    assert (proxy.width_px, proxy.height_px) == size
    row, column = CORNERS.get(orientation or 1, (0, 0))
    for pixels in (full, proxy.rgb):
        inside = pixels[4:-4, 4:-4]
        assert is_red(inside[row, column])
        assert sum(is_red(inside[r, c]) for r in (0, -1) for c in (0, -1)) == 1


def test_a_picture_with_an_endless_side_is_refused_before_anything_is_decoded():
    packed = io.BytesIO()
    Image.new("L", (1, LONGEST_SIDE_PX + 1)).save(packed, "PNG")
    with pytest.raises(PlanError, match="pixels long"):
        read_proxy(packed.getvalue(), "tall.png")


def test_only_files_with_an_end_are_read(tmp_path):
    pipe = tmp_path / "pipe.jpg"
    os.mkfifo(pipe)
    with pytest.raises(PlanError, match="not a file with an end"):
        read_file(pipe)
    from pathlib import Path

    with pytest.raises(PlanError, match="not a file with an end"):
        read_file(Path("/dev/zero"))
