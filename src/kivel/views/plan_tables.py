"""Layouts to choose from, as tables for the terminal."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from rich.table import Table

from kivel.core.layout.choices import WorthHaving
from kivel.core.layout.memory import FORMATS, texture_bytes
from kivel.core.pixels.pixels import Size
from kivel.views.tables import add_row, plain_table

__all__ = ["layout_table", "memory_table", "motion_table"]

if TYPE_CHECKING:
    from kivel.core.motion.motion_count import MotionCount

_KIB, _MIB = 1 << 10, 1 << 20


def layout_table(layouts: Sequence[WorthHaving], frame: Size) -> Table:
    """A line for each layout, the best first."""
    table = plain_table()
    for name in ("columns x rows", "sheet", "pages", "empty cells", "used"):
        table.add_column(name, justify="right", no_wrap=True)
    table.add_column("", min_width=24)
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


def motion_table(counts: Sequence[MotionCount]) -> Table:
    """Return what is missed of frames that are left out, with a map of motion and without, and what both take."""
    table = plain_table()
    for name in ("frames kept", "error with motion", "MiB", "faded", "MiB"):
        table.add_column(name, justify="right", no_wrap=True)
    for one in counts:
        sizes = (one.bytes / _MIB, one.faded_bytes / _MIB)
        add_row(
            table, str(len(one.frames)), f"{one.error:.2f}", f"{sizes[0]:.3g}", f"{one.faded:.2f}", f"{sizes[1]:.3g}"
        )
    return table


def memory_table(layouts: Sequence[WorthHaving]) -> Table:
    """Return what each size of page takes, as it is and with all mip levels, in KiB or MiB, whichever is easier to
    read.
    """
    pages = dict.fromkeys((layout.plan.page, layout.plan.pages) for layout in layouts)
    largest = max(count * texture_bytes(page, stored) for page, count in pages for stored in FORMATS.values())
    unit, name = (_MIB, "MiB") if largest >= _MIB else (_KIB, "KiB")
    table = plain_table()
    table.add_column(name, no_wrap=True)
    for stored_as in FORMATS:
        table.add_column(stored_as, justify="right", no_wrap=True)
    for page, count in pages:
        label = f"{count} of {page}" if count > 1 else str(page)
        for mips in (False, True):
            sizes = [count * texture_bytes(page, stored, mips=mips) / unit for stored in FORMATS.values()]
            add_row(
                table,
                "  with mips" if mips else label,
                *(f"{size:.3g}" if size < 1000 else f"{size:,.0f}" for size in sizes),
            )
    return table
