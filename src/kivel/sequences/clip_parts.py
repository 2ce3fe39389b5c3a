"""A sequence of several clips, taken apart into these and put together again."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip, Timing
from kivel.sequences.clips import ClipSet, clips_for, part_of
from kivel.sequences.named_clips import with_own_names
from kivel.sequences.sequence import FrameSequence, joined

__all__ = ["ClipPart", "clip_parts", "clips_together", "joined_as_clips"]


class ClipPart(NamedTuple):
    """The frames that one clip shows, or several that share frames; of those that none shows, `clips` is empty.

    `places` are their numbers in the whole sequence.
    """

    places: tuple[int, ...]
    sequence: FrameSequence

    @property
    def clips(self) -> tuple[Clip, ...]:
        return self.sequence.clips


def clip_parts(sequence: FrameSequence) -> list[ClipPart]:
    """Return the frames of each clip by themselves, in the order of their first frames.

    Clips that share frames are one part. Frames of no clip are parts too, where there are several clips: none is lost.
    """
    groups: list[tuple[set[int], list[Clip]]] = []
    for clip in sequence.clips:
        shared = [group for group in groups if group[0].intersection(clip.own_frames)]
        frames = set(clip.own_frames).union(*(group[0] for group in shared))
        groups = [group for group in groups if group not in shared]
        groups.append((frames, [*(one for group in shared for one in group[1]), clip]))
    if len(groups) < 2:
        return [ClipPart(tuple(range(len(sequence.frames))), sequence)]
    loose = set(range(len(sequence.frames))).difference(*(frames for frames, _ in groups))
    groups += [(run, []) for run in _runs(sorted(loose))]
    return [_part(sequence, sorted(frames), clips) for frames, clips in sorted(groups, key=lambda group: min(group[0]))]


def _runs(places: Sequence[int]) -> list[set[int]]:
    """Numbers that follow each other, together."""
    runs: list[set[int]] = []
    for place in places:
        if runs and place - 1 in runs[-1]:
            runs[-1].add(place)
        else:
            runs.append({place})
    return runs


def _part(sequence: FrameSequence, places: Sequence[int], clips: Sequence[Clip]) -> ClipPart:
    alone = sequence._replace(
        stem=clips[0].name if len(clips) == 1 else sequence.stem,
        clips=tuple(clips),
        groups=(),
        described_by=None,
        notes=(),
    )
    return ClipPart(tuple(places), part_of(alone, places))


def clips_together(sequence: FrameSequence, parts: Sequence[tuple[int, ClipSet]]) -> ClipSet:
    """Return the clips of what was made of the parts of a sequence, over all frames, and its groups.

    Parameters
    ----------
    parts : sequence of (int, ClipSet)
        For each part how many frames it has now, and its clips over these.
    """
    clips: list[Clip] = []
    notes: list[str] = []
    first = 0
    for count, found in parts:
        number = {place: first + place for place in range(count)}
        clips += [clip.renumbered(number) for clip in found.clips]
        notes += found.notes
        first += count
    names = {clip.name for clip in clips}
    clips = [replace(clip, then=clip.then if clip.then in names else None) for clip in clips]
    # a follower in another part is there again
    after = {clip.name: clip.then for clip in sequence.clips if clip.then in names}
    clips = [replace(clip, then=clip.then or after.get(clip.name)) for clip in clips]
    groups = [group.renamed({name: name for name in names}) for group in sequence.groups]
    return ClipSet(tuple(clips), tuple(group for group in groups if group.members), tuple(notes))


def joined_as_clips(parts: Sequence[FrameSequence]) -> FrameSequence:
    """Return several sequences as one of which each is a clip, or as many as it had.

    Raises
    ------
    UsageError
        If the colours of some are premultiplied and those of others are not.
    """
    if len(parts) == 1:
        return parts[0]
    clips: list[Clip] = []
    first = 0
    for part in parts:
        number = {place: first + place for place in range(len(part.frames))}
        found = with_own_names(clips_for(part, lambda _name: Timing()), [clip.name for clip in clips])
        clips += [clip.renumbered(number) for clip in found]
        first += len(part.frames)
    whole = joined([part._replace(clips=()) for part in parts])
    return whole._replace(clips=tuple(clips), edits=tuple(edit for part in parts for edit in part.edits))
