"""The words of which options, files and the code that obeys them know the same: stated once, and loaded quickly."""

from __future__ import annotations

from typing import Literal

__all__ = [
    "FADES",
    "Align",
    "Choose",
    "Compress",
    "ContentName",
    "Depth",
    "Direction",
    "Dither",
    "Effort",
    "EmptyCells",
    "End",
    "Fade",
    "Fill",
    "Indexed",
    "Interpolation",
    "LayerFrames",
    "Layout",
    "Length",
    "Paging",
    "TextureOrigin",
]

Align = Literal["top-left", "top", "top-right", "left", "center", "right", "bottom-left", "bottom", "bottom-right"]
Choose = Literal["all", "random"]
Compress = Literal["fast", "small", "least"]
ContentName = Literal["color", "mask", "normal", "normal-down", "motion"]
Depth = Literal["8", "16", "half"]
Direction = Literal["normal", "reverse", "alternate", "alternate-reverse"]
"""As CSS calls them. A cycle of those that alternate goes back and forth."""
Dither = Literal["none", "ordered"]
Effort = Literal["quick", "normal", "high"]
EmptyCells = Literal["drop-last", "drop-row-ends", "drop", "keep"]
"""Says what goes of empty cells: those after the last that is drawn, in the whole or in each row; all, or none."""
End = Literal["last", "first", "none"]
Fade = Literal["linear", "stored"]
Fill = Literal["across", "down"]
Indexed = Literal["keep", "never", "smallest"]
"""Whether images are stored with the palette that their sources have, with none, or as they are smallest."""
Interpolation = Literal["step", "linear", "motion"]
LayerFrames = Literal["layers", "groups"]
Layout = Literal["grid", "row", "column"]
Length = Literal["longest", "base", "common"]
Paging = Literal["fill", "balance", "together"]
"""Pages are filled one after the other, evenly, or with groups kept together."""
TextureOrigin = Literal["top", "bottom"]
FADES: dict[Fade, str] = {"linear": "in linear light", "stored": "by stored values"}
"""How frames are cross-faded, in words."""
