"""Palettes in files of their own: the palette or the colours of an image, or lines of #RRGGBB or #RRGGBBAA."""

from __future__ import annotations

import re
from pathlib import Path

from kivel.core.errors import KivelError
from kivel.core.pixels.indexed import MOST_COLOURS, StoredPalette
from kivel.core.pixels.pixels import bit_depth
from kivel.files.images import IMAGE_SUFFIXES, open_image
from kivel.files.safety import file_bytes, shown

__all__ = ["PaletteError", "read_palette"]

_MOST_BYTES = 64 << 10
_LINE = re.compile(r"#([0-9a-fA-F]{6})([0-9a-fA-F]{2})?")


class PaletteError(KivelError):
    """A file is no palette."""


def read_palette(path: Path, *, max_pixels: int) -> StoredPalette:
    """The colours that a file names, in its order, at most 256.

    An image with a palette gives that; another one its colours, row by row, each once. A text has a colour a line;
    empty lines, and those that begin with // or ;, count for nothing.

    Raises
    ------
    PaletteError
        If it has no colours, more than 256, or a line that is none.
    ImageError, PngError, OutputError
        If it cannot be read.
    """
    colours = _of_image(path, max_pixels) if path.suffix.lower() in IMAGE_SUFFIXES else _of_text(path)
    count = len(colours) // 4
    if not 1 <= count <= MOST_COLOURS:
        found = f"more than {MOST_COLOURS} colours" if count else "no colours"
        raise PaletteError(f"{found}; a palette has 1 to {MOST_COLOURS}", where=shown(path))
    return StoredPalette(colours)


def _of_image(path: Path, max_pixels: int) -> bytes:
    frame = open_image(path, max_pixels=max_pixels)[0]
    if frame.palette:
        return frame.palette.colours
    image = frame.load()
    if bit_depth(image) != 8:
        raise PaletteError(f"{bit_depth(image)} bits a channel; a palette has 8", where=shown(path))
    known: dict[bytes, None] = {}
    for row in image:
        known.update(dict.fromkeys(colour.tobytes() for colour in row))
        if len(known) > MOST_COLOURS:
            break
    return b"".join(known)


def _of_text(path: Path) -> bytes:
    text = file_bytes(path, most=_MOST_BYTES).decode("utf-8-sig", "replace")
    colours = b""
    for number, line in enumerate(text.splitlines(), 1):
        word = line.strip()
        if not word or word.startswith(("//", ";")):
            continue
        match = _LINE.fullmatch(word)
        if not match:
            raise PaletteError(
                f"{word[:40]!r} is no colour; write #RRGGBB or #RRGGBBAA, one a line", where=f"{shown(path)}:{number}"
            )
        colours += bytes.fromhex(match[1] + (match[2] or "ff"))
    return colours
