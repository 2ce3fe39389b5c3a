"""Resampled sequences: the frames to write, and their clip."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from functools import partial

from kivel.core.pixels.light import Kind
from kivel.core.pixels.pixels import Pixels
from kivel.core.playback.clip import DEFAULT_HOLD, Clip
from kivel.core.playback.easing import Easing
from kivel.core.prepare.actions import Frame
from kivel.core.resampling import Span, mixed, resampled_holds, sample_positions, samples
from kivel.making.frames.frame_files import NewFrame
from kivel.making.sheets.pages import stored_map
from kivel.sequences.clips import clip_over, lost_clips, stated_holds
from kivel.sequences.map_frames import MapFrames
from kivel.sequences.sequence import FrameSequence

__all__ = [
    "new_frames",
    "resampled_clip",
    "source_holds",
    "thinned",
]


def resampled_clip(frames: FrameSequence, count: int, *, pace: Easing | None) -> Clip:
    """A clip over `count` frames that lasts as long as before; under a pace all show equally long."""
    holds = source_holds(frames)
    if pace:
        return clip_over(frames, [sum(holds, Fraction(0)) / count] * count)
    return clip_over(frames, resampled_holds(holds, count))


def source_holds(frames: FrameSequence) -> list[Fraction]:
    """How long each frame shows, in seconds."""
    return [DEFAULT_HOLD if hold is None else hold for hold in stated_holds(frames)]


def new_frames(frames: FrameSequence, spans: Sequence[Span], *, kind: Kind, warps: bool = False) -> list[NewFrame]:
    """The frames of a resampling and of its maps, mixed when they are asked for.

    Under `warps` two frames that one is mixed of are warped into each other, where that is better than fading.
    """
    return [_new_frame(frames, span, kind, warps=warps) for span in spans]


def thinned(frames: FrameSequence, count: int, *, one_shot: bool) -> FrameSequence:
    """This many of the frames, evenly spaced over all, with a clip that lasts as long as before.

    Under `one_shot` both ends are among them, else the end is the start again.
    """
    if count >= len(frames.frames):
        return frames
    length = len(frames.frames)
    once = one_shot or any(clip.repeat != "forever" for clip in frames.clips)
    positions = sample_positions(length, count, one_shot=once, pace=None)
    taken = [span.shares[0].frame for span in samples(length, positions, one_shot=once, mix=False)]
    clip = resampled_clip(frames, count, pace=None)
    return frames._replace(
        frames=tuple(frames.frames[index] for index in taken),
        maps=tuple(one.chosen(taken) for one in frames.maps),
        clips=(clip,),
        groups=(),
        described_by=None,
    )._replace(notes=lost_clips(frames))


def _new_frame(frames: FrameSequence, span: Span, kind: Kind, *, warps: bool) -> NewFrame:
    nearest = max(span.shares, key=lambda share: share.weight)
    source = frames.frames[nearest.frame]

    def load_one(index: int) -> Pixels:
        return frames.frames[index].load()

    def load() -> Frame:
        return Frame(mixed(span.shares, load_one, kind=kind), source.pivot)

    def load_map(one: MapFrames) -> Pixels:
        return mixed(span.shares, one.load, kind=one.content.kind)

    if warps and len(span.shares) == 2:
        from kivel.making.frames.warped_spans import WarpedSpan

        warped = WarpedSpan(frames, span, kind)
        maps = [(stored_map(one), partial(warped.of_map, one)) for one in frames.maps if not one.motion]
        return NewFrame(
            name=source.name,
            source=source.source,
            load=lambda: Frame(warped.color(), source.pivot),
            maps=maps,
            extra=source.extra,
        )
    maps = [(stored_map(one), partial(load_map, one)) for one in frames.maps if not one.motion]
    return NewFrame(source.name, source.source, load, maps, source.extra, palette=source.palette)
