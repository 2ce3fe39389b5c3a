"""The grid of a sheet of which something is known: columns and rows, the size of a cell, what lies between and around.

Lengths are pixels. A side of `length` holds `count` cells of `cell` when
`before + count * cell + (count - 1) * gap + after == length`. What is stated is believed.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from fractions import Fraction
from itertools import islice, product

from kivel.core.errors import option
from kivel.core.layout.page import LayoutError
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Fill
from kivel.core.pixels.pixels import Pair, Size
from kivel.core.slicing.lattice import Lattice, Run

__all__ = ["CellSize", "FittedGrid", "GridRequest", "fit_grid", "pair_text", "request_for"]

_MOST_OFFERS = 3
_SPACINGS = 8
_MOST_PARTS = 24


class CellSize(NamedTuple):
    """Width and height in pixels or parts of them."""

    w: Fraction
    h: Fraction

    def __str__(self) -> str:
        return f"{self.w}x{self.h}"


class GridRequest(NamedTuple):
    """Holds what is known of a sheet; None is for Kivel to work out. `at` is where the first cell begins."""

    columns: int | None = None
    rows: int | None = None
    cell: CellSize | None = None
    gap: Pair = Pair()
    margin: Pair = Pair()
    at: Pair | None = None
    fill: Fill = "across"

    @property
    def says_nothing(self) -> bool:
        return not (self.columns or self.rows or self.cell)

    @property
    def is_square(self) -> bool:
        """Whether its cells are square: one count alone is stated."""
        return not self.cell and bool(self.columns) != bool(self.rows)

    def as_options(self) -> str:
        """Return what states it."""
        stated: list[tuple[str, object]] = [("columns", self.columns), ("rows", self.rows), ("cell", self.cell)]
        stated += [
            ("gap", any(self.gap) and pair_text(self.gap)),
            ("margin", any(self.margin) and pair_text(self.margin)),
        ]
        stated += [("at", self.at and f"{self.at.x},{self.at.y}")]
        return " ".join(option(name, value) for name, value in stated if value)


class FittedGrid(NamedTuple):
    """A grid, and what a person should know of how it lies in the picture."""

    lattice: Lattice
    notes: tuple[str, ...] = ()


class _Side(NamedTuple):
    """One direction of a sheet, and what is known of it."""

    name: str
    cells: str
    length: int
    number: int | None
    cell: Fraction | None
    gap: int
    before: int
    after: int
    is_placed: bool

    @property
    def room(self) -> int:
        return self.length - self.before - self.after

    def counted(self, count: int) -> str:
        """`1 column`, `2 columns`."""
        return f"{count} {self.cells if count != 1 else self.cells[:-1]}"

    def run(self, count: int, cell: Fraction) -> Run:
        return Run(count, cell, self.before, self.gap)


class _Fit(NamedTuple):
    """Cells along a side, and how they lie there; or what is wrong."""

    run: Run | None
    note: str = ""
    wrong: str = ""


def fit_grid(size: Size, request: GridRequest) -> FittedGrid:
    """The grid that divides an image of `size` as is stated.

    Columns alone, or rows alone, mean square cells. Columns, rows and cell together may leave something over, and
    so may a grid that begins at a stated place; a last cell may lack one pixel.

    Raises
    ------
    LayoutError
        If nothing is known, or it does not divide: by how many pixels, and which near grids would fit.
    """
    if request.says_nothing:
        raise LayoutError(
            f"state the grid: {option('columns')} and {option('rows')}, or {option('cell', 'WxH')}"
            f"{_square_grids(size, request)}"
        )
    sides = _sides(size, request)
    fits = [_fitted(side) for side in sides]
    found = _grid_of(request, fits)
    if found is None:
        # of square cells the stated side comes first: the other's cells follow from it
        ordered = fits[::-1] if request.rows and not request.columns else fits
        wrong = [fit.wrong for fit in ordered if fit.wrong]
        told = wrong[:1] if request.is_square else wrong
        raise LayoutError("; ".join(told) + _offers(size, request, _others(request, sides, fits, size)))
    return found


def _grid_of(request: GridRequest, fits: list[_Fit]) -> FittedGrid | None:
    across, down = (fit.run for fit in fits)
    if across is None or down is None:
        return None
    return FittedGrid(Lattice(across, down, request.fill), tuple(fit.note for fit in fits if fit.note))


def request_for(lattice: Lattice, size: Size) -> GridRequest:
    """The shortest request that gives exactly this grid on an image of `size`."""
    plain = GridRequest(lattice.columns, lattice.rows, gap=lattice.gap, fill=lattice.fill)
    cell = CellSize(lattice.across.cell, lattice.down.cell)
    for request in (plain._replace(margin=lattice.at), plain._replace(margin=lattice.at, cell=cell)):
        found = _grid_of(request, [_fitted(side) for side in _sides(size, request)])
        if found and found.lattice == lattice:
            return request
    return plain._replace(cell=cell, at=lattice.at)


def pair_text(pair: Pair) -> str:
    """As it is written: `2`, or `2x0`."""
    return str(pair.x) if pair.x == pair.y else f"{pair.x}x{pair.y}"


def _sides(size: Size, request: GridRequest) -> tuple[_Side, _Side]:
    cell = request.cell
    at = request.at or request.margin
    across = _Side(
        "wide", "columns", size.w, request.columns, cell and cell.w, request.gap.x, at.x, request.margin.x,
        request.at is not None,
    )  # fmt: skip
    down = _Side(
        "high", "rows", size.h, request.rows, cell and cell.h, request.gap.y, at.y, request.margin.y,
        request.at is not None,
    )  # fmt: skip
    # with one count, cells are square
    if not cell and not request.rows:
        down = down._replace(cell=_even_cell(across))
    elif not cell and not request.columns:
        across = across._replace(cell=_even_cell(down))
    return across, down


def _even_cell(side: _Side) -> Fraction:
    """The cell at which the count fills the side; something where it cannot, for which the side itself is refused."""
    room = side.room - ((side.number or 1) - 1) * side.gap
    return max(Fraction(1), Fraction(room, side.number or 1))


def _fitted(side: _Side) -> _Fit:
    if side.number and side.cell:
        return _as_stated(side, side.number, side.cell)
    if side.number:
        return _by_count(side, side.number)
    return _by_cell(side, side.cell or Fraction(1))


def _as_stated(side: _Side, count: int, cell: Fraction) -> _Fit:
    run = side.run(count, cell)
    if run.end > side.length + 1:
        return _Fit(
            None,
            wrong=f"{side.counted(count)} of {cell} px{_spacing(side)} need {run.end} px, "
            f"the image is {side.length} px {side.name}",
        )
    return _Fit(run, note=_left_over(side, run))


def _by_count(side: _Side, count: int) -> _Fit:
    room = side.room - (count - 1) * side.gap
    if room < count:
        return _Fit(None, wrong=f"{side.length} px {side.name} is too small for {side.counted(count)}{_spacing(side)}")
    if room % count == 0:
        return _Fit(side.run(count, Fraction(room // count)))
    return _Fit(
        None,
        wrong=f"{side.length} px {side.name} do not divide into {side.counted(count)}{_spacing(side)}: "
        f"{room % count} px left over ({count} x {room // count})",
    )


def _by_cell(side: _Side, cell: Fraction) -> _Fit:
    pitch = cell + side.gap
    count, rest = divmod(side.room + side.gap, pitch)
    if count > 0 and (rest == 0 or side.is_placed):
        run = side.run(int(count), cell)
        return _Fit(run, note=_left_over(side, run) if rest else "")
    if count >= 0 and rest == pitch - 1 and cell > 1:
        run = side.run(int(count) + 1, cell)
        return _Fit(run, note=_left_over(side, run))
    if count < 1:
        return _Fit(None, wrong=f"{side.length} px {side.name} is too small for a cell of {cell}{_spacing(side)}")
    return _Fit(
        None,
        wrong=f"{side.length} px {side.name} do not divide into cells of {cell}{_spacing(side)}: {rest} px left over "
        f"({side.counted(int(count))})",
    )


def _near_sides(side: _Side) -> tuple[_Side, ...]:
    """Return what near a side that does not fit would, the nearest first: other counts or cells, other spacing,
    leftovers.
    """
    if side.number and side.cell:
        return _first(side._replace(number=None, cell=other) for other in _near_cells(side, side.cell))
    if side.number:
        room = side.room - (side.number - 1) * side.gap
        parts = [side._replace(cell=Fraction(room, side.number))] if side.number <= min(_MOST_PARTS, room) else []
        return (
            *_first(side._replace(number=near) for near in _near(side.number) if _divides(side, near)),
            *_first(spaced for spaced in _respaced(side) if _divides(spaced, side.number)),
            *parts,
        )
    cell = side.cell or Fraction(1)
    count = int((side.room + side.gap) // (cell + side.gap))
    return (
        *_first(side._replace(cell=other) for other in _near_cells(side, cell)),
        *_first(one for one in _respaced(side) if count and _by_cell_divides(one, cell)),
        *([side._replace(number=count)] if count > 0 else []),
    )


def _first(sides: Iterable[_Side]) -> tuple[_Side, ...]:
    """As many as may come to be offered."""
    return tuple(islice(sides, _MOST_OFFERS))


def _left_over(side: _Side, run: Run) -> str:
    """Return what a stated grid leaves of the side, or lacks."""
    rest = side.length - run.end - side.after
    if run.end > side.length:
        return f"the last of {side.counted(run.count)} is 1 px short and is padded"
    if rest <= 0:
        return ""
    return f"{rest} px {'on the right' if side.name == 'wide' else 'at the bottom'} are not in any cell"


def _divides(side: _Side, count: int) -> bool:
    room = side.room - (count - 1) * side.gap
    return room >= count and room % count == 0


def _by_cell_divides(side: _Side, cell: Fraction) -> bool:
    count, rest = divmod(side.room + side.gap, cell + side.gap)
    return rest == 0 and count > 0


def _near(wanted: int) -> list[int]:
    """Counts or lengths from half to twice the one wanted, the nearest first."""
    return sorted(range(max(1, wanted // 2), 2 * wanted + 1), key=lambda n: (abs(n - wanted), n))


def _near_cells(side: _Side, cell: Fraction) -> Iterator[Fraction]:
    return (Fraction(other) for other in _near(int(cell)) if _by_cell_divides(side, Fraction(other)))


def _respaced(side: _Side) -> Iterator[_Side]:
    """The same side with other small gaps and margins, the smallest first."""
    spacings = sorted(
        ((g, m) for g in range(_SPACINGS + 1) for m in range(_SPACINGS + 1 - g)), key=lambda s: (sum(s), s)
    )
    for gap, margin in spacings:
        if not side.is_placed and (gap, margin) != (side.gap, side.after):
            yield side._replace(gap=gap, before=margin, after=margin)


def _spacing(side: _Side) -> str:
    named = [option(name, value) for name, value in (("gap", side.gap), ("margin", side.after)) if value]
    named += [f"from {side.before} on"] if side.is_placed else []
    return f" with {' '.join(named)}" if named else ""


def _offers(size: Size, request: GridRequest, others: Iterable[GridRequest]) -> str:
    """Near grids that were tried and fit: two of other counts or cells, and one of other spacing, or what there is."""
    found: dict[str, bool] = {}
    for offered in others:
        fitted = _grid_of(offered, [_fitted(side) for side in _sides(size, offered)])
        respaced = (offered.gap, offered.margin) != (request.gap, request.margin)
        if fitted and list(found.values()).count(respaced) < (1 if respaced else 2):
            found.setdefault(_described(offered, fitted.lattice), respaced)
        if len(found) == _MOST_OFFERS:
            break
    return f"; what would fit: {', or '.join(found)}" if found else ""


def _others(request: GridRequest, sides: tuple[_Side, _Side], fits: list[_Fit], size: Size) -> Iterator[GridRequest]:
    """Requests near one that does not fit, the nearest first."""
    if request.is_square:
        side = sides[0] if request.columns else sides[1]
        counts = _near(side.number or 1)
        yield from (request._replace(columns=n) if request.columns else request._replace(rows=n) for n in counts)
        for spaced in _respaced(side):
            yield request._replace(gap=Pair(spaced.gap, spaced.gap), margin=Pair(spaced.after, spaced.after))
        other = sides[1] if request.columns else sides[0]
        for count in _near(max(1, round(other.length / (other.cell or 1)))):
            yield request._replace(rows=count) if request.columns else request._replace(columns=count)
        return
    yield from _spaced_alike(request, sides[0], size)
    choices = [_near_sides(side) if fit.wrong else (side,) for side, fit in zip(sides, fits, strict=True)]
    places = sorted(product(*(range(len(choice)) for choice in choices)), key=lambda place: (sum(place), place))
    yield from (_restated(request, choices[0][x], choices[1][y]) for x, y in places)


def _spaced_alike(request: GridRequest, side: _Side, size: Size) -> list[GridRequest]:
    """The same grid of square cells with other spacing, across as down, the smallest first."""
    fitting = []
    for spaced in _respaced(side):
        asked = request._replace(gap=Pair(spaced.gap, spaced.gap), margin=Pair(spaced.after, spaced.after))
        found = _grid_of(asked, [_fitted(one) for one in _sides(size, asked)])
        if found and not found.notes and found.lattice.across.cell == found.lattice.down.cell:
            fitting.append(asked)
    return fitting


def _restated(request: GridRequest, across: _Side, down: _Side) -> GridRequest:
    cell = None
    if across.cell or down.cell:
        cell = CellSize(across.cell or _even_cell(across), down.cell or _even_cell(down))
    return request._replace(
        columns=across.number,
        rows=down.number,
        cell=cell,
        gap=_pair(across, down, "gap"),
        margin=_pair(across, down, "after"),
    )


def _pair(across: _Side, down: _Side, name: str) -> Pair:
    return Pair(getattr(across, name), getattr(down, name))


def _described(request: GridRequest, lattice: Lattice) -> str:
    cells = CellSize(lattice.across.cell, lattice.down.cell)
    what = f"{lattice.columns} x {lattice.rows} cells" if request.cell else f"cells of {cells}"
    return f"{request.as_options()} ({what})"


def _square_grids(size: Size, request: GridRequest) -> str:
    """The grids of square cells with up to sixteen columns, as a hint."""
    fits = []
    for columns in range(1, 17):
        asked = request._replace(columns=columns)
        fitted = _grid_of(asked, [_fitted(side) for side in _sides(size, asked)])
        if fitted:
            fits.append(f"{columns}x{fitted.lattice.rows} of {fitted.lattice.across.cell} px")
    return f"; square cells that fit: {', '.join(fits[:6])}" if fits else ""
