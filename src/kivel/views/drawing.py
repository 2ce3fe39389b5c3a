"""Describes what drawn pictures share: their size, their colours, their type."""

from __future__ import annotations

import PIL.ImageFont

from kivel.core.pixels.pixels import Size

__all__ = ["FAINT", "GROUND", "TEXT", "VIEW", "font"]

VIEW = Size(1280, 800)
GROUND = (28, 31, 38)
TEXT = (236, 238, 242)
FAINT = (158, 166, 180)


def font(size: int) -> PIL.ImageFont.FreeTypeFont | PIL.ImageFont.ImageFont:
    return PIL.ImageFont.load_default(size)
