"""Sequences with other frames that play as they did: duplicates merged, or blends between neighbours."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import groupby

from kivel.core.digest import pixel_digest
from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Fade
from kivel.core.pixels.pixels import Pixels
from kivel.core.playback.clip import Clip
from kivel.core.playback.folding import folded
from kivel.core.playback.inbetween import Between, inbetweened
from kivel.core.wording import counted
from kivel.files.images import FrameSource
from kivel.files.threads import in_order
from kivel.making.sheets.layouts import Gathered
from kivel.sequences.between_frames import faded_kind, frame_between, motion_map
from kivel.sequences.map_frames import MapFrames
from kivel.sequences.sequence import FrameSequence

__all__ = ["GatheredClips", "blended_between", "each_picture_once"]


class GatheredClips(NamedTuple):
    """Sequences and their maps, and the clips over all frames."""

    found: Gathered
    clips: tuple[Clip, ...]

    @property
    def maps(self) -> list[MapFrames]:
        return self.found.maps

    @property
    def frames(self) -> int:
        return len(self.maps[0].frames)


def each_picture_once(
    given: GatheredClips, *, mirror: bool, jobs: int, advance: Callable[[], None]
) -> tuple[GatheredClips, list[str]]:
    """The same playback with every picture stored once; and what that saved, proved to be the same.

    Frames are the same where they are in all maps, bit for bit.
    """

    def look(index: int) -> tuple[str, ...]:
        digests = tuple(pixel_digest(one.load(index)) for one in given.maps)
        advance()
        return digests

    looks = list(in_order(look, range(given.frames), jobs=jobs))
    first = {digests: index for index, digests in reversed(list(enumerate(looks)))}
    fold = folded(given.clips, [first[digests] for digests in looks], mirror=mirror)
    maps = [one.chosen(fold.kept) for one in given.maps]
    sequences = _regrouped(given.found.sequences, fold.kept, maps[0].frames)
    result = GatheredClips(Gathered(sequences, maps), fold.clips)
    return result, _saved(given, result)


def _saved(before: GatheredClips, after: GatheredClips) -> list[str]:
    notes = [f"{counted(before.frames, 'frame')} became {after.frames}, duplicates merged"]
    for old, new in zip(before.clips, after.clips, strict=True):
        if len(new.steps) != len(old.steps):
            way = ", played as ping-pong" if new.direction != old.direction else ""
            notes.append(
                f'clip "{old.name}": {counted(len(old.steps), "step")} became {len(new.steps)}{way}; it plays the same'
            )
    return notes if after.frames < before.frames or len(notes) > 1 else ["nothing to fold: no duplicate frames"]


def blended_between(given: GatheredClips, count: int, *, fade: Fade) -> GatheredClips:
    """With `count` blends between neighbours of every clip, colour mixed in light or by its stored values.

    Raises
    ------
    UsageError
        If two frames that follow each other are not of one size.
    """
    result = inbetweened(given.clips, given.frames, count)
    motion = motion_map(given.maps) if any(clip.interpolation == "motion" for clip in given.clips) else None
    maps = [_with_blends(one, result.frames, motion, fade) for one in given.maps if not one.motion]
    origins = [content if isinstance(content, int) else content.frame for content in result.frames]
    sequences = _regrouped(given.found.sequences, origins, maps[0].frames)
    return GatheredClips(Gathered(sequences, maps), result.clips)


def _with_blends(map: MapFrames, contents: Sequence[int | Between], motion: MapFrames | None, fade: Fade) -> MapFrames:
    frames: list[FrameSource | None] = []
    origins = []
    for content in contents:
        if isinstance(content, int):
            frames.append(map.frames[content])
            origins.append(content)
            continue
        a, b = content.frame, content.following
        if map.sizes[a] != map.sizes[b]:
            named = [(map.frames[i] or map.frames[0], map.sizes[i]) for i in (a, b)]
            found = " and ".join(f"{frame.source if frame else a} {size}" for frame, size in named)
            raise UsageError(f"frames that blend must have one size, found {found} px; see {option('odd-size')}")
        frames.append(_blend(map, content, motion, fade, number=len(origins) - origins.index(a)))
        origins.append(a)
    return map._replace(frames=tuple(frames), sizes=tuple(map.sizes[index] for index in origins))


def _blend(
    map: MapFrames, between: Between, motion: MapFrames | None, fade: Fade, *, number: int
) -> FrameSource | None:
    frame = map.frames[between.frame]
    if frame is None and map.frames[between.following] is None:
        return None

    def load() -> Pixels:
        weight = float(between.weight)
        kind = faded_kind(map.content.kind, fade)
        return frame_between(map.load, between.frame, between.following, weight, kind=kind, motion=motion)

    source = frame or map.frames[between.following]
    if source is None:
        return None
    return source._replace(
        name=f"{source.name}+{number}", size=map.sizes[between.frame], depth=map.depth, load=load, duration=None
    )


def _regrouped(
    sequences: Sequence[FrameSequence], origins: Sequence[int], frames: Sequence[FrameSource | None]
) -> list[FrameSequence]:
    """The sequences with the frames that come from theirs; without those that have none."""
    of_frame = [number for number, sequence in enumerate(sequences) for _ in sequence.frames]
    pairs = [(of_frame[origin], frame) for origin, frame in zip(origins, frames, strict=True) if frame is not None]
    return [
        sequences[number]._replace(frames=tuple(frame for _, frame in group), described_by=None)
        for number, group in groupby(pairs, key=lambda pair: pair[0])
    ]
