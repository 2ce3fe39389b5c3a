"""Make an animated image, a video (.mp4, .webm), a contact sheet (.png) or a viewer page (.html)."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, ClassVar, Literal

from kivel.core.errors import UsageError, option
from kivel.making.options.groups.clip_options import FadeOptions, TimingOptions
from kivel.making.options.groups.output_options import OutputOptions
from kivel.making.options.groups.source_options import ChoosingOptions, MatchingOptions, ShowOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import BACKDROP, FLAG, PATH, SCALE, SCALING, SIZE, choice, moved_path, whole

if TYPE_CHECKING:
    from fractions import Fraction

    from kivel.core.pixels.compose import Backdrop
    from kivel.core.pixels.pixels import Size
    from kivel.views.looks import Marks

__all__ = ["PreviewOptions"]

_MOST_TILES = 100
_VIDEO_SUFFIXES = (".mp4", ".webm")
_SUFFIXES = (".png", ".apng", ".gif", ".webp", *_VIDEO_SUFFIXES, ".html")
View = Literal["frames", "timing", "layout"]


class PreviewOptions(MatchingOptions, ChoosingOptions, ShowOptions, FadeOptions, TimingOptions, OutputOptions):
    """Holds what is looked at, and how."""

    title = "look"
    everyday: ClassVar = (
        "out", "clip", "view", "scale", "backdrop", "show", "tile", "mark", "beside", "fps", "hold", "repeat", "series",
        "range", "odd-size", "force",
    )  # fmt: skip
    out = OutputOptions.out.but(form="OUT.png|.apng|.gif|.webp|.mp4|.html")
    clip = ChoosingOptions.clip.but(
        help="choose clips by name or pattern", shown="the first; in a timing chart all", group="look"
    )
    view: Option[View] = Option(
        choice("frames", "timing", "layout"),
        "frames (default); timing: a chart of each clip's steps, events and cycles (.png); layout: the pages of a "
        "manifest with cells, boxes and frame numbers (.png)",
        default="frames",
    )
    scale: Option[Fraction | None] = Option(
        SCALE, "enlarge or shrink: 4, 0.5, 1/3", default=None, shown="up to about 256 px"
    )
    filter: Option[Literal["nearest", "smooth"] | None] = Option(
        SCALING,
        "sampling: nearest for pixel art, or smooth",
        default=None,
        shown="nearest; smooth if a contact sheet shrinks frames",
    )
    backdrop: Option[Backdrop] = Option(
        BACKDROP, "background: checker, none, #rrggbb or a CSS colour name",
        default="checker", shown="checker",
    )  # fmt: skip
    tile: Option[Size | None] = Option(
        SIZE, "repeat each frame, to see how a tile continues: 3x3", default=None, form="CxR"
    )
    mark: Option[tuple[Literal["pivot", "outline"], ...]] = Option(
        choice("pivot", "outline"), "draw pivots, or outlines of an atlas, over the frames (many)",
        default=(), many=True,
    )  # fmt: skip

    beside: Option[tuple[str, ...]] = Option(
        PATH, "another source to compare with in the viewer page; .html; side by side or with a wipe (many)",
        default=(), many=True, form="SRC", from_folder=moved_path,
    )  # fmt: skip
    serve: Option[bool] = Option(
        FLAG, "serve the page at 127.0.0.1, for this machine only, and reload it when sources change", default=False,
        kept=False,
    )  # fmt: skip
    port: Option[int] = Option(whole(0, 65535), "port of the served page", default=0, shown="any free port", kept=False)

    @property
    def needs_out(self) -> bool:
        return super().needs_out and not self.serve

    def check(self) -> None:
        super().check()
        if self.serve and (self.out or self.view != "frames" or self.door == "python"):
            left_out = f"remove {option('out')} and {option('view')}"
            raise UsageError(f"{option('serve', True)} works only on the command line and writes no file; {left_out}")
        if self.port and not self.serve:
            raise UsageError(f"{option('port')} needs {option('serve', True)}")
        if self.tile and self.tile.w * self.tile.h > _MOST_TILES:
            raise UsageError(f"{option('tile')}: expected at most {_MOST_TILES} in all, found {self.tile}")
        if self.beside and not self.is_page:
            raise UsageError(
                f"{option('beside')} needs a viewer page; expected a name that ends in .html, found {self.out!r}"
            )
        if not self.out:
            return
        if self.suffix not in _SUFFIXES:
            raise UsageError(f"expected a name that ends in {', '.join(_SUFFIXES)}, found {self.out!r}")
        if self.is_video and self.backdrop == "none":
            raise UsageError(f"a video has no alpha here; use {option('backdrop', 'checker')} or a colour")
        if self.view != "frames" and self.suffix != ".png":
            raise UsageError(
                f"{option('view', self.view)} needs a picture; expected a name that ends in .png, found {self.out!r}"
            )

    def marks(self) -> Marks:
        from kivel.views.looks import Marks

        return Marks(pivot="pivot" in self.mark, outline="outline" in self.mark)

    @property
    def is_page(self) -> bool:
        """Whether it is a page for a browser."""
        return self.serve or self.suffix == ".html"

    @property
    def is_video(self) -> bool:
        return self.suffix in _VIDEO_SUFFIXES

    @property
    def suffix(self) -> str:
        return Path(self.out or "x.apng").suffix.lower()
