"""One picture whose channels come from several: how a channel is written, and what is made of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Literal, get_args

import numpy as np
from numpy.typing import NDArray

from kivel.core.errors import UsageError
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, depth_dtype, full_scale, widened
from kivel.core.prepare.matte import brightness_mask
from kivel.core.suggestions import did_you_mean

__all__ = ["OWN_CHANNELS", "ChannelOf", "channel_plane", "joined_channels", "moved_channel", "parse_channel"]

Channel = Literal["red", "green", "blue", "alpha", "brightness"]
CHANNELS: tuple[Channel, ...] = get_args(Channel)
OWN_CHANNELS = CHANNELS[:4]
"""The channels of a picture, in their order."""


class ChannelOf(NamedTuple):
    """A channel of a source; or, without one, a `value` from 0 to 1 everywhere."""

    source: str
    channel: Channel
    value: float = 0.0


def parse_channel(text: str, own: Channel) -> ChannelOf:
    """Read `SRC`, `SRC:CHANNEL` or a number from 0 to 1; without a channel it is the `own` one of that name.

    >>> parse_channel("glow/:brightness", "alpha")
    ChannelOf(source='glow/', channel='brightness', value=0.0)

    Raises
    ------
    UsageError
        If there is no such channel, or a number is out of its range.
    """
    try:
        value = float(text)
    except ValueError:
        pass
    else:
        if not 0 <= value <= 1:
            raise UsageError(f"expected SRC, SRC:CHANNEL or a number from 0 to 1, found {text!r}")
        return ChannelOf("", own, value)
    source, colon, name = text.rpartition(":")
    channel = next((one for one in CHANNELS if one == name), None)
    if colon and channel:
        return ChannelOf(source, channel)
    # a name may have a colon, as C:/frames has
    if colon and not set("/\\.") & set(name):
        meant = did_you_mean(name, CHANNELS)
        raise UsageError(f"expected a channel, {', '.join(CHANNELS)}, behind the colon, found {name!r}{meant}")
    return ChannelOf(text, own)


def moved_channel(text: str, move: Callable[[str], str]) -> str:
    """A channel as it is written from elsewhere: its source passed through `move`.

    >>> moved_channel("glow/:red", lambda path: f"../{path}"), moved_channel("0.5", lambda path: f"../{path}")
    ('../glow/:red', '0.5')
    """
    found = parse_channel(text, "red")
    if not found.source:
        return text
    return move(found.source) + text[len(found.source) :]


def channel_plane(image: Pixels, channel: Channel) -> NDArray[Any]:
    """One channel of a frame, (H, W), in its own depth; brightness is luma (Rec. 709) times alpha, on stored values."""
    if channel == "brightness":
        plane: NDArray[Any] = brightness_mask(image)[..., 3]
        return plane
    return image[..., OWN_CHANNELS.index(channel)]


def joined_channels(parts: Sequence[Pixels | float], channels: Sequence[Channel], *, bits: int) -> Pixels:
    """A frame whose red, green, blue and alpha are these channels of pictures, or the same number everywhere.

    Parameters
    ----------
    parts : sequence of (H, W, 4) array or float
        Four, of one size, no deeper than `bits`; numbers are shares of full.
    channels : sequence of Channel
        Which channel of each picture.

    Returns
    -------
    (H, W, 4) array
        Values of pictures as they are, or exactly widened.
    """
    pictures = [part for part in parts if not isinstance(part, float)]
    height, width = pictures[0].shape[:2]
    result = np.empty((height, width, 4), depth_dtype(bits))
    for place, (part, channel) in enumerate(zip(parts, channels, strict=True)):
        if isinstance(part, float):
            value = part * full_scale(result)
            result[..., place] = value if bits == 32 else round(value)
        else:
            result[..., place] = channel_plane(widened(part, bits), channel)
    return result
