"""Layouts to choose from, as tables for the terminal."""

from __future__ import annotations

from collections.abc import Sequence

from rich.table import Table

from kivel.core.layout.choices import WorthHaving
from kivel.core.layout.memory import FORMATS, TextureFormat, texture_bytes
from kivel.core.pixels import Size
from kivel.views.tables import add_row, plain_table

__all__ = ["layout_table", "memory_table"]

_MIB = 1 << 20


def layout_table(layouts: Sequence[WorthHaving], frame: Size) -> Table:
    """A line for each layout, the best first."""
    table = plain_table()
    for name in ("columns x rows", "sheet", "pages", "empty cells", "used"):
        table.add_column(name, justify="right", no_wrap=True)
    table.add_column("", overflow="fold")
    for layout in layouts:
        plan = layout.plan
        add_row(
            table,
            f"{plan.grid.columns} x {plan.grid.rows}",
            str(plan.page),
            str(plan.pages),
            str(plan.empty),
            f"{float(layout.used(frame)):.1%}",
            layout.label,
        )
    return table


def memory_table(layouts: Sequence[WorthHaving]) -> Table:
    """What each size of page takes, as it is and with all mip levels."""
    table = plain_table()
    table.add_column("MiB (with mips)", no_wrap=True)
    for name in FORMATS:
        table.add_column(name, justify="right", no_wrap=True)
    pages = dict.fromkeys((layout.plan.page, layout.plan.pages) for layout in layouts)
    for page, count in pages:
        label = f"{count} of {page}" if count > 1 else str(page)
        add_row(table, label, *(_megabytes(page, count, stored) for stored in FORMATS.values()))
    return table


def _megabytes(page: Size, count: int, format: TextureFormat) -> str:
    plain, with_mips = (count * texture_bytes(page, format, mips=mips) / _MIB for mips in (False, True))
    return f"{plain:.3g} ({with_mips:.3g})"
