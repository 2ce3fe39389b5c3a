"""A map of motion that was made, and how well it serves."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from kivel.core.motion.blind_motion import distrust
from kivel.core.motion.motion_codes import decoded
from kivel.core.motion.motion_error import Missed, total_missed
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.light import to_light
from kivel.files.threads import in_order
from kivel.sequences.map_frames import MapFrames
from kivel.sequences.sequence import FrameSequence

__all__ = ["MotionMade", "PairMotion", "stored_pairs"]


class PairMotion(NamedTuple):
    """Holds what became of a pair: its frames, the error of warping and of fading where that could be told, and how
    far the motion is distrusted where it could not. A `fallback` has no motion: fading is better, or as good.
    """

    earlier: int
    later: int
    missed: Missed | None
    distrust: float | None
    fallback: bool
    stored_ratio: float | None = None

    @property
    def ratio(self) -> float | None:
        """How much of the error of cross-fading warping makes, if that is known."""
        return self.missed.ratio if self.missed else self.stored_ratio

    @property
    def confidence(self) -> float:
        """From 0 to 1; where the error is known, how much better than fading warping is."""
        return max(0.0, 1 - (self.distrust or 0.0 if self.ratio is None else self.ratio))


class MotionMade(NamedTuple):
    """A map with a frame for each of the sequence's, and the text about its pairs; after `cuts` the scene changes."""

    map: MapFrames
    pairs: tuple[PairMotion, ...]
    cuts: tuple[int, ...] = ()

    @property
    def total(self) -> Missed:
        """Over all pairs whose error is known."""
        return total_missed(pair.missed for pair in self.pairs if pair.missed)


def stored_pairs(
    frames: FrameSequence, known: MapFrames, *, jobs: int, advance: Callable[[], None]
) -> Iterator[PairMotion]:
    """How far the motion that is stored is to be distrusted, pair by pair; those of two sizes are left out."""
    assert known.motion is not None
    motion = known.motion

    def judged(pair: tuple[int, int]) -> PairMotion | None:
        first, second = pair
        if frames.frames[first].size != frames.frames[second].size:
            return None
        earlier, later = (to_light(frames.frames[number].load()) for number in pair)
        vectors = decoded(known.load(first), motion.reach)
        doubt = distrust(earlier, later, vectors, wraps=motion.wraps)
        return PairMotion(first, second, None, doubt, not vectors.any(), motion.ratio(first))

    for one in in_order(judged, motion.pairs, jobs=jobs):
        advance()
        if one is not None:
            yield one
