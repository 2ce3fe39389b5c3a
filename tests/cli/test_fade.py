"""`--fade`: half way from black to white is 188 in light, and 128 where bytes are blended."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from program import Kivel, read, write

GREYS = {"linear": 188, "stored": 128}


@pytest.fixture(autouse=True)
def two_frames(tmp_path: Path) -> None:
    """Black to white, the left half; from red to nothing, the right half."""
    for number, grey in enumerate((0, 255)):
        image = np.full((4, 8, 4), grey, np.uint8)
        image[..., 3] = 255
        image[:, 4:] = (200, 0, 0, 255 * (1 - number))
        write(tmp_path / f"two/two_{number}.png", image)


def half_way(
    kivel: Kivel, tmp_path: Path, how: str, fade: list[str]
) -> np.ndarray[tuple[int, int, int], np.dtype[np.uint8]]:
    """The picture in the middle, by each command that makes one."""
    if how == "inbetween":
        assert kivel("sheet", "two", "-o", "s.png", "--inbetween", "1", "--layout", "row", *fade).code == 0
        return read(tmp_path / "s.png")[:, 8:16]
    if how == "resample":
        assert kivel("resample", "two", "-o", "r", "--count", "3", "--one-shot", "--mix", "--no-warp", *fade).code == 0
        return read(tmp_path / "r" / "r_0001.png")
    kivel("sheet", "two", "-o", "s.png", "--hold", "1/15s")
    kivel("retime", "s.kivel.json", "--interpolation", "linear")
    assert kivel("preview", "s.kivel.json", "-o", "p.apng", "--scale", "1", "--backdrop", "none", *fade).code == 0
    with Image.open(tmp_path / "p.apng") as image:
        image.seek(1)
        return np.asarray(image.convert("RGBA"))


@pytest.mark.parametrize("how", ["inbetween", "resample", "preview"])
@pytest.mark.parametrize("fade", [None, *GREYS])
def test_half_way_is_what_the_target_shows(kivel: Kivel, tmp_path: Path, how: str, fade: str | None) -> None:
    middle = half_way(kivel, tmp_path, how, ["--fade", fade] if fade else [])
    assert np.abs(middle[:, :4, :3].astype(int) - GREYS[fade or "linear"]).max() <= 1
    assert np.abs(middle[:, 4:].astype(int) - (200, 0, 0, 128)).max() <= 1


@pytest.mark.parametrize(
    ("line", "needs"),
    [
        ("sheet two -o a.png --fade stored", "--fade needs --inbetween N"),
        ("resample two -o a --count 3 --fade stored", "--fade needs --mix"),
        ("loop two --fade stored", "--fade needs --close K"),
    ],
)
def test_fading_needs_something_that_fades(kivel: Kivel, line: str, needs: str) -> None:
    assert needs in kivel(*line.split()).err
