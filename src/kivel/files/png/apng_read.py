"""Reading APNG: the chunks acTL, fcTL and fdAT (PNG specification, third edition, section 11.3.6)."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Iterator
from fractions import Fraction

import numpy as np

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, Rect, Size, full_scale
from kivel.files.png.chunks import Buffer, PngError, chunk
from kivel.files.png.read import Png, decode_image

__all__ = ["FCTL", "KEEP", "SOURCE", "composed_frames", "frame_durations", "stated_plays"]

ACTL = struct.Struct(">II")
FCTL = struct.Struct(">IIIIIHHBB")
KEEP, _CLEAR, _RESTORE = 0, 1, 2
SOURCE, _OVER = 0, 1


class _FrameControl(NamedTuple):
    """fcTL without its sequence number; the delay in seconds."""

    rect: Rect
    delay: Fraction
    dispose: int
    blend: int


def _check_order(png: Png) -> None:
    """Raise `PngError` unless acTL, fcTL and fdAT are as many as stated, and are where and in the order they must."""
    kinds = [item.kind for item in png.animation]
    if kinds.count(b"acTL") > 1 or kinds[0] != b"acTL":
        raise PngError("its acTL chunk appears twice or too late; export it again")
    stated, controls = ACTL.unpack(_actl(png))[0], kinds.count(b"fcTL")
    if stated != controls:
        raise PngError(f"its acTL chunk states {stated} frames, there are {controls}; export it again")
    first = kinds.index(b"IDAT")
    if kinds[1:first] not in ([], [b"fcTL"]):
        raise PngError("before its image data there is more than one fcTL chunk; export it again")
    for place, item in enumerate(item for item in png.animation if item.kind in (b"fcTL", b"fdAT")):
        number = int.from_bytes(item.data[:4], "big")
        if number != place or len(item.data) < 4:
            raise PngError(
                f"its {item.kind.decode()} chunk number {place} is numbered {number}: frames are missing, or out of "
                "order; export it again"
            )


def _actl(png: Png) -> Buffer:
    data = next(item.data for item in png.animation if item.kind == b"acTL")
    if len(data) != ACTL.size:
        raise PngError(f"acTL has {len(data)} bytes instead of {ACTL.size}; export it again")
    return data


def _controls(png: Png) -> list[_FrameControl]:
    controls = [_parse_control(item.data, png.header.size) for item in png.animation if item.kind == b"fcTL"]
    if not controls:
        raise PngError("an animation without frames; export it again")
    if _begins_with_still(png) and controls[0].rect.size != png.header.size:
        raise PngError(
            f"its first frame is the still image and has {controls[0].rect.size} px where that has "
            f"{png.header.size}; export it again"
        )
    return controls


def _begins_with_still(png: Png) -> bool:
    kinds = [item.kind for item in png.animation]
    return kinds.index(b"fcTL") < kinds.index(b"IDAT")


def _parse_control(data: Buffer, canvas: Size) -> _FrameControl:
    if len(data) != FCTL.size:
        raise PngError(f"fcTL has {len(data)} bytes instead of {FCTL.size}; export it again")
    _, width, height, x, y, numerator, denominator, dispose, blend = FCTL.unpack(data)
    rect = Rect(x, y, width, height)
    if min(width, height) < 1 or not rect.fits(canvas) or dispose > _RESTORE or blend > _OVER:
        raise PngError(f"a frame of {rect.size} px at ({x}, {y}) is not allowed in {canvas} px; export it again")
    return _FrameControl(rect, Fraction(numerator, denominator or 100), dispose, blend)


def stated_plays(png: Png) -> int:
    """How often the animation plays, 0 for forever; raises `PngError`."""
    plays: int = ACTL.unpack(_actl(png))[1]
    return plays


def frame_durations(png: Png) -> list[Fraction]:
    """The delay of every frame in seconds, exactly as stated; raises `PngError`."""
    return [control.delay for control in _controls(png)]


def composed_frames(png: Png) -> Iterator[Pixels]:
    """Every frame as it is shown, (H, W, 4), after disposing of the one before and blending.

    Raises
    ------
    PngError
        If a frame is damaged or lies outside the canvas, or chunks are missing, twice or out of order.
    """
    _check_order(png)
    canvas: Pixels | None = None
    for control, data in zip(_controls(png), _frame_data(png), strict=True):
        header = png.header._replace(width=control.rect.w, height=control.rect.h)
        part = decode_image(png, header, data)
        if canvas is None:
            canvas = np.zeros((png.header.height, png.header.width, 4), part.dtype)
        shown = canvas.copy()
        place = control.rect.of(shown)
        place[:] = part if control.blend == SOURCE else _over(part, place)
        yield shown
        if control.dispose == KEEP:
            canvas = shown
        elif control.dispose == _CLEAR:
            canvas = shown.copy()
            control.rect.of(canvas)[:] = 0


def _frame_data(png: Png) -> Iterator[list[bytes]]:
    """For each fcTL its image data, as whole IDAT chunks."""
    groups: list[list[bytes]] = []
    for item in png.animation:
        if item.kind == b"fcTL":
            groups.append([])
        elif item.kind == b"fdAT" and groups:
            if zlib.crc32(item.whole[4:-4]) != int.from_bytes(item.whole[-4:], "big"):
                raise PngError("damaged: the checksum of an fdAT chunk is wrong; export it again")
            groups[-1].append(chunk(b"IDAT", bytes(item.data[4:])))
        elif item.kind == b"IDAT" and groups:
            groups[-1].append(bytes(item.whole))
    if not all(groups):
        raise PngError("an animation frame has no image data; export it again")
    yield from groups


def _over(part: Pixels, below: Pixels) -> Pixels:
    """Porter and Duff's source over destination, on straight alpha, rounded to the nearest value."""
    full = full_scale(part)
    top = part.astype(np.float64)
    bottom = below.astype(np.float64)
    alpha = top[..., 3:] + bottom[..., 3:] * (full - top[..., 3:]) / full
    weight = np.divide(top[..., 3:], alpha, out=np.zeros_like(alpha), where=alpha > 0)
    blended = np.concatenate((bottom[..., :3] + (top[..., :3] - bottom[..., :3]) * weight, alpha), axis=-1)
    return np.rint(blended).astype(part.dtype)
