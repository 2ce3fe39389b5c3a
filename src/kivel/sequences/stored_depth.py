"""Sequences whose frames are stored with other depths than they come with."""

from __future__ import annotations

from collections.abc import Callable

from kivel.core.option_words import Depth, Dither
from kivel.core.pixels.depths import at_depth, rounded_to_half
from kivel.core.pixels.pixels import Pixels
from kivel.files.images import FrameSource
from kivel.sequences.map_frames import MapFrames
from kivel.sequences.sequence import FrameSequence

__all__ = ["with_depth"]


def with_depth(sequence: FrameSequence, depth: Depth, *, dither: Dither) -> FrameSequence:
    """The frames and their maps at a depth; vectors of motion keep theirs."""
    bits = 32 if depth == "half" else int(depth)

    def changed(image: Pixels) -> Pixels:
        return rounded_to_half(image) if depth == "half" else at_depth(image, bits, dither=dither)

    def of_map(one: MapFrames) -> MapFrames:
        if one.motion or (one.depth == 32) != (bits == 32):
            return one
        return one._replace(frames=tuple(frame and _changed(frame, changed, bits) for frame in one.frames), depth=bits)

    frames = tuple(_changed(frame, changed, bits) for frame in sequence.frames)
    return sequence._replace(frames=frames, maps=tuple(map(of_map, sequence.maps)))


def _changed(frame: FrameSource, change: Callable[[Pixels], Pixels], bits: int) -> FrameSource:
    load = frame.load
    return frame._replace(load=lambda: change(load()), depth=bits)
