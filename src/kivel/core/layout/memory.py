"""Describes what a page takes in a graphics processor's memory.

Block sizes: Khronos Data Format Specification 1.3, for BC1, BC7, ETC2 and ASTC.
"""

from __future__ import annotations

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Size

__all__ = ["FORMATS", "TextureFormat", "texture_bytes"]


class TextureFormat(NamedTuple):
    """Blocks of texels, and the bytes that each takes."""

    block: Size
    bytes: int


FORMATS = {
    "RGBA8": TextureFormat(Size(1, 1), 4),
    "BC1": TextureFormat(Size(4, 4), 8),
    "BC7": TextureFormat(Size(4, 4), 16),
    "ETC2 RGBA": TextureFormat(Size(4, 4), 16),
    "ASTC 6x6": TextureFormat(Size(6, 6), 16),
}


def texture_bytes(size: Size, format: TextureFormat, *, mips: bool = False) -> int:
    """Bytes of a page; with all its mip levels down to a single texel, each half as long, rounded down.

    >>> texture_bytes(Size(1024, 1024), FORMATS["BC1"])
    524288
    >>> texture_bytes(Size(4, 2), FORMATS["RGBA8"], mips=True)
    44
    """
    total = 0
    while True:
        total += -(-size.w // format.block.w) * -(-size.h // format.block.h) * format.bytes
        if not mips or max(size) == 1:
            return total
        size = Size(max(1, size.w // 2), max(1, size.h // 2))
