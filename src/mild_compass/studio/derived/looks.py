"""The photo in the ways it is looked at: colour, values only, squinted, each small enough to be drawn quickly."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath

from mild_compass.studio.painting import polygon

if TYPE_CHECKING:
    from pathlib import Path

    import numpy as np
    from numpy.typing import NDArray

    from mild_compass.craft.armature.judged import UnderArmature
    from mild_compass.craft.picture.load import Picture
    from mild_compass.craft.values.detail import DetailWeight
    from mild_compass.craft.values.masses import FlatMasses, Masses
    from mild_compass.craft.values.medium import MediumWork
    from mild_compass.plan.guides import Lens
    from mild_compass.plan.model import Plan
    from mild_compass.plan.paper import Paper
    from mild_compass.plan.photos import PhotoFolder
    from mild_compass.plan.study import Departure, Frame, Study
    from mild_compass.plan.tones import ValuePlan

Way = Literal["colour", "values", "squint"]
ToneView = Literal["contrast", "traps"]


@dataclass(frozen=True, eq=False, slots=True)
class Looks:
    """A photo's proxy and its forms; levels halve in size so that any zoom has one that fits."""

    picture: Picture
    levels: dict[Way, tuple[QImage, ...]]

    @property
    def complete(self) -> bool:
        """Whether all forms are there, and with them what the readings of the picture need."""
        return "squint" in self.levels

    def level(self, way: Way, scale: float) -> QImage:
        """The smallest form that is still sharp at a scale of device pixels per proxy pixel."""
        images = self.levels.get(way) or self.levels["colour"]
        index = 0
        while index + 1 < len(images) and scale * 2 ** (index + 1) <= 1.0:
            index += 1
        return images[index]


def image_of(pixels: NDArray[np.uint8]) -> QImage:
    """A QImage that owns its pixels, from bytes (h, w, 3) or (h, w)."""
    pixels = pixels if pixels.flags.c_contiguous else pixels.copy()
    height, width = pixels.shape[:2]
    kind = QImage.Format.Format_RGB888 if pixels.ndim == 3 else QImage.Format.Format_Grayscale8
    image = QImage(pixels.data, width, height, pixels.strides[0], kind)
    return image.convertToFormat(QImage.Format.Format_RGB32)


def _halved(image: QImage) -> tuple[QImage, ...]:
    images = [image]
    while max(images[-1].width(), images[-1].height()) > 300:
        last = images[-1]
        size = (max(1, last.width() // 2), max(1, last.height() // 2))
        images.append(
            last.scaled(*size, Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation)
        )
    return tuple(images)


def colour_looks(data: bytes, name: str) -> Looks:
    """Read a photo's proxy; the other forms come later."""
    from mild_compass.craft.picture.load import read_proxy

    picture = read_proxy(data, name)
    return Looks(picture, {"colour": _halved(image_of(picture.rgb))})


def colour_looks_of(plan: Plan, photos: PhotoFolder) -> Looks:
    """The same of what the current study stands on: its photo in the working folder, or its stage."""
    from mild_compass.craft.picture.study_picture import ground_picture

    assert plan.study is not None
    picture = ground_picture(plan, plan.study, photos)
    return Looks(picture, {"colour": _halved(image_of(picture.rgb))})


def all_looks(looks: Looks) -> Looks:
    """Add values only and the squint."""
    import cv2
    import numpy as np

    # Slow libraries are loaded here, off the interface's thread, before the readings ask for them there.
    from mild_compass.craft.picture.squint import blurred, squint_sigma_px
    from mild_compass.craft.picture.tone import grey_of_lightness

    rgb = looks.picture.rgb
    _ = looks.picture.small_lightness  # computed here once, so that the first drag need not wait for it
    values = image_of(grey_of_lightness(looks.picture.lightness))
    half = (max(1, rgb.shape[1] // 2), max(1, rgb.shape[0] // 2))
    small = cv2.resize(rgb, half, interpolation=cv2.INTER_AREA)
    soft = blurred(np.asarray(small, np.uint8), squint_sigma_px(*half))
    squint = image_of(soft).scaled(rgb.shape[1], rgb.shape[0], mode=Qt.TransformationMode.SmoothTransformation)
    return Looks(looks.picture, {**looks.levels, "values": _halved(values), "squint": _halved(squint)})


def departed_looks(
    picture: Picture, lens: Lens, departures: tuple[Departure, ...], files: dict[str, tuple[Path, str]]
) -> Looks:
    """All forms of a photo, straightened and with its departures; files are those of the photos that lend."""
    from mild_compass.craft.picture.departed import departed
    from mild_compass.craft.picture.load import read_file, read_proxy

    sources = {key: read_proxy(read_file(path), name) for key, (path, name) in files.items()}
    made = departed(picture, departures, sources, lens)
    return all_looks(Looks(made, {"colour": _halved(image_of(made.rgb))}))


THUMB_PX = 360
TONE_PX = 900
RUNG_PX = 900
STEP_PX = 600
COARSE_PX, DRAGGED_PX = 300, 600  # a value map so small is drawn so large
INSET = 0.28  # of a step's picture, for its mask


def small_rgb(picture: Picture) -> NDArray[np.uint8]:
    """A picture's pixels with the longest side at most that of a small picture."""
    import cv2
    import numpy as np

    height, width = picture.rgb.shape[:2]
    shrink = min(1.0, THUMB_PX / max(height, width))
    size = (max(1, round(width * shrink)), max(1, round(height * shrink)))
    return np.asarray(cv2.resize(picture.rgb, size, interpolation=cv2.INTER_AREA), np.uint8)


def thumbs_of(rgb: NDArray[np.uint8]) -> tuple[QImage, QImage]:
    """A small picture in colour and in values only."""
    from mild_compass.craft.picture.tone import grey_of_lightness, lightness

    grey = grey_of_lightness(lightness(rgb))
    values = QImage(grey.tobytes(), grey.shape[1], grey.shape[0], grey.shape[1], QImage.Format.Format_Grayscale8)
    return image_of(rgb), values.copy()


def thumbnail(path: Path, name: str) -> tuple[QImage, QImage]:
    """The small pictures of a photo file."""
    from mild_compass.craft.picture.load import read_file, read_proxy

    return thumbs_of(read_proxy(read_file(path), name, THUMB_PX).rgb)


def comparison(path: Path, name: str) -> tuple[QImage, QImage]:
    """A photo as large as the screen needs it, in colour and in values only."""
    from mild_compass.craft.picture.load import read_file, read_proxy

    return thumbs_of(read_proxy(read_file(path), name).rgb)


def study_thumbs(plan: Plan, study: Study, photos: PhotoFolder) -> tuple[QImage, QImage, QImage]:
    """A study as a small picture: colour, values only, masses; on a blank sheet what is drawn on it."""
    if not plan.has_picture(study):
        from mild_compass.output.write_pixels import drawn_small

        drawn = image_of(drawn_small(plan, study, THUMB_PX))
        return drawn, drawn, drawn
    from mild_compass.craft.picture.study_picture import study_picture
    from mild_compass.craft.values.masses import study_masses
    from mild_compass.output.raster import framed_small

    picture = study_picture(plan, study, photos)
    colour, values = thumbs_of(framed_small(picture, study.frame, plan.paper, THUMB_PX))
    return colour, values, masses_image(study_masses(picture, study, plan.paper), THUMB_PX)


def armature_thumbs(plan: Plan, study: Study, photos: PhotoFolder) -> tuple[QImage, QImage, UnderArmature]:
    """A study as a small picture in colour and in values, and what locks onto the armature drawn over it.

    Raises:
        PlanError: the study stands on a blank sheet.
    """
    from mild_compass.craft.armature.judged import under_armature
    from mild_compass.craft.picture.study_picture import study_picture
    from mild_compass.output.raster import framed_small

    picture = study_picture(plan, study, photos)
    colour, values = thumbs_of(framed_small(picture, study.frame, plan.paper, 2 * THUMB_PX))
    return colour, values, under_armature(study, picture, plan.paper)


def frame_images(picture: Picture, frames: list[Frame], paper: Paper) -> list[QImage]:
    """Frames of one picture as small pictures."""
    from mild_compass.output.raster import framed_small

    return [image_of(framed_small(picture, frame, paper, THUMB_PX)) for frame in frames]


def rung_of(
    picture: Picture, frame: Frame, paper: Paper, values: ValuePlan, counts: tuple[DetailWeight, ...]
) -> tuple[QImage, tuple[str, ...]]:
    """A picture in so many values, and what it takes, in words."""
    from mild_compass.craft.values.masses import find_masses
    from mild_compass.craft.values.readings import in_words

    masses = find_masses(picture, frame, paper, values, counts)
    dark = sum(share for share, shown in zip(masses.shares, masses.shown, strict=True) if shown < 50)
    words = (f"{sum(masses.counts)} shapes", f"{100 * dark:.0f} % darker than middle grey", in_words(masses))
    return masses_image(masses, RUNG_PX), words


def step_images(work: MediumWork) -> tuple[QImage, ...]:
    """How the picture looks after each step, with the mask of what is worked on, white, in its corner."""
    from mild_compass.craft.picture.tone import grey_of_lightness

    return tuple(image_of(_with_inset(grey_of_lightness(_smaller(step.after)), step.mask)) for step in work.steps)


def _smaller(values: NDArray[np.float32]) -> NDArray[np.float32]:
    """A picture at the size it is looked at, its edges soft by a pixel."""
    import cv2

    height, width = values.shape
    shrink = min(1.0, STEP_PX / max(height, width))
    size = (max(1, round(width * shrink)), max(1, round(height * shrink)))
    return cv2.resize(values, size, interpolation=cv2.INTER_AREA).reshape(size[::-1])


def _with_inset(grey: NDArray[np.uint8], mask: NDArray[np.bool_]) -> NDArray[np.uint8]:
    import cv2

    height, width = grey.shape
    size = (max(1, round(INSET * width)), max(1, round(INSET * height)))
    small = cv2.resize(mask.astype("uint8") * 235 + 20, size, interpolation=cv2.INTER_AREA).reshape(size[::-1])
    rim = max(1, round(0.006 * width))
    framed = cv2.copyMakeBorder(small, rim, 0, rim, 0, cv2.BORDER_CONSTANT, value=255)
    found = grey.copy()
    tall, wide = min(height, framed.shape[0]), min(width, framed.shape[1])
    found[height - tall :, width - wide :] = framed[:tall, :wide]
    return found


def tone_view(
    way: ToneView, picture: Picture, frame: Frame, paper: Paper, pulls: tuple[tuple[float, float, float], ...]
) -> QImage:
    """The framed picture so that it shows what stands out, or where a colour's value deceives."""
    import numpy as np

    from mild_compass.craft.geometry.frame_map import FrameMap
    from mild_compass.craft.picture.framed import laid_on_sheet, sized
    from mild_compass.craft.picture.tone import grey_of_lightness, lightness

    frame_map = FrameMap.of(frame, paper)
    size = (picture.width_px, picture.height_px)
    rgb = laid_on_sheet(picture.rgb, size, frame_map, *sized(frame_map, TONE_PX))
    values = lightness(rgb)
    if way == "traps":
        from mild_compass.craft.values.spot import DECEIVES, deceit

        grey = np.repeat(grey_of_lightness(values)[..., None], 3, 2)
        return image_of(np.where((np.abs(deceit(rgb)) >= DECEIVES)[..., None], rgb, grey))
    import cv2

    from mild_compass.craft.values.reads import saliency_map, saliency_with_interest, small_enough

    strength = saliency_with_interest(saliency_map(small_enough(values)), pulls)
    lit = cv2.resize(strength / max(float(strength.max()), 1e-6), values.shape[::-1], interpolation=cv2.INTER_LINEAR)
    return image_of(grey_of_lightness(values * (0.12 + 0.88 * lit**1.4)))


def stepped_back(picture: Picture, sigma_px: float) -> tuple[QImage, ...]:
    """A photo with what is too fine to be seen from afar taken away; sigma in pixels of the photo."""
    from mild_compass.craft.picture.squint import blurred

    sigma = sigma_px * picture.rgb.shape[1] / picture.width_px
    return _halved(image_of(blurred(picture.rgb, sigma)))


def looked_at(image: QImage, way: str) -> QImage:
    """A small picture squinted at, or in values only."""
    import numpy as np

    from mild_compass.craft.picture.squint import blurred, squint_sigma_px
    from mild_compass.craft.picture.tone import grey_of_lightness, lightness

    plain = image.convertToFormat(QImage.Format.Format_RGB888)
    width, height, line = plain.width(), plain.height(), plain.bytesPerLine()
    rows = np.frombuffer(plain.constBits(), np.uint8, line * height).reshape(height, line)
    rgb = rows[:, : 3 * width].reshape(height, width, 3)
    if way == "values":
        return image_of(grey_of_lightness(lightness(rgb)))
    return image_of(blurred(rgb, squint_sigma_px(width, height)))


MassPaths = tuple[tuple[QPainterPath, int], ...]


def masses_paths(masses: Masses) -> MassPaths:
    """What is painted one over the other, in pixels of the value map, and its grey."""
    from mild_compass.craft.picture.tone import grey_of_lightness
    from mild_compass.craft.values.drawn import lighter_than, rings_of

    height, width = masses.steps.shape
    whole = QPainterPath()
    whole.addRect(0, 0, width, height)
    paths = [whole]
    for area in lighter_than(masses.shapes, len(masses.shown)):
        path = QPainterPath()
        for ring in rings_of(area):
            path.addPolygon(polygon(ring))
        paths.append(path)
    return tuple(zip(paths, grey_of_lightness(masses.shown).tolist(), strict=True))


def masses_image(masses: Masses, longest_px: int) -> QImage:
    """The masses painted flat within their outlines, each value with the grey it stands for."""
    return image_of(masses.greys(longest_px))


def paint_masses(painter: QPainter, paths: MassPaths) -> None:
    """Each path over those before it, in its grey."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
    for path, grey in paths:
        painter.fillPath(path, QColor(grey, grey, grey))


def flat_image(masses: FlatMasses) -> QImage:
    """The same without outlines, until these are there: by pixels, or flowing where the pixels are coarse."""
    from mild_compass.craft.picture.tone import grey_of_lightness
    from mild_compass.craft.values.drawn import flowing

    if max(masses.steps.shape) < COARSE_PX:
        return image_of(grey_of_lightness(flowing(masses.steps, masses.shown, DRAGGED_PX)))
    return image_of(grey_of_lightness(masses.shown)[masses.steps])
