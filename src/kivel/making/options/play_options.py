"""Play in the terminal, at the exact timing: space pauses, arrows step, + and - change the speed, q quits."""

from __future__ import annotations

from fractions import Fraction
from typing import TYPE_CHECKING

from kivel.making.options.groups.clip_options import TimingOptions
from kivel.making.options.groups.source_options import ChoosingOptions, MatchingOptions, ShowOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import BACKDROP, RATE

if TYPE_CHECKING:
    from kivel.core.pixels.compose import Backdrop

__all__ = ["PlayOptions"]


class PlayOptions(MatchingOptions, ChoosingOptions, ShowOptions, TimingOptions):
    """What plays, and how it looks."""

    title = "look"
    clip = ChoosingOptions.clip.but(
        help="which clip of a manifest comes first, by name or pattern", shown="the first", group="look"
    )
    backdrop: Option[Backdrop] = Option(
        BACKDROP, "what transparent pixels show", default="none", shown="none, the terminal's own ground"
    )
    speed: Option[Fraction] = Option(RATE, "to begin with: 2, 1/2", default=Fraction(1), form="N")
