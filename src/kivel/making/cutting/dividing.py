"""From the text about a picture, or seen in it, to its pieces."""

from __future__ import annotations

import shlex
from fractions import Fraction
from typing import TYPE_CHECKING, Any

from kivel.core.errors import NEW_LINE, KivelError, UsageError, option
from kivel.core.layout.page import LayoutError
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Rect, Size, size_of
from kivel.core.slicing.background import SEEN, KeyColour, drawn_part, is_key_like, lies_around, without_key
from kivel.core.slicing.fitting import CellSize, GridRequest, fit_grid, pair_text, request_for
from kivel.core.slicing.islands import Islands, found_islands
from kivel.core.slicing.lattice import Lattice
from kivel.core.slicing.looking import SURE, Division, PictureLook, look_at
from kivel.core.slicing.picture_pieces import Piece, kept_pieces, pieces_of_grid, pieces_of_islands
from kivel.core.wording import counted
from kivel.sequences.cut import Divided, colour_text

if TYPE_CHECKING:
    from kivel.core.option_words import EmptyCells
    from kivel.core.pixels.pixels import Pixels
    from kivel.core.slicing.background import KeyRequest
    from kivel.making.options.groups.cut_options import CutOptions

__all__ = ["FoundWay", "UnsureError", "divided_as_stated", "divided_by_look", "found_ways"]

_LARGEST_ISLAND = 0.5
"""As a share of the picture's sides: an island that long both ways is no single thing, where there are others."""


class FoundWay(NamedTuple):
    """One way to take a picture apart that was found: how likely it is, where the frames are, and what takes it."""

    kind: str
    lattice: Lattice | None
    confidence: float
    rects: tuple[Rect, ...]
    request: GridRequest | None

    @property
    def frames(self) -> int:
        return len(self.rects)

    @property
    def options(self) -> str:
        """Return what takes it."""
        return self.request.as_options() if self.request else option("islands", True)

    @property
    def percent(self) -> str:
        """How sure it is; never entirely: nothing seen is certain."""
        return f"{min(99, int(100 * self.confidence))} %"

    def described(self) -> str:
        """`7 columns x 3 rows of 32x32, 19 frames`, or `12 islands`."""
        if self.lattice is None:
            return counted(self.frames, "island")
        lattice = self.lattice
        lines = "drawn lines: " if self.kind == "lines" else ""
        gap = f", {pair_text(lattice.gap)} px between" if any(lattice.gap) else ""
        cells = CellSize(lattice.across.cell, lattice.down.cell)
        grid = f"{counted(lattice.columns, 'column')} x {counted(lattice.rows, 'row')} of {cells}{gap}"
        return f"{lines}{grid}, {counted(self.frames, 'frame')}"

    def line(self, number: int) -> str:
        """In a numbered list."""
        return f"  {number}  {self.percent:>4}  {self.described()}"

    def document(self) -> dict[str, Any]:
        """For scripts; fractions as text."""
        row: dict[str, Any] = {"kind": "islands" if self.lattice is None else "grid"}
        if self.lattice is not None:
            lattice = self.lattice
            row |= {
                "columns": lattice.columns,
                "rows": lattice.rows,
                "cell": [_number(lattice.across.cell), _number(lattice.down.cell)],
                "at": list(lattice.at),
                "gap": list(lattice.gap),
                "fill": lattice.fill,
                "lines": self.kind == "lines",
            }
        return row | {"confidence": round(self.confidence, 4), "frames": self.frames}


class UnsureError(KivelError):
    """It is not sure how a picture divides; `ways` are the likeliest."""

    def __init__(self, message: str, *, where: str | None = None, ways: tuple[FoundWay, ...] = ()) -> None:
        super().__init__(message, where=where)
        self.ways = ways

    def at(self, where: str) -> UnsureError:
        error = super().at(where)
        error.ways = self.ways
        return error


def divided_as_stated(options: CutOptions, image: Pixels) -> Divided | None:
    """The pieces that the options state; None where they leave that open.

    Raises
    ------
    LayoutError
        If the picture does not divide so.
    """
    requests = options.grid_requests()
    if requests:
        return _by_grids(options, image, requests)
    if options.islands:
        return _by_islands(options, image, None)
    return None


def found_ways(
    image: Pixels, key: KeyRequest = "find", empty: EmptyCells = "drop-last"
) -> tuple[tuple[FoundWay, ...], PictureLook]:
    """The likeliest ways to take a picture apart, the likeliest first; none where nothing is drawn on it."""
    look = look_at(image, key)
    if key == "find" and look.drawn.key is not None and look.found:
        lattice = look.found[0].lattice
        if not _is_background(image, look.drawn.key, lattice):
            look = look_at(image, "none")
    keyed = without_key(image, look.drawn.key)
    return tuple(_way(keyed, empty, look, division) for division in look.found), look


def _is_background(image: Pixels, key: KeyColour, lattice: Lattice | None) -> bool:
    """Whether the found colour surrounds the art, in the cells or in the whole picture."""
    size = size_of(image)
    whole = Rect(0, 0, size.w, size.h)
    boxes = [whole] if lattice is None else [piece.rect for piece in pieces_of_grid(lattice, size)]
    return lies_around(image, key, boxes)


def divided_by_look(
    options: CutOptions, image: Pixels, ways: tuple[FoundWay, ...], look: PictureLook, *, source: str
) -> Divided:
    """The pieces of the way that was picked, or of the first if it is sure.

    Raises
    ------
    LayoutError
        If nothing is drawn on it.
    UnsureError
        If it is not.
    UsageError
        If there is no such way.
    """
    if not ways:
        raise LayoutError("it is empty, nothing to slice")
    if options.pick and options.pick > len(ways):
        raise UsageError(f"{option('pick', options.pick)}: there are {len(ways)}")
    if not options.pick and ways[0].confidence < SURE:
        raise UnsureError(_ways_text(ways, _again(options, source)), ways=ways)
    way = ways[(options.pick or 1) - 1]
    how = f"picked: {way.described()}" if options.pick else f"found: {way.described()} ({way.percent} sure)"
    if way.lattice is None:
        divided = _by_islands(options, image, look)
    else:
        pieces = pieces_of_grid(way.lattice, size_of(image))
        divided = Divided(tuple(pieces), way.lattice, look.drawn.key)
    return divided._replace(notes=(how, *divided.notes))


def _ways_text(ways: tuple[FoundWay, ...], again: str) -> str:
    """Return what it may be, numbered, each with the command that takes it."""
    lines = ["the grid is not clear, so nothing is written; candidates:"]
    for number, way in enumerate(ways, 1):
        lines += [way.line(number), f"           {again}{way.options}"]
    return NEW_LINE.join(
        [*lines, f"use one with {option('pick', 'N')}; {option('look', 'OUT.png')} draws them all over the picture"]
    )


def _again(options: CutOptions, source: str) -> str:
    """The command that was given, of this picture alone, to go on with what takes a way; from Python nothing."""
    if options.door != "command":
        return ""
    given = [
        option(name, shlex.quote(text))
        for name, one in options.declared().items()
        if not one.positional and name not in ("look", "dry-run", "json")
        for text in options.texts.get(name, ())
    ]
    return " ".join(["kivel", options.command, shlex.quote(source), *given, ""])


def _way(keyed: Pixels, empty: EmptyCells, look: PictureLook, division: Division) -> FoundWay:
    if division.lattice is None:
        return FoundWay(division.kind, None, division.confidence, look.islands.boxes, None)
    size = size_of(keyed)
    kept = kept_pieces(keyed, pieces_of_grid(division.lattice, size), empty)
    rects = tuple(piece.rect for piece in kept.pieces)
    return FoundWay(division.kind, division.lattice, division.confidence, rects, request_for(division.lattice, size))


def _by_grids(options: CutOptions, image: Pixels, requests: tuple[GridRequest, ...]) -> Divided:
    pieces: list[Piece] = []
    notes: list[str] = []
    lattices = []
    for number, request in enumerate(requests):
        where = f"grid {number + 1}: " if len(requests) > 1 else ""
        try:
            fitted = fit_grid(size_of(image), request)
        except LayoutError as error:
            raise LayoutError(f"{where}{error}") from error
        first_row = pieces[-1].place[0] + 1 if pieces else 0
        pieces += pieces_of_grid(fitted.lattice, size_of(image), first_row=first_row)
        if len(requests) == 1:
            notes += fitted.notes
        lattices.append(fitted.lattice)
    key = drawn_part(image, options.key).key
    if key and options.key == "find" and not lies_around(image, key, [piece.rect for piece in pieces]):
        key = None
    if key and options.key == "find" and not is_key_like(key, image):
        # the grid is stated and needs no ground; of a render on black no pixel is to change
        notes.append(
            f"{colour_text(key, image)} is behind everything and kept; {option('key', 'corner')} makes it transparent"
        )
        key = None
    return Divided(tuple(pieces), lattices[0] if len(lattices) == 1 else None, key, notes=tuple(notes))


def _by_islands(options: CutOptions, image: Pixels, look: PictureLook | None) -> Divided:
    above = SEEN if options.visible_above is None else (options.visible_above + 1) / 255
    drawn = look.drawn if look and options.visible_above is None else drawn_part(image, options.key, seen_above=above)
    if look is None and options.key == "find" and drawn.key and not _is_background(image, drawn.key, None):
        drawn = drawn_part(image, "none", seen_above=above)
    if drawn.is_full:
        raise LayoutError(
            f"it is fully opaque, so there are no separate shapes; use a grid, regions or {option('key')}"
        )
    if not drawn.seen.any():
        raise LayoutError("it is empty, nothing to slice")
    islands = found_islands(drawn.seen, join=options.join, least=options.least)
    if not islands.boxes:
        raise LayoutError(f"no island has {options.least} pixels; lower {option('least')}")
    pieces = pieces_of_islands(islands, options.align)
    return Divided(tuple(pieces), None, drawn.key, labels=islands.labels, notes=_touching(islands, size_of(image)))


def _touching(islands: Islands, size: Size) -> tuple[str, ...]:
    """If one island is that large, shapes touch each other."""
    large = [box for box in islands.boxes if box.w > _LARGEST_ISLAND * size.w and box.h > _LARGEST_ISLAND * size.h]
    if not large or max(size) < 64:
        return ()
    share = Fraction(large[0].w * large[0].h, size.w * size.h)
    return (
        f"one island covers {int(100 * share)} % of the picture: shapes that touch cannot be separated; use regions, "
        f"or {option('like', 'OTHER.kivel.json')}",
    )


def _number(value: Fraction) -> int | str:
    return int(value) if value.denominator == 1 else f"{value.numerator}/{value.denominator}"
