"""The motion of frames that are laid out, estimated from them alone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from kivel.core.errors import UsageError, option
from kivel.core.motion.pairs import MotionPairs, unserved, unserved_text
from kivel.core.playback.clip import Clip
from kivel.making.motion.motion_maps import blind_map
from kivel.making.sheets.layouts import Gathered
from kivel.making.work import Work
from kivel.sequences.between_frames import motion_map
from kivel.sequences.clips import ClipSet
from kivel.sequences.made_motion import MotionMade
from kivel.sequences.map_frames import MapFrames
from kivel.sequences.sequence import require_straight

if TYPE_CHECKING:
    from kivel.making.options.sheet_options import SheetOptions

__all__ = ["with_motion"]


def with_motion(
    options: SheetOptions, work: Work, found: Gathered, clips: ClipSet
) -> tuple[Gathered, ClipSet, MotionMade | None]:
    """The frames with a map of motion beside their others, and clips that obey it.

    One that they bring is kept if it serves the clips: it was fitted to more than is there now, and no map is made.

    Raises
    ------
    UsageError
        If two frames that follow each other are not of one size, or colours are premultiplied.
    """
    for sequence in found.sequences:
        require_straight(sequence, option("motion", True))
    color, *others = found.maps
    brought = motion_map(others)
    if brought and brought.motion and not any(unserved(clip, brought.motion) for clip in clips.clips):
        work.note(f"map {brought.name} came with the frames and is kept: it covers everything that the clips show")
        return found, _all_obeying(options, work, clips, brought.motion), None
    frames = [frame for frame in color.frames if frame is not None]
    pairs = _pairs(clips.clips)
    for first, second in pairs:
        if color.sizes[first] != color.sizes[second]:
            sizes = f"{color.sizes[first]} and {color.sizes[second]} px"
            raise UsageError(
                f"frames that are warped must have one size, found {sizes}; see {option('odd-size')}",
                where=f"{frames[first].source}, {frames[second].source}",
            )
    made = blind_map(
        frames, pairs, kind=color.content.kind, wraps=options.tile, storage=options.motion_storage,
        work=work, jobs=options.threads,
    )  # fmt: skip
    maps: list[MapFrames] = [color, *(one for one in others if one.name != made.map.name), made.map]
    if made.map.motion is None:
        raise AssertionError("a motion map needs its pairs")
    return found._replace(maps=maps), _all_obeying(options, work, clips, made.map.motion), made


def _pairs(clips: Sequence[Clip]) -> list[tuple[int, int]]:
    """Which frame changes into which; one place holds one motion, which serves the way back too."""
    later: dict[int, int] = {}
    for clip in clips:
        for first, second in clip.changes():
            if first not in later and later.get(second) != first:
                later[first] = second
    return sorted(later.items())


def _all_obeying(options: SheetOptions, work: Work, clips: ClipSet, motion: MotionPairs) -> ClipSet:
    return clips._replace(clips=tuple(_obeying(clip, motion, options, work) for clip in clips.clips))


def _obeying(clip: Clip, motion: MotionPairs, options: SheetOptions, work: Work) -> Clip:
    """The clip as one that is warped, unless stated otherwise or some of its changes have no motion."""
    stated = options.changes().of(clip.name).interpolation is not None
    lacking = unserved(clip, motion)
    if lacking and not (stated and clip.interpolation != "motion"):
        work.note(f'clip "{clip.name}" is not warped: {unserved_text(lacking)}')
    if stated or lacking or not clip.changes():
        return clip if clip.interpolation != "motion" or not lacking else replace(clip, interpolation="step")
    return replace(clip, interpolation="motion")
