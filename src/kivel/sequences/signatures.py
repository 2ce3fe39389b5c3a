"""Signatures of the frames of a sequence."""

from __future__ import annotations

from collections.abc import Callable

from kivel.core.looping.signature import Signature, signatures, thumbnail
from kivel.files.threads import in_order
from kivel.sequences.sequence import FrameSequence, straightened

__all__ = ["signatures_of"]


def signatures_of(sequence: FrameSequence, *, jobs: int, advance: Callable[[], None]) -> list[Signature]:
    """A small picture of every frame, in order; each frame's pixels are let go as soon as it is made."""
    found = []
    for one in in_order(lambda frame: thumbnail(frame.load()), straightened(sequence).frames, jobs=jobs):
        found.append(one)
        advance()
    return signatures(found)
