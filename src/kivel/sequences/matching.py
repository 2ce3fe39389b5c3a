"""Making the frames of a sequence agree in size."""

from __future__ import annotations

from kivel.core.errors import option
from kivel.core.numbering import SequenceError, most_common
from kivel.core.pixels import Align, Size, aligned_offset, in_canvas
from kivel.core.wording import first_few
from kivel.files.images import FrameSource
from kivel.files.safety import shown
from kivel.sequences.clips import part_of
from kivel.sequences.sequence import FrameSequence

__all__ = ["matched"]


def matched(sequence: FrameSequence, *, odd_size: str, align: Align) -> FrameSequence:
    """The same frames, all of one size.

    Parameters
    ----------
    odd_size : "error", "skip" or "pad"
        What becomes of frames whose size is not the one that most have. `pad` puts every frame on the largest width
        and height, aligned, and its other maps with it.

    Raises
    ------
    SequenceError
        Under `error`, if sizes differ: every odd frame with its size.
    """
    usual = most_common([frame.size for frame in sequence.frames])
    odd = [frame for frame in sequence.frames if frame.size != usual]
    if not odd:
        return sequence
    listed = first_few([f"{frame.source} {frame.size}" for frame in odd])
    if odd_size == "error":
        raise _refused(sequence, odd, usual, listed)
    if odd_size == "skip":
        kept = [index for index, frame in enumerate(sequence.frames) if frame.size == usual]
        return part_of(sequence, kept).noted(f"left out, not {usual} px: {listed}")
    canvas = Size(max(f.size.w for f in sequence.frames), max(f.size.h for f in sequence.frames))
    frames = tuple(_padded(frame, canvas, align) for frame in sequence.frames)
    maps = tuple(one.padded(canvas, align) for one in sequence.maps)
    note = f"padded to {canvas} px, aligned {align}: frames not of that size, {listed}"
    return sequence._replace(frames=frames, maps=maps).noted(note)


def _refused(sequence: FrameSequence, odd: list[FrameSource], usual: Size, listed: str) -> SequenceError:
    count = len(sequence.frames)
    one_of_many = len(odd) == 1 and count > 2
    commonest = f"the commonest size, {count - len(odd)} of {count} frames, is"
    usually = f"the other {count - 1} frames are" if one_of_many else commonest
    every = f" ({len(odd)} are odd: {listed})" if len(odd) > 1 else ""
    todo = f"render it again, or pass {option('odd-size', 'pad')} or {option('odd-size', 'skip')}"
    where = shown(odd[0].path.with_name(odd[0].source))
    return SequenceError(f"{odd[0].size} px, {usually} {usual}; {todo}{every}", where=where)


def _padded(frame: FrameSource, canvas: Size, align: Align) -> FrameSource:
    offset = aligned_offset(frame.size, canvas, align)
    pivot = tuple((o + p * s) / c for o, p, s, c in zip(offset, frame.pivot, frame.size, canvas, strict=True))
    return frame._replace(size=canvas, pivot=(pivot[0], pivot[1]), load=lambda: in_canvas(frame.load(), canvas, offset))
