"""The rules that hold the house together."""

from __future__ import annotations

import ast
import re
import subprocess
import sys
from collections import defaultdict
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import pytest

import kivel
from kivel.cli.demo_options import DemoOptions
from kivel.core.errors import UsageError, spelled
from kivel.core.prepare.steps import parse_step
from kivel.making.commands import COMMANDS, command
from kivel.making.options.option import Options
from kivel.making.options.value_kinds import ValueKind
from program import art, in_process, write
from texts import nodes_of

ROOT = Path(kivel.__file__).parent
ROOMS = ("core", "files", "sequences", "views", "making", "recipe", "demo", "cli")
"""Each may import from itself and from those before it."""
BARRED_FROM_CORE = {"argparse", "rich", "pathlib", "os", "sys", "time", "random", "PIL", "imagecodecs", "msgspec"}
SILENT = ("core", "files", "sequences", "making")
"""Nothing is printed there, and options are named as the door spells them."""
MODULES = sorted(ROOT.rglob("*.py"))


def imported(path: Path) -> Iterator[str]:
    for node in nodes_of(path):
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom):
            yield node.module or ""


def is_allowed(room: str, name: str) -> bool:
    """Whether a module of a room may import what has this name."""
    first, *rest = name.split(".")
    one_way = first != "kivel" or not rest or rest[0] in ROOMS[: ROOMS.index(room) + 1]
    barred = (room == "core" and first in BARRED_FROM_CORE) or (room != "cli" and first == "argparse")
    return one_way and not barred


def test_imports_run_one_way() -> None:
    rooms = [(path, path.relative_to(ROOT).parts[0]) for path in MODULES]
    found = [(path, room, name) for path, room in rooms if room in ROOMS for name in imported(path)]
    assert len(found) > 1000
    assert [one for one in found if not is_allowed(*one[1:])] == []


def test_no_name_stands_for_two_modules() -> None:
    """Besides a command's pair, what makes and what tells; and the demo's, what draws and what tells."""
    places = defaultdict(set)
    for path in MODULES:
        if path.stem != "__init__":
            places[path.stem].add(path.relative_to(ROOT).parts[0])
    twice = {name: rooms for name, rooms in places.items() if len(rooms) > 1}
    assert set(twice) <= {*COMMANDS, "demo"}
    assert all(rooms in ({"cli", "making"}, {"cli", "recipe"}, {"cli", "demo"}) for rooms in twice.values())
    stems = [path.stem for path in MODULES if path.stem != "__init__"]
    assert {stem for stem in stems if stems.count(stem) > 1} <= {*COMMANDS}


def test_no_public_name_stands_for_two_things() -> None:
    """Classes, kinds and tables: a word means one thing wherever it is imported from."""
    homes = defaultdict(list)
    for path in MODULES:
        for node in nodes_of(path):
            if isinstance(node, ast.Assign) and ast.unparse(node.targets[0]) == "__all__":
                for name in (each.value for each in ast.walk(node.value) if isinstance(each, ast.Constant)):
                    homes[name].append(path.relative_to(ROOT).as_posix())
    twice = {name: places for name, places in homes.items() if len(places) > 1 and str(name)[:1].isupper()}
    assert set(twice) <= {"EXAMPLES"}


def constants(path: Path) -> Iterator[tuple[int, str]]:
    """The texts of a module but its docstrings."""
    bare = {id(node.value) for node in nodes_of(path) if isinstance(node, ast.Expr)}
    for node in nodes_of(path):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in bare:
            yield node.lineno, node.value


@pytest.mark.parametrize("room", SILENT)
def test_messages_leave_the_spelling_of_options_to_the_door(room: str) -> None:
    written = re.compile(r"(?<![\w-])--[a-z]")
    commands = re.compile(r"kivel \w+ --(steps|help)")
    for path in (ROOT / room).rglob("*.py"):
        if path.name in ("errors.py", "trade_words.py"):  # the table of what is typed
            continue
        for line, text in constants(path):
            assert not written.search(commands.sub("", text)), f"{path.relative_to(ROOT)}:{line}: {text!r}"


@pytest.mark.parametrize("room", SILENT)
def test_options_that_messages_name_are_declared(room: str) -> None:
    """With a value that is read, unless it stands for one (`NAME`), and by the command that is named before it."""
    declared = defaultdict(list)
    for each in COMMANDS:
        for name, one in command(each).options.declared().items():
            declared[name].append(one.kind)
    for path in (ROOT / room).rglob("*.py"):
        for node in nodes_of(path):
            if (named := named_option(node)) is not None:
                name, value = named
                assert name in declared, f"{path.name}: {name}"
                assert value is None or is_read(declared[name], name, value), f"{path.name}: {name} {value}"
            for name, by in options_of_commands(node):
                assert name in command(by).options.declared(), f"{path.name}: kivel {by}, {name}"


def named_option(node: ast.AST) -> tuple[str, str | None] | None:
    """What a call of `option` names, with the value if that is written there."""
    if not (isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "option"):
        return None
    written = [arg.value if isinstance(arg, ast.Constant) else None for arg in node.args]
    value = written[1] if len(written) > 1 else None
    return (str(written[0]), None if value in (None, True) else str(value)) if written[0] else None


def is_read(kinds: list[ValueKind[Any]], name: str, value: str) -> bool:
    if name == "step":
        return bool(parse_step(value, where="").kind)
    if re.search("[A-Z]", value):
        return True
    for kind in kinds:
        with suppress(UsageError):
            kind.read(value)
            return True
    return False


def options_of_commands(node: ast.AST) -> Iterator[tuple[str, str]]:
    """The options of a message that stand behind `kivel COMMAND`, up to where its sentence goes on."""
    by = None
    for part in node.values if isinstance(node, ast.JoinedStr) else ():
        if isinstance(part, ast.FormattedValue):
            named = named_option(part.value)
            if named and by:
                yield named[0], by
        elif isinstance(part, ast.Constant):
            found = re.findall(r"kivel (\w+)|([;,])", str(part.value))
            by = (found[-1][0] or None) if found else by


def test_nothing_is_printed_below_the_command_line() -> None:
    silent = [path for room in SILENT for path in (ROOT / room).rglob("*.py")]
    calls = [(path, node) for path in silent for node in nodes_of(path) if isinstance(node, ast.Call)]
    assert [(path, call.lineno) for path, call in calls if ast.unparse(call.func) == "print"] == []


def test_an_option_means_one_thing() -> None:
    """Wherever an option of one name is declared, it takes the same kind of value, explained in the same sentence.

    Only the cells of a sheet that is there may be parts of pixels, and lie apart differently across and down; something
    may be at a time, or at a place;
    a format is one of text, or of textures; alpha is how a target treats it, or where a picture's comes from; a sheet
    loses the frame that is named, a manifest the clip that is chosen.
    """
    forms: dict[str, set[object]] = defaultdict(set)
    sentences: dict[str, set[str]] = defaultdict(set)
    everything: list[type[Options]] = [*(command(name).options for name in COMMANDS), DemoOptions]
    for options in everything:
        for name, one in options.declared().items():
            forms[name].add(one.kind.read if one.kind.form != "N" else "N")
            sentences[name] |= set() if one.positional else {re.split(r";| \(many\)", one.help)[0]}
    shared = {name for name, kinds in forms.items() if len(kinds) > 1}
    assert shared == {"alpha", "at", "cell", "format", "gap", "margin", "remove", "tile"}
    told = {name for name, said in sentences.items() if len(said) > 1}
    assert told == {"alpha", "at", "remove", "tile"}, {name: sentences[name] for name in told}


def test_help_spells_options_as_the_command_line_does() -> None:
    for name in COMMANDS:
        for one in command(name).options.declared().values():
            assert one.help == spelled(one.help)
            assert one.help or one.shown, f"{name}: {one.name} says nothing"


IMPORTED_BY = """
import sys
from kivel.cli.main import main
sys.argv = {words}
try:
    main()
except SystemExit:
    print(sorted(sys.modules), file=sys.stderr)
"""
HEAVY = {"numpy", "PIL", "rich", "msgspec", "imagecodecs", "dataclasses"}


def test_a_build_that_has_nothing_to_do_loads_no_pixels(tmp_path: Path) -> None:
    write(tmp_path / "moth/moth_1.png", art(1))
    (tmp_path / "kivel.toml").write_text('[make.it]\nfrom = "moth"\nsheet = { out = "it.png" }\n')
    code = IMPORTED_BY.format(words=["kivel", "build", "-q"]).replace("except SystemExit", "finally")
    for _ in range(2):
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, cwd=tmp_path)
    assert not set(ast.literal_eval(done.stderr)) & HEAVY


@pytest.mark.parametrize("words", [["--help"], ["--version"], ["sheet", "--help"], ["prep", "--help"]], ids=" ".join)
def test_help_loads_nothing_heavy(words: list[str]) -> None:
    code = IMPORTED_BY.format(words=["kivel", *words])
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert not set(ast.literal_eval(done.stderr)) & HEAVY


NEEDLESS = {"numpy.random", "scipy", "PIL", "matplotlib", "dask", "concurrent.futures"}
SPARING: dict[str, tuple[str, set[str]]] = {
    "a sheet": ("sheet moth -o it.png", {"numpy.ma", "shutil", "tempfile", "rich", "msgspec"}),
    "by a manifest": ("slice s.kivel.json -o cells", {"rich"}),
    "by a stated grid": ("slice plain.png --columns 2 -o cells", {"rich"}),
    "adopting": ("adopt plain.png --columns 2", {"rich", "shutil", "tempfile"}),
    "a step": ("prep moth --step trim -o out", {"rich", "msgspec"}),
    "times": ("retime s.kivel.json --fps 9", {"shutil", "tempfile"}),
    "a folder": ("inspect moth", {"msgspec", "shutil", "tempfile"}),
    "a check": ("check s.kivel.json", {"rich", "shutil", "tempfile"}),
    "an atlas": ("atlas moth -o at.png", {"numpy.ma", "shutil", "tempfile", "rich", "msgspec"}),
    "a loop": ("loop moth", {"rich", "msgspec"}),
    "a stack": ("layer moth moth -o ly", {"rich", "msgspec"}),
    "a scroll": ("scroll plain.png --count 2 -o dr", {"rich", "msgspec"}),
    "fewer frames": ("resample moth --count 1 -o rs", {"rich", "msgspec"}),
    "what shows": ("timeline s.kivel.json", {"rich", "imagecodecs"}),
    "a table": ("export s.kivel.json -o e.json", {"rich", "imagecodecs", "jinja2", "jsonschema"}),
    "a profile": ("profile new p.toml", {"rich", "imagecodecs", "jinja2", "jsonschema"}),
    "a picture": ("preview moth -o p.apng", {"rich", "msgspec"}),
    "a plan": ("plan moth", {"msgspec"}),
    "a recipe": ("build", {"rich", "msgspec", "tomlkit"}),
}
USES = {
    "a picture": {"PIL"}, "a plan": {"scipy", "numpy.random", "concurrent.futures"}, "a recipe": {"concurrent.futures"},
}  # fmt: skip
"""What few commands cannot do without: drawing, fitting motion, building side by side."""


@pytest.mark.parametrize("name", SPARING)
def test_a_command_loads_no_library_that_it_does_not_use(tmp_path: Path, name: str) -> None:
    """Else nobody sees what one import, or one call such as `np.unique`, brings along."""
    for number in range(2):
        write(tmp_path / f"moth/moth_{number}.png", art(number))
    line, more = SPARING[name]
    write(tmp_path / "plain.png", art(3))
    (tmp_path / "kivel.toml").write_text('[make.it]\nfrom = "moth"\nsheet = { out = "it.png" }\n')
    in_process(["sheet", "moth", "-o", "s.png"], tmp_path)
    code = IMPORTED_BY.format(words=["kivel", *line.split(), "-q"]).replace("except SystemExit", "finally")
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, cwd=tmp_path)
    (loaded,) = done.stderr.splitlines()  # and no error
    assert set(ast.literal_eval(loaded)) & (NEEDLESS - USES.get(name, set()) | more) == set()


def test_importing_the_package_loads_nothing_heavy() -> None:
    code = "import sys, kivel; kivel.__version__; print([name for name in sys.modules if name.startswith('kivel.')])"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert ast.literal_eval(done.stdout) == []
