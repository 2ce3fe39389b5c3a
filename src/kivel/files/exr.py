"""OpenEXR: half and float frames in linear light, through the `OpenEXR` package, which is an extra."""

from __future__ import annotations

import contextlib
import tempfile
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any

import numpy as np

from kivel.core.errors import KivelError
from kivel.core.pixels.bands import in_bands, row_bands
from kivel.core.pixels.pixels import Pixels, Rect, Size, associated, on_canvas
from kivel.files.safety import shown

__all__ = ["ExrError", "encode_exr", "encoded_and_back", "exr_header", "exr_pixels"]

_CHANNELS = ("R", "G", "B", "A")
_LAST_BITS = 2.0**-21
"""Says what rounding twice in 32 bits changes, as a share; half has 11 bits."""


class ExrError(KivelError):
    """An OpenEXR file cannot be read."""


def _library() -> Any:
    try:
        import OpenEXR
    except ImportError as error:
        raise ExrError("OpenEXR files need an extra package: pip install 'kivel[exr]'") from error
    return OpenEXR


@contextlib.contextmanager
def _opened(path: Path, *, header_only: bool) -> Iterator[Any]:
    """The first part of a file, with what the library raises on bad data made into one kind of error."""
    library = _library()
    try:
        file = library.File(shown(path), separate_channels=True, header_only=header_only)
        yield file.parts[0]
    except KivelError:
        raise
    except Exception as error:  # whatever its bindings make of damaged names and sizes
        raise ExrError(f"damaged or cut off OpenEXR ({error}); render it again") from error


def _windows(header: Mapping[str, Any]) -> tuple[Rect, Rect]:
    """Where the pixels are, and the picture that is meant."""
    rects = []
    for name in ("dataWindow", "displayWindow"):
        (left, top), (right, bottom) = ((int(v) for v in corner) for corner in header[name])
        rects.append(Rect(left, top, right - left + 1, bottom - top + 1))
        if right < left or bottom < top:
            raise ExrError(f"its {name} is empty; render it again")
    return rects[0], rects[1]


def exr_header(path: Path) -> tuple[Size, list[Size], str]:
    """The picture's size, every size that would be allocated, and how the pixels are stored."""
    with _opened(path, header_only=True) as part:
        data, display = _windows(part.header)
        chosen = _chosen([channel.name for channel in part.header["channels"]])
    return display.size, [data.size, display.size], f"OpenEXR {''.join(name.rpartition('.')[2] for name in chosen)}"


def _chosen(names: Sequence[str]) -> list[str]:
    """The channels of the picture: R, G, B and A, or Y and A; failing that, those of the first layer that has them."""
    layers = sorted({name.rpartition(".")[0] for name in names}, key=lambda layer: (layer != "", layer))
    for layer in layers:
        prefix = f"{layer}." if layer else ""
        for wanted in (_CHANNELS[:3], ("Y",)):
            if all(prefix + channel in names for channel in wanted):
                return [prefix + channel for channel in (*wanted, "A") if prefix + channel in names]
    raise ExrError(f"it has neither R, G and B nor Y; its channels are {', '.join(sorted(names))}")


def exr_pixels(path: Path) -> Pixels:
    """(H, W, 4) float32, linear, straight alpha: the first part, on its display window.

    OpenEXR holds colour multiplied by alpha. Colour where alpha is 0 (light without a surface) stays as it is.
    """
    with _opened(path, header_only=False) as part:
        data, display = _windows(part.header)
        names = _chosen(list(part.channels))
        planes = [np.asarray(part.channels[name].pixels, np.float32) for name in names]
    if any(plane.shape != (data.h, data.w) for plane in planes):
        raise ExrError("its channels differ in size (subsampled); render it as RGBA")
    image = np.ones((data.h, data.w, 4), np.float32)
    has_alpha = names[-1].rpartition(".")[2] == "A"
    colours = planes[:-1] if has_alpha else planes
    for channel in range(3):
        image[..., channel] = colours[channel if len(colours) == 3 else 0]
    if has_alpha:
        image[..., 3] = np.clip(planes[-1], 0, 1)
    del part, planes, colours  # as much again as the picture
    if data != display:
        image = on_canvas(image, display.size, (data.x - display.x, data.y - display.y))
    np.nan_to_num(image, copy=False, nan=0.0, posinf=65504.0, neginf=0.0)
    for rows in row_bands(*image.shape[:2]):
        image[rows] = _straightened(image[rows])
    return image


@in_bands
def _straightened(image: Pixels) -> Pixels:
    alpha = image[..., 3:]
    straight = image.copy()
    np.divide(image[..., :3], alpha, out=straight[..., :3], where=alpha > 0)
    return straight


def encoded_and_back(image: Pixels) -> tuple[bytes, Pixels]:
    """A float frame as a file, and what is read of that: multiplying and dividing by alpha rounds the last bits."""
    stored = _stored(associated(image))
    data = _encoded(stored)
    if stored.dtype != np.float32:
        stored = stored.astype(np.float32)
    for rows in row_bands(*stored.shape[:2]):
        stored[rows] = _straightened(stored[rows])
    return data, stored


def encode_exr(image: Pixels) -> bytes:
    """A float frame as a file: RGBA, ZIP compression; half where that holds every value, else 32-bit float."""
    return _encoded(_stored(associated(image)))


def _stored(image: Pixels) -> Pixels:
    """The values as half, where they are such but for the last bits that dividing by alpha and multiplying rounds."""
    half = np.empty(image.shape, np.float16)
    for rows in row_bands(*image.shape[:2]):
        with np.errstate(over="ignore"):
            half[rows] = image[rows]
        if not (np.abs(half[rows] - image[rows]) <= _LAST_BITS * np.abs(image[rows])).all():
            return image
    return half


def _encoded(stored: Pixels) -> bytes:
    library = _library()
    header = {"compression": library.ZIP_COMPRESSION, "type": library.scanlineimage}
    with tempfile.TemporaryDirectory(prefix="kivel-") as folder:
        path = Path(folder, "frame.exr")  # the library writes to names only
        library.File(header, {"RGBA": np.ascontiguousarray(stored)}).write(str(path))
        return path.read_bytes()
