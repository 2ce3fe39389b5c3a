"""Make a looping sequence from tiles that scroll, with a grey image to displace them."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar, Literal

from kivel.making.options.groups.clip_options import TimingOptions
from kivel.making.options.groups.layout_options import CompanionOptions
from kivel.making.options.groups.output_options import FrameOutputOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import A_PATH, MOST_FRAMES, SCALING, ValueKind, whole, written_path

__all__ = ["ScrollOptions"]


def _moved_tile(text: str, move: Callable[[str], str]) -> str:
    from kivel.core.prepare.written import moved_source
    from kivel.core.scrolling import TILE

    return moved_source(text, TILE, move)


class ScrollOptions(TimingOptions, CompanionOptions, FrameOutputOptions):
    """Tiles that scroll."""

    title = "loop"
    everyday: ClassVar = (
        "out", "count", "filter", "map", "map-suffix", "fps", "hold", "repeat", "compress", "force",
    )  # fmt: skip
    tiles: Option[tuple[str, ...]] = Option(
        ValueKind("TILE", str, written_path, python=A_PATH),
        'from the bottom up: "IMAGE scroll=1,0 by=..."',
        default=(),
        many=True,
        positional=True,
        needed=True,
        from_folder=_moved_tile,
    )
    count: Option[int] = Option(whole(1, MOST_FRAMES), "number of frames to make", default=0, needed=True)
    filter: Option[Literal["nearest", "smooth"]] = Option(
        SCALING, "sampling: nearest for pixel art, or smooth", default="smooth", shown="smooth"
    )
