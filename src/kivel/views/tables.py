"""Tables as text."""

from __future__ import annotations

from collections.abc import Iterable
from io import StringIO

from rich.console import Console
from rich.table import Table
from rich.text import Text

from kivel.core.wording import printable

__all__ = ["add_row", "plain_table", "render"]

_WIDTH = 110


def plain_table() -> Table:
    """A table without lines, to add columns to."""
    return Table(box=None, pad_edge=False, padding=(0, 2, 0, 0), header_style="bold")


def add_row(table: Table, *cells: str, last_style: str = "") -> None:
    """A row of plain text: nothing in it is taken for markup, or acts on a terminal."""
    texts = [Text(printable(cell)) for cell in cells]
    if last_style:
        texts[-1].stylize(last_style)
    table.add_row(*texts)


def render(tables: Iterable[Table], *, colour: bool, width: int | None) -> str:
    """Tables as text; without colour it is plain, for pipes and files."""
    buffer = StringIO()
    tables = list(tables)
    console = Console(file=buffer, width=width or _WIDTH, force_terminal=colour, no_color=not colour, highlight=False)
    # a long line is better than half a number
    least = max((console.measure(table).minimum for table in tables), default=0)
    console.width = max(console.width, least)
    for number, table in enumerate(tables):
        if number:
            console.print()
        console.print(table)
    return "\n".join(line.rstrip() for line in buffer.getvalue().splitlines())
