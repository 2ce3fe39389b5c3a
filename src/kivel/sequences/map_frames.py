"""One map of a layout: its frames, of its own depth and size, in step with the colour's."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from kivel.core.contents import CONTENTS, Content, empty
from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Align, ContentName
from kivel.core.pixels.indexed import StoredPalette, agreed_palette
from kivel.core.pixels.pixels import Pixels, Size, aligned_offset, in_canvas, size_of, widened
from kivel.core.pixels.scaling import scaled
from kivel.files.images import FrameSource
from kivel.files.manifest.names import COLOR

if TYPE_CHECKING:
    from kivel.core.motion.motion_codes import MotionReach
    from kivel.core.motion.pairs import MotionPairs
    from kivel.core.pixels.scaling import Filter

__all__ = ["MapError", "MapFrames", "base_map", "common_depth"]

_DTYPES = {8: "uint8", 16: "uint16", 32: "float32"}


class MapError(KivelError):
    """A map is out of step with the colour map."""


class MapFrames(NamedTuple):
    """One map of a layout: a frame for each of the colour map's, None where it is missing and neutral instead.

    Its sides are one part of this many `parts` of the colour map's. `motion` says what the vectors of a motion map
    mean.
    """

    name: str
    content: Content
    frames: tuple[FrameSource | None, ...]
    sizes: tuple[Size, ...]
    depth: int
    parts: int = 1
    filter: Filter | None = None
    motion: MotionPairs | None = None

    def files(self) -> set[Path]:
        """Every file that its frames are read from."""
        return {frame.path for frame in self.frames if frame}

    def resized(self, sizes: Sequence[Size], filter: Filter | None) -> MapFrames:
        """The same map for colour frames of other sizes; without a filter, `box` shrinks and `lanczos` enlarges.

        Raises
        ------
        MapError
            If they do not divide.
        """
        for size in sizes:
            if size.w % self.parts or size.h % self.parts:
                raise MapError(f"map {self.name}: frames scaled to {size} px do not divide by {self.parts}")
        divided = tuple(Size(size.w // self.parts, size.h // self.parts) for size in sizes)
        motion = self.motion
        if motion:
            across, down = divided[0].w / self.sizes[0].w, divided[0].h / self.sizes[0].h
            motion = motion._replace(reach=motion.reach.scaled(across, down))
        return self._replace(sizes=divided, filter=filter, motion=motion)

    def goes_with(self, other: MapFrames) -> bool:
        """Whether both can be one map: of one kind and scale, and of whole numbers or float both."""
        tile = self.motion and self.motion.wraps, other.motion and other.motion.wraps
        alike = (self.content, self.parts, self.depth == 32) == (other.content, other.parts, other.depth == 32)
        return alike and tile[0] == tile[1]

    def followed_by(self, others: Sequence[MapFrames]) -> MapFrames:
        """The same map, with the frames of more sequences; they go with it."""
        from kivel.core.motion.pairs import joined_motion

        every = [self, *others]
        motion = joined_motion((one.motion, len(one.frames)) for one in every)
        if motion:
            every = [one.reaching(motion.reach) for one in every]
        return self._replace(
            motion=motion,
            frames=tuple(frame for one in every for frame in one.frames),
            sizes=tuple(size for one in every for size in one.sizes),
            depth=max(one.depth for one in every),
        )

    def chosen(self, indexes: Sequence[int]) -> MapFrames:
        """The same map of some frames."""
        return self._replace(
            frames=tuple(self.frames[index] for index in indexes),
            sizes=tuple(self.sizes[index] for index in indexes),
            motion=self.motion and self.motion.chosen(indexes),
        )

    def reaching(self, reach: MotionReach) -> MapFrames:
        """The same motion, stored by another reach."""
        if self.motion is None or self.motion.reach == reach:
            return self
        from kivel.core.motion.motion_codes import recoded

        old = self.motion.reach

        def renewed(frame: FrameSource) -> FrameSource:
            load = frame.load
            return frame._replace(load=lambda: recoded(load(), old, reach))

        frames = tuple(frame and renewed(frame) for frame in self.frames)
        return self._replace(frames=frames, motion=self.motion._replace(reach=reach))

    def padded(self, canvas: Size, align: Align) -> MapFrames:
        """The same map where the colour's frames are aligned on a larger canvas; around them it is neutral.

        Raises
        ------
        MapError
            If the canvas, or where a frame lies on it, does not divide.
        """
        if canvas.w % self.parts or canvas.h % self.parts:
            raise MapError(f"map {self.name}: frames padded to {canvas} px do not divide by {self.parts}")
        room = Size(canvas.w // self.parts, canvas.h // self.parts)
        frames = tuple(
            frame and self._on_canvas(frame, size, room, align)
            for frame, size in zip(self.frames, self.sizes, strict=True)
        )
        return self._replace(frames=frames, sizes=(room,) * len(frames))

    def _on_canvas(self, frame: FrameSource, size: Size, canvas: Size, align: Align) -> FrameSource:
        offset = aligned_offset(size, canvas, align)

        def load() -> Pixels:
            if self.motion:  # vectors go on beyond what is there: between them and none there would be a cut
                (x, y), image = offset, frame.load()
                around = ((y, canvas.h - y - size.h), (x, canvas.w - x - size.w), (0, 0))
                return np.pad(image, around, mode="edge")
            return in_canvas(frame.load(), canvas, offset)

        palette = frame.palette and frame.palette.moved(lambda image: in_canvas(image, canvas, offset))
        return frame._replace(size=canvas, load=load, palette=palette)

    def palette(self) -> StoredPalette | None:
        """Return the palette that all its frames have, if they have one; where they differ, their pixels are read."""
        return agreed_palette([frame and frame.palette for frame in self.frames])

    def palette_of(self, index: int) -> StoredPalette | None:
        """Return the palette of one frame."""
        frame = self.frames[index]
        return frame and frame.palette

    def indices(self) -> MapFrames:
        """The same places, with the indices of a palette in all channels in place of colours; 0 where none are known.

        Frames that are scaled have none.
        """

        def index(frame: FrameSource | None, size: Size) -> FrameSource | None:
            known = frame and frame.palette and frame.size == size and frame.palette.indices
            if frame is None or not known:
                return None

            def load() -> Pixels:
                indices = known()
                fits = indices.shape == (size.h, size.w)  # those of pixels that were changed since may not
                return np.repeat((indices if fits else np.zeros((size.h, size.w), np.uint8))[..., None], 4, axis=2)

            return frame._replace(load=load)

        frames = tuple(map(index, self.frames, self.sizes))
        return self._replace(name=f"{self.name} indices", content=CONTENTS["mask"], frames=frames, depth=8)

    @property
    def dtype(self) -> str:
        return _DTYPES[self.depth]

    def load(self, index: int) -> Pixels:
        """A frame's pixels, at this map's own depth and size."""
        frame, size = self.frames[index], self.sizes[index]
        if frame is None:
            opaque = not all(other is None for other in self.frames)
            return empty(self.content, (size.h, size.w), self.dtype, opaque=opaque)
        image = widened(frame.load(), self.depth)
        shrinks = image.shape[1] >= size.w and image.shape[0] >= size.h
        if size_of(image) == size:
            return image

        how: Filter = self.filter or ("box" if shrinks else "lanczos")
        return scaled(image, size, filter=how, kind=self.content.kind)


def base_map(frames: Sequence[FrameSource], content: ContentName = "color") -> MapFrames:
    """The colour map itself, and what its values mean."""
    depth = common_depth(frames, COLOR)
    return MapFrames(COLOR, CONTENTS[content], tuple(frames), tuple(frame.size for frame in frames), depth)


def common_depth(frames: Sequence[FrameSource], name: str) -> int:
    """That of the deepest frame; raises `MapError` if float and whole numbers mix."""
    depths = {frame.depth for frame in frames} or {8}
    if 32 in depths and len(depths) > 1:
        raise MapError(f"map {name} has float and other frames; name the sheet .png to store all as 8 bits")
    return max(depths)
