"""Damaged files are listed all at once, by the commands that look at every frame."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from program import art, in_process, write

DAMAGES = {"cut off": lambda data: data[:60], "in the pixels": lambda data: data[:-60] + bytes(40) + data[-20:]}


@pytest.mark.parametrize("damage", DAMAGES.values(), ids=DAMAGES)
@pytest.mark.parametrize("command", ["inspect", "check"])
def test_every_damaged_file_is_named_once_in_order(command: str, damage: object, tmp_path: Path) -> None:
    assert callable(damage)
    for number in range(12):
        path = tmp_path / f"src/s_{number:02d}.png"
        write(path, art(number, width=70, height=60, dtype=np.uint16))  # too long to be read with its header
        if number % 4 == 2:
            path.write_bytes(damage(path.read_bytes()))
    done = in_process([command, "src", "--jobs", "3"], tmp_path)
    assert done.code == 1
    assert [line.partition(".png")[0] for line in done.err.splitlines() if ".png" in line] == [
        "error: src/s_02", "src/s_06", "src/s_10",
    ]  # fmt: skip
