"""A small part of the harness: all of it is `fuzz.py`, `deaths.py`, `races.py` and `sameness.py`, as scripts."""

from __future__ import annotations

import shlex
from pathlib import Path

import pytest
from deaths import at_each_step, at_random_moments
from fuzz import failures
from fuzz_pairs import good_lines
from races import races, readers
from sameness import differences

from program import in_process

SECONDS = 60
PAIRS_A_SECOND = 60
"""On two cores."""


def test_the_lines_that_are_broken_are_good_ones(tmp_path: Path) -> None:
    """Otherwise what is tried ends at the first word."""
    lines = good_lines()
    refused = []
    for number, (files, line) in enumerate(lines):
        for name, data in files.items():
            path = tmp_path / str(number) / name
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(data)
        if in_process(shlex.split(line), tmp_path / str(number)).code:
            refused.append(line)
    assert len(refused) < len(lines) / 6, refused


def test_broken_inputs_end_in_results_or_in_errors_of_ours() -> None:
    assert list(failures(20, list(range(300)), jobs=1)) == []


@pytest.mark.slow
def test_many_broken_inputs_end_in_results_or_in_errors_of_ours() -> None:
    assert list(failures(21, list(range(SECONDS * PAIRS_A_SECOND)))) == []


@pytest.mark.slow
@pytest.mark.parametrize("kind", ["kill", "error", "interrupt"])
def test_a_sheet_of_five_files_is_old_or_new_after_any_death(tmp_path: Path, kind: str) -> None:
    assert [found for found in at_each_step(tmp_path, [kind], every=6) if found.wrong] == []


@pytest.mark.slow
def test_signals_at_random_moments_leave_whole_sets(tmp_path: Path) -> None:
    assert [found for found in at_random_moments(tmp_path, 20, 5) if found.wrong] == []


@pytest.mark.slow
def test_writers_of_one_set_leave_one_of_their_sets(tmp_path: Path) -> None:
    assert [wrong for wrong in races(tmp_path, 10, 5) if wrong] == []


@pytest.mark.slow
def test_readers_of_a_set_that_is_replaced_see_one_of_its_states(tmp_path: Path) -> None:
    assert [wrong for wrong in readers(tmp_path, -1, 60, 6) if wrong] == []


@pytest.mark.slow
def test_the_same_bytes_are_made_everywhere() -> None:
    assert [wrong for wrong in differences(2, 5) if wrong] == []
