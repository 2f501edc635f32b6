"""The study in layers as OpenRaster, which general painting programs open (OpenRaster specification 0.0.5)."""

from __future__ import annotations

import io
import zipfile
from typing import TYPE_CHECKING
from xml.etree import ElementTree as ET

import numpy as np
from PIL import Image

if TYPE_CHECKING:
    from numpy.typing import NDArray

    Rgba = NDArray[np.uint8]

THUMBNAIL_PX = 256


def open_raster(layers: list[tuple[str, Rgba, bool]], merged: NDArray[np.uint8], dpi: float) -> bytes:
    """The file's bytes from named layers (h, w, 4), the bottom one first, each with whether it is seen."""
    height, width = merged.shape[:2]
    size = {"w": str(width), "h": str(height), "xres": str(round(dpi)), "yres": str(round(dpi))}
    image = ET.Element("image", {"version": "0.0.5", **size})
    stack = ET.SubElement(image, "stack")
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("mimetype", "image/openraster", zipfile.ZIP_STORED)
        for number, (name, pixels, seen) in reversed(list(enumerate(layers))):
            part, left, top = _trimmed(pixels)
            source = f"data/layer{number:03}.png"
            ET.SubElement(
                stack,
                "layer",
                {
                    "name": name,
                    "src": source,
                    "x": str(left),
                    "y": str(top),
                    "opacity": "1.0",
                    "composite-op": "svg:src-over",
                    "visibility": "visible" if seen else "hidden",
                },
            )
            archive.writestr(source, _png(part), zipfile.ZIP_STORED)
        archive.writestr("stack.xml", ET.tostring(image, encoding="utf-8", xml_declaration=True))
        archive.writestr("mergedimage.png", _png(merged), zipfile.ZIP_STORED)
        small = Image.fromarray(merged)
        small.thumbnail((THUMBNAIL_PX, THUMBNAIL_PX))
        archive.writestr("Thumbnails/thumbnail.png", _png(np.asarray(small)), zipfile.ZIP_STORED)
    return packed.getvalue()


def _trimmed(pixels: Rgba) -> tuple[Rgba, int, int]:
    """The part of a layer that is not clear, and where it begins."""
    seen = pixels[..., 3] > 0
    rows, columns = np.flatnonzero(seen.any(axis=1)), np.flatnonzero(seen.any(axis=0))
    if not len(rows):
        return pixels[:1, :1], 0, 0
    left, top = int(columns[0]), int(rows[0])
    return pixels[top : rows[-1] + 1, left : columns[-1] + 1], left, top


def _png(pixels: NDArray[np.uint8]) -> bytes:
    packed = io.BytesIO()
    Image.fromarray(pixels).save(packed, "PNG", compress_level=4)
    return packed.getvalue()
