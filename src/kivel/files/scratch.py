"""Frames put aside on the disk, so that a second pass need not make them again, and memory holds a few of them only."""

from __future__ import annotations

import os
import shutil
import tempfile
import threading
from collections.abc import Callable
from types import TracebackType
from typing import Self

import numpy as np

from kivel.core.prepare.actions import Frame

__all__ = ["Scratch"]

_MOST_BYTES = 2 << 30
_SHARE_OF_DISK = 4
"""One part in this many of what is free may be used."""


class Scratch:
    """A shelf for frames in one temporary file that has no name: it is gone when the program is, however it ends.

    Room is bounded; a frame for which there is none is simply not kept.
    """

    def __init__(self) -> None:
        self._file = tempfile.TemporaryFile(prefix="kivel-")  # noqa: SIM115 - closed by __exit__
        self._lock = threading.Lock()
        self._end = 0
        self._room = min(_MOST_BYTES, shutil.disk_usage(tempfile.gettempdir()).free // _SHARE_OF_DISK)

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._file.close()

    def kept(self, frame: Frame) -> Callable[[], Frame] | None:
        """Put a frame aside; a way to get it back, or None when there is no room."""
        pixels = np.ascontiguousarray(frame.image)
        with self._lock:
            start = self._end
            if start + pixels.nbytes > self._room:
                return None
            self._end += pixels.nbytes
        try:
            if os.pwrite(self._file.fileno(), pixels.data, start) != pixels.nbytes:
                return None
        except OSError:
            return None  # it is made again when it is needed
        shape, dtype, pivot = pixels.shape, pixels.dtype, frame.pivot

        def fetched() -> Frame:
            image = np.empty(shape, dtype)
            view = image.reshape(-1).view(np.uint8).data
            if os.preadv(self._file.fileno(), [view], start) != len(view):
                raise AssertionError(f"a frame put aside at {start} cannot be read back")
            return Frame(image, pivot)

        return fetched
