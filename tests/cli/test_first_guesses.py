"""What somebody types who has not read the manual is understood, or answered by a line that names the right thing."""

from __future__ import annotations

import contextlib
import json
import shlex
from collections.abc import Iterator
from pathlib import Path

import pytest

from kivel.cli.main import ALL_COMMANDS
from kivel.core.prepare.table import STEPS
from kivel.core.suggestions import did_you_mean
from kivel.core.trade_words import TRADE
from kivel.making.commands import COMMANDS, command
from program import art, in_process, write


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    with contextlib.chdir(tmp_path):
        for number in range(4):
            write(Path(f"moth/moth_{number}.png"), art(number, width=8, height=8))
        yield tmp_path


ANSWERED = """\
sheet --padding 2 | did you mean --gap?
sheet --spacing 2 | did you mean --gap?
sheet --border 2 | did you mean --margin?
sheet --extrude 1 | did you mean --skirt?
atlas --rotate | did you mean --turn?
sheet --rotate | rotate is a step of prep: kivel prep SRC -o DIR --step "turn 90"
sheet --pingpong | did you mean --direction alternate?
sheet --ping-pong | did you mean --direction alternate?
sheet --yoyo | did you mean --direction alternate?
sheet --bounce | did you mean --direction alternate?
sheet --loop | did you mean --repeat?
sheet --once | did you mean --repeat 1?
sheet --infinite | did you mean --repeat forever?
sheet --duration 80 | did you mean --hold?
sheet --delay 80 | did you mean --hold?
sheet --interval 80 | did you mean --hold?
sheet --cols 4 | did you mean --columns?
sheet --palette 16 | did you mean --colors 16?
sheet --colours 16 | did you mean --colors?
sheet --dedupe | did you mean --fold?
sheet --anchor bottom | did you mean --pivot?
sheet --origin bottom | did you mean --pivot?
sheet --trim | trim is a step of prep: kivel prep SRC -o DIR --step trim
sheet --crop 8x8 | crop is a step of prep
sheet --matte | matte is a step of prep
sheet --premultiply | premultiply is a step of prep
sheet --scale 2 | did you mean --scale-to-cell?
atlas --resize 8x8 | resize is a step of prep: kivel prep SRC -o DIR --step "fit 64x64"
sheet --flip x | flip is a step of prep
sheet --count 2 | see kivel resample SRC -o DIR --count N
sheet --grid 4x4 | did you mean --columns?
sheet --onion | see kivel preview SRC -o look.html
sheet --zoom 2 | see kivel preview SRC -o look.html
sheet --output a.png | did you mean --out?
sheet --framerate 12 | did you mean --fps?
sheet --frame-rate 12 | did you mean --fps?
sheet --power-of-two | did you mean --pow2?
sheet --pot | did you mean --pow2?
sheet --max-size 64 | did you mean --page-limit?
sheet --tags a=0-1 | did you mean --make-clip?
sheet --animation a=0-1 | did you mean --make-clip?
sheet --quality 9 | did you mean --compress?
sheet --ease ease-in | did you mean --pace?
sheet --crossfade | did you mean --interpolation linear?
sheet --reversed | did you mean --direction reverse?
slice --background none | did you mean --key?
sheet --strip | did you mean --layout row?
sheet --hodl 2 | did you mean --hold?
sheet --direction yoyo | did you mean alternate?
sheet --repeat -1 | did you mean forever?
sheet --repeat loop | did you mean forever?
sheet --end stop | did you mean last?
sheet --interpolation fade | did you mean linear?
sheet --scale-to-cell bilinear | did you mean smooth?
sheet --scale-to-cell point | did you mean nearest?
sheet --loop-count 3 | did you mean --repeat?
sheet --times 3 | did you mean --repeat?
sheet --sort name | did you mean --order?
sheet --format json | did you mean --out?
sheet --prefix hero_ | did you mean --out?
sheet --ratio 0.5 | did you mean --scale-to-cell?
sheet --filter nearest | did you mean --scale-to-cell?
sheet --tilesize 32 | did you mean --cell?
sheet --frame-size 32x32 | did you mean --cell?
sheet --reverse | did you mean --direction reverse?
sheet --data x.json | see kivel export NAME.kivel.json -o OUT.json
sheet --recursive | see kivel atlas FOLDER -o OUT.png
sheet --overwrite | did you mean --force?
sheet --yes | did you mean --force?
sheet --threads 4 | did you mean --jobs?
sheet --silent | did you mean --quiet?
atlas --no-rotate | did you mean --turn?
atlas --polygon | did you mean --outline?
atlas --heuristic best | did you mean --effort?
slice --tile 32 | did you mean --cell?
slice --size 32x24 | did you mean --cell?
slice --offset 2,2 | did you mean --at?
slice --grid 7x3 | for a single grid use --columns and --rows
prep --greyscale | greyscale is a step of prep
prep --resize 64x64 | resize is a step of prep
"""


@pytest.mark.parametrize("line", ANSWERED.splitlines())
def test_a_guess_is_answered_by_the_right_name(line: str) -> None:
    words, _, answer = line.partition(" | ")
    name, *rest = shlex.split(words)
    done = in_process([name, "moth" if name != "slice" else "moth/moth_0.png", "-o", "out.png", *rest], Path.cwd())
    assert done.code == 2
    assert answer in done.err.splitlines()[0]


@pytest.mark.parametrize(
    ("word", "answer"),
    {
        "pack": "sheet", "unpack": "slice", "split": "slice", "info": "inspect", "validate": "check",
        "init": "build --init", "convert": "preview SRC -o OUT.gif", "view": "preview", "sliec": "slice",
        "gif": "preview SRC -o OUT.gif", "animate": "preview SRC -o OUT.gif", "extract": "slice",
        "rename": "retime NAME.kivel.json --clip OLD --rename NEW", "combine": "sheet A/ B/ -o OUT.png",
        "compress": "sheet SRC -o OUT.png --compress least",
    }.items(),
)  # fmt: skip
def test_a_command_by_another_name_is_answered_by_ours(word: str, answer: str) -> None:
    assert f"did you mean {answer}?" in in_process([word, "moth"], Path.cwd()).err


def test_a_step_as_a_command_leads_to_prep() -> None:
    assert "trim is a step of prep: kivel prep SRC -o DIR --step trim" in in_process(["trim", "moth"], Path.cwd()).err


UNDERSTOOD: dict[str, tuple[str, str, object]] = {
    "ping-pong": ("--direction ping-pong", "direction", "alternate"),
    "pingpong": ("--direction pingpong", "direction", "alternate"),
    "once": ("--repeat once", "repeat", 1),
    "infinite": ("--repeat infinite", "repeat", None),
    "hold at the end": ("--repeat 1 --end hold", "end", "last"),
    "ticks": ("--hold 3t", "steps", [[0, 3], [1, 3], [2, 3], [3, 3]]),
}


@pytest.mark.parametrize(("words", "key", "value"), UNDERSTOOD.values(), ids=UNDERSTOOD)
def test_what_is_clear_is_understood(words: str, key: str, value: object) -> None:
    assert in_process(["sheet", "moth", "-o", "m.png", *shlex.split(words)], Path.cwd()).code == 0
    assert json.loads(Path("m.kivel.json").read_text())["clips"][0][key] == value


def test_sizes_places_and_steps_are_understood() -> None:
    assert in_process(shlex.split("sheet moth -o m.png --cell 16 --pivot feet --align centre"), Path.cwd()).code == 0
    content = json.loads(Path("m.kivel.json").read_text())
    assert (content["grid"]["cell"], content["frames"][0]["pivot"]) == ([16, 16], [0.5, 1.0])
    assert in_process(shlex.split('prep moth -o big --step "scale 2" --step "rotate 90"'), Path.cwd()).code == 0
    assert json.loads(Path("big/big.kivel.json").read_text())["frames"][0]["canvas"] == [16, 16]
    assert in_process(shlex.split("slice m.png -o cut --cell 16"), Path.cwd()).code == 0


def test_ticks_that_were_meant_as_milliseconds_are_pointed_out() -> None:
    said = in_process(shlex.split("sheet moth -o m.png --hold 80"), Path.cwd()).err
    assert "80 ticks at 60 a second = 1.333 s a frame; for milliseconds write 80ms" in said
    assert "ticks at" not in in_process(shlex.split("sheet moth -o n.png --hold 30"), Path.cwd()).err


HELP = {
    "ping-pong": "--direction alternate", "Extrude": "--skirt", "frame rate": "--fps", "onion skin": "kivel preview",
    "trim": "--step trim", "skirt": "in kivel", "sheet": "usage: kivel sheet", "anchor": "--step anchor",
    "qwertz": "Kivel has no word 'qwertz'",
}  # fmt: skip


@pytest.mark.parametrize(("word", "answer"), HELP.items())
def test_help_says_what_kivel_calls_it(word: str, answer: str) -> None:
    done = in_process(["help", *word.split()], Path.cwd())
    assert answer in done.out


def test_the_table_leads_to_what_there_is() -> None:
    """Every option, step and command that it names exists; nothing is guessed for what is far from all."""
    options = {name for one in COMMANDS for name in command(one).options.declared()} | {"quiet"}
    for word, meaning in TRADE.items():
        assert {text.partition(" ")[0] for text in meaning.options} <= options, word
        assert not meaning.step or meaning.step.partition(" ")[0] in STEPS, word
        assert not meaning.command or meaning.command.partition(" ")[0] in ALL_COMMANDS, word
        assert any(meaning[:4]), word
    for word in ("--into", "--exposure", "--help", "--range"):
        for guess in ("--pingpong", "--loop", "--extrude", "--rotate", "--zzzz"):
            assert did_you_mean(guess, [word], kind="option").find(word) == -1
