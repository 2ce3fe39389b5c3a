"""The frames of one sequence, and making them agree in size."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from kivel.core.numbering import NumberRange, SequenceError, most_common
from kivel.core.pixels import Align, Size, aligned_offset, in_canvas
from kivel.core.wording import first_few
from kivel.files.images import FrameSource
from kivel.files.safety import shown

if TYPE_CHECKING:  # manifests are rare here, and their models slow to load
    from kivel.core.playback.clip import Clip
    from kivel.files.manifest.model import Manifest

__all__ = ["Frames", "matched"]


class Frames(NamedTuple):
    """The frames of one sequence, in order.

    `notes` says what a person should know: gaps, files left out. `manifest` is there when they come from one.
    """

    stem: str
    frames: tuple[FrameSource, ...]
    notes: tuple[str, ...] = ()
    gaps: tuple[NumberRange, ...] = ()
    manifest: Manifest | None = None

    @property
    def clips(self) -> tuple[Clip, ...]:
        return self.manifest.clips if self.manifest else ()

    @property
    def numbers(self) -> list[int]:
        """What each frame is called by: the number in its file's name, else its place, from 0."""
        return [index if frame.number is None else frame.number for index, frame in enumerate(self.frames)]

    @property
    def depth(self) -> int:
        """Bits a channel: that of the deepest frame."""
        return max(frame.depth for frame in self.frames)


def matched(frames: Frames, *, odd_size: str, align: Align) -> Frames:
    """The same frames, all of one size.

    Parameters
    ----------
    odd_size : "error", "skip" or "pad"
        What becomes of frames whose size is not the one that most have. `pad` puts every frame on the largest width
        and height, aligned.

    Raises
    ------
    SequenceError
        Under `error`, if sizes differ: every odd frame with its size.
    """
    usual = most_common([frame.size for frame in frames.frames])
    odd = [frame for frame in frames.frames if frame.size != usual]
    if not odd:
        return frames
    listed = first_few([f"{frame.source} {frame.size}" for frame in odd])
    count = len(frames.frames)
    if odd_size == "error":
        one_of_many = len(odd) == 1 and count > 2
        commonest = f"the commonest size, {count - len(odd)} of {count} frames, is"
        usually = f"the other {count - 1} frames are" if one_of_many else commonest
        every = f" ({len(odd)} are odd: {listed})" if len(odd) > 1 else ""
        raise SequenceError(
            f"{odd[0].size} px, {usually} {usual}; render it again, or pass --odd-size pad or --odd-size skip{every}",
            where=_frame_path(odd[0]),
        )
    if odd_size == "skip":
        kept = tuple(frame for frame in frames.frames if frame.size == usual)
        notes = [f"left out, not {usual} px: {listed}"]
        if frames.manifest:
            notes.append("the manifest's clips are left out, they count the frames that are no longer there")
        return frames._replace(frames=kept, manifest=None, notes=(*frames.notes, *notes))
    canvas = Size(max(f.size.w for f in frames.frames), max(f.size.h for f in frames.frames))
    padded = tuple(_padded(frame, canvas, align) for frame in frames.frames)
    note = f"padded to {canvas} px, aligned {align}: frames not of that size, {listed}"
    return frames._replace(frames=padded, notes=(*frames.notes, note))


def _frame_path(frame: FrameSource) -> str:
    return shown(frame.path.with_name(frame.source))


def _padded(frame: FrameSource, canvas: Size, align: Align) -> FrameSource:
    offset = aligned_offset(frame.size, canvas, align)
    pivot = tuple((o + p * s) / c for o, p, s, c in zip(offset, frame.pivot, frame.size, canvas, strict=True))
    return frame._replace(size=canvas, pivot=(pivot[0], pivot[1]), load=lambda: in_canvas(frame.load(), canvas, offset))
