"""Frames to measure with: a soft glowing burst with some grain, as effects are rendered."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import PIL.Image
from numpy.typing import NDArray

__all__ = ["write_frames", "write_grey_frames", "write_sprites"]

GRAIN = 0.028
"""Chosen so that 64 frames of 256 px make a sheet of about 3.1 MB by Pillow: typical of rendered effects."""

Field = NDArray[np.float64]


def noise(rng: np.random.Generator, side: int, blur_px: float) -> Field:
    """Smooth noise that wraps round, of mean 0 and deviation 1."""
    frequency = np.fft.fftfreq(side)
    response = np.exp(-2 * (np.pi * blur_px) ** 2 * (frequency[:, None] ** 2 + frequency**2))
    field = np.fft.ifft2(np.fft.fft2(rng.standard_normal((side, side))) * response).real
    scaled: Field = field / field.std()
    return scaled


def burst(count: int, side: int) -> list[NDArray[np.uint8]]:
    """`count` frames of (side, side, 4)."""
    rng = np.random.default_rng(1)
    large, middle, grain = (noise(rng, side, blur) for blur in (side / 16, side / 40, 1.2))
    centre = np.arange(side) + 0.5 - side / 2
    radius = np.hypot(centre[:, None], centre) / (side / 2)
    return [_frame(index, index / count, radius, large, middle, grain) for index in range(count)]


def _frame(index: int, time: float, radius: Field, large: Field, middle: Field, grain: Field) -> NDArray[np.uint8]:
    ring = np.clip(1.15 - np.abs(radius - time * 0.75) * 2.2, 0, 1)
    texture = 0.6 + 0.3 * np.roll(large, index * 3, 0) + 0.2 * np.roll(middle, -index * 5, 1)
    light = np.clip(ring * (texture + GRAIN * np.roll(grain, index * 2, 1)) * (1 - time * 0.6), 0, 1)
    image = np.empty((*light.shape, 4), np.uint8)
    image[..., 0] = np.clip(light * 1.6, 0, 1) * 255
    image[..., 1] = np.clip(light * 1.1, 0, 1) * 230
    image[..., 2] = light**2 * 200
    image[..., 3] = light * 255
    return image


def write_grey_frames(folder: Path, count: int, side: int) -> None:
    """`glow_1.png` and on: the same burst as an effect is rendered, grey on black, without alpha."""
    folder.mkdir(parents=True)
    for number, image in enumerate(burst(count, side), 1):
        PIL.Image.fromarray(image[..., [3, 3, 3]]).save(folder / f"glow_{number}.png")


def write_frames(folder: Path, count: int, side: int) -> None:
    """`burst_1.png` and on, as Pillow writes them."""
    folder.mkdir(parents=True)
    for number, image in enumerate(burst(count, side), 1):
        PIL.Image.fromarray(image).save(folder / f"burst_{number}.png")


def write_sprites(folder: Path, count: int) -> None:
    """Shaded ovals of 8 to 200 px, no two alike, transparent around."""
    folder.mkdir(parents=True)
    rng = np.random.default_rng(5)
    for number in range(count):
        width, height = (int(side) for side in rng.integers(8, 201, 2))
        y, x = np.mgrid[:height, :width]
        away = ((x + 0.5) / width * 2 - 1) ** 2 + ((y + 0.5) / height * 2 - 1) ** 2
        image = np.empty((height, width, 4), np.uint8)
        image[..., 0] = 128 + 100 * np.sin(x / (5 + number % 9) + number)
        image[..., 1] = 128 + 90 * np.cos(y / (4 + number % 7))
        image[..., 2] = number * 37 % 256
        image[..., 3] = np.clip((1 - away) * 300, 0, 255)
        image[image[..., 3] == 0] = 0
        PIL.Image.fromarray(image).save(folder / f"sprite_{number}.png")
