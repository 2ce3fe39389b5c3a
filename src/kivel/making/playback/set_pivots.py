"""Pivots that options set, for frames wherever they are."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from kivel.core.pivots import PivotRequest, PivotSeries, pivots_of
from kivel.core.pixels.pixels import Size, is_opaque, visibility
from kivel.core.playback.clip import Clip
from kivel.core.survey import Point, centre_of
from kivel.files.images import FrameSource
from kivel.files.threads import in_order
from kivel.sequences.sequence import FrameSequence

__all__ = ["pivots_for", "series_of", "series_of_clips", "with_pivots"]


def series_of(sequences: Sequence[FrameSequence]) -> list[PivotSeries]:
    """The frames of each sequence, counted over all of them; of one that has clips, those of each clip."""
    found: list[PivotSeries] = []
    first = 0
    for sequence in sequences:
        found += [
            PivotSeries(one.name, [first + number for number in one.frames])
            for one in series_of_clips(sequence.clips, sequence)
        ]
        first += len(sequence.frames)
    return found


def series_of_clips(clips: Sequence[Clip], sequence: FrameSequence) -> list[PivotSeries]:
    """The frames of each clip; those that none shows by themselves, or, where there are no clips, together."""
    if not clips:
        return [PivotSeries(sequence.stem, range(len(sequence.frames)))]
    found = [PivotSeries(clip.name, clip.own_frames) for clip in clips]
    shown = {number for one in found for number in one.frames}
    rest = [number for number in range(len(sequence.frames)) if number not in shown]
    return [*found, *(PivotSeries(sequence.frames[number].name, [number]) for number in rest)]


def pivots_for(
    frames: Sequence[FrameSource],
    requests: Sequence[PivotRequest],
    series: Sequence[PivotSeries],
    *,
    sizes: Sequence[Size] | None = None,
    jobs: int,
) -> dict[int, Point]:
    """The pivots of the frames that are meant; `sizes` are those of their canvases, where they are others."""

    def measure(numbers: Sequence[int]) -> Iterator[tuple[float, Point | None]]:
        return in_order(lambda number: _seen(frames[number]), numbers, jobs=jobs)

    return pivots_of(requests, series, [f.name for f in frames], sizes or [f.size for f in frames], measure)


def _seen(frame: FrameSource) -> tuple[float, Point | None]:
    """The visible mass of a frame and its centre, in fractions: of alpha, or of brightness if it is opaque."""
    image = frame.load()
    mass, centre = centre_of(image[..., :3].max(axis=-1) if is_opaque(image) else visibility(image))
    height, width = image.shape[:2]
    return mass, centre and (centre[0] / width, centre[1] / height)


def with_pivots(
    sequences: Sequence[FrameSequence], requests: Sequence[PivotRequest], *, jobs: int
) -> list[FrameSequence]:
    """The sequences, their frames with the pivots that are asked for.

    Raises
    ------
    UsageError
        If a name matches nothing.
    """
    if not requests:
        return list(sequences)
    frames = [frame for sequence in sequences for frame in sequence.frames]
    pivots = pivots_for(frames, requests, series_of(sequences), jobs=jobs)
    rest = iter([frame._replace(pivot=pivots.get(number, frame.pivot)) for number, frame in enumerate(frames)])
    return [sequence._replace(frames=tuple(next(rest) for _ in sequence.frames)) for sequence in sequences]
