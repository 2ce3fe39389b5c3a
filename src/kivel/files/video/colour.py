"""How the numbers of a decoded frame become red, green, blue and alpha, by what the stream says of itself."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels.luma_chroma import MATRICES, rgb_of_luma_chroma
from kivel.core.pixels.pixels import Pixels

__all__ = ["VideoColour"]

Matrix = Literal["BT.601", "BT.709", "BT.2020", "FCC", "SMPTE 240M", "RGB"]
_MATRICES: dict[int, Matrix] = {
    1: "BT.709", 4: "FCC", 5: "BT.601", 6: "BT.601", 7: "SMPTE 240M", 9: "BT.2020", 10: "BT.2020",
}  # fmt: skip
"""By the numbers of ITU-T H.273, table 4."""
_FULL_RANGE = 2
_HD_HEIGHT = 720
"""Video of this height is in BT.709 where it says nothing, smaller in BT.601, as players do."""
_CURVES = {8: "linear light", 16: "PQ (HDR)", 18: "HLG (HDR)"}
"""Transfer characteristics that are far from sRGB (H.273, table 3)."""


class VideoColour:
    """Describes the colour of one stream by one of its frames, and converts others.

    `depth` is 8 or 16, the bits of what `pixels` gives. `note` names what is not applied.
    """

    def __init__(self, frame: Any) -> None:
        name = frame.format.name
        parts = frame.format.components
        stated = _MATRICES.get(int(frame.colorspace))
        usual: Matrix = "BT.709" if frame.height >= _HD_HEIGHT else "BT.601"
        self.is_rgb = frame.format.is_rgb or name.startswith(("gbr", "pal8"))
        self.is_grey = not self.is_rgb and not any(part.is_chroma for part in parts)
        self.is_stated = stated is not None
        self.matrix: Matrix = "RGB" if self.is_rgb else stated or usual
        self.is_full_range = int(frame.color_range) == _FULL_RANGE or name.startswith("yuvj")
        self._bits = max((part.bits for part in parts), default=8)
        self.depth = 16 if self._bits > 8 else 8
        self._is_planar = name.startswith(("yuv", "nv", "p0", "gray", "uyvy", "yvyu")) and not name.endswith("be")
        self.has_alpha = any(part.is_alpha for part in parts)
        self.note = _CURVES.get(int(frame.color_trc), "")

    @property
    def described(self) -> str:
        if self.is_rgb:
            return "RGB"
        return f"{self.matrix}, {'full' if self.is_full_range else 'video'} range"

    def pixels(self, frame: Any) -> Pixels:
        """Return (H, W, 4) straight RGBA, uint8 or uint16, upright and read-only.

        Chroma that is stored at half the size is enlarged smoothly.
        """
        if self.is_rgb or not self._is_planar:
            image = frame.reformat(format="rgba64le" if self.depth == 16 else "rgba", threads=1).to_ndarray()
        else:
            planes = _planes_of(self._with_full_chroma(frame), self._bits)
            image = rgb_of_luma_chroma(planes, self._bits, MATRICES[self.matrix], is_full_range=self.is_full_range)
        upright: Pixels = np.ascontiguousarray(np.rot90(image, quarter_turns(frame)))
        upright.setflags(write=False)
        return upright

    def _with_full_chroma(self, frame: Any) -> Any:
        if self.is_grey:
            return frame
        from av.video.reformatter import Interpolation as How

        kept = {"src_color_range": int(self.is_full_range) + 1, "dst_color_range": int(self.is_full_range) + 1}
        return frame.reformat(
            format=f"yuv{'a' if self.has_alpha else ''}444p{'' if self._bits == 8 else f'{self._bits}le'}",
            interpolation=How.BILINEAR | How.ACCURATE_RND | How.BITEXACT,
            threads=1,
            **kept,
        )


def _planes_of(frame: Any, bits: int) -> list[NDArray[Any]]:
    kind = np.dtype(np.uint8 if bits == 8 else "<u2")
    return [
        np.frombuffer(plane, kind).reshape(plane.height, plane.line_size // kind.itemsize)[:, : plane.width]
        for plane in frame.planes
    ]


def quarter_turns(frame: Any) -> int:
    """Return how often a frame is to be turned counterclockwise to be upright."""
    turns: int = round(frame.rotation / 90) % 4
    return turns
