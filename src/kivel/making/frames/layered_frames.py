"""Sequences stacked frame by frame: what there is to write, and the clip that goes with it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

from kivel.core.contents import empty
from kivel.core.errors import option
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.blend import Layer, stacked
from kivel.core.pixels.pixels import Pixels, Size, depth_dtype
from kivel.core.pixels.stacked_maps import MappedLayer, stacked_map
from kivel.core.playback.notation import Ordered
from kivel.core.prepare.actions import Frame
from kivel.making.frames.frame_files import NewFrame
from kivel.making.sheets.pages import stored_map
from kivel.sequences.clip_parts import ClipPart, clip_parts
from kivel.sequences.clips import ClipSet, carried_clips
from kivel.sequences.map_frames import MapError, MapFrames
from kivel.sequences.pairing import map_left
from kivel.sequences.sequence import FrameSequence

__all__ = ["SequenceLayer", "StackedMaps", "layered_clips", "layered_frames", "stacked_maps", "stacks_of_clips"]


class SequenceLayer(NamedTuple):
    """A sequence, and how it is laid over others (`blend`, `opacity`, `offset`, `operator`).

    Its images are `changed` first: cut out by brightness, or made a mask. An `is_mask` says where what is below shows.
    """

    frames: FrameSequence
    values: dict[str, Any]
    changed: Callable[[Pixels], Pixels] | None = None
    is_mask: bool = False

    @property
    def covers(self) -> bool:
        """Whether it changes how much is seen of what is below it."""
        return self.values["operator"] not in ("src-over", "src-atop") or self.values["blend"] == "normal"

    def at(self, index: int) -> Layer:
        """Its layer in a frame of the stack, repeated as often as it takes."""
        image = self.frames.frames[index % len(self.frames.frames)].load()
        return Layer(self.changed(image) if self.changed else image, **self.values)


class StackedMaps(NamedTuple):
    """The companion maps of a stack: for each its map of every layer, None where that has none; and notes.

    Under `neutral` data are neutral where a layer has none.
    """

    maps: tuple[tuple[MapFrames | None, ...], ...]
    notes: tuple[str, ...]
    neutral: bool


def stacked_maps(layers: Sequence[SequenceLayer], *, neutral: bool) -> StackedMaps:
    """The maps that the stack has: those of its base, and those that layers over it bring along.

    The base needs one of its own of data; under `neutral` each layer has a neutral one where it has none.

    Raises
    ------
    MapError
        If layers have a map by one name that differs in kind or scale.
    """
    names = dict.fromkeys(one.name for layer in layers for one in layer.frames.maps)
    found: list[tuple[MapFrames | None, ...]] = []
    notes: list[str] = []
    for name in names:
        maps = [next((one for one in layer.frames.maps if one.name == name), None) for layer in layers]
        known = [one for one in maps if one]
        if any((one.content, one.parts) != (known[0].content, known[0].parts) for one in known):
            raise MapError(f"map {name} differs in kind or scale among the layers; make it the same first")
        is_light = known[0].content.kind == "color"
        if maps[0] is None and (known[0].parts > 1 or not (is_light or neutral)):
            notes.append(map_left(name, [layers[0].frames.stem]))
            continue
        if known[0].parts > 1:
            notes += _stays(known[0], layers, is_touched=len(known) > 1 or is_light)
            maps[1:] = [None] * len(layers[1:])
        found.append(tuple(maps))
    return StackedMaps(tuple(found), tuple(notes), neutral)


def _stays(base: MapFrames, layers: Sequence[SequenceLayer], *, is_touched: bool) -> list[str]:
    """A note if layers would change the map of the base, which is smaller than they are; raises if masks would."""
    if not is_touched or not any(layer.covers for layer in layers[1:]):
        return []
    if any(layer.is_mask for layer in layers[1:]):
        raise MapError(f"map {base.name} is stored smaller, and a mask cannot cut it; use full-size maps")
    return [f"map {base.name} is stored smaller: it stays as the base has it, other layers do not cover it"]


def layered_frames(
    layers: Sequence[SequenceLayer], maps: StackedMaps, count: int, *, opacity: float, linear: bool
) -> list[NewFrame]:
    """`count` frames, each sequence repeated as often as it takes; the first gives size, names and pivots."""
    return [_layered(layers, maps, index, opacity, linear) for index in range(count)]


def _layered(layers: Sequence[SequenceLayer], maps: StackedMaps, index: int, opacity: float, linear: bool) -> NewFrame:
    place = index % len(layers[0].frames.frames)
    base = layers[0].frames.frames[place]

    def load() -> Frame:
        images = [layer.at(index) for layer in layers]
        return Frame(stacked(base.size, images, opacity=opacity, linear=linear), base.pivot)

    companions = [
        (
            stored_map(next(one for one in own if one), [place]),
            _map_of(layers, own, base.size, index, neutral=maps.neutral, linear=linear),
        )
        for own in maps.maps
    ]
    return NewFrame(
        name=base.name, source=base.source, load=load, maps=companions, extra=base.extra, palette=base.palette
    )


def _map_of(
    layers: Sequence[SequenceLayer],
    maps: Sequence[MapFrames | None],
    size: Size,
    index: int,
    *,
    neutral: bool,
    linear: bool,
) -> Callable[[], Pixels]:
    """Return what loads one map of a frame of the stack."""
    known = [one for one in maps if one]
    base, content = maps[0], known[0].content
    fills = neutral and content.kind != "color"
    if base and (base.parts > 1 or (len(known) == 1 and content.kind != "color" and not fills)):
        return partial(base.load, index % len(base.frames))
    depth = max(one.depth for one in known)

    def of_layer(layer: Layer, one: MapFrames | None) -> Pixels | None:
        if one:
            return one.load(index % len(one.frames))
        return empty(content, layer.image.shape[:2], depth_dtype(depth), opaque=True) if fills else None

    def load() -> Pixels:
        pictures = [layer.at(index) for layer in layers]
        mapped = [MappedLayer(one, of_layer(one, own)) for one, own in zip(pictures, maps, strict=True)]
        return stacked_map(size, mapped, content.kind, depth=depth, linear=linear)

    return load


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
