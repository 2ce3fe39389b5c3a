"""Work over processes: the same results in order, also where one of them dies."""

from __future__ import annotations

import subprocess
import sys

import pytest

SCRIPT = """
import os, sys
from kivel.files.processes import in_processes
here, dies = os.getpid(), sys.argv[1] == "dies"

def work(number):
    if dies and number == 3 and os.getpid() != here:
        os._exit(9)
    return number * number, os.getpid() == here

found = list(in_processes(work, range(12), jobs=3))
print([square for square, _ in found] == [n * n for n in range(12)], sum(own for _, own in found))
"""


@pytest.mark.skipif(sys.platform != "linux", reason="copies of a process are safe there alone")
@pytest.mark.parametrize(("how", "own"), [("lives", range(1)), ("dies", range(1, 13))])
def test_results_come_in_order_and_all_of_them(how: str, own: range) -> None:
    done = subprocess.run([sys.executable, "-c", SCRIPT, how], capture_output=True, text=True, check=True)
    right, here = done.stdout.split()
    assert (right, int(here) in own, done.stderr) == ("True", True, "")
