"""The installed program, and files for it to work on, written and read by libraries that are not Kivel's."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import imagecodecs
import numpy as np

from kivel.core.pixels import Pixels

PROGRAM = Path(sys.executable).with_name("kivel")


class Done(NamedTuple):
    code: int
    out: str
    err: str


Kivel = Callable[..., Done]


def read(path: Path) -> Pixels:
    """An RGBA PNG by a library that Kivel's own code does not stand behind."""
    image: Pixels = imagecodecs.png_decode(path.read_bytes())
    return image


def write(path: Path, image: Pixels) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(imagecodecs.png_encode(np.ascontiguousarray(image), level=1))


def art(number: int, *, width: int = 6, height: int = 5, dtype: type = np.uint8) -> Pixels:
    """A frame that no other number has, with colour under transparent pixels."""
    image = np.random.default_rng(number).integers(0, np.iinfo(dtype).max, (height, width, 4), dtype, endpoint=True)
    image[0, 0, 3] = 0
    return image


def files(folder: Path) -> dict[str, bytes]:
    return {p.relative_to(folder).as_posix(): p.read_bytes() for p in sorted(folder.rglob("*")) if p.is_file()}
