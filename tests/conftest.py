"""What all tests share."""

from __future__ import annotations

import os
import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import settings

from kivel.core.pixels.pixels import Pixels
from kivel.files.flushing import unflushed
from program import PROGRAM, Done, Kivel, art, in_process, write

settings.register_profile("kivel", max_examples=25, deadline=None, derandomize=True)
settings.load_profile("kivel")


_IN_MEMORY = Path("/dev/shm")
_ROOM = 2 << 30


def pytest_configure() -> None:
    """Temporary folders lie in memory where there is room for them: tests write thousands of small files."""
    if "TMPDIR" in os.environ or not os.access(_IN_MEMORY, os.W_OK) or shutil.disk_usage(_IN_MEMORY).free < _ROOM:
        return
    os.environ["TMPDIR"] = tempfile.tempdir = str(_IN_MEMORY)


@pytest.fixture(scope="session", autouse=True)
def own_state(tmp_path_factory: pytest.TempPathFactory) -> Iterator[None]:
    """The key of who runs the tests is no concern of theirs; what one program compiled, the next may load.

    What is written in this process does not wait for the disk.
    """
    os.environ["XDG_STATE_HOME"] = str(tmp_path_factory.mktemp("state"))
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
    with unflushed():
        yield


@pytest.fixture
def kivel(tmp_path: Path) -> Kivel:
    """`kivel("sheet", "moth", ...)`: a command run in the temporary folder, in this process.

    With variables of the environment it is the installed program that runs.
    """

    def run(*words: str, **environment: str) -> Done:
        if not environment:
            return in_process(words, tmp_path)
        done = subprocess.run(
            [PROGRAM, *words],
            cwd=tmp_path,
            env={**os.environ, **environment},
            capture_output=True,
            text=True,
            check=False,
        )
        assert "Traceback" not in done.stderr
        return Done(done.returncode, done.stdout, done.stderr)

    return run


@pytest.fixture
def moth(tmp_path: Path) -> list[Pixels]:
    """`moth/moth_1.png` to `moth_12.png`, unpadded."""
    frames = [art(number) for number in range(1, 13)]
    for number, frame in enumerate(frames, 1):
        write(tmp_path / f"moth/moth_{number}.png", frame)
    return frames
