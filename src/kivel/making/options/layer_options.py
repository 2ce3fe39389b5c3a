"""Stack sequences frame by frame, each with a blend mode, an opacity and an offset."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar

from kivel.core.option_words import Length
from kivel.making.options.groups.layout_options import CompanionOptions
from kivel.making.options.groups.output_options import FrameOutputOptions
from kivel.making.options.groups.source_options import ReadingOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import A_PATH, FLAG, ValueKind, choice, written_path

__all__ = ["LayerOptions"]


def _moved_layer(text: str, move: Callable[[str], str]) -> str:
    from kivel.core.layers import LAYER
    from kivel.core.prepare.written import moved_source

    return moved_source(text, LAYER, move)


def _share(text: str) -> float:
    from kivel.core.layers import LAYER

    opacity = next(parameter for parameter in LAYER if parameter.name == "opacity")
    share: float = opacity.read(text)
    return share


class LayerOptions(ReadingOptions, CompanionOptions, FrameOutputOptions):
    """Sequences over each other."""

    title = "stack"
    everyday: ClassVar = (
        "out", "until", "opacity", "linear", "map", "map-suffix", "range", "compress", "force",
    )  # fmt: skip
    base: Option[str] = Option(
        ValueKind("BASE", str, written_path, python=A_PATH),
        "the bottom sequence; the result has its size",
        default="",
        positional=True,
        needed=True,
        from_folder=_moved_layer,
    )
    over: Option[tuple[str, ...]] = Option(
        ValueKind("OVER", str, written_path, python=A_PATH),
        'layers above it, from the bottom up: "SRC blend=screen opacity=0.5"',
        default=(),
        many=True,
        positional=True,
        needed=True,
        from_folder=_moved_layer,
    )
    until: Option[Length] = Option(
        choice(Length),
        "length of the result: until the longest ends (default), the base ends, or all end together; shorter ones "
        "repeat",
        default="longest",
    )
    opacity: Option[float] = Option(
        ValueKind("N", _share, python="float | str"), "opacity of the result, 0 to 1", default=1.0, shown="1"
    )
    linear: Option[bool] = Option(FLAG, "blend in linear light (default: in sRGB, as browsers do)", default=False)
