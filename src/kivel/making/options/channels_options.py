"""Make one sequence whose red, green, blue and alpha come from several: channel packing."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, ClassVar

from kivel.core.errors import UsageError, located, option
from kivel.making.options.groups.output_options import FrameOutputOptions
from kivel.making.options.groups.source_options import KindOptions, ReadingOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import ValueKind

if TYPE_CHECKING:
    from kivel.core.channel_packing import ChannelOf

__all__ = ["ChannelsOptions"]


def _moved(text: str, move: Callable[[str], str]) -> str:
    from kivel.core.channel_packing import moved_channel

    return moved_channel(text, move)


def _text(value: object) -> str:
    return str(value)


_CHANNEL: ValueKind[str] = ValueKind("SRC[:CHANNEL]", str, _text, python="str | PathLike[str] | float")


class ChannelsOptions(ReadingOptions, KindOptions, FrameOutputOptions):
    """Where each channel comes from."""

    title = "channels"
    everyday: ClassVar = ("red", "green", "blue", "alpha", "out", "as", "range", "name", "compress", "force")
    as_ = KindOptions.as_.but(shown="color if red, green and blue are one picture's, else mask")
    red: Option[str | None] = Option(
        _CHANNEL,
        "source of red: SRC, SRC:brightness (or red, green, blue, alpha), or a number from 0 to 1",
        default=None, shown="0", from_folder=_moved,
    )  # fmt: skip
    green: Option[str | None] = Option(_CHANNEL, "source of green", default=None, shown="0", from_folder=_moved)
    blue: Option[str | None] = Option(_CHANNEL, "source of blue", default=None, shown="0", from_folder=_moved)
    alpha: Option[str | None] = Option(
        _CHANNEL, "source of alpha: glow/:brightness", default=None, shown="1", from_folder=_moved
    )

    def check(self) -> None:
        super().check()
        if not any(one.source for one in self.channels()):
            raise UsageError(f"at least one channel needs a source, like {option('red', 'SRC')}")

    def channels(self) -> list[ChannelOf]:
        """Return where red, green, blue and alpha come from."""
        from kivel.core.channel_packing import OWN_CHANNELS, ChannelOf, parse_channel

        found = []
        for target in OWN_CHANNELS:
            text: str | None = self.values.get(target)
            if text is None:
                found.append(ChannelOf("", target, 1.0 if target == "alpha" else 0.0))
                continue
            with located(option(target)):
                found.append(parse_channel(text, target))
        return found
