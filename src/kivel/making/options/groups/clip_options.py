"""How frames play: their timing, the clips and groups made of them, and what can be changed of a clip."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING, Any, ClassVar

from kivel.core.errors import UsageError, option
from kivel.core.option_words import Choose, Direction, End, Interpolation
from kivel.making.options.option import ForClip, Option, Options
from kivel.making.options.value_kinds import (
    ANY_TEXT,
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
    WEIGHT,
    choice,
    named,
)

if TYPE_CHECKING:
    from fractions import Fraction

    from kivel.core.playback.changes import Changes, ClipChanges
    from kivel.core.playback.clip import Repeat, Timing
    from kivel.core.playback.easing import Easing
    from kivel.core.playback.groups import GroupRequest
    from kivel.core.playback.notation import Ordered, Phase
    from kivel.sequences.named_clips import ClipRequest

__all__ = [
    "ChangeOptions",
    "ClipOptions",
    "GroupOptions",
    "MadeClipOptions",
    "PlaybackOptions",
    "RowClipOptions",
    "StepTimeOptions",
    "TimingOptions",
]


class TimingOptions(Options):
    """How long frames show."""

    title = "timing"
    exclusive: ClassVar[tuple[tuple[str, ...], ...]] = (("fps", "hold"),)
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
        choice(Choose),
        "what becomes of the group: all are used (default), or each instance picks one",
        default=None,
    )

    weight: Option[tuple[tuple[str, int], ...]] = Option(
        WEIGHT, "how likely a clip is picked, against 1 for the others: lamp-3=2 (many)", default=(), many=True
    )

    def check(self) -> None:
        super().check()
        if self.choose and not self.make_group:
            raise UsageError(
                f"{option('choose')} says how, {option('make-group', 'NAME=CLIPS')} of which clips; give both"
            )
        if self.weight and self.choose != "random":
            raise UsageError(f"{option('weight')} is for random groups; give {option('choose', 'random')} too")

    def group_requests(self) -> tuple[GroupRequest, ...]:
        from kivel.core.playback.groups import GroupRequest

        return tuple(
            GroupRequest(name=name, pattern=pattern, choose=self.choose or "all", weights=self.weight)
            for name, pattern in self.make_group
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
    exclusive: ClassVar[tuple[tuple[str, ...], ...]] = (("fps", "hold", "holds"),)
    order: Option[tuple[ForClip[tuple[Ordered, ...]], ...]] = Option(
        ORDER,
        "the clip's frames to show, from 0: 0-7, 0-3*2,4*6,3-1 (*N: held N times as long as is usual), walk:0-3,2-1",
        default=(),
        per_clip=True,
    )
    fps: Option[tuple[ForClip[Fraction], ...]] = Option(RATE, "every step shows for 1/R s", default=(), per_clip=True)
    hold: Option[tuple[ForClip[int | Fraction], ...]] = Option(
        HOLD, "every step: ticks (2) or a time (80ms)", default=(), per_clip=True
    )
    holds: Option[tuple[ForClip[tuple[int | Fraction, ...]], ...]] = Option(
        HOLDS, "one for each step: 4,2,2,8 or 80ms*3,1s", default=(), per_clip=True
    )
    length: Option[tuple[ForClip[Fraction], ...]] = Option(
        TIME, "one cycle lasts so long (1.5s), in proportion", default=(), per_clip=True
    )
    speed: Option[tuple[ForClip[Fraction], ...]] = Option(
        RATE, "so many times as fast: 2, 1/2", default=(), form="N", per_clip=True
    )
    pace: Option[tuple[ForClip[Easing], ...]] = Option(
        PACE,
        "a CSS easing function: frames go by unevenly, the total stays: ease-in-out, cubic-bezier(0.3, 0, 0.7, 1)",
        default=(),
        per_clip=True,
    )
    timebase: Option[Fraction | None] = Option(RATE, "count in R ticks a second; times stay as they are", default=None)
    convert: Option[bool] = Option(FLAG, "round to that timebase, without accumulated error", default=False)

    def check(self) -> None:
        super().check()
        for one, text in zip(self.length, self.texts.get("length", ()), strict=True):
            if one.value == 0:
                raise UsageError(f"{option('length')}: expected a length above 0, like 1.5s, found {text!r}")
        if self.convert and not self.timebase:
            raise UsageError(f"{option('convert')} rounds to a timebase; give {option('timebase', 'N')} too")


class PlaybackOptions(Options):
    """How a clip plays its steps."""

    title = "playing"
    exclusive: ClassVar[tuple[tuple[str, ...], ...]] = (("end", "then"),)
    direction: Option[tuple[ForClip[Direction], ...]] = Option(
        choice(Direction, also={"ping-pong": "alternate", "pingpong": "alternate"}),
        "in the words of CSS; alternate is ping-pong: there and back, each end once",
        default=(),
        per_clip=True,
    )
    hold_ends: Option[bool | None] = Option(
        FLAG, "to and fro shows each end twice, or once again", default=None, negatable=True
    )
    repeat: Option[tuple[ForClip[Repeat], ...]] = Option(
        REPEAT, "how many cycles, or forever", default=(), per_clip=True
    )
    end: Option[tuple[ForClip[End], ...]] = Option(
        choice(End, also={"hold": "last"}), "what shows after a finite clip", default=(), per_clip=True
    )
    then: Option[tuple[ForClip[str], ...]] = Option(
        ANY_TEXT,
        "the clip that follows, in place of an end; after one that plays forever, when that is left",
        default=(),
        form="NAME",
        per_clip=True,
    )
    interpolation: Option[tuple[ForClip[Interpolation], ...]] = Option(
        choice(Interpolation),
        "linear: fade into the next frame; motion: warp into it",
        default=(),
        per_clip=True,
    )
    phase: Option[tuple[ForClip[Phase], ...]] = Option(
        PHASE,
        "where it starts: in steps (3, 2.5), 25% of a cycle (kept when holds change), a time (0.5s) or ticks (12t)",
        default=(),
        per_clip=True,
    )
    event: Option[tuple[ForClip[tuple[int, str]], ...]] = Option(
        EVENT, "what happens when a step begins to show: 3:chirp (many)", default=(), many=True, per_clip=True
    )
    no_events: Option[bool] = Option(FLAG, "drop the events there are", default=False)


_FOR_ALL = {"timebase": "timebase", "convert": "convert", "hold-ends": "hold_ends", "no-events": "drop_events"}
_FOR_ONE: dict[str, tuple[str, Callable[[Any], Any]]] = {
    **{
        name: (name, lambda value: value)
        for name in (
            "fps", "hold", "length", "speed", "pace", "direction", "repeat", "end", "then", "interpolation", "phase",
        )
    },
    "order": ("order", tuple),
    "holds": ("holds", tuple),
    "event": ("events", lambda event: (event,)),
}  # fmt: skip
"""Which of the changes an option sets, and how its value is put there."""


class ChangeOptions(StepTimeOptions, PlaybackOptions):
    """All that can be said of how a clip plays: of all clips, or of those whose name stands in front."""

    @property
    def says_nothing(self) -> bool:
        """Whether clips are left as they come."""
        return not any(self.given(name) for name in (*_FOR_ALL, *_FOR_ONE))

    def changes(self) -> ClipChanges:
        from kivel.core.playback.changes import ClipChanges

        return ClipChanges(self.changes_by(self.values))

    def changes_by(self, names: Iterable[str]) -> tuple[tuple[str | None, Changes], ...]:
        """Of the options by these names what they change, for all clips (None) or for one."""
        from kivel.core.playback.changes import Changes

        found: list[tuple[str | None, Changes]] = []
        for name in names:
            if name in _FOR_ALL:
                found.append((None, Changes()._replace(**{_FOR_ALL[name]: self.values[name]})))
            elif name in _FOR_ONE:
                field, within = _FOR_ONE[name]
                found += [(one.clip, Changes()._replace(**{field: within(one.value)})) for one in self.values[name]]
        return tuple(each for each in found if each[1] != Changes())


class MadeClipOptions(ChangeOptions):
    """How the clips play that are made with a sheet, an atlas or frames."""

    fps = StepTimeOptions.fps.but(
        help="frames a second: 12, 24000/1001, walk:8",
        shown="what an animated image or a manifest states, else 12",
    )
    hold = StepTimeOptions.hold.but(help="how long each frame shows: ticks (2) or a time (80ms, 0.5s, 1/12s)")
    repeat = PlaybackOptions.repeat.but(help="how many cycles, or forever", shown="as stated, else forever")
    timebase = StepTimeOptions.timebase.but(help="ticks a second", shown="60 for a hold in ticks")

    def timing(self, clip: str) -> Timing:
        """How long the frames of a clip show, and how often it plays."""
        from kivel.core.playback.clip import Timing

        if not any(self.given(name) for name in ("fps", "hold", "timebase", "repeat")):
            return Timing()
        said = self.changes().of(clip)
        return Timing(fps=said.fps, hold=said.hold, timebase=said.timebase, repeat=said.repeat)
