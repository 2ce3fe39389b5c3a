"""Tables as text."""

from __future__ import annotations

from collections.abc import Iterable
from io import StringIO

from rich.console import Console
from rich.table import Table

__all__ = ["plain_table", "render"]

_WIDTH = 110


def plain_table() -> Table:
    """A table without lines, to add columns to."""
    return Table(box=None, pad_edge=False, padding=(0, 2, 0, 0), header_style="bold")


def render(tables: Iterable[Table], *, colour: bool, width: int | None) -> str:
    """Tables as text; without colour it is plain, for pipes and files."""
    buffer = StringIO()
    console = Console(file=buffer, width=width or _WIDTH, force_terminal=colour, no_color=not colour, highlight=False)
    for number, table in enumerate(tables):
        if number:
            console.print()
        console.print(table)
    return "\n".join(line.rstrip() for line in buffer.getvalue().splitlines())
