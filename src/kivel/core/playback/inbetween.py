"""Blended frames between neighbours, for what cannot interpolate: the clip then steps through them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip, Step
from kivel.core.playback.player import Player, phase_at_share

__all__ = ["Between", "Inbetweened", "inbetweened"]


class Between(NamedTuple):
    """A frame with the share `weight` of the one that follows it."""

    frame: int
    following: int
    weight: Fraction


class Inbetweened(NamedTuple):
    """The clips over more frames; `frames` has what each is: a frame as before, by number, or a blend of two."""

    clips: tuple[Clip, ...]
    frames: tuple[int | Between, ...]


def inbetweened(clips: Sequence[Clip], frames: int, count: int) -> Inbetweened:
    """`count` blends between every two frames that follow each other, the last and first of an endless clip too.

    Every hold is divided exactly, into as many parts. A cycle that does not play as listed is written out, unless it
    goes back and forth with even holds.

    Parameters
    ----------
    frames : int
        How many there are.
    """
    pairs = dict.fromkeys(pair for clip in clips for pair in _pairs(clip))
    # a to b and b to a have the same blends, the other way round
    wanted = [pair for pair in pairs if pair[::-1] not in pairs or pair[0] < pair[1]]
    contents: list[int | Between] = []
    for frame in range(frames):
        contents.append(frame)
        for pair in wanted:
            if pair[0] == frame:
                contents += [Between(*pair, Fraction(part, count + 1)) for part in range(1, count + 1)]
    number = {content: index for index, content in enumerate(contents)}
    return Inbetweened(tuple(_divided(clip, number, count) for clip in clips), tuple(contents))


def _pairs(clip: Clip) -> list[tuple[int, int]]:
    """Which frame changes into which."""
    shown = [step.frame for step in clip.cycle()]
    following = shown[1:] + shown[:1] if clip.repeat == "forever" else shown[1:]
    return [(a, b) for a, b in zip(shown, following, strict=False) if a != b]


def _divided(clip: Clip, number: dict[int | Between, int], count: int) -> Clip:
    parts = count + 1
    even = len(clip.steps) > 1 and len({step.hold for step in clip.steps}) == 1
    stays = clip.alternates and even and not clip.hold_ends
    order = tuple(range(len(clip.steps))) if stays else clip.order()
    closes = clip.repeat == "forever" and not stays
    steps: list[Step] = []
    begins = []
    for place, step in enumerate(order):
        begins.append(len(steps))
        frame, hold = clip.steps[step]
        is_last = place + 1 == len(order)
        following = clip.steps[order[(place + 1) % len(order)]].frame
        if is_last and stays:
            steps.append(Step(number[frame], hold))
        elif (is_last and not closes) or following == frame:
            steps.append(Step(number[frame], hold * parts))
        else:
            steps.append(Step(number[frame], hold))
            steps += [Step(_number(number, frame, following, Fraction(n, parts)), hold) for n in range(1, parts)]
    events = tuple(
        replace(event, step=begins[place])
        for place, step in enumerate(order)
        for event in clip.events
        if event.step == step
    )
    direction = clip.direction if stays else "normal"
    result = replace(
        clip, timebase=clip.timebase * parts, steps=tuple(steps), direction=direction, interpolation="step",
        events=events, phase=Fraction(0), hold_ends=None,
    )  # fmt: skip
    return replace(result, phase=phase_at_share(result, Player(clip).phase_share))


def _number(number: dict[int | Between, int], frame: int, following: int, weight: Fraction) -> int:
    found = number.get(Between(frame, following, weight))
    return number[Between(following, frame, 1 - weight)] if found is None else found
