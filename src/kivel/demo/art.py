"""Every file of the demo art, by the path it is written to."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from functools import partial

import numpy as np
from numpy.typing import NDArray

from kivel.demo import drawn, renders

__all__ = ["ART", "Drawing", "Image", "drawings"]

Image = NDArray[np.uint8]
Drawing = Callable[[], dict[str, Image]]
"""Draws the images of one or two files, by path within the demo folder."""


def drawings(names: Iterable[str]) -> Iterator[Drawing]:
    """Yield the drawings of some of `ART`, to be made in any order."""
    for name in names:
        yield from ART[name]()


def _frames(
    name: str, count: int, draw: Callable[[int], Image], *, first: int = 1, digits: int = 1
) -> Iterator[Drawing]:
    for number in range(count):
        yield partial(_one, f"{name}/{name}_{number + first:0{digits}d}.png", draw, number)


def _lantern() -> Iterator[Drawing]:
    yield from _frames("lantern", drawn.LANTERN_FRAMES, drawn.lantern)
    for number in range(drawn.LANTERN_FRAMES):
        yield partial(_one, f"lantern/lantern_{number + 1}_emission.png", drawn.lantern_emission, number)


def _one(path: str, draw: Callable[[int], Image], number: int) -> dict[str, Image]:
    return {path: draw(number)}


def _vane(number: int) -> dict[str, Image]:
    colour, normal = renders.vane(number)
    return {f"vane/vane_{number + 1}.png": colour, f"vane/vane_{number + 1}_normal.png": normal}


ART: dict[str, Callable[[], Iterator[Drawing]]] = {
    "moth": partial(_frames, "moth", drawn.MOTH_FRAMES, drawn.moth),
    "lantern": _lantern,
    "firefly": partial(_frames, "firefly", drawn.FIREFLY_FRAMES, drawn.firefly),
    "spore": partial(_frames, "spore", renders.SPORE_FRAMES, renders.spore, digits=4),
    "smoke": partial(_frames, "smoke", renders.SMOKE_FRAMES, renders.smoke, first=0, digits=4),
    "vane": lambda: (partial(_vane, number) for number in range(renders.VANE_FRAMES)),
    "moss": lambda: iter([lambda: {"moss.png": renders.moss_tile(), "swell.png": renders.swell_tile()}]),
    "beetle": lambda: iter(
        [
            lambda: {
                "beetle.png": drawn.beetle_sheet(),
                "beetle-small.png": drawn.small_beetle_sheet(),
                "lamps.png": drawn.lamp_sheet(),
            }
        ]
    ),
    "shed": lambda: iter([lambda: {"shed.png": drawn.shed_sheet()}]),
    "props": lambda: iter([lambda: {f"props/{name}.png": image for name, image in drawn.props().items()}]),
}
"""The drawings by name."""
