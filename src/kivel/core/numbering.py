"""Which names belong together as one sequence, in what order, and what is missing among them.

Names are file names without their folder. Numbers in names are read as people count: `2` before `10`, padded or not.
"""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Hashable, Iterable, Sequence
from typing import TypeVar

from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple

__all__ = [
    "NumberPattern",
    "NumberRange",
    "SequenceError",
    "Series",
    "find_series",
    "is_between",
    "missing_numbers",
    "most_common",
    "natural_order",
    "number_pattern",
    "parse_number_range",
    "series_name",
    "spans",
]

T = TypeVar("T", bound=Hashable)

_DIGITS = re.compile(r"(\d+)")
_HASHES = re.compile(r"#+")
_SUFFIX = re.compile(r"^(?P<base>.+)(?P<suffix>_[A-Za-z]\w*)$")
_BETWEEN = re.compile(r"(\d)[a-z](\.[^.]*|)$")
"""The letter behind a number: `2b` comes after `2`."""
_LAST_NUMBER = re.compile(r"[-_. ]*\d+[a-z]?$")


class SequenceError(KivelError):
    """The frames found do not make one sequence."""


class Series(NamedTuple):
    """Names that count up in one place.

    `pattern` picks them again: numbered (`moth_#.png`) or shell-style (`*_glow.png`); None when no pattern can.
    `numbers` has one entry per name, or none at all when the names are not numbered.
    """

    pattern: str | None
    names: tuple[str, ...]
    numbers: tuple[int, ...] = ()


class NumberRange(NamedTuple):
    """First and last number, both included."""

    first: int
    last: int

    def __contains__(self, number: object) -> bool:
        return isinstance(number, int) and self.first <= number <= self.last


class NumberPattern(NamedTuple):
    """A file name with a run of `#` for the number: `#` without padding, `####` padded to four digits at least.

    `*` means anything, so that another number may vary along with the frame's.
    """

    text: str
    expression: re.Pattern[str]

    def number_in(self, name: str) -> int | None:
        """The number that `name` has in the place of the `#`; None when it does not match."""
        match = self.expression.fullmatch(name)
        return int(match[1]) if match else None


def number_pattern(text: str) -> NumberPattern:
    """Read a numbered pattern.

    >>> [number_pattern("burst_##.png").number_in(f"burst_{n}.png") for n in ("07", "7", "123", "012")]
    [7, None, 123, None]

    Raises
    ------
    SequenceError
        Unless there is exactly one run of `#`.
    """
    runs = _HASHES.findall(text)
    if len(runs) != 1:
        raise SequenceError(f"a numbered pattern has one run of #, this has {len(runs)}", where=text)
    before, after = (re.escape(part).replace(r"\*", ".*") for part in text.split(runs[0]))
    return NumberPattern(text, re.compile(f"{before}({_number_expression(len(runs[0]))}){after}"))


def _number_expression(digits: int) -> str:
    return r"0|[1-9]\d*" if digits == 1 else rf"\d{{{digits}}}|[1-9]\d{{{digits},}}"


def parse_number_range(text: str) -> NumberRange:
    """Read `20-83`, or `20` alone.

    Raises
    ------
    SequenceError
        If it is not two whole numbers, the first not above the last.
    """
    match = re.fullmatch(r"([0-9]{1,18})(?:-([0-9]{1,18}))?", text.strip())
    if not match:
        raise SequenceError(f"expected FIRST-LAST, like 20-83, found {text!r}")
    first, last = int(match[1]), int(match[2] or match[1])
    if first > last:
        raise SequenceError(f"the range {text!r} ends before it begins; write {last}-{first}")
    return NumberRange(first, last)


def find_series(names: Iterable[str]) -> list[Series]:
    """Sort file names into series, each in counting order; the series by their first name.

    Names belong together when they are alike but for one number. Where several numbers vary, the one whose values
    are all different counts the frames, the one of the smallest span if there are several; failing that, the one that
    leaves the fewest series, the last of them among equals.
    A few that were put between others (`moth_2b` after `moth_2`) are among these. A number that is there both padded
    and not makes one series of each. Names that occur in no numbered series make
    one series by themselves, in natural order, unless some are another's name with a suffix (`lamp`, `lamp_glow`).
    """
    alike: dict[tuple[str, ...], list[str]] = defaultdict(list)
    for name in sorted(set(names)):
        texts = _DIGITS.split(name)[::2]
        alike[(*texts[:-1], texts[-1].lower())].append(name)
    numbered: list[Series] = []
    single: list[str] = []
    for group in alike.values():
        if len(group) == 1:
            single += group
        else:
            numbered += _series_alike(group)
    numbered, single = _with_those_between(numbered, single)
    rest = _unnumbered_series(single) if not numbered else [_alone(name) for name in single]
    return sorted(numbered + rest, key=lambda series: (series.names[0], series.pattern or ""))


def _with_those_between(numbered: Sequence[Series], single: Sequence[str]) -> tuple[list[Series], list[str]]:
    """The series with the names that are one of theirs and a letter, where these are at most half as many."""
    left = list(numbered)
    alone = list(single)
    for series in numbered:
        if series.pattern is None:
            continue
        picked = number_pattern(series.pattern)
        number = dict(zip(series.names, series.numbers, strict=True))
        for name in (*alone, *(name for one in left if one is not series for name in one.names)):
            found = picked.number_in(_BETWEEN.sub(r"\1\2", name)) if is_between(name) else None
            if found is not None and name not in number:
                number[name] = found
        between = number.keys() - set(series.names)
        if not between or 2 * len(between) > len(series.names):
            continue
        names = sorted(number, key=lambda name: (number[name], name in between, name))
        pattern = re.sub(r"(#+)", r"\1*", series.pattern)
        merged = Series(pattern, tuple(names), tuple(number[name] for name in names))
        alone = [name for name in alone if name not in between]
        left = [merged if one is series else one for one in left if one is series or not between.issuperset(one.names)]
    return left, alone


def _series_alike(names: list[str]) -> list[Series]:
    """Series among names that differ only in their numbers."""
    rows = {name: _DIGITS.split(name)[1::2] for name in names}
    counting = _counting_slot([[int(text) for text in row] for row in rows.values()])
    if len({int(row[counting]) for row in rows.values()}) == len(names):
        return _by_padding(names, counting)
    groups: dict[tuple[str, ...], list[str]] = defaultdict(list)
    for name, row in rows.items():
        groups[tuple(row[:counting] + row[counting + 1 :])].append(name)
    return [series for group in groups.values() for series in _by_padding(group, counting)]


def _counting_slot(rows: list[list[int]]) -> int:
    """The place among a name's numbers that counts the frames."""

    def rank(slot: int) -> tuple[int, int, int]:
        values = {row[slot] for row in rows}
        if len(values) == len(rows):
            # frames count without gaps; a date or a version beside the number jumps
            return (0, max(values) - min(values), slot)
        others = {(*row[:slot], *row[slot + 1 :]) for row in rows}
        return (1, len(others), -slot)

    varying = [slot for slot in range(len(rows[0])) if len({row[slot] for row in rows}) > 1]
    return min(varying or [len(rows[0]) - 1], key=rank)


def _by_padding(names: list[str], slot: int) -> list[Series]:
    """One series; or, where a number is there twice (`1` and `01`), one for each way of writing it."""
    texts = {name: _DIGITS.split(name)[2 * slot + 1] for name in names}
    widths = sorted({len(text) for text in texts.values() if text.startswith("0") and len(text) > 1})
    # padded and unpadded are two ways of counting: which of them is meant only a person knows
    twice = len({int(text) for text in texts.values()}) < len(names)
    if not twice:
        unpadded_only = not widths
        shortest = min(len(text) for text in texts.values())
        digits = 1 if unpadded_only or shortest not in widths else shortest
        return [_numbered(names, texts, slot, digits)]
    ways = {digits: [n for n in names if re.fullmatch(_number_expression(digits), texts[n])] for digits in (1, *widths)}
    return [_numbered(chosen, texts, slot, digits) for digits, chosen in ways.items() if chosen]


def _numbered(names: list[str], texts: dict[str, str], slot: int, digits: int) -> Series:
    ordered = sorted(names, key=lambda name: (int(texts[name]), name))
    columns = list(zip(*(_DIGITS.split(name) for name in ordered), strict=True))
    parts = [column[0] if len(set(column)) == 1 else "*" for column in columns]
    parts[2 * slot + 1] = "#" * digits
    pattern = "".join(parts)
    picked = number_pattern(pattern).expression
    whole = all(picked.fullmatch(name) for name in ordered)
    return Series(pattern if whole else None, tuple(ordered), tuple(int(texts[name]) for name in ordered))


def _alone(name: str) -> Series:
    return Series(name, (name,))


def _unnumbered_series(names: list[str]) -> list[Series]:
    """One series in natural order, and one for each suffix that marks a companion of another name."""
    stems = {name.rpartition(".")[0] for name in names}
    by_suffix: dict[str, list[str]] = defaultdict(list)
    for name in names:
        stem, _, extension = name.rpartition(".")
        match = _SUFFIX.match(stem)
        companion = match and match["base"] in stems
        by_suffix[f"*{match['suffix']}.{extension}" if match and companion else ""].append(name)
    return [Series(pattern or None, tuple(natural_order(group))) for pattern, group in by_suffix.items()]


def natural_order(names: Iterable[str]) -> list[str]:
    """Names with their numbers in counting order; the same whatever the locale and the order they come in."""
    from natsort import natsorted  # a hundredth of a second that numbered sequences need not spend

    return list(natsorted(sorted(names), key=lambda name: name.rpartition(".")[0] or name))


def is_between(name: str) -> bool:
    """Return whether a name's number has a letter behind it, by which it comes after the one that has none.

    >>> [is_between(name) for name in ("moth_2.png", "moth_2b.png")]
    [False, True]
    """
    return _BETWEEN.search(name) is not None


def series_name(name: str) -> str:
    """Return what a frame is called without its number.

    >>> series_name("walk_right_07"), series_name("walk_right_07b")
    ('walk_right', 'walk_right')
    """
    return _LAST_NUMBER.sub("", name)


def missing_numbers(numbers: Iterable[int], within: NumberRange | None = None) -> list[NumberRange]:
    """The runs of numbers that are absent between the first and the last, or within a range.

    >>> missing_numbers([1, 2, 5, 9])
    [NumberRange(first=3, last=4), NumberRange(first=6, last=8)]
    """
    present = sorted(set(numbers))
    if not present:
        return [within] if within else []
    low = min(within.first, present[0]) if within else present[0]
    high = max(within.last, present[-1]) if within else present[-1]
    gaps: list[NumberRange] = []
    expected = low
    for number in [*present, high + 1]:
        if number > expected:
            gaps.append(NumberRange(expected, number - 1))
        expected = number + 1
    return gaps


def spans(ranges: Iterable[NumberRange]) -> str:
    """Ranges as text.

    >>> spans([NumberRange(3, 3), NumberRange(7, 9)])
    '3, 7-9'
    """
    return ", ".join(str(r.first) if r.first == r.last else f"{r.first}-{r.last}" for r in ranges)


def most_common(values: Sequence[T]) -> T:
    """The value that occurs most often; the first of them when several do."""
    counts = Counter(values)
    return max(counts, key=lambda value: counts[value])
