"""Put faults into the code, one at a time, and tell which no test finds: `python benchmarks/mutants.py`.

Faults are those of cosmic-ray (operators and comparisons swapped, numbers off by one, `not` dropped, loops cut short):
a seeded sample over core, files, sequences and making, each run against the tests that reach its line. What survives is
listed with its change. Needs `pip install -e '.[dev,measure]'`; 200 faults take about an hour on two cores.
"""

from __future__ import annotations

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from itertools import islice
from pathlib import Path
from queue import SimpleQueue
from typing import NamedTuple

import parso
from cosmic_ray import plugins
from cosmic_ray.ast import ast_nodes
from cosmic_ray.mutating import mutate_code
from coverage import CoverageData

ROOT = Path(__file__).parents[1]
ROOMS = ("core", "files", "sequences", "making")
PATIENCE_S = 240
LEFT_OUT = ("Decorator", "Variable")
"""Operators that are not used: a property without its mark is found by the first look; variables want a name."""


class Fault(NamedTuple):
    """An operator of cosmic-ray, applied for the so manieth time in a file; where, and what the line becomes."""

    file: str
    operator: str
    occurrence: int
    line: int
    column: int

    def applied(self, text: str) -> str:
        changed = mutate_code(text, plugins.get_operator(self.operator)(), self.occurrence)
        return changed or text

    def shown(self, text: str) -> str:
        old, new = text.splitlines(), self.applied(text).splitlines()
        pairs = [(a, b) for a, b in zip(old, new, strict=False) if a != b]
        before, after = pairs[0] if pairs else (old[self.line - 1], "")
        return f"{self.file}:{self.line}\n    - {before.strip()}\n    + {after.strip()}"


def faults_in(path: Path) -> Iterator[Fault]:
    """All that can be put into a file, but in annotations and texts, where nothing is computed."""
    text = path.read_text(encoding="utf-8")
    silent = _silent(text)
    tree = parso.parse(text)
    for name in plugins.operator_names():
        if any(kind in name for kind in LEFT_OUT):
            continue
        operator = plugins.get_operator(name)()
        occurrence = 0
        for node in ast_nodes(tree):
            for start, _ in operator.mutation_positions(node):
                if not any(first <= start < last for first, last in silent):
                    yield Fault(path.relative_to(ROOT).as_posix(), name, occurrence, *start)
                occurrence += 1


def _silent(text: str) -> list[tuple[tuple[int, int], tuple[int, int]]]:
    """Where annotations, aliases of types and docstrings lie."""
    nodes: list[ast.AST | None] = []
    for node in ast.walk(ast.parse(text)):
        if isinstance(node, (ast.AnnAssign, ast.arg)):
            nodes.append(node.annotation)
        elif isinstance(node, (ast.FunctionDef, ast.AsyncFunctionDef)):
            nodes.append(node.returns)
        elif isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name):
            alias = node.targets[0].id
            nodes += [node.value] if alias[:1].isupper() and not alias.isupper() else []
        elif isinstance(node, ast.If) and isinstance(node.test, ast.Name) and node.test.id == "TYPE_CHECKING":
            nodes.append(node)
    return [
        ((node.lineno, node.col_offset), (node.end_lineno or 0, node.end_col_offset or 0))  # type: ignore[attr-defined]
        for node in nodes
        if node is not None
    ]


def sampled(count: int, seed: int) -> list[Fault]:
    """Places drawn evenly, one fault at each."""
    places: dict[tuple[str, int, int], list[Fault]] = {}
    for room in ROOMS:
        for path in sorted((ROOT / "src/kivel" / room).rglob("*.py")):
            for fault in faults_in(path):
                places.setdefault((fault.file, fault.line, fault.column), []).append(fault)
    chance = random.Random(seed)
    drawn = (chance.choice(places[place]) for place in chance.sample(sorted(places), len(places)))
    faults = list(islice((fault for fault in drawn if is_code(ROOT / fault.file, fault)), count))
    print(f"{len(places)} places, {len(faults)} drawn with seed {seed}", flush=True)
    return faults


def is_code(path: Path, fault: Fault) -> bool:
    """Whether what comes of it can be read at all: a mark for keywords, `*`, is no product."""
    text = path.read_text(encoding="utf-8")
    try:
        ast.parse(fault.applied(text))
    except (SyntaxError, AttributeError):  # cosmic-ray cannot replace an exception whose name has a dot
        return False
    return fault.applied(text) != text


def environment(folder: Path) -> dict[str, str]:
    """In which a folder's own code is imported, by the tests and by the programs that they start."""
    return {**os.environ, "PYTHONPATH": str(folder / "src"), "PYTHONDONTWRITEBYTECODE": "1"}


def tests_by_line(folder: Path) -> CoverageData:
    """Which tests reach which lines."""
    words = [sys.executable, "-m", "pytest", "--cov=kivel", "--cov-context=test", "--cov-report=", "-q"]
    subprocess.run(words, cwd=folder, check=True, stdout=subprocess.DEVNULL, env=environment(folder))
    data = CoverageData(str(folder / ".coverage"))
    data.read()
    return data


def reaching(data: CoverageData, folder: Path, fault: Fault) -> list[str]:
    """The tests that reach its line; of a line that runs on import, those that reach its file. Near ones first."""
    contexts = data.contexts_by_lineno(str(folder / fault.file))
    found = {name for name in contexts.get(fault.line, ()) if name}
    found = found or {name for names in contexts.values() for name in names if name}
    tests = sorted({name.rsplit("|", 1)[0] for name in found})
    parts = set(Path(fault.file).with_suffix("").parts)
    return sorted(tests, key=lambda test: -len(parts & set(Path(test.split("::")[0]).with_suffix("").parts)))


def is_found(folder: Path, fault: Fault, tests: Sequence[str]) -> bool:
    """Whether a test fails, or never ends."""
    if not tests:
        return False
    path = folder / fault.file
    text = path.read_text(encoding="utf-8")
    names = folder / "tests-to-run"
    names.write_text("\n".join(tests), encoding="utf-8")
    path.write_text(fault.applied(text), encoding="utf-8")
    words = [sys.executable, "-m", "pytest", "-n0", "-x", "-q", "-p", "no:cacheprovider", f"@{names}"]
    try:
        done = subprocess.run(
            words, cwd=folder, capture_output=True, timeout=PATIENCE_S, check=False, env=environment(folder)
        )
        return done.returncode != 0
    except subprocess.TimeoutExpired:
        return True
    finally:
        path.write_text(text, encoding="utf-8")


def copied(into: Path) -> Path:
    """The project in a folder of its own, which is what its tests import."""
    for name in ("src", "tests", "docs", "pyproject.toml", "README.md"):
        source = ROOT / name
        shutil.copytree(source, into / name) if source.is_dir() else shutil.copy(source, into / name)
    return into


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0] if __doc__ else None)
    parser.add_argument("--count", type=int, default=200, metavar="N", help="faults (default: 200)")
    parser.add_argument("--seed", type=int, default=11, metavar="N", help="for the sample (default: 11)")
    parser.add_argument("--jobs", type=int, default=2, metavar="N", help="at a time (default: 2)")
    options = parser.parse_args()
    faults = sampled(options.count, options.seed)
    with tempfile.TemporaryDirectory() as name:
        folders: SimpleQueue[Path] = SimpleQueue()
        first = copied(Path(name) / "0")
        data = tests_by_line(first)
        for number in range(options.jobs):
            folders.put(first if number == 0 else copied(Path(name) / str(number)))

        def tried(fault: Fault) -> bool:
            folder = folders.get()
            try:
                found = is_found(folder, fault, reaching(data, first, fault))
            finally:
                folders.put(folder)
            if not found:
                print(fault.shown((ROOT / fault.file).read_text(encoding="utf-8")), flush=True)
            return found

        with ThreadPoolExecutor(options.jobs) as pool:
            results = list(pool.map(tried, faults))
    survivors = [fault for fault, found in zip(faults, results, strict=True) if not found]
    killed = len(faults) - len(survivors)
    print(f"{killed} of {len(faults)} found, {100 * killed / len(faults):.1f} %   bar >= 85 %")


if __name__ == "__main__":
    main()
