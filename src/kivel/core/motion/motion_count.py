"""Describes what this many frames, and motion or none between them, miss of a sequence, and what they take."""

from __future__ import annotations

from kivel.core.named_tuples import NamedTuple

__all__ = ["MotionCount"]


class MotionCount(NamedTuple):
    """This many `frames` kept, and the errors of what is rebuilt between them: root mean squares in 1/255.

    `faded` is that of the frames that are best where the others are faded. Memory is that of 8 bits a channel.
    """

    frames: tuple[int, ...]
    error: float
    faded: float
    bytes: int
    faded_bytes: int
