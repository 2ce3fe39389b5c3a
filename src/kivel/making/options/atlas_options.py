"""Trim frames of any size and pack them tight on pages. The manifest puts every frame back where it was."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, ClassVar, Literal

from kivel.core.errors import UsageError, option
from kivel.core.option_words import Effort, Paging
from kivel.making.options.groups.layout_options import MapOptions, PageOptions, SpacingOptions
from kivel.making.options.groups.paged_options import LayoutOptions
from kivel.making.options.groups.source_options import MatchingOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import FLAG, choice, whole

if TYPE_CHECKING:
    from kivel.core.layout.paging import AtlasRequest
    from kivel.making.atlases.trimmed import TrimRequest
    from kivel.sequences.map_frames import MapFrames

__all__ = ["AtlasOptions"]

_DEFAULT_LIMIT = (4096, 4096)
_MOST_ALPHA = 254
_FEWEST_POINTS, _MOST_POINTS = 3, 64


class AtlasOptions(LayoutOptions):
    """Frames of any size, packed."""

    title = "packing"
    everyday: ClassVar = (
        "out", "turn", "gap", "skirt", "page-limit", "pow2", "outline", "fps", "hold", "repeat", "order",
        "make-clip", "event", "map", "map-suffix", "pivot", "series", "compress", "fresh-clips",
    )  # fmt: skip
    turn: Option[bool] = Option(FLAG, "allow frames to be rotated by 90 degrees", default=False)
    align = MatchingOptions.align.but(
        help="put frames of different sizes on one canvas, aligned: center, bottom, top-left, ...",
        shown="each keeps its own canvas",
    )
    gap = SpacingOptions.gap.but(default=1, shown="1", group="packing")
    margin = SpacingOptions.margin.but(group="packing")
    skirt = SpacingOptions.skirt.but(group="packing")
    skirt_wrap = SpacingOptions.skirt_wrap.but(group="packing")
    mip_safe = SpacingOptions.mip_safe.but(group="packing")
    effort: Option[Effort] = Option(
        choice(Effort),
        "how many packings to try; the result is the same on every machine",
        default="normal",
        shown="normal",
    )
    page_limit = PageOptions.page_limit.but(
        help="largest page, maximum texture size; more frames go on more pages", shown="4096x4096"
    )
    pages: Option[Paging] = Option(
        choice(Paging),
        "several pages: fill one after the other (default), balance them, or keep a folder's frames together",
        default="fill",
        group="page",
    )
    trim_by: Option[Literal["all", "color"]] = Option(
        choice("all", "color"),
        "trim to the box of all maps together (default), or of color",
        default="all",
        group=MapOptions.title,
    )
    no_trim: Option[bool] = Option(
        FLAG, "pack whole frames, without trimming", default=False, group="trimming and sharing"
    )
    visible_above: Option[int] = Option(
        whole(0, _MOST_ALPHA),
        "pixels are visible if their alpha is above N, of 255; fainter ones outside the rest are trimmed off",
        default=0,
        shown="0",
        group="trimming and sharing",
    )
    keep_hidden: Option[bool] = Option(
        FLAG, "keep all colour under alpha 0 (boxes grow to hold it)", default=False, group="trimming and sharing"
    )
    ignore_hidden: Option[bool] = Option(
        FLAG, "treat frames as duplicates if they differ only in colour under alpha 0", default=False,
        group="trimming and sharing",
    )  # fmt: skip
    share_flips: Option[bool] = Option(
        FLAG,
        "store mirrored frames once; the manifest says which are flipped",
        default=False,
        group="trimming and sharing",
    )
    outline: Option[int] = Option(
        whole(_FEWEST_POINTS, _MOST_POINTS),
        "add a convex outline of up to N points around what is visible",
        default=0,
        group="trimming and sharing",
    )
    outline_of: Option[Literal["frame", "clip"]] = Option(
        choice("frame", "clip"),
        "one outline for each frame (default), or one around all frames of a clip",
        default="frame",
        group="trimming and sharing",
    )

    def check(self) -> None:
        super().check()
        if self.given("outline-of") and not self.outline:
            raise UsageError(f"{option('outline-of')} needs {option('outline', 10)}")
        if self.keep_hidden and (self.visible_above or self.ignore_hidden):
            others = f"{option('visible-above')} and {option('ignore-hidden', True)}"
            raise UsageError(f"{option('keep-hidden', True)} cannot be combined with {others}")

    def request(self, parts: int) -> AtlasRequest:
        """Return what is asked of an atlas whose places are divided by `parts`."""
        from kivel.core.layout.paging import AtlasRequest
        from kivel.core.pixels.pixels import Size

        rule = self.page_rule()
        rule = rule._replace(limit=rule.limit or Size(*_DEFAULT_LIMIT))
        return AtlasRequest(
            spacing=self.spacing(parts=parts), rule=rule, turn=self.turn, effort=self.effort, paging=self.pages
        )

    def trim_request(self, maps: Sequence[MapFrames]) -> TrimRequest:
        """How the frames of these maps are trimmed."""
        from kivel.making.atlases.trimmed import TrimRequest
        from kivel.making.sheets.layouts import step_of

        if self.share_flips and any(one.content.name in ("normal", "normal-down", "motion") for one in maps):
            raise UsageError(
                f"{option('share-flips', True)}: mirroring would change vectors; remove it if there is a "
                "normal or motion map"
            )
        return TrimRequest(
            visible_above=self.visible_above,
            trim=not self.no_trim,
            by_color=self.trim_by == "color",
            keep_hidden=self.keep_hidden,
            hidden_counts=not self.ignore_hidden,
            share_flips=self.share_flips,
            step=step_of(maps),
            outline=self.outline,
        )
