"""How few frames will do: what is missed of a sequence when this many are kept, with motion and without."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache, partial

import numpy as np

from kivel.core.layout.memory import FORMATS, texture_bytes
from kivel.core.motion.motion_codes import MotionStorage
from kivel.core.motion.motion_count import MotionCount
from kivel.core.motion.motion_error import Missed, missed, total_missed
from kivel.core.pixels.light import Kind
from kivel.core.pixels.pixels import Size
from kivel.files.processes import in_processes
from kivel.making.frames.resampled_frames import source_holds
from kivel.making.motion.motion_maps import Looked, fitted_map, light_of, times_between
from kivel.making.work import Work
from kivel.sequences.sequence import FrameSequence

__all__ = ["COUNTS", "Counting"]

COUNTS = (8, 12, 16, 24, 32)


class Counting:
    """A sequence, and what is missed of it; nothing is measured twice."""

    def __init__(
        self, sequence: FrameSequence, looked: Looked, *, loops: bool, wraps: bool, kind: Kind, work: Work, jobs: int
    ) -> None:
        self._sequence, self._looked = sequence, looked
        self._loops, self._wraps, self._kind = loops, wraps, kind
        self._work, self._jobs = work, jobs
        self._warped = cache(self._missed_warped)
        self._faded = cache(self._missed_faded)

    def of(self, count: int) -> MotionCount:
        """Return what is missed when this many frames are kept."""
        size = self._sequence.frames[0].size
        color = count * texture_bytes(size, FORMATS["RGBA8"])
        parts = MotionStorage().parts([size])
        motion = count * texture_bytes(Size(size.w // parts, size.h // parts), FORMATS["RGBA8"])
        kept, error = self._warped(count)
        return MotionCount(kept, error, self._faded(count), color + motion, color)

    def within(self, error: float, *, warps: bool, known: Sequence[MotionCount] = ()) -> int:
        """The smallest count whose error is at most that; all frames if no fewer will do.

        By halving, as errors fall with the count, from the counts that are `known`.
        """
        low, high = 2, len(self._sequence.frames)
        for one in known:
            if (one.error if warps else one.faded) <= error:
                high = min(high, len(one.frames))
            else:
                low = max(low, len(one.frames) + 1)
        while low < high:
            middle = (low + high) // 2
            found = self._warped(middle)[1] if warps else self._faded(middle)
            if found <= error:
                high = middle
            else:
                low = middle + 1
        return low

    def _missed_warped(self, count: int) -> tuple[tuple[int, ...], float]:
        """The frames that are kept, and the error of what is warped."""
        work, jobs = self._work, self._jobs
        kept = self._looked.kept(count, loops=self._loops, work=work, jobs=jobs)
        made = fitted_map(
            self._sequence, kept, source_holds(self._sequence), cuts=self._looked.cuts, kind=self._kind,
            wraps=self._wraps, storage=MotionStorage(), work=work, jobs=jobs,
        )  # fmt: skip
        return kept.frames, made.total.error

    def _missed_faded(self, count: int) -> float:
        """The error of cross-fading between the frames that are best for it."""
        kept = self._looked.kept(count, loops=self._loops, work=self._work, jobs=self._jobs, warps=False)
        holds = source_holds(self._sequence)

        def faded(gap: tuple[int, int]) -> Missed:
            first, last = gap
            load = partial(light_of, self._sequence, self._kind)
            between = [load(place) for place in range(first + 1, last)]
            times = times_between(holds[first:last])
            return missed(load(first), load(last), between, times, np.zeros((2, 1, 1), np.float32))

        gaps = [(first, last) for first, last in kept.gaps(len(self._sequence.frames)) if last - first > 1]
        return total_missed(in_processes(faded, gaps, jobs=self._jobs)).error
