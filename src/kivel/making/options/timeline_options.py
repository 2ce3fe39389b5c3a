"""List which frame shows at what time, with events, cycles and ends: over a span, at moments, or on a game's clock."""

from __future__ import annotations

from fractions import Fraction
from typing import ClassVar, Literal

from kivel.core.errors import UsageError, option
from kivel.making.options.groups.common_options import CommonOptions
from kivel.making.options.groups.source_options import ChoosingOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import ANY_TEXT, FLAG, MOST_FRAMES, PATH, RATE, TIME, choice, moved_path, whole

__all__ = ["TimelineOptions"]


class TimelineOptions(ChoosingOptions, CommonOptions):
    """Holds what is listed, when, and in which form."""

    title = "what"
    exclusive: ClassVar = (("at", "clock", "manual"), ("clip", "group"))
    manifest: Option[str] = Option(
        PATH, "NAME.kivel.json", default="", form="MANIFEST", positional=True, needed=True, from_folder=moved_path
    )
    clip = ChoosingOptions.clip.but(group="what")
    group: Option[str | None] = Option(
        ANY_TEXT,
        "clips of a group; in a random group, each instance picks one",
        default=None,
        form="NAME",
    )
    instances: Option[int] = Option(whole(1, MOST_FRAMES), "number of instances that play", default=1, shown="1")
    seed: Option[int] = Option(whole(0), "seed of everything random", default=0, shown="0")
    random_phase: Option[bool] = Option(FLAG, "start each instance at a random tick", default=False)
    speed: Option[Fraction] = Option(RATE, "playback speed: 2, 1/2", default=Fraction(1), form="N")
    for_: Option[Fraction | None] = Option(
        TIME,
        "how much time to list: 2s, 500ms, 1h",
        default=None,
        shown="a finite clip to its end, others for one cycle",
        group="when",
    )
    leave_at: Option[Fraction | None] = Option(
        TIME, "leave an endless clip at this time, and go on with the clip that follows", default=None, group="when"
    )
    at: Option[tuple[Fraction, ...]] = Option(
        TIME, "list what shows at this time (many)", default=(), many=True, group="when"
    )
    clock: Option[Fraction | None] = Option(
        RATE, "the target's clock, R ticks a second; lists what each rendered frame shows", default=None, group="when"
    )
    manual: Option[bool] = Option(
        FLAG, "step manually: one step for each line of standard input", default=False, group="when"
    )
    format: Option[Literal["table", "csv", "json-lines"]] = Option(
        choice("table", "csv", "json-lines"),
        "output format; csv and json-lines have exact times",
        default="table",
        shown="table",
        group="how",
    )

    def check(self) -> None:
        super().check()
        if self.at and self.for_ is not None:
            raise UsageError(f"{option('for')} is a span, {option('at')} are moments; use one of them")
