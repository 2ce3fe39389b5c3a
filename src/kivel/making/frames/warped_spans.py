"""Frames that are mixed of two: warped into each other where that is better than fading, their maps along with them."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

import numpy as np

from kivel.core.motion.blind_motion import ALWAYS_TRUSTED, blind_motion, distrust
from kivel.core.motion.motion_blend import warped_frames
from kivel.core.motion.motion_codes import decoded
from kivel.core.motion.warping import Vectors, halved
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.bands import row_bands
from kivel.core.pixels.light import Kind, Light, to_light
from kivel.core.pixels.pixels import Pixels
from kivel.core.resampling import Span, mixed
from kivel.sequences.between_frames import motion_map
from kivel.sequences.map_frames import MapFrames
from kivel.sequences.sequence import FrameSequence

__all__ = ["WarpedSpan"]


_LARGEST = 2048
"""Pixels a side. Motion is smooth, and at 6000 pixels its estimate would take 7 GB."""


class _Small(NamedTuple):
    """An image's light, at one part of this many of its size."""

    light: Light
    parts: int


class WarpedSpan:
    """Holds what a span of a sequence is made of; the motion is found once, when it is first asked for.

    It is that of the sequence's own map where this leads from one frame to the other, else an estimate by these frames
    and their neighbours; what that is not to be trusted with is faded.
    """

    def __init__(self, frames: FrameSequence, span: Span, kind: Kind) -> None:
        self._frames, self._span, self._kind = frames, span, kind
        self.vectors = cache(self._found)

    def color(self) -> Pixels:
        return self._between(self._load, self._kind)

    def of_map(self, one: MapFrames) -> Pixels:
        """The same of a companion map, of its own size."""
        return self._between(one.load, one.content.kind, parts=one.parts)

    def _load(self, index: int) -> Pixels:
        return self._frames.frames[index].load()

    def _between(self, load: Callable[[int], Pixels], kind: Kind, parts: int = 1) -> Pixels:
        vectors = self.vectors() if len(self._span.shares) == 2 else None
        if vectors is None:
            return mixed(self._span.shares, load, kind=kind)
        first, second = self._span.shares
        earlier, later = load(first.frame), load(second.frame)
        return warped_frames(earlier, later, vectors / np.float32(parts), second.weight, kind=kind)

    def _found(self) -> Vectors | None:
        """From the first frame of the span to the second, in pixels of the frames; None where they are to be faded."""
        first, second = (share.frame for share in self._span.shares)
        known = motion_map(self._frames.maps)
        way = known.motion.way(first, second) if known and known.motion else None
        if known and known.motion and way:
            field = decoded(known.load(first if way == "forward" else second), known.motion.reach)
            return field if way == "forward" else -field
        earlier, later = (self._small_light(index) for index in (first, second))
        vectors = blind_motion(earlier.light, later.light)
        trusted = distrust(earlier.light, later.light, vectors) <= ALWAYS_TRUSTED
        return vectors * np.float32(earlier.parts) if trusted else None

    def _small_light(self, index: int) -> _Small:
        """A frame's light at a size that motion is estimated at."""
        image = self._load(index)
        height, width = image.shape[:2]
        if max(height, width) <= _LARGEST:
            return _Small(to_light(image, self._kind), 1)
        light, parts = np.empty((4, (height + 1) // 2, (width + 1) // 2), np.float32), 2
        for rows in row_bands(height, width, multiple=2):
            light[:, rows.start // 2 : (rows.stop + 1) // 2] = halved(to_light(image[rows], self._kind))
        while max(light.shape[1:]) > _LARGEST:
            light, parts = halved(light), 2 * parts
        return _Small(light, parts)
