"""Work over processes: the same results in order, also where one of them dies."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

SCRIPT = """
import os, signal, sys, time
from kivel.files.processes import in_processes
here, how = os.getpid(), sys.argv[1]

def interrupt(*_):
    raise KeyboardInterrupt

if how == "an idle one dies":
    signal.signal(signal.SIGTERM, interrupt)  # as every command has it

def work(number):
    if os.getpid() == here:
        return number * number, True
    if how == "dies" and number == 3:
        os._exit(9)
    if how == "an idle one dies" and number == 10:
        open("pid", "w").write(str(os.getpid()))
        time.sleep(0.2)
    if how == "an idle one dies" and number == 11:
        time.sleep(0.6)  # the other waits for work now, and nobody else can have any until it has
        os.kill(int(open("pid").read()), signal.SIGKILL)
        time.sleep(3)
    return number * number, False

found = list(in_processes(work, range(12), jobs=2))
print([square for square, _ in found] == [n * n for n in range(12)], sum(own for _, own in found))
"""


@pytest.mark.skipif(sys.platform != "linux", reason="copies of a process are safe there alone")
@pytest.mark.parametrize(
    ("how", "own"), [("lives", range(1)), ("dies", range(1, 13)), ("an idle one dies", range(1, 13))]
)
def test_results_come_in_order_and_all_of_them(tmp_path: Path, how: str, own: range) -> None:
    words = [sys.executable, "-c", SCRIPT, how]
    done = subprocess.run(words, capture_output=True, text=True, check=True, timeout=30, cwd=tmp_path)
    right, here = done.stdout.split()
    assert (right, int(here) in own, done.stderr) == ("True", True, "")
