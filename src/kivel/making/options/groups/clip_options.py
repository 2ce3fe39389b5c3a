"""How frames play: their timing, the clips and groups made of them, and what can be changed of a clip."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING, Any, ClassVar

from kivel.core.errors import UsageError, option
from kivel.core.option_words import Choose, Direction, End, Fade, Interpolation
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
    from kivel.core.playback.clip import Clip, Repeat, Timing
    from kivel.core.playback.easing import Easing
    from kivel.core.playback.groups import GroupRequest
    from kivel.core.playback.notation import Ordered, Phase
    from kivel.sequences.named_clips import ClipRequest

__all__ = [
    "ChangeOptions",
    "ClipNameOptions",
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
        "frame rate: 12, 24000/1001; in frames a second",
        default=None,
        shown="the source's, else 12",
    )
    hold: Option[int | Fraction | None] = Option(
        HOLD, "frame duration: ticks (2) or a time (80ms, 0.5s, 1/12s)", default=None
    )
    timebase: Option[Fraction | None] = Option(RATE, "ticks a second", default=None, shown="60 for a hold in ticks")
    repeat: Option[Repeat | None] = Option(
        REPEAT,
        "how often it plays: a count, or forever; forever is a loop",
        default=None,
        shown="the source's, else forever",
    )

    def timing(self) -> Timing:
        from kivel.core.playback.clip import Timing

        return Timing(fps=self.fps, hold=self.hold, timebase=self.timebase, repeat=self.repeat)


class GroupOptions(Options):
    """Groups of clips."""

    title = "clips"
    make_group: Option[tuple[tuple[str, str], ...]] = Option(
        named("row=lantern-*", "NAME=CLIPS"),
        "make a group of clips by pattern: row=lantern-* (many)",
        default=(),
        many=True,
    )
    choose: Option[Choose | None] = Option(
        choice(Choose),
        "use all clips of a group (default), or a random one; each instance picks",
        default=None,
    )

    weight: Option[tuple[tuple[str, int], ...]] = Option(
        WEIGHT, "chance of a clip in a random group, against 1 for the others: lamp-3=2 (many)", default=(), many=True
    )

    def check(self) -> None:
        super().check()
        if self.choose and not self.make_group:
            raise UsageError(f"{option('choose')} needs {option('make-group', 'NAME=CLIPS')}")
        if self.weight and self.choose != "random":
            raise UsageError(f"{option('weight')} needs {option('choose', 'random')}")

    def group_requests(self) -> tuple[GroupRequest, ...]:
        from kivel.core.playback.groups import GroupRequest

        return tuple(
            GroupRequest(name=name, pattern=pattern, choose=self.choose or "all", weights=self.weight)
            for name, pattern in self.make_group
        )


class ClipNameOptions(Options):
    """The name of the clip over all frames."""

    title = "clips"
    name: Option[str | None] = Option(
        ANY_TEXT,
        "call the clip NAME; else one sequence's is called after the file or folder made",
        default=None,
        form="NAME",
    )

    def require_named(self, clips: Iterable[Clip]) -> None:
        """Raise `UsageError` if none of the clips has the name that is stated."""
        names = [clip.name for clip in clips]
        if self.name is not None and self.name not in names:
            found = f"; clips: {', '.join(names)}" if names else ""
            makes = option("make-clip", f"{self.name}=*")
            raise UsageError(f"{option('name', self.name)}: no clip is made of all frames{found}; {makes} makes one")


class ClipOptions(GroupOptions):
    """Clips of some frames, and groups of them."""

    title = "clips"
    make_clip: Option[tuple[tuple[str, str], ...]] = Option(
        named("peck=4-9 or walk=walk_*", "NAME=FRAMES"),
        "make a clip of frames, by number or name: peck=4-9, walk=walk_*, all=hen:4-9,saw; hen:4-9 are those of the "
        "sequence hen (many)",
        default=(),
        many=True,
    )

    clip_per_frame: Option[str | None] = Option(
        ANY_TEXT,
        "make a clip of each frame, for stills that a game picks: moon makes moon-0, moon-1, ...",
        default=None,
        form="NAME",
    )

    def clip_requests(self) -> list[ClipRequest]:
        from kivel.sequences.named_clips import EACH_FRAME, ClipRequest

        stills = [ClipRequest(name=self.clip_per_frame, what=EACH_FRAME)] if self.clip_per_frame else []
        return [*stills, *(ClipRequest(name=name, what=what) for name, what in self.make_clip)]


class FadeOptions(Options):
    """How frames are mixed."""

    title = "blending"
    fade: Option[Fade] = Option(
        choice(Fade),
        "cross-fade in linear light (default), or in stored values, for targets that blend bytes",
        default="linear",
    )


class RowClipOptions(Options):
    """A clip for each row of a sheet."""

    title = "clips"
    row_clips: Option[tuple[str, ...]] = Option(NAMES, "one clip for each row: walk,run,rest", default=())


class StepTimeOptions(Options):
    """Which steps a clip has, and how long each shows."""

    title = "frames and times"
    exclusive: ClassVar[tuple[tuple[str, ...], ...]] = (("fps", "hold", "holds"),)
    order: Option[tuple[ForClip[tuple[Ordered, ...]], ...]] = Option(
        ORDER,
        "frames to show, from 0, in order: 0-7,6-1 or 0-3*2; *N holds them N times as long; walk:0-3 is for one clip",
        default=(),
        per_clip=True,
    )
    fps: Option[tuple[ForClip[Fraction], ...]] = Option(
        RATE, "frame rate: 12, 24000/1001; in frames a second; sets every hold", default=(), per_clip=True
    )
    hold: Option[tuple[ForClip[int | Fraction], ...]] = Option(
        HOLD, "frame duration: ticks (2) or a time (80ms, 0.5s, 1/12s); sets every hold", default=(), per_clip=True
    )
    holds: Option[tuple[ForClip[tuple[int | Fraction, ...]], ...]] = Option(
        HOLDS, "frame duration of each step: 4,2,2,8 or 80ms*3,1s", default=(), per_clip=True
    )
    length: Option[tuple[ForClip[Fraction], ...]] = Option(
        TIME, "duration of one cycle: 1.5s; holds change in proportion", default=(), per_clip=True
    )
    speed: Option[tuple[ForClip[Fraction], ...]] = Option(
        RATE, "playback speed: 2, 1/2", default=(), form="N", per_clip=True
    )
    pace: Option[tuple[ForClip[Easing], ...]] = Option(
        PACE,
        'easing: ease-in-out, "cubic-bezier(0.3, 0, 0.7, 1)"; a function of CSS; the total stays',
        default=(),
        per_clip=True,
    )
    timebase: Option[Fraction | None] = Option(RATE, "ticks a second; times stay the same", default=None)
    convert: Option[bool] = Option(
        FLAG, "round holds that do not fit the timebase; rounding errors do not add up", default=False
    )

    def check(self) -> None:
        super().check()
        for one, text in zip(self.length, self.texts.get("length", ()), strict=True):
            if one.value == 0:
                raise UsageError(f"{option('length')}: expected a length above 0, like 1.5s, found {text!r}")
        if self.convert and not self.timebase:
            raise UsageError(f"{option('convert')} needs {option('timebase', 'N')}")


class PlaybackOptions(Options):
    """How a clip plays its steps."""

    title = "playing"
    exclusive: ClassVar[tuple[tuple[str, ...], ...]] = (("end", "then"),)
    direction: Option[tuple[ForClip[Direction], ...]] = Option(
        choice(Direction, also={"ping-pong": "alternate", "pingpong": "alternate"}),
        "normal, reverse or alternate (ping-pong); alternate goes there and back, and shows each end once",
        default=(),
        per_clip=True,
    )
    hold_ends: Option[bool | None] = Option(
        FLAG,
        "with alternate (ping-pong), show both ends twice",
        default=None,
        negatable=True,
    )
    repeat: Option[tuple[ForClip[Repeat], ...]] = Option(
        REPEAT, "how often it plays: a count, or forever; forever is a loop", default=(), per_clip=True
    )
    end: Option[tuple[ForClip[End], ...]] = Option(
        choice(End, also={"hold": "last"}),
        "what stays at the end: last frame, first frame or none",
        default=(),
        per_clip=True,
    )
    then: Option[tuple[ForClip[str], ...]] = Option(
        ANY_TEXT,
        "clip that follows when this one ends; after an endless clip, when that is left",
        default=(),
        form="NAME",
        per_clip=True,
    )
    interpolation: Option[tuple[ForClip[Interpolation], ...]] = Option(
        choice(Interpolation),
        "step, linear (cross-fade) or motion (warp); into the next frame",
        default=(),
        per_clip=True,
    )
    phase: Option[tuple[ForClip[Phase], ...]] = Option(
        PHASE,
        "start of the clip: 3 (steps), 25%, 0.5s or 12t (ticks); a share stays a share when holds change",
        default=(),
        per_clip=True,
    )
    event: Option[tuple[ForClip[tuple[int, str]], ...]] = Option(
        EVENT, "add an event at the start of a step: 3:chirp (many)", default=(), many=True, per_clip=True
    )
    no_events: Option[bool] = Option(FLAG, "remove all events", default=False)


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
    """All that can be said of how a clip plays: of all clips, or of those whose name comes first."""

    @property
    def says_nothing(self) -> bool:
        """Whether clips are left as they come."""
        return not any(self.given(name) for name in (*_FOR_ALL, *_FOR_ONE))

    def changes(self) -> ClipChanges:
        from kivel.core.playback.changes import ClipChanges

        return ClipChanges(self.changes_by(self.values))

    def changes_by(self, names: Iterable[str]) -> tuple[tuple[str | None, Changes], ...]:
        """Return what the options of these names change, for all clips (None) or for one."""
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
        help="frame rate: 12, 24000/1001; in frames a second; walk:8 for one clip",
        shown="the source's, else 12",
    )
    hold = StepTimeOptions.hold.but(help="frame duration: ticks (2) or a time (80ms, 0.5s, 1/12s)")
    repeat = PlaybackOptions.repeat.but(
        help="how often it plays: a count, or forever; forever is a loop", shown="the source's, else forever"
    )
    timebase = StepTimeOptions.timebase.but(help="ticks a second", shown="60 for a hold in ticks")

    def timing(self, clip: str) -> Timing:
        """How long the frames of a clip show, and how often it plays."""
        from kivel.core.playback.clip import Timing

        if not any(self.given(name) for name in ("fps", "hold", "timebase", "repeat")):
            return Timing()
        said = self.changes().of(clip)
        return Timing(fps=said.fps, hold=said.hold, timebase=said.timebase, repeat=said.repeat)
