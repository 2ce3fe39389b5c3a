"""Opening a video file: as one of the two families of files that Kivel takes, and as nothing else."""

from __future__ import annotations

import contextlib
import logging
from collections.abc import Iterator
from pathlib import Path
from threading import RLock
from typing import Any

from kivel.core.errors import KivelError
from kivel.files.safety import opened_file

__all__ = ["ErrorWatch", "VideoError", "family_of", "library", "opened_video", "watched"]

_BOXES = (b"ftyp", b"moov", b"mdat", b"wide", b"free", b"skip", b"pnot")
"""A file of the ISO base media family (ISO/IEC 14496-12) begins with one of these boxes."""
_EBML = b"\x1a\x45\xdf\xa3"
_LOCK = RLock()
"""Errors are counted for the whole process: one video is decoded at a time."""


class VideoError(KivelError):
    """A video cannot be read or written."""


def library() -> Any:
    """Return PyAV.

    Raises
    ------
    VideoError
        If it is not installed.
    """
    try:
        import av
        import av.logging
    except ImportError as error:
        raise VideoError("video needs an extra package: pip install 'kivel[video]'") from error
    return av


def family_of(start: bytes) -> str | None:
    """Return the name that the library has for the kind of file that begins with these bytes; None if it is no video.

    The name is always given: left alone, the library would also take a text that lists other files for a video, and
    open these.
    """
    if start[:4] == _EBML:
        return "matroska"
    return "mov" if start[4:8] in _BOXES else None


@contextlib.contextmanager
def opened_video(path: Path) -> Iterator[Any]:
    """A container with its file, both closed at the end.

    Raises
    ------
    VideoError
        If it is no video, or cannot be read.
    OutputError
        If the file cannot be opened.
    """
    av = library()
    with opened_file(path) as file:
        family = family_of(file.read(8))
        file.seek(0)
        if family is None:
            raise VideoError("not a video that Kivel can read (MP4, MOV, WebM, Matroska); check it")
        with watched():
            try:
                container = av.open(file, format=family)
            except (av.error.FFmpegError, ValueError) as error:
                raise VideoError(f"damaged or cut off ({_reason(error)}); export or copy it again") from error
        with container:
            yield container


def _reason(error: Exception) -> str:
    return str(getattr(error, "strerror", "") or error).split(";")[0]


class ErrorWatch:
    """Counts what the library finds wrong while it is at work."""

    def __init__(self) -> None:
        self._logging = library().logging
        self._before = self._count()

    def _count(self) -> int:
        return int(self._logging.get_last_error()[0])

    def found(self) -> str:
        """Return its words for whatever has gone wrong since the last time; nothing if all is well."""
        count, last = self._logging.get_last_error()
        if count == self._before:
            return ""
        self._before = count
        return str(last[2]).strip() if last else "an error"


@contextlib.contextmanager
def watched() -> Iterator[ErrorWatch]:
    """Hear of errors that the library would hide, for one video at a time, without a word on the screen."""
    av = library()
    words = logging.getLogger("libav")
    with _LOCK:
        level, propagate = av.logging.get_level(), words.propagate
        words.propagate = False
        av.logging.set_level(av.logging.ERROR)
        try:
            with av.logging.Capture():
                yield ErrorWatch()
        finally:
            av.logging.set_level(level)
            words.propagate = propagate
