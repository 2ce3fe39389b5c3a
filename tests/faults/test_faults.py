"""A small part of the harness: all of it is the scripts beside this."""

from __future__ import annotations

import shlex
from itertools import cycle
from pathlib import Path

import pytest
from deaths import at_each_step, at_random_moments
from edits import KINDS as EDITED
from edits import wrong_with as edited_wrong
from fuzz import failures
from fuzz_documents import document_pair, good_documents
from fuzz_pairs import good_lines
from planted import COMMANDS as PLANTED_COMMANDS
from planted import PLANTED
from planted import wrong_with as planted_wrong
from races import races, readers
from repeats import LINES, again_wrong, round_wrong
from sameness import differences

from program import in_process


@pytest.mark.slow
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
    assert list(failures(20, list(range(40)), jobs=1)) == []


def test_broken_documents_end_in_results_or_in_errors_of_ours() -> None:
    assert list(failures(30, list(range(10)), jobs=1, make=document_pair)) == []


@pytest.mark.parametrize("kind", EDITED)
def test_folders_that_were_edited_are_as_the_model_has_them(kind: str) -> None:
    assert [one for seed in range(3) for one in edited_wrong(kind, seed)] == []


@pytest.mark.slow
@pytest.mark.parametrize("kind", EDITED)
def test_many_folders_that_were_edited_are_as_the_model_has_them(kind: str) -> None:
    assert [one for seed in range(100, 125) for one in edited_wrong(kind, seed)] == []


@pytest.mark.slow
@pytest.mark.parametrize("command", LINES)
def test_random_lines_are_made_again_byte_for_byte(command: str) -> None:
    assert [one for seed in range(8) if (one := again_wrong(command, seed))] == []


@pytest.mark.slow
def test_random_sheets_come_back_bit_for_bit() -> None:
    assert [one for seed in range(40) if (one := round_wrong(seed))] == []


@pytest.mark.slow
def test_many_broken_documents_end_in_results_or_in_errors_of_ours() -> None:
    assert list(failures(31, list(range(300)), make=document_pair)) == []


@pytest.mark.slow
def test_the_documents_that_are_broken_are_good_ones(tmp_path: Path) -> None:
    for number, (files, line) in enumerate(good_documents()):
        for name, data in files.items():
            path = tmp_path / str(number) / name
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(data)
        done = in_process(shlex.split(line), tmp_path / str(number))
        assert done.code == 0 or "frozen" in line, (line, done.err)


FIRST = (
    ("a step is a link", "build"), ("store is a link", "build"), ("state is a link", "build"),
    ("a journal that removes", "inspect"), ("a ledger that claims a file", "export"),
)  # fmt: skip
"""The worst of them, in the short lane."""


@pytest.mark.parametrize(("name", "command"), FIRST)
def test_the_worst_that_a_stranger_planted_reaches_nothing(tmp_path: Path, name: str, command: str) -> None:
    assert list(planted_wrong(PLANTED[name], PLANTED_COMMANDS[command], tmp_path)) == []


@pytest.mark.slow
@pytest.mark.parametrize(("name", "command"), list(zip(PLANTED, cycle(PLANTED_COMMANDS), strict=False)))
def test_what_a_stranger_planted_reaches_nothing(tmp_path: Path, name: str, command: str) -> None:
    """Each by one command, in turn; by each of them with `python tests/faults/planted.py`."""
    assert list(planted_wrong(PLANTED[name], PLANTED_COMMANDS[command], tmp_path)) == []


@pytest.mark.slow
def test_many_broken_inputs_end_in_results_or_in_errors_of_ours() -> None:
    assert list(failures(21, list(range(600)))) == []


@pytest.mark.slow
@pytest.mark.parametrize("kind", ["kill", "error", "interrupt"])
def test_a_sheet_of_five_files_is_old_or_new_after_any_death(tmp_path: Path, kind: str) -> None:
    assert [found for found in at_each_step(tmp_path, [kind], every=18) if found.wrong] == []


@pytest.mark.slow
def test_signals_at_random_moments_leave_whole_sets(tmp_path: Path) -> None:
    assert [found for found in at_random_moments(tmp_path, 8, 5) if found.wrong] == []


@pytest.mark.slow
def test_writers_of_one_set_leave_one_of_their_sets(tmp_path: Path) -> None:
    assert [wrong for wrong in races(tmp_path, 10, 5) if wrong] == []


@pytest.mark.slow
def test_readers_of_a_set_that_is_replaced_see_one_of_its_states(tmp_path: Path) -> None:
    assert [wrong for wrong in readers(tmp_path, -1, 60, 6) if wrong] == []


@pytest.mark.slow
def test_the_same_bytes_are_made_everywhere() -> None:
    assert [wrong for wrong in differences(2, 5) if wrong] == []
