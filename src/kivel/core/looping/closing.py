"""Closing a sequence by cross-fading its end into its start."""

from __future__ import annotations

from kivel.core.errors import UsageError
from kivel.core.resampling import Share

__all__ = ["closed"]


def closed(first: int, count: int, fade: int, total: int) -> list[tuple[Share, ...]]:
    """Return what each of `count` frames is mixed of.

    The first `fade` frames turn from those that follow the window (`first + count` and on) into the window's own, so
    that its end is followed by what it was always followed by. Mixing is premultiplied and in linear light.

    Raises
    ------
    UsageError
        If the fade is longer than the window, or than what follows it.
    """
    rest = total - first - count
    if not 0 <= fade <= count or fade > rest:
        raise UsageError(
            f"a cross-fade of {fade} frames needs a loop of at least that length and as many frames after it: "
            f"{count} frames are looped and {rest} follow"
        )
    shares = []
    for index in range(count):
        weight = (index + 1) / (fade + 1) if index < fade else 1.0
        parts = (Share(first + count + index, 1 - weight), Share(first + index, weight))
        shares.append(tuple(share for share in parts if share.weight > 1e-9))
    return shares
