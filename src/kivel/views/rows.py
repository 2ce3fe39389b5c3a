"""Rows of results as they come: a table for people, CSV or JSON Lines for programs; nothing is gathered."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Iterator, Mapping
from fractions import Fraction
from io import StringIO
from typing import Any

from kivel.core.named_tuples import NamedTuple
from kivel.core.wording import as_text, printable

__all__ = ["ROW_FORMATS", "Column", "json_text", "rows_as"]

Row = Mapping[str, Any]


class Column(NamedTuple):
    """Holds what a row has under `key`; `title` and `width` are for people."""

    key: str
    title: str
    width: int = 0


def rows_as(format: str, columns: Iterable[Column], rows: Iterable[Row]) -> Iterator[str]:
    """Lines of text, one by one."""
    return ROW_FORMATS[format](list(columns), rows)


def _table(columns: list[Column], rows: Iterable[Row]) -> Iterator[str]:
    shown = [column for column in columns if column.title]
    yield "  ".join(f"{column.title:{column.width}}" for column in shown).rstrip()
    for row in rows:
        yield "  ".join(f"{_for_people(row.get(column.key)):{column.width}}" for column in shown).rstrip()


def _csv(columns: list[Column], rows: Iterable[Row]) -> Iterator[str]:
    yield _csv_line([column.key for column in columns])
    for row in rows:
        yield _csv_line([_for_csv(row.get(column.key)) for column in columns])


def _for_csv(value: Any) -> Any:
    plain = _for_programs(value)
    return printable(plain) if isinstance(plain, str) else plain


def _csv_line(values: list[Any]) -> str:
    buffer = StringIO()
    import csv  # of its five forms one needs it

    csv.writer(buffer, lineterminator="").writerow(values)
    return buffer.getvalue()


def _json_lines(columns: list[Column], rows: Iterable[Row]) -> Iterator[str]:
    for row in rows:
        yield _json(columns, row)


def _json_array(columns: list[Column], rows: Iterable[Row]) -> Iterator[str]:
    waiting = "["
    for row in rows:
        if waiting != "[":
            waiting += ","
        yield waiting
        waiting = _json(columns, row)
    yield from (waiting, "]") if waiting != "[" else ("[]",)


def _json(columns: list[Column], row: Row) -> str:
    plain = {column.key: _for_programs(row.get(column.key)) for column in columns}
    return json_text({key: value for key, value in plain.items() if key in row})


def _for_people(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else ""
    if isinstance(value, Fraction):
        return f"{float(value):.6f}".rstrip("0").rstrip(".")
    return printable(str(value))


def _for_programs(value: Any) -> Any:
    """Fractions as exact text; whatever else as it is."""
    return str(value) if isinstance(value, Fraction) else value


def json_text(content: Any, *, indent: int | None = None) -> str:
    """JSON in which nothing acts on a terminal: what JSON itself would leave as it is, is escaped as JSON does it."""
    lines = json.dumps(content, ensure_ascii=False, indent=indent).split("\n")
    return "\n".join(as_text(line, lambda character: f"\\u{ord(character):04x}") for line in lines)


ROW_FORMATS: dict[str, Callable[[list[Column], Iterable[Row]], Iterator[str]]] = {
    "table": _table,
    "csv": _csv,
    "json-lines": _json_lines,
    "json": _json_array,
}
