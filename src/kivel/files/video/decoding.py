"""Decoding the frames of a video one by one, in whatever order they are asked for, in little memory."""

from __future__ import annotations

from bisect import bisect_right
from collections import OrderedDict
from collections.abc import Iterator
from contextlib import ExitStack
from pathlib import Path
from threading import RLock
from typing import Any

from kivel.core.errors import option
from kivel.core.playback.notation import format_seconds
from kivel.files.video.container import VideoError, library, opened_video, watched
from kivel.files.video.packets import VideoFrames, picture_stream

__all__ = ["FrameDecoder"]

_KEPT_BYTES = 48 << 20
"""Kept in frames that may soon be wanted again: by other threads, or by whoever goes backwards."""
_FEWEST_KEPT, _MOST_KEPT = 4, 64
"""Whatever their bytes: small frames have memory around them that nobody counts."""
_WITH_ALPHA = {"vp8": "libvpx", "vp9": "libvpx-vp9"}
"""Decoders that also read the alpha that a file has beside the picture."""


class FrameDecoder:
    """Gives the frames of one file, as the library has them.

    A frame is decoded from the keyframe before it, or on from the last one that was wanted. Nothing that a decoder
    made up in place of damaged data is ever given.
    """

    def __init__(self, path: Path, frames: VideoFrames, *, max_pixels: int) -> None:
        self._path = path
        self._frames = frames
        self._max_pixels = max_pixels
        self._lock = RLock()
        self._kept: OrderedDict[int, Any] = OrderedDict()
        self._kept_bytes = 0
        self._run: _Run | None = None

    def frame(self, index: int) -> Any:
        """Return one frame.

        Raises
        ------
        VideoError
            If it, or one that it is made from, is damaged or missing; the message names its time.
        """
        stamp = self._frames.stamps[index]
        with self._lock:
            if stamp not in self._kept:
                self._decode_to(stamp, self._run_towards(stamp))
            # not every keyframe is one from which decoding may start without a fault
            for key in (self._key_before(stamp, groups=2), None):
                if stamp not in self._kept and not (self._run and self._run.is_whole):
                    self._decode_to(stamp, self._begun(key))
            if stamp in self._kept:
                return self._kept[stamp]
        time = format_seconds((stamp - self._frames.stamps[0]) * self._frames.tick)
        raise VideoError(
            f"damaged at {time} (frame {index}); export or copy it again, or choose frames before or after it with "
            f"{option('range')}"
        )

    def _run_towards(self, stamp: int) -> _Run:
        """Return the run that goes on, or one from the start of the frame's group if that is nearer."""
        key = self._key_before(stamp)
        if self._run is None or self._run.shown >= stamp or (key is not None and key > self._run.fed):
            return self._begun(key)
        return self._run

    def _decode_to(self, stamp: int, run: _Run) -> None:
        """Decode until this frame or a later one."""
        while run.shown < stamp and stamp not in self._kept:
            decoded = run.next_frames()
            if decoded is None:
                return
            for frame in decoded:
                self._keep(frame)

    def _key_before(self, stamp: int, groups: int = 1) -> int | None:
        """Return the keyframe at which the last groups up to this frame begin; None for the start of the file."""
        place = bisect_right(self._frames.keys, stamp) - groups
        return self._frames.keys[place] if place > 0 else None

    def _begun(self, key: int | None) -> _Run:
        if self._run:
            self._run.close()
        self._run = _Run(self._path, self._frames, key, self._max_pixels)
        return self._run

    def _keep(self, frame: Any) -> None:
        if frame.pts in self._kept:
            return
        self._kept[frame.pts] = frame
        self._kept_bytes += _bytes_of(frame)
        while len(self._kept) > (_FEWEST_KEPT if self._kept_bytes > _KEPT_BYTES else _MOST_KEPT):
            _, oldest = self._kept.popitem(last=False)
            self._kept_bytes -= _bytes_of(oldest)


def _bytes_of(frame: Any) -> int:
    return sum(plane.buffer_size for plane in frame.planes)


class _Run:
    """Reads a file from its start, or from a keyframe, towards its end.

    `fed` and `shown` are the latest times of a packet that went in and of a frame that came out.
    """

    def __init__(self, path: Path, frames: VideoFrames, key: int | None, max_pixels: int) -> None:
        self._opened = ExitStack()
        container = self._opened.enter_context(opened_video(path))
        stream = picture_stream(container)
        self._decoder = _decoder_of(stream, frames, max_pixels)
        self._size = frames.coded
        self._key = key
        self._damaged: set[int] = set()
        self._is_damaging = False
        self.is_whole = key is None
        self.fed = self.shown = frames.stamps[0] - 1
        if key is not None:
            container.seek(key, stream=stream)
        self._packets: Iterator[Any] = container.demux(stream)

    def close(self) -> None:
        self._opened.close()

    def next_frames(self) -> list[Any] | None:
        """Return the whole frames that the next packet brings; None at the end."""
        packet = next(self._packets, None)
        if packet is None:
            return None
        if self._key is not None and packet.pts is not None and packet.pts < self._key:
            return []  # it shows before the keyframe, and may be made from what was not read
        with watched() as watch:
            try:
                decoded = self._decoder.decode(packet if packet.size else None)
            except (library().error.FFmpegError, ValueError):
                decoded, is_bad = [], True
            else:
                is_bad = bool(watch.found())
        self._mark(packet, is_bad)
        for frame in decoded:
            self.shown = max(self.shown, frame.pts if frame.pts is not None else self.shown)
        return [frame for frame in decoded if self._is_whole_frame(frame)]

    def _mark(self, packet: Any, is_bad: bool) -> None:
        """From a damaged packet on, all that is decoded up to the next keyframe may be made from it."""
        if packet.pts is None:
            return
        self.fed = max(self.fed, packet.pts)
        self._is_damaging = is_bad or (self._is_damaging and not packet.is_keyframe)
        if self._is_damaging:
            self._damaged.add(packet.pts)

    def _is_whole_frame(self, frame: Any) -> bool:
        """Whether a frame is free of damage."""
        if frame.pts is None or frame.is_corrupt or frame.pts in self._damaged:
            return False
        if (frame.width, frame.height) != self._size:
            raise VideoError(
                f"it changes its size from {self._size[0]}x{self._size[1]} to {frame.width}x{frame.height} px; "
                f"choose the frames of one size with {option('range')}"
            )
        return True


def _decoder_of(stream: Any, frames: VideoFrames, max_pixels: int) -> Any:
    name = _WITH_ALPHA.get(frames.codec) if frames.has_alpha_beside else None
    decoder = stream.codec_context
    if name:
        decoder = library().CodecContext.create(name, "r")
        decoder.extradata = stream.codec_context.extradata
    decoder.options = {"err_detect": "explode", "max_pixels": str(min(max_pixels, 2**31 - 1))}
    return decoder
