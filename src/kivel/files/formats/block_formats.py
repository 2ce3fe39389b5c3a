"""How textures keep pixels: plain, or in blocks of a fixed length, by general encoders.

Images are (H, W, 4) uint8. A block that reaches over the edge is filled up with the pixels there.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels

__all__ = ["ALPHA", "BLOCK_FORMATS", "BlockFormat", "ChannelBits"]

ALPHA = 15
"""The number of that channel in the Khronos Data Format."""
_ASTC_QUALITY = 60.0


class ChannelBits(NamedTuple):
    """A sample of the Khronos Data Format: what it is, where its bits are in a block, its range, and how it is to be
    read: `qualifiers` say whether it is float, signed, an exponent.
    """

    channel: int
    offset: int
    length: int
    upper: int = 0xFFFFFFFF
    lower: int = 0
    qualifiers: int = 0


class BlockFormat(NamedTuple):
    """A format of Vulkan, its number for data and for colour (sRGB); `model` is that of the Khronos Data Format.

    `encode` is given an image, a multiple of `block` wide and high, and whether it is colour; `decode` its bytes.
    Numbers in these have `type_bytes`.
    """

    number: int
    color_number: int
    model: int
    block: tuple[int, int]
    block_bytes: int
    channels: tuple[ChannelBits, ...]
    encode: Callable[[Pixels, bool], bytes]
    decode: Callable[[bytes, int, int], Pixels]
    keeps_alpha: bool = True
    type_bytes: int = 1

    @property
    def is_srgb(self) -> bool:
        """Whether colour is stored in sRGB; in float formats it is linear."""
        return self.color_number != self.number

    def encoded(self, image: Pixels, *, is_color: bool) -> bytes:
        return self.encode(self._whole(image), is_color)

    def decoded(self, data: bytes, width: int, height: int) -> Pixels:
        across, down = (-(-side // block) * block for side, block in zip((width, height), self.block, strict=True))
        return self.decode(data, across, down)[:height, :width]

    def _whole(self, image: Pixels) -> Pixels:
        height, width = image.shape[:2]
        across, down = self.block
        if width % across == height % down == 0:
            return np.ascontiguousarray(image)
        return np.pad(image, ((0, -height % down), (0, -width % across), (0, 0)), mode="edge")


def _plain(image: Pixels, _is_color: bool) -> bytes:
    return image.tobytes()


def _plain_back(data: bytes, width: int, height: int) -> Pixels:
    return np.frombuffer(data, np.uint8).reshape(height, width, 4)


def _by_etcpak(name: str, *more: Any) -> Callable[[Pixels, bool], bytes]:
    def encode(image: Pixels, _is_color: bool) -> bytes:
        import etcpak

        data: bytes = getattr(etcpak, name)(image.tobytes(), image.shape[1], image.shape[0], *more)
        return data

    return encode


def _by_astc(side: int) -> Callable[[Pixels, bool], bytes]:
    def encode(image: Pixels, is_color: bool) -> bytes:
        import astc_encoder

        profile = astc_encoder.ASTCProfile.LDR_SRGB if is_color else astc_encoder.ASTCProfile.LDR
        context = astc_encoder.ASTCContext(astc_encoder.ASTCConfig(profile, side, side, 1, _ASTC_QUALITY))
        given = astc_encoder.ASTCImage(astc_encoder.ASTCType.U8, image.shape[1], image.shape[0], 1, image.tobytes())
        data: bytes = context.compress(given, astc_encoder.ASTCSwizzle.from_str("RGBA"))
        return data

    return encode


def _back(name: str, *more: int) -> Callable[[bytes, int, int], Pixels]:
    def decode(data: bytes, width: int, height: int) -> Pixels:
        import texture2ddecoder

        found = getattr(texture2ddecoder, name)(data, width, height, *more)
        bgra: Pixels = np.frombuffer(found, np.uint8).reshape(height, width, 4)
        return bgra[..., [2, 1, 0, 3]]

    return decode


_PLAIN = tuple(ChannelBits(channel, 8 * place, 8, 255) for place, channel in enumerate((0, 1, 2, ALPHA)))
_WHOLE = (ChannelBits(0, 0, 128),)

BLOCK_FORMATS = {
    "rgba8": BlockFormat(37, 43, 1, (1, 1), 4, _PLAIN, _plain, _plain_back),
    "bc1": BlockFormat(
        133, 134, 128, (4, 4), 8, (ChannelBits(1, 0, 64),), _by_etcpak("compress_bc1"), _back("decode_bc1"), False
    ),
    "bc3": BlockFormat(
        137, 138, 130, (4, 4), 16, (ChannelBits(ALPHA, 0, 64), ChannelBits(0, 64, 64)),
        _by_etcpak("compress_bc3"), _back("decode_bc3"),
    ),
    "bc7": BlockFormat(145, 146, 134, (4, 4), 16, _WHOLE, _by_etcpak("compress_bc7", None), _back("decode_bc7")),
    "etc2": BlockFormat(
        151, 152, 161, (4, 4), 16, (ChannelBits(ALPHA, 0, 64), ChannelBits(2, 64, 64)),
        _by_etcpak("compress_etc2_rgba"), _back("decode_etc2a8"),
    ),
    "astc-4x4": BlockFormat(157, 158, 162, (4, 4), 16, _WHOLE, _by_astc(4), _back("decode_astc", 4, 4)),
    "astc-6x6": BlockFormat(165, 166, 162, (6, 6), 16, _WHOLE, _by_astc(6), _back("decode_astc", 6, 6)),
}  # fmt: skip
"""By the name of the option."""
