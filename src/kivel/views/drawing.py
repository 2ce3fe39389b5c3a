"""Describes what drawn pictures share: their size, their colours, their type."""

from __future__ import annotations

import PIL.ImageFont

from kivel.core.pixels.pixels import Size
from kivel.core.wording import printable

__all__ = ["FAINT", "GROUND", "TEXT", "VIEW", "font", "spoken_name"]

VIEW = Size(1280, 800)
GROUND = (28, 31, 38)
TEXT = (236, 238, 242)
FAINT = (158, 166, 180)


def spoken_name(name: str) -> str:
    """Return a frame's name where it says more than its number: not one that ends in digits, as counted files do.

    >>> [spoken_name(name) for name in ("rake", "moth_0003")]
    ['rake', '']
    """
    return "" if name[-1:].isdigit() else printable(name)


def font(size: int) -> PIL.ImageFont.FreeTypeFont | PIL.ImageFont.ImageFont:
    return PIL.ImageFont.load_default(size)
