"""Findings on how clips play."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction

from kivel.core.checks.clip_faults import doubled_turns, phases_repeated, seen_on_clock, unseen_events
from kivel.core.checks.findings import Finding, Spot
from kivel.core.errors import option
from kivel.core.playback.clip import Clip
from kivel.core.playback.clock import converted
from kivel.core.playback.groups import Group
from kivel.core.wording import first_few

__all__ = ["clip_findings"]

_RATES = (30, 60, 120)
_UNEVEN_RATES = (30, 60)


def clip_findings(
    clips: Sequence[Clip], groups: Sequence[Group], file: str, clock: Fraction | None
) -> Iterator[Finding]:
    """Return what is odd about each clip, and about those of a group together."""
    for clip in clips:
        where = Spot(file, clip=clip.name)
        yield from _on_screens(clip, where)
        turns = doubled_turns(clip)
        if turns:
            text = f"shows one frame twice at the turn, step {turns[0]}"
            yield Finding(
                "turn-doubled",
                "note",
                where,
                turns[0],
                text,
                f"remove it from the order, or {option('hold-ends', True)}",
            )
        for name in unseen_events(clip):
            text = f'the event "{name}" is on a step that never shows'
            yield Finding("event-unseen", "warning", where, None, text, "move it, or change the phase")
        yield from _off_clock(clip, where, clock)
    by_name = {clip.name: clip for clip in clips}
    for group in groups:
        for first, second in phases_repeated([by_name[name] for name in group.members if name in by_name]):
            text = f'plays exactly like "{first}", and both are in group "{group.name}"'
            spot = Spot(file, clip=second)
            yield Finding(
                "phase-repeated",
                "note",
                spot,
                None,
                text,
                f"kivel retime MANIFEST {option('clip', second)} {option('phase', '25%')}",
            )


def _on_screens(clip: Clip, where: Spot) -> Iterator[Finding]:
    """The highest rate at which steps may go unseen, as they do at lower ones; the lowest at which some are uneven."""
    unseen = {rate: seen_on_clock(clip, rate)[0] for rate in _RATES}
    rates = [rate for rate in _RATES if unseen[rate]]
    if rates:
        steps = first_few([str(step) for step in unseen[rates[-1]]])
        text = f"steps {steps} are shorter than a rendered frame at {rates[-1]} a second, and may never be seen"
        yield Finding(
            "step-unseen",
            "note",
            where,
            rates[-1],
            text,
            f"kivel retime MANIFEST {option('hold', '2')}, or a lower rate",
        )
    uneven = [rate for rate in _UNEVEN_RATES if seen_on_clock(clip, rate)[1]]
    if uneven:
        rates_text = " and ".join(str(rate) for rate in uneven)
        text = f"equal holds show for different numbers of rendered frames, at {rates_text} a second"
        yield Finding("steps-uneven", "note", where, uneven[0], text, "holds that are multiples of 1/60 s, or 1/30 s")


def _off_clock(clip: Clip, where: Spot, clock: Fraction | None) -> Iterator[Finding]:
    if clock is None:
        return
    conversion = converted(clip, clock)
    if conversion.merged:
        steps = first_few([str(step) for step in conversion.merged])
        text = f"at {clock} ticks a second steps {steps} would not show at all"
        yield Finding("off-clock", "note", where, len(conversion.merged), text, "longer holds")
    elif conversion.largest_error:
        error = float(conversion.largest_error * 1000)
        text = f"its holds are not whole ticks of {clock} a second: steps end up to {error:.3f} ms off"
        yield Finding(
            "off-clock",
            "note",
            where,
            round(error, 6),
            text,
            f"kivel retime MANIFEST {option('timebase', clock)} {option('convert', True)}",
        )
