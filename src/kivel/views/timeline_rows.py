"""Describes what shows when, as rows: of happenings, of moments, of a game's rendered frames, and by hand."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from fractions import Fraction
from itertools import count, groupby
from typing import Any

from kivel.core.playback.clip import Clip
from kivel.core.playback.instances import Instance, happenings_of
from kivel.core.playback.notation import format_order
from kivel.core.playback.player import Happening
from kivel.core.playback.rendered import Rendered, rendered_steps
from kivel.views.rows import Column

__all__ = [
    "HAPPENINGS",
    "MOMENTS",
    "RENDERED",
    "clock_lines",
    "columns_for",
    "happening_rows",
    "moment_rows",
    "natural_end",
    "rendered_rows",
    "rows_by_hand",
]

Row = dict[str, Any]

_WHO = (Column("time", "s", 10), Column("seconds", ""), Column("instance", "instance", 8), Column("clip", "clip", 12))
_WHAT = (Column("cycle", "cycle", 5), Column("step", "step", 4), Column("frame", "frame", 5))
HAPPENINGS = (*_WHO, Column("what", "what", 5), *_WHAT, Column("name", "event", 8))
MOMENTS = (
    *_WHO, *_WHAT, Column("fraction", "through hold", 12), Column("following", "blends to", 9),
    Column("weight", "weight", 8), Column("ended", "ended", 5),
)  # fmt: skip
RENDERED = (Column("rendered", "rendered", 8), *MOMENTS)


def columns_for(columns: Sequence[Column], instances: Sequence[Instance]) -> list[Column]:
    """The columns without titles for what says nothing here: people do not see those, programs always do."""
    clips = [player.clip for instance in instances for player in instance.chain.players]
    silent = {
        "instance": len({instance.number for instance in instances}) == 1,
        "following": all(clip.interpolation == "step" for clip in clips),
        "weight": all(clip.interpolation == "step" for clip in clips),
        "ended": all(clip.repeat == "forever" for clip in clips),
        "name": not any(clip.events for clip in clips),
    }
    return [column._replace(title="") if silent.get(column.key) else column for column in columns]


def happening_rows(instances: Sequence[Instance], span: Fraction | None) -> Iterator[Row]:
    """All that happens before `span`.

    Without one, to each instance up to the end of what is finite, or of one cycle of what is not, that included: what
    begins again then is left out.
    """
    if span is not None:
        for instance, clip, happening in happenings_of(instances, Fraction(0), [span] * len(instances)):
            yield _happening_row(instance, clip, happening)
        return
    # a moment more, to have what happens at the very end
    ends = [instance.chain.settled for instance in instances]
    until = [end + Fraction(1, 10**12) for end in ends]
    for instance, clip, happening in happenings_of(instances, Fraction(0), until):
        own_end = instance.chain.settled
        if happening.time == own_end and instance.chain.length is None and happening.kind in ("show", "event"):
            continue
        yield _happening_row(instance, clip, happening)


def natural_end(instances: Sequence[Instance]) -> Fraction:
    """When all that is finite has ended, and what is not has gone through a cycle."""
    return max(instance.chain.settled for instance in instances)


def moment_rows(instances: Sequence[Instance], times: Iterable[Fraction]) -> Iterator[Row]:
    """Return what shows at each time."""
    for time in times:
        for instance in instances:
            player, _, moment = instance.chain.at(time)
            row = _row(instance, player.clip, time)
            row |= {"cycle": moment.cycle, "step": moment.step, "frame": moment.frame}
            row |= {"fraction": moment.fraction, "ended": moment.ended}
            if moment.weight:
                row |= {"following": moment.following, "weight": moment.weight}
            yield row


def rendered_rows(instances: Sequence[Instance], clock: Fraction, span: Fraction | None) -> Iterator[Row]:
    """Return what each rendered frame shows, of this many a second."""
    end = natural_end(instances) if span is None else span
    for number in count():
        time = number / clock
        if time >= end and number:
            return
        for row in moment_rows(instances, [time]):
            yield {"rendered": number} | row


def clock_lines(instances: Sequence[Instance], clock: Fraction) -> list[str]:
    """Return what a game on this clock misses of each clip, or shows unevenly."""
    of_clip = {player.clip.name: player for instance in instances for player in instance.chain.players}
    return [
        f'clip "{name}" at {clock} frames a second: {line}'
        for name, player in of_clip.items()
        for line in _unevenness(rendered_steps(player, clock))
    ]


def rows_by_hand(instance: Instance, advance: Callable[[], bool]) -> Iterator[Row]:
    """Return what shows at first; then, for as long as `advance` says so, a step further."""
    for number, (_, happenings) in enumerate(groupby(instance.chain.happenings(), key=lambda each: each[1].time)):
        if number and not advance():
            return
        for player, happening in happenings:
            yield _happening_row(instance, player.clip, happening)


def _row(instance: Instance, clip: Clip, time: Fraction) -> Row:
    return {"time": time, "seconds": float(time), "instance": instance.number, "clip": clip.name}


def _happening_row(instance: Instance, clip: Clip, happening: Happening) -> Row:
    row = _row(instance, clip, happening.time) | {"what": happening.kind, "cycle": happening.cycle}
    if happening.kind == "show" and happening.frame is None:
        row["what"] = "none"
    elif happening.kind in ("show", "event"):
        row |= {"step": happening.step, "frame": happening.frame}
    return row | ({"name": happening.name} if happening.name else {})


def _unevenness(steps: Sequence[Rendered]) -> list[str]:
    if not steps:
        return ["it shows its first step and does not play"]
    never = [each.step for each in steps if each.most == 0]
    at_times = [each.step for each in steps if each.least == 0 < each.most]
    lines = [f"{_steps(never)} never seen: shorter than a rendered frame"] if never else []
    lines += [f"{_steps(at_times)} skipped in some cycles: shorter than a rendered frame"] if at_times else []
    uneven = [each for each in steps if 0 < each.least < each.most]
    for counts in sorted({(each.least, each.most) for each in uneven}):
        numbers = [each.step for each in uneven if (each.least, each.most) == counts]
        lines.append(f"{_steps(numbers)} shown for {counts[0]} or {counts[1]} rendered frames in turn")
    return lines or ["every step shows for the same number of rendered frames each time"]


def _steps(numbers: Sequence[int]) -> str:
    return f"step{'s' if len(numbers) > 1 else ''} {format_order(numbers)}"
