"""Packing rectangles as close to their area as a fixed amount of work allows. Whole numbers only, and no chance.

The skyline's lowest gap is filled with what fits it best (after Burke, Kendall and Whitwell 2004, "A New Placement
Heuristic for the Orthogonal Stock-Cutting Problem"), by several preferences, at many widths; a try ends as soon as it
wastes more than the best so far. Then a beam search looks at several choices for every gap, at the most promising
widths. Shelves are tried first, so that no result is worse than theirs. Nothing promises the least area.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import get_args

from kivel.core.layout.packing_search import Packing, PackingError, Search
from kivel.core.option_words import Effort
from kivel.core.pixels.pixels import Size

__all__ = ["EFFORTS", "packed", "packed_into", "packed_partly"]

EFFORTS: tuple[Effort, ...] = get_args(Effort)

_WORK = {"quick": 15_000, "normal": 100_000, "high": 500_000}
"""Pieces placed while trying: the same on every machine, about 0.2, 1 and 5 seconds on a common one."""
_BEAM = {"quick": 1_200, "normal": 5_000, "high": 10_000}
_NARROWEST_BEAM = 8
"""States that go on, times pieces: few pieces gain more by wide beams at few widths than by narrow ones at many."""


def packed(
    pieces: Sequence[Size],
    *,
    turn: bool = False,
    effort: Effort = "normal",
    limit: Size | None = None,
    parts: int = 1,
) -> Packing | None:
    """All pieces on a sheet of small area, of any width and height.

    Parameters
    ----------
    pieces : sequence of Size
        In pixels, at least 1x1.
    turn : bool
        Pieces may be turned by 90 degrees.
    effort : "quick", "normal" or "high"
        How much is tried; one part of this many `parts` of it.
    limit : Size or None
        The largest sheet allowed.

    Returns
    -------
    Packing or None
        None if nothing was found within the limit.

    Raises
    ------
    PackingError
        If there is no piece, or one is empty.
    """
    _check(pieces)
    search = Search(
        pieces, turn, _WORK[effort] // parts, limit, beam=max(_NARROWEST_BEAM, _BEAM[effort] // len(pieces))
    )
    search.shelves()
    search.sweep()
    search.beam()
    return search.result()


def packed_into(
    pieces: Sequence[Size], page: Size, *, turn: bool = False, effort: Effort = "normal", parts: int = 1
) -> Packing | None:
    """All pieces on a page of a given size; None if no way was found with one part of this many of the effort.

    Raises
    ------
    PackingError
        If there is no piece, or one is empty.
    """
    _check(pieces)
    search = Search(pieces, turn, _WORK[effort] // parts, page)
    search.fill_page(page)
    found = search.result()
    return found._replace(size=page) if found else None


def packed_partly(pieces: Sequence[Size], page: Size, *, turn: bool = False) -> tuple[tuple[int, ...], Packing]:
    """Pack as many pieces as possible on a page of a given size; return their numbers and places.

    Of equal pieces the first ones are taken.

    Raises
    ------
    PackingError
        If there is no piece, one is empty, or none fits the page.
    """
    _check(pieces)
    search = Search(pieces, turn, 0, page)
    return search.part_of_page(page)


def _check(pieces: Sequence[Size]) -> None:
    if not pieces:
        raise PackingError("nothing to pack")
    for number, size in enumerate(pieces):
        if min(size) < 1:
            raise PackingError(f"piece {number} has {size} px; each needs at least one")
