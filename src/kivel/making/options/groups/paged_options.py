"""Describes what sheets and atlases can both be told."""

from __future__ import annotations

from pathlib import Path

from kivel.core.errors import UsageError, option
from kivel.core.option_words import Depth
from kivel.making.options.groups.clip_options import ClipNameOptions, ClipOptions, MadeClipOptions
from kivel.making.options.groups.layout_options import MapOptions, PageOptions, SpacingOptions
from kivel.making.options.groups.output_options import (
    ColourOptions,
    CompressOptions,
    OutputOptions,
    PivotOptions,
    RebuildOptions,
)
from kivel.making.options.groups.source_options import SourceOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import choice

__all__ = ["LayoutOptions"]

_SUFFIXES = (".png", ".exr")


class LayoutOptions(
    SourceOptions,
    SpacingOptions,
    PageOptions,
    MapOptions,
    MadeClipOptions,
    ClipOptions,
    ClipNameOptions,
    RebuildOptions,
    PivotOptions,
    OutputOptions,
    CompressOptions,
    ColourOptions,
):
    """Frames laid out on pages."""

    out = OutputOptions.out.but(form="NAME.png")
    depth: Option[Depth | None] = Option(
        choice(Depth, also={"float16": "half"}),
        "bits a channel of pages: 8 or 16 for PNG; half for .exr",
        default=None,
        shown="as deep as the frames",
        group="output",
    )

    def check(self) -> None:
        super().check()
        if self.depth and self.out and (self.depth == "half") != self.keeps_float:
            suits = "8 or 16" if self.depth == "half" else "half"
            raise UsageError(f"{option('depth', self.depth)} does not suit {self.out}; choose {suits}")
        if self.out and not self.out.lower().endswith(_SUFFIXES):
            raise UsageError(f"expected a name that ends in .png, found {self.out!r} (.exr for float frames)")
        self.map_requests()

    @property
    def keeps_float(self) -> bool:
        return bool(self.out) and str(self.out).lower().endswith(".exr")

    @property
    def target(self) -> Path:
        """The page's file; what would be its name, where it stays in memory."""
        return Path(self.out or "frames.png")
