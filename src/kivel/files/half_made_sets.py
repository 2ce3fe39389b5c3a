"""Sets of files that somebody who died left half-made: brought to an end, and told."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from pathlib import Path

from kivel.core.wording import first_few
from kivel.files.safety import OutputError, shown
from kivel.files.settling import Settled, settle, strangers_in
from kivel.files.staging import HalfMadeError

__all__ = ["settled", "told_half_made"]


def settled(folder: Path, *, touch: bool = True, strangers: bool = False) -> list[str]:
    """Bring to an end what somebody who died left half-made in a folder; a sentence of each set.

    Without `touch` it only says what would be done. With `strangers` it says as well what it does not believe.

    Raises
    ------
    OutputError
        If that cannot be done from here.
    """
    with told_half_made():
        told = [_sentence(one, touch=touch) for one in settle(folder, touch=touch)]
    odd = [path.name for path in strangers_in(folder)] if strangers else []
    if odd:
        what = "left by another user or machine and not used; remove it if nobody needs it"
        told.append(f"{shown(folder)}: {first_few(odd)}: {what}")
    return told


@contextlib.contextmanager
def told_half_made() -> Iterator[None]:
    """Say of a set that cannot be put right where it is and why."""
    try:
        yield
    except HalfMadeError as error:
        raise OutputError(
            f"an interrupted run left these half-written: {first_few(error.names)}; "
            f"they cannot be repaired from here ({error.reason})",
            where=shown(error.folder),
        ) from error


def _sentence(one: Settled, *, touch: bool) -> str:
    does = {
        "completed": "now completed" if touch else "the next run that writes there will complete it",
        "undone": "now undone" if touch else "the next run that writes there will undo it",
    }[one.what]
    changed = f"; {first_few(one.left)}: changed since then, left alone" if one.left else ""
    names = first_few(one.names)
    return f"{shown(one.folder)}: an interrupted run left files half-written ({names}); {does}{changed}"
