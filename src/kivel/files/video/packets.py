"""The frames that a video has, known from its packets: when each is shown, and from where it can be decoded."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Size
from kivel.core.playback.notation import format_seconds
from kivel.core.playback.time_stamps import holds_of_stamps
from kivel.core.wording import counted
from kivel.files.video.container import VideoError

__all__ = ["VideoFrames", "frames_of", "picture_stream"]

_MOST_FRAMES = 2_000_000
_SHORT_OF = Fraction(1, 2)
"""Seconds that a file may be longer than its frames; sound often is, by a little."""


class VideoFrames(NamedTuple):
    """Holds what a video stream says of itself before a frame is decoded.

    `stamps` and `keys` are in ticks of the stream: the time of each frame in the order in which they show, and those
    from which decoding may start. `holds` are exact seconds.
    """

    coded: Size
    codec: str
    tick: Fraction
    stamps: tuple[int, ...]
    keys: tuple[int, ...]
    holds: tuple[Fraction, ...]
    has_alpha_beside: bool
    notes: tuple[str, ...]


def picture_stream(container: Any) -> Any:
    """Return the stream that is the video, and no picture of its cover.

    Raises
    ------
    VideoError
        If there is none.
    """
    cover = 0x400  # AV_DISPOSITION_ATTACHED_PIC
    streams = [stream for stream in container.streams.video if not int(stream.disposition) & cover]
    if not len(container.streams):
        raise VideoError("damaged or cut off: the part that lists its frames is missing; export or copy it again")
    if not streams:
        raise VideoError("there is no video in it, only sound or other data; check the file")
    return streams[0]


def frames_of(container: Any) -> VideoFrames:
    """Read through the packets of a video, without decoding them.

    Raises
    ------
    VideoError
        If it has no frames, or too many.
    """
    stream = picture_stream(container)
    context = stream.codec_context
    if context is None or not context.width:
        raise VideoError("its codec is not known here; convert it to H.264, VP9 or FFV1")
    tick = Fraction(stream.time_base)
    shown: dict[int, int] = {}
    keys: list[int] = []
    for packet in container.demux(stream):
        if packet.pts is None or not packet.size or packet.is_discard or _is_hidden(context.name, packet):
            continue
        if packet.is_keyframe:
            keys.append(packet.pts)
        shown[packet.pts] = packet.duration or 0
        if len(shown) > _MOST_FRAMES:
            raise VideoError(f"it has more than {_MOST_FRAMES:,} frames; cut it into shorter videos")
    if not shown:
        raise VideoError("there are no frames in it; export or copy it again")
    stamps = tuple(sorted(shown))
    rates = [Fraction(rate) for rate in (stream.average_rate, stream.guessed_rate, stream.base_rate) if rate]
    timed = holds_of_stamps(stamps, tick, last=shown[stamps[-1]], rates=rates)
    notes = [] if timed.rate is None else [_rounded_note(timed.rate, tick)]
    return VideoFrames(
        coded=Size(context.width, context.height),
        codec=context.name,
        tick=tick,
        stamps=stamps,
        keys=tuple(sorted(keys)),
        holds=timed.holds,
        has_alpha_beside=stream.metadata.get("alpha_mode") == "1",
        notes=(*notes, *_time_notes(container, stamps[0] * tick, sum(timed.holds, Fraction(0))), *_shape_notes(stream)),
    )


def _is_hidden(codec: str, packet: Any) -> bool:
    """Whether a packet only helps others: VP8 says so in its first byte (RFC 6386, section 9.1)."""
    return codec.endswith("vp8") and not bytes(packet)[0] & 0x10


def _rounded_note(rate: Fraction, tick: Fraction) -> str:
    return f"its time stamps are rounded to {format_seconds(tick)}; all fit {rate} frames a second, which is used"


def _time_notes(container: Any, start: Fraction, length: Fraction) -> list[str]:
    """List what is odd about when it starts and ends."""
    notes = (
        [f"its first frame shows {format_seconds(start)} after the start; the wait is left out"] if start > 0 else []
    )
    stated = Fraction(container.duration or 0, 1_000_000)
    if stated - start - length > _SHORT_OF and not len(container.streams.audio):
        notes.append(f"it states {format_seconds(stated)}, but its frames end after {format_seconds(length)}; cut off?")
    return notes


def _shape_notes(stream: Any) -> list[str]:
    others = len(stream.container.streams.video) - 1
    notes = [f"{counted(others, 'other video stream')} in it skipped"] if others else []
    aspect = stream.sample_aspect_ratio
    if aspect and aspect != 1:
        notes.append(f"its pixels are {aspect.numerator}:{aspect.denominator} and not square; they stay as stored")
    return notes
