"""Take sheets apart into frames: by their manifest, by a grid that is given or found, or by separate shapes."""

from __future__ import annotations

from typing import ClassVar, Literal

from kivel.making.options.groups.cut_options import SheetCutOptions
from kivel.making.options.groups.output_options import FrameOutputOptions
from kivel.making.options.groups.source_options import ShowOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import SCALING

__all__ = ["SliceOptions"]


class SliceOptions(ShowOptions, SheetCutOptions, FrameOutputOptions):
    """Sheets taken apart."""

    title = "frames"
    command: ClassVar = "slice"
    everyday: ClassVar = (
        "out", "columns", "rows", "cell", "gap", "margin", "at", "islands", "regions", "pick", "look", "key", "empty",
        "row-clips", "map", "fps", "pivot", "compress", "force",
    )  # fmt: skip
    sources = SheetCutOptions.sources.but(form="IMAGE-or-MANIFEST", help="sheets, or the .kivel.json beside one")
    show = ShowOptions.show.but(
        help="which map to use: color, emission, ...; of a manifest", shown="all of them", group="frames"
    )
    steady: Option[Literal["nearest", "smooth"] | None] = Option(
        SCALING,
        "cancel the jitter of each row: nearest by whole pixels, smooth by parts of pixels",
        default=None,
        bare="nearest",
        group="frames",
    )

    @property
    def needs_out(self) -> bool:
        return super().needs_out and not self.save_regions
