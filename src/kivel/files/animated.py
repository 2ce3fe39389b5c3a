"""Writing animated images: APNG with exact delays, GIF in hundredths of a second, WebP in thousandths."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction
from io import BytesIO
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Repeat
from kivel.core.playback.clock import on_clock
from kivel.core.wording import first_few
from kivel.files.png.apng_write import LARGEST_DELAY_TERM, encode_apng

if TYPE_CHECKING:
    from PIL.Image import Image

__all__ = ["ANIMATED_SUFFIXES", "EncodedAnimation", "encode_animation"]

_GIF_TICK = Fraction(1, 100)
_WEBP_TICK = Fraction(1, 1000)
_WEBP_EFFORT = {"method": 1, "quality": 30}
"""The effort of a lossless search: a third of the usual time for files up to 2 % larger; with less they grow by a
tenth.
"""
_APNG_TICKS = (Fraction(1, 1000), Fraction(1, 100), Fraction(1, 10), Fraction(1))
_GIF_SHORTEST_TICKS = 2
_GIF_LONGEST_TICKS = 65_535
_GIF_COLOURS = 255
_OPAQUE_FROM = 128

Frames8 = Sequence[NDArray[np.uint8]]


class EncodedAnimation(NamedTuple):
    """The file, and what its format could not keep."""

    data: bytes
    notes: tuple[str, ...]


def encode_animation(
    suffix: str, frames: Frames8, holds: Sequence[Fraction], *, repeat: Repeat, jobs: int
) -> EncodedAnimation:
    """An animated image file.

    Parameters
    ----------
    suffix : ".apng", ".gif" or ".webp"
    frames : sequence of (H, W, 4) uint8 arrays
        All of one size, one for each hold.
    holds : sequence of Fraction
        Seconds.
    repeat : int or "forever"
        How often it plays; 0 shows the first frame alone.

    Raises
    ------
    UsageError
        If the format is not one of these.
    """
    if suffix not in _ENCODERS:
        raise UsageError(f"expected a name that ends in .png, {', '.join(_ENCODERS)}, found {suffix!r}")
    if repeat != "forever" and repeat > _MOST_PLAYS[suffix]:
        name, most = suffix.removeprefix(".").upper(), _MOST_PLAYS[suffix]
        raise UsageError(f"{name} cannot play {repeat:,} times, {most:,} is the most; use forever")
    if repeat == 0:
        frames, holds, repeat = frames[:1], holds[:1], 1
    return _ENCODERS[suffix](frames, holds, 0 if repeat == "forever" else repeat, jobs)


class _Clocked(NamedTuple):
    """Holds what a format that counts whole ticks can show."""

    frames: Frames8
    ticks: list[int]
    notes: list[str]


def _clocked(name: str, frames: Frames8, holds: Sequence[Fraction], tick: Fraction, *, loops: bool) -> _Clocked:
    """The frames that show for a tick at least, and what a person should know of the others."""
    clocked = on_clock(holds, tick)
    shown = [(frame, ticks) for frame, ticks in zip(frames, clocked.ticks, strict=True) if ticks]
    notes = []
    if clocked.largest_error:
        step, off = float(tick * 1000), float(clocked.largest_error * 1000)
        notes.append(f"{name} has a clock of {step:g} ms: no frame is off by more than {off:.3g} ms")
    longer = sum(clocked.ticks) * tick - sum(holds)
    if longer and loops:
        hourly = float(3600 * longer / sum(holds))
        way, change = ("late", "longer") if longer > 0 else ("early", "shorter")
        each = f"{name}: each cycle is {abs(float(longer * 1000)):.3g} ms {change}"
        notes.append(f"{each}; looped for an hour it is {abs(hourly):.3g} s {way}")
    if clocked.merged:
        places = first_few([str(place) for place in clocked.merged])
        many = "steps that are" if len(clocked.merged) > 1 else "a step that is"
        notes.append(f"{name} cannot show {many} too short; they are merged into their neighbours: {places}")
    return _Clocked([frame for frame, _ in shown], [ticks for _, ticks in shown], notes)


def _apng(frames: Frames8, holds: Sequence[Fraction], plays: int, jobs: int) -> EncodedAnimation:
    """Exact where both terms of every delay fit 16 bits, else on the finest clock that does."""
    delays = list(holds)
    notes: list[str] = []
    if any(max(hold.numerator, hold.denominator) > LARGEST_DELAY_TERM for hold in holds):
        # one clock for all delays: rounding each by itself would let errors add up
        tick = next((t for t in _APNG_TICKS if max(holds) / t <= LARGEST_DELAY_TERM), _APNG_TICKS[-1])
        frames, ticks, notes = _clocked("APNG", frames, holds, tick, loops=plays != 1)
        delays = [min(each, LARGEST_DELAY_TERM) * tick for each in ticks]
    pieces = encode_apng(frames, delays, plays=plays, compress="small", jobs=jobs)
    return EncodedAnimation(b"".join(pieces), tuple(notes))


def _gif(frames: Frames8, holds: Sequence[Fraction], plays: int, _jobs: int) -> EncodedAnimation:
    frames, ticks, notes = _clocked("GIF", frames, holds, _GIF_TICK, loops=plays != 1)
    if min(ticks) < _GIF_SHORTEST_TICKS:
        notes.append("GIF: most players show holds below 20 ms for 100 ms; APNG and WebP keep them")
    if any(((frame[..., 3] > 0) & (frame[..., 3] < 255)).any() for frame in frames):
        notes.append(f"GIF: soft alpha is cut off at one half; {option('backdrop', 'checker')} or a colour keeps it")
    if max(ticks) > _GIF_LONGEST_TICKS:
        longest = max(ticks) * _GIF_TICK
        raise UsageError(f"GIF cannot hold a frame for more than 655.35 s, found {float(longest):g} s; choose .apng")
    see_through = any((frame[..., 3] < _OPAQUE_FROM).any() for frame in frames)
    images = [_gif_image(frame, see_through=see_through) for frame in frames]
    # GIF counts how often it plays again; without the block it plays once
    loop = {} if plays == 1 else {"loop": max(0, plays - 1)}
    data = _saved(images, "GIF", duration=[each * 10 for each in ticks], disposal=2, optimize=False, **loop)
    return EncodedAnimation(data, tuple(notes))


def _gif_image(frame: NDArray[np.uint8], *, see_through: bool) -> Image:
    """At most 255 colours and one for transparent; exact if the frame has no more.

    If any frame is `see_through` all say which colour is: what a frame leaves behind is cleared to it.
    """
    import PIL.Image

    opaque = frame[..., 3] >= _OPAQUE_FROM
    # colours that nobody sees would take places in the palette
    flat = np.ascontiguousarray(np.where(opaque[..., None], frame[..., :3], 0))
    rgb = PIL.Image.fromarray(flat)
    exact = rgb.getcolors(_GIF_COLOURS)
    dither = PIL.Image.Dither.NONE if exact else PIL.Image.Dither.FLOYDSTEINBERG
    indexed = rgb.quantize(_GIF_COLOURS, PIL.Image.Quantize.MEDIANCUT, dither=dither)
    indices = np.where(opaque, np.asarray(indexed), _GIF_COLOURS).astype(np.uint8)
    image = PIL.Image.fromarray(indices, "P")
    image.putpalette(indexed.getpalette() or [])
    if see_through:
        image.info["transparency"] = _GIF_COLOURS
    return image


def _webp(frames: Frames8, holds: Sequence[Fraction], plays: int, _jobs: int) -> EncodedAnimation:
    import PIL.Image

    frames, ticks, notes = _clocked("WebP", frames, holds, _WEBP_TICK, loops=plays != 1)
    images = [PIL.Image.fromarray(np.ascontiguousarray(frame), "RGBA") for frame in frames]
    data = _saved(images, "WEBP", duration=ticks, loop=plays, lossless=True, exact=True, **_WEBP_EFFORT)
    return EncodedAnimation(data, tuple(notes))


def _saved(images: Sequence[Image], name: str, **settings: object) -> bytes:
    buffer = BytesIO()
    images[0].save(buffer, name, save_all=True, append_images=images[1:], **settings)
    return buffer.getvalue()


_ENCODERS: dict[str, Callable[[Frames8, Sequence[Fraction], int, int], EncodedAnimation]] = {
    ".apng": _apng,
    ".gif": _gif,
    ".webp": _webp,
}

_MOST_PLAYS = {".apng": 2**31 - 1, ".gif": 2**16, ".webp": 2**16 - 1}
"""GIF states how often it plays again, and so once more."""

ANIMATED_SUFFIXES = tuple(_ENCODERS)
