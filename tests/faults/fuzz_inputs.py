"""Good files of every kind, and what breaks them."""

from __future__ import annotations

import contextlib
import copy
import io
import json
import random
import struct
import zipfile
import zlib
from collections.abc import Callable, Iterator
from fractions import Fraction
from typing import Any

import numpy as np
import PIL.Image

from kivel.files.png.apng_write import encode_apng
from kivel.files.png.write import encode_png
from program import art

__all__ = ["IMAGES", "broken_image", "bytes_mutated", "good_png", "json_mutated", "text_mutated"]

_PNG = b"\x89PNG\r\n\x1a\n"
_ODD_INTS = (0, 1, -1, 2, 255, 256, 65535, 65536, 2**31 - 1, 2**31, 2**32 - 1, 2**63, -(2**63), 10**18, 10**19)
_ODD: tuple[Any, ...] = (
    *(*_ODD_INTS, None, True, 1.5, -0.0, 1e300, float("nan"), float("inf")),
    *("", "x", "../../x", "/etc/passwd", "a\0b", "\ud800", "\x1b[2J", "🦋" * 50, "9" * 40, "forever", "step"),
    *([], {}, [0], [0, 0], [1, 0], [0, 1], [[]], [10**17, 1]),
)


def _pillow(format: str, frames: int = 1, mode: str = "RGBA", **settings: Any) -> bytes:
    images = [PIL.Image.fromarray(art(number, width=9, height=7)).convert(mode) for number in range(frames)]
    buffer = io.BytesIO()
    more = {"save_all": True, "append_images": images[1:]} if frames > 1 else {}
    images[0].save(buffer, format, **more, **settings)
    return buffer.getvalue()


def good_png(depth: type = np.uint8, compress: Any = "small") -> bytes:
    return b"".join(encode_png(art(1, width=9, height=7, dtype=depth), compress=compress))


def _apng() -> bytes:
    frames = [art(number, width=9, height=7) for number in range(3)]
    return b"".join(encode_apng(frames, [Fraction(1, 12)] * 3, plays=0, compress="fast"))


def _ora(method: int = zipfile.ZIP_DEFLATED) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", method) as archive:
        archive.writestr("mimetype", "image/openraster")
        archive.writestr("data/a.png", good_png())
        archive.writestr("data/b.png", good_png(np.uint16))
        archive.writestr(
            "stack.xml",
            '<image w="9" h="7"><stack><layer name="b" src="data/b.png" x="1" y="-1" opacity="0.5"/><stack name="g">'
            '<layer name="a" src="data/a.png" composite-op="svg:multiply"/></stack></stack></image>',
        )
    return buffer.getvalue()


def _exr() -> bytes:
    from kivel.files.exr import encode_exr

    return encode_exr(np.random.default_rng(1).random((7, 9, 4)).astype(np.float32))


def _interlaced() -> bytes:
    import png_reference as reference

    return reference.encode([[(v, v) for v in range(9)] for _ in range(7)], 16, 4, interlaced=True)


IMAGES: dict[str, Callable[[], bytes]] = {
    "small.png": good_png,
    "deep.png": lambda: good_png(np.uint16),
    "fast.png": lambda: good_png(compress="fast"),
    "interlaced.png": _interlaced,
    "palette.png": lambda: _pillow("PNG", mode="P"),
    "grey.png": lambda: _pillow("PNG", mode="L"),
    "one.png": lambda: _pillow("PNG", mode="1"),
    "a.apng": _apng,
    "a.gif": lambda: _pillow("GIF", 3, "P", duration=70, loop=0),
    "still.gif": lambda: _pillow("GIF", mode="P"),
    "a.webp": lambda: _pillow("WEBP", 3, lossless=True, duration=50),
    "still.webp": lambda: _pillow("WEBP"),
    "a.tif": lambda: _pillow("TIFF", 2),
    "lzw.tif": lambda: _pillow("TIFF", compression="tiff_lzw"),
    "deflate.tiff": lambda: _pillow("TIFF", compression="tiff_deflate", mode="L"),
    "jpeg.tif": lambda: _pillow("TIFF", compression="jpeg", mode="RGB"),
    "a.jpg": lambda: _pillow("JPEG", mode="RGB"),
    "a.bmp": lambda: _pillow("BMP"),
    "a.tga": lambda: _pillow("TGA", compression="tga_rle"),
    "a.ora": _ora,
    "lzma.ora": lambda: _ora(zipfile.ZIP_LZMA),
    "bz.ora": lambda: _ora(zipfile.ZIP_BZIP2),
    "a.exr": _exr,
}


def bytes_mutated(data: bytes, chance: random.Random) -> bytes:
    changed = bytearray(data)
    for _ in range(chance.choice((1, 1, 1, 2, 3, 8, 30))):
        if not changed:
            return b""
        place = chance.randrange(len(changed))
        match chance.randrange(8):
            case 0:
                changed[place] ^= 1 << chance.randrange(8)
            case 1:
                changed[place] = chance.choice((0, 1, 127, 128, 255, chance.randrange(256)))
            case 2:
                size, order = chance.choice((2, 4, 8)), chance.choice("<>")
                value = chance.choice(_ODD_INTS) & (1 << 8 * size) - 1
                changed[place : place + size] = value.to_bytes(size, "little" if order == "<" else "big")
            case 3:
                del changed[place : place + chance.randrange(1, 40)]
            case 4:
                changed[place:place] = bytes(chance.randrange(256) for _ in range(chance.randrange(1, 20)))
            case 5:
                other = chance.randrange(len(changed))
                changed[place:place] = changed[other : other + chance.randrange(1, 60)]
            case 6:
                del changed[place:]
            case _:
                changed[place : place + 1] = bytes([changed[place]]) * chance.choice((2, 16, 300))
    return bytes(changed[:60_000])


def _png_chunks(data: bytes) -> list[tuple[bytes, bytes]]:
    chunks, place = [], 8
    while place + 12 <= len(data):
        length = struct.unpack(">I", data[place : place + 4])[0]
        chunks.append((data[place + 4 : place + 8], data[place + 8 : place + 8 + length]))
        place += 12 + length
    return chunks


def _png_mutated(data: bytes, chance: random.Random) -> bytes:
    """Changed within its chunks, all checksums right."""
    chunks = _png_chunks(data)
    for _ in range(chance.choice((1, 1, 2, 3))):
        place = chance.randrange(len(chunks))
        kind, content = chunks[place]
        match chance.randrange(6):
            case 0 | 1 | 2:
                chunks[place] = (kind, bytes_mutated(content, chance))
            case 3:
                chunks.insert(chance.randrange(len(chunks) + 1), (kind, content))
            case 4:
                del chunks[place]
            case _:
                new = chance.choice(
                    (b"eXIf", b"tRNS", b"PLTE", b"iCCP", b"gAMA", b"acTL", b"fcTL", b"fdAT", b"IDAT", b"zTXt")
                )
                chunks.insert(place, (new, bytes(chance.randrange(256) for _ in range(chance.choice((0, 4, 8, 26))))))
        if not chunks:
            break
    if chance.random() < 0.2:  # what is inflated changes, and the file is otherwise sound
        chunks = [(k, _redeflated(c, chance) if k == b"IDAT" else c) for k, c in chunks]
    written = (struct.pack(">I", len(c)) + k + c + struct.pack(">I", zlib.crc32(k + c)) for k, c in chunks)
    return _PNG + b"".join(written)


def _redeflated(content: bytes, chance: random.Random) -> bytes:
    try:
        return zlib.compress(bytes_mutated(zlib.decompress(content), chance))
    except zlib.error:
        return content


def _archive_mutated(data: bytes, chance: random.Random) -> bytes:
    """A sound archive of changed members."""
    buffer = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(data)) as old,
        zipfile.ZipFile(buffer, "w", old.infolist()[-1].compress_type) as new,
    ):
        wanted = chance.choice(old.namelist())
        for name in old.namelist():
            content = old.read(name)
            if name == wanted:
                content = _xml_mutated(content, chance) if name.endswith("xml") else bytes_mutated(content, chance)
            new.writestr(name, content)
    return buffer.getvalue()


def _xml_mutated(content: bytes, chance: random.Random) -> bytes:
    if chance.random() < 0.3:
        return bytes_mutated(content, chance)
    texts = content.decode().split('"')
    for _ in range(chance.choice((1, 1, 2))):
        texts[chance.randrange(len(texts) // 2) * 2 + 1] = _odd_text(chance)
    return '"'.join(texts).encode("utf-8", "surrogatepass")


def _odd(chance: random.Random) -> Any:
    """A value that is out of place; its own copy, since what is mutated again may hold it."""
    return copy.deepcopy(chance.choice(_ODD))


def _odd_text(chance: random.Random) -> str:
    value = chance.choice(_ODD)
    return value.replace('"', "") if isinstance(value, str) else str(value)


def json_mutated(content: Any, chance: random.Random) -> Any:
    """Some values replaced, left out, doubled, or moved elsewhere."""
    content = json.loads(json.dumps(content))
    for _ in range(chance.choice((1, 1, 1, 2, 3))):
        places = list(_places(content))
        if not places:
            return content
        holder, key = chance.choice(places)
        match chance.randrange(7):
            case 0 | 1 | 2:
                holder[key] = _odd(chance)
            case 3:
                del holder[key]
            case 4:
                other, other_key = chance.choice(places)
                with contextlib.suppress(LookupError):
                    holder[key] = json.loads(json.dumps(other[other_key]))
            case 5 if isinstance(holder[key], int):
                holder[key] += chance.choice((-1, 1, 10, 1000, 10**9))
            case _:
                if isinstance(holder, dict):
                    holder[_odd_text(chance)] = _odd(chance)
                else:
                    holder.insert(key, _odd(chance))
    return content


def _places(content: Any) -> Iterator[tuple[Any, Any]]:
    items = content.items() if isinstance(content, dict) else enumerate(content) if isinstance(content, list) else ()
    for key, value in list(items):
        yield content, key
        yield from _places(value)


def text_mutated(text: str, chance: random.Random) -> str:
    for _ in range(chance.choice((1, 1, 1, 2, 4))):
        place = chance.randrange(len(text) + 1)
        match chance.randrange(7):
            case 0:
                text = text[:place] + chance.choice("0123456789,.-*/:%=# \"'()x∞²٣\u202eée\n") + text[place:]
            case 1:
                text = text[:place] + text[place + 1 :]
            case 2:
                text = text[:place] + _odd_text(chance).replace("\0", "") + text[place:]
            case 3:
                text = text[:place] + text[chance.randrange(len(text) + 1) :]
            case 4:
                words = text.split()
                chance.shuffle(words)
                text = " ".join(words)
            case 5:
                text = text * 2
            case _:
                text = text.replace(
                    chance.choice("0123456789"), chance.choice(("0", "-1", "1e9", "9" * 18, "9" * 19, "0.5"))
                )
    return text


def broken_image(name: str, chance: random.Random) -> bytes:
    """One of `IMAGES`, changed within its parts or anywhere."""
    data = IMAGES[name]()
    if name.endswith(".ora") and chance.random() < 0.6:
        return _archive_mutated(data, chance)
    if data.startswith(_PNG) and chance.random() < 0.8:
        return _png_mutated(data, chance)
    return bytes_mutated(data, chance)
