"""One play of a clip as layers that all show equally long, for formats that know no other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from math import gcd, lcm

from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip, Repeat
from kivel.core.playback.schedule import schedule

__all__ = ["LayerPlan", "layer_plan"]


class LayerPlan(NamedTuple):
    """The frame of each layer, None for nothing; each shows for `seconds`, all are played `repeat` times."""

    frames: tuple[int | None, ...]
    seconds: Fraction
    repeat: Repeat


def layer_plan(clip: Clip, others: Sequence[Clip] = ()) -> LayerPlan:
    """The layers of a clip from its start on: its phase, ping-pong and followers are written out.

    Steps are repeated by the greatest common divisor of their holds. Frames are not blended.

    >>> from kivel.core.playback.clip import Step
    >>> layer_plan(Clip("moth", Fraction(12), (Step(0, 4), Step(1, 2))))
    LayerPlan(frames=(0, 0, 1), seconds=Fraction(1, 6), repeat='forever')
    """
    plan = schedule(replace(clip, interpolation="step"), blends=Fraction(1), others=others)
    lengths = [shot.seconds for shot in plan.shots]
    under = lcm(*(length.denominator for length in lengths))
    seconds = Fraction(gcd(*(int(length * under) for length in lengths)), under)
    frames = [frame for shot in plan.shots for frame in [shot.frame] * int(shot.seconds / seconds)]
    return LayerPlan(tuple(frames), seconds, plan.repeat)
