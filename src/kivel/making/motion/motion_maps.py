"""Maps of motion for a sequence: fitted to frames that are left out, or estimated from the frames alone."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from fractions import Fraction
from functools import partial
from itertools import accumulate, chain
from typing import Any, TypeVar

import numpy as np

from kivel.core.contents import CONTENTS
from kivel.core.motion.blind_motion import TRUSTED, blind_motion, distrust
from kivel.core.motion.fitted_motion import fitted_motion
from kivel.core.motion.frame_choice import (
    SmallSequence,
    SmallStep,
    best_frames,
    cut_places,
    gap_limit,
    small,
    step_between,
)
from kivel.core.motion.motion_codes import MotionReach, MotionStorage, decoded, encoded, reach_of
from kivel.core.motion.motion_error import missed
from kivel.core.motion.pairs import MotionPairs
from kivel.core.motion.warping import Planes, Vectors, enlarged
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.light import Kind, to_light
from kivel.core.pixels.pixels import Pixels, Size
from kivel.core.resampling import sample_positions, samples
from kivel.files.images import FrameSource
from kivel.files.processes import in_processes
from kivel.files.threads import in_order
from kivel.making.work import Work
from kivel.sequences.made_motion import MotionMade, PairMotion
from kivel.sequences.map_frames import MapFrames
from kivel.sequences.sequence import FrameSequence

__all__ = ["KeptFrames", "Looked", "blind_map", "even_frames", "fitted_map", "light_of", "looked_at", "times_between"]

Found = TypeVar("Found")

_DIGITS = 4
_BETTER = 0.999
"""Warping has to miss a little less than fading: how far a map reaches, and so its codes, may yet change."""


class KeptFrames(NamedTuple):
    """Frames that are kept of a sequence, in order. A loop goes on from the last to the first."""

    frames: tuple[int, ...]
    loops: bool

    def gaps(self, length: int) -> list[tuple[int, int]]:
        """The way from each to the next, in source frames; the last may end at `length`, the first again."""
        ends = [*self.frames[1:], *([length] if self.loops else [])]
        return list(zip(self.frames, ends, strict=False))


def even_frames(length: int, count: int, *, loops: bool) -> KeptFrames:
    """This many frames, evenly spaced."""
    positions = sample_positions(length, count, one_shot=not loops)
    spans = samples(length, positions, one_shot=not loops, mix=False)
    return KeptFrames(tuple(span.shares[0].frame for span in spans), loops)


class Looked(NamedTuple):
    """Holds what a quick look at a sequence found: small frames, the steps from each to the next, after which are
    cuts.
    """

    small: SmallSequence
    cuts: tuple[int, ...]

    @property
    def closes(self) -> bool:
        """Whether the last frame goes on into the first."""
        return self.small.loops and len(self.small.frames) - 1 not in self.cuts

    def kept(self, count: int, *, loops: bool, work: Work, jobs: int, warps: bool = True) -> KeptFrames:
        """This many frames, between which the least is missed by warping, or by fading."""
        length = len(self.small.frames)
        end, widest = (length if loops else length - 1), gap_limit(length, count)
        gaps = [(first, last) for first in range(end) for last in range(first + 1, min(first + widest, end) + 1)]
        starts = range(end)

        def costs_from(first: int) -> list[float]:
            return [self.small.missed(*gap, warps=warps) for gap in gaps if gap[0] == first]

        with work.progress("choosing frames", end) as advance:
            found = list(_watched(in_processes(costs_from, starts, jobs=jobs), advance))
        costs = dict(zip(gaps, chain.from_iterable(found), strict=True))
        best = KeptFrames(tuple(best_frames(length, count, loops=loops, missed=lambda *gap: costs[gap])), loops)
        return self._better(best, even_frames(length, count, loops=loops), jobs) if warps else best

    def _better(self, one: KeptFrames, other: KeptFrames, jobs: int) -> KeptFrames:
        """Those of both between which less is missed by motion that is fitted to small frames: costs are estimates."""
        length = len(self.small.frames)
        gaps = [gap for gap in dict.fromkeys((*one.gaps(length), *other.gaps(length))) if gap[1] - gap[0] > 1]
        found = dict(zip(gaps, in_processes(lambda gap: self.small.missed_fitted(*gap), gaps, jobs=jobs), strict=True))
        sums = [sum(found.get(gap, 0.0) for gap in kept.gaps(length)) for kept in (one, other)]
        return one if sums[0] <= sums[1] else other


def light_of(sequence: FrameSequence, kind: Kind, index: int) -> Planes:
    """A frame as light; the one behind the last is the first again."""
    return to_light(sequence.frames[index % len(sequence.frames)].load(), kind)


def _watched_steps(
    load: Callable[[int], Planes], pairs: Sequence[tuple[int, int]], count: int, *, wraps: bool, work: Work, jobs: int
) -> tuple[list[Planes], list[SmallStep], tuple[int, ...]]:
    """Small frames, the steps between pairs of them, and which of these steps are cuts."""
    with work.progress("looking at motion", count + len(pairs)) as advance:
        frames = list(_watched(in_order(lambda index: small(load(index)), range(count), jobs=jobs), advance))

        def step(pair: tuple[int, int]) -> SmallStep:
            return step_between(frames[pair[0]], frames[pair[1]], wraps=wraps)

        steps = list(_watched(in_processes(step, pairs, jobs=jobs), advance))
    return frames, steps, tuple(cut_places(frames, [one.rest for one in steps]))


def _watched(results: Iterable[Found], advance: Callable[[], None]) -> Iterator[Found]:
    for result in results:
        yield result
        advance()


def looked_at(sequence: FrameSequence, *, kind: Kind, loops: bool, wraps: bool, work: Work, jobs: int) -> Looked:
    """A quick look at small frames."""
    count = len(sequence.frames)
    pairs = [(index, (index + 1) % count) for index in range(count if loops else count - 1)]
    load = partial(light_of, sequence, kind)
    frames, steps, cuts = _watched_steps(load, pairs, count, wraps=wraps, work=work, jobs=jobs)
    return Looked(SmallSequence(frames, steps, wraps), cuts)


def times_between(holds: Sequence[Fraction]) -> list[float]:
    """Where frames lie between the first and the one after the last, 0 to 1, from how long each shows.

    >>> times_between([Fraction(1), Fraction(2), Fraction(1)])
    [0.25, 0.75]
    """
    passed = list(accumulate(holds))
    return [float(one / passed[-1]) for one in passed[:-1]]


def fitted_map(
    sequence: FrameSequence,
    kept: KeptFrames,
    holds: Sequence[Fraction],
    *,
    cuts: Sequence[int] = (),
    kind: Kind = "color",
    wraps: bool = False,
    storage: MotionStorage,
    work: Work,
    jobs: int,
) -> MotionMade:
    """The map of the frames that are kept, by which what is left out between them is rebuilt best.

    Parameters
    ----------
    holds : sequence of Fraction
        How long each frame of the sequence shows: frames between are rebuilt for the time at which they showed.
    cuts : sequence of int
        Frames after which the scene changes: pairs across have no motion, and are none.
    """
    gaps = kept.gaps(len(sequence.frames))
    crossing = [any(first <= cut < last for cut in cuts) for first, last in gaps]
    left_out = _LeftOut(partial(light_of, sequence, kind), len(kept.frames), gaps, crossing, holds, wraps)
    sides = {side for frame in sequence.frames for side in frame.size}
    # of odd sides a map is as large as the frames, too, but fitted at half of that: it need not take so long
    full = storage.parts(frame.size for frame in sequence.frames) == 1 and not any(side % 2 for side in sides)
    with work.progress("fitting motion", len(gaps)) as advance:
        fit = partial(left_out.fitted, full=full)
        fields = list(_watched(in_processes(fit, range(len(gaps)), jobs=jobs), advance))
    reach, dtype = reach_of(fields), _dtype(storage.bits)
    with work.progress("judging motion", len(gaps)) as advance:
        judge = partial(left_out.judged, stored=lambda place: decoded(encoded(fields[place], reach, dtype), reach))
        judged = list(_watched(in_processes(judge, range(len(gaps)), jobs=jobs), advance))
    fields = [np.zeros_like(one) if pair.fallback else one for one, pair in zip(fields, judged, strict=True)]
    frames = [sequence.frames[index] for index in kept.frames]
    later: list[int | None] = [None if crosses else pair.later for crosses, pair in zip(crossing, judged, strict=True)]
    pairs = tuple(pair for pair, crosses in zip(judged, crossing, strict=True) if not crosses)
    across = tuple(place for place, crosses in enumerate(crossing) if crosses)
    made = _map_of(frames, fields, later, storage, wraps=wraps)
    found = {pair.earlier: round(pair.missed.ratio, _DIGITS) for pair in pairs if pair.missed}
    motion = made.motion and made.motion._replace(ratios=tuple(found.get(place) for place in range(len(frames))))
    return MotionMade(made._replace(motion=motion), pairs, across)


class _LeftOut(NamedTuple):
    """Holds what is left out between this many frames that are kept: from which to which, whether the scene changes
    there.
    """

    load: Callable[[int], Planes]
    kept: int
    gaps: Sequence[tuple[int, int]]
    crossing: Sequence[bool]
    holds: Sequence[Fraction]
    wraps: bool

    def between(self, place: int) -> tuple[list[Planes], list[float]]:
        """The frames in a gap, and at which shares of its time they showed."""
        first, last = self.gaps[place]
        return [self.load(index) for index in range(first + 1, last)], times_between(self.holds[first:last])

    def fitted(self, place: int, *, full: bool) -> Vectors:
        """The motion across a gap by which what is in it is rebuilt best."""
        first, last = self.gaps[place]
        earlier, later = self.load(first), self.load(last)
        if self.crossing[place]:
            return _still(earlier)
        if last - first == 1:
            return blind_motion(earlier, later, wraps=self.wraps)
        return fitted_motion(earlier, later, *self.between(place), wraps=self.wraps, full=full)

    def judged(self, place: int, *, stored: Callable[[int], Vectors]) -> PairMotion:
        """How good the motion across a gap is, as it is stored; where fading is no worse, it falls back to that."""
        first, last = self.gaps[place]
        earlier, later, vectors = self.load(first), self.load(last), stored(place)
        named = place, (place + 1) % self.kept
        if last - first == 1:
            doubt = distrust(earlier, later, vectors, wraps=self.wraps)
            return PairMotion(*named, None, doubt, fallback=doubt > TRUSTED)
        found = missed(earlier, later, *self.between(place), vectors, wraps=self.wraps)
        if found.warping < _BETTER * found.fading or self.crossing[place]:
            return PairMotion(*named, found, None, fallback=self.crossing[place])
        return PairMotion(*named, found._replace(warping=found.fading), None, fallback=True)


def blind_map(
    frames: Sequence[FrameSource],
    pairs: Sequence[tuple[int, int]],
    *,
    kind: Kind = "color",
    wraps: bool = False,
    storage: MotionStorage,
    work: Work,
    jobs: int,
) -> MotionMade:
    """The map for pairs of frames, where nothing is known of what lies between; no two pairs begin with one frame."""

    def load(index: int) -> Planes:
        return to_light(frames[index].load(), kind)

    _, _, cuts = _watched_steps(load, pairs, len(frames), wraps=wraps, work=work, jobs=jobs)
    across = [pair for place, pair in enumerate(pairs) if place in cuts]
    wanted = [pair for pair in pairs if pair not in across]
    after, before = dict(wanted), {later: earlier for earlier, later in reversed(wanted)}

    def estimate(pair: tuple[int, int]) -> tuple[Vectors, PairMotion]:
        outside = [None if index is None else load(index) for index in (before.get(pair[0]), after.get(pair[1]))]
        earlier, later = load(pair[0]), load(pair[1])
        vectors = blind_motion(earlier, later, before=outside[0], after=outside[1], wraps=wraps)
        doubt = distrust(earlier, later, vectors, wraps=wraps)
        if doubt > TRUSTED or not vectors.any():
            return np.zeros_like(vectors), PairMotion(*pair, None, doubt, fallback=True)
        return vectors, PairMotion(*pair, None, doubt, fallback=False)

    with work.progress("estimating motion", len(wanted)) as advance:
        found = dict(zip(wanted, _watched(in_processes(estimate, wanted, jobs=jobs), advance), strict=True))
    fields: list[Vectors | None] = [None] * len(frames)
    later: list[int | None] = [None] * len(frames)
    for (start, end), (vectors, _) in found.items():
        fields[start], later[start] = vectors, end
    made = _map_of(frames, fields, later, storage, wraps=wraps)
    return MotionMade(made, tuple(pair for _, pair in found.values()), tuple(start for start, _ in across))


def _map_of(
    frames: Sequence[FrameSource],
    fields: Sequence[Vectors | None],
    later: Sequence[int | None],
    storage: MotionStorage,
    *,
    wraps: bool,
) -> MapFrames:
    """Where there are no vectors, nothing moves."""
    parts, bits = storage.parts(frame.size for frame in frames), storage.bits
    sizes = tuple(Size(frame.size.w // parts, frame.size.h // parts) for frame in frames)
    reach = reach_of([one for one in fields if one is not None])
    sources = []
    for number, (frame, size) in enumerate(zip(frames, sizes, strict=True)):
        field = fields[number] if number < len(fields) else None
        load = partial(_stored, field, size, reach, _dtype(bits), wraps)
        sources.append(frame._replace(size=size, depth=bits, mode="RGBA", load=load))
    motion = MotionPairs(reach, (*later, *[None] * (len(frames) - len(later))), wraps)
    return MapFrames("motion", CONTENTS["motion"], tuple(sources), sizes, bits, parts, motion=motion)


def _stored(field: Vectors | None, size: Size, reach: MotionReach, dtype: Any, wraps: bool) -> Pixels:
    if field is None:
        return encoded(np.zeros((2, size.h, size.w), np.float32), reach, dtype)
    return encoded(enlarged(field, size.h, size.w, wraps=wraps), reach, dtype)


def _still(image: Planes) -> Vectors:
    return np.zeros((2, -(-image.shape[1] // 2), -(-image.shape[2] // 2)), np.float32)


def _dtype(bits: int) -> Any:
    return np.uint16 if bits == 16 else np.uint8
