"""Memory of commands on large pictures: `python tests/faults/large.py --kind deep`.

Each line is a process of its own; its peak is measured however it ends, and is above the limit for none.
"""

from __future__ import annotations

import argparse
import re
import shlex
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kivel.core.pixels.pixels import Pixels
from kivel.files.exr import encode_exr
from kivel.files.png.write import encode_png

__all__ = ["KINDS", "LINES", "Peak", "peaks"]

SIDE = 6000
LIMIT_BYTES = 1_500_000_000
LIMIT_S = 300
_MEASURED = """
import atexit, re, resource, sys
def end():
    own = int(re.search(r"VmHWM:\\s+(\\d+)", open("/proc/self/status").read())[1])
    print("peak", max(own, resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss), file=sys.stderr)
atexit.register(end)
from kivel.cli.main import main
sys.exit(main(sys.argv[1:]))
"""
LINES = """\
inspect {0}
sheet {0} {0} -o s.png --gap 1
sheet {0} -o s.png --fold --inbetween 1
sheet {0} -o s.png --scale-to-cell smooth --cell 3000x3000
sheet {0} -o s.png --mip-safe 3 --skirt 4
sheet {0} -o s.png --colors 64
atlas {0} -o a.png --outline 8 --page-limit 8192x8192
slice {0} -o out --columns 2
slice {0} -o out --islands
slice {0} -o out
adopt {0} --look l.png --columns 3
check {0}
check {0} --sides
loop {0}
loop {0} --find 2-4
plan {0}
resample {0} {0} -o out --count 3 --mix
layer {0} '{0} blend=multiply opacity=0.5' -o out
scroll '{0} scroll=1,0' --count 3 -o out
scroll '{0} by={0} strength=2' --count 3 -o out
preview {0} -o p.png
preview {0} -o p.gif --scale 1
preview {0} -o p.png --tile 2x2 --mark pivot --show alpha
prep {0} -o out --step matte
prep {0} -o out --step 'matte key color=#00b140 tolerance=20'
prep {0} -o out --step 'ramp #2a1b3d #a6452e@0.35 #fff6d8'
prep {0} -o out --step 'crop 4x3 at=1,1'
prep {0} -o out --step trim
prep {0} -o out --step 'pad 2'
prep {0} -o out --step 'fit 4000x4000'
prep {0} -o out --step 'turn 90'
prep {0} -o out --step 'flip x'
prep {0} -o out --step 'shift 1.5 0'
prep {0} -o out --step 'anchor mass'
prep {0} -o out --step premultiply
prep {0} -o out --step unpremultiply
prep {0} -o out --step 'distort by={0} strength=4'
prep {0} -o out --step 'opacity 0.5'
prep {0} -o out --step bleed
""".splitlines()


def _drawn(dtype: type) -> Pixels:
    """Gradients, a checkerboard and a disc: it compresses, and has transparent, opaque and coloured parts."""
    y, x = np.mgrid[:SIDE, :SIDE].astype(np.int64)
    full = np.iinfo(dtype).max
    image: Pixels = np.empty((SIDE, SIDE, 4), dtype)
    image[..., 0], image[..., 1] = x * full // SIDE, y * full // SIDE
    image[..., 2] = (x // 64 + y // 64) % 2 * full
    image[..., 3] = np.where((x - SIDE // 2) ** 2 + (y - SIDE // 2) ** 2 < (SIDE * 9 // 20) ** 2, full, 0)
    return image


def _light() -> NDArray[np.float32]:
    return _drawn(np.uint8).astype(np.float32) / np.float32(255)


KINDS: dict[str, tuple[str, Callable[[], bytes]]] = {
    "plain": ("i.png", lambda: b"".join(encode_png(_drawn(np.uint8), compress="fast"))),
    "deep": ("i.png", lambda: b"".join(encode_png(_drawn(np.uint16), compress="fast"))),
    "light": ("i.exr", lambda: encode_exr(_light())),
}


class Peak(NamedTuple):
    """How much memory a line took at most, in bytes, and how it ended."""

    line: str
    used: int
    seconds: float
    code: int
    said: str


def peaks(folder: Path, kind: str, lines: Sequence[str] = tuple(LINES)) -> Iterator[Peak]:
    name, draw = KINDS[kind]
    if not (folder / name).exists():
        (folder / name).write_bytes(draw())
    for number, line in enumerate(lines):
        home = folder / str(number)
        home.mkdir()
        words = shlex.split(line.format(f"../{name}"))
        start = time.monotonic()
        code = [sys.executable, "-c", _MEASURED, *words]
        done = subprocess.run(code, cwd=home, capture_output=True, text=True, timeout=LIMIT_S, check=False)
        used = int(re.findall(r"^peak (\d+)$", done.stderr, re.MULTILINE)[-1]) * 1024
        said = re.sub(r"^peak .*\n", "", done.stderr, flags=re.MULTILINE).strip()[-200:]
        yield Peak(line, used, time.monotonic() - start, done.returncode, said if done.returncode else "")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("--kind", choices=list(KINDS), default="deep")
    parser.add_argument("--only", default="", metavar="TEXT", help="lines with this in them")
    options = parser.parse_args()
    above = 0
    with tempfile.TemporaryDirectory() as name:
        for peak in peaks(Path(name), options.kind, [line for line in LINES if options.only in line]):
            above += peak.used > LIMIT_BYTES
            sign = "above" if peak.used > LIMIT_BYTES else "     "
            print(
                f"{sign} {peak.used >> 20:6,} MiB {peak.seconds:5.1f} s  {peak.code}  {peak.line}  {peak.said}",
                flush=True,
            )
    print(f"{above} above {LIMIT_BYTES / 1e9} GB")


if __name__ == "__main__":
    main()
