"""Reading photos: what the file holds, upright and in sRGB, as a proxy or in full.

Every failure is a PlanError with a sentence naming the photo.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from datetime import datetime
from functools import cache, cached_property
from typing import TYPE_CHECKING, Any

import numpy as np
from PIL import Image, ImageCms

from mild_compass.craft.picture.tone import Lightness, Rgb, lightness
from mild_compass.plan.errors import PlanError

if TYPE_CHECKING:
    from pathlib import Path

PROXY_PX = 1500  # along the longer side: twice what a board of 750 px shows
MOST_PIXELS = 250_000_000  # of one photo: 750 MB of bytes, what a small machine can hold
LONGEST_SIDE_PX = 60_000
MOST_FILE_BYTES = 1 << 30
KINDS = ("JPEG", "PNG", "WEBP", "TIFF", "HEIF")

# The size is checked here, with a sentence of our own, before anything is decoded.
Image.MAX_IMAGE_PIXELS = None


@dataclass(frozen=True, eq=False)
class Picture:
    """A photo made small for working with: sRGB bytes (h, w, 3), and the size of the upright original.

    ``focal_35mm`` is the focal length as on 36 mm film that its EXIF tells, 0 where it does not.
    """

    rgb: Rgb
    width_px: int
    height_px: int
    focal_35mm: float = 0.0

    @property
    def scale(self) -> float:
        """Proxy pixels per photo pixel."""
        return float(self.rgb.shape[1] / self.width_px)

    @cached_property
    def lightness(self) -> Lightness:
        """L* of every pixel (h, w), computed once."""
        return lightness(self.rgb)

    @cached_property
    def small_lightness(self) -> Lightness:
        """L* of every fourth pixel both ways, averaged: for rough answers that must be quick."""
        height, width = (max(1, side // 4) for side in self.lightness.shape)
        image = Image.fromarray(self.lightness).resize((width, height), Image.Resampling.BOX)
        return np.asarray(image, np.float32)


@cache
def _with_heif() -> None:
    import pillow_heif

    pillow_heif.register_heif_opener()


def read_file(path: Path) -> bytes:
    """The bytes of a photo file, or a PlanError.

    Raises:
        PlanError: the file is missing, a folder, empty, too large or not readable.
    """
    try:
        if not (path.is_file() or path.is_dir()) and path.exists():
            raise PlanError(f"{path.name} is not a file with an end to it. Nothing was added.")
        if path.stat().st_size > MOST_FILE_BYTES:
            raise PlanError(f"{path.name} is larger than 1 GB, more than a photo should be. It was not added.")
        data = path.read_bytes()
    except FileNotFoundError as error:
        raise PlanError(
            f"{path.name} is not there any more. Nothing was added; check the folder {path.parent}."
        ) from error
    except IsADirectoryError as error:
        raise PlanError(f"{path.name} is a folder, not a photo. Nothing was added.") from error
    except OSError as error:
        raise PlanError(f"{path.name} could not be read ({error.strerror or error}). Nothing was added.") from error
    if not data:
        raise PlanError(f"{path.name} is empty: the file holds nothing. Nothing was added; copy the photo again.")
    return data


def _opened(data: bytes, name: str) -> Image.Image:
    _with_heif()
    try:
        image = Image.open(io.BytesIO(data), formats=KINDS)
    except Exception as error:
        raise PlanError(
            f"{name} is not a photo this application reads (JPEG, PNG, WebP, TIFF, HEIC), or it is damaged. "
            "Nothing was added."
        ) from error
    if max(image.size) > LONGEST_SIDE_PX:
        raise PlanError(
            f"{name} is {max(image.size)} pixels long; at most {LONGEST_SIDE_PX} are read. Nothing was added."
        )
    if image.width * image.height > MOST_PIXELS:
        millions = image.width * image.height / 1e6
        raise PlanError(
            f"{name} has {millions:.0f} million pixels; at most 250 are read. Make it smaller, then add it."
        )
    return image


def size_of(data: bytes, name: str) -> tuple[int, int]:
    """Width and height of the upright photo in pixels, from the header alone."""
    return _upright_size(_opened(data, name))


def _upright_size(image: Image.Image) -> tuple[int, int]:
    """Width and height once turned; Pillow tells those of a TIFF as they are when it has turned it itself.

    A PNG's EXIF that only comes after its pixels is not looked for: Pillow would decode the whole photo for it.
    """
    told = image.format != "TIFF" and (image.format != "PNG" or "exif" in image.info)
    turned = told and 5 <= _orientation(image) <= 8
    return (image.height, image.width) if turned else (image.width, image.height)


def focal_35mm_of(data: bytes, name: str) -> float:
    """The focal length as on 36 mm film that a photo's EXIF tells (tag 0xA405), 0 where it does not."""
    with _opened(data, name) as image:
        return _focal_35mm(image)


def _focal_35mm(image: Image.Image) -> float:
    try:
        told = float(image.getexif().get_ifd(0x8769).get(0xA405, 0) or 0)
    except (TypeError, ValueError, OSError, SyntaxError):
        return 0.0
    return told if 1 <= told <= 5000 else 0.0


def taken_at(data: bytes, name: str) -> str:
    """When a photo was taken by its EXIF (tag 0x9003), as ISO 8601 without a zone; empty where it does not tell."""
    try:
        with _opened(data, name) as image:
            told = str(image.getexif().get_ifd(0x8769).get(0x9003, ""))
        return datetime.strptime(told, "%Y:%m:%d %H:%M:%S").isoformat()
    except (TypeError, ValueError, OSError, SyntaxError):
        return ""


def _orientation(image: Image.Image) -> int:
    try:
        return int(image.getexif().get(0x0112, 1))
    except Exception:  # broken EXIF blocks raise all manner of things; the photo itself is fine
        return 1


def read_proxy(data: bytes, name: str, longest_px: int = PROXY_PX) -> Picture:
    """The photo upright, in sRGB, with its longest side at most longest_px."""
    image = _opened(data, name)
    width, height = _upright_size(image)
    # A JPEG can be decoded straight to a fraction of its size, which is never less than what is asked for here.
    shrink = min(1.0, longest_px / max(image.size))
    image.draft(None, (max(1, round(image.width * shrink)), max(1, round(image.height * shrink))))
    kind = image.format
    image = _decoded(image, name)
    focal = _focal_35mm(image)
    if kind != "JPEG":  # decoded in full: what is there counts, whatever the header said
        turned = image.info["turn"] in _TURNS and image.info["turn"] >= 5
        width, height = image.size[::-1] if turned else image.size
    if max(image.size) > longest_px:
        image.thumbnail((longest_px, longest_px), Image.Resampling.BOX, reducing_gap=None)
    return Picture(_upright_srgb(image, name), width, height, focal)


def read_full(data: bytes, name: str) -> Rgb:
    """The whole photo upright, in sRGB, as bytes of shape (h, w, 3)."""
    return _upright_srgb(_decoded(_opened(data, name), name), name)


def _decoded(image: Image.Image, name: str) -> Image.Image:
    profile = image.info.get("icc_profile")
    try:
        image.load()
    except Exception as error:
        raise PlanError(
            f"{name} breaks off or is damaged inside and cannot be shown. Nothing was added; "
            "copy it from the camera again."
        ) from error
    image.info["icc_profile"] = profile
    # Asked for only now: Pillow turns a TIFF while it loads it, and says so by taking the mark away.
    image.info["turn"] = _orientation(image)
    return image


_TURNS: dict[int, tuple[Any, ...]] = {
    2: (Image.Transpose.FLIP_LEFT_RIGHT,),
    3: (Image.Transpose.ROTATE_180,),
    4: (Image.Transpose.FLIP_TOP_BOTTOM,),
    5: (Image.Transpose.TRANSPOSE,),
    6: (Image.Transpose.ROTATE_270,),
    7: (Image.Transpose.TRANSVERSE,),
    8: (Image.Transpose.ROTATE_90,),
}


def _upright_srgb(image: Image.Image, name: str) -> Rgb:
    turn = image.info.get("turn", 1)
    image = _srgb(_eight_bit(image))
    for step in _TURNS.get(turn, ()):
        image = image.transpose(step)
    array = np.asarray(image)
    if array.size == 0:
        raise PlanError(f"{name} has no pixels in it. Nothing was added.")
    return array


def _eight_bit(image: Image.Image) -> Image.Image:
    """Palette, alpha, 16-bit and float pictures brought to 8 bits; transparency laid on white paper."""
    if image.mode.startswith(("I", "F")):
        values = np.asarray(image, np.float64)
        top = 65535.0 if image.mode != "F" or values.max(initial=0) > 1 else 1.0
        return Image.fromarray(np.clip(values / top * 255, 0, 255).round().astype(np.uint8))
    if image.mode in ("LA", "PA", "RGBA", "La", "RGBa") or "transparency" in image.info:
        with_alpha = image.convert("RGBA")
        white = Image.new("RGBA", image.size, "white")
        flat = Image.alpha_composite(white, with_alpha).convert("RGB")
        flat.info["icc_profile"] = image.info.get("icc_profile")
        return flat
    if image.mode in ("P", "1"):
        return image.convert("RGB")
    return image


def _srgb(image: Image.Image) -> Image.Image:
    profile = image.info.get("icc_profile")
    if profile:
        try:
            source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            if "sRGB" in ImageCms.getProfileDescription(source) and image.mode == "RGB":
                return image
            target = ImageCms.createProfile("sRGB")
            converted = ImageCms.profileToProfile(image, source, target, outputMode="RGB")
            if converted is not None:
                return converted
        except (ImageCms.PyCMSError, OSError, ValueError):
            pass  # a broken or unfitting profile: the picture is taken as sRGB, as every viewer does
    return image if image.mode == "RGB" else image.convert("RGB")
