"""Describes what a GIF says of its frames before any is decoded (GIF89a specification, sections 17 to 26)."""

from __future__ import annotations

import struct
from collections.abc import Iterator
from typing import BinaryIO

from kivel.core.errors import KivelError
from kivel.core.pixels.pixels import Rect, Size

__all__ = ["GifError", "check_gif"]

_SCREEN = struct.Struct("<HHBBB")
_IMAGE = struct.Struct("<HHHHB")
_EXTENSION, _DESCRIPTOR, _TRAILER = b"\x21", b"\x2c", b"\x3b"


class GifError(KivelError):
    """A GIF is damaged, or no frame of it may be where it is."""


def check_gif(file: BinaryIO) -> None:
    """Refuse a frame that reaches beyond the screen: others show what was never meant, or take memory without bound.

    Raises
    ------
    GifError
        If one does, or the file ends within a block.
    """
    file.seek(6)
    screen = Size(*_SCREEN.unpack(_exactly(file, _SCREEN.size))[:2])
    for number, rect in enumerate(_rects(file)):
        if not rect.fits(screen) or min(rect.size) < 1:
            raise GifError(
                f"its frame {number} has {rect.size} px at {rect.x},{rect.y} and reaches beyond its screen of {screen} "
                "px; export it again"
            )


def _rects(file: BinaryIO) -> Iterator[Rect]:
    """Where each frame lies."""
    file.seek(10)
    _skip_table(file, _exactly(file, 1)[0])
    file.seek(2, 1)
    while (kind := file.read(1)) not in (b"", _TRAILER):
        if kind == _EXTENSION:
            file.seek(1, 1)
        elif kind == _DESCRIPTOR:
            x, y, w, h, flags = _IMAGE.unpack(_exactly(file, _IMAGE.size))
            yield Rect(x, y, w, h)
            _skip_table(file, flags)
            file.seek(1, 1)
        else:
            return  # what other readers make of rubbish behind the last frame is theirs
        _skip_blocks(file)


def _skip_table(file: BinaryIO, flags: int) -> None:
    """A colour table, if the flags say that there is one."""
    if flags & 0x80:
        file.seek(3 * 2 ** ((flags & 7) + 1), 1)


def _skip_blocks(file: BinaryIO) -> None:
    while length := file.read(1):
        if length == b"\0":
            return
        file.seek(length[0], 1)


def _exactly(file: BinaryIO, count: int) -> bytes:
    data = file.read(count)
    if len(data) < count:
        raise GifError("cut off within a frame; export or copy it again")
    return data
