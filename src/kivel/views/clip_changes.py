"""How clips play, before and after a change, as a table for the terminal."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from itertools import groupby

from rich.table import Table

from kivel.core.playback.clip import Clip
from kivel.core.playback.notation import format_order, format_seconds
from kivel.core.playback.properties import PROPERTIES
from kivel.core.wording import counted
from kivel.views.tables import add_row, plain_table

__all__ = ["change_table", "clip_facts"]

_MOST_HOLDS = 12


def clip_facts(clip: Clip) -> dict[str, str]:
    """Return what there is to say of a clip, for people."""
    holds = [step.hold for step in clip.steps]
    return {
        "frames": format_order([step.frame for step in clip.steps]),
        "holds": _holds(holds) + f" at {format_rate(clip.timebase)}",
        "cycle": f"{counted(len(clip.order()), 'step')}, {format_seconds(clip.length)}",
        **{one.name: one.said(clip) for one in PROPERTIES if one.said},
    }


def change_table(pairs: Sequence[tuple[Clip | None, Clip | None]]) -> Table:
    """A line for each thing that changes of each clip."""
    table = plain_table()
    for name in ("clip", "", "before", "after"):
        table.add_column(name, overflow="fold")
    for base, copies in groupby(pairs, key=_copied):
        if base is not None:
            _add_copies(table, base, [after for _, after in copies if after])
            continue
        _add_changes(table, list(copies))
    return table


def _copied(pair: tuple[Clip | None, Clip | None]) -> str | None:
    """Return the clip that a new one is a staggered copy of."""
    before, after = pair
    return after.staggered if after and not before else None


def _add_copies(table: Table, base: str, copies: Sequence[Clip]) -> None:
    """Clips that differ in nothing but where they start."""
    names = copies[0].name if len(copies) == 1 else f"{copies[0].name} to {copies[-1].name}"
    shares = [f"{float(100 * (clip.phase_share or 0)):.3g}%" for clip in copies]
    listed = ", ".join(shares[:_MOST_HOLDS]) + (f", ... ({len(shares)} in all)" if len(shares) > _MOST_HOLDS else "")
    add_row(table, names, "copies", "", f"of {base}, starting at {listed} of its cycle")


def _add_changes(table: Table, pairs: Sequence[tuple[Clip | None, Clip | None]]) -> None:
    for before, after in pairs:
        if before and not after:
            add_row(table, before.name, "clip", clip_facts(before)["cycle"], "removed")
            continue
        old = clip_facts(before) if before else {}
        new = clip_facts(after) if after else {}
        name = (before or after or _NOBODY).name
        if before and after and before.name != after.name:
            old, new = {"name": before.name, **old}, {"name": after.name, **new}
        rows = [key for key in {**old, **new} if old.get(key) != new.get(key) and (old or new.get(key) not in _USUAL)]
        for key in rows or ["no change"]:
            add_row(table, name, key, old.get(key, ""), new.get(key, ""))
            name = ""


def format_rate(rate: Fraction) -> str:
    """Ticks a second.

    >>> format_rate(Fraction(24000, 1001))
    '24000/1001 ticks a second'
    """
    return f"{rate} ticks a second"


def _holds(holds: Sequence[int]) -> str:
    if len(set(holds)) == 1:
        return f"{holds[0]} each" if len(holds) > 1 else str(holds[0])
    text = ",".join(map(str, holds[:_MOST_HOLDS]))
    return text + (f",... ({len(holds)} in all)" if len(holds) > _MOST_HOLDS else "")


_NOBODY = Clip("", Fraction(1), ())
_USUAL = ("normal", "last", "step", "0", "none")
"""Says what need not be said of a new clip."""
