"""A layout drawn: pages with the lines of their cells and boxes, frame numbers, gaps, free space, and what is used."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

import numpy as np
import PIL.Image
import PIL.ImageDraw
from numpy.typing import NDArray

from kivel.core.layout.grid import Grid
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, Rect, Size, Turn
from kivel.core.wording import printable
from kivel.files.manifest.model import FramePlace
from kivel.views.drawing import FAINT, GROUND, TEXT, VIEW, font
from kivel.views.looks import Look, shown_frame

__all__ = ["DrawnFrame", "DrawnPage", "draw_layout", "outline_on_page", "used_share"]

_PADDING = 12
_TITLE_PX = 40
_CAPTION_PX = 22
_BOX = (255, 196, 84)
_CELL = (96, 170, 255)
_OUTLINE = (255, 96, 160)
_FREE = np.array((38, 44, 58), np.float32)
_STRIPE = np.array((58, 68, 90), np.float32)
_GAP = np.array((150, 84, 40), np.float32)
_VEIL = np.float32(0.85)
_STRIPE_PX = 6
_LEAST_NUMBER_PX = 11
_MOST_SCALE = 16


class DrawnFrame(NamedTuple):
    """A place on a page, the numbers of the frames that share it, and an outline in pixels of the page.

    `name` is that of the first, where it says more than the number.
    """

    rect: Rect
    numbers: tuple[int, ...]
    turn: Turn
    outline: tuple[tuple[float, float], ...] = ()
    name: str = ""


class DrawnPage(NamedTuple):
    """One page: its pixels, what lies on it, its grid if it is a sheet's, and what is written above it."""

    pixels: Pixels
    frames: tuple[DrawnFrame, ...]
    grid: Grid | None
    caption: str = ""


class _Spot(NamedTuple):
    """Where a page is drawn, and how large a pixel is."""

    x: int
    y: int
    scale: Fraction


def draw_layout(pages: Sequence[DrawnPage], title: str) -> NDArray[np.uint8]:
    """All pages on one picture of at most 1280x800 pixels, (H, W, 4) uint8."""
    sizes = [Size(page.pixels.shape[1], page.pixels.shape[0]) for page in pages]
    spots, height = _arranged(sizes)
    picture = PIL.Image.new("RGBA", (VIEW.w, height), (*GROUND, 255))
    draw = PIL.ImageDraw.Draw(picture)
    _draw_title(draw, title, any(page.grid for page in pages), any(f.outline for page in pages for f in page.frames))
    for number, (page, spot) in enumerate(zip(pages, spots, strict=True)):
        picture.paste(PIL.Image.fromarray(_ground_of(page, spot.scale)), (spot.x, spot.y))
        _draw_lines(draw, page, spot)
        draw.text((spot.x, spot.y - _CAPTION_PX + 4), page.caption or _used(page, number, pages), TEXT, font=font(13))
    return np.asarray(picture)


def _used(page: DrawnPage, number: int, pages: Sequence[DrawnPage]) -> str:
    height, width = page.pixels.shape[:2]
    name = f"page {number}  " if len(pages) > 1 else ""
    return f"{name}{Size(width, height)} px, {used_share(page):.1%} used"


def used_share(page: DrawnPage) -> float:
    """The share of a page that frames cover."""
    height, width = page.pixels.shape[:2]
    return float(sum(frame.rect.w * frame.rect.h for frame in page.frames) / (width * height))


def _arranged(sizes: Sequence[Size]) -> tuple[list[_Spot], int]:
    """In as many columns as make the pages largest, and how high the picture is."""
    largest = Size(max(size.w for size in sizes), max(size.h for size in sizes))
    best: tuple[Fraction, int] = (Fraction(0), 1)
    for columns in range(1, len(sizes) + 1):
        rows = -(-len(sizes) // columns)
        width = (VIEW.w - _PADDING) // columns - _PADDING
        height = (VIEW.h - _TITLE_PX - _PADDING) // rows - _CAPTION_PX - _PADDING
        scale = min(Fraction(max(width, 1), largest.w), Fraction(max(height, 1), largest.h))
        best = max(best, (scale, -columns))
    scale, columns = best[0], abs(best[1])
    scale = Fraction(min(int(scale * 2), 2 * _MOST_SCALE), 2) if scale >= 1 else scale
    step = Size(int(largest.w * scale) + _PADDING, int(largest.h * scale) + _CAPTION_PX + _PADDING)
    spots = [
        _Spot(_PADDING + index % columns * step.w, _TITLE_PX + _CAPTION_PX + index // columns * step.h, scale)
        for index in range(len(sizes))
    ]
    return spots, _TITLE_PX + -(-len(sizes) // columns) * step.h + _PADDING


def _ground_of(page: DrawnPage, scale: Fraction) -> NDArray[np.uint8]:
    """The page over a checker; where no frame is, under a veil: striped where free, brown in gaps."""
    look = Look(scale, "smooth" if scale < 1 else "nearest", "checker")
    shown = shown_frame(page.pixels, look)
    height, width = shown.shape[:2]
    rows = (np.arange(height) * page.pixels.shape[0]) // height
    columns = (np.arange(width) * page.pixels.shape[1]) // width
    kinds = _kinds(page)[rows[:, None], columns]
    y, x = np.ogrid[:height, :width]
    free = np.where(((x + y) // _STRIPE_PX % 2 == 0)[..., None], _FREE, _STRIPE)
    veil = np.where((kinds == 1)[..., None], _GAP, free)
    colour = shown[..., :3].astype(np.float32)
    veiled = colour + (veil - colour) * np.where(kinds == 1, _VEIL / 2, _VEIL)[..., None]
    result = shown.copy()
    result[..., :3] = np.where((kinds == 2)[..., None], colour, veiled).astype(np.uint8)
    return result


def _kinds(page: DrawnPage) -> NDArray[np.uint8]:
    """For each pixel 0 where it is free, 1 between cells, 2 in a frame."""
    kinds = np.zeros(page.pixels.shape[:2], np.uint8)
    if page.grid:
        kinds[: page.grid.size.h, : page.grid.size.w] = 1
        for cell in page.grid.cells():
            cell.of(kinds)[...] = 0
    for frame in page.frames:
        frame.rect.of(kinds)[...] = 2
    return kinds


def _draw_lines(draw: PIL.ImageDraw.ImageDraw, page: DrawnPage, spot: _Spot) -> None:
    for cell in page.grid.cells() if page.grid else ():
        _draw_box(draw, cell, spot, _CELL)
    cells = {tuple(cell) for cell in page.grid.cells()} if page.grid else set()
    for frame in page.frames:
        if tuple(frame.rect) not in cells:
            _draw_box(draw, frame.rect, spot, _BOX)
        if frame.outline:
            points = [(spot.x + float(x * spot.scale), spot.y + float(y * spot.scale)) for x, y in frame.outline]
            draw.line([*points, points[0]], fill=_OUTLINE, width=1)
    for frame in page.frames:
        _draw_number(draw, frame, spot)


def _draw_box(draw: PIL.ImageDraw.ImageDraw, rect: Rect, spot: _Spot, colour: tuple[int, int, int]) -> None:
    left, top = spot.x + int(rect.x * spot.scale), spot.y + int(rect.y * spot.scale)
    right, bottom = spot.x + int(rect.right * spot.scale) - 1, spot.y + int(rect.bottom * spot.scale) - 1
    draw.rectangle((left, top, max(left, right), max(top, bottom)), outline=colour)


def _draw_number(draw: PIL.ImageDraw.ImageDraw, frame: DrawnFrame, spot: _Spot) -> None:
    """Draw it in the corner, on a dark background, if there is room."""
    room = Size(int(frame.rect.w * spot.scale), int(frame.rect.h * spot.scale))
    face = font(min(14, max(_LEAST_NUMBER_PX, min(room) // 4)))
    for text in _labels(frame):
        _, _, right, bottom = draw.textbbox((0, 0), text, font=face)
        if right + 4 <= room.w and bottom + 3 <= room.h:
            break
    else:
        return
    x, y = spot.x + int(frame.rect.x * spot.scale) + 1, spot.y + int(frame.rect.y * spot.scale) + 1
    draw.rectangle((x, y, x + int(right) + 3, y + int(bottom) + 2), fill=(16, 18, 22))
    draw.text((x + 2, y), text, TEXT, font=face)


def _labels(frame: DrawnFrame) -> list[str]:
    """Return what to write on a box: a number and a name, or the numbers of all frames that share it, the longest
    first.
    """
    first, *others = frame.numbers
    turned = "  90°" if frame.turn else ""
    every = ", ".join(map(str, frame.numbers))
    named = [f"{every} {frame.name}"] if frame.name else []
    fewer = [f"{first} and {len(others)} more", f"{first}+{len(others)}"] if others else []
    return [f"{text}{turned}" for text in (*named, every, *fewer)]


def _draw_title(draw: PIL.ImageDraw.ImageDraw, title: str, grid: bool, outlines: bool) -> None:
    name, _, about = printable(title).partition("  ")
    large, small = font(20), font(13)
    draw.text((_PADDING, 9), name, TEXT, font=large)
    draw.text((_PADDING + draw.textlength(name, font=large) + 16, 15), about, FAINT, font=small)
    keys = [("cell", _CELL), ("gap", (150, 84, 40))] if grid else []
    keys += [("frame's box", _BOX), *([("outline", _OUTLINE)] if outlines else []), ("free", (90, 104, 134))]
    x = float(VIEW.w - _PADDING)
    for text, colour in reversed(keys):
        x -= draw.textlength(text, font=small)
        draw.text((x, 15), text, FAINT, font=small)
        draw.rectangle((x - 17, 17, x - 6, 28), fill=colour)
        x -= 32


def outline_on_page(frame: FramePlace) -> tuple[tuple[float, float], ...]:
    """A frame's outline in pixels of its page; none where it has none, or is mirrored."""
    if frame.outline is None or frame.flip:
        return ()
    x, y, _, _ = frame.rect
    points = [(px - frame.offset[0], py - frame.offset[1]) for px, py in frame.outline.points]
    if frame.turn == 90:
        points = [(frame.rect.w - py, px) for px, py in points]
    return tuple((x + px, y + py) for px, py in points)
