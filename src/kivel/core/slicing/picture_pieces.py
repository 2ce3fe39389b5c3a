"""The parts of a picture that become frames: where each is, and where it lies on its frame's canvas."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Align, EmptyCells
from kivel.core.pixels.pixels import Pixels, Rect, Size, aligned_offset, full_scale, in_canvas
from kivel.core.slicing.background import SEEN
from kivel.core.slicing.islands import Islands, Labels
from kivel.core.slicing.lattice import Lattice

__all__ = [
    "KeptPieces",
    "Piece",
    "kept_pieces",
    "pieces_of_grid",
    "pieces_of_islands",
    "taken",
]


class Piece(NamedTuple):
    """One part of a picture.

    `rect` lies in the picture, its pixels at `offset` on a `canvas`; `place` is its row and column. Of an `island`, the
    pixels of others that lie in its box are not its own.
    """

    rect: Rect
    canvas: Size
    offset: tuple[int, int] = (0, 0)
    place: tuple[int, int] = (0, 0)
    island: int = 0


class KeptPieces(NamedTuple):
    """Those that become frames, how many are empty and do not, and which of them hold only faint pixels."""

    pieces: tuple[Piece, ...]
    dropped: int
    faint: tuple[int, ...]


def pieces_of_grid(lattice: Lattice, size: Size, *, first_row: int = 0) -> list[Piece]:
    """The cells of a grid on a picture of a size, in order; all on canvases of one size."""
    found = []
    for rect, (row, column) in zip(lattice.cells(), lattice.places(), strict=True):
        inside = Rect(rect.x, rect.y, min(rect.right, size.w) - rect.x, min(rect.bottom, size.h) - rect.y)
        found.append(Piece(inside, lattice.canvas, place=(first_row + row, column)))
    return found


def pieces_of_islands(islands: Islands, align: Align | None) -> list[Piece]:
    """Islands on their own boxes, or all on one canvas that holds each, aligned."""
    canvas = Size(max((box.w for box in islands.boxes), default=0), max((box.h for box in islands.boxes), default=0))
    found: list[Piece] = []
    for number, (box, row) in enumerate(zip(islands.boxes, islands.rows, strict=True), 1):
        column = found[-1].place[1] + 1 if found and found[-1].place[0] == row else 0
        offset = aligned_offset(box.size, canvas, align) if align else (0, 0)
        found.append(Piece(box, canvas if align else box.size, offset, (row, column), number))
    return found


def kept_pieces(image: Pixels, pieces: Sequence[Piece], empty: EmptyCells) -> KeptPieces:
    """The pieces that are frames. A piece without a visible pixel is empty; at least one piece is kept.

    Parameters
    ----------
    image : (H, W, 4) array
        The picture, its colour key transparent.
    """
    alphas = [piece.rect.of(image)[..., 3] for piece in pieces]
    filled = [bool(alpha.any()) for alpha in alphas]
    kept = _kept(pieces, filled, empty) or [0]
    limit = SEEN * full_scale(image)
    faint = [place for place, number in enumerate(kept) if filled[number] and alphas[number].max() < limit]
    return KeptPieces(tuple(pieces[number] for number in kept), len(pieces) - len(kept), tuple(faint))


def _kept(pieces: Sequence[Piece], filled: Sequence[bool], empty: EmptyCells) -> list[int]:
    """The numbers of the pieces that stay."""
    drawn = [number for number, one in enumerate(filled) if one]
    if empty == "drop":
        return drawn
    if empty == "drop-row-ends":
        ends: dict[int, int] = {}
        for row, column in (pieces[number].place for number in drawn):
            ends[row] = max(column, ends.get(row, column))
        return [number for number, piece in enumerate(pieces) if piece.place[1] <= ends.get(piece.place[0], -1)]
    return list(range(len(pieces) if empty == "keep" else max(drawn, default=0) + 1))


def taken(image: Pixels, piece: Piece, labels: Labels | None = None) -> Pixels:
    """The pixels of a piece on its canvas; a view where nothing is added and nothing taken away."""
    part = piece.rect.of(image)
    if labels is not None and piece.island:
        own = piece.rect.of(labels)
        others = (own != 0) & (own != piece.island)
        if others.any():
            part = np.where(others[..., None], 0, part).astype(part.dtype)
    return in_canvas(part, piece.canvas, piece.offset)
