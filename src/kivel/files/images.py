"""One image file as frames: how large and how deep they are, how long each shows, and their pixels when asked for."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator, Mapping
from fractions import Fraction
from functools import partial
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO

import numpy as np

from kivel.core.errors import KivelError, located
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.indexed import StoredPalette
from kivel.core.pixels.pixels import Pixels, Size, bit_depth, size_of
from kivel.core.room import require_room, require_total
from kivel.files.png.apng_read import composed_frames, frame_durations, stated_plays
from kivel.files.png.chunks import SIGNATURE
from kivel.files.png.read import Png, indices_of, parse_png, pixels_of, scan_png
from kivel.files.safety import file_bytes, opened_file, reading, shown

if TYPE_CHECKING:
    from PIL.Image import Image
    from PIL.ImageFile import ImageFile

    from kivel.core.option_words import LayerFrames
    from kivel.core.playback.clip import Repeat

__all__ = ["IMAGE_SUFFIXES", "VIDEO_SUFFIXES", "FrameSource", "ImageError", "open_image"]

IMAGE_SUFFIXES = frozenset(
    (".png", ".apng", ".gif", ".webp", ".jpg", ".jpeg", ".tga", ".bmp", ".tif", ".tiff", ".exr", ".ora")
)
VIDEO_SUFFIXES = frozenset((".mp4", ".m4v", ".mov", ".webm", ".mkv"))
"""Taken where they are named, and never as a frame among others in a folder."""

_MOST_BESIDES = 64 << 20
"""Bytes of a file that are no pixels."""

_EXR = b"\x76\x2f\x31\x01"
_ZIP = b"PK"
_BY_PILLOW = {
    "GIF": "GifImagePlugin",
    "WEBP": "WebPImagePlugin",
    "JPEG": "JpegImagePlugin",
    "BMP": "BmpImagePlugin",
    "TIFF": "TiffImagePlugin",
    "TGA": "TgaImagePlugin",
}
"""Formats, and the plugins that read them; TGA last, for nothing marks it."""
_ORIENTATION_TAG = 0x0112
_UPRIGHT: dict[int, Callable[[Pixels], Pixels]] = {
    2: lambda image: image[:, ::-1],
    3: lambda image: image[::-1, ::-1],
    4: lambda image: image[::-1],
    5: lambda image: image.swapaxes(0, 1),
    6: lambda image: np.rot90(image, -1),
    7: lambda image: image[::-1, ::-1].swapaxes(0, 1),
    8: lambda image: np.rot90(image),
}
"""By EXIF orientation (Exif 2.32, tag 274): what makes the stored image upright."""


class ImageError(KivelError):
    """A file is no image that can be read."""


class FrameSource(NamedTuple):
    """One frame that can be had.

    `source` is the file's name, with `#index` inside an animated image. `duration` is in seconds, None when the file
    states none. `pivot` is in fractions of the size. `mode` is how the file stores it (`palette 8-bit`); `load` gives
    (H, W, 4) RGBA of `depth` bits, 32 for float. `notes` are what else a person should know of the file. `repeat`
    is how often an animated image plays. `outline` is a polygon around what it shows, in its pixels. `palette` is what
    the file stores its colours by; pixels that were changed since may have others. `extra` are keys of a manifest that
    this version does not know.
    """

    name: str
    source: str
    path: Path
    size: Size
    depth: int
    mode: str
    load: Callable[[], Pixels]
    duration: Fraction | None = None
    number: int | None = None
    colour_note: str = ""
    pivot: tuple[float, float] = (0.5, 0.5)
    notes: tuple[str, ...] = ()
    repeat: Repeat | None = None
    outline: tuple[tuple[float, float], ...] | None = None
    palette: StoredPalette | None = None
    extra: Mapping[str, Any] | None = None


def open_image(path: Path, *, max_pixels: int, layers: LayerFrames | None = None) -> list[FrameSource]:
    """The frames of an image file: one, or as many as an animated or layered image has.

    Parameters
    ----------
    layers : "layers", "groups" or None
        Which parts of an OpenRaster file are frames; None takes its groups if it has any.

    Raises
    ------
    ImageError, PngError, ExrError, OpenRasterError
        If it is no image, is damaged, or states more pixels than `max_pixels` (all frames together).
    OutputError
        If the file cannot be read.
    """
    with opened_file(path) as file, reading(path):
        start = file.read(len(SIGNATURE))
        with located(shown(path)):
            if start == SIGNATURE:
                return _png_frames(path, scan_png(file), max_pixels)
            if not start:
                raise ImageError("it is empty; export or copy it again")
            if start.startswith(_EXR):
                return _exr_frames(path, max_pixels)
            if start.startswith(_ZIP) and path.suffix.lower() == ".ora":
                return _layered_frames(path, layers, max_pixels)
            if path.suffix.lower() in VIDEO_SUFFIXES:
                return _video_frames(path, max_pixels)
            return _pillow_frames(path, max_pixels)


def _check_pixels(size: Size, frames: int, max_pixels: int, bits: int = 8) -> None:
    require_room(*size, frames=frames, bits=bits, what="its header states", limit=max_pixels)


def _bytes_of(path: Path, max_pixels: int) -> bytes:
    """A file's bytes, of which there are no more than its pixels may need."""
    return file_bytes(path, most=8 * max_pixels + _MOST_BESIDES)


def _png_frames(path: Path, png: Png, max_pixels: int) -> list[FrameSource]:
    orientation = _orientation(png.exif)
    stored = png.header.size
    size = Size(stored.h, stored.w) if orientation >= 5 else stored
    depth = 16 if png.header.depth == 16 else 8
    _check_pixels(stored, 1, max_pixels, depth)

    def decoded(decode: Callable[[Png], Any]) -> Any:
        data = b"" if png.is_whole else _bytes_of(path, max_pixels)
        with located(shown(path)):
            return _upright(decode(parse_png(data) if data else png), orientation)

    palette = StoredPalette(png.colours) if png.palette else None
    if not png.is_animated:
        palette = palette and palette._replace(indices=partial(decoded, indices_of))
        still = _frame(path, size, depth, png.header.mode, partial(decoded, pixels_of), colour_note=png.colour_note)
        return [still._replace(palette=palette)]
    durations = frame_durations(png)
    _check_pixels(stored, len(durations), max_pixels, depth)
    images = [_upright(image, orientation) for image in composed_frames(parse_png(_bytes_of(path, max_pixels)))]
    plays: Repeat = stated_plays(png) or "forever"
    return [
        _frame(path, size, depth, png.header.mode, _constant(image), index, duration, png.colour_note, plays)._replace(
            palette=palette
        )
        for index, (image, duration) in enumerate(zip(images, durations, strict=True))
    ]


def _frame(
    path: Path,
    size: Size,
    depth: int,
    mode: str,
    load: Callable[[], Pixels],
    index: int | None = None,
    duration: Fraction | None = None,
    colour_note: str = "",
    repeat: Repeat | None = None,
) -> FrameSource:
    name = path.stem if index is None else f"{path.stem}_{index:04d}"
    source = path.name if index is None else f"{path.name}#{index}"
    return FrameSource(name, source, path, size, depth, mode, load, duration, None, colour_note, repeat=repeat)


def _constant(image: Pixels) -> Callable[[], Pixels]:
    return lambda: image


def _orientation(exif: bytes) -> int:
    if not exif:
        return 1
    from PIL.Image import Exif

    tags = Exif()
    try:
        tags.load(exif)
        value = tags.get(_ORIENTATION_TAG, 1)
    except Exception:  # Pillow raises anything on damaged EXIF data; the pixels are good without it
        return 1
    return value if value in _UPRIGHT else 1


def _upright(image: Pixels, orientation: int) -> Pixels:
    turn = _UPRIGHT.get(orientation)
    return np.ascontiguousarray(turn(image)) if turn else image


def _pillow_frames(path: Path, max_pixels: int) -> list[FrameSource]:
    with _opened(path) as image:
        # Pillow turns TIFF by itself, and states the size it has then
        orientation = 1 if image.format == "TIFF" else image.getexif().get(_ORIENTATION_TAG, 1)
        stored = Size(*image.size)
        # the other pictures in a photo are smaller copies of it, for cameras to show
        count = 1 if image.format == "MPO" else getattr(image, "n_frames", 1)
        size = Size(stored.h, stored.w) if orientation in (5, 6, 7, 8) else stored
        depth = 16 if image.mode.startswith("I;16") else 8
        _check_pixels(stored, count, max_pixels, depth)
        mode = f"{image.format} {image.mode}"
        note = "a colour profile" if image.info.get("icc_profile") else ""
        if count == 1:
            return [_frame(path, size, depth, mode, lambda: _still(path, orientation), colour_note=note)]
        plays = _stated_plays(image)
        frames = []
        for index in range(count):
            image.seek(index)
            # pages of a TIFF are of any size
            _check_pixels(Size(*image.size), count, max_pixels, depth)
            pixels = _upright(_rgba(image), orientation)
            own = size_of(pixels), bit_depth(pixels)
            frames.append(_frame(path, *own, mode, _constant(pixels), index, _duration(image), note, plays))
        return frames


def _exr_frames(path: Path, max_pixels: int) -> list[FrameSource]:
    from kivel.files.exr import exr_header, exr_pixels

    size, allocated, mode = exr_header(path)
    for one in allocated:
        _check_pixels(one, 1, max_pixels, 32)

    def load() -> Pixels:
        with reading(path), located(shown(path)):
            return exr_pixels(path)

    return [_frame(path, size, 32, mode, load)]


def _layered_frames(path: Path, wanted: LayerFrames | None, max_pixels: int) -> list[FrameSource]:
    from kivel.files.openraster import layered_frames

    def check(size: Size, bits: int, pixels: int) -> None:
        _check_pixels(size, 1, max_pixels, bits)
        require_total(pixels, bits=bits, what="its layers and groups have", limit=max_pixels)

    stack = layered_frames(path, wanted, check)
    frames = [
        _frame(path, stack.size, stack.depth, "OpenRaster", layer.load, index)
        for index, layer in enumerate(stack.frames)
    ]
    return [
        frame._replace(
            source=f"{path.name}#{layer.name}" if layer.name else frame.source,
            notes=(stack.note,) if stack.note else (),
        )
        for frame, layer in zip(frames, stack.frames, strict=True)
    ]


def _video_frames(path: Path, max_pixels: int) -> list[FrameSource]:
    from kivel.files.video.reading import open_frames

    video = open_frames(path, max_pixels=max_pixels)

    def located_load(load: Callable[[], Pixels]) -> Pixels:
        with reading(path), located(shown(path)):
            return load()

    return [
        _frame(path, video.size, video.depth, video.mode, partial(located_load, load), index, hold, video.colour_note)
        ._replace(notes=video.notes)
        for index, (load, hold) in enumerate(zip(video.loads, video.holds, strict=True))
    ]  # fmt: skip


@contextlib.contextmanager
def _opened(path: Path) -> Iterator[Image]:
    """An image opened by Pillow, with whatever its plugins raise on bad data made into one kind of error."""
    with opened_file(path) as file:  # given a name, Pillow maps plain TIFF into memory and garbles those it turns
        try:
            with _identified(file) as image:
                yield image
        except KivelError:
            raise
        except Exception as error:
            raise _refused(error) from error


def _identified(file: BinaryIO) -> ImageFile:
    """Return what `PIL.Image.open` finds among the formats that Kivel takes, without its limit of pixels.

    That limit is a global, and not ours to change; our own is checked before anything is decoded. And not all that
    Pillow reads: for some formats it starts other programs.
    """
    import struct

    from PIL import Image, UnidentifiedImageError

    start = file.read(16)
    if start.startswith(b"GIF8"):
        from kivel.files.gif import check_gif

        check_gif(file)
    for name, plugin in _BY_PILLOW.items():
        import_module(f"PIL.{plugin}")
        opener, accepts = Image.OPEN[name]
        with contextlib.suppress(SyntaxError, IndexError, TypeError, struct.error):  # how plugins say no
            found = accepts(start) if accepts else True
            if found and not isinstance(found, str):
                file.seek(0)
                return opener(file, "")
    raise UnidentifiedImageError


def _refused(error: Exception) -> ImageError:
    from PIL import UnidentifiedImageError

    if isinstance(error, UnidentifiedImageError):
        return ImageError(
            "not an image that Kivel can read (PNG, GIF, WebP, JPEG, TGA, BMP, TIFF, OpenEXR, OpenRaster); check it"
        )
    return ImageError(f"damaged or cut off ({error}); export it again")


def _still(path: Path, orientation: int) -> Pixels:
    with located(shown(path)), _opened(path) as image:
        return _upright(_rgba(image), orientation)


def _rgba(image: Image) -> Pixels:
    """A Pillow image as RGBA; 16-bit grey keeps its depth."""
    if image.mode.startswith("I;16"):
        grey = np.asarray(image).astype(np.uint16)
        alpha = np.full_like(grey, 65535)
        return np.stack((grey, grey, grey, alpha), axis=-1)
    if image.mode in ("I", "F"):
        raise ImageError(f"stored as {image.mode} (32 bits a sample), which Kivel does not read; save 8 or 16 bits")
    return np.asarray(image.convert("RGBA"))


def _stated_plays(image: Image) -> Repeat | None:
    """How often an animated image plays: a GIF states how often again, or nothing for once; WebP how often at all."""
    if image.format not in ("GIF", "WEBP"):
        return None
    loop: int | None = image.info.get("loop")
    if loop is None:
        return 1
    return "forever" if loop == 0 else loop + (image.format == "GIF")


def _duration(image: Image) -> Fraction | None:
    """How long the frame shows: whole milliseconds in what Pillow reads, GIF's hundredths included."""
    milliseconds = image.info.get("duration")
    return None if milliseconds is None else Fraction(milliseconds) / 1000
