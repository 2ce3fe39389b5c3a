"""Describes what a clip says of how it plays, one entry each: how it is set, kept, said and written.

Steps, holds and the timebase are what a clip is made of, and are not here; a new property is an entry, an attribute of
`Clip` and of `Changes`, and what it does in `player`.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip
from kivel.core.playback.notation import format_repeat

__all__ = ["COPIED", "PROPERTIES", "REPLACED", "SETTABLE", "ClipProperty"]


class ClipProperty(NamedTuple):
    """One property of a clip, by the name of its attribute, which is also what a clip's `set` calls it.

    `word` is what people call it. `said` says it in full, `short` in few words, and nothing where it is as usual; None
    where another property says it along. `drawn` is how the timing chart puts the few words. `value` is what tables for
    other programs hold. `replaced` ones are set by putting the value that is given in place of the old one, and
    `copied` ones kept by copying it when the clip is made again.
    """

    name: str
    word: str = ""
    said: Callable[[Clip], str] | None = None
    short: Callable[[Clip], str] | None = None
    drawn: str = ""
    value: Callable[[Clip], Any] | None = None
    replaced: bool = True
    copied: bool = True


def _direction(ends: str) -> Callable[[Clip], str]:
    return lambda clip: clip.direction + (ends if clip.hold_ends else "")


def _end(clip: Clip) -> str:
    return clip.end if clip.then is None else f"then {clip.then}"


def _short_end(clip: Clip) -> str:
    return "" if clip.then is None and clip.repeat in ("forever", 0) else _end(clip)


def _events(clip: Clip) -> str:
    return ", ".join(f"{event.step}:{event.name}" for event in clip.events) or "none"


PROPERTIES = (
    ClipProperty("direction", said=_direction(", both ends held"), short=_direction(", ends held")),
    ClipProperty("hold_ends", "held ends"),
    ClipProperty(
        "repeat", said=lambda clip: format_repeat(clip.repeat), short=lambda clip: str(clip.repeat),
        value=lambda clip: clip.repeat,
    ),
    ClipProperty("end", said=_end, short=_short_end, value=lambda clip: clip.end),
    ClipProperty("then", "follower", value=lambda clip: clip.then),
    ClipProperty(
        "interpolation", said=lambda clip: clip.interpolation,
        short=lambda clip: clip.interpolation if clip.interpolation != "step" else "", drawn="{}",
        value=lambda clip: clip.interpolation,
    ),
    ClipProperty(
        "phase", said=lambda clip: f"{clip.phase} steps" if clip.phase else "0",
        short=lambda clip: str(clip.phase) if clip.phase else "", drawn="phase {}", copied=False,
    ),
    ClipProperty(
        "events", said=_events, short=lambda clip: str(len(clip.events)) if clip.events else "",
        replaced=False, copied=False,
    ),
)  # fmt: skip
"""In the order in which they are listed."""
SETTABLE = ("added", "name", "order", "holds", "timebase", *(one.name for one in PROPERTIES))
"""Says what a clip's `set` may name, in the order in which it does."""
REPLACED = tuple(one.name for one in PROPERTIES if one.replaced)
COPIED = tuple(one.name for one in PROPERTIES if one.copied)
