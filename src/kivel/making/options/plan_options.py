"""List the sheet layouts that a sequence could have: columns and rows, size, waste, memory, and what fits a page."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

from kivel.core.errors import UsageError, option
from kivel.making.options.groups.common_options import CommonOptions
from kivel.making.options.groups.layout_options import (
    DividedOptions,
    FitPageOptions,
    PageOptions,
    SpacingOptions,
    refuse_spacing,
)
from kivel.making.options.groups.source_options import MatchingOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import FLAG, SIZE, number

if TYPE_CHECKING:
    from kivel.core.pixels.pixels import Size

__all__ = ["PlanOptions"]


class PlanOptions(MatchingOptions, SpacingOptions, PageOptions, CommonOptions):
    """Layouts to choose from."""

    title = "layout"
    everyday: ClassVar = (
        "cell", "fit-page", "gap", "margin", "pow2", "multiple-of", "page-limit", "motion", "error", "one-shot",
        "range", "odd-size", "series",
    )  # fmt: skip
    cell: Option[Size | None] = Option(SIZE, "cell size in pixels: 64x64", default=None, shown="frame size")
    fit_page = FitPageOptions.fit_page.but(group="layout")
    divided = DividedOptions.divided.but(group="layout")
    motion: Option[bool] = Option(
        FLAG,
        "use a motion map: players warp frames into the next; lists how few frames are enough",
        default=False,
        group="motion",
    )
    error: Option[float | None] = Option(
        number(0.01, 255),
        "with motion: the fewest frames with an error of at most N (root mean square, of 255)",
        default=None,
        group="motion",
    )
    one_shot: Option[bool] = Option(
        FLAG, "include both ends; by default a loop, if it closes", default=False, group="motion"
    )
    tile: Option[bool] = Option(
        FLAG, "with motion: frames are tiles, motion wraps around", default=False,
        group="motion",
    )  # fmt: skip

    def check(self) -> None:
        super().check()
        if self.divided:
            refuse_spacing(self)
        given = [name for name in ("error", "one-shot", "tile") if self.given(name)]
        if given and not self.motion:
            raise UsageError(f"{option(given[0])} needs {option('motion', True)}")
