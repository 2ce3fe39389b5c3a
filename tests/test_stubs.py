"""What type checkers are told of the commands is what the commands take."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest
from stubs import STUB, stub_text


def test_the_types_are_those_of_the_options() -> None:
    """`python tests/stubs.py` writes them anew."""
    assert STUB.read_text(encoding="utf-8") == stub_text()


GOOD = """
from fractions import Fraction
from pathlib import Path
import kivel
made = kivel.sheet("moth/", Path("owl"), out="s.png", layout="row", fps=Fraction(24000, 1001), hold={"moth": 2})
size: tuple[int, int] = made.manifest.pages[0].size
kivel.retime("s.kivel.json", order={"walk": [0, 1, 2]}, event=(4, "flutter"), pivot={"walk": "bottom"})
kivel.slice(["a.png", "b.png"], out="cut", columns=4, gap=(1, 2), map={"normal": Path("n.png")})
kivel.export("s.kivel.json", to=["css", "table"], out="x")
names: list[str] = [frame.name for frame in kivel.atlas("props", pivot=(0.5, 1), watch=print).manifest.frames]
"""
BAD = {
    "an option": 'kivel.sheet("m", ouut="s.png")',
    "a type": 'kivel.sheet("m", fps=[])',
    "a word": 'kivel.sheet("m", layout="rows")',
    "a flag": 'kivel.sheet("m", force="yes")',
    "what is needed": 'kivel.resample("m", out="x")',
    "a field": 'kivel.sheet("m").manifst',
    "a field within": 'kivel.sheet("m").manifest.grid.rowz',
    "an option of another": 'kivel.retime("s.kivel.json", columns=3)',
}


@pytest.mark.slow
def test_wrong_calls_are_found_by_a_type_checker(tmp_path: Path) -> None:
    (tmp_path / "good.py").write_text(GOOD)
    for number, line in enumerate(BAD.values()):
        (tmp_path / f"bad_{number}.py").write_text(f"import kivel\nprint({line})\n")
    paths = [str(path) for path in sorted(tmp_path.glob("*.py"))]
    words = [sys.executable, "-m", "mypy", "--strict", "--cache-dir", str(tmp_path / "cache"), *paths]
    said = subprocess.run(words, capture_output=True, text=True, cwd=tmp_path, check=False).stdout
    wrong = {Path(line.partition(":")[0]).name for line in said.splitlines() if ": error:" in line}
    assert wrong == {f"bad_{number}.py" for number in range(len(BAD))}, said
