"""What is wrong with a KTX 2.0 file, by the clauses of the specification; readers let most of it pass."""

from __future__ import annotations

import struct
from typing import Any, NamedTuple

import zstandard

MARK = b"\xabKTX 20\xbb\r\n\x1a\n"
# number in Vulkan: block side, bytes of a block, colour model, whether its values are sRGB
FORMATS = {
    37: (1, 4, 1, False), 43: (1, 4, 1, True), 133: (4, 8, 128, False), 134: (4, 8, 128, True),
    137: (4, 16, 130, False), 138: (4, 16, 130, True), 145: (4, 16, 134, False), 146: (4, 16, 134, True),
    151: (4, 16, 161, False), 152: (4, 16, 161, True), 157: (4, 16, 162, False), 158: (4, 16, 162, True),
    165: (6, 16, 162, False), 166: (6, 16, 162, True),
    97: (1, 8, 1, False), 123: (1, 4, 1, False), 1000066000: (4, 16, 162, False), 1000066004: (6, 16, 162, False),
}  # fmt: skip


class Ktx(NamedTuple):
    """A file taken apart: the numbers of its header, its levels as they are unpacked, its keys."""

    format: int
    width: int
    height: int
    layers: int
    levels: list[bytes]
    keys: dict[str, bytes]
    wrong: list[str]


def taken_apart(data: bytes) -> Ktx:
    form, unit, width, height, depth, layers, faces, count, packed = struct.unpack_from("<9I", data, 12)
    dfd_at, dfd_length, keys_at, keys_length, sgd_at, sgd_length = struct.unpack_from("<4I2Q", data, 48)
    side, block, model, is_srgb = FORMATS.get(form, (1, 4, 1, False))
    type_size = {97: 2, 123: 4}.get(form, 1)
    wrong = _unless(
        (data[:12] == MARK, "the mark"), (form in FORMATS, "the format"), (unit == type_size, "the type size"),
        (width > 0 and height > 0 and depth == 0, "the size"), (faces == 1, "the faces"), (packed == 2, "the packing"),
        (1 <= count <= max(width, height).bit_length(), "the number of levels"),
        (sgd_at == sgd_length == 0, "the globals"),
        (dfd_at == 80 + 24 * count, "where the description is"), (keys_at == dfd_at + dfd_length, "where the keys are"),
    )  # fmt: skip
    described = _float_description if form in FLOAT_SAMPLES else _description
    wrong += described(data[dfd_at : dfd_at + dfd_length], side, block, model, is_srgb)
    if form in FLOAT_SAMPLES:
        wrong += _unless((_samples(data[dfd_at : dfd_at + dfd_length]) == FLOAT_SAMPLES[form], "the samples"))
    keys, bad = _keys(data[keys_at : keys_at + keys_length])
    wrong += bad
    index = [struct.unpack_from("<3Q", data, 80 + 24 * level) for level in range(min(count, 32))]
    end = keys_at + keys_length
    levels: list[bytes] = []
    for level, (at, length, whole) in reversed(list(enumerate(index))):
        blocks = [-(-max(1, size >> level) // side) for size in (width, height)]
        expected = blocks[0] * blocks[1] * block * max(1, layers)
        try:
            unpacked = zstandard.ZstdDecompressor().decompress(data[at : at + length], max_output_size=1 << 26)
        except zstandard.ZstdError:
            unpacked = b""
        wrong += _unless(
            (at == end, f"level {level}: where it is"), (whole == expected, f"level {level}: its stated length"),
            (len(unpacked) == expected, f"level {level}: its real length"),
        )  # fmt: skip
        end = at + length
        levels.insert(0, unpacked)
    wrong += _unless((end == len(data), "the end of the file"))
    if "KTXanimData" in keys:
        wrong += _unless((len(keys["KTXanimData"]) == 12 and layers > 0, "the animation"))
    return Ktx(form, width, height, layers, levels, keys, wrong)


def _samples(dfd: bytes) -> list[tuple[int, ...]]:
    """Offset, length less one, channel with its qualifiers (float 128, signed 64, exponent 32), lower and upper."""
    found = [struct.unpack_from("<HBB4B2I", dfd, 28 + 16 * n) for n in range((len(dfd) - 28) // 16)]
    return [(*sample[:3], *sample[7:]) for sample in found]


_ONE, _LESS = 0x3F800000, 0xBF800000
FLOAT_SAMPLES: dict[int, list[tuple[int, ...]]] = {
    97: [(16 * n, 15, channel | 192, _LESS, _ONE) for n, channel in enumerate((0, 1, 2, 15))],
    # the example of the data format's specification for a shared exponent
    123: [
        (0, 8, 0, 0, 8448), (27, 4, 32, 15, 31), (9, 8, 1, 0, 8448), (27, 4, 33, 15, 31), (18, 8, 2, 0, 8448),
        (27, 4, 34, 15, 31),
    ],
    1000066000: [(0, 127, 192, _LESS, _ONE)], 1000066004: [(0, 127, 192, _LESS, _ONE)],
}  # fmt: skip


def _float_description(dfd: bytes, side: int, block: int, model: int, _is_srgb: bool) -> list[str]:
    found_model, primaries, transfer, flags, *texels = dfd[12:20]
    return _unless(
        ((found_model, primaries, transfer) == (model, 1, 1), "the colour model"), (flags in (0, 1), "the flags"),
        (texels == [side - 1, side - 1, 0, 0], "the block"),
        (list(dfd[20:28]) == [block, *[0] * 7], "the bytes of a block"),
    )  # fmt: skip


def _description(dfd: bytes, side: int, block: int, model: int, is_srgb: bool) -> list[str]:
    total, kind, version, size = struct.unpack_from("<2I2H", dfd)
    found_model, primaries, transfer, flags, *texels = dfd[12:20]
    samples = [struct.unpack_from("<HBB4B2I", dfd, 28 + 16 * n) for n in range((len(dfd) - 28) // 16)]
    by_model: dict[int, list[tuple[int, int, int]]] = {
        1: [(0, 7, 0), (8, 7, 1), (16, 7, 2), (24, 7, 15)], 128: [(0, 63, 1)], 130: [(0, 63, 15), (64, 63, 0)],
        134: [(0, 127, 0)], 161: [(0, 63, 15), (64, 63, 2)], 162: [(0, 127, 0)],
    }  # fmt: skip
    linear = 16 if is_srgb else 0
    expected = [(at, bits, channel | (linear if channel == 15 else 0)) for at, bits, channel in by_model[model]]
    upper = 255 if model == 1 else 0xFFFFFFFF
    return _unless(
        (total == len(dfd) and (kind, version) == (0, 2) and size == total - 4, "the description's head"),
        (found_model == model, "the colour model"), (transfer == (2 if is_srgb else 1), "the transfer function"),
        (primaries == (1 if is_srgb else 0), "the primaries"), (flags in (0, 1), "the flags"),
        (texels == [side - 1, side - 1, 0, 0], "the block"),
        (list(dfd[20:28]) == [block, *[0] * 7], "the bytes of a block"),
        ([sample[:3] for sample in samples] == expected, "the samples"),
        (all(sample[3:] == (0, 0, 0, 0, 0, upper) for sample in samples), "the samples' ranges"),
    )  # fmt: skip


def _keys(data: bytes) -> tuple[dict[str, bytes], list[str]]:
    found: dict[str, bytes] = {}
    wrong = []
    while data:
        (length,) = struct.unpack_from("<I", data)
        key, separator, value = data[4 : 4 + length].partition(b"\0")
        padded = -(-length // 4) * 4
        wrong += _unless(
            (separator != b"" and key.decode() not in found, "a key"),
            (data[4 + length : 4 + padded] == bytes(padded - length), "what fills a key up"),
        )  # fmt: skip
        found[key.decode()] = value
        data = data[4 + padded :]
    in_order = list(found) == sorted(found)
    return found, wrong + _unless((in_order, "the order of the keys"), (found.get("KTXorientation") == b"rd\0", "up"))


def _unless(*clauses: tuple[Any, str]) -> list[str]:
    return [what for holds, what in clauses if not holds]
