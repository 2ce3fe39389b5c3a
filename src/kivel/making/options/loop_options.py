"""Check how well a sequence loops, find the part that loops best, or close a loop with a cross-fade."""

from __future__ import annotations

from typing import ClassVar

from kivel.core.errors import UsageError, option
from kivel.making.options.groups.clip_options import FadeOptions
from kivel.making.options.groups.layout_options import CompanionOptions
from kivel.making.options.groups.output_options import FrameOutputOptions
from kivel.making.options.groups.source_options import KindOptions, MatchingOptions, SourceRateOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import FLAG, LENGTH_RANGE, whole

__all__ = ["LoopOptions"]


class LoopOptions(SourceRateOptions, MatchingOptions, KindOptions, FadeOptions, CompanionOptions, FrameOutputOptions):
    """Loops judged, found and closed."""

    title = "looping"
    everyday: ClassVar = (
        "out", "find", "pick", "close", "sides", "map", "map-suffix", "as", "series", "range", "odd-size", "force",
    )  # fmt: skip
    find: Option[tuple[int, int] | None] = Option(
        LENGTH_RANGE, "rank the windows of MIN to MAX frames that loop best", default=None
    )
    pick: Option[int | None] = Option(
        whole(1), "which of the listed candidates to use", default=None, form="RANK", shown="1"
    )
    close: Option[int | None] = Option(
        whole(1),
        "close the loop over K frames and write it: the frames after it (else its last K) blend into its first K",
        default=None,
        form="K",
    )
    no_warp: Option[bool] = Option(
        FLAG, "cross-fade only, never warp frames (default: warp where that is better)", default=False
    )
    sides: Option[bool] = Option(FLAG, "frames are tiles: check whether their sides meet", default=False)

    def check(self) -> None:
        super().check()
        writes = self.out or self.door == "python"
        if self.out and not (self.find or self.close):
            ways = f"{option('close', 'K')}, {option('find', 'MIN-MAX')}, or both"
            raise UsageError(f"{option('out')} needs {ways}")
        for name in ("fade", "no-warp"):
            if self.given(name) and not self.close:
                raise UsageError(f"{option(name)} needs {option('close', 'K')}")
        if self.close and not writes:
            raise UsageError(f"{option('close')} needs {option('out', 'DIR')}")
        if self.pick and not (self.find and writes):
            raise UsageError(f"{option('pick')} needs {option('find')} and {option('out', 'DIR')}")

    @property
    def needs_out(self) -> bool:
        return False

    @property
    def makes_frames(self) -> bool:
        """Whether frames come of it; in Python they may stay in memory."""
        return bool(self.out or self.close or self.pick)
