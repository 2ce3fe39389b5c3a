"""Series found among file names."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.numbering import (
    NumberRange,
    SequenceError,
    find_series,
    missing_numbers,
    most_common,
    natural_order,
    number_pattern,
    parse_number_range,
)


def names(text: str) -> list[str]:
    return [f"{name}.png" for name in text.split()]


FOLDERS = {
    "unpadded, from 1": ("m_10 m_2 m_1", {"m_#.png": "m_1 m_2 m_10"}),
    "padded": ("m_02 m_01 m_10", {"m_##.png": "m_01 m_02 m_10"}),
    "number in mid-name": ("m1-wing m10-wing m2-wing", {"m#-wing.png": "m1-wing m2-wing m10-wing"}),
    "one number of several": ("v2_1_of_9 v2_3_of_9", {"v2_#_of_9.png": "v2_1_of_9 v2_3_of_9"}),
    "another number varies along": ("f_1_t0.5 f_2_t1.0", {"f_#_t*.*.png": "f_1_t0.5 f_2_t1.0"}),
    "two names": ("fly-1 rest-1 fly-2 rest-2", {"fly-#.png": "fly-1 fly-2", "rest-#.png": "rest-1 rest-2"}),
    "two takes": (
        "t1_f1 t1_f2 t1_f3 t2_f1 t2_f2 t2_f3",
        {"t1_f#.png": "t1_f1 t1_f2 t1_f3", "t2_f#.png": "t2_f1 t2_f2 t2_f3"},
    ),
    "scale variants": (
        "m_1 m_2 m_1_0.5 m_2_0.5 m_1_2 m_2_2",
        {"m_#.png": "m_1 m_2", "m_#_0.5.png": "m_1_0.5 m_2_0.5", "m_#_2.png": "m_1_2 m_2_2"},
    ),
    "companions": ("m_1 m_2 m_1_n m_2_n", {"m_#.png": "m_1 m_2", "m_#_n.png": "m_1_n m_2_n"}),
    "companions of unnumbered names": (
        "cap cap_glow hat hat_glow",
        {None: "cap hat", "*_glow.png": "cap_glow hat_glow"},
    ),
    "padded and not": ("m_1 m_01 m_2 m_10", {"m_#.png": "m_1 m_2 m_10", "m_##.png": "m_01 m_10"}),
    "a stray beside a series": ("m_1 m_2 notes", {"m_#.png": "m_1 m_2", "notes.png": "notes"}),
    "named frames": ("up down2 down", {None: "down down2 up"}),
    "one file": ("m_7", {None: "m_7"}),
}  # fmt: skip


@pytest.mark.parametrize(("files", "expected"), FOLDERS.values(), ids=FOLDERS)
def test_series_are_told_apart_and_put_in_counting_order(files: str, expected: dict[str | None, str]) -> None:
    found = find_series(names(files))
    assert {series.pattern: list(series.names) for series in found} == {p: names(t) for p, t in expected.items()}


@given(st.permutations(names("m_1 m_01 m_2 m_10 fly-1 fly-2 x_1_n x_2_n a b")))
def test_series_do_not_depend_on_the_order_of_the_folder(files: list[str]) -> None:
    assert find_series(files) == find_series(sorted(files))


@given(st.sets(st.integers(0, 300), min_size=2), st.integers(1, 5))
def test_a_pattern_picks_its_whole_series_again(numbers: set[int], digits: int) -> None:
    files = [f"burst_{number:0{digits}d}.png" for number in numbers]
    (series,) = find_series(files)
    if series.pattern is not None:
        picked = number_pattern(series.pattern)
        assert [picked.number_in(name) for name in series.names] == sorted(numbers) == list(series.numbers)


@given(st.sets(st.integers(0, 60), min_size=1))
def test_missing_numbers_and_those_present_make_an_unbroken_run(numbers: set[int]) -> None:
    gaps = [n for gap in missing_numbers(numbers) for n in range(gap.first, gap.last + 1)]
    assert sorted([*gaps, *numbers]) == list(range(min(numbers), max(numbers) + 1))


def test_a_range_counts_as_missing_what_lies_beyond_the_files() -> None:
    assert missing_numbers([22, 23], NumberRange(20, 24)) == [NumberRange(20, 21), NumberRange(24, 24)]


@pytest.mark.parametrize(
    ("text", "words"), [("8-2", "write 2-8"), ("a-b", "like 20-83"), ("-3", "like 20-83")], ids=lambda v: str(v)
)
def test_a_bad_range_is_refused(text: str, words: str) -> None:
    with pytest.raises(SequenceError, match=words):
        parse_number_range(text)


def test_a_numbered_pattern_has_one_run_of_hashes() -> None:
    with pytest.raises(SequenceError, match="one run of #, this has 2"):
        number_pattern("a#b#.png")


def test_order_and_majority() -> None:
    assert natural_order(names("f10 f2 F1 f1 f01")) == names("F1 f01 f1 f2 f10")
    assert most_common(["b", "a", "a", "b"]) == "b"


def test_of_several_numbers_that_could_count_the_last_does() -> None:
    names = [f"a{one}_b{two}_c{three}.png" for one in (1, 2) for two in (1, 2) for three in (1, 2)]
    assert [series.pattern for series in find_series(names)] == [f"a{a}_b{b}_c#.png" for a in (1, 2) for b in (1, 2)]
