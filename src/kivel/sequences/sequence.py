"""One value for a sequence: frames, maps, clips and all else that is known of them, from whatever source."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.numbering import NumberRange
from kivel.core.option_words import ContentName, Fade
from kivel.core.pixels.pixels import Pixels, Size, full_scale
from kivel.core.prepare.alpha import unmultiplied
from kivel.core.wording import first_few
from kivel.files.images import FrameSource
from kivel.files.manifest.names import SUFFIX

if TYPE_CHECKING:  # manifests are rare here, and their models slow to load
    from kivel.core.playback.clip import Clip
    from kivel.core.playback.groups import Group
    from kivel.files.manifest.model import CutFrom, Manifest, SlicedFrom
    from kivel.sequences.map_frames import MapFrames
    from kivel.sequences.reconciling.frame_edits import FrameEdit

__all__ = [
    "CutSheet",
    "FrameSequence",
    "all_fades",
    "joined",
    "require_straight",
    "shared_out",
    "shown_as",
    "straightened",
    "without_motion",
]


ALPHA = "alpha"
"""Shown in place of a map: how opaque the colour's pixels are."""


class CutSheet(NamedTuple):
    """The sheet that frames were sliced from, by a manifest in `folder`.

    `cuts` is where each was, None of one that was added since, and nothing at all where they are a part that was
    chosen; `gone` is where those were whose files are not there any more.
    """

    sliced_from: SlicedFrom
    folder: Path
    cuts: tuple[CutFrom | None, ...]
    gone: tuple[CutFrom, ...] = ()


class FrameSequence(NamedTuple):
    """The frames of one sequence, in order, and what travels with them.

    `maps` are its companion maps, a frame for each of its own. `clips` and `groups` came with it; a sequence that has
    none gets a clip where one is needed. `premultiplied` says that its colour is multiplied by alpha, `content` what
    its values mean. `notes` are what a person should know, `gaps` the numbers that are missing. `described_by` is the
    manifest that still describes it, and `extra` has that manifest's keys that this version does not know.
    `manifests` are the files that said where the frames are, `sheet` is the one that they were sliced from. `edits` is
    what was done to the frames since their manifest was written. `called` is the name of what is made of it alone,
    which a clip over it takes. `faded` says how frames were cross-faded to make some of these.
    """

    stem: str
    frames: tuple[FrameSource, ...]
    maps: tuple[MapFrames, ...] = ()
    clips: tuple[Clip, ...] = ()
    groups: tuple[Group, ...] = ()
    premultiplied: bool = False
    content: ContentName = "color"
    notes: tuple[str, ...] = ()
    gaps: tuple[NumberRange, ...] = ()
    described_by: Manifest | None = None
    extra: Mapping[str, Any] | None = None
    manifests: tuple[Path, ...] = ()
    sheet: CutSheet | None = None
    edits: tuple[FrameEdit, ...] = ()
    called: str = ""
    faded: tuple[Fade, ...] = ()

    @property
    def clip_name(self) -> str:
        """Return what a clip over all frames is called."""
        return self.called or self.stem

    def files(self) -> set[Path]:
        """Every file that it is read from."""
        own = {frame.path for frame in self.frames}
        return own.union(self.manifests, *(one.files() for one in self.maps))

    @property
    def numbers(self) -> list[int]:
        """Return what each frame is called by: the number in its file's name, else its place, from 0."""
        return [index if frame.number is None else frame.number for index, frame in enumerate(self.frames)]

    @property
    def depth(self) -> int:
        """Bits a channel: that of the deepest frame."""
        return max(frame.depth for frame in self.frames)

    @property
    def is_in_parts(self) -> bool:
        """Whether several clips have it, none of them all of it: its own end and start belong to no one clip then."""
        return len(self.clips) > 1 and all(len(clip.shown_frames) < len(self.frames) for clip in self.clips)

    def tiled(self, times: Size) -> FrameSequence:
        """The same, each frame that many times across and down."""

        def tiled(frame: FrameSource) -> FrameSource:
            load = frame.load
            size = Size(frame.size.w * times.w, frame.size.h * times.h)
            palette = frame.palette and frame.palette.moved(lambda image: np.tile(image, (times.h, times.w, 1)))
            return frame._replace(size=size, load=lambda: np.tile(load(), (times.h, times.w, 1)), palette=palette)

        def of_map(one: MapFrames) -> MapFrames:
            sizes = tuple(Size(size.w * times.w, size.h * times.h) for size in one.sizes)
            return one._replace(frames=tuple(frame and tiled(frame) for frame in one.frames), sizes=sizes)

        return self._replace(frames=tuple(map(tiled, self.frames)), maps=tuple(map(of_map, self.maps)))

    def noted(self, *notes: str) -> FrameSequence:
        """The same, with more notes."""
        return self._replace(notes=(*self.notes, *notes))


def shown_as(sequence: FrameSequence, show: str) -> FrameSequence:
    """The sequence as it is to be looked at: under `alpha` that as grey, of frames that have no such map."""
    if show != ALPHA:
        return sequence

    def as_grey(frame: FrameSource) -> FrameSource:
        load = frame.load

        def grey() -> Pixels:
            image = load()
            return np.dstack((*[image[..., 3]] * 3, np.full_like(image[..., 3], full_scale(image))))

        return frame._replace(load=grey)

    return sequence._replace(frames=tuple(as_grey(frame) for frame in sequence.frames))


def joined(parts: Sequence[FrameSequence]) -> FrameSequence:
    """Sequences as one, by the name of the first.

    Raises
    ------
    UsageError
        If the colours of some are premultiplied and those of others are not.
    """
    if len(parts) == 1:
        return parts[0]
    left = [f"{part.stem}{SUFFIX}: one of several sources, its clips are dropped" for part in parts if part.clips]
    maps = _joined_maps(parts)
    kept = {one.name for one in maps}
    left += [
        f"{part.stem}{SUFFIX}: its map {one.name} is skipped: not all sources have one of its kind and scale"
        for part in parts
        for one in part.maps
        if one.name not in kept
    ]
    return FrameSequence(
        stem=parts[0].stem,
        frames=tuple(frame for part in parts for frame in part.frames),
        maps=maps,
        premultiplied=common_alpha(parts),
        content=common_content(parts),
        notes=(*(note for part in parts for note in part.notes), *left),
        gaps=tuple(gap for part in parts for gap in part.gaps),
        faded=all_fades(parts),
        manifests=tuple(path for part in parts for path in part.manifests),
    )


def all_fades(sequences: Sequence[FrameSequence], *more: Fade) -> tuple[Fade, ...]:
    """Return every way in which frames of sequences were faded, and these."""
    return tuple(sorted({*more, *(fade for sequence in sequences for fade in sequence.faded)}))


def shared_out(sequences: Sequence[FrameSequence], maps: Sequence[MapFrames]) -> list[FrameSequence]:
    """The sequences with these maps, of all their frames, in place of their own; each has its part of every map."""
    found = []
    first = 0
    for sequence in sequences:
        own = range(first, first + len(sequence.frames))
        found.append(sequence._replace(maps=tuple(one.chosen(own) for one in maps)))
        first = own.stop
    return found


def _joined_maps(parts: Sequence[FrameSequence]) -> tuple[MapFrames, ...]:
    """The maps that all have alike."""
    maps = []
    for first in parts[0].maps:
        others = [one for part in parts[1:] for one in part.maps if one.name == first.name]
        if len(others) == len(parts) - 1 and all(one.goes_with(first) for one in others):
            maps.append(first.followed_by(others))
    return tuple(maps)


def common_content(parts: Sequence[FrameSequence]) -> ContentName:
    """Return what the values of all mean; of several kinds they are taken for colour."""
    kinds = {part.content for part in parts}
    return kinds.pop() if len(kinds) == 1 else "color"


def common_alpha(parts: Sequence[FrameSequence]) -> bool:
    """Whether all are premultiplied.

    Raises
    ------
    UsageError
        If only some are.
    """
    multiplied = [part.stem for part in parts if part.premultiplied]
    straight = [part.stem for part in parts if not part.premultiplied]
    if multiplied and straight:
        raise UsageError(
            f"colours are premultiplied in {first_few(multiplied)}, but straight in {first_few(straight)}; convert "
            "one of them with kivel prep (premultiply or unpremultiply)"
        )
    return bool(multiplied)


def require_straight(sequence: FrameSequence, what: str) -> None:
    """Refuse to mix or judge premultiplied colour as if it were straight.

    Parameters
    ----------
    what : str
        What needs straight alpha, as a part of the message: `option("mix", True)`.

    Raises
    ------
    UsageError
        If the sequence is premultiplied.
    """
    if sequence.premultiplied:
        step = option("step", "unpremultiply")
        raise UsageError(
            f"{what} needs straight alpha, but its colours are premultiplied; run kivel prep with {step} first",
            where=sequence.stem,
        )


def without_motion(sequence: FrameSequence) -> FrameSequence:
    """The sequence without maps whose vectors lead from one of its frames to another, for whatever changes these."""
    left = [one.name for one in sequence.maps if one.motion]
    if not left:
        return sequence
    kept = tuple(one for one in sequence.maps if not one.motion)
    note = f"map {first_few(left)} skipped: its vectors belong to the old order of frames"
    return sequence._replace(maps=kept, clips=tuple(map(_fading, sequence.clips))).noted(note)


def _fading(clip: Clip) -> Clip:
    """A clip that is warped, faded instead."""
    return replace(clip, interpolation="linear") if clip.interpolation == "motion" else clip


def straightened(sequence: FrameSequence) -> FrameSequence:
    """The sequence with straight colour, for whatever looks at it; what is made keeps what it has."""
    if not sequence.premultiplied:
        return sequence

    def straight(frame: FrameSource) -> FrameSource:
        load = frame.load
        return frame._replace(load=lambda: unmultiplied(load()))

    return sequence._replace(frames=tuple(straight(frame) for frame in sequence.frames), premultiplied=False)
