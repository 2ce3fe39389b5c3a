"""Make fewer or more frames of the same motion, evenly spaced or with easing. The clip keeps its length."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

from kivel.core.errors import UsageError, option
from kivel.making.options.groups.clip_options import FadeOptions
from kivel.making.options.groups.layout_options import CompanionOptions
from kivel.making.options.groups.motion_options import MotionOptions
from kivel.making.options.groups.output_options import FrameOutputOptions
from kivel.making.options.groups.source_options import KindOptions, MatchingOptions, SourceRateOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import FLAG, MOST_FRAMES, PACE, whole

if TYPE_CHECKING:
    from kivel.core.playback.easing import Easing

__all__ = ["ResampleOptions"]


class ResampleOptions(
    SourceRateOptions, MatchingOptions, KindOptions, MotionOptions, FadeOptions, CompanionOptions, FrameOutputOptions
):
    """Fewer or more frames."""

    title = "resampling"
    everyday: ClassVar = (
        "out", "count", "one-shot", "mix", "pace", "motion", "even", "tile", "map", "map-suffix", "as", "series",
        "range", "odd-size", "compress", "force",
    )  # fmt: skip
    count: Option[int] = Option(whole(1, MOST_FRAMES), "number of frames to make", default=0, needed=True)
    one_shot: Option[bool] = Option(FLAG, "include both ends; by default the result is a loop", default=False)
    mix: Option[bool] = Option(
        FLAG,
        "average frames instead of picking the nearest; in linear light; in-betweens are warped where that is better",
        default=False,
    )
    no_warp: Option[bool] = Option(
        FLAG, "cross-fade only, never warp frames (default: warp where that is better)", default=False
    )
    pace: Option[Easing | None] = Option(
        PACE, 'easing: ease-in-out, "cubic-bezier(0.3, 0, 0.7, 1)"; a function of CSS', default=None
    )
    even: Option[bool] = Option(
        FLAG,
        "with motion: keep evenly spaced frames; by default those from which the rest is rebuilt best",
        default=False,
    )

    def check(self) -> None:
        super().check()
        if self.given("fade") and not self.mix:
            raise UsageError(f"{option('fade')} needs {option('mix', True)}")
        if self.even and not self.motion:
            raise UsageError(
                f"without {option('motion', True)} frames are always evenly spaced; remove {option('even', True)}"
            )
        other = next((name for name in ("mix", "pace") if self.given(name)), None)
        if self.motion and other:
            raise UsageError(f"{option('motion', True)} keeps frames unchanged; remove {option(other)}")
