"""Maps of motion: whether to make one, and how it is stored."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal

from kivel.core.errors import UsageError, option
from kivel.making.options.option import Option, Options
from kivel.making.options.value_kinds import FLAG, choice

if TYPE_CHECKING:
    from kivel.core.motion.motion_codes import MotionStorage

__all__ = ["MotionOptions"]


class MotionOptions(Options):
    """A companion map by which frames are warped into each other."""

    title = "companion maps"
    motion: Option[bool] = Option(
        FLAG,
        "use a motion map: players warp frames into the next",
        default=False,
    )
    motion_bits: Option[Literal["8", "16"]] = Option(
        choice("8", "16"), "bits of the motion map (default: 8, which loses less than 0.1%)", default="8"
    )
    motion_size: Option[Literal["half", "full"] | None] = Option(
        choice("half", "full"),
        "size of the motion map: full rebuilds more, and takes four times the memory",
        default=None,
        shown="half; full for frames up to 64 px",
    )
    tile: Option[bool] = Option(FLAG, "with motion: frames are tiles, motion wraps around", default=False)

    @property
    def motion_storage(self) -> MotionStorage:
        from kivel.core.motion.motion_codes import MotionStorage

        return MotionStorage(int(self.motion_bits), None if self.motion_size is None else self.motion_size == "full")

    def check(self) -> None:
        super().check()
        given = [name for name in ("motion-bits", "motion-size", "tile") if self.given(name)]
        if given and not self.motion:
            raise UsageError(f"{option(given[0])} needs {option('motion', True)}")
