"""How frames play: their timing, the clips and groups made of them, and what can be changed of a clip."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

from kivel.core.errors import UsageError, option
from kivel.making.options.option import Option, Options
from kivel.making.options.value_kinds import (
    EVENT,
    FLAG,
    HOLD,
    HOLDS,
    NAMES,
    ORDER,
    PACE,
    PHASE,
    RATE,
    REPEAT,
    TIME,
    choice,
    named,
)

if TYPE_CHECKING:
    from fractions import Fraction

    from kivel.core.playback.changes import Changes
    from kivel.core.playback.clip import Direction, End, Interpolation, Repeat, Timing
    from kivel.core.playback.easing import Easing
    from kivel.core.playback.groups import Choose, GroupRequest
    from kivel.core.playback.notation import CycleShare, Ordered
    from kivel.sequences.named_clips import ClipRequest

__all__ = [
    "ChangeOptions",
    "ClipOptions",
    "GroupOptions",
    "PlaybackOptions",
    "RowClipOptions",
    "StepTimeOptions",
    "TimingOptions",
]

_DIRECTIONS = ("normal", "reverse", "alternate", "alternate-reverse")


class TimingOptions(Options):
    """How long frames show."""

    title = "timing"
    exclusive: ClassVar = (("fps", "hold"),)
    fps: Option[Fraction | None] = Option(
        RATE,
        "frames a second: 12, 24000/1001",
        default=None,
        shown="what an animated image or a manifest states, else 12",
    )
    hold: Option[int | Fraction | None] = Option(
        HOLD, "how long each frame shows: ticks (2) or a time (80ms, 0.5s, 1/12s)", default=None
    )
    timebase: Option[Fraction | None] = Option(RATE, "ticks a second", default=None, shown="60 for a hold in ticks")
    repeat: Option[Repeat | None] = Option(
        REPEAT, "how often it plays: a count or forever", default=None, shown="as stated, else forever"
    )

    def timing(self) -> Timing:
        from kivel.core.playback.clip import Timing

        return Timing(fps=self.fps, hold=self.hold, timebase=self.timebase, repeat=self.repeat)


class GroupOptions(Options):
    """Groups of clips."""

    title = "clips"
    make_group: Option[tuple[tuple[str, str], ...]] = Option(
        named("row=lantern-*", "NAME=CLIPS"),
        "a group of the clips that match a pattern: row=lantern-* (many)",
        default=(),
        many=True,
    )
    choose: Option[Choose | None] = Option(
        choice("all", "random"),
        "what becomes of the group: all are used (default), or each instance draws one",
        default=None,
    )

    def check(self) -> None:
        super().check()
        if self.choose and not self.make_group:
            raise UsageError(
                f"{option('choose')} says how, {option('make-group', 'NAME=CLIPS')} of which clips; give both"
            )

    def group_requests(self) -> tuple[GroupRequest, ...]:
        from kivel.core.playback.groups import GroupRequest

        return tuple(
            GroupRequest(name=name, pattern=pattern, choose=self.choose or "all") for name, pattern in self.make_group
        )


class ClipOptions(GroupOptions):
    """Clips of some frames, and groups of them."""

    title = "clips"
    make_clip: Option[tuple[tuple[str, str], ...]] = Option(
        named("peck=4-9 or walk=walk_*", "NAME=FRAMES"),
        "a clip of some frames: peck=4-9, peck=hen:4-9 (of the sequence hen), walk=walk_* (by name) (many)",
        default=(),
        many=True,
    )

    def clip_requests(self) -> list[ClipRequest]:
        from kivel.sequences.named_clips import ClipRequest

        return [ClipRequest(name=name, what=what) for name, what in self.make_clip]


class RowClipOptions(Options):
    """A clip for each row of a sheet."""

    title = "clips"
    row_clips: Option[tuple[str, ...]] = Option(NAMES, "a clip for each row of the sheet, by these names", default=())


class StepTimeOptions(Options):
    """Which steps a clip has, and how long each shows."""

    title = "frames and times"
    exclusive: ClassVar = (("fps", "hold", "holds"),)
    order: Option[tuple[Ordered, ...]] = Option(
        ORDER,
        "the frames to show: 0-7, 0-3*2,4*6,3-1; *N: held N times as long as is usual",
        default=(),
    )
    fps: Option[Fraction | None] = Option(RATE, "every step shows for 1/R s", default=None)
    hold: Option[int | Fraction | None] = Option(HOLD, "every step: ticks (2) or a time (80ms)", default=None)
    holds: Option[tuple[int | Fraction, ...]] = Option(HOLDS, "one for each step: 4,2,2,8 or 80ms*3,1s", default=())
    length: Option[Fraction | None] = Option(TIME, "one cycle lasts so long (1.5s), in proportion", default=None)
    speed: Option[Fraction | None] = Option(RATE, "so many times as fast: 2, 1/2", default=None, form="N")
    pace: Option[Easing | None] = Option(
        PACE,
        "a CSS easing function: frames go by unevenly, the total stays: ease-in-out, cubic-bezier(0.3, 0, 0.7, 1)",
        default=None,
    )
    timebase: Option[Fraction | None] = Option(RATE, "count in R ticks a second; times stay as they are", default=None)
    convert: Option[bool] = Option(FLAG, "round to that timebase, without drift, where it must", default=False)

    def check(self) -> None:
        super().check()
        if self.length == 0:
            raise UsageError(
                f"{option('length')}: expected a length above 0, like 1.5s, found {self.texts['length'][0]!r}"
            )
        if self.convert and not self.timebase:
            raise UsageError(f"{option('convert')} rounds to a timebase; give {option('timebase', 'N')} too")


class PlaybackOptions(Options):
    """How a clip plays its steps."""

    title = "playing"
    direction: Option[Direction | None] = Option(
        choice(*_DIRECTIONS), "in the words of CSS; alternate goes to and fro, each end once", default=None
    )
    hold_ends: Option[bool | None] = Option(
        FLAG, "to and fro shows each end twice, or once again", default=None, negatable=True
    )
    repeat: Option[Repeat | None] = Option(REPEAT, "how many cycles, or forever", default=None)
    end: Option[End | None] = Option(choice("last", "first", "none"), "what shows after a finite clip", default=None)
    interpolation: Option[Interpolation | None] = Option(
        choice("step", "linear"), "linear: blend towards the next frame", default=None
    )
    phase: Option[Fraction | CycleShare | None] = Option(
        PHASE, "where it starts: in steps (3, 2.5), or 25% of a cycle", default=None
    )
    event: Option[tuple[tuple[int, str], ...]] = Option(
        EVENT, "what happens when a step begins to show: 3:chirp (many)", default=(), many=True
    )
    no_events: Option[bool] = Option(FLAG, "drop the events there are", default=False)


class ChangeOptions(StepTimeOptions, PlaybackOptions):
    """All that can be changed of a clip."""

    def changes(self) -> Changes:
        from kivel.core.playback.changes import Changes

        return Changes(
            order=tuple(self.order),
            direction=self.direction,
            hold_ends=self.hold_ends,
            fps=self.fps,
            hold=self.hold,
            holds=tuple(self.holds),
            length=self.length,
            speed=self.speed,
            pace=self.pace,
            timebase=self.timebase,
            convert=self.convert,
            repeat=self.repeat,
            end=self.end,
            interpolation=self.interpolation,
            phase=self.phase,
            events=tuple(self.event),
            drop_events=self.no_events,
        )
