"""What --json prints is one document of a stated form, also where something is wrong."""

from __future__ import annotations

import json
import shlex
import shutil
from collections.abc import Iterator
from contextlib import chdir
from pathlib import Path

import jsonschema
import pytest

from kivel.cli.document_schemas import DOCUMENTS, document_schema
from kivel.cli.main import ALL_COMMANDS
from program import art, in_process, write

LINES = """\
inspect owl
inspect s.kivel.json
inspect . --series owl
prep owl --step 'flip x' -o p
loop owl
loop owl --close 1 -o l
layer owl owl -o y
scroll 'owl/owl_0.png scroll=1,0' --count 3 -o d
resample owl --count 2 -o r
plan owl
plan owl --fit-page 64x64
sheet owl -o t.png
sheet owl -o u.png --dry-run
atlas owl -o a.png
slice s.kivel.json -o cut
slice s.png t.png -o cuts --columns 2 --rows 2
adopt t.png --columns 2 --rows 2 --force
retime s.kivel.json --fps 9
timeline s.kivel.json --for 1s
export s.kivel.json -o s.json
export --list
export s.kivel.json --profile tiles.toml -o pack
export s.kivel.json --profile tiles.toml -o pack --diff
profile new p.toml
profile check tiles.toml
profile show tiles.toml
check s.kivel.json
check --codes
preview s.kivel.json -o s.apng
preview s.kivel.json -o s.html
build
build --list
build --dry-run
""".splitlines()
WRONG = {
    "sheet nowhere -o x.png": ("sequence", "nowhere", None, None),
    "sheet owl --colums 3": ("usage", None, None, None),
    "sheet owl -o x.png --gap x": ("usage", None, None, "--gap"),
    "inspect broken.kivel.json": ("manifest", "broken.kivel.json", None, None),
    "build --file bad.toml": ("toml", "bad.toml", 2, "make.a.sheet"),
    "retime s.kivel.json --clip nobody --fps 3": ("usage", None, None, None),
}


@pytest.fixture(scope="module")
def drawn(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("drawn")
    for number in range(4):
        write(folder / f"owl/owl_{number}.png", art(number, width=6, height=6))
    for line in ("sheet owl -o s.png", "sheet owl -o t.png", "profile new tiles.toml --example tiles"):
        assert in_process(line.split(), folder).code == 0
    (folder / "kivel.toml").write_text('[make.a]\nfrom = "owl"\nsheet = { out = "out/a.png" }\n')
    (folder / "bad.toml").write_text('[make.a]\nsheet = { out = "a.png" }\n')
    (folder / "broken.kivel.json").write_text("{")
    return folder


@pytest.fixture(autouse=True)
def place(drawn: Path, tmp_path: Path) -> Iterator[Path]:
    shutil.copytree(drawn, tmp_path, dirs_exist_ok=True)
    with chdir(tmp_path):
        yield tmp_path


@pytest.mark.parametrize("line", LINES)
def test_a_result_is_as_its_schema_says(place: Path, line: str) -> None:
    words = shlex.split(line)
    done = in_process([*words, "--json"], place)
    content = json.loads(done.out)
    assert content["format"] == f"kivel-{words[0]}", done.err
    jsonschema.validate(content, document_schema(words[0]))


@pytest.mark.parametrize("line", WRONG)
def test_an_error_is_a_document_too(place: Path, line: str) -> None:
    words = line.split()
    done = in_process([*words, "--json"], place)
    content = json.loads(done.out)
    jsonschema.validate(content, document_schema(words[0]))
    error = content["error"]
    assert tuple(error[key] for key in ("code", "file", "line", "key")) == WRONG[line], error
    assert error["message"] in done.err
    assert done.code == (2 if error["code"] == "usage" else 1)


def test_every_command_has_a_schema_and_prints_it(place: Path) -> None:
    assert set(DOCUMENTS) == set(ALL_COMMANDS)
    for name in DOCUMENTS:
        jsonschema.Draft202012Validator.check_schema(document_schema(name))
        assert json.loads(in_process([name, "--json-schema"], place).out) == document_schema(name)


def test_a_look_at_a_pack_says_by_its_exit_code_whether_it_would_change(place: Path) -> None:
    words = ["export", "s.kivel.json", "--profile", "tiles.toml", "-o", "pack"]
    codes = [in_process([*words, *more], place).code for more in (["--diff"], [], ["--diff"])]
    assert codes == [1, 0, 0]
