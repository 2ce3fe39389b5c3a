"""Prepare frames by a chain of steps, in the order given: matte, trim, scale, colour and more."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, ClassVar

from kivel.core.errors import UsageError, option
from kivel.making.options.groups.layout_options import CompanionOptions
from kivel.making.options.groups.output_options import ColourOptions, FrameOutputOptions
from kivel.making.options.groups.source_options import KindOptions, SourceOptions, SourceRateOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import ValueKind

if TYPE_CHECKING:
    from kivel.core.prepare.steps import WrittenStep

__all__ = ["PrepOptions"]


def _moved_step(text: str, move: Callable[[str], str]) -> str:
    """A step whose images are named from elsewhere."""
    from kivel.core.prepare.steps import moved_step

    return moved_step(text, move)


class PrepOptions(SourceRateOptions, SourceOptions, KindOptions, CompanionOptions, ColourOptions, FrameOutputOptions):
    """Steps done to frames."""

    title = "steps"
    everyday: ClassVar = (
        "out", "step", "steps", "colors", "map", "map-suffix", "as", "series", "range", "fps", "layers-as", "exposure",
        "compress", "force",
    )  # fmt: skip
    step: Option[tuple[str, ...]] = Option(
        ValueKind('"NAME ..."', str),
        "a step of prep: its name, then its values and key=value; repeat the option for a chain",
        default=(),
        many=True,
        from_folder=_moved_step,
    )

    def check(self) -> None:
        super().check()
        if not (self.step or self.reduces_colours):
            raise UsageError(f"{option('step')} is needed; kivel prep --steps lists the steps of prep")

    def steps(self) -> list[WrittenStep]:
        from kivel.core.prepare.steps import parse_step

        return [parse_step(text, where=f"{option('step')} {number}") for number, text in enumerate(self.step, 1)]
