"""A video file as frames: how large they are, when each shows, and their pixels when asked for."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from functools import partial
from pathlib import Path

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, Size
from kivel.core.room import require_room
from kivel.files.video.colour import VideoColour, quarter_turns
from kivel.files.video.container import opened_video
from kivel.files.video.decoding import FrameDecoder
from kivel.files.video.packets import VideoFrames, frames_of

__all__ = ["OpenedVideo", "open_frames"]


class OpenedVideo(NamedTuple):
    """The frames of a video, upright: `loads` gives the pixels of each, `holds` how long it shows, in seconds."""

    size: Size
    depth: int
    mode: str
    holds: tuple[Fraction, ...]
    loads: tuple[Callable[[], Pixels], ...]
    colour_note: str
    notes: tuple[str, ...]


def open_frames(path: Path, *, max_pixels: int) -> OpenedVideo:
    """Look at a video: all of its packets are read, one frame is decoded.

    Raises
    ------
    VideoError
        If it is damaged, has no frames, or is of a kind that is not known here.
    RoomError
        If a frame states more pixels than `max_pixels`.
    OutputError
        If the file cannot be read.
    """
    with opened_video(path) as container:
        frames = frames_of(container)
    require_room(*frames.coded, bits=16, what="its header states", limit=max_pixels)
    decoder = FrameDecoder(path, frames, max_pixels=max_pixels)
    first = decoder.frame(0)
    colour = VideoColour(first)
    size = Size(*frames.coded)

    def load(index: int) -> Pixels:
        return colour.pixels(decoder.frame(index))

    return OpenedVideo(
        size=Size(size.h, size.w) if quarter_turns(first) % 2 else size,
        depth=colour.depth,
        mode=f"{frames.codec} {first.format.name}, {colour.described}",
        holds=frames.holds,
        loads=tuple(partial(load, index) for index in range(len(frames.stamps))),
        colour_note=colour.note,
        notes=(*frames.notes, *_colour_notes(colour, first, frames)),
    )


def _colour_notes(colour: VideoColour, first: object, frames: VideoFrames) -> list[str]:
    notes = []
    if not colour.is_rgb and not colour.is_stated:
        notes.append(f"its colour matrix is not stated; {colour.matrix} is used, as players do")
    if colour.has_alpha:
        notes.append("its alpha is taken as straight")
    elif frames.has_alpha_beside:
        notes.append("it states alpha, but has none that can be read")
    if getattr(first, "interlaced_frame", False):
        notes.append("it is interlaced; frames keep both fields")
    return notes
