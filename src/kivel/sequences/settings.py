"""How sources are read."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path, PurePath
from typing import TYPE_CHECKING

from kivel.core.named_tuples import NamedTuple
from kivel.core.numbering import NumberRange
from kivel.core.playback.notation import TimeRange
from kivel.files.manifest.names import COLOR

if TYPE_CHECKING:
    from fractions import Fraction

    from kivel.core.option_words import LayerFrames
    from kivel.core.pixels.pixels import Pixels

__all__ = ["SourceSettings"]


class SourceSettings(NamedTuple):
    """How to read: how many pixels an image may state, which numbers count or between which times, which
    file is none of the frames.

    `target` is what the command will write: run again in a folder of frames, it must not take its own sheet for one.
    `layers` says which parts of an OpenRaster file are frames. Float frames (OpenEXR) get `developed_bits`, brightened
    by `exposure` stops; None leaves them float under `keep_float`, else it is 0. `show` is the map that a manifest's
    frames are taken of, its colour under `or_color` where it has no such map; under `with_maps` its others come along,
    under `with_motion` the one that says how things move.
    Under a `rate` every frame shows that part of a second, whatever the source says.
    Files whose stem ends with one of `companions` are maps of other frames, and none themselves. Under `series` a
    folder, its sub-folders or a pattern may hold several series; `pick` chooses by names or patterns, of a manifest
    among its clips, under `several` more than one (`run,walk*`), each of which is a clip; a source that is
    `one_of_many` may hold a single series by any name. Under `keep_holes` frames that were removed stay, transparent;
    under `undescribed` files are taken alone, whatever a manifest beside them says of their frames.
    `arrays` are frames that are there already. `tell` is given what
    is found to be odd only when pixels are read.
    """

    max_pixels: int
    within: NumberRange | TimeRange | None = None
    target: Path | None = None
    layers: LayerFrames | None = None
    exposure: float | None = None
    rate: Fraction | None = None
    keep_float: bool = False
    developed_bits: int = 8
    show: str = COLOR
    or_color: bool = False
    with_maps: bool = False
    with_motion: bool = False
    companions: tuple[str, ...] = ()
    series: bool = False
    several: bool = False
    pick: str | None = None
    one_of_many: bool = False
    keep_holes: bool = False
    undescribed: bool = False
    arrays: Sequence[Pixels] = ()
    tell: Callable[[str], object] = lambda _text: None

    @property
    def numbers(self) -> NumberRange | None:
        """Which numbers count, where numbers are given and no times."""
        return self.within if isinstance(self.within, NumberRange) else None

    def is_companion(self, name: str) -> bool:
        return bool(self.companions) and PurePath(name).stem.endswith(self.companions)

    def is_target(self, path: Path) -> bool:
        target = self.target
        return target is not None and path.name == target.name and path.absolute() == target.absolute()
