"""What is left of a picture when one squints or steps back: blur in linear light."""

from __future__ import annotations

from typing import TYPE_CHECKING

import cv2
import numpy as np

from mild_compass.craft.picture.tone import LINEAR, Rgb

if TYPE_CHECKING:
    from numpy.typing import NDArray

_BACK_STEPS = 4096
_TO_BYTE = np.searchsorted((LINEAR[1:] + LINEAR[:-1]) / 2, np.arange(_BACK_STEPS + 1) / _BACK_STEPS).astype(np.uint8)


def blurred(rgb: Rgb, sigma_px: float) -> Rgb:
    """Gaussian blur of sRGB bytes (h, w, 3) done in linear light, as the eye and a lens do it."""
    if sigma_px <= 0:
        return rgb
    linear: NDArray[np.float32] = LINEAR.astype(np.float32)[rgb]
    soft = cv2.GaussianBlur(linear, (0, 0), sigma_px, borderType=cv2.BORDER_REPLICATE)
    return np.asarray(_TO_BYTE[np.clip(soft * _BACK_STEPS + 0.5, 0, _BACK_STEPS).astype(np.int32)])


def squint_sigma_px(width_px: float, height_px: float) -> float:
    """Blur of a firm squint: one ninetieth of the diagonal (common practice, no published source)."""
    return float(np.hypot(width_px, height_px)) / 90
