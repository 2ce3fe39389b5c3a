"""KTX 2.0: textures with their levels as the graphics card takes them (Khronos, "KTX File Format Specification" 2.0).

Numbers are little-endian. Levels lie in the file from the smallest to the largest, each compressed by itself.
"""

from __future__ import annotations

import struct
from collections.abc import Sequence
from fractions import Fraction

from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Repeat
from kivel.files.formats.block_formats import ALPHA, BlockFormat, ChannelBits
from kivel.files.own_digest import BLANK_DIGEST

__all__ = ["KtxAnimation", "KtxTexture", "ktx_bytes"]

_MARK = b"\xabKTX 20\xbb\r\n\x1a\n"
_ZSTD = 2
_ZSTD_LEVEL = 3
_HEADER_BYTES = 80
_LINEAR_SAMPLE = 1 << 4
_MOST = 0xFFFFFFFF


class KtxAnimation(NamedTuple):
    """Each layer shows for `seconds`, all of them are played so often."""

    seconds: Fraction
    repeat: Repeat


class KtxTexture(NamedTuple):
    """Levels in the bytes of `form`, the largest first; without `layers` it is one image and no array."""

    form: BlockFormat
    width: int
    height: int
    layers: int | None
    levels: Sequence[bytes]
    is_color: bool
    premultiplied: bool
    animation: KtxAnimation | None = None


def ktx_bytes(texture: KtxTexture) -> bytes:
    """The file, its levels compressed by Zstandard.

    Raises
    ------
    ImportError
        Without the package `zstandard`.
    """
    import zstandard

    stored = [zstandard.ZstdCompressor(level=_ZSTD_LEVEL).compress(level) for level in texture.levels]
    description, values = _description(texture), _values(texture)
    start = _HEADER_BYTES + 24 * len(stored)
    values_at = start + len(description)
    at = values_at + len(values)
    index = {}
    for number in reversed(range(len(stored))):
        index[number] = struct.pack("<3Q", at, len(stored[number]), len(texture.levels[number]))
        at += len(stored[number])
    number = texture.form.color_number if texture.is_color else texture.form.number
    size = (
        number,
        texture.form.type_bytes,
        texture.width,
        texture.height,
        0,
        texture.layers or 0,
        1,
        len(stored),
        _ZSTD,
    )
    places = (start, len(description), values_at, len(values), 0, 0)
    header = _MARK + struct.pack("<9I", *size) + struct.pack("<4I2Q", *places)
    return b"".join([header, *(index[number] for number in range(len(stored))), description, values, *stored[::-1]])


def _description(texture: KtxTexture) -> bytes:
    """The basic descriptor block of the Khronos Data Format 1.3."""
    form = texture.form
    samples = b"".join(_sample(one, texture) for one in form.channels)
    primaries = 1 if texture.is_color else 0
    transfer = 2 if texture.is_color and form.is_srgb else 1
    block = struct.pack(
        "<IHH4B4B8B",
        0,
        2,
        24 + len(samples),
        *(form.model, primaries, transfer, int(texture.premultiplied)),
        *(form.block[0] - 1, form.block[1] - 1, 0, 0),
        *(form.block_bytes, 0, 0, 0, 0, 0, 0, 0),
    )
    return struct.pack("<I", 4 + len(block) + len(samples)) + block + samples


def _sample(one: ChannelBits, texture: KtxTexture) -> bytes:
    """Alpha is linear where the others are sRGB."""
    linear = _LINEAR_SAMPLE if texture.is_color and texture.form.is_srgb and one.channel == ALPHA else 0
    kind = one.channel | linear | one.qualifiers
    return struct.pack("<HBB4BII", one.offset, one.length - 1, kind, 0, 0, 0, 0, one.lower, one.upper)


def _values(texture: KtxTexture) -> bytes:
    """The keys in the order of their bytes, each filled up to four."""
    found = {"KTXorientation": b"rd\0", "KTXwriter": b"Kivel\0", "digest": BLANK_DIGEST.encode() + b"\0"}
    if texture.animation:
        found["KTXanimData"] = struct.pack("<3I", *_timing(texture.animation))
    packed = b""
    for key in sorted(found):
        entry = key.encode() + b"\0" + found[key]
        packed += struct.pack("<I", len(entry)) + entry + bytes(-len(entry) % 4)
    return packed


def _timing(animation: KtxAnimation) -> tuple[int, int, int]:
    """Duration of a layer, how many of its units make a second, how often; 0 is for ever."""
    over, under = animation.seconds.numerator, animation.seconds.denominator
    repeat = 0 if animation.repeat == "forever" else animation.repeat
    if max(over, under, repeat) > _MOST:
        raise AssertionError(f"{animation} is no three numbers of 32 bits")
    return over, under, repeat
