"""Play in the terminal at the exact timing. Space pauses, left and right step, up and down change the speed, q
quits.
"""

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
    """Holds what plays, and how it looks."""

    title = "look"
    clip = ChoosingOptions.clip.but(
        help="choose clips by name or pattern; the first one found plays first", shown="the first", group="look"
    )
    backdrop: Option[Backdrop] = Option(
        BACKDROP,
        "background: checker, none, #rrggbb or a CSS colour name",
        default="none",
        shown="none, the terminal's background",
    )
    speed: Option[Fraction] = Option(RATE, "playback speed: 2, 1/2", default=Fraction(1), form="N")
