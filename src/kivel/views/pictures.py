"""The pictures that a clip shows, ready to be looked at."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kivel.core.contents import content_of
from kivel.core.option_words import Fade
from kivel.core.pixels.pixels import Pixels
from kivel.core.playback.schedule import Picture, Schedule
from kivel.files.images import FrameSource
from kivel.sequences.between_frames import faded_kind, frame_between
from kivel.sequences.map_frames import MapFrames
from kivel.views.looks import NO_MARKS, Look, Marks, marked, shown_frame

__all__ = ["picture_pixels", "pictures", "shown_picture"]


def pictures(plan: Schedule) -> list[Picture]:
    """The different ones, in the order in which they first show."""
    return list(dict.fromkeys(shot.picture for shot in plan.shots))


def shown_picture(
    picture: Picture,
    *,
    frames: Sequence[FrameSource],
    look: Look,
    show: str,
    marks: Marks = NO_MARKS,
    motion: MapFrames | None = None,
    fade: Fade = "linear",
) -> NDArray[np.uint8]:
    """One picture as it is seen, (H, W, 4) uint8; blended in light or stored values, premultiplied, or warped."""
    shown = shown_frame(picture_pixels(picture, frames, show, motion, fade), look)
    return shown if picture.frame is None else marked(shown, frames[picture.frame], marks)


def picture_pixels(
    picture: Picture,
    frames: Sequence[FrameSource],
    show: str,
    motion: MapFrames | None = None,
    fade: Fade = "linear",
) -> Pixels:
    """One picture in full, of the depth of its frames."""
    if picture.frame is None:
        width, height = frames[0].size
        return np.zeros((height, width, 4), np.uint8)
    if picture.following is None:
        return frames[picture.frame].load()
    return frame_between(
        lambda index: frames[index].load(),
        picture.frame,
        picture.following,
        float(picture.weight),
        kind=faded_kind(content_of(show).kind, fade),
        motion=motion,
    )
