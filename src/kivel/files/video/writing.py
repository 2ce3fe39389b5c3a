"""Writing a video for people to look at: H.264 in MP4, VP9 in WebM, each picture for its exact time."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from fractions import Fraction
from io import BytesIO
from math import gcd, lcm
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Size
from kivel.core.playback.clock import on_clock
from kivel.core.playback.notation import format_seconds
from kivel.files.video.container import VideoError, library, watched

__all__ = ["VIDEO_FORMS", "VideoTimes", "encode_video", "video_times"]


class _Form(NamedTuple):
    """A kind of file: its container, codec and the coarsest clock that its times may have."""

    container: str
    codec: str
    settings: dict[str, str]
    clock: Fraction | None


VIDEO_FORMS = {
    ".mp4": _Form("mp4", "libx264", {"crf": "14", "bf": "0", "g": "48", "threads": "4"}, None),
    ".webm": _Form(
        "webm",
        "libvpx-vp9",
        {"crf": "16", "b": "0", "auto-alt-ref": "0", "g": "48", "cpu-used": "4"},
        Fraction(1, 1000),
    ),
}  # fmt: skip
"""No picture waits for a later one, so that each time is the time of a packet as it is."""
_FINEST_CLOCK = 1_000_000
"""Ticks a second; a file of hours counts them in 63 bits, and many programs in 32."""
_BT709, _SRGB_CURVE, _VIDEO_RANGE = 1, 13, 1


class VideoTimes(NamedTuple):
    """Ticks of `clock` seconds that each picture shows, 0 for one that cannot be shown; `rate` if all are alike."""

    ticks: tuple[int, ...]
    clock: Fraction
    rate: Fraction | None
    notes: tuple[str, ...]


def video_times(suffix: str, holds: Sequence[Fraction]) -> VideoTimes:
    """Put holds, in seconds, on the clock of a kind of file: exact in MP4 where a millionth of a second will do."""
    form = VIDEO_FORMS[suffix]
    whole = lcm(*(hold.denominator for hold in holds))
    rate = 1 / holds[0] if len(set(holds)) == 1 else None
    exact = Fraction(gcd(*(int(hold * whole) for hold in holds)), whole)
    if form.clock is None and exact.denominator <= _FINEST_CLOCK:
        return VideoTimes(tuple(int(hold / exact) for hold in holds), exact, rate, ())
    clock = form.clock or Fraction(1, _FINEST_CLOCK)
    clocked = on_clock(holds, clock)
    notes = []
    if clocked.largest_error:
        off = format_seconds(clocked.largest_error)
        notes.append(f"{form.container} has a clock of {format_seconds(clock)}: no frame is off by more than {off}")
    if clocked.merged:
        notes.append(f"{len(clocked.merged)} steps are too short for that clock; they are merged into their neighbours")
    return VideoTimes(clocked.ticks, clock, rate, tuple(notes))


def encode_video(suffix: str, pictures: Iterable[NDArray[np.uint8]], times: VideoTimes, size: Size) -> bytes:
    """Return a video file.

    Parameters
    ----------
    suffix : ".mp4" or ".webm"
    pictures : iterable of (H, W, 4) uint8 arrays
        Opaque, one for each time that is not 0; each is taken when the one before has been encoded.
    size : Size
        Of each picture; an odd width or height is filled up by one column or row like the last.

    Raises
    ------
    VideoError
        If PyAV is not installed, or its build has no encoder for this.
    """
    writer = _Writer(suffix, size, times)
    at = 0
    for picture, ticks in zip(pictures, filter(None, times.ticks), strict=True):
        writer.add(picture, at, ticks)
        at += ticks
    return writer.finished()


class _Writer:
    """Encodes pictures one after the other.

    The library is watched only while it is at work: the pictures may come out of a video that is being decoded.
    """

    def __init__(self, suffix: str, size: Size, times: VideoTimes) -> None:
        av = library()
        form = VIDEO_FORMS[suffix]
        self._clock = times.clock
        self._ends: dict[int, int] = {}
        self._file = BytesIO()
        with watched():
            self._container = av.open(self._file, "w", format=form.container, options={"fflags": "+bitexact"})
            try:
                self._stream = self._container.add_stream(form.codec, options=form.settings)
            except (av.error.FFmpegError, ValueError) as error:
                raise VideoError(f"this PyAV has no encoder {form.codec}; install the package av from PyPI") from error
            _describe(self._stream, size, times)

    def add(self, picture: NDArray[np.uint8], at: int, ticks: int) -> None:
        self._ends[at] = ticks
        with watched():
            frame = _frame_of(picture)
            frame.pts, frame.time_base = at, self._clock
            self._mux(self._stream.encode(frame))

    def finished(self) -> bytes:
        with watched():
            self._mux(self._stream.encode(None))
            self._container.close()
        return self._file.getvalue()

    def _mux(self, packets: Iterable[Any]) -> None:
        for packet in packets:
            packet.duration = self._ends.pop(packet.pts)
            self._container.mux(packet)


def _describe(stream: Any, size: Size, times: VideoTimes) -> None:
    context = stream.codec_context
    stream.width, stream.height = size.w + size.w % 2, size.h + size.h % 2
    stream.pix_fmt = "yuv420p"
    stream.time_base = context.time_base = times.clock
    if times.rate:
        context.framerate = times.rate
    context.colorspace = context.color_primaries = _BT709
    context.color_trc = _SRGB_CURVE
    context.color_range = _VIDEO_RANGE


def _frame_of(picture: NDArray[np.uint8]) -> Any:
    from av.video.reformatter import Interpolation

    height, width = picture.shape[:2]
    even = np.pad(picture[..., :3], ((0, height % 2), (0, width % 2), (0, 0)), mode="edge")
    frame = library().VideoFrame.from_ndarray(np.ascontiguousarray(even), format="rgb24")
    how = Interpolation
    return frame.reformat(
        format="yuv420p",
        dst_colorspace=_BT709,
        src_color_range=2,
        dst_color_range=_VIDEO_RANGE,
        dst_color_trc=_SRGB_CURVE,
        dst_color_primaries=_BT709,
        interpolation=how.AREA | how.FULL_CHR_H_INP | how.ACCURATE_RND | how.BITEXACT,
        threads=1,
    )
