"""Every file of the demo art, by the path it is written to."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial

import numpy as np
from numpy.typing import NDArray

from kivel.demo import drawn, renders

__all__ = ["Drawing", "Image", "demo_art"]

Image = NDArray[np.uint8]
Drawing = Callable[[], dict[str, Image]]
"""Draws the images of one or two files, by path within the demo folder."""


def demo_art() -> Iterator[Drawing]:
    """The drawings, to be made in any order."""
    for number in range(drawn.MOTH_FRAMES):
        yield partial(_one, f"moth/moth_{number + 1}.png", drawn.moth, number)
    for number in range(drawn.LANTERN_FRAMES):
        yield partial(_one, f"lantern/lantern_{number + 1}.png", drawn.lantern, number)
        yield partial(_one, f"lantern/lantern_{number + 1}_emission.png", drawn.lantern_emission, number)
    for number in range(drawn.FIREFLY_FRAMES):
        yield partial(_one, f"firefly/firefly_{number + 1}.png", drawn.firefly, number)
    for number in range(renders.SPORE_FRAMES):
        yield partial(_one, f"spore/spore_{number + 1:04d}.png", renders.spore, number)
    for number in range(renders.SMOKE_FRAMES):
        yield partial(_one, f"smoke/smoke_{number:04d}.png", renders.smoke, number)
    for number in range(renders.VANE_FRAMES):
        yield partial(_vane, number)
    yield lambda: {
        "moss.png": renders.moss_tile(),
        "swell.png": renders.swell_tile(),
        "beetle.png": drawn.beetle_sheet(),
        "beetle-small.png": drawn.small_beetle_sheet(),
        "lamps.png": drawn.lamp_sheet(),
        "shed.png": drawn.shed_sheet(),
    }
    yield lambda: {f"props/{name}.png": image for name, image in drawn.props().items()}


def _one(path: str, draw: Callable[[int], Image], number: int) -> dict[str, Image]:
    return {path: draw(number)}


def _vane(number: int) -> dict[str, Image]:
    colour, normal = renders.vane(number)
    return {f"vane/vane_{number + 1}.png": colour, f"vane/vane_{number + 1}_normal.png": normal}
