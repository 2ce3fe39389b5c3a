"""Making the frames of a sequence agree in size."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import TYPE_CHECKING

from kivel.core.errors import option
from kivel.core.numbering import SequenceError, most_common
from kivel.core.option_words import Align
from kivel.core.pixels.pixels import Size, aligned_offset, in_canvas
from kivel.core.pixels.scaling import scaled
from kivel.core.wording import counted, first_few
from kivel.files.images import FrameSource
from kivel.files.safety import shown
from kivel.sequences.clips import part_of
from kivel.sequences.sequence import FrameSequence, require_straight

if TYPE_CHECKING:
    from kivel.core.pixels.light import Kind
    from kivel.core.pixels.scaling import Filter

__all__ = ["matched", "odd_sizes", "on_one_canvas", "registered"]


_MIDDLE = (0.5, 0.5)


def matched(sequence: FrameSequence, *, odd_size: str, align: Align) -> FrameSequence:
    """The same frames, all of one size.

    Parameters
    ----------
    odd_size : "error", "skip", "pad" or "scale"
        What becomes of frames whose size is not the one that most have. `pad` puts every frame on the largest width
        and height, aligned, and its other maps with it; `scale` fits the odd ones to the usual size, their aspect kept.

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
        return part_of(sequence, kept).noted(f"skipped, not {usual} px: {listed}")
    if odd_size == "scale":
        return _all_fitted(sequence, usual, align).noted(f"scaled to {usual} px, keeping the aspect ratio: {listed}")
    return on_one_canvas(sequence, align).noted(
        f"padded to {_largest(sequence)} px, aligned {align}: {odd_sizes(sequence.frames)}"
    )


def odd_sizes(frames: Sequence[FrameSource]) -> str:
    """Return the frames that are not of the size that most have, with theirs, and how many are of that.

    `droid_06.png 36x36, the other 12 frames 32x32`.
    """
    usual = most_common([frame.size for frame in frames])
    odd = [f"{frame.source} {frame.size}" for frame in frames if frame.size != usual]
    return f"{first_few(odd)}, the other {counted(len(frames) - len(odd), 'frame')} {usual}"


def _largest(sequence: FrameSequence) -> Size:
    return Size(max(f.size.w for f in sequence.frames), max(f.size.h for f in sequence.frames))


def on_one_canvas(sequence: FrameSequence, align: Align) -> FrameSequence:
    """Every frame on the largest width and height that there are, aligned, and its maps with it."""
    canvas = _largest(sequence)
    frames = tuple(_padded(frame, canvas, align) for frame in sequence.frames)
    return sequence._replace(frames=frames, maps=tuple(one.padded(canvas, align) for one in sequence.maps))


def _all_fitted(sequence: FrameSequence, size: Size, align: Align) -> FrameSequence:
    """Every frame scaled into a size and aligned in it, and its maps with it."""
    require_straight(sequence, option("odd-size", "scale"))
    if any(one.parts > 1 for one in sequence.maps):
        raise SequenceError(f"a smaller map cannot be scaled along; pass {option('odd-size', 'pad')}")
    frames = tuple(_fitted(frame, size, align, "color") for frame in sequence.frames)
    maps = tuple(
        one._replace(
            frames=tuple(each and _fitted(each, size, align, one.content.kind) for each in one.frames),
            sizes=(size,) * len(one.frames),
        )
        for one in sequence.maps
    )
    return sequence._replace(frames=frames, maps=maps)


def _fitted(frame: FrameSource, size: Size, align: Align, kind: Kind) -> FrameSource:
    if frame.size == size:
        return frame
    share = min(size.w / frame.size.w, size.h / frame.size.h)
    inner = Size(max(1, round(frame.size.w * share)), max(1, round(frame.size.h * share)))
    how: Filter = "box" if share <= 1 else "lanczos"
    load = frame.load
    small = frame._replace(size=inner, load=lambda: scaled(load(), inner, filter=how, kind=kind))
    return _padded(small, size, align)


def registered(sequence: FrameSequence, align: Align | None) -> FrameSequence:
    """Frames of several sizes in one series on one canvas, or noted as they are; collections stay as they are."""
    sizes = Counter(frame.size for frame in sequence.frames)
    if len(sizes) == 1 or any(frame.number is None for frame in sequence.frames):
        return sequence
    if align:
        return on_one_canvas(sequence, align)
    listed = first_few([f"{count} of {size}" for size, count in sizes.most_common()])
    todo = f"{option('align', 'bottom')} puts them on one canvas, so that they line up"
    return sequence.noted(f"{sequence.stem}: frames of several sizes, {listed} px, each on its own canvas; {todo}")


def _refused(sequence: FrameSequence, odd: list[FrameSource], usual: Size, listed: str) -> SequenceError:
    count = len(sequence.frames)
    one_of_many = len(odd) == 1 and count > 2
    commonest = f"the most common size, {count - len(odd)} of {count} frames, is"
    usually = f"the other {count - 1} frames are" if one_of_many else commonest
    every = f" ({len(odd)} are odd: {listed})" if len(odd) > 1 else ""
    todo = f"render it again, or pass {option('odd-size', 'pad')}, scale or skip"
    where = shown(odd[0].path.with_name(odd[0].source))
    return SequenceError(f"{odd[0].size} px, {usually} {usual}; {todo}{every}", where=where)


def _padded(frame: FrameSource, canvas: Size, align: Align) -> FrameSource:
    offset = aligned_offset(frame.size, canvas, align)
    pivot = _MIDDLE
    # one that somebody set stays at its point of the art; the middle, which nobody set, is that of the one canvas:
    # the middles of frames of several sizes are no point that they share
    if frame.pivot != _MIDDLE:
        x, y = ((o + p * s) / c for o, p, s, c in zip(offset, frame.pivot, frame.size, canvas, strict=True))
        pivot = (x, y)
    outline = frame.outline and tuple((x + offset[0], y + offset[1]) for x, y in frame.outline)
    load = frame.load
    return frame._replace(
        size=canvas,
        pivot=pivot,
        outline=outline,
        load=lambda: in_canvas(load(), canvas, offset),
    )
