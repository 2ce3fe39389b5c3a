"""The hand-drawn art: moth, lantern, beetle, the shed's tools, and props."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from kivel.demo.canvas import Canvas, Colour, colour

__all__ = [
    "beetle_sheet",
    "lamp_sheet",
    "lantern",
    "lantern_emission",
    "moth",
    "props",
    "shed_sheet",
    "small_beetle_sheet",
]

Image = NDArray[np.uint8]

INK = colour("#1b1f3b")
CREAM = colour("#f4e9cd")
AMBER = colour("#ffc861")
RUST = colour("#a6452e")
PLUM = colour("#6d4a78")
TEAL = colour("#2f7f79")
MOSS = colour("#5b8a3f")
BARK = colour("#6a4e3a")
STONE = colour("#7d8596")
NIGHT = colour("#38406b")

MOTH_FRAMES = 5
LANTERN_FRAMES = 4
FIREFLY_FRAMES = 4
BEETLE_ROWS = (("walk", 7, 1.0), ("run", 7, 1.7), ("dig", 5, 0.6))
BEETLE_CELL = (32, 24)


def _darker(value: Colour, share: float = 0.7) -> Colour:
    r, g, b = value
    return round(r * share), round(g * share), round(b * share)


def moth(frame: int) -> Image:
    """32x32; the wings close from frame 0 to 4."""
    canvas = Canvas(32, 32)
    spread = (1.0, 0.82, 0.6, 0.38, 0.18)[frame]
    lift = frame * 0.6
    for side in (-1, 1):
        reach = 8.5 * spread
        canvas.paint(canvas.ellipse(16 + side * (2 + reach * 0.7), 19 - lift, 1.5 + reach * 0.62, 5.2), PLUM)
        canvas.paint(canvas.ellipse(16 + side * (2 + reach * 0.75), 12.5 - lift, 1.5 + reach * 0.72, 6.2), CREAM)
        canvas.shade(canvas.ellipse(16 + side * (2 + reach * 0.95), 12.5 - lift, 0.8 + 1.8 * spread, 2.2), AMBER)
        canvas.shade(canvas.ellipse(16 + side * (2 + reach * 0.95), 12.5 - lift, 0.3 + 0.8 * spread, 1.1), RUST)
        canvas.paint(canvas.line((16 + side, 8), (16 + side * 4, 3.5), 0.6), BARK)
    canvas.paint(canvas.ellipse(16, 15, 2.1, 7.5), BARK)
    canvas.shade(canvas.ellipse(15.5, 12, 1, 3.5), _darker(CREAM))
    canvas.outline(INK)
    return canvas.pixels


def _flame(frame: int) -> tuple[float, float, float]:
    """Height, width and lean of the flame."""
    turn = 2 * math.pi * frame / LANTERN_FRAMES
    return 8 + 1.5 * math.sin(turn), 3.2 + 0.5 * math.cos(turn), 1.1 * math.sin(turn + 0.8)


def lantern(frame: int) -> Image:
    """24x40."""
    canvas = Canvas(24, 40)
    canvas.paint(canvas.ellipse(12, 6, 5, 4.5) & ~canvas.ellipse(12, 6, 3.4, 3), STONE)
    canvas.paint(canvas.polygon([(6, 13), (18, 13), (15.5, 8.5), (8.5, 8.5)]), RUST)
    canvas.paint(canvas.box(6, 13, 12, 19), NIGHT)
    canvas.paint(canvas.box(4, 32, 16, 4), RUST)
    canvas.paint(canvas.box(5, 12, 14, 2), _darker(RUST))
    height, width, lean = _flame(frame)
    canvas.paint(canvas.polygon([(12 - width, 30), (12 + width, 30), (12 + lean, 30 - height * 1.6)]), AMBER)
    canvas.paint(canvas.ellipse(12, 28, width * 0.9, height * 0.36), AMBER)
    canvas.paint(canvas.ellipse(12, 28.5, width * 0.45, height * 0.22), CREAM)
    for x in (6, 11.5, 17):
        canvas.paint(canvas.box(x, 13, 1, 19), _darker(RUST))
    canvas.outline(INK)
    return canvas.pixels


def lantern_emission(frame: int) -> Image:
    """The light alone, on black: brightest at the flame, falling off across the glass."""
    canvas = Canvas(24, 40)
    height, _, lean = _flame(frame)
    distance = np.hypot((canvas.x - 12 - lean * 0.4) / 7, (canvas.y - 27) / (height * 1.5))
    level = np.clip(1.1 - distance, 0, 1) ** 1.6
    image = np.zeros_like(canvas.pixels)
    image[..., :3] = np.rint(level[..., None] * np.array(AMBER))
    image[..., 3] = 255
    return image


def firefly(frame: int, *, awake: bool = False) -> Image:
    """A small thing with a lamp, which swells and fades; one that is awake has its eyes open."""
    canvas = Canvas(16, 16)
    lift = (0, 1, 0, -1)[frame % FIREFLY_FRAMES]
    canvas.paint(canvas.ellipse(8, 10 + lift, 3.2, 3.6), (AMBER, CREAM, AMBER, RUST)[frame % FIREFLY_FRAMES])
    canvas.paint(canvas.ellipse(8, 6 + lift, 2.8, 2.4), INK)
    for side in (-1, 1):
        canvas.shade(canvas.ellipse(8 + side * 4, 6 + lift + frame % 2, 2.6, 1.4), CREAM)
        canvas.shade(canvas.box(7.5 + side * 1.5 - 0.5, 5 + lift, 1, 1), AMBER if awake else NIGHT)
    return canvas.pixels


def _beetle(canvas: Canvas, x: float, y: float, phase: float, stride: float, *, digging: bool) -> None:
    tilt = 2.5 if digging else 0.0
    for pair, place in enumerate((-5, 0, 5)):
        swing = math.sin(phase + pair * 2.1) * 2.2 * stride
        foot = (x + place + swing, y + 6.5 - max(0.0, math.cos(phase + pair * 2.1)) * 1.5)
        canvas.paint(canvas.line((x + place, y + 2), foot, 1), INK)
    canvas.paint(canvas.ellipse(x - 1, y - tilt * 0.4, 8.5, 5.2), TEAL)
    canvas.shade(canvas.ellipse(x - 3, y - 2 - tilt * 0.4, 4, 1.6), _lighter(TEAL))
    canvas.shade(canvas.line((x - 9, y + 0.5), (x + 6, y + 0.5), 0.6), _darker(TEAL))
    canvas.paint(canvas.ellipse(x + 8, y + 1 + tilt, 3, 3), PLUM)
    canvas.paint(canvas.line((x + 10, y - 1 + tilt), (x + 13, y - 4 + tilt + math.sin(phase)), 0.7), INK)


def _lighter(value: Colour) -> Colour:
    r, g, b = value
    return min(255, r + 60), min(255, g + 60), min(255, b + 60)


def beetle_sheet() -> Image:
    """Three rows of 32x24 cells, a gait each: 7, 7 and 5 frames."""
    width, height = BEETLE_CELL
    whole = np.zeros((height * len(BEETLE_ROWS), width * 7, 4), np.uint8)
    for row, (name, count, stride) in enumerate(BEETLE_ROWS):
        for frame in range(count):
            canvas = Canvas(width, height)
            phase = 2 * math.pi * frame / count
            bob = abs(math.sin(phase)) * stride
            _beetle(canvas, 15, 13 - bob * 0.8, phase, stride, digging=name == "dig")
            canvas.outline(INK)
            whole[row * height : (row + 1) * height, frame * width : (frame + 1) * width] = canvas.pixels
    return whole


def small_beetle_sheet() -> Image:
    """The same, scaled to 213 pixels: cells of 30 3/7 by 23."""
    whole = beetle_sheet()
    height, width = whole.shape[:2]
    rows, columns = 69, 213
    small: Image = whole[(np.arange(rows) * height // rows)[:, None], np.arange(columns) * width // columns]
    return small


def lamp_sheet() -> Image:
    """The lanterns twice, the second time from the other side, in cells parted by drawn lines."""
    frames = [lantern(number) for number in range(LANTERN_FRAMES)]
    rows = [frames, [frame[:, ::-1] for frame in frames]]
    height, width = frames[0].shape[:2]
    whole = np.zeros((1 + len(rows) * (height + 1), 1 + LANTERN_FRAMES * (width + 1), 4), np.uint8)
    whole[:: height + 1] = whole[:, :: width + 1] = (*RUST, 255)
    for row, images in enumerate(rows):
        for column, image in enumerate(images):
            y, x = 1 + row * (height + 1), 1 + column * (width + 1)
            whole[y : y + height, x : x + width] = image
    return whole


def _pot(canvas: Canvas, w: int, h: int, tone: Colour) -> None:
    canvas.paint(canvas.polygon([(2, h * 0.3), (w - 2, h * 0.3), (w * 0.78, h - 2), (w * 0.22, h - 2)]), tone)
    canvas.paint(canvas.box(1, h * 0.22, w - 2, max(2, h * 0.14)), _darker(tone))


def _mushroom(canvas: Canvas, w: int, h: int, tone: Colour) -> None:
    canvas.paint(canvas.box(w * 0.38, h * 0.45, w * 0.24, h * 0.5), CREAM)
    canvas.paint(canvas.ellipse(w / 2, h * 0.46, w * 0.46, h * 0.4) & (canvas.y < h * 0.52), tone)
    for x, y in ((0.35, 0.3), (0.6, 0.2), (0.72, 0.38)):
        canvas.shade(canvas.ellipse(w * x, h * y, max(0.8, w * 0.07), max(0.8, h * 0.06)), CREAM)


def _crate(canvas: Canvas, w: int, h: int, tone: Colour) -> None:
    canvas.paint(canvas.box(1, 1, w - 2, h - 2), tone)
    for y in range(1, h - 2, max(4, h // 4)):
        canvas.paint(canvas.box(1, y, w - 2, 1), _darker(tone))
    canvas.paint(canvas.line((2, 2), (w - 2, h - 2), 2), _darker(tone, 0.8))


def _fence(canvas: Canvas, w: int, h: int, tone: Colour) -> None:
    for x in range(2, w - 3, 7):
        canvas.paint(canvas.polygon([(x, h - 1), (x + 4, h - 1), (x + 4, 4), (x + 2, 1), (x, 4)]), tone)
    for y in (h * 0.35, h * 0.7):
        canvas.paint(canvas.box(1, y, w - 2, 2), _darker(tone))


def _stone(canvas: Canvas, w: int, h: int, tone: Colour) -> None:
    canvas.paint(canvas.ellipse(w * 0.5, h * 0.62, w * 0.46, h * 0.34), tone)
    canvas.paint(canvas.ellipse(w * 0.38, h * 0.5, w * 0.28, h * 0.34), tone)
    canvas.shade(canvas.ellipse(w * 0.35, h * 0.4, w * 0.16, h * 0.12), _lighter(tone))


def _tree(canvas: Canvas, w: int, h: int, tone: Colour) -> None:
    canvas.paint(canvas.polygon([(w * 0.42, h - 1), (w * 0.58, h - 1), (w * 0.53, h * 0.4), (w * 0.47, h * 0.4)]), BARK)
    for x, y, r in ((0.5, 0.28, 0.3), (0.3, 0.42, 0.22), (0.7, 0.42, 0.22)):
        canvas.paint(canvas.ellipse(w * x, h * y, w * r, h * r * 0.8), tone)
    for x, y in ((0.4, 0.3), (0.62, 0.24), (0.7, 0.45), (0.3, 0.47)):
        canvas.shade(canvas.ellipse(w * x, h * y, max(1, w * 0.04), max(1, w * 0.04)), AMBER)


def _leaf(canvas: Canvas, w: int, h: int, tone: Colour) -> None:
    canvas.paint(canvas.ellipse(w * 0.5, h * 0.5, w * 0.3, h * 0.46), tone)
    canvas.shade(canvas.line((w * 0.5, 2), (w * 0.5, h - 1), 0.8), _darker(tone))


def _sign(canvas: Canvas, w: int, h: int, tone: Colour) -> None:
    canvas.paint(canvas.box(w * 0.44, h * 0.3, max(2, w * 0.12), h * 0.68), BARK)
    canvas.paint(canvas.polygon([(1, 2), (w * 0.8, 2), (w - 1, h * 0.27), (w * 0.8, h * 0.52), (1, h * 0.52)]), tone)


_Draw = Callable[[Canvas, int, int, Colour], None]
_PROPS: dict[str, tuple[_Draw, int, int]] = {
    "crate": (_crate, 30, 26),
    "fence": (_fence, 58, 24),
    "leaf": (_leaf, 11, 15),
    "mushroom": (_mushroom, 18, 20),
    "pot": (_pot, 20, 24),
    "sign": (_sign, 34, 40),
    "stone": (_stone, 26, 18),
    "tree": (_tree, 76, 98),
}
_TONES = {"amber": AMBER, "moss": MOSS, "night": NIGHT, "plum": PLUM, "rust": RUST, "stone": STONE, "teal": TEAL}
_GROWTH = {"amber": 1.0, "moss": 1.3, "night": 0.8, "plum": 1.15, "rust": 0.9, "stone": 1.45, "teal": 0.7}


def props() -> dict[str, Image]:
    """56 props by name, from 8x11 to 110x142 px: each kind in each tone, of a size of its own."""
    images: dict[str, Image] = {}
    for kind, (draw, width, height) in _PROPS.items():
        for tone, value in _TONES.items():
            w, h = round(width * _GROWTH[tone]), round(height * _GROWTH[tone])
            canvas = Canvas(w, h)
            draw(canvas, w, h, value)
            canvas.outline(INK)
            images[f"{kind}-{tone}"] = canvas.pixels
    return images


def _spade(canvas: Canvas) -> None:
    canvas.paint(canvas.line((8, 4), (8, 34), 3), BARK)
    canvas.paint(canvas.box(4, 2, 9, 3), BARK)
    canvas.paint(canvas.polygon([(2, 32), (14, 32), (14, 42), (8, 49), (2, 42)]), STONE)


def _rake(canvas: Canvas) -> None:
    canvas.paint(canvas.line((14, 2), (14, 40), 2), BARK)
    canvas.paint(canvas.box(3, 39, 23, 3), STONE)
    for x in range(3, 26, 4):
        canvas.paint(canvas.box(x, 41, 2, 7), STONE)


def _can(canvas: Canvas) -> None:
    canvas.paint(canvas.box(14, 14, 22, 20), TEAL)
    canvas.paint(canvas.line((14, 28), (3, 15), 3), _darker(TEAL))
    canvas.paint(canvas.ellipse(25, 14, 9, 9) & ~canvas.ellipse(25, 14, 6.5, 6.5) & (canvas.y < 14), _darker(TEAL))


def _seeds(canvas: Canvas) -> None:
    for x, y in ((5, 5), (12, 8), (7, 13), (15, 15)):
        canvas.paint(canvas.ellipse(x, y, 2.4, 3.2), AMBER)


_SHED: tuple[tuple[int, int, int, int, Callable[[Canvas], None]], ...] = (
    (9, 6, 17, 51, _spade),
    (41, 3, 30, 50, _rake),
    (88, 21, 39, 36, _can),
    (140, 9, 20, 20, _seeds),
    (173, 14, 20, 20, _seeds),
    (11, 78, 39, 36, _can),
    (66, 70, 17, 51, _spade),
    (147, 49, 30, 50, _rake),
)
_SHED_LEAVES = ((104, 74, 16, 22, MOSS), (124, 96, 14, 20, RUST), (96, 101, 12, 17, AMBER), (188, 104, 11, 15, PLUM))


def shed_sheet() -> Image:
    """208x128: tools, seeds and leaves laid out by hand, on no grid."""
    whole = np.zeros((128, 208, 4), np.uint8)
    for x, y, w, h, draw in _SHED:
        canvas = Canvas(w, h)
        draw(canvas)
        canvas.outline(INK)
        whole[y : y + h, x : x + w] = canvas.pixels
    for x, y, w, h, tone in _SHED_LEAVES:
        canvas = Canvas(w, h)
        _leaf(canvas, w, h, tone)
        canvas.outline(INK)
        whole[y : y + h, x : x + w] = canvas.pixels
    return whole
