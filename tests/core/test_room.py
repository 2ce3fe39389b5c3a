"""Nothing is allocated that is larger than the limit, whoever asks for it."""

from __future__ import annotations

import tracemalloc
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest

from kivel.core.contents import CONTENTS, empty
from kivel.core.pixels.blend import Layer, stacked
from kivel.core.pixels.pixels import Size, in_canvas, on_canvas
from kivel.core.pixels.scaling import nearest_scaled, scaled
from kivel.core.room import RoomError, limited, require_room
from kivel.files.threads import in_order
from program import Kivel, art, write

HUGE = Size(60_000, 60_000)
SMALL = art(1)
MADE: dict[str, Callable[[], object]] = {
    "padded": lambda: on_canvas(SMALL, HUGE, (0, 0)),
    "on its canvas": lambda: in_canvas(SMALL, HUGE, (0, 0)),
    "smooth": lambda: scaled(SMALL, HUGE, filter="lanczos"),
    "nearest": lambda: nearest_scaled(SMALL, HUGE),
    "a page": lambda: empty(CONTENTS["normal"], (HUGE.h, HUGE.w), np.uint8, opaque=True),
    "stacked": lambda: stacked(HUGE, [Layer(SMALL)]),
}


@pytest.mark.parametrize("make", MADE.values(), ids=MADE)
@pytest.mark.parametrize("jobs", [1, 2])
def test_what_makes_images_passes_the_gate_first(make: Callable[[], object], jobs: int) -> None:
    tracemalloc.start()
    with limited(1_000_000), pytest.raises(RoomError, match="60000x60000 px, more than the limit of 1,000,000"):
        list(in_order(lambda _: make(), [0], jobs=jobs))
    assert tracemalloc.get_traced_memory()[1] < 5_000_000
    tracemalloc.stop()


@pytest.mark.parametrize(("bits", "frames", "most"), [(8, 1, 100), (16, 1, 50), (32, 1, 25), (8, 10, 10), (16, 5, 10)])
def test_depth_and_number_count(bits: int, frames: int, most: int) -> None:
    require_room(most, 1, bits=bits, frames=frames, limit=100)
    with pytest.raises(RoomError):
        require_room(most + 1, 1, bits=bits, frames=frames, limit=100)


EVADING = {
    "fit": "prep in --step 'fit 30000x30000 upscale' -o o",
    "pad": "prep in --step 'pad 9999' -o o",
    "pad to": "prep in --step 'pad to=30000x30000' -o o",
    "trim": "prep in --step 'trim margin=4000' -o o",
    "anchor": "prep in --step 'anchor 0,0 to=0.001,0.001' -o o",
    "preview": "preview in -o o.apng --scale 64",
    "preview of many": "preview in -o o.gif --scale 8",
    "a cell": "sheet in -o o.png --cell 9999x9999",
    "scaled to a cell": "sheet in -o o.png --cell 9999x9999 --scale-to-cell smooth",
    "a margin": "sheet in -o o.png --margin 9999",
    "a multiple": "sheet in -o o.png --multiple-of 9999",
    "an atlas": "atlas in -o o.png --multiple-of 4096",
    "in-betweens": "sheet in -o o.png --inbetween 1000",
}


@pytest.mark.parametrize("line", EVADING.values(), ids=EVADING)
def test_no_command_evades_the_limit(kivel: Kivel, tmp_path: Path, line: str) -> None:
    import shlex

    for number in range(4):
        write(tmp_path / f"in/f{number}.png", art(number, width=40, height=40))
    done = kivel(*shlex.split(line), "--max-pixels", "20000")
    assert (done.code, "more than the limit of 20,000 pixels" in done.err) == (1, True), done.err
    assert not list(tmp_path.glob("o*"))
