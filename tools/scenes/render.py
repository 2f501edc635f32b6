"""Sends a scene to the path tracer and finishes the picture as a phone camera would."""

from __future__ import annotations

import json
from pathlib import Path

import cv2
import mitsuba as mi
import numpy as np
from PIL import Image

from .mesh import Mesh
from .textures import sky

WIDTH, HEIGHT, FOV_DEG = 1800, 1200, 66.0
FOCAL_PX = WIDTH / 2 / np.tan(np.radians(FOV_DEG / 2))

mi.set_variant("scalar_rgb")


def camera_axes(yaw_deg: float, pitch_deg: float) -> np.ndarray:
    """Rows right, down and forward of a camera without roll, in scene coordinates."""
    yaw, pitch = np.radians([yaw_deg, pitch_deg])
    forward = np.array([np.sin(yaw) * np.cos(pitch), np.cos(yaw) * np.cos(pitch), np.sin(pitch)])
    right = np.array([np.cos(yaw), -np.sin(yaw), 0.0])
    return np.stack([right, np.cross(forward, right), forward])


def sensor(
    position: tuple[float, float, float], axes: np.ndarray, samples: int, scale: float, wider: float = 1.0
) -> dict:
    """The camera as the path tracer wants it; ``wider`` shows so many times as much, for a lens that bows later."""
    origin = np.array(position)
    return {
        "type": "perspective",
        "fov": float(np.degrees(2 * np.arctan(wider * np.tan(np.radians(FOV_DEG / 2))))),
        "fov_axis": "x",
        "to_world": mi.ScalarTransform4f().look_at(
            origin=list(origin), target=list(origin + axes[2]), up=list(-axes[1])
        ),
        "film": {
            "type": "hdrfilm",
            "width": round(WIDTH * scale * wider),
            "height": round(HEIGHT * scale * wider),
            "rfilter": {"type": "gaussian"},
        },
        "sampler": {"type": "independent", "sample_count": samples},
    }


def material(name: str, surface: np.ndarray | tuple, repeats: float) -> dict:
    """A two-sided surface; enamel and metal get a sheen."""
    if isinstance(surface, tuple):
        reflectance: dict = {"type": "rgb", "value": list(surface)}
    else:
        reflectance = {
            "type": "bitmap",
            "bitmap": mi.Bitmap(np.ascontiguousarray(surface, np.float32)),
            "raw": True,
            "to_uv": mi.ScalarTransform4f().scale([repeats, repeats, 1]),
        }
    if name == "figure-can" or name.startswith("enamel"):
        inner = {"type": "roughplastic", "diffuse_reflectance": reflectance, "alpha": 0.15}
    else:
        inner = {"type": "diffuse", "reflectance": reflectance}
    return {"type": "twosided", "inner": inner}


def render(meshes: dict[str, Mesh], surfaces: dict, eye: dict, folder: Path, sun: tuple) -> np.ndarray:
    """Linear-light picture of shape (height, width, 3)."""
    scene: dict = {
        "type": "scene",
        "integrator": {"type": "path", "max_depth": 7},
        "sensor": eye,
        "sky": {
            "type": "envmap",
            "bitmap": mi.Bitmap(sky(31)),
            "scale": 0.95,
            "to_world": mi.ScalarTransform4f().rotate([1, 0, 0], 90),
        },
        "sun": {
            "type": "directional",
            "direction": list(sun),
            "irradiance": {"type": "rgb", "value": [5.4, 4.7, 3.7]},
        },
    }
    for name, mesh in meshes.items():
        path = folder / f"{name}.ply"
        mesh.write(path)
        shape: dict = {"type": "ply", "filename": str(path), "face_normals": True}
        if name == "glass":
            shape["bsdf"] = {"type": "thindielectric"}
        elif name in ("glare", "window"):
            shape["emitter"] = {"type": "area", "radiance": {"type": "rgb", "value": [7.0, 6.6, 5.9]}}
        else:
            shape["bsdf"] = material(name, *surfaces[name])
            shape["face_normals"] = not name.startswith(("figure", "enamel", "terracotta"))
        scene[name] = shape
    return np.array(mi.render(mi.load_dict(scene)))[..., :3]


def despeckled(linear: np.ndarray) -> np.ndarray:
    """Single pixels that a lucky path made many times brighter than those around them, put back among them."""
    middle = cv2.medianBlur(linear.astype(np.float32), 5)
    bright = linear.max(-1) > 2.2 * middle.max(-1) + 0.02
    return np.where(bright[..., None], middle, linear)


def lens_map(shape: tuple[int, ...], k1: float, wider: float) -> np.ndarray:
    """Where in a wider, straight picture each pixel (h, w, 2) of one thrown by a lens with the bow k1 comes from.

    Brown-Conrady, as in OpenCV; pixels are counted from their middles.
    """
    height, width = (round(side / wider) for side in shape[:2])
    focal = FOCAL_PX * width / WIDTH
    y, x = np.mgrid[0:height, 0:width].astype(np.float64) + 0.5
    seen = np.stack([x, y], -1).reshape(-1, 1, 2)
    inner = np.array([[focal, 0, width / 2], [0, focal, height / 2], [0, 0, 1]])
    straight = cv2.undistortPoints(seen, inner, np.array([k1, 0, 0, 0]), P=inner).reshape(height, width, 2)
    shift = (np.array(shape[1::-1]) - (width, height)) / 2
    return (straight + shift - 0.5).astype(np.float32)


def bowed(linear: np.ndarray, k1: float, wider: float) -> np.ndarray:
    """The picture as a lens with the bow k1 would have thrown it, cut to size."""
    at = lens_map(linear.shape, k1, wider)
    return cv2.remap(linear.astype(np.float32), at[..., 0], at[..., 1], cv2.INTER_CUBIC)


def finish(linear: np.ndarray, seed: int) -> np.ndarray:
    """Exposure, highlight roll-off, halation, vignette, sensor noise and sharpening, as sRGB bytes."""
    height, width = linear.shape[:2]
    linear = np.clip(linear, 0, 40).astype(np.float32)
    linear = linear / (np.percentile(linear.mean(-1), 70) * 2.0)
    linear = cv2.bilateralFilter(np.log1p(linear), 5, 0.10, 1.5)  # what is left of the sampling noise
    linear = np.expm1(linear)
    glow = cv2.GaussianBlur(np.clip(linear - 1.2, 0, 6), (0, 0), width / 120)
    linear = linear + 0.10 * glow
    y, x = np.mgrid[0:height, 0:width]
    r2 = ((x - width / 2) ** 2 + (y - height / 2) ** 2) / (width / 2) ** 2
    linear *= (1 / (1 + 0.22 * r2) ** 2)[..., None]
    toned = 1 - np.exp(-1.55 * linear)
    rng = np.random.default_rng(seed)
    grain = rng.normal(size=(height, width, 1)) * 0.7 + rng.normal(size=(height, width, 3)) * 0.5
    toned = toned + grain * (0.0035 + 0.006 * np.sqrt(np.clip(toned, 0, 1)))
    toned = np.clip(toned, 0, 1)
    srgb = np.where(toned <= 0.0031308, 12.92 * toned, 1.055 * toned ** (1 / 2.4) - 0.055)
    soft = cv2.GaussianBlur(srgb, (0, 0), 1.1)
    return np.round(np.clip(srgb + 0.45 * (srgb - soft), 0, 1) * 255).astype(np.uint8)


def save(picture: np.ndarray, path: Path, camera: dict) -> None:
    """JPEG under 900 kB, with the camera's facts as JSON beside it."""
    for quality in (92, 90, 87, 84, 80, 76):
        exif = Image.Exif()
        exif[0x8769] = {0xA405: round(FOCAL_PX / WIDTH * 36)}
        Image.fromarray(picture).save(path, quality=quality, subsampling="4:2:0", exif=exif, optimize=True)
        if path.stat().st_size < 900_000:
            break
    path.with_suffix(".json").write_text(json.dumps(camera, indent=1) + "\n")


def camera_facts(position: tuple, axes: np.ndarray, width: int, height: int, k1: float = 0.0) -> dict:
    """What tests may rely on: projection, horizon row and the point where the benches meet."""
    focal = FOCAL_PX * width / WIDTH
    centre = np.array([width / 2, height / 2])
    along = axes @ np.array([0, 1.0, 0])
    point = centre + focal * along[:2] / along[2]
    return {
        "width_px": width,
        "height_px": height,
        "focal_px": float(focal),
        "centre_px": centre.tolist(),
        "position_m": list(position),
        "axes_right_down_forward": axes.tolist(),
        "eye_height_m": position[2],
        "horizon_y_px": float(point[1]),
        "benches_meet_px": point.tolist(),
        "k1": k1,
    }
