"""How well motion rebuilds what was left out: `python benchmarks/motion.py [FOLDER ...]`, each a sequence of frames.

Without folders the demo's smoke, spore and vane are drawn. A fourth of the frames is kept. Prints, as shares of the
error of fading between even ones (root mean squares over the premultiplied, linear values of visible pixels): vectors
fitted to what is left out, for even frames and for those chosen by error; vectors estimated blind; pairs that are worse
than fading, at 4x and at 2x; the error of a fourth of the frames with motion and of half of them faded, in 1/255; the
processor time of a pair, and the time of all. `--tile NAME` names what tiles.
"""

from __future__ import annotations

import argparse
import resource
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np

import kivel
from kivel.core.motion.fitted_motion import fitted_motion
from kivel.core.motion.motion_codes import decoded
from kivel.core.motion.motion_error import Missed, missed, total_missed
from kivel.core.motion.warping import Planes
from kivel.core.pixels.light import to_light
from kivel.demo.renders import SMOKE_FRAMES, SPORE_FRAMES, VANE_FRAMES, smoke, spore, vane
from kivel.sequences.opening import open_sources
from kivel.sequences.settings import SourceSettings

KEEP_EVERY = 4


class Result(NamedTuple):
    """Shares of fading's error, pairs that are worse, errors of a fourth and of half, seconds of a pair and of all."""

    even: float
    chosen: float
    blind: float
    worse: tuple[int, int]
    fourth_fitted: float
    half_faded: float
    fit_seconds: float
    seconds: float


def drawn(folder: Path) -> list[Path]:
    """The demo's own sequences."""
    for name, count, draw in (
        ("smoke", SMOKE_FRAMES, smoke),
        ("spore", SPORE_FRAMES, spore),
        ("vane", VANE_FRAMES, lambda number: vane(number)[0]),
    ):
        kivel.resample(frames=[draw(number) for number in range(count)], out=folder / name, count=count)
    return sorted(folder.iterdir())


def result(folder: Path, *, tile: bool) -> Result:
    sequence = open_sources([str(folder)], SourceSettings(1 << 28))
    lights = [to_light(frame.load()) for frame in sequence.frames]
    count = len(lights) // KEEP_EVERY
    options: dict[str, Any] = {"count": count, "motion": True, "tile": tile}
    began = time.perf_counter()
    chosen = kivel.resample(folder, **options).motion
    seconds = time.perf_counter() - began
    even = kivel.resample(folder, even=True, **options)
    twice = kivel.resample(folder, even=True, **{**options, "count": len(lights) // 2}).motion
    with tempfile.TemporaryDirectory() as name:
        kept = kivel.resample(folder, out=Path(name, "kept"), even=True, **options)
        (Path(name, "kept/kept.kivel.json")).unlink()
        files = sorted(path for path in Path(name, "kept").glob("*.png") if ".motion" not in path.name)
        estimated = kivel.sheet([str(path) for path in files], motion=True, tile=tile, repeat=repeat_of(kept)).motion
    assert chosen
    assert even.motion
    assert twice
    assert estimated
    places = [round(span.position) for span in even.taken]
    blind = total_missed(blind_missed(estimated, places, lights, tile=tile))
    first, last = places[1], places[2]
    before = resource.getrusage(resource.RUSAGE_SELF)
    times = [place / (last - first) for place in range(1, last - first)]
    fitted_motion(lights[first], lights[last], lights[first + 1 : last], times, wraps=tile)
    after = resource.getrusage(resource.RUSAGE_SELF)
    total = even.motion.total
    return Result(
        total.ratio,
        (chosen.total.warping / total.fading) ** 0.5,
        blind.ratio,
        (worse(even.motion.pairs), worse(twice.pairs)),
        total.error,
        twice.total.faded,
        after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime,
        seconds,
    )


def repeat_of(made: Any) -> str:
    return "1" if made.manifest.clips[0].repeat == 1 else "forever"


def blind_missed(estimated: Any, places: Sequence[int], lights: Sequence[Planes], *, tile: bool) -> list[Missed]:
    """What the vectors that were estimated from kept frames miss of those that were left out."""
    found = []
    for pair in estimated.pairs:
        first, last = places[pair.earlier], places[pair.later] or len(lights)
        vectors = decoded(estimated.map.load(pair.earlier), estimated.map.motion.reach)
        between = lights[first + 1 : last]
        times = [place / (last - first) for place in range(1, last - first)]
        found.append(missed(lights[first], lights[last % len(lights)], between, times, vectors, wraps=tile))
    return found


def worse(pairs: Sequence[Any]) -> int:
    return sum(pair.missed is not None and pair.missed.warping > pair.missed.fading for pair in pairs)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("folders", nargs="*", type=Path, metavar="FOLDER")
    parser.add_argument("--tile", action="append", default=[], metavar="NAME", help="the name of a folder of tiles")
    given = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        folders = given.folders or drawn(Path(name))
        heads = {"even": 8, "chosen": 8, "blind": 8, "worse 4x/2x": 13}
        heads |= {"1/4 fitted": 12, "1/2 faded": 11, "a pair": 9, "all": 8}
        print(" " * 10 + "".join(f"{head:>{width}}" for head, width in heads.items()))
        results = []
        for folder in folders:
            one = result(folder, tile=folder.name in given.tile)
            results.append(one)
            print(
                f"{folder.name:10}{one.even:8.3f}{one.chosen:8.3f}{one.blind:8.3f}{'{}/{}'.format(*one.worse):>13}"
                f"{one.fourth_fitted:12.2f}{one.half_faded:11.2f}{one.fit_seconds:7.2f} s{one.seconds:6.1f} s",
                flush=True,
            )
        means = [np.mean([getattr(one, field) for one in results]) for field in ("even", "chosen", "blind")]
        print(f"{'mean':10}" + "".join(f"{mean:8.3f}" for mean in means))


if __name__ == "__main__":
    main()
