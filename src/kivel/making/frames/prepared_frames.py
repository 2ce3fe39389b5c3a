"""Steps done on the frames of a sequence: what there is to write, and the clips that go with it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import partial
from pathlib import Path
from typing import Any

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.light import Kind
from kivel.core.pixels.pixels import Pixels
from kivel.core.playback.notation import Ordered
from kivel.core.prepare.actions import Action, Each, Frame, Measured, Order
from kivel.core.prepare.chain import Effect, MapTrack, Prepared, Shelf, prepared, prepared_map
from kivel.core.prepare.parameters import NamedFile, NamedImage
from kivel.core.prepare.steps import WrittenStep, actions_of
from kivel.files.images import FrameSource, ImageError, open_image
from kivel.files.safety import file_bytes
from kivel.files.threads import in_order
from kivel.making.frames.frame_files import NewFrame
from kivel.making.sheets.pages import stored_map
from kivel.sequences.clips import ClipSet, carried_clips
from kivel.sequences.map_frames import MapFrames
from kivel.sequences.matching import odd_sizes
from kivel.sequences.pairing import maps_left
from kivel.sequences.sequence import FrameSequence

__all__ = ["PreparedSequence", "StepChain", "chain_of", "file_loader", "prepared_sequence", "single_image"]


_MOST_BYTES = 64 << 20
"""The most bytes of a file that a step names and that is not an image."""


class StepChain(NamedTuple):
    """Holds what steps do, how many of them measure the whole sequence first, and whether colour ends up premultiplied.

    Where every pixel `stays`, companion maps remain in step: frames are chosen, or change their colour alone.
    """

    actions: tuple[Action, ...]
    passes: int
    premultiplied: bool

    @property
    def stays(self) -> bool:
        return all(isinstance(action, Order) or (isinstance(action, Each) and action.stays) for action in self.actions)

    @property
    def moves_alike(self) -> bool:
        """Whether frames of one size keep their place against each other."""
        return all(
            isinstance(action, Order) or action.alike or (isinstance(action, Each) and action.stays)
            for action in self.actions
        )

    def follows(self, map: MapFrames) -> bool:
        """Whether a map can go along: vectors of motion need frames that stay alike, smaller maps ones that stay."""
        if self.stays:
            return True
        if map.content.name == "motion" and not (self.moves_alike and len(set(map.sizes)) == 1):
            return False
        return map.parts == 1


class PreparedSequence(NamedTuple):
    """Frames whose pixels are made when they are asked for, their clips, and what a person should know.

    `effects` are what comes of each step, as far as the frames were made.
    """

    frames: tuple[NewFrame, ...]
    clips: ClipSet
    notes: tuple[str, ...]
    effects: tuple[Effect, ...]


def single_image(path: str, *, max_pixels: int) -> Pixels:
    """The pixels of an image file; raises `ImageError` if it has several frames."""
    images = open_image(Path(path), max_pixels=max_pixels)
    if len(images) > 1:
        raise ImageError(f"{len(images)} frames, expected a single image", where=path)
    return images[0].load()


def file_loader(max_pixels: int) -> Callable[[NamedFile], Any]:
    """Reads the files that steps name: images as pixels, others as bytes."""

    def load(path: NamedFile) -> Any:
        if isinstance(path, NamedImage):
            return single_image(path, max_pixels=max_pixels)
        return file_bytes(Path(path), most=_MOST_BYTES)

    return load


def chain_of(
    steps: Sequence[WrittenStep], *, kind: Kind, load_file: Callable[[NamedFile], Any], premultiplied: bool
) -> StepChain:
    """Return what the steps do to frames that are premultiplied, or not; the files that they name are read now.

    Raises
    ------
    KivelError
        If a step makes no sense, or an image cannot be read.
    """
    actions = tuple(actions_of(steps, kind=kind, load_file=load_file, premultiplied=premultiplied))
    passes = sum(isinstance(action, Measured) for action in actions)
    states = [step.kind.name == "premultiply" for step in steps if step.kind.name.endswith("premultiply")]
    return StepChain(actions, passes, states[-1] if states else premultiplied)


def prepared_sequence(
    sequence: FrameSequence, chain: StepChain, *, kind: Kind, shelf: Shelf, jobs: int, advance: Callable[[], None]
) -> PreparedSequence:
    """Do what measures, and say how the rest is to be had; `advance` is called after each frame of a pass.

    Raises
    ------
    KivelError
        What reading, and each step, finds wrong.
    """

    def run(function: Callable[[Any], Any], loads: Iterable[Any]) -> Iterator[Any]:
        for result in in_order(function, loads, jobs=jobs):
            yield result
            advance()

    loads = [partial(_loaded, frame) for frame in sequence.frames]
    names = [frame.source for frame in sequence.frames]
    going = [one for one in sequence.maps if chain.follows(one)]
    notes = maps_left([sequence._replace(maps=tuple(one for one in sequence.maps if one not in going))])
    sequence = sequence._replace(maps=tuple(going))
    tracks = [_track(one) for one in going]
    effects = tuple(Effect() for _ in chain.actions)
    items = prepared(loads, chain.actions, names=names, kind=kind, run=run, shelf=shelf, maps=tracks, effects=effects)
    clips = carried_clips(sequence, [Ordered(item.origin, item.times) for item in items])
    if chain.passes and len({frame.size for frame in sequence.frames}) > 1:
        told = f"frames differ in size: {odd_sizes(sequence.frames)}"
        notes.append(f"{told}; measurements count pixels from each frame's top left")
    kept = [_with_motion_of(one, items) for one in sequence.maps]
    made = tuple(_new_frame(sequence, number, item, kept, tracks) for number, item in enumerate(items))
    return PreparedSequence(made, clips, tuple(notes), effects)


def _track(one: MapFrames) -> MapTrack:
    return MapTrack(one.content, [partial(one.load, index) for index in range(len(one.frames))])


def _with_motion_of(one: MapFrames, items: Sequence[Prepared]) -> MapFrames:
    """A map that knows what its vectors mean for these frames."""
    return one._replace(motion=one.motion and one.motion.chosen([item.origin for item in items]))


def _new_frame(
    sequence: FrameSequence, number: int, item: Prepared, kept: Sequence[MapFrames], tracks: Sequence[MapTrack]
) -> NewFrame:
    """A frame with its maps, where pixels move moved along."""
    frame = sequence.frames[item.origin]
    maps = [
        (
            stored_map(one, [number])._replace(palette=one.palette_of(item.origin)),
            partial(one.load, item.origin) if one.parts > 1 else partial(prepared_map, item, track),
        )
        for one, track in zip(kept, tracks, strict=True)
    ]
    return NewFrame(frame.name, frame.source, item.load, maps, frame.extra, palette=frame.palette)


def _loaded(frame: FrameSource) -> Frame:
    return Frame(frame.load(), frame.pivot)
