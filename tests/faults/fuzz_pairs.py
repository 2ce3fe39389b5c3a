"""Command lines, and files for them to work on."""

from __future__ import annotations

import json
import random
import shlex
import tempfile
from functools import cache
from pathlib import Path
from typing import NamedTuple

from fuzz_inputs import IMAGES, broken_image, bytes_mutated, good_png, json_mutated, text_mutated

from kivel.files.png.write import encode_png
from program import art, in_process

__all__ = ["Pair", "good_lines", "pair"]

_STEPS = """\
matte
matte key color=#00b140 tolerance=20
ramp #2a1b3d #a6452e@0.35 #fff6d8
crop 4x3 at=1,1
trim
trim each margin=3
pad 2
pad to=30000x30000
fit 30000x30000 upscale
fit 64x64 filter=nearest upscale
square
turn 90
flip x
shift 1.5 0 each
anchor mass
keep 0-1,1*3
premultiply
unpremultiply
distort by=i.png strength=4
opacity 0..1 over=0-1 pace=ease-in
shift 0..3 -1..1
fit 4x4..9x7
trim
expose 1
""".splitlines()
_FOR_IMAGES = """\
inspect {0}
inspect {0} --json
sheet {0} -o out/s.png
sheet {0} -o out/s.png --fold --inbetween 1
sheet {0} {0} -o out/s.png --gap 1 --compress small
sheet {0} -o out/s.exr
atlas {0} -o out/a.png --outline 8
atlas {0} -o out/a.png --skirt 1 --turn
slice {0} -o out --columns 2
slice {0} -o out --cell 3x3 --empty keep
preview {0} -o out/p.png
preview {0} -o out/p.apng
preview {0} -o out/p.gif --scale 64
preview {0} -o out/p.webp
preview {0} -o out/t.png --view timing
resample {0} -o out --count 5
resample {0} -o out --count 2 --mix
loop {0}
loop {0} --find 2-4
loop {0} -o out --close 1
layer {0} i.png -o out
layer i.png '{0} blend=multiply offset=1,1' -o out
scroll '{0} scroll=1,0' --count 3 -o out
scroll 'i.png by={0} strength=2' --count 3 -o out
plan {0}
sheet i.png --map mask={0} -o out/s.png --missing-map neutral
sheet {0} -o out/s.png --fit-page 64x64
sheet {0} -o out/s.png --fit-page 16x16 --fit-by thin
atlas {0} -o out/a.png --pivot mass --align bottom
preview {0} -o out/p.png --tile 2x2 --mark pivot --show alpha
slice {0} -o out --columns 1 --rows 1 --map mask=i.png
prep {0} --map normal=i.png --step 'STEP' -o out --missing-map neutral
resample {0} -o out --count 2 --map mask={0}
loop {0} --sides
prep {0} --step 'STEP' -o out
prep {0} --step 'STEP' --step 'STEP' -o out
""".splitlines()
_FOR_MANIFESTS = """\
inspect {0}
inspect {0} --json
slice {0} -o out
sheet {0} -o out/s.png
atlas {0} -o out/a.png
retime {0} --fps 12
retime {0} --pace ease-in --length 1s
retime {0} --stagger 3 --make-group g=*
retime {0} --phase 25% --direction alternate
retime {0} --then a --weight a=2 --make-group g=* --choose random
retime {0} --pivot mass --order a:0
retime {0} --remove --clip a
timeline {0} --leave-at 1s --for 3s
sheet {0} -o s.png --force
sheet f -o s.png --force
sheet f -o s.png --force --fresh-clips
timeline {0} --for 1s
timeline {0} --for 1s --clock 60 --json
timeline {0} --at 1s --instances 3
preview {0} -o out/p.apng
preview {0} -o out/l.png --view layout
preview {0} -o out/t.png --view timing
preview {0} -o out/c.png
resample {0} -o out --count 2
loop {0}
layer {0} {0} -o out
prep {0} --step 'STEP' -o out
sheet i.png --map mask=i.png --into {0}
slice s.png -o out
inspect .
sheet . -o out/s.png
""".splitlines()
_TEXTS = """\
sheet f -o out/s.png --fps 24000/1001
sheet f -o out/s.png --hold 80ms
sheet f -o out/s.png --hold 50ms --timebase 60
sheet f -o out/s.png --columns 2 --rows 2 --gap 1 --margin 2
sheet f -o out/s.png --make-clip a=0-1,1*2 --make-group g=a
sheet f -o out/s.png --map mask=f --map-scale mask=1/1
sheet f -o out/s.png --cell 9x7 --page-limit 64x64
sheet f -o out/s.png --repeat 3 --row-clips a,b
sheet f -o out/s.png --order f:0-1,1*2 --event f:1:tap --phase 12t --then f
sheet f -o s.png --order 0-1 --force
sheet f -o out/s.png --fit-page 32x16 --pivot f=2,3
prep f --step 'opacity 0..1 over=0-1 pace=ease-in' --map mask=f -o out
timeline s.kivel.json --leave-at 1/2s
preview s.kivel.json -o out/p.png --tile 2x3 --mark outline --backdrop navy
inspect . --series f
retime s.kivel.json --order 0-1,1-0 --holds 4,2*3
retime s.kivel.json --hold 2 --event 1:chirp
retime s.kivel.json --phase 25% --repeat forever
retime s.kivel.json --pace 'cubic-bezier(0.1, 0.7, 1, 0.1)' --length 2s
retime s.kivel.json --pace 'linear(0, 0.5 20%, 1)' --length 2s
retime s.kivel.json --pace 'steps(3, jump-end)' --length 1s
retime s.kivel.json --stagger 3 --stagger-seed 5
timeline s.kivel.json --for 1/3s --clock 60 --speed 1/2
timeline s.kivel.json --at 0.5s --instances 3 --seed 4
preview s.kivel.json -o out/p.gif --scale 3/2 --backdrop #20242c
resample f --count 3 -o out --range 0-1
loop f --find 2-3 --pick 1 -o out
inspect f --range 0-1
plan f --fit-page 64x64 --gap 2
prep f --step 'STEP' -o out
prep f --step 'STEP' --step 'STEP' -o out
scroll 'i.png scroll=1,0 opacity=0.5' 'i.png by=i.png strength=4 angle=30' --count 4 -o out
layer f 'f blend=plus-lighter offset=2,1 opacity=50%' -o out
inspect 'f/f_#.png'
atlas f -o out/a.png --visible-above 8 --outline 6 --page-limit 32x32 --mip-safe 2
""".splitlines()


class Pair(NamedTuple):
    """Files for a folder, by name, and a command line on them."""

    files: dict[str, bytes]
    words: tuple[str, ...]


def _words(line: str, chance: random.Random, *, mutate: bool) -> tuple[str, ...]:
    words = []
    for word in shlex.split(line):
        for _ in range(word.count("STEP")):
            word = word.replace("STEP", chance.choice(_STEPS), 1)
        words.append(word)
    if mutate:
        for _ in range(chance.choice((1, 1, 2))):
            place = chance.randrange(1, len(words))
            if words[place - 1] not in ("-o", "--out") and words[place] not in ("-o", "f"):
                words[place] = text_mutated(words[place], chance)
    return tuple(words)


@cache
def _folder() -> dict[str, bytes]:
    """A folder of two frames, an image, and a sheet with its manifest."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "f").mkdir()
        for number in range(2):
            data = b"".join(encode_png(art(number, width=9, height=7), compress="fast"))
            (folder / f"f/f_{number}.png").write_bytes(data)
        line = "sheet f -o s.png --map mask=f --make-clip a=0-1,0*2 --make-group g=a --fps 12 --repeat 3"
        assert in_process(line.split(), folder).code == 0
        (folder / "i.png").write_bytes(good_png())
        return {p.relative_to(folder).as_posix(): p.read_bytes() for p in folder.rglob("*") if p.is_file()}


def good_lines() -> list[tuple[dict[str, bytes], str]]:
    """Every command line as it is meant, on good files."""
    lines = [line.format("f") for line in _FOR_IMAGES] + [line.format("s.kivel.json") for line in _FOR_MANIFESTS]
    return [(_folder(), line.replace("STEP", step)) for line in [*lines, *_TEXTS] for step in _steps_for(line)]


def _steps_for(line: str) -> list[str]:
    return _STEPS if line.startswith("prep f --step 'STEP' -o") else ["flip x"]


def pair(seed: int, number: int) -> Pair:
    """A pair, the same for the same numbers."""
    chance = random.Random(f"{seed} {number}")
    files = dict(_folder())
    kind = chance.random()
    if kind < 0.55:
        name = chance.choice(list(IMAGES))
        files[name] = broken_image(name, chance)
        limit = " --max-pixels 1000" if chance.random() < 0.1 else ""
        return Pair(files, _words(chance.choice(_FOR_IMAGES).format(name) + limit, chance, mutate=False))
    if kind < 0.8:
        content = files["s.kivel.json"]
        if chance.random() < 0.85:
            files["s.kivel.json"] = json.dumps(json_mutated(json.loads(content), chance)).encode()
        else:
            files["s.kivel.json"] = bytes_mutated(content, chance)
        line = chance.choice(_FOR_MANIFESTS).format("s.kivel.json")
        return Pair(files, _words(line, chance, mutate=chance.random() < 0.1))
    return Pair(files, _words(chance.choice(_TEXTS), chance, mutate=True))
