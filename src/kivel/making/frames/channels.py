"""Sequences whose channels come from several others."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import partial
from typing import TYPE_CHECKING

from kivel.core.channel_packing import OWN_CHANNELS, ChannelOf, joined_channels
from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.notation import Ordered
from kivel.core.prepare.actions import Frame
from kivel.core.wording import counted
from kivel.making.frames.frame_files import NewFrame, NewFrames, write_frames
from kivel.making.options.channels_options import ChannelsOptions
from kivel.sequences.clips import carried_clips, stated_holds
from kivel.sequences.opening import open_sources
from kivel.sequences.pairing import maps_left
from kivel.sequences.sequence import FrameSequence, all_fades, require_straight

if TYPE_CHECKING:
    from kivel.core.option_words import ContentName
    from kivel.core.pixels.pixels import Pixels
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.work import Work

__all__ = ["ChannelsMade", "make_channels"]


class ChannelsMade(NamedTuple):
    """Frames with joined channels: files with what became of each, the manifest; `images` by name if not written.

    `kind` is what their values mean.
    """

    files: tuple[Written, ...]
    manifest: Manifest
    kind: ContentName
    notes: tuple[str, ...]
    images: dict[str, Pixels]


def make_channels(options: ChannelsOptions, work: Work) -> ChannelsMade:
    """Join channels.

    Raises
    ------
    KivelError
        If sources differ in their number of frames, their sizes, or float and other depths; or what reading them and
        the disk do not allow. Nothing is written then.
    """
    channels = options.channels()
    settings = options.source_settings(work, keep_float=True, with_maps=True)
    sources = {one.source: open_sources([one.source], settings) for one in channels if one.source}
    for sequence in sources.values():
        require_straight(sequence, "joining channels")
    work.hear(*sources.values())
    base = max(sources.values(), key=lambda sequence: len(sequence.frames))
    bits = _require_alike(sources, base)
    kind = options.as_ or _kind_of(channels, sources)
    clips = carried_clips(base, [Ordered(index) for index in range(len(base.frames))])
    work.note(*maps_left(list(sources.values())), *_timing_notes(sources, base), *clips.notes)
    if kind == "mask" and options.as_ is None:
        work.note(f"values are data (mask), each channel by itself; {option('as', 'color')} takes them for a picture")
    new = NewFrames(
        stem=base.stem,
        frames=[
            NewFrame(
                name=frame.name, source=frame.source, load=partial(_joined, channels, sources, index, bits, frame.pivot)
            )
            for index, frame in enumerate(base.frames)
        ],
        clips=clips,
        sources={path for sequence in sources.values() for path in sequence.files()},
        kind=kind,
        extra=base.extra,
        has_clips=bool(base.clips),
        faded=all_fades(list(sources.values())),
    )
    folder = write_frames(options, work, new, command="channels")
    alpha = channels[3]
    if alpha.source and alpha.channel == "alpha" and all(page.alpha == "opaque" for page in folder.manifest.pages):
        work.note(
            f"{alpha.source} is opaque everywhere; {option('alpha', f'{alpha.source}:brightness')} takes its light"
        )
    return ChannelsMade(folder.files, folder.manifest, kind, tuple(work.notes), folder.images)


def _joined(
    channels: Sequence[ChannelOf],
    sources: Mapping[str, FrameSequence],
    index: int,
    bits: int,
    pivot: tuple[float, float],
) -> Frame:
    pictures = {}
    for name, sequence in sources.items():
        pictures[name] = sequence.frames[index % len(sequence.frames)].load()
    parts = [pictures[one.source] if one.source else one.value for one in channels]
    return Frame(joined_channels(parts, [one.channel for one in channels], bits=bits), pivot)


def _require_alike(sources: Mapping[str, FrameSequence], base: FrameSequence) -> int:
    """Require as many frames of each, or one, of the same sizes; return the bits of the deepest."""
    for name, sequence in sources.items():
        count = len(sequence.frames)
        if count not in (1, len(base.frames)):
            raise UsageError(f"{name} has {counted(count, 'frame')}, {base.stem} has {len(base.frames)}; give as many")
        for index, frame in enumerate(base.frames):
            other = sequence.frames[index % count]
            if other.size != frame.size:
                raise UsageError(f"{other.source}: {other.size} px, {frame.source} has {frame.size}; make them equal")
    depths = {sequence.depth for sequence in sources.values()}
    if 32 in depths and len(depths) > 1:
        raise UsageError(f"some sources are float and others are not; {option('exposure', '0')} makes all 8 bits")
    return max(depths)


def _kind_of(channels: Sequence[ChannelOf], sources: Mapping[str, FrameSequence]) -> ContentName:
    """Return what values mean: colour where red, green and blue are of one picture, else data."""
    colours = channels[:3]
    if len({one.source for one in colours}) == 1 and colours[0].source:
        if [one.channel for one in colours] == list(OWN_CHANNELS[:3]):
            return sources[colours[0].source].content
        if len({one.channel for one in colours}) == 1:
            return "color" if sources[colours[0].source].content == "color" else "mask"
    return "mask"


def _timing_notes(sources: Mapping[str, FrameSequence], base: FrameSequence) -> list[str]:
    holds = stated_holds(base)
    others = [
        sequence.stem
        for sequence in sources.values()
        if len(sequence.frames) > 1
        and sequence is not base
        and stated_holds(sequence) not in (holds, [None] * len(holds))
    ]
    return [f"timing is that of {base.stem}; it differs in {', '.join(others)}"] if others else []
