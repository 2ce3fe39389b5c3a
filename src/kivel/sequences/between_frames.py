"""Describes what shows between two frames of a sequence: faded, or warped where a motion map leads from one to the
other.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from kivel.core.motion.motion_blend import blended_by_motion
from kivel.core.option_words import Fade
from kivel.core.pixels.light import Kind
from kivel.core.pixels.pixels import Pixels
from kivel.core.playback.clip import Clip
from kivel.core.resampling import Share, mixed
from kivel.sequences.map_frames import MapFrames

__all__ = ["faded_kind", "frame_between", "motion_for", "motion_map"]


def motion_map(maps: Sequence[MapFrames]) -> MapFrames | None:
    """The map that says how things move, if there is one whose vectors are known."""
    return next((one for one in maps if one.motion is not None), None)


def motion_for(clip: Clip, maps: Sequence[MapFrames]) -> MapFrames | None:
    """The map that a clip is warped by."""
    return motion_map(maps) if clip.interpolation == "motion" else None


def faded_kind(kind: Kind, fade: Fade) -> Kind:
    """How frames of a kind are mixed: colour in light, or by its stored values."""
    return "stored" if kind == "color" and fade == "stored" else kind


def frame_between(
    load: Callable[[int], Pixels],
    first: int,
    second: int,
    weight: float,
    *,
    kind: Kind = "color",
    motion: MapFrames | None = None,
) -> Pixels:
    """The picture between two frames; `weight` is the share of the second.

    Parameters
    ----------
    load : callable
        Gives the pixels of a frame, of the colour or of another map, by its number.
    motion : MapFrames or None
        The motion map to warp by, where it leads from one of both to the other.
    """
    known = motion.motion if motion else None
    way = known.way(first, second) if known else None
    if motion is None or known is None or way is None:
        return mixed((Share(first, 1 - weight), Share(second, weight)), load, kind=kind)

    vectors = motion.load(first if way == "forward" else second)
    return blended_by_motion(load(first), load(second), weight, vectors, known, way=way, kind=kind)
