"""The installed program, and files for it to work on, written and read by libraries that are not Kivel's."""

from __future__ import annotations

import contextlib
import sys
from collections.abc import Callable, Sequence
from io import BytesIO, TextIOWrapper
from pathlib import Path
from typing import NamedTuple

import imagecodecs
import numpy as np

from kivel.cli.main import main
from kivel.core.pixels.pixels import Pixels

PROGRAM = Path(sys.executable).with_name("kivel")


class Done(NamedTuple):
    code: int
    out: str
    err: str


Kivel = Callable[..., Done]


def in_process(words: Sequence[str], folder: Path) -> Done:
    """What a command prints and its exit code, without starting a program."""
    out, err = (TextIOWrapper(BytesIO(), encoding="utf-8") for _ in range(2))
    with contextlib.chdir(folder), contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            code = main(words)
        except SystemExit as left:  # argparse ends the program by itself
            code = int(left.code or 0)
    return Done(code, *(_text(stream) for stream in (out, err)))


def _text(stream: TextIOWrapper) -> str:
    stream.flush()
    return stream.buffer.getvalue().decode("utf-8", "backslashreplace")  # type: ignore[attr-defined, no-any-return]


def read(path: Path) -> Pixels:
    """A PNG as RGBA, however it is stored, by a library that Kivel's own code does not stand behind."""
    stored: Pixels = imagecodecs.png_decode(path.read_bytes())
    if stored.ndim == 2:
        stored = stored[..., None]
    channels = stored.shape[2]
    image = np.full((*stored.shape[:2], 4), np.iinfo(stored.dtype).max, stored.dtype)
    image[..., :3] = stored[..., : 3 if channels > 2 else 1]
    if channels in (2, 4):
        image[..., 3] = stored[..., -1]
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
