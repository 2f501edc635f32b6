"""The sheet as SVG in millimetres, one named group to a layer (SVG 1.1, W3C Recommendation 2011)."""

from __future__ import annotations

import base64
import io
import re
from typing import TYPE_CHECKING
from xml.etree import ElementTree as ET

from PIL import Image

from mild_compass.output.canvas import DASHES_MM, INKS

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from mild_compass.craft.drawing import Drawing, Ink, Label, Layer, Stroke
    from mild_compass.craft.geometry.lines import Box

SVG, XLINK = "http://www.w3.org/2000/svg", "http://www.w3.org/1999/xlink"
ANCHORS = {"left": "start", "middle": "middle", "right": "end"}
CAPITAL = 1.35  # of a capital's height is the size of the type


def sheet_svg(drawing: Drawing, title: str, picture: NDArray[np.uint8] | None = None, box: Box | None = None) -> bytes:
    """The SVG file; one user unit is one millimetre, and picture (h, w, 3) fills ``box`` under everything else."""
    ET.register_namespace("", SVG)
    ET.register_namespace("xlink", XLINK)
    width, height = _number(drawing.width_mm), _number(drawing.height_mm)
    root = ET.Element(
        f"{{{SVG}}}svg",
        {"version": "1.1", "width": f"{width}mm", "height": f"{height}mm", "viewBox": f"0 0 {width} {height}"},
    )
    ET.SubElement(root, f"{{{SVG}}}title").text = _sound(title)
    if picture is not None and box is not None:
        _picture(_group(root, "picture", "picture"), picture, box)
    taken: set[str] = {"picture"}
    for layer in drawing.layers:
        _layer(root, layer, taken)
    written: bytes = ET.tostring(root, encoding="utf-8", xml_declaration=True)
    return written


def _layer(root: ET.Element, layer: Layer, taken: set[str]) -> None:
    name = f"{layer.name}: {layer.title}" if layer.title else layer.name
    plain = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")
    number, unique = 1, plain
    while unique in taken:
        number += 1
        unique = f"{plain}-{number}"
    taken.add(unique)
    group = _group(root, unique, name)
    for mark in layer.strokes:
        _stroke(group, mark)
    for label in layer.labels:
        _label(group, label)


def _group(root: ET.Element, unique: str, name: str) -> ET.Element:
    group = ET.SubElement(root, f"{{{SVG}}}g", {"id": unique})
    ET.SubElement(group, f"{{{SVG}}}title").text = _sound(name)
    return group


def _stroke(group: ET.Element, mark: Stroke) -> None:
    points = " ".join(f"{_number(x)},{_number(y)}" for x, y in mark.points_mm.tolist())
    attributes = {
        "points": points,
        "fill": "none",
        "stroke": _ink(mark.ink),
        "stroke-width": _number(mark.width_mm),
        "stroke-linejoin": "round",
    }
    if DASHES_MM[mark.dash]:
        attributes["stroke-dasharray"] = " ".join(_number(part) for part in DASHES_MM[mark.dash])
    ET.SubElement(group, f"{{{SVG}}}polyline", attributes)


def _label(group: ET.Element, label: Label) -> None:
    attributes = {
        "x": _number(label.x_mm),
        "y": _number(label.y_mm),
        "font-size": _number(label.size_mm * CAPITAL),
        "font-family": "Open Sans, sans-serif",
        "text-anchor": ANCHORS[label.anchor],
        "fill": _ink(label.ink),
    }
    ET.SubElement(group, f"{{{SVG}}}text", attributes).text = _sound(label.text)


def _picture(group: ET.Element, picture: NDArray[np.uint8], box: Box) -> None:
    packed = io.BytesIO()
    Image.fromarray(picture).save(packed, "JPEG", quality=88)
    attributes = {
        "x": _number(box.left),
        "y": _number(box.top),
        "width": _number(box.width),
        "height": _number(box.height),
        "preserveAspectRatio": "none",
        f"{{{XLINK}}}href": "data:image/jpeg;base64," + base64.b64encode(packed.getvalue()).decode(),
    }
    ET.SubElement(group, f"{{{SVG}}}image", attributes)


FORBIDDEN = re.compile("[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")


def _sound(text: str) -> str:
    """Without what XML 1.0 forbids (W3C Recommendation 2008, 2.2 Characters)."""
    return FORBIDDEN.sub("", text)


def _ink(ink: Ink) -> str:
    return "#" + "".join(f"{round(255 * part):02x}" for part in INKS[ink])


def _number(value: float) -> str:
    """Millimetres to the micrometre, without trailing noughts."""
    return f"{value:.3f}".rstrip("0").rstrip(".")
