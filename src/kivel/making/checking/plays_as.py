"""Proof that a sheet shows what its source shows: the same frames in order, at the same exact times, pixel by pixel."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from functools import lru_cache
from itertools import islice

import numpy as np

from kivel.core.checks.findings import Finding, Spot
from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.compose import to_8_bits
from kivel.core.pixels.pixels import Pixels
from kivel.core.playback.clip import Clip
from kivel.core.playback.notation import format_order, format_repeat, format_seconds
from kivel.core.playback.player import Player
from kivel.core.wording import counted, first_few
from kivel.files.images import FrameSource
from kivel.sequences.clips import clip_over, stated_holds
from kivel.sequences.map_frames import MapFrames
from kivel.sequences.sequence import FrameSequence

__all__ = ["Difference", "differences", "states_times"]

_MOST_STEPS = 100_000


class Difference(NamedTuple):
    """A finding, and the two pictures that differ, of the source and of the sheet; none where the times do."""

    finding: Finding
    source: Pixels | None = None
    sheet: Pixels | None = None


def differences(
    sheet: FrameSequence,
    source: FrameSequence,
    clips: Sequence[Clip],
    file: str,
    tolerance: int,
    *,
    frames_only: bool,
) -> Iterator[Difference]:
    """The first difference of each clip, and of each map that both have; nothing where all is the same.

    Pixels are the same where alpha is, and colour where anything is visible, within `tolerance` of 255. Times are those
    that the source states: its clips, or the durations of an animated image; where it states none its frames show once
    each, in order. Under `frames_only` each frame that a clip shows is held against the one of its number alone.

    Raises
    ------
    UsageError
        If a clip has no counterpart in the source.
    """
    for clip in clips:
        where = Spot(file, clip=clip.name)
        if frames_only or not states_times(source):
            other = _in_order(clip, sheet, source, frames_only=frames_only)
            text = "" if frames_only else _other_order(other, source)
        else:
            other = _counterpart(clip, source)
            text = _other_times(clip, other)
        if text:
            yield Difference(Finding("plays-otherwise", "error", where, None, text, "kivel retime"))
            continue
        pairs = _shown_together(clip, other)
        found = _first_difference(sheet.frames, source.frames, pairs, where, tolerance)
        if found:
            yield found
            continue
        theirs = {one.name: _whole(one) for one in source.maps}
        for one in sheet.maps:
            ours, others = _whole(one), theirs.get(one.name)
            found = _first_difference(ours, others, pairs, where._replace(map=one.name), tolerance) if others else None
            if found:
                yield found


def states_times(source: FrameSequence) -> bool:
    """Whether a source says how long its frames show."""
    return bool(source.clips) or any(frame.duration is not None for frame in source.frames)


def _in_order(clip: Clip, sheet: FrameSequence, source: FrameSequence, *, frames_only: bool) -> Clip:
    """The clip with the frames of a source that states no times: one by one, in order."""
    if not frames_only and len(clip.own_frames) != len(source.frames) != len(sheet.frames):
        return clip  # what it shows is another number of frames, which is noted
    for meant in (tuple(range(len(sheet.frames))), clip.own_frames):
        if len(meant) == len(source.frames):
            return clip.renumbered({frame: place for place, frame in enumerate(meant)})
    raise UsageError(
        f'the source has {counted(len(source.frames), "frame")}, clip "{clip.name}" shows {len(clip.own_frames)} of '
        f"{len(sheet.frames)}; give the source of that clip, or a manifest"
    )


def _whole(one: MapFrames) -> list[FrameSource]:
    """The frames of a map; none where it lacks some: that is noted elsewhere."""
    frames = [frame for frame in one.frames if frame is not None]
    return frames if len(frames) == len(one.frames) else []


def _other_order(other: Clip, source: FrameSequence) -> str:
    """How a clip differs from a source whose frames show once each, in order; empty if it does not."""
    shown = [step.frame for step in other.cycle()]
    if shown == list(range(len(source.frames))):
        return ""
    alone = f"{option('frames-only', True)} compares the frames alone"
    return f"shows frames {format_order(shown)}, its source {format_order(range(len(source.frames)))}; {alone}"


def _other_times(clip: Clip, other: Clip) -> str:
    """How a clip differs in length or repeats from what its source states; empty if it does not."""
    if clip.length != other.length:
        return f"one cycle is {_cycle_text(clip)}; in the source it is {_cycle_text(other)}"
    if clip.repeat != other.repeat:
        return f"{format_repeat(clip.repeat)}, its source {format_repeat(other.repeat)}"
    if Player(clip).length != Player(other).length:
        return f"{_end_text(clip)}, its source {_end_text(other)}"
    return ""


def _cycle_text(clip: Clip) -> str:
    count = len(clip.cycle())
    return f"{counted(count, 'step')} in {format_seconds(clip.length)} ({float(count / clip.length):.6g} a second)"


def _end_text(clip: Clip) -> str:
    length = Player(clip).length
    return "never ends" if length is None else f"ends after {format_seconds(length)}"


def _counterpart(clip: Clip, source: FrameSequence) -> Clip:
    if not source.clips:
        return clip_over(source, stated_holds(source))
    named = [other for other in source.clips if other.name == clip.name]
    if named or len(source.clips) == 1:
        return (named or list(source.clips))[0]
    names = first_few([other.name for other in source.clips]) or "none"
    raise UsageError(f'the source has no clip "{clip.name}" ({names}); choose one by {option("clip")}')


def _shown_together(clip: Clip, other: Clip) -> list[tuple[Fraction, int | None, int | None]]:
    """At each time at which either goes on, the frames that both show.

    Two that show one frame on are the same as one that holds it.
    """
    times = sorted({*_changes(clip), *_changes(other)})
    return [(time, _at(clip, time), _at(other, time)) for time in times]


def _changes(clip: Clip) -> set[Fraction]:
    """When it shows something else, over a cycle of one that plays for ever."""
    player = Player(clip)
    end = clip.length if player.length is None else player.length + 1
    shows = (one.time for one in player.happenings(end=end) if one.kind == "show")
    return set(islice(shows, _MOST_STEPS))


def _at(clip: Clip, time: Fraction) -> int | None:
    return Player(clip).at(time).frame


def _first_difference(
    sheet: Sequence[FrameSource],
    source: Sequence[FrameSource],
    pairs: Sequence[tuple[Fraction, int | None, int | None]],
    where: Spot,
    tolerance: int,
) -> Difference | None:
    compared = lru_cache(maxsize=None)(
        lambda ours, theirs: _differ(sheet[ours].load(), source[theirs].load(), tolerance)
    )
    for time, ours, theirs in pairs:
        if ours is None or theirs is None:
            if ours == theirs:
                continue
            what = "something" if theirs is None else "nothing"
            text = f"shows {what} at {float(time):.6f} s, its source does not"
            return Difference(Finding("plays-otherwise", "error", where, float(time), text, "kivel retime"))
        said = compared(ours, theirs)
        if said:
            pixel, text = said
            spot = where._replace(frame=sheet[ours].name, pixel=pixel)
            told = f"at {float(time):.6f} s it does not show {source[theirs].name}: {text}"
            fix = "make the sheet again, or use kivel retime if the wrong frame shows"
            finding = Finding("plays-otherwise", "error", spot, float(time), told, fix)
            return Difference(finding, to_8_bits(source[theirs].load()), to_8_bits(sheet[ours].load()))
    return None


def _differ(ours: Pixels, theirs: Pixels, tolerance: int) -> tuple[tuple[int, int] | None, str] | None:
    if ours.shape != theirs.shape:
        return None, f"{ours.shape[1]}x{ours.shape[0]} px for {theirs.shape[1]}x{theirs.shape[0]}"
    scale = 1 if ours.dtype == theirs.dtype and ours.dtype != np.float32 else None
    a, b = (ours, theirs) if scale else (to_8_bits(ours), to_8_bits(theirs))
    unit = 257 if a.dtype == np.uint16 else 1
    difference = np.abs(a.astype(np.int32) - b.astype(np.int32))
    visible = (a[..., 3:] > 0) | (b[..., 3:] > 0)
    difference[..., :3] *= visible
    worst = difference.max(axis=-1)
    if int(worst.max(initial=0)) <= tolerance * unit:
        return None
    row, column = (int(place) for place in np.argwhere(worst > tolerance * unit)[0])
    count = int((worst > tolerance * unit).sum())
    found, expected = ("#" + "".join(f"{int(value) // unit:02x}" for value in image[row, column]) for image in (a, b))
    return (column, row), f"{found} for {expected}, {count} pixels differ"
