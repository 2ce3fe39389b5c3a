"""How large images may be: one gate for whatever is read, made, resized or padded, passed before it is allocated.

The limit is that of the piece of work which is being done, in this thread or for it; without one there is none.
"""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from contextvars import ContextVar

from kivel.core.errors import KivelError, option

__all__ = ["DEFAULT_MAX_PIXELS", "RoomError", "limited", "require_room", "require_total"]

DEFAULT_MAX_PIXELS = 16384 * 16384

_LIMIT: ContextVar[int | None] = ContextVar("most_pixels", default=None)


class RoomError(KivelError):
    """An image, or several at a time, would be larger than the limit."""


@contextlib.contextmanager
def limited(pixels: int) -> Iterator[None]:
    """Set the limit for all that is done inside, in pixels of 8-bit RGBA; deeper ones weigh what they take."""
    token = _LIMIT.set(pixels)
    try:
        yield
    finally:
        _LIMIT.reset(token)


def require_room(
    width: int,
    height: int,
    *,
    bits: int = 8,
    frames: int = 1,
    what: str = "an image would have",
    todo: str = "if that is intended",
    limit: int | None = None,
) -> None:
    """Pass the gate.

    Parameters
    ----------
    bits : int
        A channel: 8, 16 or 32. Pixels of 16 bits weigh two, float ones four.
    frames : int
        This many that are there at a time.
    what, todo : str
        How the message begins, and what comes before the option that raises the limit.
    limit : int or None
        In place of that of the work.

    Raises
    ------
    RoomError
        If it would take more than the limit.
    """
    many = f"{frames} frames of " if frames > 1 else ""
    _require(width * height * frames, bits, f"{what} {many}{width}x{height} px", todo, limit)


def require_total(pixels: int, *, bits: int = 8, what: str, limit: int | None = None) -> None:
    """Pass the gate with many images at a time, of this many pixels together; as `require_room`."""
    _require(pixels, bits, f"{what} {pixels:,} pixels together", "if that is intended", limit)


def _require(pixels: int, bits: int, what: str, todo: str, limit: int | None) -> None:
    most = _LIMIT.get() if limit is None else limit
    weight = max(1, bits // 8)
    if most is None or pixels * weight <= most:
        return
    deep = {2: " of 16 bits a channel, which count double", 4: " of float, which count fourfold"}.get(weight, "")
    raise RoomError(f"{what}{deep}, more than the limit of {most:,} pixels; {todo}, pass {option('max-pixels')}")
