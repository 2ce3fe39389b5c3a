"""Broken documents, and command lines that read them: recipes, profiles, regions, ledgers, locks, state, plans."""

from __future__ import annotations

import json
import random
import tempfile
import tomllib
from collections.abc import Callable, Mapping
from functools import cache
from pathlib import Path
from typing import Any

import tomlkit
from fuzz_inputs import bytes_mutated, json_mutated
from fuzz_pairs import Pair

from program import art, in_process, write

__all__ = ["document_pair", "good_documents"]

_RECIPE = """
store = "1 MB"
[defaults]
jobs = 1
sheet = { gap = 1 }
[make.moth]
from = "f"
steps = [{ prep = ["trim", "opacity 0.5"] }, { resample = { count = 3 } }]
sheet = { out = "out/moth.png", hold = 2, make-clip = ["a=0-1"] }
retime = [{ direction = "alternate" }, { speed = 2 }]
export = [{ out = "out/moth.json" }, { profile = "pack.toml", out = "out" }]
check = { ignore = [{ code = "cell-bleed", reason = "so", until = "2999-01-01" }] }
[make."*"]
from = "g/{name}/"
sheet = { out = "out/{name}.png", fps = 12 }
"""
_PROFILE = """
format = "kivel-profile"
version = 1
maps = { mask = { file = "{name}_mask.png" } }
[image]
file = "{folder}/{name}.png"
layout = "keep"
[units]
origin = "top"
first_index = 1
[lacks]
events = "tell"
[[output]]
file = "{name}.txt"
each = "sheet"
template = '''
{{ sheet.name }} {% for frame in frames %}{{ frame.name }}
{% endfor %}'''
[[output]]
file = "{name}_{clip}.data.json"
each = "clip"
template = '{"name": {{ clip.name | tojson }}}'
schema = "data.schema.json"
"""
_SCHEMA = {"type": "object", "properties": {"name": {"type": "string", "pattern": "^[a-z]+$"}}, "required": ["name"]}
_LINES: dict[str, list[str]] = {
    "kivel.toml": [
        "build",
        "build --list",
        "build --why moth",
        "build --dry-run",
        "build --ninja b.ninja",
        "build moth",
    ],
    "pack.toml": [
        "export s.kivel.json --profile pack.toml -o pack",
        "profile check pack.toml",
        "profile show pack.toml",
    ],
    "data.schema.json": ["export s.kivel.json --profile pack.toml -o pack"],
    "pack.ledger.json": ["export s.kivel.json --profile pack.toml -o pack --prune", "check pack --profile pack.toml"],
    "cut.regions.toml": ["slice i.png -o cut --regions cut.regions.toml", "adopt i.png --regions cut.regions.toml"],
    "report.json": ["check s.kivel.json --baseline report.json"],
    "kivel.lock": ["build --frozen"],
    ".kivel/state-kivel.toml.jsonl": ["build", "build --why moth", "build --prune", "build --verify"],
    ".kivel/plan-kivel.toml.json": ["build", "build --list", "build --ninja b.ninja"],
}  # fmt: skip
"""Which lines read a document."""
_HOSTILE_TOML = (
    "x = " + "[" * 3000 + "]" * 3000, "x = " + "9" * 5000, 'x = "\\u0000"', ".".join("a" * 2000) + " = 1",
    "[" + ".".join("a" * 2000) + "]", "x = 1e999", "x = 2020-01-01", "x = nan", 'x = "\\uD800"', "\0", "[make.q]",
    'include = "kivel.toml"', 'from = "/dev/zero"', "x = " + "{a=" * 500 + "1" + "}" * 500,
)  # fmt: skip
_HOSTILE_JSON = (
    "[" * 100_000, "[" * 300 + "]" * 300, "9" * 5000, '{"a":' * 5000, '"\\u0000"', '"\\ud800"', "NaN", "1e999", "null",
    "5", "true", '""', "[]", "{}", "\x00", "\xff",
)  # fmt: skip


@cache
def _project() -> dict[str, bytes]:
    """All documents, as commands write them, and what they are about."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for group in ("f", "g/owl"):
            for number in range(2):
                write(folder / group / f"f_{number}.png", art(number, width=9, height=7))
        write(folder / "i.png", art(5, width=20, height=9))
        for file, text in (("kivel.toml", _RECIPE), ("pack.toml", _PROFILE), ("data.schema.json", json.dumps(_SCHEMA))):
            (folder / file).write_text(text)
        for line in (
            "sheet f -o s.png --map mask=f --make-clip a=0-1 --fps 12",
            "build --lock --jobs 1",
            "export s.kivel.json --profile pack.toml -o pack",
            "slice i.png -o cut --islands --save-regions cut.regions.toml",
        ):
            done = in_process(line.split(), folder)
            assert done.code == 0, (line, done)
        (folder / "report.json").write_text(in_process(["check", "s.kivel.json", "--json"], folder).out)
        skipped = (".kivel/store/", ".kivel/lock")
        found = {p.relative_to(folder).as_posix(): p.read_bytes() for p in folder.rglob("*") if p.is_file()}
        return {name: data for name, data in found.items() if not name.startswith(skipped)}


def good_documents() -> list[tuple[dict[str, bytes], str]]:
    """Every line on good documents."""
    return [(_project(), line) for lines in _LINES.values() for line in lines]


def _json_broken(data: bytes, chance: random.Random) -> bytes:
    kind = chance.random()
    if kind < 0.15:
        return chance.choice(_HOSTILE_JSON).encode("latin-1")
    if kind < 0.3:
        return bytes_mutated(data, chance)
    text = json.dumps(json_mutated(json.loads(data), chance))
    if chance.random() < 0.15:
        place = text.find(":") + 1
        text = text[:place] + chance.choice(_HOSTILE_JSON) + "," + text[place:]
    return text.encode("utf-8", "surrogatepass")


def _toml_broken(data: bytes, chance: random.Random) -> bytes:
    kind = chance.random()
    if kind < 0.15:
        lines = data.decode().split("\n")
        lines.insert(chance.randrange(len(lines)), chance.choice(_HOSTILE_TOML))
        return "\n".join(lines).encode()
    if kind < 0.35:
        return bytes_mutated(data, chance)
    content = json_mutated(json.loads(json.dumps(tomllib.loads(data.decode()), default=str)), chance)
    try:
        return tomlkit.dumps(_without_null(content)).encode("utf-8", "surrogatepass")
    except (ValueError, TypeError, AttributeError, tomlkit.exceptions.TOMLKitError):  # what TOML has no word for
        return bytes_mutated(data, chance)


def _without_null(content: Any) -> Any:
    if isinstance(content, dict):
        return {str(key): _without_null(value) for key, value in content.items() if value is not None}
    if isinstance(content, list):
        return [_without_null(value) for value in content if value is not None]
    return content


def _lines_broken(data: bytes, chance: random.Random) -> bytes:
    """State: a line changed behind its mark, or a mark taken from another."""
    lines = data.splitlines()
    number = chance.randrange(len(lines))
    mark, _, text = lines[number].partition(b" ")
    lines[number] = chance.choice([mark, lines[0][:32], b"0" * 32, b""]) + b" " + _json_broken(text, chance)
    return b"\n".join(lines) + b"\n"


def _plan_broken(data: bytes, chance: random.Random) -> bytes:
    mark, _, text = data.partition(b"\n")
    return chance.choice([mark, b"0" * 32, b""]) + b"\n" + _json_broken(text, chance)


_BREAK: Mapping[str, Callable[[bytes, random.Random], bytes]] = {
    ".kivel/state-kivel.toml.jsonl": _lines_broken, ".kivel/plan-kivel.toml.json": _plan_broken,
    "kivel.toml": _toml_broken, "pack.toml": _toml_broken, "cut.regions.toml": _toml_broken,
}  # fmt: skip


def document_pair(seed: int, number: int) -> Pair:
    """A broken document and a line that reads it, the same for the same numbers."""
    chance = random.Random(f"documents {seed} {number}")
    files = dict(_project())
    name = chance.choice(list(_LINES))
    files[name] = _BREAK.get(name, _json_broken)(files[name], chance)
    line = chance.choice(_LINES[name])
    return Pair(files, (*line.split(), *(("--jobs", "1") if line.startswith("build") else ())))
