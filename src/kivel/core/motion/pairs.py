"""Describes what the vectors of a map say: from which frame they lead to which, and how far they reach."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Literal

from kivel.core.motion.motion_codes import MotionReach
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip
from kivel.core.wording import counted

__all__ = ["MotionPairs", "joined_motion", "unserved", "unserved_text", "why_not_warped"]


class MotionPairs(NamedTuple):
    """The pairs of a motion map with a frame for each of the colour's.

    `later` is, for each frame, the one that its vectors lead to, None where they lead nowhere; `wraps` says that frames
    are tiles, and motion leaves at one side to come in at the other. `ratios` say for each frame how much of fading's
    error warping makes; there are none where nothing is known of any, and None where it is not of one.
    """

    reach: MotionReach
    later: tuple[int | None, ...]
    wraps: bool = False
    ratios: tuple[float | None, ...] = ()

    @property
    def pairs(self) -> list[tuple[int, int]]:
        """The earlier and the later frame of each pair."""
        return [(earlier, later) for earlier, later in enumerate(self.later) if later is not None]

    def ratio(self, frame: int) -> float | None:
        """How much of the error of cross-fading warping makes, from a frame on; None where that is not known."""
        return self.ratios[frame] if self.ratios else None

    def way(self, first: int, second: int) -> Literal["forward", "backward"] | None:
        """How the vectors serve the change from one frame to another; backward they lie with the second."""
        if self.later[first] == second:
            return "forward"
        return "backward" if self.later[second] == first else None

    def chosen(self, indexes: Sequence[int]) -> MotionPairs:
        """The same of some frames: pairs of which both are there.

        >>> MotionPairs(MotionReach(8, 8), (1, 2, 3, 0)).chosen([1, 2, 0]).pairs
        [(0, 1), (2, 0)]
        """
        places: dict[int, list[int]] = {}
        for place, index in enumerate(indexes):
            places.setdefault(index, []).append(place)
        later = []
        for place, index in enumerate(indexes):
            other = self.later[index]
            found = [] if other is None else places.get(other, [])
            # of several copies the one that comes next
            later.append(min(((one - place - 1) % len(indexes), one) for one in found)[1] if found else None)
        ratios = tuple(self.ratio(index) for index in indexes) if self.ratios else ()
        return self._replace(later=tuple(later), ratios=ratios)


def joined_motion(every: Iterable[tuple[MotionPairs | None, int]]) -> MotionPairs | None:
    """Return the pairs of several sequences as one, each with its number of frames; None where one lacks it.

    The reach is the largest: maps of a smaller one have to be encoded again.
    """
    parts = list(every)
    known = [motion for motion, _ in parts if motion is not None]
    if len(known) < len(parts) or len({motion.wraps for motion in known}) > 1:
        return None
    later: list[int | None] = []
    ratios: list[float | None] = []
    for motion in known:
        first = len(later)
        later += [None if other is None else other + first for other in motion.later]
        ratios += [motion.ratio(frame) for frame in range(len(motion.later))]
    reach = MotionReach(max(one.reach.x for one in known), max(one.reach.y for one in known))
    is_known = any(ratio is not None for ratio in ratios)
    return MotionPairs(reach, tuple(later), known[0].wraps, tuple(ratios) if is_known else ())


def unserved(clip: Clip, motion: MotionPairs) -> list[tuple[int, int]]:
    """The changes from one frame to another that a clip shows and no vectors serve, in playing order."""
    return [pair for pair in clip.changes() if motion.way(*pair) is None]


def why_not_warped(clip: Clip, motion: MotionPairs | None) -> str | None:
    """Why a clip cannot be warped, as a part of a sentence; None if it can."""
    if motion is None:
        return "there is no motion map"
    lacking = unserved(clip, motion)
    return unserved_text(lacking) if lacking else None


def unserved_text(pairs: Sequence[tuple[int, int]]) -> str:
    """`no vectors lead from frame 3 to 7` and how many more."""
    (first, second), *others = pairs
    more = f", nor for {counted(len(others), 'other change')}" if others else ""
    return f"there are no motion vectors from frame {first} to {second}{more}"
