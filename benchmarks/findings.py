"""How many of damaged sequences a check finds, and how many sound ones alarm it: `python benchmarks/findings.py`.

Eighty drawn movements of eight kinds (tests/drawn_motion.py), each as it is and damaged in the ways that are listed.
A damage counts as found where its code is among the findings, with `frame` the very frame.
"""

from __future__ import annotations

import contextlib
import sys
import tempfile
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))
from drawn_motion import KINDS, drawn

import kivel
from kivel.core.pixels.pixels import Pixels
from kivel.core.prepare.alpha import unmultiplied
from kivel.files.png.write import encode_png

Frames = Sequence[Pixels]
REALLY_CUT = ("death", "flame", "turntable")
"""They are drawn beyond the border."""
ROOMY = {"gap": 8, "mip_safe": 3}


class Damage(NamedTuple):
    """A way to do harm, from frames to frames, what finds it, and how the sheet is made; no sheet for frames alone.

    `one` frame is harmed, and must be the one that is named. A harm that gives None does not fit these frames.
    """

    name: str
    code: str
    harm: Callable[[Frames, np.random.Generator], Frames | None]
    sheet: dict[str, Any] | None = None
    one: bool = False
    as_map: str | None = None


def _opaque(frames: Frames) -> bool:
    return all(int(frame[..., 3].min()) == 255 for frame in frames)


def _as_they_are(frames: Frames, _rng: np.random.Generator) -> Frames:
    return frames


def _under(color: tuple[int, int, int]) -> Callable[[Frames, np.random.Generator], Frames | None]:
    def harm(frames: Frames, _rng: np.random.Generator) -> Frames | None:
        if _opaque(frames):
            return None
        return [np.where(frame[..., 3:] > 0, frame, np.array((*color, 0), np.uint8)) for frame in frames]

    return harm


def _cropped(frames: Frames, rng: np.random.Generator) -> Frames | None:
    """A tenth and more off a side on which something lies."""
    if _opaque(frames):
        return None
    seen = np.any([frame[..., 3] > 0 for frame in frames], axis=0)
    columns = np.flatnonzero(seen.any(axis=0))
    cut = int(columns[0] + (columns[-1] - columns[0]) * rng.uniform(0.15, 0.4))
    return [frame[:, cut:] for frame in frames]


def _haloed(frames: Frames, _rng: np.random.Generator) -> Frames | None:
    """A glow of alpha 3, six pixels wide."""
    if _opaque(frames):
        return None
    found = []
    for frame in frames:
        seen = frame[..., 3] > 0
        for _ in range(6):
            grown = np.pad(seen, 1)
            seen = grown[1:-1, 1:-1] | grown[:-2, 1:-1] | grown[2:, 1:-1] | grown[1:-1, :-2] | grown[1:-1, 2:]
        found.append(np.where((seen & (frame[..., 3] == 0))[..., None], np.array((0, 0, 0, 3), np.uint8), frame))
    return found


def _repeated(frames: Frames, rng: np.random.Generator) -> Frames:
    """A frame twice, the second time with noise of 1."""
    at = int(rng.integers(1, len(frames)))
    noise = rng.integers(-1, 2, frames[at - 1][..., :3].shape)
    noise[tuple(rng.integers(0, side) for side in noise.shape)] = 1
    again = np.clip(frames[at - 1][..., :3].astype(int) + noise, 0, 255).astype(np.uint8)
    return [*frames[:at], np.dstack((again, frames[at - 1][..., 3])), *frames[at:]]


def _multiplied(frames: Frames, _rng: np.random.Generator) -> Frames | None:
    if _opaque(frames):
        return None
    return [
        np.dstack((np.rint(frame[..., :3] * (frame[..., 3:] / 255)), frame[..., 3])).astype(np.uint8)
        for frame in frames
    ]


def _one(change: Callable[[Pixels, np.random.Generator], Pixels]) -> Callable[[Frames, np.random.Generator], Frames]:
    def harm(frames: Frames, rng: np.random.Generator) -> Frames:
        at = _place(frames)
        return [*frames[:at], change(frames[at], rng), *frames[at + 1 :]]

    return harm


def _place(frames: Frames) -> int:
    return max(1, len(frames) // 2)


def _brighter(by: float) -> Callable[[Pixels, np.random.Generator], Pixels]:
    return lambda frame, _rng: np.dstack((np.clip(np.rint(frame[..., :3] * by), 0, 255), frame[..., 3])).astype(
        np.uint8
    )


def _moved(px: int) -> Callable[[Pixels, np.random.Generator], Pixels]:
    return lambda frame, rng: np.roll(frame, px, int(rng.integers(0, 2)))


def _late(frames: Frames, rng: np.random.Generator) -> Frames:
    by = int(rng.integers(1, min(4, len(frames) // 2)))
    return [*frames[-by:], *frames[:-by]]


DAMAGES = (
    Damage("cells tight", "cell-bleed", _as_they_are, {"gap": 0}),
    Damage("a gap of 2", "cell-bleed", _as_they_are, {"gap": 2}),
    Damage("magenta under transparency", "fringe", _under((255, 0, 255)), ROOMY),
    Damage("black under transparency", "fringe", _under((0, 0, 0)), ROOMY),
    Damage("cropped", "cut", _cropped),
    Damage("a glow of alpha 3", "faint-edges", _haloed),
    Damage("repeated with noise of 1", "near-repeat", _repeated),
    Damage("multiplied", "premultiplied", _multiplied),
    Damage("one frame 1.03 as bright", "flicker", _one(_brighter(1.03)), one=True),
    Damage("one frame 1.1 as bright", "flicker", _one(_brighter(1.1)), one=True),
    Damage("one frame shifted by 1", "frame-shifted", _one(_moved(1)), one=True),
    Damage("one frame shifted by 2", "frame-shifted", _one(_moved(2)), one=True),
    Damage("map late", "map-late", _late, ROOMY, as_map="emission"),
)


def _written(folder: str, frames: Frames) -> str:
    Path(folder).mkdir()
    for number, frame in enumerate(frames):
        Path(folder, f"f_{number:03}.png").write_bytes(b"".join(encode_png(np.ascontiguousarray(frame))))
    return folder


def _alarms(damage: Damage, base: Frames, frames: Frames) -> bool:
    with tempfile.TemporaryDirectory() as place, contextlib.chdir(place):
        source = _written("f", base if damage.as_map else frames)
        if damage.sheet is not None:
            given: dict[str, Any] = {"map": [f"{damage.as_map}={_written('m', frames)}"]} if damage.as_map else {}
            kivel.sheet(source, out="s.png", fps=12, **damage.sheet, **given)
            source = "s.kivel.json"
        found = [one for one in kivel.check(source, only=[damage.code]).findings if one.code == damage.code]
    if damage.one:
        return any(one.where.frame == f"f_{_place(base):03}" for one in found)
    return bool(found)


def _tried(which: tuple[str, int]) -> list[tuple[bool, bool | None]]:
    """For each damage whether the sound sequence alarms, and whether the harmed one does; None where it fits not."""
    kind, number = which
    # they are drawn on black: by their edges they are multiplied
    base = [unmultiplied(frame) for frame in drawn(kind, number)]
    found: list[tuple[bool, bool | None]] = []
    for damage in DAMAGES:
        if damage.code == "cut" and kind in REALLY_CUT:
            found.append((False, None))
            continue
        harmed = damage.harm(base, np.random.default_rng(number))
        sound = damage._replace(sheet=None if damage.sheet is None else ROOMY, one=False)
        clean = [] if damage.code == "fringe" else [_alarms(sound, base, base)]
        found.append((any(clean), None if harmed is None else _alarms(damage, base, harmed)))
    return found


def main() -> None:
    # the others flicker, stand still for two, or have noise
    cases = [(kind, number) for kind in KINDS for number in range(25) if number % 5 in (0, 4)]
    with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
        rows = list(pool.map(_tried, cases))
    print(f"{'damage':30} {'code':15} found            alarms on sound ones")
    for place, damage in enumerate(DAMAGES):
        told = [found for row in rows if (found := row[place][1]) is not None]
        alarms = [f"{kind} {number}" for (kind, number), row in zip(cases, rows, strict=True) if row[place][0]]
        share = f"{sum(told):3} of {len(told):3} {sum(told) / len(told):5.0%}"
        print(f"{damage.name:30} {damage.code:15} {share}    {len(alarms):3} {', '.join(alarms)}")


if __name__ == "__main__":
    main()
