"""How textures keep float pixels: half floats, a shared exponent, or HDR blocks of ASTC.

Images are (H, W, 4) float32, linear, colours multiplied by alpha as OpenEXR holds them.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels.depths import MOST_HALF
from kivel.core.pixels.pixels import Pixels
from kivel.files.formats.block_formats import ALPHA, BlockFormat, ChannelBits

__all__ = ["FLOAT_FORMATS", "shared_exponents"]

_MOST_SHARED = 65408.0
"""The largest value with a shared exponent: (2^9 - 1) / 2^9 x 2^16."""
_MANTISSA_BITS, _BIAS = 9, 15
_FLOAT, _SIGNED, _EXPONENT = 0x80, 0x40, 0x20
_ONE, _MINUS_ONE = 0x3F800000, 0xBF800000
_ASTC_QUALITY = 60.0


def shared_exponents(image: Pixels) -> NDArray[np.uint32]:
    """(H, W): red, green and blue as nine bits each and an exponent of five that they share; alpha is left out.

    Khronos Data Format Specification 1.3, "Encoding HDR values: unsigned shared exponent" (as `EXT_texture_shared_
    exponent`): values below 0 become 0, above the largest that.
    """
    colours = np.clip(image[..., :3].astype(np.float64), 0, _MOST_SHARED)
    greatest = colours.max(axis=-1)
    # frexp: greatest = m x 2^e with m from 0.5 to 1, so e - 1 is the floor of its logarithm
    logarithm = np.where(greatest > 0, np.frexp(greatest)[1] - 1, -_BIAS - 1)
    exponent = np.maximum(-_BIAS - 1, logarithm) + 1 + _BIAS
    unit = np.exp2(exponent - _BIAS - _MANTISSA_BITS)
    exponent = exponent + (np.floor(greatest / unit + 0.5) >= 1 << _MANTISSA_BITS)
    unit = np.exp2(exponent - _BIAS - _MANTISSA_BITS)
    red, green, blue = np.moveaxis(np.floor(colours / unit[..., None] + 0.5).astype(np.uint32), -1, 0)
    packed: NDArray[np.uint32] = red | green << 9 | blue << 18 | exponent.astype(np.uint32) << 27
    return packed


def _shared_back(data: bytes, width: int, height: int) -> Pixels:
    packed = np.frombuffer(data, "<u4").reshape(height, width)
    unit = np.exp2((packed >> 27).astype(np.float64) - _BIAS - _MANTISSA_BITS)
    image = np.ones((height, width, 4), np.float32)
    for channel in range(3):
        image[..., channel] = (packed >> (9 * channel) & 511) * unit
    return image


def _half(image: Pixels, _is_color: bool) -> bytes:
    return np.clip(image, -MOST_HALF, MOST_HALF).astype("<f2").tobytes()


def _half_back(data: bytes, width: int, height: int) -> Pixels:
    return np.frombuffer(data, "<f2").reshape(height, width, 4).astype(np.float32)


def _context(side: int) -> Any:
    import astc_encoder

    config = astc_encoder.ASTCConfig(astc_encoder.ASTCProfile.HDR_RGB_LDR_A, side, side, 1, _ASTC_QUALITY)
    return astc_encoder.ASTCContext(config)


def _by_astc(side: int) -> Callable[[Pixels, bool], bytes]:
    def encode(image: Pixels, _is_color: bool) -> bytes:
        import astc_encoder

        pixels = np.clip(image, 0, MOST_HALF).astype("<f2")
        given = astc_encoder.ASTCImage(astc_encoder.ASTCType.F16, image.shape[1], image.shape[0], 1, pixels.tobytes())
        data: bytes = _context(side).compress(given, astc_encoder.ASTCSwizzle.from_str("RGBA"))
        return data

    return encode


def _astc_back(side: int) -> Callable[[bytes, int, int], Pixels]:
    def decode(data: bytes, width: int, height: int) -> Pixels:
        import astc_encoder

        blank = astc_encoder.ASTCImage(astc_encoder.ASTCType.F16, width, height, 1)
        _context(side).decompress(data, blank, astc_encoder.ASTCSwizzle.from_str("RGBA"))
        return _half_back(bytes(blank.data or b""), width, height)

    return decode


def _float_bits(channel: int, offset: int, length: int) -> ChannelBits:
    return ChannelBits(channel, offset, length, _ONE, _MINUS_ONE, _FLOAT | _SIGNED)


_SHARED = tuple(
    bits
    for channel in range(3)
    for bits in (
        # one is 8448 of 512 x 32 steps: so the standard's own example has it
        ChannelBits(channel, 9 * channel, 9, 8448),
        ChannelBits(channel, 27, 5, 31, _BIAS, _EXPONENT),
    )
)

FLOAT_FORMATS = {
    "rgba16f": BlockFormat(
        97, 97, 1, (1, 1), 8, tuple(_float_bits(channel, 16 * n, 16) for n, channel in enumerate((0, 1, 2, ALPHA))),
        _half, _half_back, type_bytes=2,
    ),
    "rgb9e5": BlockFormat(
        123, 123, 1, (1, 1), 4, _SHARED, lambda image, _: shared_exponents(image).astype("<u4").tobytes(),
        _shared_back, keeps_alpha=False, type_bytes=4,
    ),
    "astc-hdr-4x4": BlockFormat(
        1000066000, 1000066000, 162, (4, 4), 16, (_float_bits(0, 0, 128),), _by_astc(4), _astc_back(4)
    ),
    "astc-hdr-6x6": BlockFormat(
        1000066004, 1000066004, 162, (6, 6), 16, (_float_bits(0, 0, 128),), _by_astc(6), _astc_back(6)
    ),
}  # fmt: skip
"""By the name of the option."""
