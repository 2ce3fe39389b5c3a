"""Describes what the pixels of pictures are: how deep, stored or linear, with which alpha and which palette."""

from __future__ import annotations

from typing import Any

from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import ContentName
from kivel.core.pixels.indexed import StoredPalette

__all__ = ["PictureLight"]


class PictureLight(NamedTuple):
    """Says what the pixels of a sequence are.

    `depth` is bits a channel, 32 for float. `content` is what the values mean. `adds_light` says that some of it has no
    alpha, to be added to the scene. `palette` is the one that all frames have, `has_palettes` whether each has one.
    """

    depth: int
    content: ContentName = "color"
    premultiplied: bool = False
    adds_light: bool = False
    palette: StoredPalette | None = None
    has_palettes: bool = False

    @property
    def transfer(self) -> str:
        """Return how values mean light: `linear`, `sRGB`, or `data` where they mean none."""
        return "data" if self.content != "color" else "linear" if self.depth == 32 else "sRGB"

    @property
    def alpha(self) -> str:
        """Return how alpha is stored: `straight`, `premultiplied`, or `associated` as OpenEXR has it, with light that
        has none.
        """
        return "associated" if self.depth == 32 else "premultiplied" if self.premultiplied else "straight"

    def text(self) -> str:
        """Return it in a line; that alpha is straight goes without saying.

        >>> PictureLight(8, palette=StoredPalette(bytes(64)), has_palettes=True).text()
        '8 bits, sRGB, one palette of 16 colours'
        >>> PictureLight(32).text()
        'float, linear light, associated alpha'
        >>> PictureLight(16, "normal").text()
        '16 bits, data (normal)'
        """
        means = {"data": f"data ({self.content})", "linear": "linear light", "sRGB": "sRGB"}[self.transfer]
        parts = ["float" if self.depth == 32 else f"{self.depth} bits", means]
        if self.alpha != "straight":
            parts.append(f"{self.alpha} alpha")
        if self.palette:
            parts.append(f"one palette of {self.palette.length} colours")
        elif self.has_palettes:
            parts.append("palettes that differ")
        return ", ".join(parts)

    def document(self) -> dict[str, Any]:
        """All of it for scripts; the palette in its order, as #RRGGBBAA."""
        colours = self.palette and [f"#{bytes(colour).hex()}" for colour in self.palette.table]
        return {
            "depth": "float" if self.depth == 32 else self.depth,
            "transfer": self.transfer,
            "alpha": self.alpha,
            "adds_light": self.adds_light,
            "palette": colours,
        }
