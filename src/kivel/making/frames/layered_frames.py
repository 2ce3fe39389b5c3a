"""Sequences stacked frame by frame: what there is to write, and the clip that goes with it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.blend import Layer, stacked
from kivel.core.pixels.pixels import Pixels, size_of
from kivel.core.playback.notation import Ordered
from kivel.core.prepare.actions import Frame
from kivel.files.page_store import StoredMap
from kivel.making.frames.frame_files import NewFrame, companions_of
from kivel.sequences.clip_parts import ClipPart, clip_parts
from kivel.sequences.clips import ClipSet, carried_clips
from kivel.sequences.sequence import FrameSequence

__all__ = ["SequenceLayer", "layered_clips", "layered_frames", "stacks_of_clips"]


class SequenceLayer(NamedTuple):
    """A sequence, and how it is laid over others (`blend`, `opacity`, `offset`, `operator`).

    Its images are `changed` first: cut out by brightness, or made a mask. An `is_mask` says where what is below shows.
    """

    frames: FrameSequence
    values: dict[str, Any]
    changed: Callable[[Pixels], Pixels] | None = None
    is_mask: bool = False

    def at(self, index: int) -> Layer:
        """Its layer in a frame of the stack, repeated as often as it takes."""
        image = self.frames.frames[index % len(self.frames.frames)].load()
        return Layer(self.changed(image) if self.changed else image, **self.values)


def layered_frames(layers: Sequence[SequenceLayer], count: int, *, opacity: float, linear: bool) -> list[NewFrame]:
    """`count` frames, each sequence repeated as often as it takes; the first gives size, names and pivots."""
    return [_layered(layers, index, opacity, linear) for index in range(count)]


def _layered(layers: Sequence[SequenceLayer], index: int, opacity: float, linear: bool) -> NewFrame:
    place = index % len(layers[0].frames.frames)
    base = layers[0].frames.frames[place]

    def load() -> Frame:
        images = [layer.at(index) for layer in layers]
        return Frame(stacked(base.size, images, opacity=opacity, linear=linear), base.pivot)

    maps = [
        (stored, _masked(stored, load_map, layers, index))
        for stored, load_map in companions_of(layers[0].frames, place)
    ]
    return NewFrame(name=base.name, source=base.source, load=load, maps=maps, extra=base.extra)


def _masked(
    stored: StoredMap, load: Callable[[], Pixels], layers: Sequence[SequenceLayer], index: int
) -> Callable[[], Pixels]:
    """A companion map that holds colour shows where the masks of the stack let it show; data stay as they are."""
    masks = [layer for layer in layers[1:] if layer.is_mask]
    if not masks or stored.content.kind != "color":
        return load
    if stored.parts != 1:
        raise UsageError(f'the map "{stored.name}" is stored smaller, and a mask cannot cut it; use full-size maps')

    def masked() -> Pixels:
        image = load()
        return stacked(size_of(image), [Layer(image), *(layer.at(index) for layer in masks)])

    return masked


def stacks_of_clips(layers: Sequence[SequenceLayer]) -> list[list[SequenceLayer]]:
    """The layers of each clip of the base by itself; all in one where they are equally long, or the base is one clip.

    Of a layer that has a clip of the same name, that is laid over it, else all of it from its start.
    """
    base, *over = layers
    if all(len(layer.frames.frames) in (1, len(base.frames.frames)) for layer in over):
        return [list(layers)]
    return [
        [base._replace(frames=part.sequence), *(layer._replace(frames=_of_clips(layer.frames, part)) for layer in over)]
        for part in clip_parts(base.frames)
    ]


def _of_clips(over: FrameSequence, part: ClipPart) -> FrameSequence:
    names = {clip.name for clip in part.clips}
    return next((one.sequence for one in clip_parts(over) if names & {clip.name for clip in one.clips}), over)


def layered_clips(layers: Sequence[SequenceLayer], count: int) -> ClipSet:
    """The timing of the longest sequence, the base's if it is one of them, repeated as often as it takes."""
    longest = max(layers, key=lambda layer: len(layer.frames.frames)).frames
    clips = carried_clips(longest, [Ordered(index % len(longest.frames)) for index in range(count)])
    uneven = [layer.frames for layer in layers if count % len(layer.frames.frames)]
    notes = [
        f"{frames.stem}: {len(frames.frames)} frames do not divide {count}: it jumps where the loop restarts; "
        f"{option('until', 'common')} avoids that"
        for frames in uneven
    ]
    return clips._replace(notes=(*clips.notes, *notes))
